"""Which part of the job a canvas shows: fitted, panned, zoomed, and views had back."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QWidget

from draxet.job.place_types import Box
from draxet.job.records import Job
from draxet.ui.canvas.following import ViewsBefore
from draxet.ui.canvas.placed_parts import paints_parts
from draxet.ui.canvas.rulers import ruler
from draxet.ui.canvas.view_camera import Camera
from draxet.ui.model.session import Session

if TYPE_CHECKING:
    pass

__all__ = ["ViewedCanvas"]


class ViewedCanvas(QWidget):
    """A canvas with a camera on a session's job."""

    pointed = pyqtSignal()
    """The pointer is at another place of the job, or sees another part of it."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.camera = Camera()
        self._before = ViewsBefore()
        self._pointer: tuple[float, float] | None = None
        self._fitted = False

    def show_anew(self) -> None:
        """What is in hand may look different now."""
        raise NotImplementedError

    def fit_all(self) -> None:
        """Show the sheet, the pictures and all contours."""
        self._fit(self.everything())

    def fit_selection(self) -> None:
        chosen = [item.contour.box for item in self._session.selection.items]
        self._fit(_around(chosen) if chosen else self.everything())

    def everything(self) -> tuple[float, float, float, float]:
        job = self._session.job
        extent = [self._extent(job)] if job.contours else []
        boxes = [s.box for s in job.sheets] + [p.box for p in job.pictures] + extent
        aside = self._aside()
        return _around(
            boxes
            + [(x0 + aside, y0, x1 + aside, y1) for x0, y0, x1, y1 in (p.box for p in job.pictures)]
            if aside
            else boxes
        )

    def _aside(self) -> float:
        """How far to the right pictures are shown of where they lie, in mm: 0 but while they stand
        beside the contours."""
        job = self._session.job
        if not (self._session.desk.beside and job.pictures):
            return 0.0
        extent = [self._extent(job)] if job.contours else []
        x0, _, x1, _ = _around([p.box for p in job.pictures] + extent)
        return 1.06 * (x1 - x0)

    @staticmethod
    def _extent(job: Job) -> Box:
        """The box round all contours of a job that has some."""
        if paints_parts(job):
            from draxet.job.extent import extent_of  # not needed to show a window

            return extent_of(job) or job.sheet.box
        return _around([item.contour.box for item in job.layout.contours])

    def _fit(self, box: tuple[float, float, float, float]) -> None:
        broad = ruler()
        camera = Camera.fitted(box, self.width() - broad, self.height() - broad - 20)
        self._see(camera.panned(broad, broad), fitted=True)

    def show_view(self, x: float, y: float, zoom: float) -> None:
        """Show a place in the middle at a zoom (screen pixels a mm)."""
        self._see(
            Camera(zoom, round(self.width() / 2 - zoom * x), round(self.height() / 2 + zoom * y))
        )

    def view_before(self) -> None:
        """The view that was left last."""
        if camera := self._before.take():
            self._see(camera, leaves=False)

    @property
    def has_view_before(self) -> bool:
        return bool(self._before)

    def _see(self, camera: Camera, *, fitted: bool = False, leaves: bool = True) -> None:
        if leaves and camera != self.camera and self.camera != Camera():
            self._before.leave(self.camera)
        self.camera, self._fitted = camera, fitted
        self._session.desk.view = (*camera.job(self.width() / 2, self.height() / 2), camera.zoom)
        self.pointed.emit()
        self.show_anew()

    @property
    def pointed_at(self) -> tuple[float, float] | None:
        """The place in the job where the pointer is; None where it is not over the canvas."""
        return self.camera.job(*self._pointer) if self._pointer else None

    def zoom_by(self, factor: float, x: float | None = None, y: float | None = None) -> None:
        self._see(
            self.camera.zoomed(
                factor, self.width() / 2 if x is None else x, self.height() / 2 if y is None else y
            )
        )

    def pan_by(self, dx: float, dy: float) -> None:
        self._see(self.camera.panned(dx, dy))

    def look_at(self, x: float, y: float) -> None:
        """Bring a place into the middle."""
        vx, vy = self.camera.view(x, y)
        self.pan_by(self.width() / 2 - vx, self.height() / 2 - vy)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.show_anew()  # guides run from edge to edge
        if self._fitted or self.camera == Camera():
            self.fit_all()


def _around(boxes: list[tuple[float, float, float, float]]) -> tuple[float, float, float, float]:
    return (
        min(b[0] for b in boxes),
        min(b[1] for b in boxes),
        max(b[2] for b in boxes),
        max(b[3] for b in boxes),
    )
