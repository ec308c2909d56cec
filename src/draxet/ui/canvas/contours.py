"""Contours at rest: painted from paths that are kept, a chunk of contours each, and only where the chunk is seen."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from zlib import crc32

import numpy as np
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QTransform

from draxet.cached import cached_property
from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Floats, Ints
from draxet.geometry.contour import Contour, boxes_of, joined_spans
from draxet.geometry.spans import LINE
from draxet.job.records import ContourItem
from draxet.ui.canvas.saved import saved

__all__ = ["ContourPainter", "neighbours_together", "path_of"]

_CHUNK_SPANS, _CHUNK_CONTOURS = 800, 24
"""A path with more in it takes longer to paint than several with less, above all of long contours round each other."""
_ENDS_ONE_IN = 16
"""Of so many contours one ends its run, so that where one is taken away those behind it come to be in the same runs again."""
_CELL_MM = 4.0
_FEW_SPANS = 4000
_WIDE_PEN = 1.8
_HALO = 2.6


def path_of(*contours: Contour) -> QPainterPath:
    """Contours as one path in job space; arcs as cubics that differ by under 0.03 % of the radius."""
    path = QPainterPath()
    spans, owner = joined_spans(contours)
    curves, span = spans.as_cubics()
    ends = np.searchsorted(owner[span], np.arange(1, len(contours) + 1)).tolist()
    places, straight, first = curves[:, 1:].reshape(-1, 6).tolist(), (spans.kinds[span] == LINE).tolist(), 0
    for contour, end in zip(contours, ends, strict=True):
        path.moveTo(*contour.nodes[0].tolist())
        for place, line in zip(places[first:end], straight[first:end], strict=True):
            if line:
                path.lineTo(place[4], place[5])
            else:
                path.cubicTo(*place)
        if contour.closed:
            path.closeSubpath()
        first = end
    return path


def neighbours_together(boxes: Floats) -> Ints:
    """The order of boxes (n, 4) along a curve that fills the plane (Morton, 1966): those of one chunk lie near each other."""
    cells = np.clip((boxes[:, :2] + boxes[:, 2:]) / 2 / _CELL_MM + 2**15, 0, 2**16 - 1).astype(np.int64)
    code = np.zeros(len(boxes), dtype=np.int64)
    for bit in range(16):
        code |= ((cells[:, 0] >> bit) & 1) << (2 * bit) | ((cells[:, 1] >> bit) & 1) << (2 * bit + 1)
    return np.argsort(code, kind="stable")


class _Chunk:
    def __init__(self, items: Sequence[ContourItem]) -> None:
        self.items = tuple(items)  # kept, so that no other item can come to bear their identity
        self.spans = sum(len(item.contour.kinds) for item in items)
        boxes = boxes_of([item.contour for item in items])
        low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
        self.box = QRectF(float(low[0]), float(low[1]), float(high[0] - low[0]), float(high[1] - low[1]))

    @cached_property
    def path(self) -> QPainterPath:
        return path_of(*(item.contour for item in self.items))


class ContourPainter:
    """Keeps a path for every run of contours; a run is made anew only when one of its contours changes."""

    def __init__(self, other: ContourPainter | None = None) -> None:
        """`other` : a painter whose paths are taken where it shows the same runs."""
        self._other = other
        self._chunks: dict[tuple[int, ...], _Chunk] = {}
        self.shown: tuple[ContourItem, ...] = ()

    def show(self, items: tuple[ContourItem, ...]) -> None:
        """Say which contours are at rest now."""
        if items is self.shown:
            return
        if len(items) == len(self.shown) and all(a is b for a, b in zip(items, self.shown, strict=True)):
            return
        runs: list[list[ContourItem]] = []
        run: list[ContourItem] = []
        spans = 0
        for k in neighbours_together(boxes_of([item.contour for item in items])).tolist():
            item = items[k]
            run.append(item)
            spans += len(item.contour.kinds)
            if spans >= _CHUNK_SPANS or len(run) == _CHUNK_CONTOURS or crc32(item.id.encode()) % _ENDS_ONE_IN == 0:
                runs.append(run)
                run, spans = [], 0
        if run:
            runs.append(run)
        chunks = {}
        for run in runs:
            key = tuple(map(id, run))
            chunks[key] = self._chunks.get(key) or (self._other and self._other._chunks.get(key)) or _Chunk(run)
        self._chunks, self.shown = chunks, items

    def paint(
        self, painter: QPainter, to_view: Affine, clip: QRectF, colour: str, wide: float = _WIDE_PEN, *, halo: str = "", dashed: bool = False
    ) -> Iterator[None]:  # fmt: skip
        """Paint, step by step, what lies in `clip` (view), with a pen `wide` pixels wide as long as the spans are few.

        Parameters
        ----------
        halo : a colour on both sides of the line, so that it is seen on a picture of its own colour; none where empty.
        """
        back = to_view.inverse()
        a, b = back.point(clip.left(), clip.bottom()), back.point(clip.right(), clip.top())
        margin = 3 / to_view.scale
        seen_box = QRectF(a[0] - margin, a[1] - margin, b[0] - a[0] + 2 * margin, b[1] - a[1] + 2 * margin)
        seen = [chunk for chunk in self._chunks.values() if _touch(chunk.box, seen_box)]
        few = sum(chunk.spans for chunk in self._chunks.values()) <= _FEW_SPANS
        pen = QPen(QColor(colour), wide if few else 0)
        pen.setCosmetic(True)
        pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        if dashed and few:
            pen.setDashPattern([4.0, 3.0])
        with saved(painter):
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setTransform(QTransform(to_view.a, to_view.d, to_view.b, to_view.e, to_view.c, to_view.f), True)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            if halo:
                yield from self._paint_halo(painter, seen, 1 / to_view.scale, QColor(halo), wide if few else 0.0)
            painter.setPen(pen)
            for chunk in seen:
                painter.drawPath(chunk.path)
                yield

    @staticmethod
    def _paint_halo(painter: QPainter, chunks: Sequence[_Chunk], pixel: float, colour: QColor, wide: float) -> Iterator[None]:
        """A broad pen beneath few spans; of many, whose pens are thin ones alone, the same a pixel aside."""
        pen = QPen(colour, wide + _HALO if wide else 0)
        pen.setCosmetic(True)
        painter.setPen(pen)
        for dx, dy in ((0.0, 0.0),) if wide else ((pixel, pixel), (-pixel, -pixel)):
            painter.translate(dx, dy)
            for chunk in chunks:
                painter.drawPath(chunk.path)
                yield
            painter.translate(-dx, -dy)


def _touch(a: QRectF, b: QRectF) -> bool:
    return a.left() <= b.right() and a.right() >= b.left() and a.top() <= b.bottom() and a.bottom() >= b.top()
