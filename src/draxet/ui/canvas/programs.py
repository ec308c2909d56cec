"""Programs as they will run: the way of the tool's middle with its leads, the ways between, dotted,
and where each line begins.

Their paths are worked out off the window's thread (``program_paths``), lines that lie near each
other in one; painting takes only those that are seen.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any

import numpy as np
from PyQt6 import sip
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Floats, Ints, Points
from draxet.geometry.turning import boxes
from draxet.job.product import LINES, Product
from draxet.job.program import Program
from draxet.job.sides import Run, mirror_of
from draxet.progress import Progress
from draxet.record import record
from draxet.ui.canvas.bunches import Bunch, ProgramPaths
from draxet.ui.canvas.chunks import transform_of, view_box
from draxet.ui.canvas.contours import neighbours_together
from draxet.ui.canvas.moves import add_lines, add_move
from draxet.ui.canvas.saved import saved
from draxet.ui.canvas.threads import paths_of_stitches
from draxet.ui.look.tokens import Tokens

__all__ = ["Bunch", "PRODUCT_PATHS", "ProgramPainter", "ProgramPaths", "program_paths"]

_MOST_MOVES = 2_000_000
"""A longer program is not drawn move by move."""
_MOST_BEGINNINGS = 400
_MARGIN = 4
_BROAD_PX, _HAIR_PX = 2.2, 1.3
_BUNCH = 300
"""Moves in one path."""


@record(frozen=True, eq=False)
class _Placed:
    """The moves of a program where its sheet lies; those of the back as they lie beneath the face.
    `cuts` : where each of its lines begins, and the end (n + 1,)."""

    begins: Points
    ends: Points
    centres: Points
    turns: Floats
    work: Sequence[bool]
    cuts: Ints
    boxes: Floats


def program_paths(
    products: tuple[Product, ...], runs: tuple[Run, ...], report: Progress
) -> ProgramPaths:
    """The paths of what is made of some runs.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    work, travel, beginnings = list[Bunch](), list[Bunch](), list[QPointF]()
    for number, (product, run) in enumerate(zip(products, runs, strict=False)):
        report(number / len(products), "drawing the program")
        if 0 < len(product) <= _MOST_MOVES:
            found = PRODUCT_PATHS[product.product](product, run, report)
            work += found.work
            travel += found.travel
            beginnings += found.beginnings
    return ProgramPaths(
        products,
        tuple(work),
        tuple(travel),
        tuple(beginnings) if len(beginnings) <= _MOST_BEGINNINGS else (),
    )


def _paths_of_lines(program: Program, run: Run, report: Progress) -> ProgramPaths:
    placed = _placed(program, run)
    working = np.array(placed.work)
    begins = placed.begins[placed.cuts[:-1][working]].tolist()
    return ProgramPaths(
        (program,),
        tuple(_bunches(placed, np.flatnonzero(working), report)),
        tuple(_bunches(placed, np.flatnonzero(~working), report)),
        tuple(QPointF(x, y) for x, y in begins),
    )


PRODUCT_PATHS: dict[str, Callable[[Any, Run, Progress], ProgramPaths]] = {
    LINES: _paths_of_lines,
    "stitches": paths_of_stitches,
    "bodies": lambda bodies, run, report: ProgramPaths((bodies,)),
    "pattern": lambda pattern, run, report: _paths_of_lines(pattern.order, run, report),
}
"""How each product is painted: its paths where its sheet lies."""


def _placed(program: Program, run: Run) -> _Placed:
    there = Affine.moved(*run.sheet.origin_place)
    there = there.then(mirror_of(run.sheet)) if run.back else there
    begins, ends, centres = (
        there.apply(each) for each in (program.beginnings, program.to, program.centre)
    )
    turns = -program.turn if run.back else program.turn
    cuts = np.flatnonzero(
        np.concatenate(
            [
                [True],
                (program.path[1:] != program.path[:-1]) | (program.work[1:] != program.work[:-1]),
                [True],
            ]
        )
    )
    low, high = boxes(begins, ends, centres, turns)
    around = np.hstack([np.minimum.reduceat(low, cuts[:-1]), np.maximum.reduceat(high, cuts[:-1])])
    return _Placed(begins, ends, centres, turns, program.work[cuts[:-1]].tolist(), cuts, around)


