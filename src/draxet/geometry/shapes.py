"""Shapes made from numbers: polygons with rounded corners, ellipses."""

from __future__ import annotations

import functools
import math
from collections.abc import Sequence

import numpy as np

from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, CUBIC, LINE

__all__ = ["ellipse", "rounded_polygon", "unit_ellipse"]

_QUARTER = 4 / 3 * (math.sqrt(2) - 1)


def rounded_polygon(corners: Sequence[tuple[float, float, float]]) -> Contour:
    """A closed polygon of `corners` (x, y, radius of its rounding, 0 for a sharp one), of lines and
    tangent arcs.

    Raises
    ------
    ValueError : where two roundings need more room than the side between them has.
    """
    points = np.array([corner[:2] for corner in corners])
    ahead, behind = np.roll(points, -1, axis=0) - points, points - np.roll(points, 1, axis=0)
    turn = np.arctan2(
        behind[:, 0] * ahead[:, 1] - behind[:, 1] * ahead[:, 0], (behind * ahead).sum(axis=1)
    )
    radii = np.array([corner[2] for corner in corners])
    cut = radii * np.tan(np.abs(turn) / 2)
    sides = np.hypot(ahead[:, 0], ahead[:, 1])
    if (cut + np.roll(cut, -1) > sides + 1e-9).any():
        raise ValueError("the roundings of a side must fit on it; make them smaller")
    nodes, kinds, bulges = [], [], []
    before, after = behind / np.roll(sides, 1)[:, None], ahead / sides[:, None]
    for k in range(len(points)):
        if radii[k] > 0:
            nodes += [points[k] - cut[k] * before[k], points[k] + cut[k] * after[k]]
            kinds += [ARC, LINE]
            bulges += [float(np.tan(turn[k] / 4)), 0.0]
        else:
            nodes.append(points[k])
            kinds.append(LINE)
            bulges.append(0.0)
    return Contour.make(np.array(nodes), kinds, bulges)


@functools.cache
def unit_ellipse() -> Contour:
    """The unit circle as ``ellipse`` draws it: any ellipse is this one under an affine map."""
    return ellipse(0.0, 0.0, 1.0, 1.0)


def ellipse(x: float, y: float, half_width: float, half_height: float) -> Contour:
    """A closed ellipse, anticlockwise, as four cubics that lie within 0.03 % of it."""
    ways = np.array([(1, 0), (0, 1), (-1, 0), (0, -1)], dtype=np.float64)
    size = np.array([half_width, half_height])
    nodes = (x, y) + ways * size
    ahead = np.roll(ways, -1, axis=0)
    handles = np.stack(
        [nodes + _QUARTER * ahead * size, (x, y) + (ahead + _QUARTER * ways) * size], axis=1
    )
    return Contour.make(nodes, np.full(4, CUBIC), np.zeros(4), handles)
