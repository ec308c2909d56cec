"""Where the findings of looks lie."""

from __future__ import annotations

from collections.abc import Sequence

from draxet.geometry.arrays import Floats
from draxet.geometry.contour import boxes_of
from draxet.job.contour_records import ContourItem

__all__ = ["HAIR", "MOST_PLACES", "boxes_of_items", "ids_and_middles"]

MOST_PLACES = 200
"""So many places are shown of one finding."""

HAIR = 0.002
"""mm: the cut of a contour without an operation takes nothing away."""


def boxes_of_items(items: Sequence[ContourItem]) -> Floats:
    return boxes_of([item.contour for item in items])


def ids_and_middles(
    items: Sequence[ContourItem],
) -> tuple[tuple[str, ...], tuple[tuple[float, float], ...]]:
    """Ids, and the middles of the first of them."""
    boxes = boxes_of_items(items[:MOST_PLACES])
    middles = (boxes[:, :2] + boxes[:, 2:]) / 2
    return tuple(item.id for item in items), tuple((float(x), float(y)) for x, y in middles)
