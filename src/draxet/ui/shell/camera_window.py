"""The camera: live view, capture, try the trace on the shot, capture again, use it."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any, Protocol

import numpy as np
from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QRectF, QTimer
from PyQt6.QtGui import QColor, QImage, QPainter, QPaintEvent, QPen, QTransform
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QVBoxLayout, QWidget

from draxet.geometry.arrays import NDArray
from draxet.geometry.contour import Contour
from draxet.machines.simulated_camera import SimulatedCamera
from draxet.progress import Progress
from draxet.ui.canvas.chunks import path_of
from draxet.ui.controls.slip_parts import button, label, menu_button
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.picture_store import to_qimage
from draxet.ui.model.workers import Workers
from draxet.ui.stages.trace.attempt import Attempt

__all__ = ["CameraWindow"]

_EVERY_MS = 90
_LANE, _TRY_LANE = "camera", "camera try"
_PNG_QUALITY = 80
_LIVE_SIZE = (960, 720)
_SHOT_SIZE = (1920, 1440)


class Source(Protocol):
    """Where frames come from; asked by a worker."""

    name: str

    def live(self) -> QImage: ...

    def shot(self) -> QImage: ...

    def close(self) -> None: ...


class SimulatedSource:
    """The camera that ships: a stencil on a bench with a card beside it."""

    name = "Simulated camera"

    def __init__(self) -> None:
        self._begun = time.monotonic()
        self._cameras: dict[tuple[int, int], SimulatedCamera] = {}

    def live(self) -> QImage:
        return self._seen(_LIVE_SIZE)

    def shot(self) -> QImage:
        return self._seen(_SHOT_SIZE)

    def _seen(self, size: tuple[int, int]) -> QImage:
        if size not in self._cameras:
            self._cameras[size] = SimulatedCamera(size)  # its scene takes a while to draw
        camera = self._cameras[size]
        return to_qimage(camera.frame(camera.hand_held(time.monotonic() - self._begun)))

    def close(self) -> None:
        return None


class QtSource:
    """A real camera, through Qt."""

    def __init__(self, device: Any) -> None:
        from PyQt6.QtMultimedia import QCamera, QMediaCaptureSession, QVideoSink

        self.name = str(device.description())
        self._frame = QImage()
        self._camera, self._session, self._sink = (
            QCamera(device),
            QMediaCaptureSession(),
            QVideoSink(),
        )
        self._session.setCamera(self._camera)
        self._session.setVideoSink(self._sink)
        self._sink.videoFrameChanged.connect(self._take)
        self._camera.start()

    def _take(self, frame: Any) -> None:
        self._frame = frame.toImage()

    def live(self) -> QImage:
        return self._frame

    def shot(self) -> QImage:
        return self._frame.copy()

    def close(self) -> None:
        self._camera.stop()


def sources() -> list[tuple[str, Callable[[], Source]]]:
    """Names of the cameras there are, and what opens each; the simulated one is always there,
    last."""
    found: list[tuple[str, Callable[[], Source]]] = []
    try:
        from PyQt6.QtMultimedia import QMediaDevices

        found = [
            (device.description(), lambda device=device: QtSource(device))  # type: ignore[misc]
            for device in QMediaDevices.videoInputs()
        ]
    except ImportError:
        pass  # no multimedia on this machine: only the simulated camera
    return [*found, (SimulatedSource.name, SimulatedSource)]


class _View(QWidget):
    """A frame, and over it the contours that were tried."""

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumSize(640, 440)
        self.image = QImage()
        self.contours: tuple[Contour, ...] = ()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(LIGHT.graphite))
        if self.image.isNull():
            return
        scale = min(self.width() / self.image.width(), self.height() / self.image.height())
        left, top = (
            (self.width() - scale * self.image.width()) / 2,
            (self.height() - scale * self.image.height()) / 2,
        )
        painter.setRenderHints(
            QPainter.RenderHint.SmoothPixmapTransform | QPainter.RenderHint.Antialiasing
        )
        painter.drawImage(
            QRectF(left, top, scale * self.image.width(), scale * self.image.height()), self.image
        )
        painter.setTransform(QTransform(scale, 0, 0, scale, left, top))
        pen = QPen(QColor(LIGHT.card_note), 1.8)
        pen.setCosmetic(True)
        painter.setPen(pen)
        for contour in self.contours:
            painter.drawPath(path_of(contour))


class CameraWindow(QDialog):
    """Live view; after `exec` the picture taken is in `taken` (PNG), empty where none was. `attempt`
    traces what was taken, to be looked at."""

    def __init__(self, workers: Workers, parent: QWidget, attempt: Attempt) -> None:
        super().__init__(parent)
        self.setWindowTitle("Camera")
        self.resize(880, 640)
        self._workers, self._attempt = workers, attempt
        self.taken = b""
        self._sources = sources()
        self._source: Source = self._sources[0][1]()
        self.view = _View()
        self._words = label("", "section", wrap=True)
        self._fact = label("", "quiet")
        self.choose = menu_button(
            self._source.name,
            [(name, lambda make=make: self._change(make)) for name, make in self._sources],  # type: ignore[misc]
        )
        self.capture = button("Capture", "main", self._capture)
        self.again = button("Capture again", "plain", lambda: self._live_again())
        self.attempt = button("Try the trace", "plain", self._try)
        self.use = button("Use this picture", "main", self.accept)
        row = QHBoxLayout()
        row.addWidget(self.choose)
        row.addWidget(self._fact, 1)
        for made in (
            button("Cancel", "plain", self.reject),
            self.again,
            self.attempt,
            self.capture,
            self.use,
        ):
            row.addWidget(made)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(16, 14, 16, 14)
        rows.addWidget(self._words)
        rows.addWidget(self.view, 1)
        rows.addLayout(row)
        self._timer = QTimer(self)
        self._timer.setInterval(_EVERY_MS)
        self._timer.timeout.connect(self._tick)
        self._live_again()

    def _change(self, make: Callable[[], Source]) -> None:
        self._source.close()
        self._source = make()
        self.choose.setText(self._source.name)
        self._live_again()

    def _live_again(self, fact: str = "") -> None:
        self.taken, self.view.contours = b"", ()
        self._show(
            "Hold it straight above the work, a card or a sheet of known size beside it; then capture.",
            fact,
            live=True,
        )
        self._timer.start()
        self._tick()

    def _show(self, words: str, fact: str, *, live: bool) -> None:
        self._words.setText(words)
        self._fact.setText(fact)
        for made, when in (
            (self.capture, live),
            (self.again, not live),
            (self.attempt, not live),
            (self.use, not live),
        ):
            made.setVisible(when)
        main = self.capture if live else self.use
        main.setDefault(True)
        main.setFocus()

    def _tick(self) -> None:
        if not self._workers.busy(_LANE):
            source = self._source
            self._workers.run(
                _LANE,
                lambda report: source.live(),
                self._show_frame,
                lambda error: self._fact.setText(f"the camera gives no picture: {error}"),
                owner=self,
            )

    def _show_frame(self, image: QImage) -> None:
        if self._timer.isActive():
            self.view.image = image
            self.view.update()

    def _capture(self) -> None:
        if not self._timer.isActive():
            return  # a shot is being taken
        source = self._source
        self._timer.stop()
        self._fact.setText("capturing …")
        self._workers.run(
            _LANE,
            lambda report: _kept(source.shot()),
            self._captured,
            lambda error: self._live_again(f"the camera gives no picture: {error}"),
            owner=self,
        )

    def _captured(self, shot: tuple[QImage, bytes]) -> None:
        image, taken = shot
        if image.isNull():
            self._live_again("no frame has come from the camera yet")
            return
        self.view.image, self.taken = image, taken
        self._show(
            "Captured. Try the trace on it, capture again, or use it.",
            f"{image.width()} × {image.height()} px",
            live=False,
        )
        self.view.update()

    def _try(self) -> None:
        pixels = _pixels(self.view.image)

        def work(report: Progress) -> tuple[Contour, ...]:
            return self._attempt(pixels, report)

        self._fact.setText("tracing …")
        self._workers.run(
            _TRY_LANE,
            work,
            self._tried,
            lambda error: self._fact.setText(f"it could not be traced: {error}"),
            owner=self,
        )

    def _tried(self, contours: tuple[Contour, ...]) -> None:
        self.view.contours = contours
        self._fact.setText(
            f"{len(contours)} contours, {sum(len(c.nodes) for c in contours):,} nodes"
        )
        self.view.update()

    def done(self, result: int) -> None:
        self._timer.stop()
        for lane in (_LANE, _TRY_LANE):
            self._workers.cancel(lane)
        self._source.close()
        if not result:
            self.taken = b""
        super().done(result)


def _kept(image: QImage) -> tuple[QImage, bytes]:
    """A shot, and it as PNG: lightly pressed, as grain does not get smaller by more."""
    store = QByteArray()
    buffer = QBuffer(store)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG", _PNG_QUALITY)
    return image, bytes(store.data())


def _pixels(image: QImage) -> NDArray[Any]:
    rgb = image.convertToFormat(QImage.Format.Format_RGB888)
    bits = rgb.constBits()
    assert bits is not None
    rows: NDArray[Any] = np.frombuffer(bytes(bits.asarray(rgb.sizeInBytes())), np.uint8).reshape(
        rgb.height(), rgb.bytesPerLine()
    )
    return rows[:, : 3 * rgb.width()].reshape(rgb.height(), rgb.width(), 3).copy()
