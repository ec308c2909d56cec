"""Profiles turned about an axis."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely

from draxet.geometry.arrays import Floats, Points
from draxet.geometry.contour import Contour
from draxet.geometry.mesh import Mesh, welded
from draxet.record import record

__all__ = ["Axis", "Profile", "beyond_axis", "profile_of", "side_count", "turned"]

_FINE, _SHARE = 0.005, 2e-4
"""mm that straight pieces of a profile, and of the circles on which it goes, may be off; of a small one
that share of its extent."""
_ON = 1e-4
"""mm: what is no farther beyond the axis lies on it."""
_WELD = 1e-6
_LEAST_SIDES = 3


@record(frozen=True)
class Axis:
    """Through a place in mm, by an angle in degrees."""

    x: float
    y: float
    angle: float

    def seen_from(self, points: Points) -> Points:
        """How far points (n, 2) are to its left, and how far along it."""
        way = np.array([math.cos(math.radians(self.angle)), math.sin(math.radians(self.angle))])
        off = points - (self.x, self.y)
        return np.column_stack([off @ np.array([-way[1], way[0]]), off @ way])

    @property
    def turned_round(self) -> Axis:
        return Axis(self.x, self.y, self.angle + 180.0)


@record(frozen=True, eq=False)
class Profile:
    """What is turned: an area right of the axis' foot (radius, height), the axis with it on its left,
    and whether heights count against the drawing's up."""

    area: shapely.Geometry
    axis: Axis
    downwards: bool


def beyond_axis(contours: Sequence[Contour], axis: Axis) -> tuple[float, float] | None:
    """Where contours reach to both sides of an axis: the farthest place of the lesser part; None where
    they do not."""
    places = np.vstack([each.flattened(_FINE) for each in contours])
    away = axis.seen_from(places)[:, 0]
    least, most = float(away.min()), float(away.max())
    if min(-least, most) <= _ON:
        return None
    x, y = places[int(np.argmin(away) if -least < most else np.argmax(away))].tolist()
    return x, y


def profile_of(contours: Sequence[Contour], axis: Axis, *, crosses: bool = False) -> Profile:
    """The profile that an outline and its openings, or an open line, are to an axis that they do not
    cross, or where that may be."""
    places = np.vstack([each.flattened(_FINE) for each in contours])
    fine = min(_FINE, _SHARE * float(np.ptp(places, axis=0).max()))
    if crosses:  # right of it is right of the path, its way is up
        axis = axis.turned_round if math.sin(math.radians(axis.angle)) > 0 else axis
    elif axis.seen_from(places)[:, 0].sum() <= 0:
        axis = axis.turned_round
    rings = []
    for each in contours:
        seen = axis.seen_from(each.flattened(fine))
        if crosses:
            seen[:, 1] *= -1.0
        else:
            seen[:, 0] = np.maximum(seen[:, 0], 0.0)
        if not each.closed and not crosses:
            seen = np.vstack([(0.0, seen[0, 1]), seen, (0.0, seen[-1, 1])])
        rings.append(seen)
    area = shapely.make_valid(shapely.Polygon(rings[0], rings[1:]))
    radians = math.radians(axis.angle)
    up = math.sin(radians) if abs(math.sin(radians)) > 1e-9 else math.cos(radians)
    return Profile(area, axis, up < 0)


def sides_for(radius: float, fine: float) -> int:
    """How many sides keep a circle within so many mm."""
    return max(math.ceil(math.pi / math.acos(1.0 - min(fine / max(radius, fine), 1.0))), 12)


def side_count(sides: int, angle: float) -> int:
    """How many of so many sides of a whole turn an angle has."""
    return max(math.ceil(max(sides, _LEAST_SIDES) * angle / 360.0 - 1e-9), _LEAST_SIDES)


def turned(
    profile: Profile,
    angle: float = 360.0,
    sides: int = 0,
    *,
    standing: bool = True,
    level: float = 0.0,
    name: str = "",
    colour: str = "",
) -> Mesh:
    """A body: standing with its axis upright where the profile's foot is, from a level upwards; else
    as it is drawn, its axis so high. sides : of a whole turn; 0 for as round as can be told."""
    import manifold3d  # slow to load

    _, low, radius, high = shapely.bounds(profile.area).tolist()
    fine = min(_FINE, _SHARE * max(radius, high - low))
    count = side_count(sides or sides_for(radius, fine), angle)
    rings = [
        shapely.get_coordinates(ring)[:-1]
        for ring in shapely.get_rings(
            shapely.get_parts(shapely.orient_polygons(profile.area))
        ).tolist()
    ]
    round_ = manifold3d.CrossSection(rings).revolve(count, angle).to_mesh64()
    places = np.array(round_.vert_properties[:, :3], dtype=np.float64)
    triangles = np.array(round_.tri_verts, dtype=np.int64)
    axis, radians = profile.axis, math.radians(profile.axis.angle)
    along = np.array([math.cos(radians), math.sin(radians)])
    if standing:
        foot = np.array([axis.x, axis.y]) + (high if profile.downwards else low) * along
        if profile.downwards:  # turned over about the way in which it begins
            places = places * (1.0, -1.0, -1.0)
            places[:, 2] += high
        else:
            places[:, 2] -= low
        placed = places + (*foot.tolist(), level)
    else:
        left = np.array([-along[1], along[0]])
        flat = places[:, :1] * left + places[:, 2:] * along + (axis.x, axis.y)
        placed = np.column_stack([flat, places[:, 1] + level])
    return welded(Mesh(_floats(placed), triangles, name, colour), _WELD)


def _floats(places: Floats) -> Floats:
    return np.ascontiguousarray(places, dtype=np.float64)
