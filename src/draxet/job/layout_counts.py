"""How much there is in a layout, and what, told without laying it out."""

from __future__ import annotations

from collections.abc import Callable

from draxet.cached import kept_on_the_first
from draxet.job.contour_records import ContourItem
from draxet.job.layout import parts_within
from draxet.job.layout_names import split_name
from draxet.job.records import Job

__all__ = ["count_where", "counted", "laid_count", "span_count", "stands", "unworked"]


def laid_count(job: Job) -> int:
    """How many contours placements lay, counted without laying them out; -1 where parts hold each
    other."""
    try:
        return count_where(job, lambda item: True) - len(job.contours)
    except RecursionError:
        return -1


def count_where(job: Job, fits: Callable[[ContourItem], bool]) -> int:
    """How many contours of the layout do what may be asked of those that are drawn.

    Raises
    ------
    RecursionError : where parts hold each other.
    """
    if not job.placements:
        return sum(map(fits, job.contours))
    times = job.times_laid
    return sum(times.get(item.part, 1) for item in job.contours if fits(item))


@kept_on_the_first
def counted(job: Job) -> tuple[int, int]:
    """How many contours of the layout are closed and how many open."""
    times = job.times_laid
    if not times:
        closed, every = sum([item.contour.closed for item in job.contours]), len(job.contours)
    else:
        laid = [times.get(item.part, 1) for item in job.contours]
        closed, every = (
            sum(n for n, i in zip(laid, job.contours, strict=True) if i.contour.closed),
            sum(laid),
        )
    return closed, every - closed


@kept_on_the_first
def span_count(job: Job) -> int:
    """How many spans the layout has."""
    times = job.times_laid
    return sum(len(item.contour.kinds) * times.get(item.part, 1) for item in job.contours)


@kept_on_the_first
def unworked(job: Job) -> int:
    """How many contours of the layout no operation names."""
    named = {name for each in job.operations for name in (*each.contours, *each.goes_by)}
    return count_where(job, lambda item: item.id not in named)


def stands(job: Job, name: str, *, part: bool = False) -> bool:
    """Whether a contour (or a part) of an id is in the layout, without laying it out."""
    placement, rest = split_name(name)
    if not placement:
        own = job.part_by_id.keys() | job.placement_by_id.keys() if part else job.contour_by_id
        return name in own
    if placement not in job.placement_by_id:
        return False
    of = job.placement_by_id[placement].part
    within = parts_within(job, of)
    inner = job.placement_by_id.get(split_name(rest)[0] or (rest if part else ""))
    if inner is not None:
        return inner.within in within and stands(job, rest, part=part)
    if part:
        return rest in within and rest != of
    return rest in job.contour_by_id and job.contour_by_id[rest].part in within
