"""What an empty canvas says: how to begin."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QPainter, QPen

from draxet.ui.look.icons import pixmap
from draxet.ui.look.style import face
from draxet.ui.look.tokens import Tokens

__all__ = ["paint_welcome"]

_ROWS = (("Q", "choose a picture or a drawing from your files"), ("W", "paste a screen capture or a copied picture"), ("", "or drop pictures, PDF, SVG or DXF files on this window"))


def paint_welcome(painter: QPainter, width: int, height: int, t: Tokens) -> None:
    """Paint the welcome in the middle of a view."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    box = QRectF((width - 420) / 2, (height - 210) / 2, 420, 210)
    painter.setPen(QPen(QColor(t.sheet_edge), 1.5, Qt.PenStyle.DashLine))
    painter.setBrush(QColor(t.slip))
    painter.drawRoundedRect(box, 8, 8)
    painter.drawPixmap(QPointF(box.left() + 28, box.top() + 26), pixmap("picture", t.brass, 32))
    painter.setPen(QColor(t.graphite))
    painter.setFont(face(22, QFont.Weight.DemiBold))
    painter.drawText(QPointF(box.left() + 74, box.top() + 51), "Begin with a picture")
    for k, (key, words) in enumerate(_ROWS):
        y = box.top() + 96 + 32 * k
        if key:
            painter.setPen(QPen(QColor(t.quiet), 1))
            painter.drawRoundedRect(QRectF(box.left() + 30, y - 15, 22, 22), 3, 3)
            painter.setFont(face(14))
            painter.drawText(QRectF(box.left() + 30, y - 15, 22, 22), Qt.AlignmentFlag.AlignCenter, key)
        painter.setFont(face(16))
        painter.setPen(QColor(t.graphite))
        painter.drawText(QPointF(box.left() + 74, y + 2), words)
    painter.restore()
