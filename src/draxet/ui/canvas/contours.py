"""Contours at rest: painted from paths that are kept, a chunk of contours each, and only where the chunk is seen."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QTransform

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.spans import LINE
from draxet.job.records import ContourItem

__all__ = ["ContourPainter", "path_of"]

_CHUNK_SPANS = 1500
_FEW_SPANS = 4000
_WIDE_PEN = 1.8


def path_of(contour: Contour) -> QPainterPath:
    """A contour as a path in job space; arcs as cubics that differ by under 0.03 % of the radius."""
    path = QPainterPath()
    path.moveTo(*contour.nodes[0].tolist())
    curves, owner = contour.spans.as_cubics()
    straight = (contour.kinds[owner] == LINE).tolist()
    for (_, (ax, ay), (bx, by), (x, y)), line in zip(curves.tolist(), straight, strict=True):
        if line:
            path.lineTo(x, y)
        else:
            path.cubicTo(ax, ay, bx, by, x, y)
    if contour.closed:
        path.closeSubpath()
    return path


class _Chunk:
    def __init__(self, items: Sequence[ContourItem]) -> None:
        self.path = QPainterPath()
        for item in items:
            self.path.addPath(path_of(item.contour))
        self.spans = sum(len(item.contour.kinds) for item in items)
        boxes = np.array([item.contour.box for item in items])
        low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
        self.box = QRectF(float(low[0]), float(low[1]), float(high[0] - low[0]), float(high[1] - low[1]))


class ContourPainter:
    """Keeps a path for every run of contours; a run is made anew only when one of its contours changes."""

    def __init__(self) -> None:
        self._chunks: dict[tuple[ContourItem, ...], _Chunk] = {}
        self._runs: list[tuple[ContourItem, ...]] = []
        self._shown: tuple[ContourItem, ...] = ()

    def show(self, items: tuple[ContourItem, ...]) -> None:
        """Say which contours are at rest now."""
        if len(items) == len(self._shown) and all(a is b for a, b in zip(items, self._shown, strict=True)):
            return
        runs: list[tuple[ContourItem, ...]] = []
        run: list[ContourItem] = []
        spans = 0
        for item in items:
            run.append(item)
            spans += len(item.contour.kinds)
            if spans >= _CHUNK_SPANS:
                runs.append(tuple(run))
                run, spans = [], 0
        if run:
            runs.append(tuple(run))
        known = {tuple(map(id, key)): chunk for key, chunk in self._chunks.items()}
        self._chunks = {key: known.get(tuple(map(id, key))) or _Chunk(key) for key in runs}
        self._runs, self._shown = runs, items

    def paint(self, painter: QPainter, to_view: Affine, clip: QRectF, colour: str) -> None:
        """Paint what lies in `clip` (view)."""
        back = to_view.inverse()
        a, b = back.point(clip.left(), clip.bottom()), back.point(clip.right(), clip.top())
        margin = 3 / to_view.scale
        seen_box = QRectF(a[0] - margin, a[1] - margin, b[0] - a[0] + 2 * margin, b[1] - a[1] + 2 * margin)
        seen = [chunk for chunk in (self._chunks[run] for run in self._runs) if _touch(chunk.box, seen_box)]
        few = sum(chunk.spans for chunk in self._chunks.values()) <= _FEW_SPANS
        pen = QPen(QColor(colour), _WIDE_PEN if few else 0)
        pen.setCosmetic(True)
        pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setTransform(QTransform(to_view.a, to_view.d, to_view.b, to_view.e, to_view.c, to_view.f), True)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for chunk in seen:
            painter.drawPath(chunk.path)
        painter.restore()


def _touch(a: QRectF, b: QRectF) -> bool:
    return a.left() <= b.right() and a.right() >= b.left() and a.top() <= b.bottom() and a.bottom() >= b.top()
