"""Columns of an area: what is sewn from side to side, found along the middles of its strokes.

The middles are those edges of the Voronoi diagram of the outline's samples that lie within. Each has
a sample on its left and one on its right: where a stitch across goes. Corners and ends that no
stroke leads to are pruned; where strokes meet, two go through and the others end there.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import shapely
from scipy.ndimage import gaussian_filter1d
from scipy.spatial import QhullError, Voronoi

from draxet.geometry.arrays import Floats, Ints, Points
from draxet.record import record

__all__ = ["Column", "Meeting", "column_between", "columns_of", "led_across"]

_STEP, _LEAST_STEP, _MOST_STEP = 0.1, 0.05, 0.3
"""Of an area's mean breadth, and mm: how far samples of its outline lie from each other."""
_TIP = 0.9
"""A branch is a stroke where it reaches so much beyond the disc at its foot, in radii of that."""
_FINE, _OVER, _SMOOTH = 0.05, 0.4, 0.3
"""mm between rungs, that an end reaches into what it meets, and over which rungs are smoothed."""
_NEAR, _TIED = 0.1, 1e-6
_ON = 0.5
"""mm from a side that a place lies on it."""


class Meeting(NamedTuple):
    """Where another column ends at one: its number, which end of it (0, -1), and at which rung."""

    other: int
    end: int
    rung: int


@record(eq=False)
class Column:
    """What is sewn from side to side: rung k goes from `left[k]` to `right[k]` (n, 2) in mm. A
    closed one comes back to where it begins. meets : the columns that end at it."""

    left: Points
    right: Points
    closed: bool
    meets: list[Meeting]

    @property
    def middle(self) -> Points:
        return (self.left + self.right) / 2

    @property
    def breadths(self) -> Floats:
        """How long each rung is, in mm."""
        long: Floats = np.hypot(*(self.right - self.left).T)
        return long

    @property
    def shape(self) -> shapely.Geometry:
        """What its rungs sweep over."""
        corners = np.stack([self.left[:-1], self.left[1:], self.right[1:], self.right[:-1]], axis=1)
        return shapely.union_all(shapely.buffer(shapely.polygons(corners), 0))


def columns_of(area: shapely.Geometry) -> list[Column]:
    """The columns of a polygon, those that go through where they meet before those that end there;
    none where it is too small to have any."""
    area = shapely.orient_polygons(area)
    outline = _Outline(area)
    graph = _Middles(outline, area)
    graph.prune()
    chains = graph.chains()
    if not chains:
        return outline.as_one()
    columns = [_column(outline, graph, chain) for chain in chains]
    _note_meetings(graph, chains, columns)
    return [each for each in columns]


def column_between(one: Points, other: Points, *, closed: bool) -> Column:
    """The column between two lines, or two closed ones (their first place not again at the end), evenly
    from end to end."""
    if closed:
        one, other = (_turning_left(each) for each in (one, other))
        away = np.hypot(*(other - one[0]).T)
        other = np.roll(other, -int(away.argmin()), axis=0)
        one, other = np.vstack([one, one[:1]]), np.vstack([other, other[:1]])
    elif math.dist(one[0], other[0]) + math.dist(one[-1], other[-1]) > math.dist(
        one[0], other[-1]
    ) + math.dist(one[-1], other[0]):
        other = other[::-1]
    lengths = [np.append(0.0, np.cumsum(np.hypot(*np.diff(e, axis=0).T))) for e in (one, other)]
    count = max(int(max(long[-1] for long in lengths) / _FINE), 1) + 1
    left, right = (
        np.column_stack([np.interp(np.linspace(0, long[-1], count), long, axis) for axis in each.T])
        for each, long in zip((one, other), lengths, strict=True)
    )
    return Column(left, right, closed, [])


def _turning_left(ring: Points) -> Points:
    return ring if shapely.LinearRing(ring).is_ccw else ring[::-1]


