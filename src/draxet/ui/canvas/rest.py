"""The rest layer: everything that does not change from one moment to the next, painted once and
moved along when panned.

It is painted in steps. What does not get done within the time of a frame is gone on with in the
next ones, and the layer as it was is shown until then, moved and scaled to where it now lies:
nobody waits for thousands of contours.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Hashable, Iterator

from PyQt6.QtCore import QPoint, QPointF, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QImage, QPainter

from draxet.record import record
from draxet.ui.canvas.view_camera import Camera

__all__ = ["Paint", "RestLayer"]

Paint = Callable[[QPainter, QRectF, Camera], Iterator[None]]
"""The steps that paint a stretch of the view, as a camera sees it."""


@record(frozen=True, eq=False)
class _Coming:
    """A stretch that is being painted: where it lies in the view of its camera, and whether it is
    all of it."""

    place: QRect
    image: QImage
    camera: Camera
    state: Hashable
    whole: bool
    steps: Iterator[None]


class RestLayer:
    """An image of the view that is painted anew only where it must be."""

    def __init__(self, ground: str = "") -> None:
        """`ground` : the colour beneath everything; without one, what is not painted lets what lies
        beneath be seen."""
        self._ground = QColor(ground) if ground else None
        self._image = QImage()
        self._camera = Camera()
        self._state: Hashable = None
        self._bared: list[QRect] = []
        """Stretches of the image that came into sight and are not painted yet."""
        self._coming: _Coming | None = None

    def show(
        self,
        painter: QPainter,
        size: QSize,
        ratio: float,
        camera: Camera,
        state: Hashable,
        paint: Paint,
        until: float,
    ) -> bool:
        """Draw the layer for a view of `size`; whether all of it is as it is to be (else show it
        again in the next frame).

        Parameters
        ----------
        state : whatever else the layer shows; where it differs from last time all of it is painted
        anew. until : when (``time.monotonic``) this frame has to be done; at least a step is.
        """
        if self._coming is not None and not (
            self._fits(self._coming.image, size, ratio)
            if self._coming.whole
            else self._fits(self._image, size, ratio)
        ):
            self._coming = None
        done = False
        while not done and (self._coming is None or self._go_on(until)):
            done = self._coming is None and not self._begin(size, ratio, camera, state, paint)
        self._draw(painter, size, camera)
        return done

    def forget(self) -> None:
        """Show nothing of what was until all of it is painted anew."""
        self._coming, self._image, self._state = None, QImage(), None

    @staticmethod
    def _fits(image: QImage, size: QSize, ratio: float) -> bool:
        return image.size() == size * ratio and image.devicePixelRatio() == ratio

    def _begin(
        self, size: QSize, ratio: float, camera: Camera, state: Hashable, paint: Paint
    ) -> bool:
        """Begin with what must be painted, where anything must."""
        place = QRect(QPoint(0, 0), size)
        whole = (
            not self._fits(self._image, size, ratio)
            or state != self._state
            or camera.zoom != self._camera.zoom
        )
        if not whole:
            self._move(place, camera)
            if not self._bared:
                return False
            place = self._bared.pop()
        image = self._blank(place.size(), ratio)
        self._coming = _Coming(
            place, image, camera, state, whole, _steps(image, place, camera, paint)
        )
        return True

    def _go_on(self, until: float) -> bool:
        """Paint on, at least a step; whether that was the last one."""
        coming = self._coming
        assert coming is not None
        for _ in coming.steps:
            if time.monotonic() >= until:
                return False
        self._coming = None
        if coming.whole:
            self._image, self._camera, self._state, self._bared = (
                coming.image,
                coming.camera,
                coming.state,
                [],
            )
        else:
            on = QPainter(self._image)
            on.setCompositionMode(QPainter.CompositionMode.CompositionMode_Source)
            on.drawImage(coming.place.topLeft(), coming.image)
            on.end()
        return time.monotonic() < until

    def _move(self, whole: QRect, camera: Camera) -> None:
        """Move the image along with the camera."""
        by = QPoint(round(camera.dx - self._camera.dx), round(camera.dy - self._camera.dy))
        if by.isNull():
            return
        old, self._image = self._image, self._blank(whole.size(), self._image.devicePixelRatio())
        on = QPainter(self._image)
        on.drawImage(by, old)
        on.end()
        self._bared = [
            each
            for each in (rect.translated(by) & whole for rect in self._bared)
            if not each.isEmpty()
        ] + _bared(whole, by)
        self._camera = camera

    def _draw(self, painter: QPainter, size: QSize, camera: Camera) -> None:
        """Draw the image where it lies for a camera."""
        if self._image.isNull() or camera != self._camera:
            painter.fillRect(QRect(QPoint(0, 0), size), self._ground or Qt.GlobalColor.transparent)
        scale = camera.zoom / self._camera.zoom
        x, y = camera.dx - scale * self._camera.dx, camera.dy - scale * self._camera.dy
        wide, high = (
            self._image.width() / self._image.devicePixelRatio(),
            self._image.height() / self._image.devicePixelRatio(),
        )
        if scale == 1.0:
            painter.drawImage(QPointF(x, y), self._image)
        else:
            painter.drawImage(QRectF(x, y, scale * wide, scale * high), self._image)

    def _blank(self, size: QSize, ratio: float) -> QImage:
        image = QImage(
            size * ratio,
            QImage.Format.Format_RGB32
            if self._ground
            else QImage.Format.Format_ARGB32_Premultiplied,
        )
        image.setDevicePixelRatio(ratio)
        image.fill(self._ground or Qt.GlobalColor.transparent)
        return image


def _steps(image: QImage, place: QRect, camera: Camera, paint: Paint) -> Iterator[None]:
    """The steps of painting a stretch into an image of its own."""
    painter = QPainter(image)
    try:
        painter.translate(-place.x(), -place.y())
        painter.setClipRect(place)
        yield from paint(painter, QRectF(place), camera)
    finally:
        painter.end()


def _bared(whole: QRect, move: QPoint) -> list[QRect]:
    """The stretches of a view that come into sight when what it showed is moved by `move`."""
    width, height, dx, dy = whole.width(), whole.height(), move.x(), move.y()
    if abs(dx) >= width or abs(dy) >= height:
        return [whole]
    parts = []
    if dx:
        parts.append(QRect(0 if dx > 0 else width + dx, 0, abs(dx), height))
    if dy:
        parts.append(QRect(max(dx, 0), 0 if dy > 0 else height + dy, width - abs(dx), abs(dy)))
    return parts
