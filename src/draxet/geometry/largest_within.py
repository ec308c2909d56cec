"""The largest place of a shape within a room, which may have holes."""

from __future__ import annotations

import math

import numpy as np
import shapely

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Floats, Points
from draxet.progress import Progress, Unwatched
from draxet.record import record

__all__ = ["largest_within"]

_TURNS, _GRID = 24, 13
"""So many ways round, and places along each side of the room, are tried first."""
_BEST, _ROUNDS = 8, 60
"""From the best of each way round, and so many others, the place is improved, in so many steps."""
_CLEAR = 1e-7
_PLAIN = 250
"""So many corners of a shape or a room are looked at, at the most."""


def largest_within(
    shape: shapely.Geometry,
    room: shapely.Geometry,
    *,
    turns: bool = False,
    report: Progress = Unwatched(),
) -> Affine | None:
    """The map that lays a shape as large as may be within a room, where it covers none of the
    room's holes, which its own openings may hold; None where there is no place at all.

    Parameters
    ----------
    shape, room : polygons or several of them. turns : whether it may be turned as well; it is never
    mirrored.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    if shapely.area(shape) <= 0 or shapely.area(room) <= 0:
        return None
    middle = shapely.centroid(shape)
    anchor = np.array([middle.x, middle.y])
    fit = _Fit(_edges(_plainer(shape)) - anchor, _edges(_plainer(room)))
    x0, y0, x1, y1 = shapely.bounds(room).tolist()
    ways = [2 * math.pi * k / _TURNS for k in range(_TURNS)] if turns else [0.0]
    step = np.array([x1 - x0, y1 - y0]) / _GRID
    tried, first = list[tuple[float, Floats]](), list[tuple[float, Floats]]()
    for number, way in enumerate(ways):
        report(0.6 * number / len(ways), "looking for the largest place")
        places = [
            np.array([x0 + (i + 0.5) * step[0], y0 + (j + 0.5) * step[1], way])
            for i in range(_GRID)
            for j in range(_GRID)
        ]
        found = sorted(((fit.size(at), at) for at in places), key=lambda each: -each[0])
        first.append(found[0])
        tried += found[1:]
    tried = [*first, *sorted(tried, key=lambda each: -each[0])[:_BEST]]
    best = (0.0, tried[0][1])
    for number, (size, place) in enumerate(tried):
        report(0.6 + 0.4 * number / len(tried), "looking for the largest place")
        reach = np.array([*step, math.pi / _TURNS if turns else 0.0])
        best = max(best, fit.improved(size, place, reach), key=lambda each: each[0])
    size, (x, y, way) = best
    if size <= 0:
        return None
    size *= 1 - _CLEAR
    turned = Affine.moved(*(-anchor)).then(Affine.scaled(size))
    return turned.then(Affine.turned(math.degrees(way))).then(Affine.moved(float(x), float(y)))


@record(frozen=True, eq=False)
class _Fit:
    """Edges (n, 2, 2) of the shape, about its anchor, and of the room."""

    shape: Floats
    room: Floats

    def size(self, place: Floats) -> float:
        """How large the shape can be with its anchor at a place (x, y, turned by so many radians);
        0 where it cannot be there."""
        c, s = math.cos(place[2]), math.sin(place[2])
        shape = self.shape @ np.array([[c, s], [-s, c]])
        room = self.room - place[:2]
        out = _ways_in(shape[:, 0], room)
        corners = _ways_in(room[:, 0], shape)
        size = np.inf
        for _ in range(_ROUNDS):
            lower = min(_inside_up_to(out, size), _outside_up_to(corners, size))
            if lower <= 0 or lower >= size:
                return max(float(lower), 0.0) if np.isfinite(lower) else 0.0
            size = lower
        return 0.0

    def improved(self, size: float, place: Floats, reach: Floats) -> tuple[float, Floats]:
        """A better place near that one, by smaller and smaller steps."""
        least = 1e-7 * reach.max()
        axes = [np.array(each) for each in ((1, 0, 0), (0, 1, 0), (0, 0, 1), (1, 1, 0), (1, -1, 0))]
        for _ in range(_ROUNDS):
            moves = [sign * axis * reach for axis in axes for sign in (1, -1)]
            found = [(self.size(place + move), place + move) for move in moves]
            better = max(found, key=lambda each: each[0])
            if better[0] > size * (1 + 1e-9):
                size, place = better
            else:
                reach = reach / 2
                if reach.max() < least:
                    break
        return size, place


def _ways_in(points: Points, edges: Floats) -> Floats:
    """For each point (n, 2) where the line from the origin through it crosses edges (m, 2, 2), in
    lengths of that point's own way from the origin, sorted; infinite where it crosses none: (n, m).
    """
    start, way = edges[:, 0], edges[:, 1] - edges[:, 0]
    across = points[:, None, 0] * way[:, 1] - points[:, None, 1] * way[:, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        t = (start[:, 0] * way[:, 1] - start[:, 1] * way[:, 0]) / across
        u = (start[:, 0] * points[:, None, 1] - start[:, 1] * points[:, None, 0]) / across
    t = np.where((u >= 0) & (u < 1) & (t > 0), t, np.inf)
    return np.sort(t, axis=1)


def _inside_up_to(crossings: Floats, size: float) -> float:
    """The largest size, no larger than that, at which all points are inside what their ways cross:
    where from outside an even number of crossings lies beyond them, they are not."""
    beyond = (crossings >= size).sum(axis=1) - np.isinf(crossings).sum(axis=1)
    outside = beyond % 2 == 0 if np.isfinite(size) else np.ones(len(crossings), dtype=bool)
    if not outside.any():
        return size
    before = np.where(crossings[outside] < size, crossings[outside], 0.0)
    return float(before.max(axis=1).min())


def _outside_up_to(crossings: Floats, size: float) -> float:
    """The largest size, no larger than that, at which no point of the room is within the shape: a
    point is at 1 / size of its way."""
    if not np.isfinite(size):
        return size
    at = 1.0 / size
    beyond = (crossings > at * (1 + 1e-12)).sum(axis=1) - np.isinf(crossings).sum(axis=1)
    within = beyond % 2 == 1
    if not within.any():
        return size
    after = np.where(crossings[within] > at * (1 + 1e-12), crossings[within], np.inf).min(axis=1)
    return float(min(size, (1.0 / after).min()))


def _plainer(shape: shapely.Geometry) -> shapely.Geometry:
    """A shape with fewer corners, which covers less nowhere but by a hair."""
    within = 1e-4 * math.sqrt(shapely.area(shape))
    while shapely.get_num_coordinates(shape) > _PLAIN and within < shapely.length(shape):
        shape, within = shapely.simplify(shape, within), 2 * within
    return shape


def _edges(shape: shapely.Geometry) -> Floats:
    """The edges (n, 2, 2) of all of its rings."""
    rings = [
        shapely.get_coordinates(ring)
        for part in shapely.get_parts(shape)
        for ring in (part.exterior, *part.interiors)
    ]
    return np.concatenate([np.stack([ring[:-1], ring[1:]], axis=1) for ring in rings])
