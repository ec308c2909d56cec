"""A part is made of what is drawn, with the points that lie in it."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace

from draxet.geometry.winding import winds
from draxet.job.contour_records import ContourItem, Part, Point
from draxet.job.entries import set_on
from draxet.job.layout import members_of
from draxet.job.place_types import Box
from draxet.job.records import Job

__all__ = ["new_part"]


def new_part(
    job: Job, contours: Collection[str], parts: Collection[str], within: str
) -> tuple[Job, str]:
    """One more part of some contours, parts and placements, which belong to nothing else but what
    it stands `within`; and its id."""
    top = sum(not part.within for part in job.parts)
    part = Part(f"part-{job.next_id}", f"Part {1 + top}", within)
    some, of = set(contours), {**dict.fromkeys(parts, part.id)}
    inside = [job.contour_by_id[k] for k in some]
    inside += [item for name in of if name in job.part_by_id for item in members_of(job, name)]
    held = _points_in(job, inside, within)
    for field, ids in (("contours", some), ("points", held), ("drop_outs", held)):
        job = set_on(job, field, ids, part=part.id)
    for field in ("parts", "placements"):
        job = set_on(job, field, of, within=part.id)
    return replace(job, parts=(*job.parts, part), next_id=job.next_id + 1), part.id


def _points_in(job: Job, items: Sequence[ContourItem], within: str) -> frozenset[str]:
    """Ids of the points and drop-outs that lie in some contours and belong to what these do."""
    points = [each for each in (*job.points, *job.drop_outs) if each.part == within]
    closed = [item.contour for item in items if item.contour.closed] if points else []
    return frozenset(
        each.id
        for each in points
        if any(_holds(contour.box, each) and winds(contour, each.x, each.y) for contour in closed)
    )


def _holds(box: Box, point: Point) -> bool:
    return box[0] <= point.x <= box[2] and box[1] <= point.y <= box[3]
