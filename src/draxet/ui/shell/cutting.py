"""The bands that cuts take away follow the job while Make or Prove shows them, worked out by a worker; the old ones are shown until then."""

from __future__ import annotations

from PyQt6.QtCore import QObject

from draxet.ui.canvas.cuts import Bands, bands_of
from draxet.ui.canvas.view import Canvas
from draxet.ui.canvas.worked import WorkedLines, worked_lines
from draxet.ui.shell.session import Session, Stage

__all__ = ["Cutting"]

_LANE = "bands"
_LINE_LANE = "worked lines"


class Cutting(QObject):
    """Keeps the canvas's bands up to what is cut."""

    def __init__(self, session: Session, canvas: Canvas, parent: QObject) -> None:
        super().__init__(parent)
        self._session, self._workers, self._canvas = session, session.workers, canvas
        self._under_way: object = None
        self._lines_of: tuple[object, ...] = ()
        session.looked_changed.connect(self.look)
        session.job_changed.connect(self._look_at_lines)
        session.stage_changed.connect(self._look_at_lines)
        session.stage_changed.connect(self.look)
        session.job_ending.connect(self._end_job)

    def look(self) -> None:
        """Begin what is needed."""
        work = self._session.looked.work
        if self._session.stage not in (Stage.MAKE, Stage.PROVE) or work is self._canvas.cuts.bands.work or work is self._under_way:
            return
        self._under_way = work
        self._workers.run(_LANE, lambda report: bands_of(work, report), self._done, self._failed)

    def _look_at_lines(self) -> None:
        """Have the lines of other operations worked out, where they are not those that are known."""
        job = self._session.job
        state = (job.operations, job.contours, job.sheets, job.points)
        if self._session.stage not in (Stage.MAKE, Stage.PROVE) or (self._lines_of and all(a is b for a, b in zip(state, self._lines_of, strict=True))):
            return
        self._lines_of = state
        if all(operation.through for operation in job.operations):
            self._show_lines(WorkedLines(state))
            return
        self._workers.run(_LINE_LANE, lambda report: worked_lines(job, report), self._show_lines, lambda error: self._session.refused.emit(f"An operation could not be worked out: {error}"))

    def _show_lines(self, lines: WorkedLines) -> None:
        self._canvas.worked.lines = lines
        self._canvas.update()

    def _done(self, bands: Bands) -> None:
        self._under_way = None
        self._canvas.cuts.bands = bands
        self._canvas.update()

    def _failed(self, error: Exception) -> None:
        self._under_way = None
        self._session.refused.emit(f"The cuts could not be worked out: {error}")

    def _end_job(self) -> None:
        self._under_way = None
        self._lines_of = ()
        self._canvas.cuts.bands = Bands(())
        self._canvas.worked.lines = WorkedLines()
