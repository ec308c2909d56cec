"""The fill test: which area a place lies in, and where it leaks if it lies in none."""

from __future__ import annotations

from collections.abc import Sequence

from draxet.geometry.arrangement import arrangement_of
from draxet.geometry.contour import Contour
from draxet.mend.flaws import Flaw
from draxet.mend.gaps import gaps
from draxet.record import record

__all__ = ["Leak", "leak_at"]

_MOST = 24
"""Of more gaps than that the narrowest are looked at."""


@record(frozen=True, eq=False)
class Leak:
    """Gaps that must be closed for a place to be enclosed, the broadest last, and the area that it lies in then."""

    gaps: tuple[Flaw, ...]
    outline: Contour


def leak_at(contours: Sequence[Contour], x: float, y: float, within: float, without: frozenset[int] = frozenset()) -> Leak | None:
    """Through which gaps, none broader than `within` mm, the area round a place runs out; None where it is open all the same.

    Gaps are closed from the narrowest on until the place is enclosed; those that make no difference are opened again.
    """
    found = sorted(gaps(contours, within, "straight", without), key=lambda gap: gap.size)[:_MOST]

    def enclosing(some: Sequence[Flaw]) -> Contour | None:
        ground = arrangement_of([*contours, *(bridge for gap in some for bridge in gap.shown)])
        number = ground.at(x, y)
        return None if number is None else ground.regions[number].outline

    low, high = 0, len(found)
    if not found or enclosing(found) is None:
        return None
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if enclosing(found[:middle]) is not None else (middle, high)
    needed = found[:high]
    for gap in list(needed[:-1]):
        without_it = [each for each in needed if each is not gap]
        if enclosing(without_it) is not None:
            needed = without_it
    outline = enclosing(needed)
    return Leak(tuple(needed), outline) if outline is not None else None
