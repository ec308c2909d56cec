"""How long work reports its progress and is told to stop, without knowing who listens."""

from __future__ import annotations

from typing import Protocol

__all__ = ["Cancelled", "Progress", "Unwatched"]


class Cancelled(Exception):
    """Raised inside long work once nobody wants its answer any more."""


class Progress(Protocol):
    """A listener. Work calls it between its steps; it may raise ``Cancelled``."""

    def __call__(self, share: float, words: str) -> None:
        """`share` of the work done, 0 to 1, and what comes next in a few words."""


class Unwatched:
    """Progress that nobody looks at and nobody cancels."""

    def __call__(self, share: float, words: str) -> None:
        return None
