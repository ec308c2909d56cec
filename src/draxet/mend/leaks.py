"""The fill test: which area a place lies in, and where it leaks if it lies in none, or into its
neighbour."""

from __future__ import annotations

import math
from collections.abc import Sequence

import shapely

from draxet.geometry.arrangement import arrangement_of
from draxet.geometry.contour import Contour
from draxet.mend.flaws import Flaw
from draxet.mend.gaps import gaps
from draxet.record import record

__all__ = ["Leak", "leak_at"]

_MOST = 24
"""Of more gaps than that the narrowest are looked at."""
_SHORT = 2.0
"""mm: what stops farther from the next line than that is meant to stop there."""
_PARTED = 1 - 1e-4
"""An area is parted where less than so much of it is left."""


@record(frozen=True, eq=False)
class Leak:
    """Gaps that must be closed for a place to be enclosed, the broadest last, and the area that it
    lies in then; `parts` : whether it was enclosed before, and only its area is parted by what
    stops short in it."""

    gaps: tuple[Flaw, ...]
    outline: Contour
    parts: bool = False


def leak_at(
    contours: Sequence[Contour],
    x: float,
    y: float,
    within: float,
    without: frozenset[int] = frozenset(),
) -> Leak | None:
    """Through which gaps, none broader than `within` mm, the area round a place runs out, or into
    its neighbour where a line that should part them stops short; None where there are none.

    Gaps are closed from the narrowest on until the place is enclosed, or its area parted; those
    that make no difference are opened again.
    """
    whole = _enclosing(contours, (), x, y)
    found = sorted(gaps(contours, within, "straight", without), key=lambda gap: gap.size)
    if whole is not None:
        inside = shapely.Polygon(whole.flattened(within / 5)).buffer(within / 5)
        found = [
            gap for gap in found if gap.size <= _SHORT and inside.contains(shapely.Point(gap.place))
        ]
    most = abs(whole.area) * _PARTED if whole is not None else math.inf

    def bounded(some: Sequence[Flaw]) -> Contour | None:
        outline = _enclosing(contours, some, x, y)
        return outline if outline is not None and abs(outline.area) < most else None

    found = found[:_MOST]
    low, high = 0, len(found)
    if not found or bounded(found) is None:
        return None
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if bounded(found[:middle]) is not None else (middle, high)
    needed = found[:high]
    for gap in list(needed[:-1]):
        without_it = [each for each in needed if each is not gap]
        if bounded(without_it) is not None:
            needed = without_it
    outline = bounded(needed)
    return Leak(tuple(needed), outline, whole is not None) if outline is not None else None


def _enclosing(
    contours: Sequence[Contour], closed: Sequence[Flaw], x: float, y: float
) -> Contour | None:
    """The outline of the area round a place with some gaps closed; None where nothing bounds it."""
    ground = arrangement_of([*contours, *(bridge for gap in closed for bridge in gap.outlines)])
    number = ground.at(x, y)
    return None if number is None else ground.regions[number].outline
