"""Whether a place lies inside a closed contour."""

from __future__ import annotations

import numpy as np
import shapely

from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour

__all__ = ["winds"]

_FLAT = 0.01
"""mm: how finely contours are flattened at first."""


def _ring(contour: Contour) -> Points:
    points = contour.flattened(_FLAT)
    return (
        points
        if len(points) > 2
        else contour.flattened(1e-4)
        if contour.length
        else np.vstack([points, points, points])[:3]
    )


def winds(contour: Contour, x: float, y: float) -> bool:
    """Whether a place lies inside a closed contour, flattened as finely as it lies near to it."""
    away = shapely.Point(x, y)
    for tolerance in (_FLAT, _FLAT / 100, 1e-6):
        ring = _ring_within(contour, tolerance)
        polygon = shapely.Polygon(ring)
        if polygon.exterior.distance(away) > 2 * tolerance:
            break
    return (
        bool(shapely.contains_xy(polygon, x, y)) if polygon.is_valid else bool(_winding(ring, x, y))
    )


def _ring_within(contour: Contour, tolerance: float) -> Points:
    points = contour.flattened(tolerance)
    return points if len(points) > 2 else _ring(contour)


def _winding(ring: Points, x: float, y: float) -> int:
    """How often a ring of straight steps goes round a place."""
    here: Points = ring - (x, y)
    ahead = np.roll(here, -1, axis=0)
    turns = np.arctan2(
        here[:, 0] * ahead[:, 1] - here[:, 1] * ahead[:, 0], (here * ahead).sum(axis=1)
    )
    return round(float(turns.sum() / (2 * np.pi)))
