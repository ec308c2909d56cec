"""A rehearsal as far as it has run: what is marked and what is cut away at its width, pieces that
came loose, and the head."""

from __future__ import annotations

import math
import time
from collections.abc import Sequence

import numpy as np
import shapely
from PyQt6.QtCore import QPointF, QSize, Qt
from PyQt6.QtGui import QBrush, QColor, QImage, QPainter, QPainterPath, QPen, QTransform

from draxet.geometry.affine import Affine
from draxet.machines.rehearsal_records import Rehearsal
from draxet.record import record
from draxet.ui.canvas.chunks import transform_of
from draxet.ui.canvas.moves import add_lines, add_move
from draxet.ui.look.tokens import Tokens

__all__ = ["Played", "PlayedPainter", "PlayedPaths", "paths_of", "place_at"]

_CHUNK = 150
"""Moves in one path."""
_LEAST_PX = 1.2
_FRAME_S = 0.01
_MOST_KEPT, _KEPT_BYTES = 32, 80_000_000


@record(frozen=True, eq=False)
class _Stroke:
    """Moves that look alike: how wide, how much of the sheet's thickness they take, and whether
    they work."""

    path: QPainterPath
    wide: float
    share: float
    work: bool


@record(frozen=True, eq=False)
class _Chunk:
    """Some moves that follow each other, and the pieces that come loose among them (their
    numbers)."""

    first: int
    last: int
    strokes: tuple[_Stroke, ...]
    loose: tuple[int, ...]


@record(frozen=True, eq=False)
class PlayedPaths:
    """The paths of a rehearsal: of its moves, a few in each, and of the pieces that come loose."""

    run: Rehearsal
    chunks: tuple[_Chunk, ...]
    pieces: tuple[QPainterPath, ...]


@record(frozen=True, eq=False)
class Played:
    """The paths of a rehearsal as far as it has run: after so many seconds, where its program's
    millimetres lie in the job's, and which of the pieces that come loose are parts."""

    paths: PlayedPaths
    until: float
    there: Affine
    parts: tuple[bool, ...] = ()


def paths_of(run: Rehearsal) -> PlayedPaths:
    """Made once for each rehearsal, also by a worker."""
    return PlayedPaths(run, tuple(_chunks(run)), tuple(_pieces(run)))


