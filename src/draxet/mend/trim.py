"""Trim and extend: a piece between two crossings goes, an end runs on to the next crossing."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.crossings import crossings
from draxet.geometry.pieces import piece, place_at, position_near, positions_of_crossings
from draxet.geometry.spans import ARC, CUBIC, LINE

__all__ = ["end_is_meant", "extended", "piece_between", "trimmed"]

_EDGE = 1e-6
_LAST = 1 / 3
"""So much of the piece before an open end is that end's; a click on the rest of it means the
piece."""


def _bounds(
    contour: Contour, others: Sequence[Contour], position: float
) -> tuple[float, float] | None:
    """The positions between which the piece lies; for an open contour its ends count. None where
    nothing bounds it."""
    spans = joined_spans(others)[0] if others else joined_spans([])[0]
    found = positions_of_crossings(contour, spans)
    count = float(len(contour.kinds))
    if contour.closed:
        if len(found) < 2:
            return None
        before, after = found[found <= position], found[found > position]
        return float(before[-1] if len(before) else found[-1]), float(
            after[0] if len(after) else found[0]
        )
    found = found[(found > _EDGE) & (found < count - _EDGE)]
    if not len(found):
        return None
    before, after = found[found <= position], found[found > position]
    return float(before[-1]) if len(before) else 0.0, float(after[0]) if len(after) else count


def piece_between(contour: Contour, others: Sequence[Contour], position: float) -> Contour | None:
    """The piece round a position from one crossing with other contours, or with itself, to the
    next; None where there is no crossing that bounds it."""
    bounds = _bounds(contour, others, position)
    return piece(contour, *bounds) if bounds else None


def trimmed(contour: Contour, others: Sequence[Contour], position: float) -> list[Contour] | None:
    """What is left of a contour without that piece: one open contour of a closed one, none to two
    of an open one. None where nothing bounds the piece."""
    bounds = _bounds(contour, others, position)
    if bounds is None:
        return None
    if contour.closed:
        left = [piece(contour, bounds[1], bounds[0])]
    else:
        left = [
            piece(contour, 0.0, bounds[0]),
            piece(contour, bounds[1], float(len(contour.kinds))),
        ]
    return [part for part in left if part is not None]


def end_is_meant(
    contour: Contour, others: Sequence[Contour], x: float, y: float, joint: float, *, at_end: bool
) -> bool:
    """Whether a click at a place near an end of an open contour means that end, to lead it on: it
    is joined to nothing within `joint` mm, and the place lies in the last third of the piece before
    it."""
    run = contour if at_end else contour.reversed()
    end, count = run.nodes[-1], float(len(run.kinds))
    meets = [
        other
        for other in others
        if other.box[0] - joint <= end[0] <= other.box[2] + joint
        and other.box[1] - joint <= end[1] <= other.box[3] + joint
    ]
    if math.dist(end, run.nodes[0]) <= joint or any(
        math.dist(place_at(other, position_near(other, *end)), end) <= joint for other in meets
    ):
        return False
    position = position_near(run, x, y)
    start, stop = _bounds(run, others, position) or (0.0, count)
    if stop < count:
        return False  # another piece lies there
    whole, left = piece(run, start, count), piece(run, position, count)
    return whole is None or left is None or left.length <= _LAST * whole.length


def extended(contour: Contour, others: Sequence[Contour], *, at_end: bool) -> Contour | None:
    """An open contour led on to the next crossing with another one, or with itself: a line straight
    on, an arc round its circle, a curve straight on as it ends. None where it meets nothing."""
    run = contour if at_end else contour.reversed()
    way = _way_on(run, _far(run, others))
    spans = joined_spans([*others, run])[0]
    met = crossings(way.spans, spans)
    t = met.first + met.t
    good = t > _EDGE
    if way.kinds[0] == ARC:
        good &= t < 1 - _EDGE
    if not good.any():
        return None
    on = piece(way, 0.0, float(t[good].min()))
    if on is None:
        return None
    made = _led_on(run, on)
    return made if at_end else made.reversed()


def _far(run: Contour, others: Sequence[Contour]) -> float:
    boxes = np.array([contour.box for contour in (run, *others)])
    return 2 * float(np.hypot(*(boxes[:, 2:].max(axis=0) - boxes[:, :2].min(axis=0)))) + 1.0


def _way_on(run: Contour, far: float) -> Contour:
    """Where the last span would go on."""
    end, way = run.nodes[-1], run.spans.tangents()[1][-1]
    if run.kinds[-1] == ARC and run.bulges[-1]:
        shape = run.spans.take(np.array([len(run.kinds) - 1])).arc_shapes()
        sweep = math.copysign(2 * math.pi - abs(float(shape.sweep[0])), float(shape.sweep[0]))
        return Contour.make([end, run.spans.starts[-1]], [ARC], [math.tan(sweep / 4)], closed=False)
    return Contour.make([end, end + way * far], closed=False)


def _led_on(run: Contour, on: Contour) -> Contour:
    """A contour with what it goes on by: one longer line or arc where the last span is one."""
    kind = run.kinds[-1]
    if kind == CUBIC:
        return Contour.make(
            np.vstack([run.nodes, on.nodes[1:]]),
            np.append(run.kinds, LINE),
            np.append(run.bulges, 0.0),
            np.concatenate([run.handles, np.zeros((1, 2, 2))]),
            closed=False,
        )
    nodes, bulges = run.nodes.copy(), run.bulges.copy()
    nodes[-1] = on.nodes[-1]
    if kind == ARC:
        bulges[-1] = math.tan(math.atan(float(run.bulges[-1])) + math.atan(float(on.bulges[-1])))
    return Contour.make(nodes, run.kinds, bulges, run.handles, closed=False)
