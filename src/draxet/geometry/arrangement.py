"""A planar arrangement: every area that contours bound between them, in pieces of their own spans.

Spans are parted where they meet; pieces with the same ends and the same course are one *edge*; each edge has two *sides*, one for either way.
Round a place the sides are told in order by where they lie on a small circle about it, so that the side that bounds the same area is known
and areas are walked round (the doubly connected edge list of Muller & Preparata, 1978). Edges that bound the same area on both sides bound
nothing: they are left out and told as loose.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from draxet.geometry.arrays import Bools, Floats, Ints, Points, norms
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.crossings import nearest_on, parts_of, self_crossings
from draxet.geometry.spans import Spans

__all__ = ["Arrangement", "Region", "arrangement_of"]

_SAME = 4e-6
"""mm: places nearer to each other than that are one."""
_COURSE = 2e-5
"""mm: edges with the same ends whose middles lie so near to each other are one."""
_CIRCLE = 0.2
"""Of the shortest edge at a place: how large the circle is on which its edges are told in order."""
_FLAT = 0.01
"""mm: how finely areas are flattened to look which lies in which."""


@dataclass(frozen=True, eq=False)
class Region:
    """An area. outline : its outer bound, anticlockwise. holes : what is left out of it, clockwise. area : in mm², without the holes.
    covered : numbers of the closed contours that it lies inside of. sides : its edges' sides. thin : how broad it is in the mean, in mm."""

    outline: Contour
    holes: tuple[Contour, ...]
    area: float
    covered: frozenset[int]
    sides: Ints
    thin: float


@dataclass(frozen=True, eq=False)
class Arrangement:
    """The areas between contours.

    contours : as they came. edges : pieces of their spans, each once. source : of each edge the number of the span that it is a piece
    of (counted over all contours), begin and end : the parameters there. owners : of each edge the contours that it belongs to. loose :
    numbers of edges that bound nothing. left, right : of each edge the number of the region on that side, -1 for the outside.
    """

    contours: tuple[Contour, ...]
    edges: Spans
    source: Ints
    begin: Floats
    end: Floats
    owners: tuple[tuple[int, ...], ...]
    regions: tuple[Region, ...]
    left: Ints
    right: Ints
    loose: Ints
    _spans: Spans = field(repr=False)
    _ends: Ints = field(repr=False)
    """(edges, 2) the places at which each begins and ends."""

    def outline_of(self, regions: Iterable[int]) -> list[Contour]:
        """What bounds some regions taken together: outer bounds anticlockwise, holes clockwise; edges between them are gone, and pieces of one
        span that follow each other are one again."""
        chosen = np.zeros(len(self.regions) + 1, dtype=bool)
        chosen[list(regions)] = True
        chosen[-1] = False
        on_left, on_right = chosen[self.left], chosen[self.right]
        forward, back = np.flatnonzero(on_left & ~on_right), np.flatnonzero(on_right & ~on_left)
        sides = np.concatenate([2 * forward, 2 * back + 1])
        return [self._contour(run) for run in _strung(sides, self._ends, self.edges)]

    def at(self, x: float, y: float) -> int | None:
        """The number of the region in which a place lies; None outside all of them."""
        if not self.regions:
            return None
        hits = _tree_of(self).query(shapely.Point(x, y), predicate="intersects")
        inside = [int(k) for k in hits if self._holds(int(k), x, y)]
        return min(inside, key=lambda k: self.regions[k].area) if inside else None

    def _holds(self, number: int, x: float, y: float) -> bool:
        region = self.regions[number]
        return _winds(region.outline, x, y) and not any(_winds(hole, x, y) for hole in region.holes)

    def _contour(self, sides: Sequence[int]) -> Contour:
        """A closed contour of sides that follow each other."""
        return _contour_of(self._spans, self.source, self.begin, self.end, self.edges, list(sides))


