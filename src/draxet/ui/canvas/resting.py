"""Marks that are too many to paint anew in each frame: areas, large proposals and hosts of signs, painted in steps from kept paths."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter

from draxet.ui.canvas.camera import Camera
from draxet.ui.canvas.chunks import Chunk, families, packed, touches, transform_of, view_box
from draxet.ui.canvas.marks import area_colour, contour_pens, paint_signs
from draxet.ui.canvas.saved import saved
from draxet.ui.canvas.tool import AreaMark, ContourMark, Mark, SignMark
from draxet.ui.look.tokens import Tokens

__all__ = ["RestingMarks", "parted"]

_FEW_CONTOURS, _FEW_SPANS, _FEW_SIGNS = 8, 400, 60
"""Marks of no more are painted anew in each frame: that is quick, and they follow the hand."""
_MANY_SPANS = 3000
"""So many are drawn with thin pens."""
_FILL_SPANS, _LINE_SPANS = 60, 800
_LINE_CONTOURS = 24
_SIGNS_A_STEP = 100
_MARGIN = 5


def parted(marks: Sequence[Mark]) -> tuple[tuple[Mark, ...], list[Mark]]:
    """Which marks are to rest, and which are to be painted anew in each frame."""
    signs = sum(isinstance(mark, SignMark) for mark in marks)
    rests = [_is_large(mark) or (isinstance(mark, SignMark) and signs > _FEW_SIGNS) for mark in marks]
    return tuple(mark for mark, rest in zip(marks, rests, strict=True) if rest), [mark for mark, rest in zip(marks, rests, strict=True) if not rest]


def _is_large(mark: Mark) -> bool:
    if not isinstance(mark, AreaMark | ContourMark):
        return False
    return len(mark.contours) > _FEW_CONTOURS or sum(len(contour.kinds) for contour in mark.contours) > _FEW_SPANS


class RestingMarks:
    """Keeps the paths of marks for as long as they are shown."""

    def __init__(self) -> None:
        self.shown: tuple[Mark, ...] = ()
        self._chunks: dict[AreaMark | ContourMark, list[Chunk]] = {}

    def show(self, marks: tuple[Mark, ...]) -> None:
        """Say which marks are at rest now."""
        if marks == self.shown:
            return
        self.shown = marks
        shapes = [mark for mark in marks if isinstance(mark, AreaMark | ContourMark)]
        self._chunks = {mark: self._chunks.get(mark) or _chunks(mark) for mark in shapes}

    def paint(self, painter: QPainter, camera: Camera, clip: QRectF, t: Tokens) -> Iterator[None]:
        """Paint, step by step, what lies in `clip` (view): shapes in their order, then signs."""
        to_view = camera.to_view()
        seen = view_box(to_view, clip, _MARGIN)
        with saved(painter):
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setTransform(transform_of(to_view), True)
            for mark, chunks in self._chunks.items():
                some = [chunk for chunk in chunks if touches(chunk.box, seen)]
                yield from _filled(painter, mark, some) if isinstance(mark, AreaMark) else _drawn(painter, mark, some, sum(chunk.spans for chunk in chunks), t)
        signs = [mark for mark in self.shown if isinstance(mark, SignMark)]
        for k in range(0, len(signs), _SIGNS_A_STEP):
            paint_signs(painter, signs[k : k + _SIGNS_A_STEP], camera, clip, t)
            yield


def _chunks(mark: AreaMark | ContourMark) -> list[Chunk]:
    contours = mark.contours
    if isinstance(mark, AreaMark):  # every second of nested contours is a hole, so they must be together
        return [Chunk([contours[k] for k in each]) for each in packed(contours, families(contours), _FILL_SPANS)]
    rows = [list(range(k, min(k + _LINE_CONTOURS, len(contours)))) for k in range(0, len(contours), _LINE_CONTOURS)]
    return [Chunk([contours[k] for k in each]) for each in packed(contours, rows, _LINE_SPANS)]


def _filled(painter: QPainter, mark: AreaMark, chunks: Sequence[Chunk]) -> Iterator[None]:
    for chunk in chunks:
        painter.fillPath(chunk.path, area_colour(mark))
        yield


def _drawn(painter: QPainter, mark: ContourMark, chunks: Sequence[Chunk], spans: int, t: Tokens) -> Iterator[None]:
    for pen in contour_pens(mark, many=spans > _MANY_SPANS, t=t):
        for chunk in chunks:
            painter.setPen(pen)
            painter.drawPath(chunk.path)
            yield
