"""The looks that every stage needs at a job: where contours are open, and on which sheet they lie."""

from __future__ import annotations

from draxet.job.records import ContourItem, Job

__all__ = ["open_ends", "open_items"]


def open_items(job: Job) -> list[ContourItem]:
    """Open contours that are not meant to be open."""
    return [item for item in job.contours if not item.contour.closed and not item.slit]


def open_ends(job: Job) -> list[tuple[str, float, float]]:
    """Every end of every open contour that is not meant to be open: its contour's id and its place."""
    return [(item.id, float(x), float(y)) for item in open_items(job) for x, y in (item.contour.nodes[0], item.contour.nodes[-1])]
