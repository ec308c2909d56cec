"""Flaws of contours as they come from elsewhere: what is wrong, where, how much, and what it would
be mended to."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from draxet.cached import cached_property
from draxet.geometry.contour import Contour
from draxet.record import record

__all__ = ["Flaw", "WORDS", "without_conflicts"]

WORDS = {
    "gap": ("gap", "gaps"),
    "overshoot": ("overshoot", "overshoots"),
    "double": ("line drawn twice", "drawn twice"),
    "stretch": ("stretch drawn twice", "twice in part"),
    "scrap": ("scrap", "scraps"),
    "shared": ("shared edge, as meant", "shared, as meant"),
}
"""Of each kind of flaw its words, one and many."""


@record(frozen=True, eq=False)
class Flaw:
    """Something to be mended. kind : a key of ``WORDS``. size : in mm (how broad a gap is, how long
    what goes). place : where. concerns : the contours, by number; none where it is listed only.
    mend : what each of them becomes (none where it goes), and how, in a word; worked out
    when it is asked for. draw : what would go or come, likewise."""

    kind: str
    size: float
    place: tuple[float, float]
    concerns: frozenset[int] = frozenset()
    mend: Callable[[], tuple[Mapping[int, tuple[Contour, ...]], str]] = lambda: ({}, "")
    draw: Callable[[], tuple[Contour, ...]] = tuple

    @cached_property
    def outlines(self) -> tuple[Contour, ...]:
        return self.draw()

    @cached_property
    def _mended(self) -> tuple[Mapping[int, tuple[Contour, ...]], str]:
        return self.mend()

    @property
    def becomes(self) -> Mapping[int, tuple[Contour, ...]]:
        return self._mended[0]

    @property
    def manner(self) -> str:
        return self._mended[1]

    @property
    def is_meant(self) -> bool:
        """Whether it is listed only, and nothing is done about it."""
        return not self.concerns


def without_conflicts(flaws: Sequence[Flaw]) -> list[Flaw]:
    """Those of the flaws that can be mended at once: no two of them concern the same contour; the
    first ones go before."""
    taken: set[int] = set()
    found = []
    for flaw in flaws:
        if not flaw.is_meant and not taken & flaw.concerns:
            taken |= flaw.concerns
            found.append(flaw)
    return found
