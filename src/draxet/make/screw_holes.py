"""Holes of the usual sizes: for the core of a metric thread, or for a screw to pass through."""

from __future__ import annotations

from collections.abc import Sequence

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import replace_contours
from draxet.job.records import Job
from draxet.record import record

__all__ = ["SCREWS", "Screw", "with_holes"]


@record(frozen=True)
class Screw:
    """A metric screw with a coarse thread (ISO 262). core : what is drilled before its thread is
    cut, in mm; free : the hole it passes through (ISO 273, medium)."""

    name: str
    core: float
    free: float


SCREWS = tuple(
    Screw(name, core, free)
    for name, core, free in (
        ("M2", 1.6, 2.4),
        ("M2.5", 2.05, 2.9),
        ("M3", 2.5, 3.4),
        ("M4", 3.3, 4.5),
        ("M5", 4.2, 5.5),
        ("M6", 5.0, 6.6),
        ("M8", 6.8, 9.0),
        ("M10", 8.5, 11.0),
        ("M12", 10.2, 13.5),
    )
)


def with_holes(job: Job, ids: Sequence[str], diameter: float) -> tuple[Job, int]:
    """The job with the circles among some contours so wide about their middles, and how many there
    were."""
    shapes = {name: job.layout.contour_by_id[name].contour.circle_shape for name in ids}
    made = {
        name: Contour.circle(shape[0], shape[1], diameter / 2)
        for name, shape in shapes.items()
        if shape is not None
    }
    return (replace_contours(job, made) if made else job), len(made)