def led_across(column: Column, leads: Sequence[tuple[Points, Points]]) -> Column:
    """A column of which rungs go from one place to another where such pairs lie on both its sides, and
    those between turn evenly; pairs elsewhere, and those that cross others, change nothing."""
    knots = list[tuple[int, int]]()
    for pair in leads:
        away = [
            [np.hypot(*(side - place).T) for place in pair] for side in (column.left, column.right)
        ]
        ways = [(away[0][k], away[1][1 - k]) for k in (0, 1)]
        left, right = min(ways, key=lambda way: float(way[0].min() + way[1].min()))
        if max(left.min(), right.min()) < _ON:
            knots.append((int(left.argmin()), int(right.argmin())))
    if not knots:
        return column
    sides, meets = [column.left, column.right], column.meets
    if column.closed:
        turned = [np.roll(side[:-1], -by, axis=0) for side, by in zip(sides, knots[0], strict=True)]
        count = len(turned[0])
        knots = [((a - knots[0][0]) % count, (b - knots[0][1]) % count) for a, b in knots[1:]]
        sides = [np.vstack([side, side[:1]]) for side in turned]
    last = len(sides[0]) - 1
    kept = [(0, 0)]
    for a, b in sorted(knots):
        if kept[-1][0] < a < last and kept[-1][1] < b < last:
            kept.append((a, b))
    whole = np.array([*kept, (last, last)], dtype=float)
    at = np.linspace(0, last, last + 1)
    left, right = (
        np.column_stack(
            [np.interp(np.interp(at, whole.mean(axis=1), whole[:, k]), at, axis) for axis in side.T]
        )
        for k, side in enumerate(sides)
    )
    found = Column(left, right, column.closed, [])
    for meeting in meets:
        away = np.hypot(*(found.middle - column.middle[meeting.rung]).T)
        found.meets.append(meeting._replace(rung=int(away.argmin())))
    return found


class _Outline:
    """Samples of a polygon's rings, of which each has the area on its left."""

    def __init__(self, area: shapely.Geometry) -> None:
        rings = [shapely.get_exterior_ring(area)]
        rings += [
            shapely.get_interior_ring(area, k)
            for k in range(int(shapely.get_num_interior_rings(area)))
        ]
        broad = 2 * float(shapely.area(area)) / max(float(shapely.length(area)), _TIED)
        step = min(max(_STEP * broad, _LEAST_STEP), _MOST_STEP)
        self.area = area
        self.rings = [
            shapely.get_coordinates(shapely.segmentize(ring, step))[:-1] for ring in rings
        ]
        self.first = np.cumsum([0, *(len(ring) for ring in self.rings)])
        self.points: Points = np.vstack(self.rings)
        self.ring: Ints = np.repeat(np.arange(len(self.rings)), [len(r) for r in self.rings])

    def way(self, a: int, b: int) -> Points:
        """Along the outline from a sample to another, the shorter way; straight where they lie on
        two rings."""
        if a == b or self.ring[a] != self.ring[b]:
            return self.points[[a, b]]
        first, count = int(self.first[self.ring[a]]), len(self.rings[self.ring[a]])
        ahead = (b - a) % count
        steps = np.arange(ahead + 1) if 2 * ahead <= count else -np.arange(count - ahead + 1)
        return self.points[first + (a - first + steps) % count]

    def beyond(self, a: int, b: int, *, ahead: bool) -> Points:
        """From a sample on the left of a column along the outline to the one on its right: past its
        end, or past its beginning."""
        first, count = int(self.first[self.ring[a]]), len(self.rings[self.ring[a]])
        steps = -np.arange((a - b) % count + 1) if ahead else np.arange((b - a) % count + 1)
        return self.points[first + (a - first + steps) % count]

    def as_one(self) -> list[Column]:
        """One column along the longer side of what has no middle."""
        corners = shapely.get_coordinates(shapely.minimum_rotated_rectangle(self.area))
        if len(corners) < 5:
            return []
        sides = np.diff(corners, axis=0)
        along = sides[int(np.argmax(np.hypot(*sides.T)))]
        along = along / np.hypot(*along)
        ring = self.rings[0]
        ahead = ring @ along
        low, high = int(ahead.argmin()), int(ahead.argmax())
        one, other = np.roll(ring, -low, axis=0), np.roll(ring, -low, axis=0)[::-1]
        other = np.vstack([other[-1:], other[:-1]])
        end = (high - low) % len(ring)
        ways = one[: end + 1], other[: len(ring) - end + 1]
        levels = np.arange(ahead.min(), ahead.max(), _FINE)
        left, right = (_at_levels(way, along, levels) for way in ways)
        to = left.mean(axis=0) - right.mean(axis=0)
        if along[0] * to[1] < along[1] * to[0]:
            left, right = right, left
        return [Column(left, right, False, [])] if len(levels) > 1 else []


class _Edge(NamedTuple):
    """A piece of a middle from one vertex to another, with the samples on both its sides."""

    begin: int
    end: int
    left: int
    right: int


