"""What the person at the machine sees to before it runs, and what a run takes: of the sheet, and of
time."""

from __future__ import annotations

from draxet.geometry.nesting import nesting_depths
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.job.sides import runs_of
from draxet.record import record

__all__ = ["Cost", "cost_of", "operators_list"]


@record(frozen=True)
class Cost:
    """share : of the sheet that the parts cover, 0 to 1. seconds : of the machine."""

    share: float
    seconds: float


def operators_list(job: Job, sheet: Sheet) -> tuple[str, ...]:
    """What to see to, one sentence each."""
    machine = job.machine_of(sheet)
    turned = any(run.back for run in runs_of(job) if run.sheet == sheet)
    zero = "bed" if sheet.zero == "bed" else "top of the sheet"
    air = ("Air on",) if machine.has_air else ()
    over = (
        ("For the back: the sheet turned over, left to right, against the same stops",)
        if turned
        else ()
    )
    stops = (
        f"It stops before {operation.name}: {operation.stop}"
        for operation in job.operations
        if operation.stop and job.has_work(operation, sheet)
    )
    return (*(words.format(zero=zero) for words in machine.traits.checks), *air, *over, *stops)


def cost_of(job: Job, sheet: Sheet, seconds: float) -> Cost:
    """What the work on a sheet takes: the outermost contours that have an operation count."""
    items = [
        item.contour
        for item in job.layout.contours
        if item.sheet == sheet.id and item.id in job.worked and item.contour.closed
    ]
    depths = nesting_depths(items).tolist() if items else []
    area = sum(
        abs(contour.area) for contour, depth in zip(items, depths, strict=True) if depth == 0
    )
    return Cost(min(area / (sheet.width * sheet.height), 1.0), seconds)
