"""What contours look like filled and drawn: areas in their colour, and lines as broad as they are. A quiet wash beneath the contours."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import Any

import numpy as np
import shapely
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QTransform

from draxet.cached import cached_property
from draxet.geometry.affine import Affine
from draxet.geometry.contour import boxes_of
from draxet.job.records import ContourItem
from draxet.record import record
from draxet.ui.canvas.contours import path_of
from draxet.ui.canvas.saved import saved

__all__ = ["InkPainter"]

_FILL_SHOWS, _LINE_SHOWS = 0.22, 0.28
_CHUNK_SPANS = 60
"""A path of more spans takes longer to fill than several of fewer."""
_MANY_SPANS = 12_000
"""Of so many, edges of washes are not smoothed: they lie beneath contours anyway."""


@record(frozen=True, eq=False)
class _Chunk:
    """Contours of a path, its extent in job space, how many spans it has, and its colour; of lines also how broad they are."""

    items: tuple[ContourItem, ...]
    box: QRectF
    spans: int
    colour: str
    wide: float = 0.0

    @cached_property
    def path(self) -> QPainterPath:
        return path_of(*(item.contour for item in self.items))


class InkPainter:
    """Keeps paths for areas of a colour and for lines of a width; made anew only when the contours that have one change."""

    def __init__(self) -> None:
        self._shown: tuple[ContourItem, ...] = ()
        self._of: tuple[ContourItem, ...] = ()
        self._chunks: list[_Chunk] = []

    def show(self, items: tuple[ContourItem, ...]) -> None:
        """Say which contours are at rest now."""
        if items is self._shown:
            return
        self._shown = items
        inked = tuple(item for item in items if item.colour or item.line)
        if len(inked) == len(self._of) and all(a is b for a, b in zip(inked, self._of, strict=True)):
            return
        self._of, self._chunks = inked, []
        for colour in dict.fromkeys(item.colour for item in inked if item.colour):
            families = _families([item for item in inked if item.colour == colour and item.contour.closed])
            self._chunks += [_chunk(some, colour) for some in _packed(families)]
        for wide, colour in dict.fromkeys((item.line, "" if item.contour.closed else item.colour) for item in inked if item.line):
            some = [[item] for item in inked if item.line == wide and ("" if item.contour.closed else item.colour) == colour]
            self._chunks += [_chunk(each, colour, wide) for each in _packed(some)]

    def paint(self, painter: QPainter, to_view: Affine, clip: QRectF, colour: str) -> Iterator[None]:
        """Paint, step by step, what lies in `clip` (view); lines without a colour of their own in `colour`."""
        if not self._chunks:
            return
        back = to_view.inverse()
        a, b = back.point(clip.left(), clip.bottom()), back.point(clip.right(), clip.top())
        seen = QRectF(a[0], a[1], b[0] - a[0], b[1] - a[1])
        chunks = [chunk for chunk in self._chunks if chunk.box.intersects(seen)]
        with saved(painter):
            painter.setClipRect(clip)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, sum(chunk.spans for chunk in chunks) <= _MANY_SPANS)
            painter.setTransform(QTransform(to_view.a, to_view.d, to_view.b, to_view.e, to_view.c, to_view.f), True)
            for chunk in chunks:
                wash = QColor(chunk.colour or colour)
                wash.setAlphaF(_LINE_SHOWS if chunk.wide else _FILL_SHOWS)
                if chunk.wide:
                    painter.strokePath(chunk.path, QPen(wash, chunk.wide, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
                else:
                    painter.fillPath(chunk.path, wash)  # every second of nested contours is a hole
                yield


def _families(items: Sequence[ContourItem]) -> list[list[ContourItem]]:
    """Contours that may lie in each other, together."""
    if not items:
        return []
    boxes: Any = shapely.box(*boxes_of([item.contour for item in items]).T)
    outer, inner = shapely.STRtree(boxes).query(boxes, predicate="contains")
    first = np.arange(len(items))
    order = np.argsort(-shapely.area(boxes)[outer], kind="stable")
    for a, b in zip(outer[order].tolist(), inner[order].tolist(), strict=True):
        if first[b] == b:
            first[b] = first[a]
    families: dict[int, list[ContourItem]] = {}
    for k, item in enumerate(items):
        families.setdefault(int(first[k]), []).append(item)
    return list(families.values())


def _packed(families: Iterable[list[ContourItem]]) -> list[list[ContourItem]]:
    """Families put together until they have enough spans."""
    found: list[list[ContourItem]] = []
    spans = _CHUNK_SPANS
    for family in families:
        size = sum(len(item.contour.kinds) for item in family)
        if spans + size > _CHUNK_SPANS:
            found.append([])
            spans = 0
        found[-1] += family
        spans += size
    return found


def _chunk(items: Sequence[ContourItem], colour: str, wide: float = 0.0) -> _Chunk:
    boxes = boxes_of([item.contour for item in items])
    (x0, y0), (x1, y1) = boxes[:, :2].min(axis=0) - wide / 2, boxes[:, 2:].max(axis=0) + wide / 2
    return _Chunk(tuple(items), QRectF(float(x0), float(y0), float(x1 - x0), float(y1 - y0)), sum(len(item.contour.kinds) for item in items), colour, wide)
