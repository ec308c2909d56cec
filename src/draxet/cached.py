"""What an object works out once and keeps.

As ``functools.cached_property``, which in Python 3.11 lets one thread alone work out a property, of
whichever object: a worker that goes through thousands of contours would hold up the window for
each. Without that lock two threads may work out the same thing, which is as right.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import TYPE_CHECKING, Any, TypeVar

__all__ = ["cached_property", "kept_on_the_first", "known_on_the_first"]

_MOST = 256
_Answer = TypeVar("_Answer")
_Work = TypeVar("_Work", bound=Callable[..., Any])


def kept_on_the_first(work: _Work) -> _Work:
    """A function whose answers its first argument, a frozen record, keeps for the others, which can
    be hashed: they are gone with it."""
    name = f"_{work.__module__}.{work.__qualname__}"

    @wraps(work)
    def kept(one: Any, *others: Any) -> Any:
        known = one.__dict__.setdefault(name, {})
        if others not in known:
            if len(known) >= _MOST:
                known.clear()
            known[others] = work(one, *others)
        return known[others]

    return kept  # type: ignore[return-value]


def known_on_the_first(work: Callable[..., _Answer], one: Any) -> _Answer | None:
    """What such a function of one record alone was asked already; None where it was not."""
    found: _Answer | None = one.__dict__.get(f"_{work.__module__}.{work.__qualname__}", {}).get(())
    return found


if TYPE_CHECKING:
    from functools import cached_property
else:

    class cached_property:  # noqa: N801
        """To be used in its place."""

        def __init__(self, work: Any) -> None:
            self.work, self.__doc__ = work, work.__doc__

        def __set_name__(self, owner: type, name: str) -> None:
            self.name = name

        def __get__(self, one: Any, owner: type | None = None) -> Any:
            if one is None:
                return self
            found = one.__dict__[self.name] = self.work(one)
            return found
