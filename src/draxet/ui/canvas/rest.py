"""The rest layer: everything that does not change from one moment to the next, painted once and moved along when panned."""

from __future__ import annotations

from collections.abc import Callable, Hashable

from PyQt6.QtCore import QPoint, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QImage, QPainter

from draxet.ui.canvas.camera import Camera

__all__ = ["RestLayer"]


class RestLayer:
    """An image of the view that is painted anew only where it must be."""

    def __init__(self, *, clear: bool = False) -> None:
        """`clear` : whether what is not painted lets what lies beneath be seen."""
        self._clear = clear
        self._image = QImage()
        self._camera = Camera()
        self._state: Hashable = None

    def image(self, size: QSize, ratio: float, camera: Camera, state: Hashable, paint: Callable[[QPainter, QRectF], None]) -> QImage:
        """The layer for a view of `size`; `paint` is called for each stretch that must be painted.

        Parameters
        ----------
        state : whatever else the layer shows; where it differs from last time all of it is painted anew.
        """
        fits = self._image.size() == size * ratio and self._image.devicePixelRatio() == ratio
        if not fits or state != self._state or camera.zoom != self._camera.zoom:
            self._image = self._blank(size, ratio)
            self._fill(paint, [QRect(QPoint(0, 0), size)])
        elif camera != self._camera:
            move = QPoint(round(camera.dx - self._camera.dx), round(camera.dy - self._camera.dy))
            old, self._image = self._image, self._blank(size, ratio)
            painter = QPainter(self._image)
            painter.drawImage(move, old)
            painter.end()
            whole = QRect(QPoint(0, 0), size)
            self._fill(paint, _bared(whole, move))
        self._camera, self._state = camera, state
        return self._image

    def _blank(self, size: QSize, ratio: float) -> QImage:
        image = QImage(size * ratio, QImage.Format.Format_ARGB32_Premultiplied if self._clear else QImage.Format.Format_RGB32)
        image.setDevicePixelRatio(ratio)
        if self._clear:
            image.fill(Qt.GlobalColor.transparent)
        return image

    def _fill(self, paint: Callable[[QPainter, QRectF], None], parts: list[QRect]) -> None:
        painter = QPainter(self._image)
        for part in parts:
            painter.save()
            painter.setClipRect(part)
            paint(painter, QRectF(part))
            painter.restore()
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
