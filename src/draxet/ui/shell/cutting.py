"""What is painted of the work (bands that cuts take away, lines of other operations, programs)
follows the job while Make or Prove shows it, worked out by a worker; the old is shown until
then."""

from __future__ import annotations

from PyQt6.QtCore import QObject

from draxet.job.layout import LAID_FIELDS
from draxet.job.operations.operation_kind import paths_of
from draxet.job.records import Job
from draxet.job.sides import runs_of
from draxet.job.work import CutWork
from draxet.progress import Progress
from draxet.ui.canvas.bunches import ProgramPaths
from draxet.ui.canvas.cuts import Bands, bands_of, nearest
from draxet.ui.canvas.programs import program_paths
from draxet.ui.canvas.view import Canvas
from draxet.ui.canvas.worked import Paths, WorkedLines, worked_lines
from draxet.ui.model.derived import Derived
from draxet.ui.model.session import Session
from draxet.ui.model.size import is_large

__all__ = ["Cutting"]

_WAIT_MS = 100
_FIRST = 200
"""So many cuts are worked out, and seen, before the others."""
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
        self._first = Derived[Bands](
            session,
            "nearest bands",
            Bands(()),
            "The cuts could not be worked out",
            told=self._go_on,
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
        if len(work) <= _FIRST:
            before = self._bands.value
            self._bands.ask((work,), lambda report: bands_of(work, report, before), _WAIT_MS)
        elif not self._bands.known((work,)):
            self._begin_nearest(work)
        job = self._session.job
        self._programs.ask(
            (products,),
            lambda report: program_paths(products, runs_of(job), report),
            _WAIT_MS,
        )

    def _begin_nearest(self, work: tuple[CutWork, ...]) -> None:
        canvas, before = self._canvas, self._bands.value
        x, y = canvas.camera.job(canvas.width() / 2, canvas.height() / 2)
        asked = self._first.ask(
            (work,),
            lambda report: bands_of(nearest(work, before, x, y, _FIRST), report, before),
            _WAIT_MS,
        )
        if not asked and not self._first.busy:
            self._go_on()

    def _go_on(self) -> None:
        """The nearest cuts are seen; then all others."""
        first, work = self._first.value, self._session.looked.work
        if not self._first.known((work,)):
            return  # it is another one meanwhile
        self._bands.ask((work,), lambda report: bands_of(work, report, first))
        self._show()

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
        goes_on = self._bands.busy and self._first.known(self._bands.goes_by or ())
        canvas.cuts.bands = (self._first if goes_on else self._bands).value
        canvas.worked.lines = self._lines.value
        canvas.programs.paths = self._programs.value
        canvas.show_anew()