def _bunches(placed: _Placed, lines: Ints, report: Progress) -> Iterator[Bunch]:
    """Some lines of a program, neighbours in one path."""
    sizes = np.diff(placed.cuts)
    order = lines[neighbours_together(placed.boxes[lines])]
    bunch = np.cumsum(sizes[order]) // _BUNCH
    for some in np.split(order, np.flatnonzero(np.diff(bunch)) + 1) if len(order) else ():
        report(0.5, "drawing the program")
        path = QPainterPath()
        for k in some.tolist():
            _add(path, placed, int(placed.cuts[k]), int(placed.cuts[k + 1]))
        (x0, y0), (x1, y1) = (
            placed.boxes[some, :2].min(axis=0).tolist(),
            placed.boxes[some, 2:].max(axis=0).tolist(),
        )
        yield Bunch(path, QRectF(x0, y0, x1 - x0, y1 - y0).adjusted(-1e-6, -1e-6, 1e-6, 1e-6))


def _add(path: QPainterPath, placed: _Placed, first: int, last: int) -> None:
    """The moves of a line from one number to another."""
    turns = placed.turns[first:last]
    if not turns.any():
        add_lines(path, np.vstack([placed.begins[first : first + 1], placed.ends[first:last]]))
        return
    path.moveTo(*placed.begins[first].tolist())
    for begin, to, centre, turn in zip(
        placed.begins[first:last].tolist(),
        placed.ends[first:last].tolist(),
        placed.centres[first:last].tolist(),
        turns.tolist(),
        strict=True,
    ):
        add_move(path, begin, to, centre, turn)


class ProgramPainter:
    """Paints programs as their paths were worked out last."""

    def __init__(self) -> None:
        self.paths = ProgramPaths()

    def paint(self, painter: QPainter, to_view: Affine, clip: QRectF, t: Tokens) -> Iterator[None]:
        """Paint, step by step, what lies in `clip` (view), over the contours."""
        if not (self.paths.work or self.paths.travel):
            return
        seen = view_box(to_view, clip, _MARGIN)
        transform, scale = transform_of(to_view), to_view.scale
        with saved(painter):
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setTransform(transform, True)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            travel, work = QPen(QColor(t.quiet), 1), QPen(QColor(t.cut_tag), 0)
            travel.setDashPattern([1.0, 4.0])
            for pen, bunches in ((travel, self.paths.travel), (work, self.paths.work)):
                pen.setCosmetic(True)
                for bunch in bunches:
                    if not bunch.box.intersects(seen):
                        continue
                    if bunch.colour:
                        _paint_own(painter, bunch, seen, scale)
                    else:
                        painter.setPen(pen)
                        painter.drawPath(bunch.path)
                    yield
        with saved(painter):
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(QColor(t.cut_tag), 1.2))
            painter.setBrush(QColor(t.field))
            for place in self.paths.beginnings:
                painter.drawEllipse(transform.map(place), 2.6, 2.6)


def _paint_own(painter: QPainter, bunch: Bunch, seen: QRectF, scale: float) -> None:
    """What has a colour and a breadth of its own, as far as it is seen: line by line with blunt ends,
    as that takes a hundredth of a path's time."""
    fine = scale * bunch.beneath < _BROAD_PX
    if bunch.lines is None or (fine and bunch.width == bunch.beneath):
        return
    x0, y0, x1, y1 = bunch.lines.T
    near = (
        (np.minimum(x0, x1) < seen.right())
        & (np.maximum(x0, x1) > seen.left())
        & (np.minimum(y0, y1) < seen.bottom())
        & (np.maximum(y0, y1) > seen.top())
    )
    count = int(near.sum())
    if not count:
        return
    lines: Any = sip.array(QLineF, count)  # type: ignore[call-arg]
    held: Any = sip.voidptr(lines, count * 4 * 8)
    np.frombuffer(held, dtype=np.float64).reshape(-1, 4)[:] = bunch.lines[near]
    width = bunch.beneath if fine else bunch.width
    pen = QPen(QColor(bunch.colour), max(width, _HAIR_PX / scale))
    pen.setCapStyle(Qt.PenCapStyle.SquareCap)
    painter.setPen(pen)
    painter.drawLines(lines)
