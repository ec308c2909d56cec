"""Fewer places along a line, where a machine cannot follow steps that are too short."""

from __future__ import annotations

import math

import numpy as np

from draxet.geometry.arrays import Bools, Floats, Points, norms

__all__ = ["thinned"]


def thinned(begin: Points, to: Points, turn: Floats, least: float) -> tuple[Bools, float]:
    """Which of a line's moves are kept, so that no straight one is shorter than `least` mm but
    where an arc or the end asks for it; and how far the farthest of the places left out lies from
    what is run.

    Parameters
    ----------
    begin : where the line begins. to : where each move ends (k, 2). turn : of arcs, the angle (k,).
    """
    count = len(to)
    kept = np.ones(count, dtype=bool)
    straight = turn == 0
    if count < 2 or norms(to - np.vstack([begin, to[:-1]]))[straight].min(initial=np.inf) >= least:
        return kept, 0.0
    at, farthest, left = begin, 0.0, list[Points]()
    for k in range(count):
        must = not straight[k] or k == count - 1 or not straight[k + 1]
        if not must and math.dist(at, to[k]) < least:
            kept[k] = False
            left.append(to[k])
            continue
        if left:
            farthest = max(farthest, _off(np.array(left), at, to[k]))
        at, left = to[k], []
    return kept, farthest


def _off(points: Points, a: Points, b: Points) -> float:
    """The greatest distance of points from a straight piece."""
    way = b - a
    along = np.clip((points - a) @ way / max(float(way @ way), 1e-300), 0.0, 1.0)
    return float(norms(points - a - along[:, None] * way).max())
