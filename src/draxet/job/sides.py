"""The two sides of a sheet: what is worked from its face, and what from its back once the sheet was
turned over, left to right."""

from __future__ import annotations

from collections.abc import Container
from dataclasses import replace

from draxet.geometry.affine import Affine
from draxet.job.placed import lying_on, map_placed
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.record import record

__all__ = ["PROGRAM_FIELDS", "Run", "mirror_of", "only", "runs_of", "side_of"]


PROGRAM_FIELDS = (
    "contours",
    "operations",
    "bridges",
    "sheets",
    "machines",
    "points",
    "orders",
    "fits",
    "threads",
    "letterings",
    "bases",
    "guides",
    "smallest_feature",
)
"""The fields of a job that its programs go by."""


@record(frozen=True)
class Run:
    """A sheet worked from one side: a program of its own."""

    sheet: Sheet
    back: bool = False


def runs_of(job: Job) -> tuple[Run, ...]:
    """Every program that a job needs, the face of each sheet before its back."""
    found, job = [], job.layout
    for sheet in job.sheets_with_work:
        sides = {operation.back for operation in job.operations if job.has_work(operation, sheet)}
        found += [Run(sheet, back) for back in sorted(sides)]
    return tuple(found)


def only(job: Job, ids: Container[str]) -> Job:
    """The job with the work on some contours alone, and none at points."""
    job = job.layout
    kept = (
        operation.with_contours([name for name in operation.contours if name in ids])
        for operation in job.operations
    )
    alone = (
        replace(operation, at_points=False) if operation.at_points else operation  # type: ignore[type-var]
        for operation in kept
    )
    return replace(job, operations=tuple(operation for operation in alone if operation.stands))


def mirror_of(sheet: Sheet) -> Affine:
    """The map by which what lies on a sheet comes to lie when that is turned over, left to
    right."""
    return Affine(-1.0, 0.0, 2 * sheet.x + sheet.width, 0.0, 1.0, 0.0)


def side_of(job: Job, run: Run, *, every: bool = False) -> Job:
    """The job as a machine meets it in a run: only the operations of that side (or `every` one);
    seen from the back everything on the sheet is mirrored."""
    job = job.layout
    if not any(operation.back for operation in job.operations):
        return job
    seen = replace(
        job,
        operations=tuple(
            operation for operation in job.operations if every or operation.back is run.back
        ),
    )
    if not run.back:
        return seen
    return map_placed(seen, lying_on(job, run.sheet.id), mirror_of(run.sheet))
