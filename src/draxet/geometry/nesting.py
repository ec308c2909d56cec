"""Nesting: which closed contours lie inside which. An *outline* has an even number of others round it, an *opening* an odd one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from draxet.geometry.arrays import Floats, Ints
from draxet.geometry.contour import Contour, joined_spans

__all__ = ["as_polygon", "nesting_depths", "polygons_of"]

_SHARE = 0.02
"""Of a contour's lesser extent: how finely it is looked at where it is small."""


def as_polygon(contour: Contour, tolerance: float) -> shapely.Polygon:
    """A closed contour as a polygon within `tolerance`; empty where it has no inside."""
    points = contour.flattened(tolerance)
    return shapely.Polygon(points) if len(points) >= 3 else shapely.Polygon()


def polygons_of(contours: Sequence[Contour], tolerance: float | Floats) -> Any:
    """As ``as_polygon``, of many closed contours at once: an array of polygons; `tolerance` is one for all, or one for each."""
    if not contours:
        return np.zeros(0, dtype=object)
    spans, owner = joined_spans(contours)
    points, counts = spans.flattened(np.broadcast_to(tolerance, len(contours))[owner])
    ring = np.repeat(owner, counts)
    sizes = np.bincount(ring, minlength=len(contours))
    found = np.full(len(contours), shapely.Polygon(), dtype=object)
    whole = np.flatnonzero(sizes >= 3)
    number = np.cumsum(sizes >= 3) - 1
    some = (sizes >= 3)[ring]
    found[whole] = shapely.polygons(np.atleast_1d(np.asarray(shapely.linearrings(points[some], indices=number[ring[some]])))) if len(whole) else []
    return found


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
    polygons = polygons_of([contours[k] for k in closed], np.array(fine))
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
