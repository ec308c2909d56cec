"""A rehearsal as far as it has run: what is marked and what is cut away at its width, pieces that came loose, and the head."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely
from PyQt6.QtCore import QPointF, QSize, Qt
from PyQt6.QtGui import QBrush, QColor, QImage, QPainter, QPainterPath, QPen, QTransform

from draxet.geometry.affine import Affine
from draxet.machines.rehearsal import Rehearsal
from draxet.record import record
from draxet.ui.canvas.moves import add_move
from draxet.ui.look.tokens import Tokens

__all__ = ["PlayedPainter"]

_CHUNK = 150
"""Moves in one path."""
_LEAST_PX = 1.2


@record(frozen=True, eq=False)
class _Chunk:
    path: QPainterPath
    first: int
    last: int
    wide: float
    share: float
    """How much of the sheet's thickness is taken; 0 for travel."""
    work: bool


class PlayedPainter:
    """Keeps the paths of one rehearsal, and an image of what has run, which grows with it."""

    def __init__(self) -> None:
        self._run: Rehearsal | None = None
        self._chunks: list[_Chunk] = []
        self._pieces: list[QPainterPath] = []
        self._image = QImage()
        self._upto = 0
        self._state: object = None

    def paint(self, painter: QPainter, run: Rehearsal, until: float, parts: Sequence[bool], to_view: Affine, size: QSize, ratio: float, t: Tokens) -> None:
        """Paint what has run after so many seconds.

        Parameters
        ----------
        to_view : from the program's millimetres to the view.
        """
        if run is not self._run:
            self._run, self._chunks, self._state = run, _chunks(run), None
            self._pieces = _pieces(run)
        done = int(np.searchsorted(run.ends, until, side="right"))
        whole = sum(chunk.last < done for chunk in self._chunks)
        state = (to_view, size, ratio)
        if state != self._state or whole < self._upto:
            self._image = QImage(size * ratio, QImage.Format.Format_ARGB32_Premultiplied)
            self._image.setDevicePixelRatio(ratio)
            self._image.fill(Qt.GlobalColor.transparent)
            self._state, self._upto = state, 0
        transform = QTransform(to_view.a, to_view.d, to_view.b, to_view.e, to_view.c, to_view.f)
        if whole > self._upto:
            on = QPainter(self._image)
            on.setRenderHint(QPainter.RenderHint.Antialiasing)
            for chunk in self._chunks[self._upto : whole]:
                _stroke(on, chunk.path, chunk, transform, to_view.scale, t)
            on.end()
            self._upto = whole
        painter.drawImage(0, 0, self._image)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if whole < len(self._chunks):
            chunk = self._chunks[whole]
            _stroke(painter, _path(run, chunk.first, min(done, chunk.last + 1)), chunk, transform, to_view.scale, t)
        self._fallen(painter, run, done, parts, transform, t)
        self._head(painter, run, done, until, transform, t)
        painter.restore()

    def _fallen(self, painter: QPainter, run: Rehearsal, done: int, parts: Sequence[bool], transform: QTransform, t: Tokens) -> None:
        """Pieces that came loose: parts in the wash of what stays, the rest hatched, as in Make."""
        for piece, path, is_part in zip(run.loose, self._pieces, parts or [False] * len(run.loose), strict=False):
            if piece.move < done:
                shown = transform.map(path)
                wash = QColor(t.stays if is_part else t.falls)
                wash.setAlpha(190)
                painter.fillPath(shown, wash)
                if not is_part:
                    painter.fillPath(shown, QBrush(QColor(t.sheet_edge), Qt.BrushStyle.BDiagPattern))

    @staticmethod
    def _head(painter: QPainter, run: Rehearsal, done: int, until: float, transform: QTransform, t: Tokens) -> None:
        x, y = place_at(run, until)
        at = transform.map(QPointF(x, y))
        on = done < len(run.work) and bool(run.work[done])
        painter.setPen(QPen(QColor(t.halo), 4))
        painter.setBrush(QColor(t.brass if on else t.field))
        painter.drawEllipse(at, 7, 7)
        painter.setPen(QPen(QColor(t.brass), 2))
        painter.drawEllipse(at, 7, 7)
        for dx, dy in ((12, 0), (-12, 0), (0, 12), (0, -12)):
            painter.drawLine(at + QPointF(dx * 0.58, dy * 0.58), at + QPointF(dx, dy))


