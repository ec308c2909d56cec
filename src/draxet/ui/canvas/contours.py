"""Contours at rest: painted from paths that are kept, a chunk of contours each, and only where the
chunk is seen."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from zlib import crc32

import numpy as np
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Floats, Ints
from draxet.geometry.contour import boxes_of
from draxet.job.contour_records import ContourItem
from draxet.ui.canvas.chunks import Chunk, touches, transform_of, view_box
from draxet.ui.canvas.saved import saved

__all__ = ["ContourPainter", "neighbours_together"]

_CHUNK_SPANS, _CHUNK_CONTOURS = 800, 24
"""A path with more in it takes longer to paint than several with less, above all of long contours
round each other."""
_ENDS_ONE_IN = 16
"""Of so many contours one ends its run, so that where one is taken away those behind it come to be
in the same runs again."""
_CELL_MM = 4.0
_FEW_SPANS = 4000
_WIDE_PEN = 1.8
_MARGIN = 3
_HALO = 2.6


def neighbours_together(boxes: Floats) -> Ints:
    """The order of boxes (n, 4) along a curve that fills the plane (Morton, 1966): those of one
    chunk lie near each other."""
    cells = np.clip((boxes[:, :2] + boxes[:, 2:]) / 2 / _CELL_MM + 2**15, 0, 2**16 - 1).astype(
        np.int64
    )
    code = np.zeros(len(boxes), dtype=np.int64)
    for bit in range(16):
        code |= ((cells[:, 0] >> bit) & 1) << (2 * bit) | ((cells[:, 1] >> bit) & 1) << (
            2 * bit + 1
        )
    return np.argsort(code, kind="stable")


class _Chunk(Chunk):
    def __init__(self, items: Sequence[ContourItem]) -> None:
        super().__init__([item.contour for item in items])
        self.items = tuple(items)  # kept, so that no other item can come to bear their identity


class ContourPainter:
    """Keeps a path for every run of contours; a run is made anew only when one of its contours
    changes."""

    def __init__(self, other: ContourPainter | None = None) -> None:
        """`other` : a painter whose paths are taken where it shows the same runs."""
        self._other = other
        self._chunks: dict[tuple[int, ...], _Chunk] = {}
        self.shown: tuple[ContourItem, ...] = ()

    def show(self, items: tuple[ContourItem, ...]) -> None:
        """Say which contours are at rest now."""
        if items == self.shown:
            return
        runs: list[list[ContourItem]] = []
        run: list[ContourItem] = []
        spans = 0
        for k in neighbours_together(boxes_of([item.contour for item in items])).tolist():
            item = items[k]
            run.append(item)
            spans += len(item.contour.kinds)
            if (
                spans >= _CHUNK_SPANS
                or len(run) == _CHUNK_CONTOURS
                or crc32(item.id.encode()) % _ENDS_ONE_IN == 0
            ):
                runs.append(run)
                run, spans = [], 0
        if run:
            runs.append(run)
        chunks = {}
        for run in runs:
            key = tuple(map(id, run))
            chunks[key] = (
                self._chunks.get(key)
                or (self._other and self._other._chunks.get(key))
                or _Chunk(run)
            )
        self._chunks, self.shown = chunks, items

    def paint(
        self,
        painter: QPainter,
        to_view: Affine,
        clip: QRectF,
        colour: str,
        wide: float = _WIDE_PEN,
        *,
        halo: str = "",
        dashed: bool = False,
    ) -> Iterator[None]:
        """Paint, step by step, what lies in `clip` (view), with a pen `wide` pixels wide as long as
        the spans are few.

        Parameters
        ----------
        halo : a colour on both sides of the line, so that it is seen on a picture of its own
        colour; none where empty.
        """
        within = view_box(to_view, clip, _MARGIN)
        seen = [chunk for chunk in self._chunks.values() if touches(chunk.box, within)]
        few = sum(chunk.spans for chunk in self._chunks.values()) <= _FEW_SPANS
        pen = QPen(QColor(colour), wide if few else 0)
        pen.setCosmetic(True)
        pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        if dashed and few:
            pen.setDashPattern([4.0, 3.0])
        with saved(painter):
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setTransform(transform_of(to_view), True)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            if halo:
                yield from self._paint_halo(
                    painter, seen, 1 / to_view.scale, QColor(halo), wide if few else 0.0
                )
            painter.setPen(pen)
            for chunk in seen:
                painter.drawPath(chunk.path)
                yield

    @staticmethod
    def _paint_halo(
        painter: QPainter, chunks: Sequence[_Chunk], pixel: float, colour: QColor, wide: float
    ) -> Iterator[None]:
        """A broad pen beneath few spans; of many, whose pens are thin ones alone, the same a pixel
        aside."""
        pen = QPen(colour, wide + _HALO if wide else 0)
        pen.setCosmetic(True)
        painter.setPen(pen)
        for dx, dy in ((0.0, 0.0),) if wide else ((pixel, pixel), (-pixel, -pixel)):
            painter.translate(dx, dy)
            for chunk in chunks:
                painter.drawPath(chunk.path)
                yield
            painter.translate(-dx, -dy)
