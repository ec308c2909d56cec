"""Areas raised from a level to another one, and sunk: what there is of each from level to level, where
areas lie over each other the later one; in the plane."""

from __future__ import annotations

from collections.abc import Container, Iterator, Sequence

import numpy as np
import shapely

from draxet.geometry.arrays import Points
from draxet.progress import Progress
from draxet.record import record

__all__ = [
    "BASE_COLOUR",
    "Level",
    "PLAIN",
    "Raised",
    "Slab",
    "Slope",
    "Taken",
    "knitted",
    "levels_of",
    "same_slabs",
    "slabs_of",
    "slopes_of",
    "taken_from",
]

BASE_COLOUR, PLAIN = "#b7b2a7", "#6f7b8a"
"""Of a base, and of what has no colour of its own."""
_GRID = 1e-4
"""mm: what lies nearer than that is one place, so that areas that share an edge share its places."""
_NEAR = 2e-4
"""mm: places that are nearer to an edge lie on it."""
_SPECK = 1e-6
"""mm²: what is left of an area and is smaller is nothing."""


@record(frozen=True, eq=False)
class Raised:
    """An area that is filled from one level to another, in mm; one that is `sunk` takes away what
    lies there before, `from_below` or from above. Those of one name and colour are one body.

    draft, upper, edge : how its walls lean and its upper edges are taken off (``profile_of``); of
    what is sunk the rim. fine : how far straight pieces of a rounded edge may be off, in mm.
    """

    name: str
    colour: str
    area: shapely.Geometry
    low: float
    high: float
    sunk: bool = False
    from_below: bool = False
    draft: float = 0.0
    upper: str = "square"
    edge: float = 0.0
    fine: float = 0.01

    @property
    def is_upright(self) -> bool:
        """Whether all of its walls are, up to their tops."""
        return not self.draft and self.upper == "square"

    @property
    def shape(self) -> tuple[object, ...]:
        """What there is to it but its area and its colour."""
        slope = (self.draft, self.upper, self.edge, self.fine)
        return self.low, self.high, self.sunk, self.from_below, *slope


Slab = tuple[shapely.Geometry, float, float]


@record(frozen=True, eq=False)
class Slope:
    """Areas of one kind with walls that lean, or upper edges that are taken off, and what is beside
    them up to there: edges that they share with that stay upright."""

    of: Raised
    area: shapely.Geometry
    beside: shapely.Geometry | None

    def same(self, other: Slope) -> bool:
        return (
            self.of.shape == other.of.shape
            and _same_area(self.area, other.area)
            and _same_area(self.beside, other.beside)
        )


@record(frozen=True, eq=False)
class Taken:
    """What is taken from a body: an area that is sunk, without those that lie there later."""

    of: Raised
    area: shapely.Geometry
    later: tuple[Slab, ...]
    through: bool
    """Whether it ends just where what it is sunk into does."""

    def is_near(self, box: shapely.Geometry) -> bool:
        reach = self.of.edge if self.of.upper != "square" else 0.0
        return bool(shapely.dwithin(box, self.area, reach))

    def same(self, other: Taken) -> bool:
        same = self.of.shape == other.of.shape and self.through == other.through
        same = same and same_slabs(self.later, other.later)
        return same and _same_area(self.area, other.area)


def knitted(areas: Sequence[shapely.Geometry]) -> list[shapely.Geometry]:
    """Areas on a fine grid that have their neighbours' places on the edges that they share, so that nothing is left
    between them."""
    if not areas:
        return []
    areas = [shapely.set_precision(each, _GRID) for each in areas]
    edges = [shapely.boundary(each) for each in areas]
    one, other = shapely.STRtree(edges).query(edges, predicate="dwithin", distance=_NEAR)
    found = list(areas)
    for k in np.unique(one[one != other]).tolist():
        near = other[(one == k) & (other != k)]
        places = np.unique(
            np.vstack([shapely.get_coordinates(edges[j]) for j in near.tolist()]), axis=0
        )
        found[k] = _with_places(areas[k], places)
    return found


def _with_places(area: shapely.Geometry, places: Points) -> shapely.Geometry:
    """An area with those places as its own that lie on its edges."""
    tree = shapely.STRtree(np.asarray(shapely.points(places), dtype=object))
    parts = list[shapely.Polygon]()
    for part in shapely.get_parts(area).tolist():
        outline, *holes = (
            _ring_with(shapely.get_coordinates(ring), places, tree)
            for ring in shapely.get_rings(part).tolist()
        )
        parts.append(shapely.Polygon(outline, holes))
    found: shapely.Geometry = parts[0] if len(parts) == 1 else shapely.MultiPolygon(parts)
    return found


def _ring_with(ring: Points, places: Points, tree: shapely.STRtree) -> Points:
    sides = shapely.linestrings(np.stack([ring[:-1], ring[1:]], axis=1))
    side, place = tree.query(sides, predicate="dwithin", distance=_NEAR)
    begin, end = ring[side], ring[side + 1]
    way, on = end - begin, places[place]
    share = ((on - begin) * way).sum(axis=1) / np.maximum((way**2).sum(axis=1), 1e-300)
    apart = np.minimum(np.hypot(*(on - begin).T), np.hypot(*(on - end).T)) > _NEAR
    side, share, on = side[apart], share[apart], on[apart]
    at = np.append(np.arange(len(ring), dtype=np.float64), side + share)
    order = np.argsort(at, kind="stable")
    found: Points = np.vstack([ring, on])[order]
    return found


