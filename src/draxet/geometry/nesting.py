"""Nesting: which closed contours lie inside which. An *outline* has an even number of others round
it, an *opening* an odd one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from draxet.geometry.arrays import Floats, Ints
from draxet.geometry.contour import Contour, boxes_of, joined_spans

__all__ = [
    "area_of",
    "as_polygon",
    "nested_pairs",
    "nesting_depths",
    "polygons_of",
    "uncrossed",
]

_FINE = 0.01

_EQUAL = 1e-9
_SHARE = 0.02
"""Of a contour's lesser extent: how finely it is looked at where it is small."""


def as_polygon(contour: Contour, tolerance: float) -> shapely.Polygon:
    """A closed contour as a polygon within `tolerance`; empty where it has no inside."""
    points = contour.flattened(tolerance)
    return shapely.Polygon(points) if len(points) >= 3 else shapely.Polygon()


def polygons_of(contours: Sequence[Contour], tolerance: float | Floats) -> Any:
    """As ``as_polygon``, of many closed contours at once: an array of polygons; `tolerance` is one
    for all, or one for each."""
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
    found[whole] = (
        shapely.polygons(
            np.atleast_1d(np.asarray(shapely.linearrings(points[some], indices=number[ring[some]])))
        )
        if len(whole)
        else []
    )
    return found


def uncrossed(polygons: Any) -> Any:
    """Polygons (n,) that may cross themselves as areas that do not; of two loops on either side of
    a crossing one is left."""
    crossed = ~shapely.is_valid(polygons)
    polygons[crossed] = shapely.buffer(polygons[crossed], 0)
    return polygons


def nesting_depths(contours: Sequence[Contour], tolerance: float = 0.05) -> Ints:
    """(n,) how many of the closed contours lie round each contour; -1 for open ones.

    A contour lies inside another where the other's area holds more than half of its own; that they
    touch, or that a node of one lies on the other, counts for nothing.
    """
    depths = np.full(len(contours), -1, dtype=np.int64)
    closed = [k for k, contour in enumerate(contours) if contour.closed]
    if closed:
        inner, _ = nested_pairs([contours[k] for k in closed], tolerance)
        depths[closed] = np.bincount(inner, minlength=len(closed))
    return depths


def area_of(contours: Sequence[Contour]) -> Any:
    """What closed contours bound, every second of nested ones a hole, within 0.01 mm."""
    if not contours:
        return shapely.Polygon()
    shapes = polygons_of(contours, _FINE)
    inner, outer = nested_pairs(contours, 0.05)
    depths = np.bincount(inner, minlength=len(contours))
    hole_of = (depths[inner] == depths[outer] + 1) & (depths[inner] % 2 == 1)
    holes: list[list[Any]] = [[] for _ in contours]
    for hole, around in zip(inner[hole_of].tolist(), outer[hole_of].tolist(), strict=True):
        holes[around].append(shapes[hole].exterior)
    whole = shapely.multipolygons(
        [
            shapely.Polygon(shapes[k].exterior, holes[k])
            for k in np.flatnonzero(depths % 2 == 0).tolist()
        ]
    )
    return whole if shapely.is_valid(whole) else _layered(uncrossed(shapes), depths)


def _layered(shapes: Any, depths: Ints) -> Any:
    """The same of contours that cross: one layer of nesting after the other."""
    area: Any = shapely.Polygon()
    for depth in range(int(depths.max()) + 1):
        layer = shapely.union_all(shapes[depths == depth])
        area = area.difference(layer) if depth % 2 else area.union(layer)
    parts = shapely.get_parts(shapely.get_parts(area))
    return (
        area
        if area.geom_type != "GeometryCollection"
        else shapely.union_all(parts[shapely.get_type_id(parts) == shapely.GeometryType.POLYGON])
    )


def nested_pairs(contours: Sequence[Contour], tolerance: float = 0.05) -> tuple[Ints, Ints]:
    """The numbers of closed contours and of those they lie in, pair by pair."""
    if not contours:
        return np.zeros(0, np.int64), np.zeros(0, np.int64)
    boxes = boxes_of(contours)
    fine = np.clip(_SHARE * (boxes[:, 2:] - boxes[:, :2]).min(axis=1), 1e-6, tolerance)
    polygons = uncrossed(polygons_of(contours, fine))
    shapely.prepare(polygons)
    areas = shapely.area(polygons)
    inner, outer = shapely.STRtree(polygons).query(polygons)
    larger = (
        areas[outer] - areas[inner] > _EQUAL * areas[outer]
    )  # equal ones lie in one another by rounding only
    inner, outer = inner[larger], outer[larger]
    lies = shapely.contains(polygons[outer], polygons[inner])
    rest = np.flatnonzero(~lies)
    rest = rest[shapely.intersects(polygons[outer[rest]], polygons[inner[rest]])]
    lies[rest] = (
        shapely.area(shapely.intersection(polygons[outer[rest]], polygons[inner[rest]]))
        > 0.5 * areas[inner[rest]]
    )
    return inner[lies], outer[lies]
