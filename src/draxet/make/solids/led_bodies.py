"""Profiles led along a path, mitred at its corners."""

from __future__ import annotations

import numpy as np
import shapely

from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.geometry.mesh import Mesh, volume_of, walls_between, welded
from draxet.make.solids.turned_bodies import Profile

__all__ = ["crosses_itself", "led"]

_FINE, _WELD = 0.005, 1e-5


def crosses_itself(profile: Profile, path: Contour) -> tuple[float, float] | None:
    """Where a profile that is led along a path would run into itself in a tight bend; None where it
    does not."""
    places, outwards = _ways(path)
    least, _, most, _ = shapely.bounds(profile.area).tolist()
    for off in {least, most}:
        line = places + off * outwards
        ends = np.roll(line, -1, axis=0) - line
        ways = np.roll(places, -1, axis=0) - places
        back = (ends * ways).sum(axis=1) <= 0
        back = back if path.closed else back[:-1]
        if back.any():
            x, y = places[int(np.flatnonzero(back)[0])].tolist()
            return x, y
        ring = np.vstack([line, line[:1]]) if path.closed else line
        if not shapely.is_simple(shapely.LineString(ring)):
            x, y = places[0].tolist()
            return x, y
    return None


def led(profile: Profile, path: Contour, level: float, name: str = "", colour: str = "") -> Mesh:
    """A body: the profile stands on the path, its axis there, its foot at a level; what is right of the
    axis lies outside of a closed path, and right of an open one."""
    import manifold3d  # slow to load

    places, outwards = _ways(path)
    low = float(shapely.bounds(profile.area)[1])
    rings = [
        shapely.get_coordinates(ring)[:-1] - (0.0, low)
        for ring in shapely.get_rings(
            shapely.get_parts(shapely.orient_polygons(profile.area))
        ).tolist()
    ]
    section = np.vstack(rings)
    rows = [
        np.column_stack([place + section[:, :1] * out, section[:, 1] + level])
        for place, out in zip(places, outwards, strict=True)
    ]
    cap = np.asarray(manifold3d.triangulate(rings), dtype=np.int64)
    sides = walls_between([len(ring) for ring in rings], len(rows), closed=path.closed)
    last = len(section) * (len(rows) - 1)
    triangles = sides if path.closed else np.vstack([sides, cap[:, ::-1], cap + last])
    found = Mesh(np.vstack(rows), triangles, name, colour)
    if volume_of(found) < 0:
        found = Mesh(found.places, np.ascontiguousarray(triangles[:, ::-1]), name, colour)
    return welded(found, _WELD)


def _ways(path: Contour) -> tuple[Points, Points]:
    """A path's places, and for each how far outwards its mitre goes for each mm."""
    places = path.flattened(_FINE)
    keep = np.hypot(*(places - np.roll(places, 1, axis=0)).T) > 1e-9
    if not path.closed:
        keep[0] = True
    places = places[keep]
    if path.closed and path.area < 0:
        places = places[::-1]
    ways = np.roll(places, -1, axis=0) - places
    ways = ways / np.maximum(np.hypot(*ways.T), 1e-300)[:, None]
    rights = np.column_stack([ways[:, 1], -ways[:, 0]])
    if not path.closed:
        rights[-1] = rights[-2]
    before = np.roll(rights, 1, axis=0)
    if not path.closed:
        before[0] = rights[0]
    straight = 1.0 + (before * rights).sum(axis=1, keepdims=True)
    outwards: Points = (before + rights) / np.maximum(straight, 1e-6)
    return places, outwards
