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
from draxet.record import record

if TYPE_CHECKING:
    import manifold3d

__all__ = ["profile_of", "wedges_along"]

_BEYOND = 5e-4
"""mm that a wedge reaches beyond the wall, so that nothing is left of that."""
_HEEL = 1e-3
"""mm above its foot at which a wall begins to lean, so that the foot's edge stays where it is."""
_LAP = 1e-4
"""mm by which wedges lap over each other at corners that look outwards."""
_SMOOTH = math.radians(25.0)
"""Edges that turn by less are one wall."""
_ROOM = 0.2
"""Of an edge's length so much must be left of it as deep as a wedge is."""
_FAN = math.radians(60.0)
"""At a corner that looks inwards and turns by more than a right angle walls meet in a fan of so much each."""
_ON = 3e-4
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
        return np.array([(0.0, min(_HEEL, height / 2)), (lean * height, height)])
    edge = min(edge, height)
    foot = [(0.0, _HEEL)] if draft and edge < height - 2 * _HEEL else []
    if upper == "chamfered":
        begin = max(height - edge, min(_HEEL, height / 2))
        return np.array([*foot, (lean * begin, begin), (lean * height + edge, height)])
    least, most = math.radians(draft), math.pi / 2
    step = 2 * math.acos(max(1 - fine / edge, 0.0))
    turns = np.linspace(least, most, max(math.ceil((most - least) / step), 3) + 1)
    middle = lean * (height - edge) + edge / math.cos(least)
    round_ = np.column_stack([middle - edge * np.cos(turns), height - edge + edge * np.sin(turns)])
    begun = round_[round_[:, 1] > (2 * _HEEL if foot else min(_HEEL, height / 2))]
    return np.vstack([foot, begun]) if foot else begun


def wedges_along(
    area: shapely.Geometry,
    profile: Points,
    low: float,
    beside: shapely.Geometry | None = None,
    *,
    outside: bool = False,
) -> list[manifold3d.Manifold]:
    """What is taken away along the edges of an area so that its walls follow a profile whose foot is
    `low` mm high; nothing along edges that lie on those of what is `beside` it, and nothing of that.
    outside : of what lies round the area, in its place."""
    section = _section(profile) + (0.0, low)
    cap = _cap(section)
    upright = shapely.boundary(beside) if beside is not None else None
    found = list[Any]()
    for ring in shapely.get_rings(shapely.get_parts(shapely.orient_polygons(area))).tolist():
        places = shapely.get_coordinates(ring)[:-1]
        places = places[::-1] if outside else places
        found += _along(places, section, cap, _leaning(places, upright))
    return found if beside is None else _spared(found, beside, section)


def _spared(
    wedges: list[manifold3d.Manifold], beside: shapely.Geometry, section: Points
) -> list[manifold3d.Manifold]:
    """Wedges that reach through what is narrow into what is beside it, without that."""
    import manifold3d  # slow to load

    boxes = np.array([each.bounding_box() for each in wedges]).reshape(-1, 6)
    near = shapely.intersects(beside, shapely.box(*boxes[:, [0, 1, 3, 4]].T)) if len(boxes) else []
    low, high = float(section[:, 1].min()) - 1.0, float(section[:, 1].max()) + 1.0
    rings = [
        shapely.get_coordinates(ring)[:-1]
        for ring in shapely.get_rings(shapely.get_parts(shapely.orient_polygons(beside))).tolist()
    ]
    kept = manifold3d.Manifold.extrude(manifold3d.CrossSection(rings), high - low)
    kept = kept.translate((0.0, 0.0, low))
    return [
        wedge - kept if is_near else wedge
        for wedge, is_near in zip(wedges, list(near), strict=True)
    ]


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
    """The wedges along a ring with what is worked on its left: one for each run of edges between
    corners that look outwards."""
    ring = _ring_of(places, leaning)
    deep = float(section[:, 0].max())
    found = list[Any]()
    waiting = _runs(ring, deep)
    while waiting:
        run = waiting.pop()
        rows = _rows(ring, run)
        if len(run) > 1 and not _is_simple(rows, deep, goes_round=_goes_round(run)):
            middle = len(run) // 2  # it would run into itself
            waiting += [run[:middle], run[middle : len(run) - _goes_round(run)]]
            continue
        found.append(_swept(rows, section, None if _goes_round(run) else cap))
    return found


@record(frozen=True, eq=False)
class _Ring:
    """A ring's edges: where each begins, how long it is, its way and what is square to that on its
    left, by how much the ring turns where it begins, and whether its wall leans."""

    begins: Points
    lengths: Floats
    ways: Points
    lefts: Points
    turn: Floats
    leaning: NDArray[np.bool_]


def _ring_of(places: Points, leaning: NDArray[np.bool_]) -> _Ring:
    ways = np.roll(places, -1, axis=0) - places
    lengths = np.hypot(*ways.T)
    ways = ways / np.maximum(lengths, 1e-300)[:, None]
    before = np.roll(ways, 1, axis=0)
    turn = np.arctan2(
        before[:, 0] * ways[:, 1] - before[:, 1] * ways[:, 0], (before * ways).sum(axis=1)
    )
    lefts = np.column_stack([-ways[:, 1], ways[:, 0]])
    return _Ring(places, lengths, ways, lefts, turn, leaning)


