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
    standing: Sequence[Standing], shapes: Sequence[shapely.Geometry], k: int
) -> list[Cell]:
    """The cells of one of some areas, without what is raised or sunk there later.

    Raises
    ------
    NotExact : where contours cross or touch.
    """
    this, shape = standing[k].raised, shapes[k]
    contours = list(standing[k].contours)
    over = list[int]()
    for j in range(k + 1, len(standing)):
        other = standing[j].raised
        if min(this.high, other.high) <= max(this.low, other.low):
            continue
        if shapely.area(shapely.intersection(shape, shapes[j])) <= _SPECK:
            continue
        over.append(j)
        if not shapely.covers(shapes[j], shape):
            contours += _within(shape, standing[j], this.name)
    cells = _cells(contours, this.name)
    filled = [_filled(cell, this, shape, standing, shapes, over) for cell in cells]
    parents = _parents(cells)
    return [
        Cell(_anticlockwise(contour), parent, levels)
        for (contour, _), parent, levels in zip(cells, parents, filled, strict=True)
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


def _cells(contours: Sequence[Contour], name: str) -> list[tuple[Contour, shapely.Geometry]]:
    """Contours, each once, with what they bound."""
    found = list[tuple[Contour, shapely.Geometry]]()
    for contour in contours:
        filled = shapely.Polygon(contour.flattened(_FINE))
        ring = shapely.boundary(filled)
        if any(shapely.equals(filled, there) for _, there in found):
            continue
        for _, there in found:
            edge = shapely.boundary(there)
            if shapely.distance(ring, edge) < _APART:
                x, y = shapely.get_coordinates(shapely.shortest_line(ring, edge))[0].tolist()
                raise NotExact(
                    f"areas over {name} cross or touch at ({x:.4g}, {y:.4g}) mm; STEP takes areas that lie within each other or apart"
                )
        found.append((contour, filled))
    return found


def _parents(cells: Sequence[tuple[Contour, shapely.Geometry]]) -> list[int | None]:
    """For each cell the least one round it."""
    sizes = [float(shapely.area(shape)) for _, shape in cells]
    found = list[int | None]()
    for k, (_, shape) in enumerate(cells):
        around = [
            j
            for j in range(len(cells))
            if sizes[j] > sizes[k] and shapely.covers(cells[j][1], shape)
        ]
        found.append(min(around, key=lambda j: sizes[j]) if around else None)
    return found


def _filled(
    cell: tuple[Contour, shapely.Geometry],
    this: Raised,
    shape: shapely.Geometry,
    standing: Sequence[Standing],
    shapes: Sequence[shapely.Geometry],
    over: Sequence[int],
) -> Filled:
    """From where to where a cell is filled: right within its edge, where no other cell begins."""
    ring = shapely.boundary(cell[1])
    near = shapely.Point(shapely.get_coordinates(ring)[0])
    inside = shapely.buffer(near, 0.4 * _APART, quad_segs=4)
    at = shapely.point_on_surface(shapely.intersection(inside, cell[1]))
    if not shapely.contains(shape, at):
        return ()
    levels: list[tuple[float, float]] = [(this.low, this.high)]
    for j in over:
        if shapely.contains(shapes[j], at):
            low, high = standing[j].raised.low, standing[j].raised.high
            levels = [
                part
                for a, b in levels
                for part in ((a, min(b, low)), (max(a, high), b))
                if part[1] > part[0]
            ]
    return tuple(levels)


def _anticlockwise(contour: Contour) -> Contour:
    return contour if contour.area > 0 else contour.reversed()
