"""Shapes made from numbers: polygons with rounded corners."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, LINE

__all__ = ["rounded_polygon"]


def rounded_polygon(corners: Sequence[tuple[float, float, float]]) -> Contour:
    """A closed polygon of `corners` (x, y, radius of its rounding, 0 for a sharp one), of lines and tangent arcs.

    Raises
    ------
    ValueError : where two roundings need more room than the side between them has.
    """
    points = np.array([corner[:2] for corner in corners])
    ahead, behind = np.roll(points, -1, axis=0) - points, points - np.roll(points, 1, axis=0)
    turn = np.arctan2(behind[:, 0] * ahead[:, 1] - behind[:, 1] * ahead[:, 0], (behind * ahead).sum(axis=1))
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
