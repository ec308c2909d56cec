"""Spans parted where they cross, each edge once whatever the number of contours that run along
it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import scipy

from draxet.geometry.arrays import Bools, Floats, Ints, Points, norms
from draxet.geometry.contour import Contour
from draxet.geometry.crossing_places import nearest_on
from draxet.geometry.crossings import parts_of, self_crossings
from draxet.geometry.spans import Spans
from draxet.record import record

__all__ = ["Ground", "SAME", "edges_once", "parted_spans"]

SAME = 4e-6
"""mm: places nearer to each other than that are one."""


@record(frozen=True, eq=False)
class Ground:
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


_COURSE = 2e-5
"""mm: edges with the same ends whose middles lie so near to each other are one."""


def parted_spans(spans: Spans) -> tuple[Ints, Floats, Floats]:
    """Spans parted where they meet others and themselves: of each piece the span, and from which
    parameter to which."""
    met = self_crossings(spans)
    which = np.concatenate([met.first, met.second, np.arange(len(spans)), np.arange(len(spans))])
    t = np.concatenate([met.t, met.u, np.zeros(len(spans)), np.ones(len(spans))])
    order = np.lexsort([t, which])
    which, t = which[order], t[order]
    points = spans.at(which, t)
    same = (which[1:] == which[:-1]) & (norms(points[1:] - points[:-1]) <= SAME)
    near = np.flatnonzero(same)
    same[near] = (
        norms(spans.at(which[near], (t[near] + t[near + 1]) / 2) - points[near]) <= 2 * SAME
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


def edges_once(
    spans: Spans, owner: Ints, is_closed: Bools, source: Ints, begin: Floats, end: Floats
) -> tuple[Ground, tuple[tuple[int, ...], ...], Ints]:
    """Edges each once, with the places at their ends, the contours that each belongs to, and how
    often closed ones run along it, less how often they run against it."""
    edges = parts_of(spans, source, begin, end)
    places = _places(np.concatenate([edges.starts, edges.ends]))
    ends = np.stack([places[: len(edges)], places[len(edges) :]], axis=1)
    real = np.flatnonzero((ends[:, 0] != ends[:, 1]) | (edges.lengths() > 10 * SAME))
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
        Ground(spans, edges.take(index), source[index], begin[index], end[index], ends[index]),
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
    tree = scipy.spatial.cKDTree(points)
    pairs = tree.query_pairs(SAME, output_type="ndarray")
    graph = scipy.sparse.coo_matrix(
        (np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(points), len(points))
    )
    return np.asarray(
        scipy.sparse.csgraph.connected_components(graph, directed=False)[1], dtype=np.int64
    )


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
