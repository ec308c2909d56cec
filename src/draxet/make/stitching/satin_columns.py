"""Columns of an area: what is sewn from side to side, found along the middles of its strokes. Where
strokes meet, two go through and the others end there."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import shapely
from scipy.ndimage import gaussian_filter1d

from draxet.geometry.arrays import Floats, Points
from draxet.make.stitching.stroke_middles import TIED, Edge, Middles, Outline
from draxet.record import record

__all__ = ["Column", "Meeting", "column_between", "columns_of", "led_across"]

_FINE, _OVER, _SMOOTH = 0.05, 0.4, 0.3
"""mm between rungs, that an end reaches into what it meets, and over which rungs are smoothed."""
_NEAR, _ON = 0.1, 0.5
"""mm from the edge of a mouth within which rungs still stand at it, and from a side that a place lies on
it."""


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
    outline = Outline(area)
    graph = Middles(outline, area)
    graph.prune()
    chains = graph.chains()
    if not chains:
        return _as_one(outline)
    columns = [_column(outline, graph, chain) for chain in chains]
    _note_meetings(graph, chains, columns)
    return columns


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


def _as_one(outline: Outline) -> list[Column]:
    """One column along the longer side of what has no middle."""
    corners = shapely.get_coordinates(shapely.minimum_rotated_rectangle(outline.area))
    if len(corners) < 5:
        return []
    sides = np.diff(corners, axis=0)
    along = sides[int(np.argmax(np.hypot(*sides.T)))]
    along = along / np.hypot(*along)
    ring = outline.rings[0]
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


def _column(outline: Outline, graph: Middles, chain: Sequence[int]) -> Column:
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


def _opening(graph: Middles, one: Edge, other: Edge) -> int:
    """On which side another stroke opens between two edges: 1 on the left, -1 on the right, or 0."""
    v = one.end
    if len(graph.edges[v]) < 3:
        return 0
    way = graph.at[other.end] - graph.at[one.begin]
    sides = {
        int(np.sign(way[0] * to[1] - way[1] * to[0]))
        for each in graph.edges[v] - {one.begin, other.end}
        for to in (graph.direction(v, each),)
    }
    return sides.pop() if len(sides) == 1 else 0


class _Rail:
    """One side of a column: places along it, and which of them its rungs reach."""

    def __init__(self, begin: Points) -> None:
        self.points: list[Points] = [begin[None]]
        self.at: list[float] = [0.0]
        self.long = 0.0

    def lead(self, outline: Outline, a: int, b: int, straight: bool) -> None:
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
        share = (both - both[0]) / max(float(both[-1] - both[0]), TIED)
        for rail in (left, right):
            low, high = rail.at[begin], rail.at[end]
            rail.at[begin : end + 1] = (low + share * (high - low)).tolist()


def _even(left: _Rail, right: _Rail, closed: bool) -> tuple[Points, Points]:
    """Rungs that follow each other evenly, from where a rail has got to when the other has."""
    sides = [np.array(rail.at) for rail in (left, right)]
    ahead = np.cumsum(np.append(0.0, np.maximum(*(np.diff(each) for each in sides))))
    ahead += np.arange(len(ahead)) * TIED
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
    outline: Outline, pair: tuple[int, int], way: Points, *, ahead: bool
) -> tuple[Points, Points]:
    """Rungs on from the last one to where the outline ends."""
    a, b = pair
    across = outline.points[b] - outline.points[a]
    along = np.array([-across[1], across[0]])
    long = float(np.hypot(*along))
    if outline.ring[a] != outline.ring[b] or long < TIED:
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
    ahead = np.maximum.accumulate(way @ along) + np.arange(len(way)) * TIED * 1e-3
    return np.column_stack([np.interp(levels, ahead, axis) for axis in way.T])


def _reaching(left: Points, right: Points, at: int) -> tuple[Points, Points]:
    """Rungs on from an end into what it meets."""
    inner = at + 1 if at == 0 else at - 1
    k = min(len(left) - 1, max(int(0.2 / _FINE), 1))
    inner = k if at == 0 else len(left) - 1 - k
    way = (left[at] + right[at] - left[inner] - right[inner]) / 2
    long = float(np.hypot(*way))
    if long < TIED:
        return np.zeros((0, 2)), np.zeros((0, 2))
    steps = np.arange(1, int(_OVER / _FINE) + 1)[:, None] * _FINE * way / long
    return left[at] + steps, right[at] + steps


def _note_meetings(
    graph: Middles, chains: Sequence[Sequence[int]], columns: Sequence[Column]
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
