"""Cubics as arcs: each cubic becomes pairs of arcs that run on smoothly, within a tolerance.

Biarcs with equal tangent lengths; see Bolton, "Biarc curves" (1975).
"""

from __future__ import annotations

import numpy as np

from draxet.geometry.arrays import Floats, Points
from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, CUBIC, LINE

__all__ = ["as_lines_and_arcs"]

_DEEPEST = 12
_CHECKS = np.linspace(0, 1, 17)[1:-1]


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
    if pair and (depth == 0 or _worst(curve, pair) <= tolerance):
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


def _worst(curve: Floats, pair: list[tuple[Points, float]]) -> float:
    """Greatest distance of the cubic's points from the nearer of two arcs' circles."""
    t = _CHECKS[:, None]
    points = (1 - t) ** 3 * curve[0] + 3 * (1 - t) ** 2 * t * curve[1] + 3 * (1 - t) * t * t * curve[2] + t**3 * curve[3]
    ends = [pair[1][0], curve[3]]
    along = points @ (ends[1] - pair[0][0])
    first = along <= float(ends[0] @ (ends[1] - pair[0][0]))
    away = np.empty(len(points))
    for mask, (start, bulge), end in zip((first, ~first), pair, ends, strict=True):
        away[mask] = _from_arc(points[mask], start, end, bulge)
    return float(away.max())


def _from_arc(points: Points, start: Points, end: Points, bulge: float) -> Floats:
    chord = end - start
    square = np.array([-chord[1], chord[0]])
    if abs(bulge) < 1e-9:
        return np.asarray(np.abs((points - start) @ square) / max(float(np.hypot(*chord)), 1e-12))
    centre = (start + end) / 2 + (1 / bulge - bulge) / 4 * square
    radius = float(np.hypot(*(start - centre)))
    return np.asarray(np.abs(np.hypot(*(points - centre).T) - radius))


def _split(curve: Floats) -> tuple[Floats, Floats]:
    a, b, c = (curve[:-1] + curve[1:]) / 2
    d, e = (a + b) / 2, (b + c) / 2
    f = (d + e) / 2
    return np.stack([curve[0], a, d, f]), np.stack([f, e, c, curve[3]])
