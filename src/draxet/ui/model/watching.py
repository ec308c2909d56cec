"""What is worked out from the job as a whole (findings, what is cut, and the programs) follows it:
at once for a small job, by a worker for a large one and for what may take long in any, with the old
shown until then. What may take very long is done in a process apart."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

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
from draxet.ui.model.derived import Derived
from draxet.ui.model.looked import Looked
from draxet.ui.model.session import Session
from draxet.ui.model.size import is_large, is_small

if TYPE_CHECKING:
    from draxet.ui.model.each_run import RunLooked

__all__ = ["Watching"]

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
        self._long_watch = Watch(LONG_LOOKS)
        self._known_runs: dict[tuple[str, bool], RunLooked] = {}
        unchecked = "The job could not be checked"
        self._found = Derived[_Answer](
            session, "findings", _Answer(session.job, (), ()), unchecked, told=self._tell
        )
        self._long = Derived[tuple[Finding, ...]](
            session, "long findings", (), unchecked, told=self._tell
        )
        self._runs = Derived[tuple["RunLooked", ...]](
            session, "programs", (), "The program could not be made", told=self._tell
        )
        session.document.changed.connect(self.look)
        session.document.ending.connect(self._end_job)
        self.look()

    def _end_job(self) -> None:
        self._known_runs = {}

    def look(self) -> None:
        """Bring what is worked out up to the job; of a large one only once it is seen."""
        job = self._session.job
        wait = 0 if is_small(job) else _WAIT_MS
        self._look(job, wait)
        self._look_long(job, wait)
        self._look_at_programs(job, wait)

    def _look(self, job: Job, wait: int) -> None:
        if is_small(job) or self._there.known(job):
            self._found.take((job,), (self._here if is_small(job) else self._there).of(job))
            return

        def work(report: Progress) -> _Answer:
            report(0.1, "looking for what is wrong")
            return self._there.of(job)

        self._found.ask((job,), work, wait)

    def _look_long(self, job: Job, wait: int) -> None:
        state = _values(job, LONG_FIELDS)
        if not job.contours:
            self._long.take(state, ())
            return

        def work(report: Progress) -> tuple[Finding, ...]:
            if not is_large(job):
                return self._long_watch.of(job, report)
            from draxet.ui.model.long_looks import fields_of, findings_apart

            found: tuple[Finding, ...] = self._workers.apart(
                report, findings_apart, *fields_of(job)
            )
            return found

        self._long.ask(state, work, wait)

    def _look_at_programs(self, job: Job, wait: int) -> None:
        """The program of each run, and what is wrong with it, off the window's thread; only those
        that a change concerns are made anew."""
        state = _values(job, (*PROGRAM_FIELDS, *LAID_FIELDS))
        if not job.operations:
            self._runs.take(state, ())
            return
        known = self._known_runs

        def work(report: Progress) -> tuple[RunLooked, ...]:
            runs = runs_of(job)
            for name in known.keys() - {(run.sheet.id, run.back) for run in runs}:
                known.pop(name, None)
            return tuple(self._run_looked(job.layout, run, known, report) for run in runs)

        self._runs.ask(state, work, wait)

    def _run_looked(
        self, job: Job, run: Run, known: dict[tuple[str, bool], RunLooked], report: Progress
    ) -> RunLooked:
        """By a worker. Each run is known as soon as it was looked at, also where the others are not
        wanted any more."""
        from draxet.ui.model.each_run import (
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
                self._workers.apart(
                    report, looked_at_apart, part.contours, replace(part, contours=()), run
                ),
                job=part,
            )
        else:
            found = looked_at(report, part, run, before.product if before else None)
        known[run.sheet.id, run.back] = found
        return found

    def _tell(self) -> None:
        found = self._found.value
        of_runs = (finding for each in self._runs.value for finding in each.findings)
        products = self._session.looked.products
        now = tuple(each.product for each in self._runs.value)
        if len(now) != len(products) or any(a is not b for a, b in zip(now, products, strict=True)):
            products = now  # else the same tuple, by which others know that nothing changed
        self._session.take_looked(
            Looked(
                gravest_first((*found.findings, *self._long.value, *of_runs)),
                found.work,
                products,
            )
        )


def _values(job: Job, fields: tuple[str, ...]) -> tuple[object, ...]:
    return tuple(getattr(job, name) for name in fields)