class _Middles:
    """The middles of an area as a graph."""

    def __init__(self, outline: _Outline, area: shapely.Geometry) -> None:
        self.outline = outline
        self.at: Points = np.zeros((0, 2))
        self.radius: Floats = np.zeros(0)
        self.edges: dict[int, set[int]] = {}
        """Of each vertex those next to it."""
        self.sites: dict[tuple[int, int], tuple[int, int]] = {}
        points = outline.points
        try:
            found = Voronoi(points)
        except (QhullError, ValueError):
            return
        self.at = found.vertices
        ridges, pairs = np.array(found.ridge_vertices), found.ridge_points
        shapely.prepare(area)
        inside = np.append(shapely.contains_xy(area, *self.at.T), False)
        a, b = pairs.T
        count = np.array([len(ring) for ring in outline.rings])[outline.ring[a]]
        beside = (outline.ring[a] == outline.ring[b]) & np.isin(np.abs(a - b), (1,))
        beside |= (outline.ring[a] == outline.ring[b]) & (np.abs(a - b) == count - 1)
        keep = inside[ridges].all(axis=1) & ~beside
        self.radius = np.full(len(self.at), np.inf)
        for (u, v), (p, q) in zip(ridges[keep].tolist(), pairs[keep].tolist(), strict=True):
            self.sites[(u, v)] = self.sites[(v, u)] = (p, q)
            self.edges.setdefault(u, set()).add(v)
            self.edges.setdefault(v, set()).add(u)
            for end in (u, v):
                self.radius[end] = float(np.hypot(*(self.at[end] - points[p])))

    def _long(self, u: int, v: int) -> float:
        return float(np.hypot(*(self.at[u] - self.at[v])))

    def _branch(self, tip: int) -> list[int]:
        """From a tip to where it meets others, or to another tip."""
        way, before = [tip], -1
        while True:
            ahead = [each for each in self.edges[way[-1]] if each != before]
            if len(ahead) != 1 or (len(way) > 1 and len(self.edges[way[-1]]) != 2):
                return way
            before = way[-1]
            way.append(ahead[0])

    def prune(self) -> None:
        """Drop branches that no stroke leads to."""
        while True:
            done = True
            dropped = list[list[int]]()
            for tip in [v for v, others in self.edges.items() if len(others) == 1]:
                way = self._branch(tip)
                foot = way[-1]
                if len(self.edges[foot]) < 3:
                    continue
                long = sum(self._long(u, v) for u, v in zip(way, way[1:], strict=False))
                beyond = long + self.radius[tip] - self.radius[foot]
                if beyond < _TIP * self.radius[foot]:
                    dropped.append(way)
            for way in dropped:
                done = False
                for u, v in zip(way, way[1:], strict=False):
                    self.edges[u].discard(v)
                    self.edges[v].discard(u)
                for u in way:
                    if not self.edges.get(u, {0}):
                        del self.edges[u]
            if done:
                return

    def chains(self) -> list[list[int]]:
        """The vertices along each stroke; the first one again at the end of a closed one. Those that
        go through come before those that end at them."""
        through = {v: self._through(v) for v, others in self.edges.items() if len(others) > 2}
        left = {(u, v) for u, others in self.edges.items() for v in others}
        found = list[list[int]]()

        def onward(u: int, v: int) -> int | None:
            if v in through:
                a, b = through[v]
                return b if u == a else a if u == b else None
            ahead = [each for each in self.edges[v] if each != u]
            return ahead[0] if len(ahead) == 1 else None

        while left:
            u, v = min(left)
            back = (v, u)
            while (before := onward(*back)) is not None and (back[1], before) != (v, u):
                back = (back[1], before)  # to where it begins
            way = [back[1], back[0]]
            while (after := onward(way[-2], way[-1])) is not None:
                if (way[-1], after) == (way[0], way[1]):
                    break
                way.append(after)
            for p, q in zip(way, way[1:], strict=False):
                left.discard((p, q))
                left.discard((q, p))
            found.append(way)
        return found

    def _through(self, v: int) -> tuple[int, int]:
        """Which two of those that meet go on in each other: the straightest."""
        ways = {other: self._direction(v, other) for other in self.edges[v]}
        names = sorted(ways)
        pairs = [(a, b) for k, a in enumerate(names) for b in names[k + 1 :]]
        return min(pairs, key=lambda pair: float(ways[pair[0]] @ ways[pair[1]]))

    def _direction(self, v: int, other: int) -> Points:
        """Where a branch leads to, beyond the disc at its foot."""
        reach, before, here = 2 * float(self.radius[v]), v, other
        while self._long(v, here) < reach and len(self.edges[here]) == 2:
            (ahead,) = self.edges[here] - {before}
            before, here = here, ahead
        way = self.at[here] - self.at[v]
        return np.asarray(way / max(float(np.hypot(*way)), _TIED))

    def edge(self, u: int, v: int) -> _Edge:
        p, q = self.sites[(u, v)]
        way, to = self.at[v] - self.at[u], self.outline.points[p] - self.at[u]
        return _Edge(u, v, p, q) if way[0] * to[1] > way[1] * to[0] else _Edge(u, v, q, p)


