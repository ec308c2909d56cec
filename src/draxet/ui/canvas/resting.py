"""Marks that are too many to paint anew in each frame: areas, large proposals and hosts of signs,
painted in steps from kept paths."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Floats, Points
from draxet.geometry.contour import boxes_of
from draxet.record import record
from draxet.ui.canvas.chunks import Chunk, families, packed, transform_of
from draxet.ui.canvas.marks import area_colour, contour_pens, paint_signs
from draxet.ui.canvas.saved import saved
from draxet.ui.canvas.view_camera import Camera
from draxet.ui.look.tokens import Tokens
from draxet.ui.model.tool import AreaMark, ContourMark, CrossMark, Mark, SignMark

__all__ = ["RestingMarks", "parted"]

_FEW_CONTOURS, _FEW_SPANS, _FEW_SIGNS = 8, 400, 60
"""Marks of no more are painted anew in each frame: that is quick, and they follow the hand."""
_MANY_SPANS = 3000
"""More are drawn with thin pens, and filled without smooth edges, in a fraction of the time."""
_FILL_SPANS, _LINE_SPANS = 60, 800
_LINE_CONTOURS = 24
_SIGNS_A_STEP = 100
_MARGIN = 5
_SIGN = 16
"""How far a sign reaches from its place."""


def parted(marks: Sequence[Mark]) -> tuple[tuple[Mark, ...], list[Mark]]:
    """Which marks are to rest, and which are to be painted anew in each frame."""
    signs = sum(isinstance(mark, CrossMark | SignMark) for mark in marks)
    rests = [
        _is_large(mark) or (isinstance(mark, CrossMark | SignMark) and signs > _FEW_SIGNS)
        for mark in marks
    ]
    return tuple(mark for mark, rest in zip(marks, rests, strict=True) if rest), [
        mark for mark, rest in zip(marks, rests, strict=True) if not rest
    ]


def _is_large(mark: Mark) -> bool:
    if not isinstance(mark, AreaMark | ContourMark):
        return False
    times = max(1, len(mark.places)) if isinstance(mark, ContourMark) else 1
    return (
        times * len(mark.contours) > _FEW_CONTOURS
        or times * sum(len(contour.kinds) for contour in mark.contours) > _FEW_SPANS
    )


@record(frozen=True, eq=False)
class _Shape:
    """A mark, its chunks, their extents (n, 4) in job space and how many spans they have."""

    mark: AreaMark | ContourMark
    chunks: list[Chunk]
    boxes: Floats
    spans: int

    def seen(self, to_view: Affine, clip: QRectF) -> list[Chunk]:
        """The chunks that may be seen in `clip` (view)."""
        within = transform_of(to_view.inverse()).mapRect(
            clip.adjusted(-_MARGIN, -_MARGIN, _MARGIN, _MARGIN)
        )
        x0, y0, x1, y1 = self.boxes.T
        near = (
            (x0 <= within.right())
            & (x1 >= within.left())
            & (y0 <= within.bottom())
            & (y1 >= within.top())
        )
        return [self.chunks[k] for k in np.flatnonzero(near).tolist()]


class RestingMarks:
    """Keeps the paths of marks for as long as they are shown."""

    def __init__(self) -> None:
        self.shown: tuple[Mark, ...] = ()
        self._shapes: list[_Shape] = []
        self._signs: list[CrossMark | SignMark] = []
        self._places: Points | None = None

    def show(self, marks: tuple[Mark, ...]) -> None:
        """Say which marks are at rest now."""
        if marks == self.shown:
            return
        self.shown = marks
        known = {(type(shape.mark), shape.mark.contours): shape for shape in self._shapes}
        shapes = [mark for mark in marks if isinstance(mark, AreaMark | ContourMark)]
        self._signs = [mark for mark in marks if isinstance(mark, CrossMark | SignMark)]
        self._places = np.array([(mark.x, mark.y) for mark in self._signs]).reshape(-1, 2)
        self._shapes = [
            replace(kept, mark=mark)
            if (kept := known.get((type(mark), mark.contours)))
            else _shape(mark)
            for mark in shapes
        ]

    def paint(self, painter: QPainter, camera: Camera, clip: QRectF, t: Tokens) -> Iterator[None]:
        """Paint, step by step, what lies in `clip` (view): shapes in their order, then signs."""
        for shape in self._shapes:
            mark = shape.mark
            places = mark.places if isinstance(mark, ContourMark) and mark.places else (Affine(),)
            for place in places:
                to_view = place.then(camera.to_view())
                some = shape.seen(to_view, clip)
                with saved(painter):
                    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
                    painter.setBrush(Qt.BrushStyle.NoBrush)
                    painter.setTransform(transform_of(to_view), True)
                    yield from (
                        _filled(painter, mark, some)
                        if isinstance(mark, AreaMark)
                        else _drawn(painter, mark, some, len(places) * shape.spans, t)
                    )
        if self._places is None or not self._signs:
            return
        seen, reach = (
            camera.to_view().apply(self._places),
            clip.adjusted(-_SIGN, -_SIGN, _SIGN, _SIGN),
        )
        inside = (seen >= (reach.left(), reach.top())).all(axis=1) & (
            seen <= (reach.right(), reach.bottom())
        ).all(axis=1)
        signs = [self._signs[k] for k in np.flatnonzero(inside).tolist()]
        for k in range(0, len(signs), _SIGNS_A_STEP):
            paint_signs(painter, signs[k : k + _SIGNS_A_STEP], camera, t)
            yield


def _shape(mark: AreaMark | ContourMark) -> _Shape:
    chunks = _chunks(mark)
    boxes = np.array(
        [
            (box.left(), box.top(), box.right(), box.bottom())
            for box in (chunk.box for chunk in chunks)
        ]
    ).reshape(-1, 4)
    return _Shape(mark, chunks, boxes, sum(chunk.spans for chunk in chunks))


def _chunks(mark: AreaMark | ContourMark) -> list[Chunk]:
    contours = mark.contours
    boxes_of(contours)  # of all at once: each knows its own now
    if isinstance(
        mark, AreaMark
    ):  # every second of nested contours is a hole, so they must be together
        return [
            Chunk([contours[k] for k in each])
            for each in packed(contours, families(contours), _FILL_SPANS)
        ]
    rows = [
        list(range(k, min(k + _LINE_CONTOURS, len(contours))))
        for k in range(0, len(contours), _LINE_CONTOURS)
    ]
    return [Chunk([contours[k] for k in each]) for each in packed(contours, rows, _LINE_SPANS)]


def _filled(painter: QPainter, mark: AreaMark, chunks: Sequence[Chunk]) -> Iterator[None]:
    for chunk in chunks:
        painter.setRenderHint(
            QPainter.RenderHint.Antialiasing, chunk.spans <= _MANY_SPANS
        )  # edges of more lie beneath contours anyway
        painter.fillPath(chunk.path, area_colour(mark))
        yield


def _drawn(
    painter: QPainter, mark: ContourMark, chunks: Sequence[Chunk], spans: int, t: Tokens
) -> Iterator[None]:
    for pen in contour_pens(mark, many=spans > _MANY_SPANS, t=t):
        for chunk in chunks:
            painter.setPen(pen)
            painter.drawPath(chunk.path)
            yield
