"""A planar arrangement: every area that contours bound between them, in pieces of their own spans.

Spans are parted where they meet; pieces with the same ends and the same course are one *edge*; each
edge has two *sides*, one for either way. Round a place the sides are told in order by where they
lie on a small circle about it, so that the side that bounds the same area is known and areas are
walked round (the doubly connected edge list of Muller & Preparata, 1978). Edges that bound the same
area on both sides bound nothing: they are left out and told as loose.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import field

import numpy as np
import shapely
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from draxet.cached import cached_property
from draxet.geometry.arrays import Bools, Floats, Ints, Points, norms
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.crossings import nearest_on, parts_of, self_crossings
from draxet.geometry.spans import ARC, CUBIC, Spans
from draxet.geometry.winding import winds
from draxet.record import record

__all__ = ["Arrangement", "Region", "arrangement_of"]

_SAME = 4e-6
"""mm: places nearer to each other than that are one."""
_COURSE = 2e-5
"""mm: edges with the same ends whose middles lie so near to each other are one."""
_CIRCLE = 0.2
"""Of the shortest edge at a place: how large the circle is on which its edges are told in order."""
_TO_CIRCLE = 12
"""Rounds by which a curve's way to that circle is found."""


@record(frozen=True, eq=False)
class _Ground:
    """Edges, and of which spans they are pieces."""

    spans: Spans
    edges: Spans
    source: Ints
    begin: Floats
    end: Floats
    ends: Ints

    def contour(self, sides: Sequence[int] | Ints) -> Contour:
        """A closed contour of sides that follow each other; pieces of one span that follow each
        other are one again."""
        k, way = np.asarray(sides) // 2, np.asarray(sides) % 2 == 1
        leave, reach = (
            np.where(way, self.end[k], self.begin[k]),
            np.where(way, self.begin[k], self.end[k]),
        )
        which = self.source[k]
        on = (
            (which == np.roll(which, 1))
            & (leave == np.roll(reach, 1))
            & (way == np.roll(way, 1))
            & (len(k) > 1)
        )
        if on.any() and not on.all():
            first = int(np.flatnonzero(~on)[0])
            which, leave, reach, way, on = (
                np.roll(each, -first) for each in (which, leave, reach, way, on)
            )
            begins = np.flatnonzero(~on)
            which, leave, way = which[begins], leave[begins], way[begins]
            reach = reach[np.append(begins[1:], len(reach)) - 1]
        parts = parts_of(self.spans, which, np.minimum(leave, reach), np.maximum(leave, reach))
        starts = np.where(way[:, None], parts.ends, parts.starts)
        handles = np.where(way[:, None, None], parts.handles[:, ::-1], parts.handles)
        return Contour.make(
            starts, parts.kinds, np.where(way, -parts.bulges, parts.bulges), handles
        )


@record(frozen=True, eq=False)
class Region:
    """An area. area : in mm², without its holes. covered : numbers of the closed contours that it
    lies inside of.
    winding : how often they go round it anticlockwise, in all. thin : how broad it is in the mean,
    in mm. cycles : the sides of its edges, those round it first, then those round each of its
    holes. box : its extent."""

    area: float
    covered: frozenset[int]
    winding: int
    thin: float
    cycles: tuple[Ints, ...]
    box: tuple[float, float, float, float]
    _ground: _Ground = field(repr=False)

    @cached_property
    def outline(self) -> Contour:
        """Its outer bound, anticlockwise."""
        return self._ground.contour(self.cycles[0])

    @cached_property
    def holes(self) -> tuple[Contour, ...]:
        """What is left out of it, clockwise."""
        return tuple(self._ground.contour(cycle) for cycle in self.cycles[1:])


