"""Holes: a closed contour inside another one bounds a hole; turned solid it is only drawn by, and
turned back it bounds a hole again."""

from __future__ import annotations

from collections.abc import Sequence

from draxet.geometry.contour import Contour
from draxet.geometry.winding import winds
from draxet.job.contour_records import ContourItem
from draxet.job.helper_edits import free_helpers, make_helpers
from draxet.job.operating import set_operation
from draxet.job.records import Job

__all__ = ["hole_turned"]


def hole_turned(job: Job, x: float, y: float) -> tuple[Job, bool] | None:
    """The hole at a place turned solid, or back where it was solid, and whether it is solid now;
    None where no hole is there."""
    laid = job.layout
    outer = [item for item in laid.contours if _holds(item.contour, x, y)]
    solid = [item for item in job.helpers if _holds(item.contour, x, y)]
    inner = _innermost([*outer, *solid])
    if inner is None:
        return None
    if inner in solid:
        freed = free_helpers(job, [inner.id])
        alike = {item.id for item in laid.contours if _is_hole_within(item, outer)}
        numbers = (k for k, each in enumerate(laid.operations) if alike & set(each.contours))
        number = next(numbers, None)  # cut as the other holes are
        if number is not None:
            operation = freed.operations[number]
            freed = set_operation(freed, operation.with_contours([*operation.contours, inner.id]))
        return freed, False
    if len(outer) % 2:
        return None
    return make_helpers(job, [inner.id]), True


def _holds(contour: Contour, x: float, y: float) -> bool:
    x0, y0, x1, y1 = contour.box
    return contour.closed and x0 <= x <= x1 and y0 <= y <= y1 and winds(contour, x, y)


def _innermost(items: Sequence[ContourItem]) -> ContourItem | None:
    return min(items, key=lambda item: abs(item.contour.area), default=None)


def _is_hole_within(item: ContourItem, around: Sequence[ContourItem]) -> bool:
    """Whether a contour stands inside all of those that are round a place, and is none of them."""
    x, y = item.contour.nodes[0].tolist()
    return (
        item.contour.closed
        and item not in around
        and bool(around)
        and all(_holds(other.contour, x, y) for other in around)
    )
