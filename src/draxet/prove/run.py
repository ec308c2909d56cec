"""What is wrong with the programs of a job: what they run into, what they cut that is to stay, and
what comes too late."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

from draxet.job.findings import Finding, Gravity, count_words
from draxet.job.product import LINES, Product
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.job.sides import Run, mirror_of, runs_of, side_of
from draxet.progress import Progress, Unwatched
from draxet.prove.look_places import ids_and_middles
from draxet.prove.run_bodies import bodies_amiss
from draxet.prove.run_collisions import runs_into_a_part, runs_into_what_is_kept_clear
from draxet.prove.run_lines import lines_at_work
from draxet.prove.run_order import cut_too_deep, cut_too_late
from draxet.prove.run_pace import moves_too_quick
from draxet.prove.run_stitches import stitches_out_of_range
from draxet.prove.run_twice import worked_twice

__all__ = ["RUN_LOOKS", "findings_of_run", "run_findings"]

_Looks = tuple[Callable[[], list[Finding]], ...]


def _at_lines(seen: Job, every: Job, sheet: Sheet, program: Any) -> _Looks:
    lines = lines_at_work(program)
    return (
        lambda: runs_into_what_is_kept_clear(seen, sheet, program, lines),
        lambda: runs_into_a_part(every, sheet, program, lines),
        lambda: cut_too_late(seen, program),
        lambda: cut_too_deep(seen, program),
        lambda: worked_twice(seen, sheet, program, lines),
        lambda: moves_too_quick(seen, sheet, program),
    )


def _at_pattern(seen: Job, every: Job, sheet: Sheet, pattern: Any) -> _Looks:
    order, lines = pattern.order, lines_at_work(pattern.order)
    return (
        lambda: runs_into_a_part(every, sheet, order, lines),
        lambda: cut_too_late(seen, order),
        lambda: worked_twice(seen, sheet, order, lines),
        lambda: _no_way_for_the_blade(seen, sheet, pattern),
    )


def _at_stitches(seen: Job, every: Job, sheet: Sheet, product: Any) -> _Looks:
    return (lambda: stitches_out_of_range(seen, sheet, product),)


def _no_way_for_the_blade(job: Job, sheet: Sheet, pattern: Any) -> list[Finding]:
    """Cuts within a part that have no waste for a hole through which the blade goes."""
    tight = dict.fromkeys(pattern.tight)
    items = [job.contour_by_id[name] for name in tight if name in job.contour_by_id]
    if not items:
        return []
    one = len(items) == 1
    words = f"{count_words(len(items), 'cut')} within a part {'has' if one else 'have'} no waste for a hole that lets the blade through: drill where it does no harm"
    return [Finding(f"blade-{sheet.id}", words, Gravity.WARNS, "make", *ids_and_middles(items))]


RUN_LOOKS: dict[str, Callable[[Job, Job, Sheet, Any], _Looks]] = {
    LINES: _at_lines,
    "pattern": _at_pattern,
    "stitches": _at_stitches,
    "bodies": lambda seen, every, sheet, product: (lambda: bodies_amiss(seen, sheet, product),),
}
"""How each product is looked at: the side of the job that is seen, the same with all that lies
there, the sheet, and what is made of it."""


def run_findings(job: Job, products: Sequence[Product]) -> tuple[Finding, ...]:
    """The findings of what is made of a job, one for each of its runs."""
    return tuple(
        finding
        for run, product in zip(runs_of(job), products, strict=True)
        for finding in findings_of_run(job, run, product)
    )


def findings_of_run(
    job: Job, run: Run, product: Product, report: Progress = Unwatched()
) -> tuple[Finding, ...]:
    """What is wrong with what is made of a run.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    if not len(product):
        return ()
    job, sheet = job.layout, run.sheet
    seen, every = side_of(job, run), side_of(job, run, every=True)
    here = list[Finding]()
    looks = RUN_LOOKS[product.product](seen, every, sheet, product)
    for number, look in enumerate(looks):
        report(number / len(looks), "looking at what is made")
        here += look()
    return (
        *((_from_behind(finding, sheet) for finding in here) if run.back else here),
        *([_turned_over(job, run)] if run.back else ()),
    )


def _from_behind(finding: Finding, sheet: Sheet) -> Finding:
    """A finding of the back, with its places where they are on the face."""
    mirror = mirror_of(sheet)
    return replace(
        finding,
        kind=f"{finding.kind}-back",
        words=f"From the back: {finding.words}",
        places=tuple(mirror.point(x, y) for x, y in finding.places),
    )


def _turned_over(job: Job, run: Run) -> Finding:
    ids = tuple(
        name
        for operation in job.operations
        if operation.back
        for name in operation.contours
        if job.contour_by_id[name].sheet == run.sheet.id
    )
    words = f"{count_words(len(ids), 'contour')} of {run.sheet.name} {'is' if len(ids) == 1 else 'are'} worked from the back: a program of its own, mirrored, for the sheet turned over left to right"
    return Finding(f"back-{run.sheet.id}", words, Gravity.INFORMS, "make", ids)