def _tree_of(arrangement: Arrangement) -> shapely.STRtree:
    kept: shapely.STRtree | None = arrangement.__dict__.get("_tree")
    if kept is None:
        boxes = np.array([region.outline.box for region in arrangement.regions])
        kept = shapely.STRtree(shapely.box(*boxes.T))
        object.__setattr__(arrangement, "_tree", kept)
    return kept


def arrangement_of(contours: Sequence[Contour]) -> Arrangement:
    """The areas that contours, open ones too, bound between them.

    Cost: that of ``self_crossings`` on all their spans, and n log n in the edges.
    """
    spans, owner = joined_spans(contours)
    if not len(spans):
        none = np.zeros(0, dtype=np.int64)
        return Arrangement(tuple(contours), spans, none, np.zeros(0), np.zeros(0), (), (), none, none, none, spans, np.zeros((0, 2), dtype=np.int64))
    source, begin, end = _parted(spans)
    edges = parts_of(spans, source, begin, end)
    source, begin, end, edges, ends, owners = _once(spans, owner, source, begin, end, edges)
    kept = _not_loose(ends, edges)
    loose = np.flatnonzero(~kept)
    number = np.flatnonzero(kept)
    cycles = _cycles(ends[number], edges.take(number))
    sides = [2 * number[np.array(cycle) // 2] + np.array(cycle) % 2 for cycle in cycles]
    made = [_contour_of(spans, source, begin, end, edges, cycle.tolist()) for cycle in sides]
    areas = np.array([contour.area for contour in made])
    parts = _parts(ends, number)
    outer, holes_of = _nested(made, areas, [int(parts[ends[cycle[0] // 2, 0]]) for cycle in sides])
    left, right = np.full(len(edges), -1), np.full(len(edges), -1)
    for region, k in enumerate(outer):
        for cycle in (sides[k], *(sides[hole] for hole in holes_of[k])):
            left[cycle[cycle % 2 == 0] // 2] = region
            right[cycle[cycle % 2 == 1] // 2] = region
    covered = _covered(left, right, owners, number, len(outer), contours)
    regions = []
    for region, k in enumerate(outer):
        area = float(areas[k] + areas[holes_of[k]].sum())
        about = made[k].length + sum(made[hole].length for hole in holes_of[k])
        whole = np.concatenate([sides[k], *(sides[hole] for hole in holes_of[k])])
        regions.append(Region(made[k], tuple(made[hole] for hole in holes_of[k]), area, covered[region], whole, 2 * area / about if about else 0.0))
    return Arrangement(tuple(contours), edges, source, begin, end, owners, tuple(regions), left, right, loose, spans, ends)


def _parted(spans: Spans) -> tuple[Ints, Floats, Floats]:
    """Spans parted where they meet others and themselves: of each piece the span, and from which parameter to which."""
    met = self_crossings(spans)
    which = np.concatenate([met.first, met.second, np.arange(len(spans)), np.arange(len(spans))])
    t = np.concatenate([met.t, met.u, np.zeros(len(spans)), np.ones(len(spans))])
    order = np.lexsort([t, which])
    which, t = which[order], t[order]
    points = spans.at(which, t)
    same = (which[1:] == which[:-1]) & (norms(points[1:] - points[:-1]) <= _SAME) & (t[1:] - t[:-1] < 0.5)
    last = np.append(which[1:] != which[:-1], True)
    keep = np.append(True, ~same)
    keep |= last  # a span's own end stays, and what lies on it goes
    before_last = np.flatnonzero(last & np.append(False, same)) - 1
    first = np.append(True, which[1:] != which[:-1])
    keep[before_last[~first[before_last]]] = False
    which, t = which[keep], t[keep]
    pairs = which[1:] == which[:-1]
    return which[:-1][pairs], t[:-1][pairs], t[1:][pairs]


def _once(
    spans: Spans, owner: Ints, source: Ints, begin: Floats, end: Floats, edges: Spans
) -> tuple[Ints, Floats, Floats, Spans, Ints, tuple[tuple[int, ...], ...]]:
    """Edges each once, with the places at their ends and the contours that each belongs to."""
    places = _places(np.concatenate([edges.starts, edges.ends]))
    ends = np.stack([places[: len(edges)], places[len(edges) :]], axis=1)
    closed = ends[:, 0] == ends[:, 1]
    real = np.flatnonzero(~closed | (edges.lengths() > 10 * _SAME))
    low, high = ends[real].min(axis=1), ends[real].max(axis=1)
    order = real[np.lexsort([high, low])]
    keys = np.sort(ends[order], axis=1)
    groups = np.split(order, np.flatnonzero((np.diff(keys, axis=0) != 0).any(axis=1)) + 1) if len(order) else []
    kept: list[int] = []
    owners: list[tuple[int, ...]] = []
    for group in groups:
        for one in _alike(edges, group) if len(group) > 1 else [group.tolist()]:
            kept.append(one[0])
            owners.append(tuple(sorted({int(owner[source[k]]) for k in one})))
    index = np.array(kept, dtype=np.int64)
    return source[index], begin[index], end[index], edges.take(index), ends[index], tuple(owners)


def _places(points: Points) -> Ints:
    """A number for each point, the same for those that are one place."""
    tree = cKDTree(points)
    pairs = tree.query_pairs(_SAME, output_type="ndarray")
    graph = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(points), len(points)))
    return np.asarray(connected_components(graph, directed=False)[1], dtype=np.int64)


def _alike(edges: Spans, group: Ints) -> list[list[int]]:
    """Edges with the same ends, those together that run the same course."""
    found: list[list[int]] = []
    for k in group.tolist():
        middle = edges.at(np.array([k]), np.array([0.5]))
        for one in found:
            _, off = nearest_on(edges, np.array([one[0]]), middle, np.array([0.5]))
            if off[0] <= _COURSE and abs(edges.take(np.array([k])).lengths()[0] - edges.take(np.array([one[0]])).lengths()[0]) <= 100 * _COURSE:
                one.append(k)
                break
        else:
            found.append([k])
    return found


def _not_loose(ends: Ints, edges: Spans) -> Bools:
    """Which edges bound an area on one of their sides and not on the other."""
    kept = np.ones(len(ends), dtype=bool)
    while True:
        count = np.bincount(ends[kept].ravel(), minlength=int(ends.max(initial=0)) + 1)
        free = kept & (count[ends] == 1).any(axis=1)
        if not free.any():
            number = np.flatnonzero(kept)
            both = np.zeros(len(number), dtype=bool)
            for cycle in _cycles(ends[number], edges.take(number)):
                sides = np.array(cycle)
                which, times = np.unique(sides // 2, return_counts=True)
                both[which[times > 1]] = True
            if not both.any():
                return kept
            free = np.zeros(len(kept), dtype=bool)
            free[number[both]] = True
        kept &= ~free


# --- round places, and round areas


def _cycles(ends: Ints, edges: Spans) -> list[list[int]]:
    """The ways round areas: lists of sides (2 k for edge k as it runs, 2 k + 1 for it backwards), each area on their left."""
    if not len(ends):
        return []
    count = len(ends)
    sides = np.arange(2 * count)
    at = np.where(sides % 2 == 0, ends[sides // 2, 0], ends[sides // 2, 1])  # where each side leaves from
    angles = _angles(ends, edges, at)
    order = np.lexsort([angles, at])
    place = np.empty(2 * count, dtype=np.int64)
    place[order] = np.arange(2 * count)
    first = np.searchsorted(at[order], at)  # the first side that leaves from the same place, and how many there are
    degree = np.bincount(at, minlength=int(at.max()) + 1)[at]
    twin = sides ^ 1
    following = order[first[twin] + (place[twin] - first[twin] - 1) % degree[twin]]  # the next one clockwise from the way back
    left, found = np.ones(2 * count, dtype=bool), []
    onward = following.tolist()
    for side in range(2 * count):
        if left[side]:
            cycle, k = [], side
            while left[k]:
                left[k] = False
                cycle.append(k)
                k = onward[k]
            found.append(cycle)
    return found


def _angles(ends: Ints, edges: Spans, at: Ints) -> Floats:
    """Of each side the angle at which it crosses a small circle about the place that it leaves from."""
    count = len(ends)
    lengths = edges.lengths()
    extents = np.maximum(norms(edges.ends - edges.starts), 0.5 * lengths * (ends[:, 0] == ends[:, 1]))
    least = np.full(int(ends.max()) + 1, np.inf)
    for k in (0, 1):
        np.minimum.at(least, ends[:, k], np.minimum(extents, lengths))
    radius = np.maximum(_CIRCLE * least[at], _SAME)
    which = np.repeat(np.arange(count), 2)
    back = np.tile([False, True], count)
    from_place = np.where(back[:, None], edges.ends[which], edges.starts[which])
    low, high = np.zeros(2 * count), np.minimum(1.0, 2.5 * radius / np.maximum(lengths[which], 1e-12))
    reach = norms(edges.at(which, np.where(back, 1 - high, high)) - from_place)
    high = np.where(reach < radius, 0.5, high)
    for _ in range(40):
        middle = (low + high) / 2
        away = norms(edges.at(which, np.where(back, 1 - middle, middle)) - from_place)
        low, high = np.where(away < radius, middle, low), np.where(away < radius, high, middle)
    step = edges.at(which, np.where(back, 1 - high, high)) - from_place
    return np.asarray(np.arctan2(step[:, 1], step[:, 0]))


def _strung(sides: Ints, ends: Ints, edges: Spans) -> list[list[int]]:
    """Sides strung into ways round, by the same order round places."""
    number = np.unique(sides // 2)
    wanted = set(sides.tolist())
    if not len(number):
        return []
    cycles = _cycles(ends[number], edges.take(number))
    runs = [[int(2 * number[k // 2] + k % 2) for k in cycle] for cycle in cycles]
    return [run for run in runs if run[0] in wanted]


def _contour_of(spans: Spans, source: Ints, begin: Floats, end: Floats, edges: Spans, sides: Sequence[int]) -> Contour:
    """A closed contour of sides that follow each other; pieces of one span that follow each other are one again."""
    runs: list[tuple[int, float, float]] = []  # span, from where to where
    for side in sides:
        k, way = side // 2, side % 2
        span, a, b = int(source[k]), float(begin[k]), float(end[k])
        a, b = (b, a) if way else (a, b)
        if runs and runs[-1][0] == span and runs[-1][2] == a and (b - a) * (runs[-1][2] - runs[-1][1]) > 0:
            runs[-1] = (span, runs[-1][1], b)
        else:
            runs.append((span, a, b))
    if len(runs) > 1 and runs[0][0] == runs[-1][0] and runs[-1][2] == runs[0][1] and (runs[0][2] - runs[0][1]) * (runs[-1][2] - runs[-1][1]) > 0:
        runs[0] = (runs[0][0], runs[-1][1], runs[0][2])
        runs.pop()
    which = np.array([run[0] for run in runs])
    leave, reach = np.array([run[1] for run in runs]), np.array([run[2] for run in runs])
    parts = parts_of(spans, which, np.minimum(leave, reach), np.maximum(leave, reach))
    back: Bools = leave > reach
    starts = np.where(back[:, None], parts.ends, parts.starts)
    bulges = np.where(back, -parts.bulges, parts.bulges)
    handles = np.where(back[:, None, None], parts.handles[:, ::-1], parts.handles)
    return Contour.make(starts, parts.kinds, bulges, handles)


# --- which lies in which


def _parts(ends: Ints, number: Ints) -> Ints:
    """Of each place the number of what it hangs together with."""
    size = int(ends.max(initial=-1)) + 1
    some = ends[number]
    graph = coo_matrix((np.ones(len(some)), (some[:, 0], some[:, 1])), shape=(size, size))
    return np.asarray(connected_components(graph, directed=False)[1])


def _nested(made: Sequence[Contour], areas: Floats, parts: Sequence[int]) -> tuple[list[int], dict[int, list[int]]]:
    """The ways round that bound an area from outside, and of each the ways round its holes."""
    outer = [k for k in range(len(made)) if areas[k] > 0]
    inner = [k for k in range(len(made)) if areas[k] < 0]
    holes: dict[int, list[int]] = {k: [] for k in outer}
    if not outer or not inner:
        return outer, holes
    polygons = np.array([shapely.Polygon(_ring(made[k])) for k in outer])
    tree = shapely.STRtree(polygons)
    spots = shapely.points([made[k].nodes[0] for k in inner])
    for hole, within in zip(*tree.query(spots, predicate="dwithin", distance=2 * _FLAT), strict=True):
        k, about = inner[hole], outer[within]
        if parts[k] != parts[about] and areas[about] > -areas[k] and _winds(made[about], *made[k].nodes[0].tolist()):
            holes[about].append(k)
    best: dict[int, int] = {}
    for about, some in holes.items():
        for k in some:
            if k not in best or areas[about] < areas[best[k]]:
                best[k] = about
    return outer, {about: [k for k in some if best[k] == about] for about, some in holes.items()}


def _ring(contour: Contour) -> Points:
    points = contour.flattened(_FLAT)
    return points if len(points) > 2 else contour.flattened(1e-4) if contour.length else np.vstack([points, points, points])[:3]


def _winds(contour: Contour, x: float, y: float) -> bool:
    """Whether a place lies inside a closed contour, flattened as finely as it lies near to it."""
    away = shapely.Point(x, y)
    for tolerance in (_FLAT, _FLAT / 100, 1e-6):
        ring = _ring_within(contour, tolerance)
        polygon = shapely.Polygon(ring)
        if polygon.exterior.distance(away) > 2 * tolerance:
            break
    return bool(shapely.contains_xy(polygon, x, y)) if polygon.is_valid else bool(_winding(ring, x, y))


def _ring_within(contour: Contour, tolerance: float) -> Points:
    points = contour.flattened(tolerance)
    return points if len(points) > 2 else _ring(contour)


def _winding(ring: Points, x: float, y: float) -> int:
    """How often a ring of straight steps goes round a place."""
    here: Points = ring - (x, y)
    ahead = np.roll(here, -1, axis=0)
    turns = np.arctan2(here[:, 0] * ahead[:, 1] - here[:, 1] * ahead[:, 0], (here * ahead).sum(axis=1))
    return round(float(turns.sum() / (2 * np.pi)))


def _covered(left: Ints, right: Ints, owners: Sequence[tuple[int, ...]], number: Ints, count: int, contours: Sequence[Contour]) -> list[frozenset[int]]:
    """Of each region the closed contours that it lies inside of: from the outside inwards, each edge of a contour leads into or out of it."""
    beside: list[list[tuple[int, frozenset[int]]]] = [[] for _ in range(count + 1)]
    for k in number.tolist():
        over = frozenset(c for c in owners[k] if contours[c].closed)
        beside[int(left[k])].append((int(right[k]), over))
        beside[int(right[k])].append((int(left[k]), over))
    found: list[frozenset[int] | None] = [None] * (count + 1)
    found[-1] = frozenset()
    waiting = [-1]
    while waiting:
        here = waiting.pop()
        inside = found[here] or frozenset()
        for other, over in beside[here]:
            if found[other] is None:
                found[other] = inside ^ over
                waiting.append(other)
    return [each or frozenset() for each in found[:count]]
