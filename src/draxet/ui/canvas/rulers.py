"""Rulers along the canvas in the job's unit, and the scale bar."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter, QPen

from draxet.ui.canvas.view_camera import Camera
from draxet.ui.look.style import face, px
from draxet.ui.look.tokens import Tokens
from draxet.units import UNITS, format_length, format_number

__all__ = ["nice_step", "paint_rulers", "paint_scale_bar", "ruler", "scale_bar_box"]

_STEPS = (1.0, 2.0, 5.0)


def ruler() -> int:
    """How broad a ruler is, in pixels."""
    return px(20)


def nice_step(least: float, unit: str) -> float:
    """The smallest round step in mm that is at least `least` mm, round in `unit`."""
    mm = UNITS[unit].mm
    wanted = max(least / mm, 1e-9)
    if UNITS[unit].parts and wanted < 1:
        return mm * 2.0 ** math.ceil(math.log2(wanted))
    power = 10.0 ** math.floor(math.log10(wanted))
    return mm * next((s * power for s in _STEPS if s * power >= wanted * 0.9999), 10.0 * power)


def paint_rulers(
    painter: QPainter,
    width: int,
    height: int,
    camera: Camera,
    origin: tuple[float, float],
    unit: str,
    pointer: tuple[float, float] | None,
    t: Tokens,
) -> None:
    """Paint both rulers over the view's upper and left edge, counting from `origin` (job space)."""
    camera = Camera(camera.zoom, *camera.view(*origin))
    broad = ruler()
    painter.save()
    painter.fillRect(0, 0, width, broad, QColor(t.bar))
    painter.fillRect(0, 0, broad, height, QColor(t.bar))
    step = nice_step(px(62) / camera.zoom, unit)
    painter.setFont(face(12))
    mm = UNITS[unit].mm
    places = max(0, -math.floor(math.log10(step / mm) + 1e-9)) if step < mm else 0
    minor = step / 5 if step / 5 * camera.zoom >= 5 else step
    for k in range(
        math.floor(camera.job(0, 0)[0] / minor), math.ceil(camera.job(width, 0)[0] / minor) + 1
    ):
        x = camera.view(k * minor, 0)[0]
        major = k % round(step / minor) == 0
        painter.setPen(QColor(t.quiet))
        painter.drawLine(QPointF(x + 0.5, broad - (7 if major else 3)), QPointF(x + 0.5, broad))
        if major:
            painter.drawText(QPointF(x + 4, px(12)), format_number(k * minor / mm, places))
    for k in range(
        math.floor(camera.job(0, height)[1] / minor), math.ceil(camera.job(0, 0)[1] / minor) + 1
    ):
        y = camera.view(0, k * minor)[1]
        major = k % round(step / minor) == 0
        painter.drawLine(QPointF(broad - (7 if major else 3), y + 0.5), QPointF(broad, y + 0.5))
        if major:
            painter.save()
            painter.translate(px(12), y - 4)
            painter.rotate(-90)
            painter.drawText(QPointF(0, 0), format_number(k * minor / mm, places))
            painter.restore()
    painter.fillRect(0, 0, broad, broad, QColor(t.bar))
    painter.setPen(QColor(t.line))
    painter.drawLine(0, broad, width, broad)
    painter.drawLine(broad, 0, broad, height)
    if pointer:
        painter.setPen(QPen(QColor(t.brass), 1.5))
        painter.drawLine(QPointF(pointer[0], 0), QPointF(pointer[0], broad))
        painter.drawLine(QPointF(0, pointer[1]), QPointF(broad, pointer[1]))
    painter.restore()


def scale_bar_box(height: int, camera: Camera, unit: str) -> QRectF:
    """Where the scale bar and its words are."""
    step = nice_step(70 / camera.zoom, unit)
    wide = QFontMetricsF(face(13)).horizontalAdvance(format_length(step, unit))
    return QRectF(ruler() + 20, height - px(20), step * camera.zoom, 4).adjusted(
        -8, -px(10), wide + 18, px(10)
    )


def paint_scale_bar(painter: QPainter, height: int, camera: Camera, unit: str, t: Tokens) -> None:
    """Paint a bar of a round length near the view's lower left."""
    step = nice_step(70 / camera.zoom, unit)
    length = step * camera.zoom
    words = format_length(step, unit)
    bar = QRectF(ruler() + 20, height - px(20), length, 4)
    painter.save()
    painter.setFont(face(13))
    backing = QColor(t.sheet)
    backing.setAlpha(225)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(backing)
    painter.drawRoundedRect(scale_bar_box(height, camera, unit), 3, 3)
    painter.setPen(QPen(QColor(t.graphite), 1))
    painter.setBrush(QColor(t.field))
    painter.drawRect(bar)
    painter.fillRect(QRectF(bar.left(), bar.top(), length / 2, 4), QColor(t.graphite))
    painter.drawText(QPointF(bar.right() + 8, bar.bottom() + 2), words)
    painter.restore()