def place_at(run: Rehearsal, seconds: float) -> tuple[float, float]:
    """Where the head is after so many seconds."""
    if not len(run.ends):
        return 0.0, 0.0
    k = min(int(np.searchsorted(run.ends, seconds, side="right")), len(run.ends) - 1)
    begin, end = float(run.ends[k - 1]) if k else 0.0, float(run.ends[k])
    share = min(max((seconds - begin) / (end - begin), 0.0), 1.0) if end > begin else 1.0
    x, y = run.steps.begins[k, :2].tolist() if k else (0.0, 0.0)
    to, turn = run.steps.to[k], float(run.steps.turn[k])
    if turn:
        cx, cy = run.steps.centre[k].tolist()
        angle = share * turn
        cos, sin = math.cos(angle), math.sin(angle)
        return cx + cos * (x - cx) - sin * (y - cy), cy + sin * (x - cx) + cos * (y - cy)
    return x + share * (float(to[0]) - x), y + share * (float(to[1]) - y)


def _pieces(run: Rehearsal) -> list[QPainterPath]:
    """The outline of each piece that comes loose, without those that came loose within it before."""
    found = []
    for k, piece in enumerate(run.loose):
        within = [other.shape for other in run.loose[:k] if piece.shape.contains(other.shape)]
        path = QPainterPath()
        for ring in shapely.get_rings(piece.shape.difference(shapely.union_all(within)) if within else piece.shape):
            points = shapely.get_coordinates(ring)
            path.moveTo(*points[0].tolist())
            for x, y in points[1:].tolist():
                path.lineTo(x, y)
        found.append(path)
    return found


def _path(run: Rehearsal, first: int, last: int) -> QPainterPath:
    path = QPainterPath()
    begins = run.steps.begins[first:last].tolist()
    if not begins:
        return path
    path.moveTo(begins[0][0], begins[0][1])
    for begin, to, centre, turn in zip(begins, run.steps.to[first:last].tolist(), run.steps.centre[first:last].tolist(), run.steps.turn[first:last].tolist(), strict=True):
        add_move(path, begin, to, centre, turn)
    return path


def _chunks(run: Rehearsal) -> list[_Chunk]:
    """Moves that are alike, a few in each path."""
    if not len(run.work):
        return []
    deep = np.round(np.minimum(run.depth / max(run.stock.thickness, 1e-9), 1.0), 2)
    alike: Any = (run.run[1:] != run.run[:-1]) | (deep[1:] != deep[:-1]) | (run.work[1:] != run.work[:-1])
    begins = sorted({0, *(np.flatnonzero(alike) + 1).tolist()})
    bounds = [(a, b) for first, last in zip(begins, [*begins[1:], len(run.work)], strict=True) for a in range(first, last, _CHUNK) for b in (min(a + _CHUNK, last),)]
    return [_Chunk(_path(run, a, b), a, b - 1, float(run.width[a]), float(deep[a]), bool(run.work[a])) for a, b in bounds]


def _stroke(painter: QPainter, path: QPainterPath, chunk: _Chunk, transform: QTransform, scale: float, t: Tokens) -> None:
    if path.isEmpty():
        return
    painter.save()
    painter.setTransform(transform, True)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if not chunk.work:
        pen = QPen(QColor(t.quiet), 1)
        pen.setDashPattern([1.0, 4.0])
        pen.setCosmetic(True)
    else:
        colour = QColor(t.cut_tag if chunk.share >= 0.99 else t.brass)
        colour.setAlphaF(1.0 if chunk.share >= 0.99 else 0.35 + 0.45 * chunk.share)
        thin = chunk.wide * scale < _LEAST_PX
        pen = QPen(colour, _LEAST_PX if thin else chunk.wide, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin)
        pen.setCosmetic(thin)
    painter.setPen(pen)
    painter.drawPath(path)
    painter.restore()