@record(frozen=True, eq=False)
class Arrangement:
    """The areas between contours.

    contours : as they came. edges : pieces of their spans, each once. source : of each edge the
    number of the span that it is a piece of (counted over all contours), begin and end : the
    parameters there. owners : of each edge the contours that it belongs to. loose :
    numbers of edges that bound nothing. left, right : of each edge the number of the region on that
    side, -1 for the outside.
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
    _ground: _Ground = field(repr=False)

    def outline_of(self, regions: Iterable[int]) -> list[Contour]:
        """What bounds some regions taken together: outer bounds anticlockwise, holes clockwise;
        edges between them are gone, and pieces of one span that follow each other are one again."""
        chosen = np.zeros(len(self.regions) + 1, dtype=bool)
        chosen[list(regions)] = True
        chosen[-1] = False
        on_left, on_right = chosen[self.left], chosen[self.right]
        forward, back = np.flatnonzero(on_left & ~on_right), np.flatnonzero(on_right & ~on_left)
        sides = np.concatenate([2 * forward, 2 * back + 1])
        return [self._ground.contour(run) for run in _strung(sides, self._ground)]

    @cached_property
    def _tree(self) -> shapely.STRtree:
        return shapely.STRtree([shapely.box(*region.box) for region in self.regions])

    def at(self, x: float, y: float) -> int | None:
        """The number of the region in which a place lies; None outside all of them."""
        if not self.regions:
            return None
        inside = [
            int(k)
            for k in self._tree.query(shapely.Point(x, y), predicate="intersects")
            if self._holds(self.regions[int(k)], x, y)
        ]
        return min(inside, key=lambda k: self.regions[k].area) if inside else None

    @staticmethod
    def _holds(region: Region, x: float, y: float) -> bool:
        return winds(region.outline, x, y) and not any(winds(hole, x, y) for hole in region.holes)


def arrangement_of(contours: Sequence[Contour]) -> Arrangement:
    """The areas that contours, open ones too, bound between them.

    Cost: that of ``self_crossings`` on all their spans, and n log n in the edges.
    """
    spans, owner = joined_spans(contours)
    if not len(spans):
        none = np.zeros(0, dtype=np.int64)
        return Arrangement(
            tuple(contours),
            spans,
            none,
            np.zeros(0),
            np.zeros(0),
            (),
            (),
            none,
            none,
            none,
            _Ground(spans, spans, none, np.zeros(0), np.zeros(0), np.zeros((0, 2), dtype=np.int64)),
        )
    source, begin, end = _parted(spans)
    is_closed = np.array([contour.closed for contour in contours])
    ground, owners, turns = _once(spans, owner, is_closed, source, begin, end)
    number, cycles = _bounding(ground)
    loose = np.setdiff1d(np.arange(len(ground.edges)), number)
    sizes = np.array([len(cycle) for cycle in cycles], dtype=np.int64)
    every = np.concatenate(cycles) if cycles else np.zeros(0, dtype=np.int64)
    first = np.cumsum(sizes) - sizes
    swept = ground.edges.swept_areas()[every // 2] * np.where(every % 2, -1.0, 1.0)
    areas = np.add.reduceat(swept, first) if len(first) else np.zeros(0)
    lengths = (
        np.add.reduceat(ground.edges.lengths()[every // 2], first) if len(first) else np.zeros(0)
    )
    each = ground.edges.boxes()[every // 2]
    boxes = (
        np.hstack(
            [np.minimum.reduceat(each[:, :2], first), np.maximum.reduceat(each[:, 2:], first)]
        )
        if len(first)
        else np.zeros((0, 4))
    )
    outer, holes_of = _nested(ground, cycles, areas, boxes, number)
    region_of = np.full(len(cycles), -1)
    for region, k in enumerate(outer):
        region_of[[k, *holes_of[k]]] = region
    beside = np.full(2 * len(ground.edges), -1)
    beside[every] = np.repeat(region_of, sizes)
    left, right = beside[::2], beside[1::2]
    covered, winding = _covered(left, right, owners, turns, number, len(outer), contours)
    regions = []
    for region, k in enumerate(outer):
        some = [k, *holes_of[k]]
        area, about = float(areas[some].sum()), float(lengths[some].sum())
        box = (float(boxes[k, 0]), float(boxes[k, 1]), float(boxes[k, 2]), float(boxes[k, 3]))
        regions.append(
            Region(
                area,
                covered[region],
                winding[region],
                2 * area / about if about else 0.0,
                tuple(cycles[n] for n in some),
                box,
                ground,
            )
        )
    return Arrangement(
        tuple(contours),
        ground.edges,
        ground.source,
        ground.begin,
        ground.end,
        owners,
        tuple(regions),
        left,
        right,
        loose,
        ground,
    )


def _parted(spans: Spans) -> tuple[Ints, Floats, Floats]:
    """Spans parted where they meet others and themselves: of each piece the span, and from which
    parameter to which."""
    met = self_crossings(spans)
    which = np.concatenate([met.first, met.second, np.arange(len(spans)), np.arange(len(spans))])
    t = np.concatenate([met.t, met.u, np.zeros(len(spans)), np.ones(len(spans))])
    order = np.lexsort([t, which])
    which, t = which[order], t[order]
    points = spans.at(which, t)
    same = (which[1:] == which[:-1]) & (norms(points[1:] - points[:-1]) <= _SAME)
    near = np.flatnonzero(same)
    same[near] = (
        norms(spans.at(which[near], (t[near] + t[near + 1]) / 2) - points[near]) <= 2 * _SAME
    )  # else it came round in a loop
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
    spans: Spans, owner: Ints, is_closed: Bools, source: Ints, begin: Floats, end: Floats
) -> tuple[_Ground, tuple[tuple[int, ...], ...], Ints]:
    """Edges each once, with the places at their ends, the contours that each belongs to, and how
    often closed ones run along it, less how often they run against it."""
    edges = parts_of(spans, source, begin, end)
    places = _places(np.concatenate([edges.starts, edges.ends]))
    ends = np.stack([places[: len(edges)], places[len(edges) :]], axis=1)
    real = np.flatnonzero((ends[:, 0] != ends[:, 1]) | (edges.lengths() > 10 * _SAME))
    order = real[np.lexsort([ends[real].max(axis=1), ends[real].min(axis=1)])]
    keys = np.sort(ends[order], axis=1)
    new = (
        np.append(True, (np.diff(keys, axis=0) != 0).any(axis=1))
        if len(order)
        else np.zeros(0, dtype=bool)
    )
    begins = np.flatnonzero(new)
    several = np.diff(np.append(begins, len(order))) > 1
    kept = order[begins[~several]].tolist()
    owners: list[tuple[int, ...]] = [(k,) for k in owner[source[kept]].tolist()]
    turns = [1] * len(kept)
    for one in _alike(
        edges, order, begins[several], np.diff(np.append(begins, len(order)))[several]
    ):
        kept.append(one[0])
        owners.append(tuple(sorted({int(owner[source[k]]) for k in one})))
        turns.append(sum(_way(edges, ends, one[0], k) for k in one if is_closed[owner[source[k]]]))
    for n in range(len(begins[~several])):
        turns[n] = int(is_closed[owners[n][0]])
    index = np.array(kept, dtype=np.int64)
    return (
        _Ground(spans, edges.take(index), source[index], begin[index], end[index], ends[index]),
        tuple(owners),
        np.array(turns, dtype=np.int64),
    )


def _way(edges: Spans, ends: Ints, one: int, other: int) -> int:
    """1 where two edges of one course run the same way, else -1."""
    if ends[one, 0] != ends[one, 1]:
        return 1 if ends[one, 0] == ends[other, 0] else -1
    both = np.array([one, other])
    steps = edges.at(both, np.array([0.26, 0.26])) - edges.at(both, np.array([0.24, 0.24]))
    near = (
        norms(edges.at(both[:1], np.array([0.25])) - edges.at(both[1:], np.array([0.25])))[0]
        < norms(edges.at(both[:1], np.array([0.25])) - edges.at(both[1:], np.array([0.75])))[0]
    )
    return 1 if near and float((steps[0] * steps[1]).sum()) > 0 else -1


def _places(points: Points) -> Ints:
    """A number for each point, the same for those that are one place."""
    tree = cKDTree(points)
    pairs = tree.query_pairs(_SAME, output_type="ndarray")
    graph = coo_matrix(
        (np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(points), len(points))
    )
    return np.asarray(connected_components(graph, directed=False)[1], dtype=np.int64)


def _alike(edges: Spans, order: Ints, begins: Ints, sizes: Ints) -> list[list[int]]:
    """Edges with the same ends, group by group of several in `order`, those together that run the
    same course."""
    found: list[list[int]] = []
    while len(begins):  # each time those that run as the first of their group does
        heads, inside = order[begins], np.repeat(np.arange(len(begins)), sizes)
        members = order[
            np.repeat(begins - (np.cumsum(sizes) - sizes), sizes) + np.arange(len(inside))
        ]
        middles = edges.at(members, np.full(len(members), 0.5))
        _, off = nearest_on(edges, heads[inside], middles, np.full(len(members), 0.5))
        lengths = edges.take(members).lengths()
        first = np.cumsum(sizes) - sizes
        same = (off <= _COURSE) & (np.abs(lengths - lengths[first][inside]) <= 100 * _COURSE)
        same[first] = True
        found += [
            part.tolist()
            for part in np.split(
                members[same], np.cumsum(np.bincount(inside[same], minlength=len(begins)))[:-1]
            )
        ]
        order = members[~same]
        sizes = np.bincount(inside[~same], minlength=len(begins))
        sizes = sizes[sizes > 0]
        begins = np.cumsum(sizes) - sizes
    return found


def _bounding(ground: _Ground) -> tuple[Ints, list[Ints]]:
    """Edges that bound an area on one of their sides and another, or none, on the other; and the
    ways round areas, as arrays of sides."""
    ends = ground.ends
    kept = np.ones(len(ends), dtype=bool)
    while True:
        count = np.bincount(ends[kept].ravel(), minlength=int(ends.max(initial=0)) + 1)
        free = kept & (count[ends] == 1).any(axis=1)
        if not free.any():
            number = np.flatnonzero(kept)
            cycles = [
                2 * number[cycle // 2] + cycle % 2
                for cycle in _cycles(ends[number], ground.edges.take(number))
            ]
            of = np.empty(2 * len(ends), dtype=np.int64)
            for k, cycle in enumerate(cycles):
                of[cycle] = k
            both = kept & (of[::2] == of[1::2]) if len(ends) else kept
            if not both.any():
                return number, cycles
            free = both
        kept &= ~free


# --- round places, and round areas


def _cycles(ends: Ints, edges: Spans) -> list[Ints]:
    """The ways round areas: arrays of sides (2 k for edge k as it runs, 2 k + 1 for it backwards),
    each area on their left."""
    if not len(ends):
        return []
    count = len(ends)
    sides = np.arange(2 * count)
    at = np.where(
        sides % 2 == 0, ends[sides // 2, 0], ends[sides // 2, 1]
    )  # where each side leaves from
    angles = _angles(ends, edges, at)
    order = np.lexsort([angles, at])
    place = np.empty(2 * count, dtype=np.int64)
    place[order] = np.arange(2 * count)
    first = np.searchsorted(
        at[order], at
    )  # the first side that leaves from the same place, and how many there are
    degree = np.bincount(at, minlength=int(at.max()) + 1)[at]
    twin = sides ^ 1
    following = order[
        first[twin] + (place[twin] - first[twin] - 1) % degree[twin]
    ]  # the next one clockwise from the way back
    left, found = np.ones(2 * count, dtype=bool), []
    onward = following.tolist()
    for side in range(2 * count):
        if left[side]:
            cycle, k = [], side
            while left[k]:
                left[k] = False
                cycle.append(k)
                k = onward[k]
            found.append(np.array(cycle))
    return found


def _angles(ends: Ints, edges: Spans, at: Ints) -> Floats:
    """Of each side the angle at which it crosses a small circle about the place that it leaves
    from; 0 where only two sides leave from there, of which each follows the other."""
    lengths = edges.lengths()
    extents = np.maximum(
        norms(edges.ends - edges.starts), 0.5 * lengths * (ends[:, 0] == ends[:, 1])
    )
    least = np.full(int(ends.max()) + 1, np.inf)
    for k in (0, 1):
        np.minimum.at(least, ends[:, k], np.minimum(extents, lengths))
    angles = np.zeros(len(at))
    sides = np.flatnonzero(np.bincount(at)[at] > 2)
    which, back = sides // 2, sides % 2 == 1
    some, lengths, radius = (
        edges.take(which),
        lengths[which],
        np.maximum(_CIRCLE * least[at[sides]], _SAME),
    )
    t = np.clip(radius / np.maximum(lengths, 1e-300), 0.0, 1.0)
    if (arcs := np.flatnonzero((some.kinds == ARC) & (some.bulges != 0))).size:
        shape = some.take(arcs).arc_shapes()
        t[arcs] = np.clip(
            2
            * np.arcsin(np.clip(radius[arcs] / (2 * shape.radii), 0, 1))
            / np.maximum(np.abs(shape.sweep), 1e-300),
            0,
            1,
        )
    step = some.at(np.arange(len(sides)), np.where(back, 1 - t, t)) - np.where(
        back[:, None], some.ends, some.starts
    )
    if (curves := np.flatnonzero(some.kinds == CUBIC)).size:
        step[curves] = _to_circle(some.take(curves), back[curves], radius[curves], lengths[curves])
    angles[sides] = np.arctan2(step[:, 1], step[:, 0])
    return angles


def _to_circle(cubics: Spans, back: Bools, radius: Floats, lengths: Floats) -> Points:
    """From the end of each cubic to where it is first `radius` away from it: false position within
    a bracket, halved where it stalls (the Illinois method)."""
    way = back[:, None]
    p0, p3 = np.where(way, cubics.ends, cubics.starts), np.where(way, cubics.starts, cubics.ends)
    p1, p2 = (np.where(way, cubics.handles[:, k], cubics.handles[:, 1 - k]) for k in (1, 0))
    c, b = 3 * (p1 - p0), 3 * (p2 - 2 * p1 + p0)
    a = p3 - p0 - b - c

    def off(t: Floats) -> Points:
        u = t[:, None]
        return np.asarray(((a * u + b) * u + c) * u)

    high = np.minimum(1.0, 2.5 * radius / np.maximum(lengths, 1e-12))
    high = np.where(norms(off(high)) < radius, 0.5, high)
    low, under, over = np.zeros(len(high)), -radius, norms(off(high)) - radius
    side = np.zeros(len(high), dtype=np.int64)
    for _ in range(_TO_CIRCLE):
        middle = np.clip(low + (high - low) * under / np.minimum(under - over, -1e-300), low, high)
        away = norms(off(middle)) - radius
        inside = away < 0
        over, under = (
            np.where(inside & (side == 1), over / 2, over),
            np.where(~inside & (side == -1), under / 2, under),
        )
        low, under = np.where(inside, middle, low), np.where(inside, away, under)
        high, over = np.where(inside, high, middle), np.where(inside, over, away)
        side = np.where(inside, 1, -1)
    return off(high)


def _strung(sides: Ints, ground: _Ground) -> list[Ints]:
    """Sides strung into ways round, by the same order round places."""
    number = np.unique(sides // 2)
    wanted = set(sides.tolist())
    runs = (
        2 * number[cycle // 2] + cycle % 2
        for cycle in _cycles(ground.ends[number], ground.edges.take(number))
    )
    return [run for run in runs if int(run[0]) in wanted]


# --- which lies in which


def _parts(ends: Ints, number: Ints) -> Ints:
    """Of each place the number of what it hangs together with."""
    size = int(ends.max(initial=-1)) + 1
    some = ends[number]
    graph = coo_matrix((np.ones(len(some)), (some[:, 0], some[:, 1])), shape=(size, size))
    return np.asarray(connected_components(graph, directed=False)[1])


def _nested(
    ground: _Ground, cycles: Sequence[Ints], areas: Floats, boxes: Floats, number: Ints
) -> tuple[list[int], dict[int, list[int]]]:
    """The ways round that bound an area from outside, and of each the ways round its holes."""
    outer, inner = np.flatnonzero(areas > 0), np.flatnonzero(areas < 0)
    holes: dict[int, list[int]] = {int(k): [] for k in outer}
    if not len(outer) or not len(inner):
        return outer.tolist(), holes
    parts = _parts(ground.ends, number)
    part = np.array([parts[ground.ends[cycle[0] // 2, 0]] for cycle in cycles])
    spots = np.array(
        [
            (ground.edges.ends if cycles[k][0] % 2 else ground.edges.starts)[cycles[k][0] // 2]
            for k in inner.tolist()
        ]
    )
    tree = shapely.STRtree(np.atleast_1d(np.asarray(shapely.box(*boxes[outer].T))))
    hole, within = tree.query(shapely.points(spots), predicate="intersects")
    fits = (part[inner[hole]] != part[outer[within]]) & (areas[outer[within]] > -areas[inner[hole]])
    hole, within = hole[fits], within[fits]
    order = np.lexsort([areas[outer[within]], hole])
    done, made = set[int](), dict[int, Contour]()
    for n, k in zip(
        hole[order].tolist(), outer[within[order]].tolist(), strict=True
    ):  # the smallest that holds it
        if n not in done:
            if k not in made:
                made[k] = ground.contour(cycles[k])
            if winds(made[k], *spots[n].tolist()):
                holes[k].append(int(inner[n]))
                done.add(n)
    return outer.tolist(), holes


def _covered(
    left: Ints,
    right: Ints,
    owners: Sequence[tuple[int, ...]],
    turns: Ints,
    number: Ints,
    count: int,
    contours: Sequence[Contour],
) -> tuple[list[frozenset[int]], list[int]]:
    """Of each region the closed contours that it lies inside of, and how often they go round it:
    from the outside inwards, each edge of a contour leads into or out of it."""
    beside: list[list[tuple[int, int, int]]] = [[] for _ in range(count + 1)]
    pairs = np.sort(np.stack([left[number], right[number]]), axis=0)
    _, some = np.unique(
        pairs[0] * (count + 1) + pairs[1], return_index=True
    )  # one edge leads from a region to another as well as any
    for k, one, other, turn in zip(
        number[some].tolist(),
        left[number[some]].tolist(),
        right[number[some]].tolist(),
        turns[number[some]].tolist(),
        strict=True,
    ):
        beside[one].append((other, k, -turn))
        beside[other].append((one, k, turn))
    found: list[frozenset[int] | None] = [None] * (count + 1)
    winding = [0] * (count + 1)
    found[-1] = frozenset()
    waiting = [-1]
    while waiting:
        here = waiting.pop()
        inside = found[here] or frozenset()
        for other, k, turn in beside[here]:
            if found[other] is None:
                over = frozenset(c for c in owners[k] if contours[c].closed)
                found[other], winding[other] = inside ^ over, winding[here] + turn
                waiting.append(other)
    return [each or frozenset() for each in found[:count]], winding[:count]
