"""Cubics as arcs: each cubic becomes pairs of arcs that run on smoothly, within a tolerance.

Biarcs with equal tangent lengths; see Bolton, "Biarc curves" (1975).
"""

from __future__ import annotations

import math

import numpy as np

from draxet.geometry.arrays import Floats, Points
from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, CUBIC, LINE

__all__ = ["as_lines_and_arcs"]

_DEEPEST = 12
_T = np.linspace(0, 1, 33)
_WEIGHTS = np.column_stack([(1 - _T) ** 3, 3 * (1 - _T) ** 2 * _T, 3 * (1 - _T) * _T * _T, _T**3])
"""Of a cubic's four places, for the places on it that are looked at."""
_ALONG = 7
_SURE = 0.98
"""Of the tolerance: so much a pair of arcs may use."""


def as_lines_and_arcs(contour: Contour, tolerance: float) -> Contour:
    """A contour without cubics, nowhere farther than `tolerance` from the one given."""
    if not (contour.kinds == CUBIC).any():
        return contour
    spans, nodes, kinds, bulges = contour.spans, [], [], []
    for k in range(len(spans)):
        if spans.kinds[k] != CUBIC:
            nodes.append(spans.starts[k])
            kinds.append(int(spans.kinds[k]))
            bulges.append(float(spans.bulges[k]))
            continue
        curve = np.stack([spans.starts[k], spans.handles[k, 0], spans.handles[k, 1], spans.ends[k]])
        for start, bulge in _arcs(curve, tolerance, _DEEPEST):
            nodes.append(start)
            kinds.append(ARC if abs(bulge) > 1e-9 else LINE)
            bulges.append(bulge if abs(bulge) > 1e-9 else 0.0)
    if not contour.closed:
        nodes.append(contour.nodes[-1])
    return Contour.make(np.array(nodes), kinds, bulges, closed=contour.closed)


def _arcs(curve: Floats, tolerance: float, depth: int) -> list[tuple[Points, float]]:
    pair = _biarc(curve)
    if pair and (depth == 0 or _holds(curve, pair, _SURE * tolerance)):
        return pair
    if depth == 0:
        return [(curve[0], 0.0)]
    left, right = _split(curve)
    return _arcs(left, tolerance, depth - 1) + _arcs(right, tolerance, depth - 1)


def _biarc(curve: Floats) -> list[tuple[Points, float]] | None:
    """Two arcs, as start and bulge each, tangent to the cubic at its ends and to each other."""
    start, end = curve[0], curve[3]
    t0, t1 = _direction(curve), -_direction(curve[::-1])
    v = end - start
    size = float(np.hypot(*v))
    if size < 1e-9:
        return None
    vt = float(v @ (t0 + t1))
    same = float(t0 @ t1)
    denominator = 2 * (1 - same)
    if denominator < 1e-9:
        if float(v @ t1) < 1e-9:
            return None
        d = float(v @ v) / (4 * float(v @ t1))
    else:
        d = (-vt + np.sqrt(vt * vt + denominator * float(v @ v))) / denominator
    if not 0 < d < 4 * size:
        return None
    joint = (start + end + d * (t0 - t1)) / 2
    return [(start, _bulge(start, joint, t0)), (joint, -_bulge(end, joint, -t1))]


def _direction(curve: Floats) -> Points:
    for other in curve[1:]:
        away = other - curve[0]
        size = float(np.hypot(*away))
        if size > 1e-12:
            return np.asarray(away / size)
    return np.array([1.0, 0.0])


def _bulge(start: Points, end: Points, leave: Points) -> float:
    chord = end - start
    half = np.arctan2(leave[0] * chord[1] - leave[1] * chord[0], leave @ chord)
    return float(np.tan(half / 2))


