"""The bands that cuts take away follow the job while Make or Prove shows them, worked out by a worker; the old ones are shown until then."""

from __future__ import annotations

from PyQt6.QtCore import QObject

from draxet.ui.canvas.cuts import Bands, bands_of
from draxet.ui.canvas.view import Canvas
from draxet.ui.shell.session import Session, Stage

__all__ = ["Cutting"]

_LANE = "bands"


class Cutting(QObject):
    """Keeps the canvas's bands up to what is cut."""

    def __init__(self, session: Session, canvas: Canvas, parent: QObject) -> None:
        super().__init__(parent)
        self._session, self._workers, self._canvas = session, session.workers, canvas
        self._under_way: object = None
        session.looked_changed.connect(self.look)
        session.stage_changed.connect(self.look)
        session.job_ending.connect(self._end_job)

    def look(self) -> None:
        """Begin what is needed."""
        work = self._session.looked.work
        if self._session.stage not in (Stage.MAKE, Stage.PROVE) or work is self._canvas.cuts.bands.work or work is self._under_way:
            return
        self._under_way = work
        self._workers.run(_LANE, lambda report: bands_of(work, report), self._done, self._failed)

    def _done(self, bands: Bands) -> None:
        self._under_way = None
        self._canvas.cuts.bands = bands
        self._canvas.update()

    def _failed(self, error: Exception) -> None:
        self._under_way = None
        self._session.refused.emit(f"The cuts could not be worked out: {error}")

    def _end_job(self) -> None:
        self._under_way = None
        self._canvas.cuts.bands = Bands(())
