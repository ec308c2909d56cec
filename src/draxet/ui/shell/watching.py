"""What is worked out from the job as a whole (findings, and what is cut) follows it: at once for a small job, by a worker for a
large one and for what may take long in any, with the old shown until then."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject

from draxet.job.findings import Finding
from draxet.job.program import Program
from draxet.job.records import Job
from draxet.job.remember import Remembered
from draxet.job.sides import runs_of, side_of
from draxet.job.work import CutWork, cut_work
from draxet.progress import Progress
from draxet.prove.findings import LONG_LOOKS, Watch, gravest_first
from draxet.record import record
from draxet.ui.shell.session import Looked, Session

__all__ = ["Watching"]

_LANE = "findings"
_LONG_LANE = "long findings"
_PROGRAM_LANE = "programs"
_WAIT_MS = 150
_SMALL = 600
"""Spans of a job that is looked at within a few milliseconds."""


@record(frozen=True, eq=False)
class _Answer:
    job: Job
    findings: tuple[Finding, ...]
    work: tuple[CutWork, ...]


class Watching(QObject):
    """Keeps the session's findings and cut work up to the job."""

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session, self._workers = session, session.workers
        self._long = Watch(LONG_LOOKS)
        self._long_found: tuple[Finding, ...] = ()
        self._answer = _Answer(session.job, (), ())
        self._programs: tuple[Program, ...] = ()
        self._run_found: tuple[Finding, ...] = ()
        self._of_programs: tuple[object, ...] = ()
        self._watch, self._work = Watch(), Remembered(cut_work, "contours", "operations", "bridges", "fits")
        self._small = Remembered(lambda job: sum(len(item.contour.kinds) for item in job.contours) <= _SMALL, "contours")
        session.job_changed.connect(self.look)
        self.look()

    def look(self) -> None:
        """Bring what is worked out up to the job."""
        job = self._session.job
        self._look_long(job)
        self._look_at_programs(job)
        if self._small.of(job) or (self._watch.known(job) and self._work.known(job)):
            self._workers.cancel(_LANE)
            self._done(self._look(job))
            return

        def work(report: Progress) -> _Answer:
            report(0.1, "looking for what is wrong")
            return self._look(job)

        self._run(_LANE, work, self._done, "The job could not be checked")

    def _look_long(self, job: Job) -> None:
        if not job.contours or self._long.known(job):
            self._workers.cancel(_LONG_LANE)
            self._long_found = self._long.of(job)
            return

        def done(found: tuple[Finding, ...]) -> None:
            self._long_found = found
            self._tell()

        self._run(_LONG_LANE, lambda report: self._long.of(job), done, "The job could not be checked")

    def _look_at_programs(self, job: Job) -> None:
        """The program of each sheet, and what is wrong with it, off the window's thread."""
        state = (job.contours, job.operations, job.bridges, job.sheets, job.machines, job.points, job.orders, job.fits)
        if self._of_programs and all(a is b for a, b in zip(state, self._of_programs, strict=True)):
            return
        self._of_programs = state
        if not job.operations:
            self._workers.cancel(_PROGRAM_LANE)
            self._programs, self._run_found = (), ()
            return

        def work(report: Progress) -> tuple[tuple[Program, ...], tuple[Finding, ...]]:
            from draxet.make.program import program_of  # not needed to show a window
            from draxet.prove.run import run_findings

            programs = tuple(program_of(side_of(job, run), run.sheet, job.machine_of(run.sheet)) for run in runs_of(job))
            return programs, run_findings(job, programs)

        def done(answer: tuple[tuple[Program, ...], tuple[Finding, ...]]) -> None:
            if self._of_programs is state:
                self._programs, self._run_found = answer
                self._tell()

        self._run(_PROGRAM_LANE, work, done, "The program could not be made")

    def _run(self, lane: str, work: Callable[[Progress], Any], done: Callable[[Any], None], failed: str) -> None:
        """By a worker; for a large job only once it is seen."""
        wait = 0 if self._small.of(self._session.job) else _WAIT_MS
        self._workers.run(lane, work, done, lambda error: self._session.refused.emit(f"{failed}: {error}"), wait_ms=wait)

    def _look(self, job: Job) -> _Answer:
        return _Answer(job, self._watch.of(job), self._work.of(job))

    def _done(self, answer: _Answer) -> None:
        self._answer = answer
        self._tell()

    def _tell(self) -> None:
        self._session.take_looked(Looked(gravest_first((*self._answer.findings, *self._long_found, *self._run_found)), self._answer.work, self._programs))