def _holds(curve: Floats, pair: list[tuple[Points, float]], tolerance: float) -> bool:
    """Whether two arcs and the cubic lie within a tolerance of each other. What lies between the
    places that are looked at is reckoned with, by a parabola through each three of them."""
    ends = [pair[0][0], pair[1][0], curve[3]]
    if max(abs(pair[0][1]), abs(pair[1][1])) > 1:
        return False  # more than half a turn: it may go round elsewhere
    points = _WEIGHTS @ curve
    if (
        min(_from_arc(points[16:17], ends[k], ends[k + 1], pair[k][1])[0] for k in (0, 1))
        > tolerance
    ):
        return False  # as most of them
    away = np.minimum(*(_from_arc(points, ends[k], ends[k + 1], pair[k][1]) for k in (0, 1)))
    if away.max() > tolerance:
        return False
    before, here, after = away[:-2], away[1:-1], away[2:]
    bend = 2 * here - before - after
    peaks = (here >= before) & (here >= after) & (bend > 0)
    between = here[peaks] + (after[peaks] - before[peaks]) ** 2 / (8 * bend[peaks])
    if between.max(initial=0.0) > tolerance:
        return False
    steps = points[1:] - points[:-1]
    sagitta = (
        float(np.hypot(*(steps[1:] - steps[:-1]).T).max()) / 8
    )  # so far the cubic itself may lie from the line through those places
    back = np.vstack([_on_arc(ends[k], ends[k + 1], pair[k][1]) for k in (0, 1)])
    return float(_from_line(back, points).max()) <= tolerance + sagitta


def _from_arc(points: Points, start: Points, end: Points, bulge: float) -> Floats:
    """How far points lie from an arc of at most half a turn."""
    chord = end - start
    square = np.array([-chord[1], chord[0]])
    off = points - start
    long = max(float(chord @ chord), 1e-24)
    from_ends = np.minimum(np.hypot(*off.T), np.hypot(*(points - end).T))
    if abs(bulge) < 1e-9:
        along = off @ chord / long
        return np.asarray(
            np.where((along >= 0) & (along <= 1), np.abs(off @ square) / math.sqrt(long), from_ends)
        )
    centre = (start + end) / 2 + (1 / bulge - bulge) / 4 * square
    radius = float(np.hypot(*(start - centre)))
    spokes, sign = points - centre, math.copysign(1.0, bulge)
    first, last = start - centre, end - centre
    ahead = sign * (first[0] * spokes[:, 1] - first[1] * spokes[:, 0]) >= 0
    before = sign * (spokes[:, 0] * last[1] - spokes[:, 1] * last[0]) >= 0
    return np.asarray(np.where(ahead & before, np.abs(np.hypot(*spokes.T) - radius), from_ends))


def _on_arc(start: Points, end: Points, bulge: float) -> Points:
    """Places along an arc."""
    chord = end - start
    if abs(bulge) < 1e-9:
        return np.asarray(start + np.linspace(0, 1, _ALONG)[:, None] * chord)
    centre = (start + end) / 2 + (1 / bulge - bulge) / 4 * np.array([-chord[1], chord[0]])
    turn = 4 * math.atan(bulge) * np.linspace(0, 1, _ALONG)
    cos, sin, (x, y) = np.cos(turn), np.sin(turn), start - centre
    return np.asarray(centre + np.column_stack([cos * x - sin * y, sin * x + cos * y]))


def _from_line(points: Points, line: Points) -> Floats:
    """How far points lie from a line through places."""
    start, step = line[:-1], np.diff(line, axis=0)
    share = np.clip(
        ((points[:, None] - start) * step).sum(axis=2)
        / np.maximum((step * step).sum(axis=1), 1e-24),
        0,
        1,
    )
    gaps = points[:, None] - (start + share[..., None] * step)
    return np.asarray(np.hypot(gaps[..., 0], gaps[..., 1]).min(axis=1))


def _split(curve: Floats) -> tuple[Floats, Floats]:
    a, b, c = (curve[:-1] + curve[1:]) / 2
    d, e = (a + b) / 2, (b + c) / 2
    f = (d + e) / 2
    return np.stack([curve[0], a, d, f]), np.stack([f, e, c, curve[3]])
