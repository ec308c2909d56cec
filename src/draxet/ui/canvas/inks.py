"""What contours look like filled and drawn: areas in their colour, and lines as broad as they are. A quiet wash beneath the contours."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QTransform

from draxet.geometry.affine import Affine
from draxet.job.records import ContourItem
from draxet.ui.canvas.contours import path_of

__all__ = ["InkPainter"]

_FILL_SHOWS, _LINE_SHOWS = 0.22, 0.28


class InkPainter:
    """Keeps a path for each colour and each line width; made anew only when the contours that have one change."""

    def __init__(self) -> None:
        self._shown: tuple[ContourItem, ...] = ()
        self._of: tuple[ContourItem, ...] = ()
        self._fills: dict[str, QPainterPath] = {}
        self._lines: dict[tuple[float, str], QPainterPath] = {}

    def show(self, items: tuple[ContourItem, ...]) -> None:
        """Say which contours are at rest now."""
        if items is self._shown:
            return
        self._shown = items
        inked = tuple(item for item in items if item.colour or item.line)
        if len(inked) == len(self._of) and all(a is b for a, b in zip(inked, self._of, strict=True)):
            return
        self._of, self._fills, self._lines = inked, {}, {}
        for item in inked:
            path = path_of(item.contour)
            if item.colour and item.contour.closed:
                self._fills.setdefault(item.colour, QPainterPath()).addPath(path)
            if item.line:
                self._lines.setdefault((item.line, "" if item.contour.closed else item.colour), QPainterPath()).addPath(path)

    def paint(self, painter: QPainter, to_view: Affine, clip: QRectF, colour: str) -> None:
        """Paint what lies in `clip` (view); lines without a colour of their own in `colour`."""
        if not self._fills and not self._lines:
            return
        painter.save()
        painter.setClipRect(clip)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setTransform(QTransform(to_view.a, to_view.d, to_view.b, to_view.e, to_view.c, to_view.f), True)
        for own, path in self._fills.items():
            wash = QColor(own)
            wash.setAlphaF(_FILL_SHOWS)
            painter.fillPath(path, wash)  # every second of nested contours is a hole
        for (wide, own), path in self._lines.items():
            wash = QColor(own or colour)
            wash.setAlphaF(_LINE_SHOWS)
            painter.strokePath(path, QPen(wash, wide, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
        painter.restore()
