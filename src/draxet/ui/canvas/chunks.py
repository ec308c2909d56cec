"""Chunks: contours put together in paths that are quick to paint, kept, and painted only where they
are seen."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

import numpy as np
import shapely
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainterPath, QTransform

from draxet.cached import cached_property
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour, boxes_of, joined_spans
from draxet.geometry.spans import LINE
from draxet.ui.canvas.moves import add_lines

__all__ = ["Chunk", "families", "packed", "path_of", "touches", "transform_of", "view_box"]


class Chunk:
    """Contours of one path; their extent `box` in job space, wider by `margin`, and how many
    `spans` they have."""

    def __init__(self, contours: Sequence[Contour], margin: float = 0.0) -> None:
        self.contours = tuple(contours)
        self.spans = sum(len(contour.kinds) for contour in contours)
        left, low, right, high = zip(*(contour.box for contour in contours), strict=True)
        x, y = min(left) - margin, min(low) - margin
        self.box = QRectF(x, y, max(right) + margin - x, max(high) + margin - y)

    @cached_property
    def path(self) -> QPainterPath:
        return path_of(*self.contours)


def path_of(*contours: Contour) -> QPainterPath:
    """Contours as one path in job space; arcs as cubics that differ by under 0.03 % of the
    radius."""
    path = QPainterPath()
    straight = [(contour.kinds == LINE).all() for contour in contours]
    for contour, only_lines in zip(contours, straight, strict=True):
        if only_lines:
            add_lines(path, contour.nodes)
            if contour.closed:
                path.closeSubpath()
    if not all(straight):
        _add_curves(
            path,
            [
                contour
                for contour, only_lines in zip(contours, straight, strict=True)
                if not only_lines
            ],
        )
    return path


def _add_curves(path: QPainterPath, contours: Sequence[Contour]) -> None:
    spans, owner = joined_spans(contours)
    curves, span = spans.as_cubics()
    ends = np.searchsorted(owner[span], np.arange(1, len(contours) + 1)).tolist()
    places, straight, first = (
        curves[:, 1:].reshape(-1, 6).tolist(),
        (spans.kinds[span] == LINE).tolist(),
        0,
    )
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


def families(contours: Sequence[Contour]) -> list[list[int]]:
    """The numbers of contours that may lie in each other, together."""
    if not contours:
        return []
    boxes: Any = shapely.box(*boxes_of(contours).T)
    outer, inner = shapely.STRtree(boxes).query(boxes, predicate="contains")
    first = np.arange(len(contours))
    order = np.argsort(-shapely.area(boxes)[outer], kind="stable")
    for a, b in zip(outer[order].tolist(), inner[order].tolist(), strict=True):
        if first[b] == b:
            first[b] = first[a]
    found: dict[int, list[int]] = {}
    for k in range(len(contours)):
        found.setdefault(int(first[k]), []).append(k)
    return list(found.values())


def packed(
    contours: Sequence[Contour], together: Iterable[list[int]], most: int
) -> list[list[int]]:
    """Numbers of contours that must be together, put together further until they have `most`
    spans."""
    found: list[list[int]] = []
    spans = most
    for family in together:
        size = sum(len(contours[k].kinds) for k in family)
        if spans + size > most:
            found.append([])
            spans = 0
        found[-1] += family
        spans += size
    return found


def transform_of(to_view: Affine) -> QTransform:
    return QTransform(to_view.a, to_view.d, to_view.b, to_view.e, to_view.c, to_view.f)


def view_box(to_view: Affine, clip: QRectF, margin: float = 0.0) -> QRectF:
    """What of job space lies in `clip` (view), and within `margin` pixels of it."""
    back = to_view.inverse()
    a, b = (
        back.point(clip.left() - margin, clip.bottom() + margin),
        back.point(clip.right() + margin, clip.top() - margin),
    )
    return QRectF(a[0], a[1], b[0] - a[0], b[1] - a[1])


def touches(box: QRectF, seen: QRectF) -> bool:
    """Whether a box touches what is seen; also one of no breadth."""
    x0, y0, x1, y1 = box.getCoords()
    left, low, right, high = seen.getCoords()
    return x0 <= right and x1 >= left and y0 <= high and y1 >= low
