"""Edits of points, be it ones that placements lay: functions from a job to a job."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from draxet.job.contour_records import Point
from draxet.job.entries import set_on
from draxet.job.layout import way_to
from draxet.job.layout_names import drawn_ids, drawn_name
from draxet.job.records import Job
from draxet.job.references import removed

__all__ = ["add_point", "move_point", "remove_points"]


def add_point(job: Job, x: float, y: float) -> Job:
    """One more point."""
    return replace(
        job, points=(*job.points, Point(f"point-{job.next_id}", x, y)), next_id=job.next_id + 1
    )


def move_point(job: Job, point_id: str, x: float, y: float) -> Job:
    """A point somewhere else; one that a placement lays moves in its part."""
    to, name = way_to(job, point_id), drawn_name(point_id)
    x, y = to.inverse().point(x, y) if to else (x, y)
    return set_on(job, "points", (name,), x=x, y=y)


def remove_points(job: Job, ids: Iterable[str]) -> Job:
    return removed(job, "points", drawn_ids(ids))
