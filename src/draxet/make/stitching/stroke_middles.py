"""The middles of an area's strokes: edges of the Voronoi diagram of its outline's samples that lie
within, each with a sample on its left and one on its right; corners and ends that no stroke leads
to are pruned."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import shapely
from scipy.spatial import QhullError, Voronoi

from draxet.geometry.arrays import Floats, Ints, Points
from draxet.geometry.prepared import prepared

__all__ = ["TIED", "Edge", "Middles", "Outline"]

_STEP, _LEAST_STEP, _MOST_STEP = 0.1, 0.05, 0.3
"""Of an area's mean breadth, and mm: how far samples of its outline lie from each other."""
_TIP = 0.9
"""A branch is a stroke where it reaches so much beyond the disc at its foot, in radii of that."""
TIED = 1e-6
"""mm that are none."""


class Outline:
    """Samples of a polygon's rings, of which each has the area on its left."""

    def __init__(self, area: shapely.Geometry) -> None:
        rings = [shapely.get_exterior_ring(area)]
        rings += [
            shapely.get_interior_ring(area, k)
            for k in range(int(shapely.get_num_interior_rings(area)))
        ]
        broad = 2 * float(shapely.area(area)) / max(float(shapely.length(area)), TIED)
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


class Edge(NamedTuple):
    """A piece of a middle from one vertex to another, with the samples on both its sides."""

    begin: int
    end: int
    left: int
    right: int


class Middles:
    """The middles of an area as a graph."""

    def __init__(self, outline: Outline, area: shapely.Geometry) -> None:
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
        inside = np.append(shapely.contains_xy(prepared(area), *self.at.T), False)
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
        ways = {other: self.direction(v, other) for other in self.edges[v]}
        names = sorted(ways)
        pairs = [(a, b) for k, a in enumerate(names) for b in names[k + 1 :]]
        return min(pairs, key=lambda pair: float(ways[pair[0]] @ ways[pair[1]]))

    def direction(self, v: int, other: int) -> Points:
        """Where a branch leads to, beyond the disc at its foot."""
        reach, before, here = 2 * float(self.radius[v]), v, other
        while self._long(v, here) < reach and len(self.edges[here]) == 2:
            (ahead,) = self.edges[here] - {before}
            before, here = here, ahead
        way = self.at[here] - self.at[v]
        return np.asarray(way / max(float(np.hypot(*way)), TIED))

    def edge(self, u: int, v: int) -> Edge:
        p, q = self.sites[(u, v)]
        way, to = self.at[v] - self.at[u], self.outline.points[p] - self.at[u]
        return Edge(u, v, p, q) if way[0] * to[1] > way[1] * to[0] else Edge(u, v, q, p)
