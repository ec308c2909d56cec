"""Each run of a job by itself: its program and what is wrong with that, made of nothing but what
lies on its sheet, so that a change elsewhere makes nothing anew. Without Qt, as a process apart
does this as well.
"""

from __future__ import annotations

from dataclasses import replace

from draxet.files import reason
from draxet.job.contour_records import ContourItem
from draxet.job.findings import Finding, Gravity
from draxet.job.product import Product
from draxet.job.program import empty_program
from draxet.job.records import Job
from draxet.job.references import without
from draxet.job.sides import PROGRAM_FIELDS, Run, side_of
from draxet.make.products import product_of
from draxet.progress import Cancelled, Progress
from draxet.prove.run import findings_of_run
from draxet.record import record

__all__ = ["RunLooked", "job_of_run", "looked_at", "looked_at_apart", "same_work"]


@record(frozen=True, eq=False)
class RunLooked:
    """A run, the part of the job that it was made of, what is made of it, and what is wrong with that."""

    run: Run
    job: Job
    product: Product
    findings: tuple[Finding, ...]


def job_of_run(job: Job, run: Run) -> Job:
    """What of a job a run's program goes by."""
    sheet = run.sheet
    contours = tuple(item for item in job.contours if item.sheet == sheet.id)
    ids = {item.id for item in contours}
    operations = tuple(
        operation.with_contours([name for name in operation.contours if name in ids])
        for operation in job.operations
        if job.has_work(operation, sheet)
    )
    elsewhere = job.contour_by_id.keys() - ids
    return Job(
        sheets=(sheet,),
        sheet_id=sheet.id,
        contours=contours,
        operations=operations,
        machines=job.machines,
        threads=job.threads,
        letterings=tuple(
            words for words in job.letterings if any(item.part == words.part for item in contours)
        ),
        bridges=tuple(
            bridge for bridge in job.bridges if not bridge.contour or bridge.contour in ids
        ),
        points=tuple(point for point in job.points if job.sheet_of_point(point) == sheet.id),
        orders=tuple(left for order in job.orders if (left := order.without(elsewhere))),
        fits=tuple(fit for fit in job.fits if without(fit, elsewhere)),
        drop_outs=job.drop_outs,
        bases=tuple(base for base in job.bases if base.sheet == sheet.id),
        smallest_feature=job.smallest_feature,
        guides=tuple(
            guide
            for guide in job.guides
            if any(getattr(each, "axis", "") == guide.id for each in operations)
        ),
    )


def same_work(job: Job, other: Job) -> bool:
    """Whether two such parts are made of the same things."""
    return all(getattr(job, name) == getattr(other, name) for name in PROGRAM_FIELDS)


def looked_at(report: Progress, job: Job, run: Run, before: Product | None = None) -> RunLooked:
    """A run's program, and what is wrong with it; where it cannot be made, that is. `before` : what
    was made of it the last time.

    Parameters
    ----------
    job : as of ``job_of_run``.
    """
    machine = job.machine_of(run.sheet)
    try:
        product = product_of(side_of(job, run), run.sheet, machine, report, before)
        return RunLooked(run, job, product, findings_of_run(job, run, product, report))
    except Cancelled:
        raise
    except Exception as error:  # whatever a library raises of what it was given
        words = f"The program of {run.sheet.name} cannot be made: {reason(error)}"
        ids = tuple(
            dict.fromkeys(name for operation in job.operations for name in operation.contours)
        )
        return RunLooked(
            run,
            job,
            empty_program(machine),
            (Finding(f"no-program-{run.sheet.id}", words, Gravity.STOPS, "make", ids),),
        )


def looked_at_apart(
    report: Progress, contours: tuple[ContourItem, ...], job: Job, run: Run
) -> RunLooked:
    """The same in a process apart, to which the contours go by themselves, as they are many; what
    comes back bears no job."""
    found = looked_at(report, replace(job, contours=contours), run)
    return replace(found, job=Job())
