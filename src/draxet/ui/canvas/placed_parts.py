"""Placements at rest: each part has one path, painted under the map of each of its placements that
is seen, and coarser the smaller it stands there."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator, Sequence

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QTransform

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.contour_records import ContourItem, Placement
from draxet.job.extent import placement_boxes
from draxet.job.layout import items_named, map_of, members_of
from draxet.job.layout_counts import laid_count
from draxet.job.layout_names import laid_name, split_name
from draxet.job.records import Job
from draxet.ui.canvas.chunks import path_of, touches, transform_of, view_box
from draxet.ui.canvas.inks import paint_ink
from draxet.ui.canvas.saved import saved

__all__ = ["PlacedPainter", "paints_parts"]

_MANY = 2000
"""Fewer laid contours are painted like those that are drawn."""
_AT_A_TIME = 64
_SMALL_PX, _COARSE_PX = 2.5, 0.4
"""A part that stands smaller is painted as its box; others so near to what they are, in pixels."""
_MARGIN = 3


def paints_parts(job: Job) -> bool:
    """Whether a job's placements are so many that they are painted as parts under maps."""
    return bool(job.placements) and laid_count(job) > _MANY


class _Shape:
    """A part's contours, and their paths as fine as they are wanted."""

    def __init__(self, members: Sequence[ContourItem]) -> None:
        self.members = tuple(members)
        self.contours = tuple(item.contour for item in members)
        self._paths: dict[int, QPainterPath] = {}
        inks: dict[tuple[str, float], list[Contour]] = {}
        for item in members:
            closed = item.contour.closed
            if item.colour and closed:
                inks.setdefault((item.colour, 0.0), []).append(item.contour)
            if item.line:
                inks.setdefault(("" if closed else item.colour, item.line), []).append(item.contour)
        self.inks = [(path_of(*some), *ink) for ink, some in inks.items()]
        """Paths, each with its colour and its width (0 for an area)."""

    def path(self, pixel: float) -> QPainterPath:
        """The path, where a pixel of the screen is so many mm."""
        level = math.floor(math.log2(max(pixel * _COARSE_PX, 1e-4)))
        if level not in self._paths:
            within = 2.0**level
            self._paths[level] = path_of(*(_coarse(contour, within) for contour in self.contours))
        return self._paths[level]


def _coarse(contour: Contour, within: float) -> Contour:
    if within < 0.02:
        return contour
    points = contour.flattened(within)
    return Contour.make(points, closed=contour.closed) if len(points) > 2 else contour


class PlacedPainter:
    """Keeps the paths of parts, and where placements lie."""

    def __init__(self) -> None:
        self._shapes: dict[str, _Shape] = {}
        self._placed: list[tuple[_Shape, Affine, QRectF]] = []
        self._of: tuple[object, ...] = ()
        self.left: tuple[ContourItem, ...] = ()
        """What is laid by placements of which a part is not to be seen, and is to be seen itself."""

    def show(self, job: Job, hidden: Collection[str]) -> None:
        """Say which placements are at rest now, and which of the layout's contours are not."""
        state = (job.contours, job.parts, job.placements, hidden)
        if self._of and all(a is b or a == b for a, b in zip(state, self._of, strict=True)):
            return
        self._of = state
        members = {each.part: members_of(job, each.part) for each in job.placements}
        self._shapes = {part: self._shape(part, items) for part, items in members.items()}
        apart = {split_name(name)[0] for name in hidden}
        self._placed = [
            (self._shapes[each.part], map_of(job, each), QRectF(x0, y0, x1 - x0, y1 - y0))
            for each, (x0, y0, x1, y1) in zip(job.placements, placement_boxes(job), strict=True)
            if each.id not in apart
        ]
        self.left = items_named(job, _left(job.placements, members, apart, hidden))

    def _shape(self, part: str, members: tuple[ContourItem, ...]) -> _Shape:
        kept = self._shapes.get(part)
        return kept if kept and kept.members == members else _Shape(members)

    def paint_inks(
        self, painter: QPainter, to_view: Affine, clip: QRectF, colour: str
    ) -> Iterator[None]:
        """Paint areas in their colour and lines as broad as they are, as ``InkPainter`` does."""
        within, base = view_box(to_view, clip, _MARGIN), transform_of(to_view) * painter.transform()
        with saved(painter):
            for shape, to, box in self._placed:
                if shape.inks and touches(box, within):
                    painter.setTransform(_map(to) * base)
                    for path, hue, wide in shape.inks:
                        paint_ink(painter, path, hue or colour, wide)
                    yield

    def paint(
        self, painter: QPainter, to_view: Affine, clip: QRectF, colour: str
    ) -> Iterator[None]:
        """Paint, step by step, what lies in `clip` (view)."""
        within = view_box(to_view, clip, _MARGIN)
        pixel = 1 / to_view.scale
        pen = QPen(QColor(colour), 0)
        pen.setCosmetic(True)
        seen = [each for each in self._placed if touches(each[2], within)]
        with saved(painter):
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            base = transform_of(to_view) * painter.transform()
            for number, (shape, to, box) in enumerate(seen):
                if max(box.width(), box.height()) < _SMALL_PX * pixel:
                    painter.setTransform(base)
                    painter.drawRect(box)
                else:
                    painter.setTransform(_map(to) * base)
                    painter.drawPath(shape.path(pixel / max(to.scale, 1e-9)))
                if number % _AT_A_TIME == 0:
                    yield


def _map(to: Affine) -> QTransform:
    return QTransform(to.a, to.d, to.b, to.e, to.c, to.f)


def _left(
    placements: Sequence[Placement],
    members: dict[str, tuple[ContourItem, ...]],
    apart: Collection[str],
    hidden: Collection[str],
) -> frozenset[str]:
    """What placements lay of which some is hidden, and is not hidden itself."""
    names = (
        laid_name(each.id, item.id)
        for each in placements
        if each.id in apart
        for item in members[each.part]
    )
    return frozenset(name for name in names if name not in hidden)
