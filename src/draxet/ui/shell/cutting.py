"""What is painted of the work (bands that cuts take away, lines of other operations, programs)
follows the job while Make or Prove shows it, worked out by a worker; the old is shown until
then."""

from __future__ import annotations

from PyQt6.QtCore import QObject

from draxet.job.layout import LAID_FIELDS
from draxet.job.operations.operation_kind import paths_of
from draxet.job.records import Job
from draxet.job.sides import runs_of
from draxet.progress import Progress
from draxet.ui.canvas.bunches import ProgramPaths
from draxet.ui.canvas.cuts import Bands, bands_of
from draxet.ui.canvas.programs import program_paths
from draxet.ui.canvas.view import Canvas
from draxet.ui.canvas.worked import Paths, WorkedLines, worked_lines
from draxet.ui.model.derived import Derived
from draxet.ui.model.session import Session
from draxet.ui.model.size import is_large

__all__ = ["Cutting"]

_WAIT_MS = 100
_OF_LINES = ("operations", "contours", "sheets", "points", *LAID_FIELDS)


class Cutting(QObject):
    """Keeps what the canvas shows of the work up to the job."""

    def __init__(self, session: Session, canvas: Canvas, parent: QObject) -> None:
        super().__init__(parent)
        self._session, self._canvas = session, canvas
        self._bands = Derived[Bands](
            session,
            "bands",
            Bands(()),
            "The cuts could not be worked out",
            told=self._show,
        )
        self._lines = Derived[WorkedLines](
            session,
            "worked lines",
            WorkedLines(),
            "The operations could not be worked out",
            told=self._show,
        )
        self._programs = Derived[ProgramPaths](
            session,
            "program paths",
            ProgramPaths(),
            "The program's lines could not be worked out",
            told=self._show,
        )
        session.looked_changed.connect(self.look)
        session.document.changed.connect(self._look_at_lines)
        session.desk.stage_changed.connect(self._look_at_lines)
        session.desk.stage_changed.connect(self.look)

    def look(self) -> None:
        """Begin what is needed."""
        if not self._session.shows_work:
            return
        work, products = self._session.looked.work, self._session.looked.products
        self._bands.ask((work,), lambda report: bands_of(work, report), _WAIT_MS)
        job = self._session.job
        self._programs.ask(
            (products,),
            lambda report: program_paths(products, runs_of(job), report),
            _WAIT_MS,
        )

    def _look_at_lines(self) -> None:
        """Have the lines of other operations worked out."""
        job = self._session.job
        if not self._session.shows_work:
            return
        state = tuple(getattr(job, name) for name in _OF_LINES)
        if all(operation.through for operation in job.operations):
            self._lines.take(state, WorkedLines())
            return
        before = self._lines.value
        self._lines.ask(
            state,
            lambda report: worked_lines(job.layout, report, self._paths(job, report), before),
            _WAIT_MS,
        )

    def _paths(self, job: Job, report: Progress) -> Paths:
        """How an operation's lines are worked out: of a large job where that can be ended."""
        if not is_large(job):
            return paths_of
        return lambda *of: self._session.workers.apart_plainly(report, paths_of, *of)

    def _show(self) -> None:
        canvas = self._canvas
        canvas.cuts.bands = self._bands.value
        canvas.worked.lines = self._lines.value
        canvas.programs.paths = self._programs.value
        canvas.show_anew()
