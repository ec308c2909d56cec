"""Areas that are raised and sunk as cells: contours that neither cross nor touch part the plane, and each
cell is filled from level to level."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import shapely

from draxet.geometry.contour import Contour
from draxet.make.solids.solid_levels import Raised
from draxet.record import record

__all__ = ["Cell", "Filled", "NotExact", "Standing", "cells_of", "shape_of"]

_APART = 1e-5
"""mm: contours that are nearer touch."""
_SPECK = 1e-6
"""mm²: areas that share less do not lie over each other."""
_FINE = 0.002

Filled = tuple[tuple[float, float], ...]
"""From where to where, in rising order, apart from each other."""


class NotExact(ValueError):
    """What cannot be an exact solid, in a sentence without its stop."""


@record(frozen=True, eq=False)
class Standing:
    """An area that is raised or sunk, and the contours that bound it: its outline first."""

    raised: Raised
    contours: tuple[Contour, ...]


@record(frozen=True, eq=False)
class Cell:
    """A closed contour, anticlockwise, what lies within it but within no other one, and how that is
    filled. parent : the cell outside."""

    contour: Contour
    parent: int | None
    filled: Filled


def shape_of(each: Standing) -> shapely.Geometry:
    """The area that it covers.

    Raises
    ------
    NotExact : where a contour crosses or touches itself.
    """
    outline, *holes = (contour.flattened(_FINE) for contour in each.contours)
    shape = shapely.Polygon(outline, holes)
    if not shapely.is_valid(shape):
        raise NotExact(f"a contour of {each.raised.name} crosses or touches itself; mend it first")
    return shape


def cells_of(
    standing: Sequence[Standing],
    shapes: Sequence[shapely.Geometry],
    tree: shapely.STRtree,
    k: int,
) -> list[Cell]:
    """The cells of one of some areas, without what is raised or sunk there later; `tree` finds their
    shapes.

    Raises
    ------
    NotExact : where contours cross or touch.
    """
    this, shape = standing[k].raised, shapes[k]
    contours = list(standing[k].contours)
    over = list[int]()
    for j in sorted(tree.query(shape, predicate="intersects").tolist()):
        other = standing[j].raised
        if j <= k or min(this.high, other.high) <= max(this.low, other.low):
            continue
        if shapely.area(shapely.intersection(shape, shapes[j])) <= _SPECK:
            continue
        over.append(j)
        if not shapely.covers(shapes[j], shape):
            contours += _within(shape, standing[j], this.name)
    kept, areas = _apart(contours, this.name)
    filled = _filled(areas, this, shape, [(standing[j].raised, shapes[j]) for j in over])
    return [
        Cell(_anticlockwise(contour), parent, levels)
        for contour, parent, levels in zip(kept, _parents(areas), filled, strict=True)
    ]


def _within(shape: shapely.Geometry, other: Standing, name: str) -> Iterator[Contour]:
    """The contours of another area that lie within this one."""
    edge = shapely.boundary(shape)
    for contour in other.contours:
        ring = shapely.LinearRing(contour.flattened(_FINE))
        if not shapely.intersects(ring, shape):
            continue
        if shapely.distance(ring, edge) < _APART:
            x, y = shapely.get_coordinates(shapely.shortest_line(ring, edge))[0].tolist()
            raise NotExact(
                f"{other.raised.name} lies over an edge of {name} at ({x:.4g}, {y:.4g}) mm; STEP takes areas that lie within each other or apart"
            )
        yield contour


def _apart(contours: Sequence[Contour], name: str) -> tuple[list[Contour], list[shapely.Geometry]]:
    """Contours, each once, and what they bound."""
    areas = [shapely.Polygon(contour.flattened(_FINE)) for contour in contours]
    rings = shapely.boundary(areas)
    pairs = shapely.STRtree(rings).query(rings, predicate="dwithin", distance=_APART)
    twice = set[int]()
    for one, other in sorted(tuple(pair) for pair in pairs.T.tolist() if pair[0] < pair[1]):
        if shapely.equals(areas[one], areas[other]):
            twice.add(other)
        elif one not in twice and other not in twice:
            line = shapely.shortest_line(rings[one], rings[other])
            x, y = shapely.get_coordinates(line)[0].tolist()
            raise NotExact(
                f"areas over {name} cross or touch at ({x:.4g}, {y:.4g}) mm; STEP takes areas that lie within each other or apart"
            )
    kept = [k for k in range(len(contours)) if k not in twice]
    return [contours[k] for k in kept], [areas[k] for k in kept]


def _parents(areas: Sequence[shapely.Geometry]) -> list[int | None]:
    """For each of some areas that do not cross the least one round it."""
    sizes = shapely.area(areas).tolist()
    found: list[int | None] = [None] * len(areas)
    for k, j in shapely.STRtree(areas).query(areas, predicate="covered_by").T.tolist():
        now = found[k]
        if sizes[j] > sizes[k] and (now is None or sizes[j] < sizes[now]):
            found[k] = j
    return found


def _filled(
    areas: Sequence[shapely.Geometry],
    this: Raised,
    shape: shapely.Geometry,
    over: Sequence[tuple[Raised, shapely.Geometry]],
) -> list[Filled]:
    """From where to where each cell is filled: right within its edge, where no other cell begins."""
    begins = shapely.points([shapely.get_coordinates(each)[0] for each in areas])
    near = shapely.intersection(shapely.buffer(begins, 0.4 * _APART, quad_segs=4), areas)
    places = shapely.point_on_surface(near)
    there = shapely.STRtree([shape, *(each for _, each in over)])
    met: list[list[int]] = [[] for _ in areas]
    for k, j in there.query(places, predicate="within").T.tolist():
        met[k].append(j)
    found = list[Filled]()
    for some in met:
        levels: list[tuple[float, float]] = [(this.low, this.high)] if 0 in some else []
        for j in sorted(some):
            if j:
                levels = _without(levels, over[j - 1][0].low, over[j - 1][0].high)
        found.append(tuple(levels))
    return found


def _without(
    levels: Sequence[tuple[float, float]], low: float, high: float
) -> list[tuple[float, float]]:
    return [
        part
        for a, b in levels
        for part in ((a, min(b, low)), (max(a, high), b))
        if part[1] > part[0]
    ]


def _anticlockwise(contour: Contour) -> Contour:
    return contour if contour.area > 0 else contour.reversed()