def _column(outline: _Outline, graph: _Middles, chain: Sequence[int]) -> Column:
    """The rungs along a chain of vertices."""
    edges = [graph.edge(u, v) for u, v in zip(chain, chain[1:], strict=False)]
    closed = chain[0] == chain[-1]
    left, right = _Rail(outline.points[edges[0].left]), _Rail(outline.points[edges[0].right])
    mouths = list[tuple[int, int]]()
    for k, (one, other) in enumerate(zip(edges, [*edges[1:], *edges[: int(closed)]], strict=False)):
        opens = _opening(graph, one, other)
        left.lead(outline, one.left, other.left, opens > 0)
        right.lead(outline, one.right, other.right, opens < 0)
        mouths += [(k, opens)] if opens else []
    _straight_across(left, right, mouths)
    rails = _even(left, right, closed)
    if closed:
        return Column(*rails, True, [])
    caps = list[tuple[Points, Points]]()
    for edge, tip, flip in ((edges[-1], chain[-1], False), (edges[0], chain[0], True)):
        way = graph.at[edge.end] - graph.at[edge.begin]
        pair = (edge.left, edge.right)
        if len(graph.edges[tip]) == 1:
            caps.append(_cap(outline, pair, -way if flip else way, ahead=not flip))
        else:
            at = 0 if flip else -1
            caps.append(_reaching(rails[0], rails[1], at))
    (l1, r1), (l0, r0) = caps
    joined = [
        np.vstack([before[::-1], middle, after])
        for before, middle, after in ((l0, rails[0], l1), (r0, rails[1], r1))
    ]
    return Column(joined[0], joined[1], False, [])


def _opening(graph: _Middles, one: _Edge, other: _Edge) -> int:
    """On which side another stroke opens between two edges: 1 on the left, -1 on the right, or 0."""
    v = one.end
    if len(graph.edges[v]) < 3:
        return 0
    way = graph.at[other.end] - graph.at[one.begin]
    sides = {
        int(np.sign(way[0] * to[1] - way[1] * to[0]))
        for each in graph.edges[v] - {one.begin, other.end}
        for to in (graph._direction(v, each),)
    }
    return sides.pop() if len(sides) == 1 else 0


class _Rail:
    """One side of a column: places along it, and which of them its rungs reach."""

    def __init__(self, begin: Points) -> None:
        self.points: list[Points] = [begin[None]]
        self.at: list[float] = [0.0]
        self.long = 0.0

    def lead(self, outline: _Outline, a: int, b: int, straight: bool) -> None:
        way = outline.points[[a, b]] if straight else outline.way(a, b)
        self.long += float(np.hypot(*np.diff(way, axis=0).T).sum())
        self.points.append(way[1:])
        self.at.append(self.long)


def _straight_across(left: _Rail, right: _Rail, mouths: Sequence[tuple[int, int]]) -> None:
    """Lead rungs evenly past where other strokes open, as if nothing did: from where a rail first
    gets to the near edge of such a mouth until it leaves the far one."""
    for k, side in mouths:
        opened = np.array(left.at if side > 0 else right.at)
        begin = int(np.searchsorted(opened, opened[k] - _NEAR))
        end = int(np.searchsorted(opened, opened[k + 1] + _NEAR, side="right")) - 1
        both = np.add(left.at, right.at)[begin : end + 1]
        share = (both - both[0]) / max(float(both[-1] - both[0]), _TIED)
        for rail in (left, right):
            low, high = rail.at[begin], rail.at[end]
            rail.at[begin : end + 1] = (low + share * (high - low)).tolist()


