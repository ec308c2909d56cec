"""Contours made exactly so: straight, of a length, their own mirror image."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from draxet.geometry.arrays import Points
from draxet.geometry.constructions import mirrored_by
from draxet.geometry.contour import Contour
from draxet.geometry.spans import CUBIC, LINE
from draxet.mend.truth_record import Truth

__all__ = [
    "off_from",
    "ways_of",
    "like",
    "mirror_mean",
    "of_length",
    "place",
    "straightened",
    "turned_lines",
]


def ways_of(contour: Contour) -> dict[int, tuple[Points, float, float]]:
    """Of each line its middle, its length and its angle."""
    steps = contour.spans.ends - contour.spans.starts
    return {
        k: (
            (contour.spans.starts[k] + contour.spans.ends[k]) / 2,
            float(np.hypot(*steps[k])),
            math.atan2(steps[k, 1], steps[k, 0]),
        )
        for k in np.flatnonzero(contour.kinds == LINE).tolist()
    }


def off_from(angle: float, other: float, period: float) -> float:
    return (angle - other + period / 2) % period - period / 2


def place(point: Points) -> tuple[float, float]:
    return float(point[0]), float(point[1])


def turned_lines(contour: Contour, turns: dict[int, float]) -> Contour:
    """A contour of which some lines are turned about their middles; lines that meet are led to
    where they cross."""
    ways = {
        k: (middle, angle + turns.get(k, 0.0)) for k, (middle, _, angle) in ways_of(contour).items()
    }
    nodes, handles, count = contour.nodes.copy(), contour.handles.copy(), len(contour.kinds)
    for node in {n % len(nodes) for k in turns for n in (k, k + 1)}:
        before = (node - 1) % count if contour.closed or node else None
        after = node if node < count else None
        touching = [ways[k] for k in (before, after) if k is not None and k in ways]
        new = _crossing(*touching) if len(touching) == 2 else None
        if new is None:
            turned = next(ways[k] for k in (before, after) if k is not None and k in turns)
            way = np.array([math.cos(turned[1]), math.sin(turned[1])])
            new = turned[0] + ((nodes[node] - turned[0]) @ way) * way
        for span, end in ((before, 1), (after, 0)):
            if span is not None and contour.kinds[span] == CUBIC:
                handles[span, end] += new - nodes[node]
        nodes[node] = new
    return Contour.make(nodes, contour.kinds, contour.bulges, handles, closed=contour.closed)


def _crossing(one: tuple[Points, float], other: tuple[Points, float]) -> Points | None:
    u, v = (np.array([math.cos(angle), math.sin(angle)]) for _, angle in (one, other))
    across = float(u[0] * v[1] - u[1] * v[0])
    if abs(across) < 0.05:
        return None
    d = other[0] - one[0]
    return np.asarray(one[0] + float(d[0] * v[1] - d[1] * v[0]) / across * u)


def of_length(contour: Contour, spans: Sequence[int], length: float) -> Contour:
    """A contour whose lines `spans` are so long, each drawn out or in by both its ends."""
    nodes, handles, count = contour.nodes.copy(), contour.handles.copy(), len(contour.nodes)
    for k in spans:
        a, b = nodes[k], nodes[(k + 1) % count]
        by = (b - a) * (length / np.hypot(*(b - a)) - 1) / 2
        for node, move in ((k, -by), ((k + 1) % count, by)):
            nodes[node] = nodes[node] + move
    return Contour.make(nodes, contour.kinds, contour.bulges, handles, closed=contour.closed)


def mirror_mean(contour: Contour, line: tuple[float, float, float]) -> Contour | None:
    """The mean of a contour and its mirror, node by node; None where the nodes do not answer to
    each other."""
    other = contour.transformed(mirrored_by(*line)).reversed()
    if len(other.nodes) != len(contour.nodes):
        return None
    count = len(contour.nodes)
    shifts = range(count) if contour.closed else range(1)
    best = min(
        shifts,
        key=lambda k: float(np.hypot(*(np.roll(other.nodes, k, axis=0) - contour.nodes).T).max()),
    )
    nodes, kinds, bulges, handles = (
        np.roll(a, best, axis=0) if contour.closed else a
        for a in (other.nodes, other.kinds, other.bulges, other.handles)
    )
    if (
        not (kinds == contour.kinds).all()
        or np.sign(bulges).tolist() != np.sign(contour.bulges).tolist()
    ):
        return None
    return Contour.make(
        (nodes + contour.nodes) / 2,
        kinds,
        np.tan((np.arctan(bulges) + np.arctan(contour.bulges)) / 2),
        (handles + contour.handles) / 2,
        closed=contour.closed,
    )


def straightened(contour: Contour, truth: Truth) -> Contour:
    ways = ways_of(contour)
    if truth.kind in ("level", "upright"):
        (k,) = truth.spans
        return turned_lines(
            contour,
            {k: -off_from(ways[k][2], 0.0 if truth.kind == "level" else math.pi / 2, math.pi)},
        )
    a, b = truth.spans
    return turned_lines(
        contour,
        {
            b: -off_from(
                ways[b][2], ways[a][2] + (math.pi / 2 if truth.kind == "square" else 0.0), math.pi
            )
        },
    )


def like(old: Contour, new: Contour) -> Contour:
    return new if old.area >= 0 else new.reversed()
