"""A program as it will run: the way of the tool's middle with its leads, the ways between, dotted, and where each line begins."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QTransform

from draxet.geometry.affine import Affine
from draxet.job.program import Program
from draxet.job.sides import Run, mirror_of
from draxet.record import record
from draxet.ui.canvas.moves import add_move
from draxet.ui.look.tokens import Tokens

__all__ = ["ProgramPainter"]

_MOST_MOVES = 60_000
"""A longer program is not drawn move by move."""
_MOST_BEGINNINGS = 400
_CHUNK = 300
"""Moves in one path."""


@record(frozen=True, eq=False)
class _Chunk:
    path: QPainterPath
    box: QRectF
    work: bool


class ProgramPainter:
    """Keeps the paths of the programs that were shown last."""

    def __init__(self) -> None:
        self._of: tuple[Program, ...] = ()
        self._chunks: list[_Chunk] = []
        self._beginnings: list[QPointF] = []

    def show(self, programs: tuple[Program, ...], runs: tuple[Run, ...]) -> None:
        """Say which programs there are now, and of which runs they are; those of the back are shown as they lie beneath the face."""
        if programs is self._of:
            return
        self._of, self._chunks, self._beginnings = programs, [], []
        for program, run in zip(programs, runs, strict=False):
            if 0 < len(program) <= _MOST_MOVES:
                self._add(program, run)

    def _add(self, program: Program, run: Run) -> None:
        there = Affine.moved(*run.sheet.origin_place)
        there = there.then(mirror_of(run.sheet)) if run.back else there
        begins, ends, centres = (there.apply(each) for each in (program.beginnings, program.to, program.centre))
        turns = -program.turn if run.back else program.turn
        fresh = np.append(True, (program.path[1:] != program.path[:-1]) | (program.work[1:] != program.work[:-1]))
        path, size, kind = QPainterPath(), 0, True
        for begin, to, centre, turn, work, new in zip(begins.tolist(), ends.tolist(), centres.tolist(), turns.tolist(), program.work.tolist(), fresh.tolist(), strict=True):
            if size and (work != kind or size >= _CHUNK):
                self._put(path, kind)
                path, size, new = QPainterPath(), 0, True
            kind, size = work, size + 1
            if new:
                path.moveTo(*begin)
                if work and len(self._beginnings) <= _MOST_BEGINNINGS:
                    self._beginnings.append(QPointF(*begin))
            add_move(path, begin, to, centre, turn)
        self._put(path, kind)

    def _put(self, path: QPainterPath, work: bool) -> None:
        self._chunks.append(_Chunk(path, path.controlPointRect().adjusted(-1e-6, -1e-6, 1e-6, 1e-6), work))

    def paint(self, painter: QPainter, to_view: Affine, clip: QRectF, t: Tokens) -> None:
        """Paint what lies in `clip` (view), over the contours."""
        back = to_view.inverse()
        a, b = back.point(clip.left(), clip.bottom()), back.point(clip.right(), clip.top())
        margin = 4 / to_view.scale
        seen = QRectF(a[0] - margin, a[1] - margin, b[0] - a[0] + 2 * margin, b[1] - a[1] + 2 * margin)
        chunks = [chunk for chunk in self._chunks if chunk.box.intersects(seen)]
        if not chunks:
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        transform = QTransform(to_view.a, to_view.d, to_view.b, to_view.e, to_view.c, to_view.f)
        painter.setTransform(transform, True)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        travel, work = QPen(QColor(t.quiet), 1), QPen(QColor(t.cut_tag), 0)
        travel.setDashPattern([1.0, 4.0])
        for pen, kind in ((travel, False), (work, True)):
            pen.setCosmetic(True)
            painter.setPen(pen)
            for chunk in chunks:
                if chunk.work is kind:
                    painter.drawPath(chunk.path)
        painter.restore()
        if len(self._beginnings) <= _MOST_BEGINNINGS:
            painter.save()
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(QColor(t.cut_tag), 1.2))
            painter.setBrush(QColor(t.field))
            for place in self._beginnings:
                painter.drawEllipse(transform.map(place), 2.6, 2.6)
            painter.restore()