@record(frozen=True, eq=False)
class Level:
    """From where to where, and what each area has there, by its number: itself without what lies
    over it."""

    low: float
    high: float
    left: dict[int, shapely.Geometry]


def levels_of(
    raised: Sequence[Raised], areas: Sequence[shapely.Geometry], report: Progress
) -> list[Level]:
    """What there is from level to level; those that are sunk with leaning walls are taken away
    later."""
    flat = [k for k, each in enumerate(raised) if each.is_upright or not each.sunk]
    ends = sorted({level for k in flat for level in (raised[k].low, raised[k].high)})
    found = list[Level]()
    for number, (low, high) in enumerate(zip(ends, ends[1:], strict=False)):
        report(0.5 * number / len(ends), "resolving what lies over each other")
        active = [k for k in flat if raised[k].low <= low and raised[k].high >= high]
        found.append(Level(low, high, _resolved(raised, areas, active)))
    return found


def _resolved(
    raised: Sequence[Raised], areas: Sequence[shapely.Geometry], active: Sequence[int]
) -> dict[int, shapely.Geometry]:
    tree = shapely.STRtree(np.array([areas[k] for k in active], dtype=object))
    found = dict[int, shapely.Geometry]()
    for place, k in enumerate(active):
        if not raised[k].sunk:
            near = tree.query(areas[k], predicate="intersects").tolist()
            over = [areas[active[j]] for j in near if j > place]
            found[k] = shapely.difference(areas[k], shapely.union_all(over)) if over else areas[k]
    return found


def _whole(some: Sequence[shapely.Geometry]) -> shapely.Geometry | None:
    """Areas as one, but for specks; None where nothing is left."""
    parts = shapely.get_parts(shapely.get_parts(np.array(some, dtype=object)))
    if len(shapely.STRtree(parts).query(parts, predicate="intersects")[0]) > len(parts):
        parts = np.array([shapely.union_all(parts)], dtype=object)
    parts = shapely.get_parts(shapely.set_precision(parts, _GRID))
    pieces = [
        each
        for each in parts.tolist()
        if isinstance(each, shapely.Polygon) and shapely.area(each) > _SPECK
    ]
    return shapely.MultiPolygon(pieces) if pieces else None


def slabs_of(levels: Sequence[Level], own: Container[int]) -> tuple[Slab, ...]:
    """What there is of some areas, those that go on unchanged in one."""
    found = list[Slab]()
    for level in levels:
        area = _whole([left for k, left in level.left.items() if k in own])
        if area is None:
            continue
        last = found[-1] if found else None
        if last and last[2] == level.low and shapely.equals_exact(last[0], area, 0.0):
            found[-1] = (last[0], last[1], level.high)
        else:
            found.append((area, level.low, level.high))
    return tuple(found)


def slopes_of(
    raised: Sequence[Raised], levels: Sequence[Level], own: Container[int]
) -> Iterator[Slope]:
    """Those of some areas that are there at their tops, all of one kind together: what they share
    between them is no edge."""
    for level in levels:
        ends = [
            k
            for k in level.left
            if k in own and raised[k].high == level.high and not raised[k].is_upright
        ]
        for shape in dict.fromkeys(raised[k].shape for k in ends):
            kind = [k for k in ends if raised[k].shape == shape]
            area = _whole([level.left[k] for k in kind])
            beside = [left for k, left in level.left.items() if k not in kind]
            if area is not None:
                yield Slope(raised[kind[0]], area, _whole(beside) if beside else None)


def taken_from(
    raised: Sequence[Raised], areas: Sequence[shapely.Geometry]
) -> list[tuple[int, Taken]]:
    """What is sunk with leaning walls or a rim, with the number of its first area: those of one kind
    together, as far as the same lies there later."""
    kinds = dict[tuple[tuple[object, ...], tuple[int, ...]], list[int]]()
    for k, each in enumerate(raised):
        if each.sunk and not each.is_upright:
            reach = shapely.buffer(areas[k], each.edge if each.upper != "square" else 0.0)
            later = tuple(
                j
                for j in range(k + 1, len(raised))
                if not raised[j].sunk and shapely.intersects(areas[j], reach)
            )
            kinds.setdefault((each.shape, later), []).append(k)
    found = list[tuple[int, Taken]]()
    for (_, over), some in kinds.items():
        this, area = raised[some[0]], _whole([areas[k] for k in some])
        ends = {o.high if this.from_below else o.low for o in raised[: some[0]] if not o.sunk}
        if area is not None:
            there = tuple((areas[j], raised[j].low, raised[j].high) for j in over)
            through = (this.high if this.from_below else this.low) in ends
            found.append((some[0], Taken(this, area, there, through)))
    return found


def same_slabs(one: Sequence[Slab], other: Sequence[Slab]) -> bool:
    return len(one) == len(other) and all(
        a[1:] == b[1:] and _same_area(a[0], b[0]) for a, b in zip(one, other, strict=True)
    )


def _same_area(one: shapely.Geometry | None, other: shapely.Geometry | None) -> bool:
    if one is None or other is None:
        return one is other
    return bool(shapely.equals_exact(one, other, 0.0))
