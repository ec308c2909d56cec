"""Walls that lean, and upper edges that are taken off: along each edge of an area a wedge is taken
away, whose section is all that lies beyond the wall's profile.

A place of an area is beneath as many wedges as there are edges near it, and what is left is as high
as the profile is at the place's distance from the nearest edge; at corners that look inwards walls
meet in the plane between them.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

import numpy as np
import shapely

from draxet.geometry.arrays import Floats, Ints, NDArray, Points

if TYPE_CHECKING:
    import manifold3d

__all__ = ["profile_of", "wedges_along"]

_BEYOND = 1e-3
"""mm that a wedge reaches beyond the wall, so that nothing is left of that."""
_LAP = 1e-4
"""mm by which wedges lap over each other at corners that look outwards."""
_FAN = math.radians(60.0)
"""At a corner that looks inwards and turns by more than a right angle walls meet in a fan of so much each."""
_ON = 1e-4
"""mm: nearer than that an edge lies on another area's."""


def profile_of(height: float, draft: float, upper: str, edge: float, fine: float) -> Points:
    """How far a wall has gone inwards (first column) at heights above its foot (second), in mm.

    Parameters
    ----------
    draft : degrees from upright. upper : ``square``, ``chamfered`` or ``rounded`` by `edge` mm, but no
    more than it is high. fine : how far straight pieces of a rounded one may be off.
    """
    lean = math.tan(math.radians(draft))
    if upper == "square":
        return np.array([(0.0, 0.0), (lean * height, height)])
    edge = min(edge, height)
    foot = [(0.0, 0.0)] if draft and edge < height else []
    if upper == "chamfered":
        begin = height - edge
        return np.array([*foot, (lean * begin, begin), (lean * height + edge, height)])
    least, most = math.radians(draft), math.pi / 2
    step = 2 * math.acos(max(1 - fine / edge, 0.0))
    turns = np.linspace(least, most, max(math.ceil((most - least) / step), 3) + 1)
    middle = lean * (height - edge) + edge / math.cos(least)
    round_ = np.column_stack([middle - edge * np.cos(turns), height - edge + edge * np.sin(turns)])
    begun = round_[round_[:, 1] > 0]
    return np.vstack([foot, begun]) if foot else begun


def wedges_along(
    area: shapely.Geometry,
    profile: Points,
    low: float,
    upright: shapely.Geometry | None = None,
    *,
    outside: bool = False,
) -> list[manifold3d.Manifold]:
    """What is taken away along the edges of an area so that its walls follow a profile whose foot is
    `low` mm high; nothing along edges that lie on those of `upright`. outside : of what lies round the
    area, in its place."""
    section = _section(profile) + (0.0, low)
    cap = _cap(section)
    found = list[Any]()
    for ring in shapely.get_rings(shapely.get_parts(shapely.orient_polygons(area))).tolist():
        places = shapely.get_coordinates(ring)[:-1]
        places = places[::-1] if outside else places
        found += _along(places, section, cap, _leaning(places, upright))
    return found


def _leaning(places: Points, upright: shapely.Geometry | None) -> NDArray[np.bool_]:
    """Which of a ring's edges do not lie on those of another area."""
    if upright is None:
        return np.ones(len(places), dtype=np.bool_)
    shapely.prepare(upright)
    onward = np.roll(places, -1, axis=0)
    at = [shapely.points(places + share * (onward - places)) for share in (0.02, 0.5, 0.98)]
    found: NDArray[np.bool_] = ~np.all([shapely.dwithin(upright, each, _ON) for each in at], axis=0)
    return found


def _section(profile: Points) -> Points:
    """The section of a wedge, anticlockwise: up the profile, which it overruns at both ends, and down
    again beyond the wall."""
    begins, ends = profile[1] - profile[0], profile[-1] - profile[-2]
    first = profile[0] - _BEYOND * begins / np.hypot(*begins)
    last = profile[-1] + _BEYOND * ends / np.hypot(*ends)
    top, out = float(profile[-1, 1]) + 2 * _BEYOND, float(first[0]) - _BEYOND
    return np.vstack([[first], profile, [last], [(last[0], top), (out, top), (out, first[1])]])


def _cap(section: Points) -> Ints:
    import manifold3d  # slow to load

    return np.asarray(manifold3d.triangulate([section]), dtype=np.int64)


def _along(
    places: Points, section: Points, cap: Ints, leaning: NDArray[np.bool_]
) -> list[manifold3d.Manifold]:
    """The wedges along a ring with what is worked on its left."""
    import manifold3d  # slow to load

    begins, ends, ways, kept = _with_fans(places, leaning)
    before = np.roll(ways, 1, axis=0)
    turn = np.arctan2(_cross(before, ways), (before * ways).sum(axis=1))
    longer = np.tan(np.maximum(-turn, 0.0) / 2)
    lap = np.where(turn > 0, _LAP, 0.0)
    lefts = np.column_stack([-ways[:, 1], ways[:, 0]])
    inwards = np.maximum(section[:, :1], 0.0)
    faces = _faces(len(section), cap)
    found = list[Any]()
    for k in np.flatnonzero(kept).tolist():
        then = (k + 1) % len(ways)
        across = section[:, :1] * lefts[k]
        one = begins[k] + across - (inwards * longer[k] + lap[k]) * ways[k]
        other = ends[k] + across + (inwards * longer[then] + lap[then]) * ways[k]
        corners = np.vstack(
            [np.column_stack([one, section[:, 1]]), np.column_stack([other, section[:, 1]])]
        )
        found.append(
            manifold3d.Manifold(manifold3d.Mesh64(vert_properties=corners, tri_verts=faces))
        )
    return found


def _with_fans(
    places: Points, leaning: NDArray[np.bool_]
) -> tuple[Points, Points, Points, NDArray[np.bool_]]:
    """A ring's edges: where each begins and ends, its way, and whether its wall leans; at corners that
    look inwards and turn by more than a right angle there are edges of hardly any length between."""
    onward = np.roll(places, -1, axis=0)
    ways = onward - places
    ways = ways / np.maximum(np.hypot(*ways.T), 1e-300)[:, None]
    before = np.roll(ways, 1, axis=0)
    turn = np.arctan2(_cross(before, ways), (before * ways).sum(axis=1))
    rows = list[tuple[Points, Points, Points, bool]]()
    for k, (begin, end, way, leans) in enumerate(
        zip(places, onward, ways, leaning.tolist(), strict=True)
    ):
        if turn[k] < -math.pi / 2 - 1e-9:
            count = math.ceil(-turn[k] / _FAN)
            for share in range(1, count):
                a = turn[k] * share / count
                x, y = before[k]
                between = np.array(
                    [x * math.cos(a) - y * math.sin(a), x * math.sin(a) + y * math.cos(a)]
                )
                off = _LAP / 2 * between
                rows.append((begin - off, begin + off, between, leans))
        rows.append((begin, end, way, leans))
    begins, ends, every, kept = zip(*rows, strict=True)
    return np.array(begins), np.array(ends), np.array(every), np.array(kept)


def _faces(count: int, cap: Ints) -> NDArray[np.uint64]:
    """The triangles of a wedge whose section has so many places."""
    here = np.arange(count)
    onward = np.roll(here, -1)
    sides = np.vstack(
        [
            np.column_stack([here, onward, onward + count]),
            np.column_stack([here, onward + count, here + count]),
        ]
    )
    return np.vstack([sides, cap[:, ::-1], cap + count]).astype(np.uint64)


def _cross(one: Points, other: Points) -> Floats:
    found: Floats = one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0]
    return found
