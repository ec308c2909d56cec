"""Contours at rest: painted from paths that are kept, a chunk of contours each, and only where the
chunk is seen."""

from __future__ import annotations

import functools
from collections.abc import Iterator, Sequence
from itertools import compress, pairwise
from operator import is_not
from zlib import crc32

import numpy as np
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from draxet.cached import kept_on_the_first, known_on_the_first
from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Floats, Ints
from draxet.geometry.contour import boxes_of
from draxet.job.contour_records import ContourItem
from draxet.job.records import Job
from draxet.ui.canvas.chunks import Chunk, touches, transform_of, view_box
from draxet.ui.canvas.saved import saved

__all__ = ["ContourPainter", "chunks_of_drawn", "neighbours_together"]

_CHUNK_SPANS, _CHUNK_CONTOURS = 800, 24
"""A path with more in it takes longer to paint than several with less, above all of long contours
round each other."""
_ENDS_ONE_IN = 16
"""Of so many contours one ends its run, so that where one is taken away those behind it come to be
in the same runs again."""
_CELL_MM = 4.0
_FEW_CHANGED = 60
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
    def __init__(self, items: Sequence[ContourItem], spans: int, box: QRectF) -> None:
        self.contours = tuple(item.contour for item in items)
        self.spans, self.box = spans, box
        self.items = tuple(items)  # kept, so that no other item can come to bear their identity


@functools.lru_cache(maxsize=100_000)
def _ends_run(name: str) -> bool:
    return crc32(name.encode()) % _ENDS_ONE_IN == 0


def _begins_of_runs(items: Sequence[ContourItem], counts: Sequence[int]) -> list[int]:
    """Where runs of contours with so many spans each begin."""
    found, spans, begun = list[int](), 0, 0
    for k, (item, count) in enumerate(zip(items, counts, strict=True)):
        if k == begun:
            found.append(k)
            spans = 0
        spans += count
        if spans >= _CHUNK_SPANS or k - begun + 1 == _CHUNK_CONTOURS or _ends_run(item.id):
            begun = k + 1
    return found


Chunks = dict[tuple[int, ...], _Chunk]
"""Contours that are painted together, by the identities of these."""


def chunks_of(items: Sequence[ContourItem]) -> Chunks:
    """Contours in runs of neighbours."""
    if not items:
        return {}
    contours = [item.contour for item in items]
    boxes = boxes_of(contours)
    order = neighbours_together(boxes)
    boxes = boxes[order]
    counts = np.array([len(contour.kinds) for contour in contours], dtype=np.int64)[order]
    run = [items[k] for k in order.tolist()]
    begins = _begins_of_runs(run, counts.tolist())
    low = np.minimum.reduceat(boxes[:, :2], begins)
    high = np.maximum.reduceat(boxes[:, 2:], begins)
    rects = np.hstack([low, high - low]).tolist()
    spans = np.add.reduceat(counts, begins).tolist()
    parts = [run[begin:end] for begin, end in pairwise([*begins, len(run)])]
    return {
        tuple(map(id, part)): _Chunk(part, count, QRectF(*rect))
        for part, count, rect in zip(parts, spans, rects, strict=True)
    }


def _alone(items: Sequence[ContourItem]) -> Chunks:
    """Contours in one run."""
    boxes = boxes_of([item.contour for item in items])
    (x0, y0), (x1, y1) = boxes[:, :2].min(axis=0).tolist(), boxes[:, 2:].max(axis=0).tolist()
    spans = sum(len(item.contour.kinds) for item in items)
    return {tuple(map(id, items)): _Chunk(items, spans, QRectF(x0, y0, x1 - x0, y1 - y0))}


def _lies_in(item: ContourItem, box: QRectF) -> bool:
    x0, y0, x1, y1 = item.contour.box
    return box.contains((x0 + x1) / 2, (y0 + y1) / 2)


@kept_on_the_first
def chunks_of_drawn(job: Job) -> Chunks:
    """Those of all contours that are drawn in a job."""
    return chunks_of(job.contours)


class ContourPainter:
    """Keeps a path for every run of contours; a run is made anew only when one of its contours
    changes."""

    def __init__(self, other: ContourPainter | None = None) -> None:
        """`other` : a painter whose paths are taken where it shows the same runs."""
        self._other = other
        self._chunks: dict[tuple[int, ...], _Chunk] = {}
        self.shown: tuple[ContourItem, ...] = ()

    def show(self, items: tuple[ContourItem, ...], job: Job | None = None) -> None:
        """Say which contours are at rest now; where these are all that are drawn in a job, which
        keeps their chunks, of which."""
        if items == self.shown:
            return
        if self._other is not None and items == self._other.shown:
            self._chunks, self.shown = self._other._chunks, items
            return
        others = self._other._chunks if self._other is not None else {}
        known = known_on_the_first(chunks_of_drawn, job) if job is not None else None
        new = known if known is not None else self._with_few_changed(items)
        if new is None:
            new = chunks_of_drawn(job) if job is not None else chunks_of(items)
        chunks = {key: self._chunks.get(key) or others.get(key, one) for key, one in new.items()}
        self._chunks, self.shown = chunks, items

    def _with_few_changed(self, items: tuple[ContourItem, ...]) -> Chunks | None:
        """The chunks where few contours have gone or come, each in the place of what it was, or else
        where it lies; None where many have."""
        if abs(len(items) - len(self.shown)) > _FEW_CHANGED:
            return None
        was, others = self.shown, items
        if len(items) == len(self.shown):
            differ = list(map(is_not, self.shown, items))
            was, others = tuple(compress(self.shown, differ)), tuple(compress(items, differ))
        before, after = set(map(id, was)), set(map(id, others))
        gone, come = before - after, [item for item in others if id(item) not in before]
        if len(gone) + len(come) > 2 * _FEW_CHANGED:
            return None
        now = dict[int, ContourItem]()
        if len(was) == len(others):
            pairs = zip(was, others, strict=True)
            now = {id(a): b for a, b in pairs if id(a) in gone and id(b) not in before}
        taken = set(map(id, now.values()))
        new = [item for item in come if id(item) not in taken]
        found, changed = Chunks(), list[list[ContourItem]]()
        for key, chunk in self._chunks.items():
            here = [item for item in new if _lies_in(item, chunk.box)]
            if gone.isdisjoint(key) and not here:
                found[key] = chunk
                continue
            left = [now.get(id(item), item) for item in chunk.items]
            changed.append([item for item in left if id(item) not in gone] + here)
            new = [item for item in new if item not in here] if here else new
        for run in (*changed, new):
            if run:
                found |= _alone(run)
        return found

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
