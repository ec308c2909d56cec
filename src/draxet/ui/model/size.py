"""How large a job is: what is worked out of it at once, by a worker, or in a process apart."""

from __future__ import annotations

from collections.abc import Sequence

from draxet.geometry.contour import Contour
from draxet.job.layout_counts import counted, span_count
from draxet.job.records import Job

__all__ = ["is_large", "is_small", "many"]

_SMALL = 600
"""Spans of a job that is looked at within a few milliseconds."""
_MOST_CONTOURS, _MOST_SPANS = 100, 4000
"""Of a job of more, it may take so long to work something out that nobody would wait for its end;
within a library nothing else ends it."""
_MOST_FILLED = 60_000.0
"""mm of lines that fill areas; likewise."""


def is_small(job: Job) -> bool:
    """Whether it is looked at at once."""
    return len(job.contours) <= _SMALL and span_count(job) <= _SMALL


def many(contours: Sequence[Contour]) -> bool:
    """Whether work on all of them is to be done where it can be ended."""
    return (
        len(contours) > _MOST_CONTOURS
        or sum(len(contour.kinds) for contour in contours) > _MOST_SPANS
    )


def is_large(job: Job) -> bool:
    """Whether work on all of it is to be done where it can be ended."""
    if sum(counted(job)) > _MOST_CONTOURS or span_count(job) > _MOST_SPANS:
        return True
    filled = 0.0
    for operation in job.layout.operations:
        apart = operation.broad if operation.wants == "closed" else 0.0
        for name in operation.contours if apart else ():
            x0, y0, x1, y1 = job.layout.contour_by_id[name].contour.box
            filled += (x1 - x0) * (y1 - y0) / apart
    return filled > _MOST_FILLED
