"""What is worked out from the job as a whole (findings, what is cut, and the programs) follows it:
at once for a small job, by a worker for a large one and for what may take long in any, with the old
shown until then. What may take very long is done in a process apart."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject

from draxet.job.findings import Finding
from draxet.job.layout import LAID_FIELDS
from draxet.job.records import Job
from draxet.job.remember import Remembered
from draxet.job.sides import PROGRAM_FIELDS, Run, runs_of
from draxet.job.work import CutWork, cut_work
from draxet.progress import Progress
from draxet.prove.looking import LONG_FIELDS, LONG_LOOKS, Watch, gravest_first
from draxet.record import record
from draxet.ui.shell.looked import Looked
from draxet.ui.shell.session import Session
from draxet.ui.shell.size import is_large, is_small

if TYPE_CHECKING:
    from draxet.ui.shell.each_run import RunLooked

__all__ = ["Watching"]

_LANE = "findings"
_LONG_LANE = "long findings"
_PROGRAM_LANE = "programs"
_WAIT_MS = 150


@record(frozen=True, eq=False)
class _Answer:
    job: Job
    findings: tuple[Finding, ...]
    work: tuple[CutWork, ...]


class _Looks:
    """The looks that take little, and what they know."""

    def __init__(self) -> None:
        self._watch, self._work = (
            Watch(),
            Remembered(cut_work, "contours", "operations", "bridges", "fits", *LAID_FIELDS),
        )

    def known(self, job: Job) -> bool:
        return self._watch.known(job) and self._work.known(job)

    def of(self, job: Job) -> _Answer:
        return _Answer(job, self._watch.of(job), self._work.of(job))


class Watching(QObject):
    """Keeps the session's findings, cut work and programs up to the job."""

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session, self._workers = session, session.workers
        self._here, self._there = _Looks(), _Looks()  # this thread waits for no worker
        self._long = Watch(LONG_LOOKS)
        self._long_found: tuple[Finding, ...] = ()
        self._of_long: tuple[object, ...] = ()
        self._answer = _Answer(session.job, (), ())
        self._runs: tuple[RunLooked, ...] = ()
        self._known_runs: dict[tuple[str, bool], RunLooked] = {}
        self._of_programs: tuple[object, ...] = ()
        session.job_changed.connect(self.look)
        session.job_ending.connect(self._end_job)
        self.look()

    def _end_job(self) -> None:
        self._known_runs = {}

    def look(self) -> None:
        """Bring what is worked out up to the job."""
        job = self._session.job
        self._look_long(job)
        self._look_at_programs(job)
        if is_small(job) or self._there.known(job):
            self._workers.cancel(_LANE)
            self._done((self._here if is_small(job) else self._there).of(job))
            return

        def work(report: Progress) -> _Answer:
            report(0.1, "looking for what is wrong")
            return self._there.of(job)

        self._run(_LANE, work, self._done, "The job could not be checked")

    def _look_long(self, job: Job) -> None:
        state = _values(job, LONG_FIELDS)
        if _same(state, self._of_long):
            return
        self._of_long = state
        if not job.contours:
            self._workers.cancel(_LONG_LANE)
            self._long_found = ()
            return

        def work(report: Progress) -> tuple[Finding, ...]:
            if not is_large(job):
                return self._long.of(job, report)
            from draxet.ui.shell.long_looks import fields_of, findings_apart

            found: tuple[Finding, ...] = self._workers.aside.call(
                report, findings_apart, *fields_of(job)
            )
            return found

        def done(found: tuple[Finding, ...]) -> None:
            self._long_found = found
            self._tell()

        self._run(_LONG_LANE, work, done, "The job could not be checked")

    def _look_at_programs(self, job: Job) -> None:
        """The program of each run, and what is wrong with it, off the window's thread; only those
        that a change concerns are made anew."""
        state = _values(job, (*PROGRAM_FIELDS, *LAID_FIELDS))
        if _same(state, self._of_programs):
            return
        self._of_programs = state
        if not job.operations:
            self._workers.cancel(_PROGRAM_LANE)
            self._runs = ()
            return
        known = self._known_runs

        def work(report: Progress) -> tuple[RunLooked, ...]:
            runs = runs_of(job)
            return tuple(self._run_looked(job.layout, run, known, report) for run in runs)

        def done(answer: tuple[RunLooked, ...]) -> None:
            if self._of_programs is state:
                self._runs = answer
                for name in known.keys() - {(each.run.sheet.id, each.run.back) for each in answer}:
                    del known[name]
                self._tell()

        self._run(_PROGRAM_LANE, work, done, "The program could not be made")

    def _run_looked(
        self, job: Job, run: Run, known: dict[tuple[str, bool], RunLooked], report: Progress
    ) -> RunLooked:
        """By a worker. Each run is known as soon as it was looked at, also where the others are not
        wanted any more."""
        from draxet.ui.shell.each_run import (
            job_of_run,
            looked_at,
            looked_at_apart,
            same_work,
        )  # not needed to show a window

        part, before = job_of_run(job, run), known.get((run.sheet.id, run.back))
        if before is not None and before.run == run and same_work(before.job, part):
            return before
        if is_large(part):
            found: RunLooked = replace(
                self._workers.aside.call(
                    report, looked_at_apart, part.contours, replace(part, contours=()), run
                ),
                job=part,
            )
        else:
            found = looked_at(report, part, run)
        known[run.sheet.id, run.back] = found
        return found

    def _run(
        self, lane: str, work: Callable[[Progress], Any], done: Callable[[Any], None], failed: str
    ) -> None:
        """By a worker; for a large job only once it is seen."""
        wait = 0 if is_small(self._session.job) else _WAIT_MS
        self._workers.run(
            lane,
            work,
            done,
            lambda error: self._session.refused.emit(f"{failed}: {error}"),
            wait_ms=wait,
        )

    def _done(self, answer: _Answer) -> None:
        self._answer = answer
        self._tell()

    def _tell(self) -> None:
        of_runs = (finding for each in self._runs for finding in each.findings)
        programs = self._session.looked.programs
        now = tuple(each.program for each in self._runs)
        if len(now) != len(programs) or any(a is not b for a, b in zip(now, programs, strict=True)):
            programs = now  # else the same tuple, by which others know that nothing changed
        self._session.take_looked(
            Looked(
                gravest_first((*self._answer.findings, *self._long_found, *of_runs)),
                self._answer.work,
                programs,
            )
        )


def _values(job: Job, fields: tuple[str, ...]) -> tuple[object, ...]:
    return tuple(getattr(job, name) for name in fields)


def _same(values: tuple[object, ...], others: tuple[object, ...]) -> bool:
    return len(values) == len(others) and all(a is b for a, b in zip(values, others, strict=True))
