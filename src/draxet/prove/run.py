"""What is wrong with the programs of a job: what they run into, what they cut that is to stay, and
what comes too late."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from draxet.job.findings import Finding, Gravity, count_words
from draxet.job.program import Program
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.job.sides import Run, mirror_of, runs_of, side_of
from draxet.progress import Progress, Unwatched
from draxet.prove.run_collisions import runs_into_a_part, runs_into_what_is_kept_clear
from draxet.prove.run_lines import lines_at_work
from draxet.prove.run_order import cut_too_deep, cut_too_late
from draxet.prove.run_pace import moves_too_quick
from draxet.prove.run_twice import worked_twice
from draxet.prove.saw_pattern import no_way_for_the_blade

__all__ = ["findings_of_run", "run_findings"]


def run_findings(job: Job, programs: Sequence[Program]) -> tuple[Finding, ...]:
    """The findings of a job's programs, one for each of its runs."""
    return tuple(
        finding
        for run, program in zip(runs_of(job), programs, strict=True)
        for finding in findings_of_run(job, run, program)
    )


def findings_of_run(
    job: Job, run: Run, program: Program, report: Progress = Unwatched()
) -> tuple[Finding, ...]:
    """What is wrong with the program of a run.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    if not len(program):
        return ()
    job = job.layout
    seen, every, sheet, lines = (
        side_of(job, run),
        side_of(job, run, every=True),
        run.sheet,
        lines_at_work(program),
    )
    looks: tuple[Callable[[], list[Finding]], ...] = (
        lambda: runs_into_what_is_kept_clear(seen, sheet, program, lines),
        lambda: runs_into_a_part(every, sheet, program, lines),
        lambda: cut_too_late(seen, program),
        lambda: cut_too_deep(seen, program),
        lambda: worked_twice(seen, sheet, program, lines),
        lambda: moves_too_quick(seen, sheet, program),
        lambda: no_way_for_the_blade(seen, sheet, program),
    )
    here = list[Finding]()
    for number, look in enumerate(looks):
        report(number / len(looks), "looking at the program")
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