class PlayedPainter:
    """Keeps the paths of one rehearsal, and an image of what has run, which grows with it."""

    def __init__(self) -> None:
        self._paths: PlayedPaths | None = None
        self._chunks: tuple[_Chunk, ...] = ()
        self._image = QImage()
        self._kept: dict[int, QImage] = {}
        """Images of the first so many paths, to go on from."""
        self._upto = 0
        self._state: object = None

    def paint(
        self,
        painter: QPainter,
        paths: PlayedPaths,
        until: float,
        parts: Sequence[bool],
        to_view: Affine,
        size: QSize,
        ratio: float,
        t: Tokens,
    ) -> bool:
        """Paint what has run after so many seconds; whether all of it could be painted in the time
        that there is for a frame.

        Parameters
        ----------
        to_view : from the program's millimetres to the view.
        """
        run = paths.run
        if paths is not self._paths:
            self._paths, self._chunks, self._state, self._kept = paths, paths.chunks, None, {}
        done = int(np.searchsorted(run.ends, until, side="right"))
        whole = done // _CHUNK if done < len(run.ends) else len(self._chunks)
        state = (to_view, size, ratio)
        if state != self._state:
            blank = QImage(size * ratio, QImage.Format.Format_ARGB32_Premultiplied)
            blank.setDevicePixelRatio(ratio)
            blank.fill(Qt.GlobalColor.transparent)
            self._state, self._kept = state, {0: blank}
            self._image, self._upto = blank.copy(), 0
        transform = transform_of(to_view)
        finished = self._grown(whole, paths, parts, transform, to_view.scale, t)
        painter.drawImage(0, 0, self._image)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if finished and whole < len(self._chunks):
            chunk = _chunk(run, self._chunks[whole].first, done, [])
            _painted(painter, chunk, paths, parts, transform, to_view.scale, t)
            for number in self._chunks[whole].loose:
                if run.loose[number].move < done:
                    _fallen(
                        painter,
                        paths.pieces[number],
                        number < len(parts) and parts[number],
                        transform,
                        t,
                    )
        self._head(painter, run, done, until, transform, t)
        painter.restore()
        return finished

    def _grown(
        self,
        whole: int,
        paths: PlayedPaths,
        parts: Sequence[bool],
        transform: QTransform,
        scale: float,
        t: Tokens,
    ) -> bool:
        """Bring the image to so many whole paths, from the nearest one that is kept; as far as the
        time for a frame goes."""
        every = max(
            math.ceil(
                len(self._chunks)
                / max(min(_MOST_KEPT, _KEPT_BYTES // max(self._image.sizeInBytes(), 1)), 1)
            ),
            1,
        )
        nearest = max((at for at in self._kept if at <= whole), default=0)
        if whole < self._upto or nearest > self._upto:
            self._image, self._upto = self._kept[nearest].copy(), nearest
        if whole == self._upto:
            return True
        until = time.monotonic() + _FRAME_S
        on = QPainter(self._image)
        on.setRenderHint(QPainter.RenderHint.Antialiasing)
        while self._upto < whole and time.monotonic() < until:
            _painted(on, self._chunks[self._upto], paths, parts, transform, scale, t)
            self._upto += 1
            if self._upto % every == 0 and self._upto not in self._kept:
                on.end()
                self._kept[self._upto] = self._image.copy()
                on.begin(self._image)
                on.setRenderHint(QPainter.RenderHint.Antialiasing)
        on.end()
        return self._upto == whole

    @staticmethod
    def _head(
        painter: QPainter, run: Rehearsal, done: int, until: float, transform: QTransform, t: Tokens
    ) -> None:
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
    """The outline of each piece that comes loose, without those that came loose within it
    before."""
    found = []
    shapes = np.array([piece.shape for piece in run.loose], dtype=object)
    low, high = np.split(shapely.bounds(shapes).reshape(-1, 4), 2, axis=1)
    for k, piece in enumerate(run.loose):
        inside = np.flatnonzero(((low[:k] >= low[k]) & (high[:k] <= high[k])).all(axis=1))
        within = [shape for shape in shapes[inside].tolist() if piece.shape.contains(shape)]
        path = QPainterPath()
        for ring in shapely.get_rings(
            piece.shape.difference(shapely.union_all(within)) if within else piece.shape
        ):
            add_lines(path, shapely.get_coordinates(ring))
        found.append(path)
    return found


def _chunks(run: Rehearsal) -> list[_Chunk]:
    """All moves, a few in each."""
    within: dict[int, list[int]] = {}
    for number, piece in enumerate(run.loose):
        within.setdefault(piece.move // _CHUNK, []).append(number)
    return [
        _chunk(run, first, min(first + _CHUNK, len(run.work)), within.get(first // _CHUNK, []))
        for first in range(0, len(run.work), _CHUNK)
    ]


def _chunk(run: Rehearsal, first: int, last: int, loose: Sequence[int]) -> _Chunk:
    """The moves from one number to another, those that look alike in one path."""
    paths: dict[tuple[float, float, bool], tuple[QPainterPath, list[float]]] = {}
    some = slice(first, last)
    steps = run.steps
    deep = np.round(np.minimum(run.depth[some] / max(run.stock.thickness, 1e-9), 1.0), 2).tolist()
    for begin, to, centre, turn, wide, share, work in zip(
        steps.begins[some].tolist(),
        steps.to[some].tolist(),
        steps.centre[some].tolist(),
        steps.turn[some].tolist(),
        run.width[some].tolist(),
        deep,
        run.work[some].tolist(),
        strict=True,
    ):
        path, at = paths.setdefault((wide if work else 0.0, share, work), (QPainterPath(), []))
        if at != begin[:2]:
            path.moveTo(begin[0], begin[1])
        add_move(path, begin, to, centre, turn)
        at[:] = to[:2]
    return _Chunk(
        first,
        last - 1,
        tuple(_Stroke(path, *look) for look, (path, _) in paths.items()),
        tuple(loose),
    )


def _painted(
    painter: QPainter,
    chunk: _Chunk,
    paths: PlayedPaths,
    parts: Sequence[bool],
    transform: QTransform,
    scale: float,
    t: Tokens,
) -> None:
    for stroke in chunk.strokes:
        _stroke(painter, stroke, transform, scale, t)
    for number in chunk.loose:
        _fallen(painter, paths.pieces[number], number < len(parts) and parts[number], transform, t)


def _fallen(
    painter: QPainter, piece: QPainterPath, is_part: bool, transform: QTransform, t: Tokens
) -> None:
    """A piece that came loose: a part in the wash of what stays, the rest hatched, as in Make."""
    shown = transform.map(piece)
    wash = QColor(t.stays if is_part else t.falls)
    wash.setAlpha(190)
    painter.fillPath(shown, wash)
    if not is_part:
        painter.fillPath(shown, QBrush(QColor(t.sheet_edge), Qt.BrushStyle.BDiagPattern))


def _stroke(
    painter: QPainter, stroke: _Stroke, transform: QTransform, scale: float, t: Tokens
) -> None:
    painter.save()
    painter.setTransform(transform, True)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if not stroke.work:
        pen = QPen(QColor(t.quiet), 1)
        pen.setDashPattern([1.0, 4.0])
        pen.setCosmetic(True)
    else:
        colour = QColor(t.cut_tag if stroke.share >= 0.99 else t.brass)
        colour.setAlphaF(1.0 if stroke.share >= 0.99 else 0.35 + 0.45 * stroke.share)
        thin = stroke.wide * scale < _LEAST_PX
        pen = QPen(
            colour,
            _LEAST_PX if thin else stroke.wide,
            Qt.PenStyle.SolidLine,
            Qt.PenCapStyle.RoundCap,
            Qt.PenJoinStyle.RoundJoin,
        )
        pen.setCosmetic(thin)
    painter.setPen(pen)
    painter.drawPath(stroke.path)
    painter.restore()
