"""Nesting: which closed contours lie inside which. An *outline* has an even number of others round it, an *opening* an odd one."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from draxet.geometry.arrays import Ints
from draxet.geometry.contour import Contour

__all__ = ["as_polygon", "nesting_depths"]

_SHARE = 0.02
"""Of a contour's lesser extent: how finely it is looked at where it is small."""


def as_polygon(contour: Contour, tolerance: float) -> shapely.Polygon:
    """A closed contour as a polygon within `tolerance`; empty where it has no inside."""
    points = contour.flattened(tolerance)
    return shapely.Polygon(points) if len(points) >= 3 else shapely.Polygon()


def nesting_depths(contours: Sequence[Contour], tolerance: float = 0.05) -> Ints:
    """(n,) how many of the closed contours lie round each contour; -1 for open ones.

    A contour lies inside another where the other's area holds more than half of its own; that they touch, or that a node of one
    lies on the other, counts for nothing.
    """
    depths = np.full(len(contours), -1, dtype=np.int64)
    closed = [k for k, contour in enumerate(contours) if contour.closed]
    if not closed:
        return depths
    fine = [min(tolerance, max(_fineness(contours[k]), 1e-6)) for k in closed]
    polygons = np.array([as_polygon(contours[k], within) for k, within in zip(closed, fine, strict=True)])
    crossed = ~shapely.is_valid(polygons)
    polygons[crossed] = shapely.buffer(polygons[crossed], 0)
    shapely.prepare(polygons)
    areas = shapely.area(polygons)
    inner, outer = shapely.STRtree(polygons).query(polygons, predicate="intersects")
    larger = areas[outer] > areas[inner]
    inner, outer = inner[larger], outer[larger]
    whole = shapely.contains(polygons[outer], polygons[inner])
    part = ~whole
    shares = np.zeros(len(inner))
    shares[part] = shapely.area(shapely.intersection(polygons[outer[part]], polygons[inner[part]])) / np.maximum(areas[inner[part]], 1e-300)
    depths[closed] = np.bincount(inner[whole | (shares > 0.5)], minlength=len(closed))
    return depths


def _fineness(contour: Contour) -> float:
    x0, y0, x1, y1 = contour.box
    return _SHARE * min(x1 - x0, y1 - y0)
