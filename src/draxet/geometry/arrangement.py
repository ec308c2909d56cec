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

from draxet.cached import cached_property
from draxet.geometry.arrays import Floats, Ints
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.edge_cycles import connected_parts, cycles_of, strung_sides
from draxet.geometry.edges_once import Ground, edges_once, parted_spans
from draxet.geometry.spans import Spans
from draxet.geometry.winding import winds
from draxet.record import record

__all__ = ["Arrangement", "Region", "arrangement_of"]


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
    _ground: Ground = field(repr=False)

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
    _ground: Ground = field(repr=False)

    def outline_of(self, regions: Iterable[int]) -> list[Contour]:
        """What bounds some regions taken together: outer bounds anticlockwise, holes clockwise;
        edges between them are gone, and pieces of one span that follow each other are one again."""
        chosen = np.zeros(len(self.regions) + 1, dtype=bool)
        chosen[list(regions)] = True
        chosen[-1] = False
        on_left, on_right = chosen[self.left], chosen[self.right]
        forward, back = np.flatnonzero(on_left & ~on_right), np.flatnonzero(on_right & ~on_left)
        sides = np.concatenate([2 * forward, 2 * back + 1])
        return [self._ground.contour(run) for run in strung_sides(sides, self._ground)]

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
        return _of_nothing(contours, spans)
    is_closed = np.array([contour.closed for contour in contours])
    ground, owners, turns = edges_once(spans, owner, is_closed, *parted_spans(spans))
    number, cycles = _bounding(ground)
    areas, lengths, boxes = _measures(ground, cycles)
    outer, holes_of = _nested(ground, cycles, areas, boxes, number)
    within = [[k, *holes_of[k]] for k in outer]
    left, right = _beside(ground, cycles, within)
    covered, winding = _covered(left, right, owners, turns, number, len(outer), contours)
    regions = []
    for region, some in enumerate(within):
        area, about = float(areas[some].sum()), float(lengths[some].sum())
        x0, y0, x1, y1 = boxes[some[0]].tolist()
        wide = 2 * area / about if about else 0.0
        rings = tuple(cycles[n] for n in some)
        regions.append(
            Region(area, covered[region], winding[region], wide, rings, (x0, y0, x1, y1), ground)
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
        np.setdiff1d(np.arange(len(ground.edges)), number),
        ground,
    )


def _of_nothing(contours: Sequence[Contour], spans: Spans) -> Arrangement:
    none, nowhere = np.zeros(0, dtype=np.int64), np.zeros(0)
    ground = Ground(spans, spans, none, nowhere, nowhere, np.zeros((0, 2), dtype=np.int64))
    return Arrangement(
        tuple(contours), spans, none, nowhere, nowhere, (), (), none, none, none, ground
    )


def _measures(ground: Ground, cycles: Sequence[Ints]) -> tuple[Floats, Floats, Floats]:
    """The area within each cycle, under 0 where it runs clockwise; its length and its box."""
    if not cycles:
        return np.zeros(0), np.zeros(0), np.zeros((0, 4))
    every = np.concatenate(cycles)
    sizes = np.array([len(cycle) for cycle in cycles], dtype=np.int64)
    first, edges = np.cumsum(sizes) - sizes, every // 2
    swept = ground.edges.swept_areas()[edges] * np.where(every % 2, -1.0, 1.0)
    box = ground.edges.boxes()[edges]
    low, high = np.minimum.reduceat(box[:, :2], first), np.maximum.reduceat(box[:, 2:], first)
    lengths = np.add.reduceat(ground.edges.lengths()[edges], first)
    return np.add.reduceat(swept, first), lengths, np.hstack([low, high])


def _beside(
    ground: Ground, cycles: Sequence[Ints], within: Sequence[Sequence[int]]
) -> tuple[Ints, Ints]:
    """The number of the region to the left and to the right of each edge; -1 for none."""
    beside = np.full(2 * len(ground.edges), -1)
    for region, some in enumerate(within):
        beside[np.concatenate([cycles[k] for k in some])] = region
    return beside[::2], beside[1::2]


def _bounding(ground: Ground) -> tuple[Ints, list[Ints]]:
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
                for cycle in cycles_of(ends[number], ground.edges.take(number))
            ]
            of = np.empty(2 * len(ends), dtype=np.int64)
            for k, cycle in enumerate(cycles):
                of[cycle] = k
            both = kept & (of[::2] == of[1::2]) if len(ends) else kept
            if not both.any():
                return number, cycles
            free = both
        kept &= ~free


def _nested(
    ground: Ground, cycles: Sequence[Ints], areas: Floats, boxes: Floats, number: Ints
) -> tuple[list[int], dict[int, list[int]]]:
    """The ways round that bound an area from outside, and of each the ways round its holes."""
    outer, inner = np.flatnonzero(areas > 0), np.flatnonzero(areas < 0)
    holes: dict[int, list[int]] = {int(k): [] for k in outer}
    if not len(outer) or not len(inner):
        return outer.tolist(), holes
    parts = connected_parts(ground.ends, number)
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
