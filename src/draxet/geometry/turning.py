"""Arcs as machines run them: from a place about a centre, through an angle."""

from __future__ import annotations

import math

import numpy as np

from draxet.geometry.arrays import Points

__all__ = ["arc_points"]


def arc_points(begin: Points, centre: Points, turn: float, within: float) -> Points:
    """Places along an arc (n, 2), without the one where it begins, so that straight steps between them lie within `within` mm of it.

    Parameters
    ----------
    begin, centre : (2,). turn : the angle it turns through in radians, anticlockwise over 0.
    """
    spoke = begin - centre
    widest = 2 * math.acos(max(1 - within / max(float(np.hypot(*spoke)), within), 0.0))
    angles = np.linspace(0.0, turn, max(int(abs(turn) / widest) + 2, 3))[1:]
    cos, sin = np.cos(angles), np.sin(angles)
    points: Points = centre + np.column_stack([cos * spoke[0] - sin * spoke[1], sin * spoke[0] + cos * spoke[1]])
    return points
