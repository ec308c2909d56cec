"""A program as it will run: the way of the tool's middle with its leads, the ways between, dotted, and where each line begins."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QTransform

from draxet.geometry.affine import Affine
from draxet.job.program import Program
from draxet.ui.look.tokens import Tokens

__all__ = ["ProgramPainter"]

_MOST_MOVES = 60_000
"""A longer program is not drawn move by move."""
_MOST_BEGINNINGS = 400


class ProgramPainter:
    """Keeps the paths of the program that was shown last."""

    def __init__(self) -> None:
        self._of: tuple[Program, ...] = ()
        self._work, self._travel = QPainterPath(), QPainterPath()
        self._beginnings: list[QPointF] = []

    def show(self, programs: tuple[Program, ...], origins: tuple[tuple[float, float], ...]) -> None:
        """Say which programs there are now, each counted from its origin in job space."""
        if programs is self._of:
            return
        self._of = programs
        self._work, self._travel, self._beginnings = QPainterPath(), QPainterPath(), []
        for program, (x, y) in zip(programs, origins, strict=False):
            if len(program) <= _MOST_MOVES:
                self._add(program, x, y)

    def _add(self, program: Program, x: float, y: float) -> None:
        begins, ends, centres = program.beginnings + (x, y), program.to + (x, y), program.centre + (x, y)
        fresh = np.append(True, (program.path[1:] != program.path[:-1]) | (program.work[1:] != program.work[:-1])) if len(program) else np.zeros(0, dtype=bool)
        for begin, to, centre, turn, work, new in zip(begins.tolist(), ends.tolist(), centres.tolist(), program.turn.tolist(), program.work.tolist(), fresh.tolist(), strict=True):
            path = self._work if work else self._travel
            if new:
                path.moveTo(*begin)
                if work and len(self._beginnings) <= _MOST_BEGINNINGS:
                    self._beginnings.append(QPointF(*begin))
            if turn:
                radius = math.dist(begin, centre)
                box = QRectF(centre[0] - radius, centre[1] - radius, 2 * radius, 2 * radius)
                start = -math.degrees(math.atan2(begin[1] - centre[1], begin[0] - centre[0]))  # the library counts clockwise where y is up
                path.arcTo(box, start, -math.degrees(turn))
            else:
                path.lineTo(*to)

    def paint(self, painter: QPainter, to_view: Affine, t: Tokens) -> None:
        """Paint it over the contours."""
        if self._work.isEmpty() and self._travel.isEmpty():
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        transform = QTransform(to_view.a, to_view.d, to_view.b, to_view.e, to_view.c, to_view.f)
        painter.setTransform(transform, True)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        travel = QPen(QColor(t.quiet), 1)
        travel.setCosmetic(True)
        travel.setDashPattern([1.0, 4.0])
        painter.setPen(travel)
        painter.drawPath(self._travel)
        work = QPen(QColor(t.cut_tag), 0)
        work.setCosmetic(True)
        painter.setPen(work)
        painter.drawPath(self._work)
        painter.restore()
        if len(self._beginnings) <= _MOST_BEGINNINGS:
            painter.save()
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(QColor(t.cut_tag), 1.2))
            painter.setBrush(QColor(t.field))
            for place in self._beginnings:
                painter.drawEllipse(transform.map(place), 2.6, 2.6)
            painter.restore()
