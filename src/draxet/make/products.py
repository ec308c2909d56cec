"""The products that machines make of operations. Another one is a line here, and how it is looked at,
painted and written."""

from __future__ import annotations

from collections.abc import Callable

from draxet.job.machine_kinds import Machine
from draxet.job.product import LINES, Product
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.make.program_making import program_of
from draxet.make.saw_pattern import saw_pattern
from draxet.make.solids.solid_sheet import solid_sheet
from draxet.make.stitching.stitched_sheet import stitched_sheet
from draxet.progress import Progress, Unwatched

__all__ = ["PRODUCTS", "product_of"]

PRODUCTS: dict[str, Callable[[Job, Sheet, Machine, Progress, Product | None], Product]] = {
    LINES: lambda job, sheet, machine, report, before: program_of(job, sheet, machine, report),
    "pattern": lambda job, sheet, machine, report, before: saw_pattern(job, sheet, machine, report),
    "stitches": lambda job, sheet, machine, report, before: stitched_sheet(
        job, sheet, machine, report
    ),
    "bodies": solid_sheet,
}
"""How each is made; `before` is what was made of the sheet the last time, of which some may stay."""


def product_of(
    job: Job,
    sheet: Sheet,
    machine: Machine,
    report: Progress = Unwatched(),
    before: Product | None = None,
) -> Product:
    """What a machine makes of a sheet; `job` is the side of it that is worked. Without moves where
    nothing is.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    return PRODUCTS[machine.traits.product](job, sheet, machine, report, before)
