"""The bench: sheets of stock with their origins, and the limit of what the machine can reach."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QPainter, QPen

from draxet.geometry.affine import Affine
from draxet.job.records import Job
from draxet.ui.canvas.chunks import path_of, transform_of
from draxet.ui.canvas.view_camera import Camera
from draxet.ui.look.style import face
from draxet.ui.look.tokens import Tokens

__all__ = ["paint_limit", "paint_sheets"]


def paint_sheets(painter: QPainter, job: Job, camera: Camera, clip: QRectF, t: Tokens) -> None:
    """Paint every sheet in its material's colour; of several, their names, the one in hand edged in
    brass."""
    for sheet in job.sheets:
        x, y = camera.view(sheet.x, sheet.y + sheet.height)
        frame = QRectF(x, y, sheet.width * camera.zoom, sheet.height * camera.zoom)
        painter.fillRect(frame.translated(2, 3).intersected(clip), QColor(t.line))
        painter.fillRect(frame.intersected(clip), QColor(sheet.colour or t.sheet))
        in_hand = len(job.sheets) > 1 and sheet.id == job.sheet.id
        painter.setPen(QPen(QColor(t.brass if in_hand else t.sheet_edge), 1.6 if in_hand else 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(frame)
        if len(job.sheets) > 1:
            painter.setFont(face(13, QFont.Weight.DemiBold if in_hand else QFont.Weight.Normal))
            painter.setPen(QColor(t.graphite))
            painter.drawText(QPointF(x + 2, y - 5), sheet.name)
        _origin(painter, QPointF(*camera.view(*sheet.origin_place)), t)


def _origin(painter: QPainter, at: QPointF, t: Tokens) -> None:
    """Where the machine counts from: a small angle with its x and y."""
    painter.setPen(QPen(QColor(t.moss), 1.6))
    painter.drawLine(at, at + QPointF(16, 0))
    painter.drawLine(at, at + QPointF(0, -16))
    painter.drawEllipse(at, 3.0, 3.0)


def paint_limit(painter: QPainter, job: Job, camera: Camera, t: Tokens) -> None:
    """Paint the machine's limit round the sheet in hand."""
    if job.limit is None:
        return
    to_view = Affine.moved(job.sheet.x, job.sheet.y).then(camera.to_view())
    path = transform_of(to_view).map(path_of(job.limit.outline))
    for hole in job.limit.holes:
        path.addPath(transform_of(to_view).map(path_of(hole)))
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(QColor(t.quiet), 1.4, Qt.PenStyle.DashDotLine))
    painter.drawPath(path)
    painter.setFont(face(13))
    painter.drawText(path.boundingRect().bottomLeft() + QPointF(6, -8), f"limit: {job.limit.name}")
    painter.restore()
