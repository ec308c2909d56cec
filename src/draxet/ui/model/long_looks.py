"""What may take long and what no report can stop, as tasks for a process apart, which keeps what it
knows from one to the next; so without Qt."""

from __future__ import annotations

import functools
from collections.abc import Sequence
from typing import Any

from draxet.job.contour_records import ContourItem
from draxet.job.fallout import Piece
from draxet.job.falls import Falls
from draxet.job.findings import Finding
from draxet.job.records import Job
from draxet.progress import Progress
from draxet.prove.looking import LONG_FIELDS, LONG_LOOKS, Watch

__all__ = ["falls_apart", "findings_apart", "fields_of"]


@functools.cache
def _watch() -> Watch:
    return Watch(LONG_LOOKS)


@functools.cache
def _falls() -> Falls:
    return Falls()


def fields_of(job: Job, names: Sequence[str] = LONG_FIELDS) -> tuple[Any, ...]:
    """What is sent of a job."""
    return tuple(getattr(job, name) for name in names)


def findings_apart(report: Progress, *values: Any) -> tuple[Finding, ...]:
    """The long looks at a job of such ``fields_of``."""
    return _watch().of(Job(**dict(zip(LONG_FIELDS, values, strict=True))), report)


def falls_apart(
    report: Progress,
    items: tuple[ContourItem, ...],
    width: float,
    kept: tuple[tuple[float, float], ...],
    *values: Any,
) -> tuple[Piece, ...]:
    """What falls and what stays of some contours of such a job."""
    job = Job(**dict(zip(LONG_FIELDS, values, strict=True)))
    return _falls().of(job, items, width, job.smallest_feature, kept, report).pieces
