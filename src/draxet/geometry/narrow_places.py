"""Where areas are too narrow to be made: thin walls, near walls, and places that hold by a point alone."""

from __future__ import annotations

import numpy as np
import shapely

__all__ = ["near_places", "thin_places", "touching_places"]


def thin_places(area: shapely.Geometry, smallest: float) -> list[tuple[float, float]]:
    """Where walls of an area are thinner than the smallest feature in mm, for at least as long as
    that."""
    return _lost_by_opening(area, smallest)


def near_places(area: shapely.Geometry, smallest: float) -> list[tuple[float, float]]:
    """Where gaps in or between pieces of an area are narrower than the smallest feature, for at least
    as long as that."""
    around = shapely.box(*shapely.bounds(shapely.buffer(area, 2 * smallest)))
    return _lost_by_opening(shapely.difference(around, area), smallest)


def _lost_by_opening(area: shapely.Geometry, smallest: float) -> list[tuple[float, float]]:
    """Places in what a disc that broad does not reach within an area, but for its corners."""
    half = smallest / 2
    reached = shapely.buffer(shapely.buffer(area, -half * (1 - 1e-6)), half * (1 + 1e-3))
    lost = shapely.get_parts(shapely.difference(area, reached))
    narrow = lost[shapely.area(lost) > smallest**2]
    found = shapely.get_coordinates(shapely.point_on_surface(narrow))
    return [(float(x), float(y)) for x, y in found]


def touching_places(area: shapely.Geometry) -> list[tuple[float, float]]:
    """Where pieces of an area, or an opening and its outline, meet in a point alone."""
    parts = shapely.get_parts(area)
    first, second = shapely.STRtree(parts).query(parts, predicate="touches")
    met = shapely.intersection(parts[first[first < second]], parts[second[first < second]])
    rings = [ring for part in parts for ring in part.interiors]
    tree = shapely.STRtree(rings)
    for part in parts:
        near = [rings[k] for k in tree.query(part.exterior, predicate="intersects").tolist()]
        met = np.append(met, shapely.intersection(part.exterior, np.array(near, dtype=object)))
    found = shapely.get_coordinates(shapely.centroid(met[~shapely.is_empty(met)]))
    return [(float(x), float(y)) for x, y in found]