def _runs(ring: _Ring, deep: float) -> list[list[int]]:
    """Numbers of edges of which one wedge is made: those that lean, between corners that look
    outwards and turn much, or at which they are too short for so deep a wedge; the first once more
    where they go round."""
    count = len(ring.turn)
    short = np.tan(np.clip(ring.turn, 0.0, math.pi / 2) / 2) * deep
    room = ring.lengths - short - np.roll(short, -1) > _ROOM * ring.lengths
    smooth = (ring.turn < _SMOOTH) & room & np.roll(room, 1)
    joined = ((ring.turn <= 0) | smooth) & ring.leaning & np.roll(ring.leaning, 1)
    if joined.all():
        return [[*range(count), 0]]
    first = int(np.flatnonzero(~joined)[0])
    runs = list[list[int]]()
    for k in [*range(first, count), *range(first)]:
        if joined[k] and runs and runs[-1]:
            runs[-1].append(k)
        else:
            runs.append([k] if ring.leaning[k] else [])
    return [run for run in runs if run]


def _goes_round(run: list[int]) -> bool:
    return len(run) > 1 and run[0] == run[-1]


_Row = tuple[Points, Points, Points]
"""A place on a ring, how far from it a wall has gone for each mm inwards, and outwards."""


def _rows(ring: _Ring, run: list[int]) -> list[_Row]:
    """Where the sections of a wedge along some edges stand."""
    found = list[_Row]()
    for k in run[1:]:
        found += _corner(ring, k)
    if _goes_round(run):
        return found
    first, last = run[0], run[-1]
    back, on = ring.begins[first], ring.begins[last] + ring.lengths[last] * ring.ways[last]
    square = ring.lefts[first], ring.lefts[last]
    found.insert(0, (back - _LAP * ring.ways[first], square[0], square[0]))
    found.append((on + _LAP * ring.ways[last], square[1], square[1]))
    return found


def _corner(ring: _Ring, k: int) -> list[_Row]:
    """The sections where an edge begins that goes on from the one before: one between the walls; a fan
    of them where the corner looks inwards and turns by more than a right angle."""
    place, turn = ring.begins[k], float(ring.turn[k])
    one, other = ring.lefts[k - 1], ring.lefts[k]
    count = 1 if turn > -math.pi / 2 - 1e-9 else math.ceil(-turn / _FAN)
    between = one + other
    out = between / max(float(np.hypot(*between)), 1e-9)
    lefts = [_turned(one, turn * share / count) for share in range(count)] + [other]
    middles = [(a + b) / (1.0 + float(a @ b)) for a, b in zip(lefts, lefts[1:], strict=False)]
    return [(place, each, each if count == 1 else out) for each in middles]


def _turned(way: Points, turn: float) -> Points:
    x, y = way
    return np.array(
        [x * math.cos(turn) - y * math.sin(turn), x * math.sin(turn) + y * math.cos(turn)]
    )


def _is_simple(rows: list[_Row], deep: float, *, goes_round: bool) -> bool:
    """Whether a wedge along these does not run into itself."""
    outer = np.array([place for place, _, _ in rows])
    inner = np.array([place + deep * inwards for place, inwards, _ in rows])
    if not goes_round:
        return bool(shapely.is_valid(shapely.Polygon(np.vstack([outer, inner[::-1]]))))
    around, within = shapely.Polygon(outer), shapely.Polygon(inner)
    return bool(
        shapely.is_valid(around)
        and shapely.is_valid(within)
        and (shapely.covers(around, within) or shapely.covers(within, around))
    )


def _swept(rows: list[_Row], section: Points, cap: Ints | None) -> manifold3d.Manifold:
    """A wedge with a section in each of these places."""
    import manifold3d  # slow to load

    inwards = section[:, :1]
    within, beyond = np.maximum(inwards, 0.0), np.minimum(inwards, 0.0)
    corners = np.vstack(
        [
            np.column_stack([place + within * inner + beyond * outer, section[:, 1]])
            for place, inner, outer in rows
        ]
    )
    faces = _faces(len(section), len(rows), cap)
    return manifold3d.Manifold(manifold3d.Mesh64(vert_properties=corners, tri_verts=faces))


def _faces(count: int, rows: int, cap: Ints | None) -> NDArray[np.uint64]:
    """The triangles of a wedge of so many sections of so many places; of one that goes round without
    ends."""
    here = np.arange(count)
    onward = np.roll(here, -1)
    side = np.vstack(
        [
            np.column_stack([here, onward, onward + count]),
            np.column_stack([here, onward + count, here + count]),
        ]
    )
    sides = [side + count * k for k in range(rows - 1)]
    if cap is None:
        last = side + count * (rows - 1)
        return np.vstack([*sides, last % (count * rows)]).astype(np.uint64)
    return np.vstack([*sides, cap[:, ::-1], cap + count * (rows - 1)]).astype(np.uint64)