def _even(left: _Rail, right: _Rail, closed: bool) -> tuple[Points, Points]:
    """Rungs that follow each other evenly, from where a rail has got to when the other has."""
    sides = [np.array(rail.at) for rail in (left, right)]
    ahead = np.cumsum(np.append(0.0, np.maximum(*(np.diff(each) for each in sides))))
    ahead += np.arange(len(ahead)) * _TIED
    at = np.linspace(0.0, ahead[-1], max(int(ahead[-1] / _FINE), 1) + 1)
    found = list[Points]()
    for rail, side in zip((left, right), sides, strict=True):
        along = np.interp(at, ahead, side)
        if closed:
            straight = np.linspace(0.0, along[-1], len(along))
            bent = gaussian_filter1d((along - straight)[:-1], _SMOOTH / _FINE, mode="wrap")
            along = straight + np.append(bent, bent[:1])
        else:
            straight = np.linspace(along[0], along[-1], len(along))
            along = straight + _smoothed(along - straight)
        points = np.vstack(rail.points)
        long = np.append(0.0, np.cumsum(np.hypot(*np.diff(points, axis=0).T)))
        found.append(np.column_stack([np.interp(along, long, axis) for axis in points.T]))
    return found[0], found[1]


def _smoothed(values: Floats) -> Floats:
    """Smoothed, with both ends where they were."""
    count = len(values)
    pad = min(int(4 * _SMOOTH / _FINE), count - 1)
    if pad < 1:
        return values
    whole = np.concatenate([-values[pad:0:-1], values, -values[-2 : -pad - 2 : -1]])
    found: Floats = gaussian_filter1d(whole, _SMOOTH / _FINE)[pad : pad + count]
    return found


def _cap(
    outline: _Outline, pair: tuple[int, int], way: Points, *, ahead: bool
) -> tuple[Points, Points]:
    """Rungs on from the last one to where the outline ends."""
    a, b = pair
    across = outline.points[b] - outline.points[a]
    along = np.array([-across[1], across[0]])
    long = float(np.hypot(*along))
    if outline.ring[a] != outline.ring[b] or long < _TIED:
        return np.zeros((0, 2)), np.zeros((0, 2))
    rim = outline.beyond(a, b, ahead=ahead)
    along = along / long * (1.0 if float(along @ way) > 0 else -1.0)
    far = rim @ along
    most = np.flatnonzero(far > far.max() - 1e-3)
    top = int(most[len(most) // 2])
    levels = np.arange(float(max(far[0], far[-1])) + _FINE, float(far.max()), _FINE)
    return (
        _at_levels(rim[: top + 1], along, levels),
        _at_levels(rim[: top - len(rim) - 1 : -1] if top else rim[::-1], along, levels),
    )


def _at_levels(way: Points, along: Points, levels: Floats) -> Points:
    """Where a way first gets so far in a direction."""
    ahead = np.maximum.accumulate(way @ along) + np.arange(len(way)) * _TIED * 1e-3
    return np.column_stack([np.interp(levels, ahead, axis) for axis in way.T])


def _reaching(left: Points, right: Points, at: int) -> tuple[Points, Points]:
    """Rungs on from an end into what it meets."""
    inner = at + 1 if at == 0 else at - 1
    k = min(len(left) - 1, max(int(0.2 / _FINE), 1))
    inner = k if at == 0 else len(left) - 1 - k
    way = (left[at] + right[at] - left[inner] - right[inner]) / 2
    long = float(np.hypot(*way))
    if long < _TIED:
        return np.zeros((0, 2)), np.zeros((0, 2))
    steps = np.arange(1, int(_OVER / _FINE) + 1)[:, None] * _FINE * way / long
    return left[at] + steps, right[at] + steps


def _note_meetings(
    graph: _Middles, chains: Sequence[Sequence[int]], columns: Sequence[Column]
) -> None:
    """Note at which rung of a column that goes through another one ends."""
    for number, chain in enumerate(chains):
        if chain[0] == chain[-1]:
            continue
        for end in (0, -1):
            v = chain[end]
            if len(graph.edges[v]) < 3:
                continue
            host = next(
                (
                    k
                    for k, each in enumerate(chains)
                    if v in each[1:-1] or (each[0] == each[-1] == v)
                ),
                None,
            )
            if host is None or host == number and v not in chain[1:-1]:
                continue
            away = np.hypot(*(columns[host].middle - graph.at[v]).T)
            columns[host].meets.append(Meeting(number, end, int(away.argmin())))
