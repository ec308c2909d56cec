"""Contours as they are drawn by hand: stops that are set one after the other, each with the span
that leads to it.

A curve runs through its stops: at a smooth one it takes the direction of a circle through its
neighbours (the mean of both chords weighed by the other's length), and its handles reach a third of
the way along; a pulled stop gives its own handles. At a corner both sides go their own way.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, CUBIC, LINE
from draxet.record import record

__all__ = [
    "Stop",
    "arc_bulge",
    "contour_of",
    "direction_at_end",
    "regular_polygon",
    "slot",
    "tangent_bulge",
    "three_point_circle",
]

_THIRD = 1 / 3


@record(frozen=True)
class Stop:
    """A place of a drawn contour. by : the span that leads to it, ``line``, ``curve`` or ``arc``;
    bulge : of an arc. pull : where its handle
    was pulled to, relative to it, or None. corner : whether a curve breaks its direction here."""

    x: float
    y: float
    by: str = "line"
    bulge: float = 0.0
    pull: tuple[float, float] | None = None
    corner: bool = False

    @property
    def place(self) -> tuple[float, float]:
        return self.x, self.y


def contour_of(
    stops: Sequence[Stop], *, closed: bool = False, last: str = "line", bulge: float = 0.0
) -> Contour:
    """The contour through stops.

    Parameters
    ----------
    last, bulge : of a closed one, the span that leads back to the first stop.

    Raises
    ------
    ValueError : for fewer than two stops.
    """
    if len(stops) < 2:
        raise ValueError(f"a drawn contour needs at least 2 stops, got {len(stops)}")
    points = np.array([stop.place for stop in stops], dtype=np.float64)
    spans = [(stop.by, stop.bulge) for stop in stops[1:]] + ([(last, bulge)] if closed else [])
    kinds = np.array([{"line": LINE, "curve": CUBIC, "arc": ARC}[by] for by, _ in spans])
    bulges = np.array([b if by == "arc" else 0.0 for by, b in spans])
    handles = np.zeros((len(spans), 2, 2))
    for k in np.flatnonzero(kinds == CUBIC).tolist():
        handles[k] = _handles(stops, points, spans, k, closed)
    return Contour.make(points, kinds, bulges, handles, closed=closed)


def _handles(
    stops: Sequence[Stop], points: Points, spans: Sequence[tuple[str, float]], k: int, closed: bool
) -> Points:
    """Handles of the curve from stop k to the next one."""
    n = len(stops)
    a, b = k, (k + 1) % n
    reach = float(np.hypot(*(points[b] - points[a]))) * _THIRD
    out = np.empty((2, 2))
    for row, (at, sign) in enumerate(((a, 1.0), (b, -1.0))):
        pull = stops[at].pull
        if pull is not None:
            out[row] = points[at] + sign * np.array(pull)
        else:
            out[row] = points[at] + sign * reach * _way(stops, points, spans, at, k, closed)
    return out


def _way(
    stops: Sequence[Stop],
    points: Points,
    spans: Sequence[tuple[str, float]],
    at: int,
    k: int,
    closed: bool,
) -> Points:
    """The direction of the contour at a stop, as the curve k beside it has it."""
    n = len(stops)
    before, after = ((at - 1) % n, (at + 1) % n) if closed else (at - 1, at + 1)
    chord = points[(k + 1) % n] - points[k]
    if not closed and (before < 0 or after >= n) or stops[at].corner:
        return _end_way(stops, points, at, k, chord)
    into, out = (spans[before] if closed else spans[at - 1]), spans[at % len(spans)]
    for other, start, end, ends_here in ((into, before, at, True), (out, at, after, False)):
        if other[0] != "curve":
            return _span_way(points[start], points[end], other, at_end=ends_here)
    p, q = points[at] - points[before], points[after] - points[at]
    lp, lq = float(np.hypot(*p)), float(np.hypot(*q))
    return _unit(p / max(lp, 1e-300) * lq + q / max(lq, 1e-300) * lp, chord)


def _end_way(stops: Sequence[Stop], points: Points, at: int, k: int, chord: Points) -> Points:
    """At an end or a corner: as a circle through this stop and the next would leave the chord,
    mirrored from the other side."""
    other = (k + 1) % len(stops) if at == k else k
    pull = stops[other].pull
    if pull is None:
        return _unit(chord, chord)
    along = _unit(chord, chord)
    way = _unit(np.array(pull), chord)
    return np.asarray(2 * float(way @ along) * along - way)


def _span_way(start: Points, end: Points, span: tuple[str, float], *, at_end: bool) -> Points:
    chord = _unit(end - start, end - start)
    half = 2 * math.atan(span[1]) * (1 if at_end else -1) if span[0] == "arc" else 0.0
    cos, sin = math.cos(half), math.sin(half)
    return np.array([cos * chord[0] - sin * chord[1], sin * chord[0] + cos * chord[1]])


def _unit(vector: Points, other: Points) -> Points:
    size = float(np.hypot(*vector))
    if size > 1e-300:
        return np.asarray(vector / size)
    size = float(np.hypot(*other))
    return np.asarray(other / size) if size > 1e-300 else np.array([1.0, 0.0])


def direction_at_end(stops: Sequence[Stop]) -> tuple[float, float] | None:
    """In which direction (unit) a contour through these stops arrives at the last one; None where
    there is but one."""
    if len(stops) < 2:
        return None
    x, y = contour_of(stops).spans.tangents()[1][-1].tolist()
    return x, y


def tangent_bulge(
    start: tuple[float, float], way: tuple[float, float], end: tuple[float, float]
) -> float:
    """The bulge of the arc that leaves `start` in the direction `way` and arrives at `end`; 0 where
    that is straight on."""
    dx, dy = end[0] - start[0], end[1] - start[1]
    turn = math.atan2(way[0] * dy - way[1] * dx, way[0] * dx + way[1] * dy)
    return (
        0.0
        if abs(turn) < 1e-9
        else math.tan(max(min(turn, math.radians(179.5)), -math.radians(179.5)) / 2)
    )


def arc_bulge(
    start: tuple[float, float], through: tuple[float, float], end: tuple[float, float]
) -> float:
    """The bulge of the arc from `start` through a place to `end`; 0 where the three lie in a
    line."""
    ax, ay, bx, by = (
        start[0] - through[0],
        start[1] - through[1],
        end[0] - through[0],
        end[1] - through[1],
    )
    seen = math.atan2(ax * by - ay * bx, ax * bx + ay * by)  # the angle at which the chord is seen
    if abs(abs(seen) - math.pi) < 1e-9 or abs(seen) < 1e-12:
        return 0.0
    return -math.tan((math.copysign(math.pi, seen) - seen) / 2)


def three_point_circle(
    a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]
) -> tuple[float, float, float] | None:
    """Centre and radius of the circle through three places; None where they lie in a line."""
    bx, by, cx, cy = b[0] - a[0], b[1] - a[1], c[0] - a[0], c[1] - a[1]
    twice = 2 * (bx * cy - by * cx)
    if abs(twice) < 1e-12 * (bx * bx + by * by + cx * cx + cy * cy):
        return None
    bb, cc = bx * bx + by * by, cx * cx + cy * cy
    x, y = (cy * bb - by * cc) / twice, (bx * cc - cx * bb) / twice
    return a[0] + x, a[1] + y, math.hypot(x, y)


def regular_polygon(x: float, y: float, sides: int, radius: float, angle: float) -> Contour:
    """A closed polygon of equal sides, anticlockwise, with its first corner at `radius` from (x, y)
    in the direction `angle` (radians)."""
    at = angle + 2 * np.pi * np.arange(sides) / sides
    return Contour.make(np.column_stack([x + radius * np.cos(at), y + radius * np.sin(at)]))


def slot(a: tuple[float, float], b: tuple[float, float], width: float) -> Contour:
    """A closed slot, anticlockwise: two lines and two half circles round the middles `a` and
    `b`."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    long = math.hypot(dx, dy)
    ox, oy = -dy / long * width / 2, dx / long * width / 2
    nodes = [
        (a[0] - ox, a[1] - oy),
        (b[0] - ox, b[1] - oy),
        (b[0] + ox, b[1] + oy),
        (a[0] + ox, a[1] + oy),
    ]
    return Contour.make(nodes, [LINE, ARC, LINE, ARC], [0.0, 1.0, 0.0, 1.0])
