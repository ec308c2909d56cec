"""Nesting: which closed contours lie inside which. An *outline* has an even number of others round it, an *opening* an odd one."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from draxet.geometry.arrays import Ints
from draxet.geometry.contour import Contour

__all__ = ["as_polygon", "nesting_depths"]


def as_polygon(contour: Contour, tolerance: float) -> shapely.Polygon:
    """A closed contour as a polygon within `tolerance`; empty where it has no inside."""
    points = contour.flattened(tolerance)
    return shapely.Polygon(points) if len(points) >= 3 else shapely.Polygon()


def nesting_depths(contours: Sequence[Contour], tolerance: float = 0.05) -> Ints:
    """(n,) how many of the closed contours lie round each contour; -1 for open ones.

    A contour counts as inside another where its first node does.
    """
    depths = np.full(len(contours), -1, dtype=np.int64)
    closed = [k for k, contour in enumerate(contours) if contour.closed]
    if not closed:
        return depths
    polygons = [as_polygon(contours[k], tolerance) for k in closed]
    tree = shapely.STRtree(polygons)
    inner, outer = tree.query(shapely.points(np.array([contours[k].nodes[0] for k in closed])), predicate="within")
    areas = shapely.area(polygons)
    real = (inner != outer) & (areas[outer] > areas[inner])
    depths[closed] = np.bincount(inner[real], minlength=len(closed))
    return depths
