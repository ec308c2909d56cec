"""What is painted of the work (bands that cuts take away, lines of other operations, programs)
follows the job while Make or Prove shows it, worked out by a worker; the old is shown until
then."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject

from draxet.job.layout import LAID_FIELDS
from draxet.job.operations.operation_kind import paths_of
from draxet.job.records import Job
from draxet.job.sides import runs_of
from draxet.progress import Progress
from draxet.ui.canvas.cuts import Bands, bands_of
from draxet.ui.canvas.programs import ProgramPaths, program_paths
from draxet.ui.canvas.view import Canvas
from draxet.ui.canvas.worked import Paths, WorkedLines, worked_lines
from draxet.ui.shell.session import Session
from draxet.ui.shell.size import is_large
from draxet.ui.shell.stage import Stage

__all__ = ["Cutting"]

_LANE = "bands"
_LINE_LANE = "worked lines"
_PROGRAM_LANE = "program paths"
_WAIT_MS = 100


class Cutting(QObject):
    """Keeps what the canvas shows of the work up to the job."""

    def __init__(self, session: Session, canvas: Canvas, parent: QObject) -> None:
        super().__init__(parent)
        self._session, self._workers, self._canvas = session, session.workers, canvas
        self._bands_of: object = ()
        self._programs_of: object = ()
        self._lines_of: tuple[object, ...] = ()
        session.looked_changed.connect(self.look)
        session.job_changed.connect(self._look_at_lines)
        session.stage_changed.connect(self._look_at_lines)
        session.stage_changed.connect(self.look)
        session.job_ending.connect(self._end_job)

    def look(self) -> None:
        """Begin what is needed."""
        if self._session.stage not in (Stage.MAKE, Stage.PROVE):
            return
        looked = self._session.looked
        if looked.work is not self._bands_of:
            self._bands_of = work = looked.work
            self._run(_LANE, lambda report: bands_of(work, report), self._show_bands, "The cuts")
        if looked.programs is not self._programs_of:
            self._programs_of = programs = looked.programs
            runs = runs_of(self._session.layout)
            self._run(
                _PROGRAM_LANE,
                lambda report: program_paths(programs, runs, report),
                self._show_programs,
                "The program's lines",
            )

    def _look_at_lines(self) -> None:
        """Have the lines of other operations worked out, where they are not those that are
        known."""
        job = self._session.job
        fields = ("operations", "contours", "sheets", "points", *LAID_FIELDS)
        state = tuple(getattr(job, name) for name in fields)
        if self._session.stage not in (Stage.MAKE, Stage.PROVE) or (
            self._lines_of and all(a is b for a, b in zip(state, self._lines_of, strict=True))
        ):
            return
        self._lines_of = state
        if all(operation.through for operation in job.operations):
            self._workers.cancel(_LINE_LANE)
            self._show_lines(WorkedLines(state))
            return
        self._run(
            _LINE_LANE,
            lambda report: worked_lines(job.layout, report, self._paths(job, report)),
            self._show_lines,
            "The operations",
        )

    def _paths(self, job: Job, report: Progress) -> Paths:
        """How an operation's lines are worked out: of a large job where that can be ended."""
        if not is_large(job):
            return paths_of
        from draxet.apart import plainly

        return lambda *of: self._workers.aside.call(
            report, plainly, paths_of.__module__, paths_of.__qualname__, *of
        )

    def _run(
        self, lane: str, work: Callable[..., Any], done: Callable[[Any], None], what: str
    ) -> None:
        self._workers.run(
            lane,
            work,
            done,
            lambda error: self._session.refused.emit(f"{what} could not be worked out: {error}"),
            wait_ms=_WAIT_MS,
        )

    def _show_bands(self, bands: Bands) -> None:
        self._canvas.cuts.bands = bands
        self._canvas.show_anew()

    def _show_lines(self, lines: WorkedLines) -> None:
        self._canvas.worked.lines = lines
        self._canvas.show_anew()

    def _show_programs(self, paths: ProgramPaths) -> None:
        self._canvas.programs.paths = paths
        self._canvas.show_anew()

    def _end_job(self) -> None:
        self._bands_of, self._programs_of, self._lines_of = (), (), ()
        self._canvas.cuts.bands = Bands(())
        self._canvas.programs.paths = ProgramPaths()
        self._canvas.worked.lines = WorkedLines()
