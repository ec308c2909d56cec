"""Colours for areas: an area that one contour bounds gives its colour to that contour, another one
is bounded by new ones."""

from __future__ import annotations

from collections.abc import Sequence

import shapely

from draxet.geometry.contour import Contour
from draxet.geometry.winding import winds
from draxet.job.contour_edits import add_contours, colour_contours
from draxet.job.contour_records import ContourItem
from draxet.job.records import Job
from draxet.progress import Progress, Unwatched

__all__ = ["give_colours"]

_FLAT, _SAME = 0.002, 0.01
"""mm: how finely outlines are compared, and within what they are the same."""


def give_colours(
    job: Job,
    areas: Sequence[Sequence[Contour]],
    colours: Sequence[str],
    report: Progress = Unwatched(),
) -> Job:
    """Areas (each an outline and its holes) with a colour (#rrggbb) each.

    What bounds an area is a contour of the job wherever one runs just so and does not bound another
    area of colour on its other side.
    """
    for k, (area, colour) in enumerate(zip(areas, colours, strict=True)):
        report(0.5 + k / len(areas) / 2, "giving colours")
        own = [_bounding(job, contour) for contour in area]
        job = colour_contours(job, [name for name in own if name], colour)
        new = [contour for contour, name in zip(area, own, strict=True) if not name]
        job = add_contours(job, new, colours=[colour] * len(new)) if new else job
    return job


def _bounding(job: Job, contour: Contour) -> str:
    """The id of the contour that runs just so and bounds nothing on its other side; empty where
    there is none. Outlines run anticlockwise, holes clockwise."""
    return next(
        (
            item.id
            for item in _running_so(job, contour)
            if not item.colour or _beyond(job, item) == (contour.area < 0)
        ),
        "",
    )


def _running_so(job: Job, contour: Contour) -> list[ContourItem]:
    """The contours that run just so, wherever their nodes are."""
    near = [
        item
        for item in job.layout.contours
        if item.contour.closed and _alike(item.contour.box, contour.box)
    ]
    if not near:
        return []
    line = shapely.LinearRing(contour.flattened(_FLAT))
    return [
        item
        for item in near
        if shapely.hausdorff_distance(shapely.LinearRing(item.contour.flattened(_FLAT)), line)
        < _SAME
    ]


def _alike(
    box: tuple[float, float, float, float], other: tuple[float, float, float, float]
) -> bool:
    return all(abs(a - b) < _SAME for a, b in zip(box, other, strict=True))


def _beyond(job: Job, item: ContourItem) -> bool:
    """Whether a contour with a colour bounds an area of that colour round it, and not inside:
    another one of that colour runs round it."""
    x, y = item.contour.nodes[0].tolist()
    return any(
        other.colour == item.colour
        and other.id != item.id
        and other.contour.closed
        and winds(other.contour, x, y)
        for other in job.layout.contours
    )
