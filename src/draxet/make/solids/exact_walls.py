"""Areas raised and sunk with upright walls, as exact solids: contours that neither cross nor touch part
the plane into cells, each filled from level to level."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise

import numpy as np
import shapely

from draxet.geometry.arrays import Floats
from draxet.geometry.contour import Contour
from draxet.geometry.exact_solids import (
    Curve,
    Cylinder,
    Edge,
    ExactSolid,
    Face,
    Free,
    Loop,
    Plane,
    Round,
    Straight,
    Surface,
    unpaired_edges,
)
from draxet.geometry.rational import free_span, led_straight
from draxet.geometry.spans import ARC, LINE
from draxet.make.solids.exact_sweeps import circle_of
from draxet.make.solids.solid_levels import Raised
from draxet.record import record

__all__ = ["NotExact", "Standing", "walls_of"]

_UP = np.array([0.0, 0.0, 1.0])
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
class _Cell:
    """A closed contour, anticlockwise, what lies within it but within no other one, and how that is
    filled. parent : the cell outside."""

    contour: Contour
    parent: int | None
    filled: Filled


def walls_of(standing: Sequence[Standing]) -> list[ExactSolid]:
    """The solids, those of each area by themselves; what is raised or sunk later takes its place from
    what was there.

    Raises
    ------
    NotExact : where walls lean or edges are taken off, and where contours cross or touch.
    """
    for each in standing:
        if not each.raised.is_upright:
            raise NotExact(
                f"{each.raised.name} has walls that lean or edges that are taken off; STEP takes upright walls and square edges"
            )
    shapes = [_shape(each) for each in standing]
    found = list[ExactSolid]()
    for k, each in enumerate(standing):
        if not each.raised.sunk:
            found += _solids(standing, shapes, k)
    return found


def _shape(each: Standing) -> shapely.Geometry:
    outline, *holes = (contour.flattened(_FINE) for contour in each.contours)
    shape = shapely.Polygon(outline, holes)
    if not shapely.is_valid(shape):
        raise NotExact(f"a contour of {each.raised.name} crosses or touches itself; mend it first")
    return shape


def _solids(
    standing: Sequence[Standing], shapes: Sequence[shapely.Geometry], k: int
) -> list[ExactSolid]:
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
    made = [
        _Cell(_anticlockwise(contour), parent, levels)
        for (contour, _), parent, levels in zip(cells, parents, filled, strict=True)
    ]
    return _parted(_Walls(made), this)


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


class _Walls:
    """The faces of cells, and of each which way it looks: up, down, or beside."""

    def __init__(self, cells: Sequence[_Cell]) -> None:
        self._cells = cells
        self.vertices, self.edges = list[Floats](), list[Edge]()
        self._numbers = dict[tuple[object, ...], int]()
        self.faces, self.sinks = list[Face](), list[float]()
        """Of each face what it adds to six times the volume beneath it."""
        for number, cell in enumerate(cells):
            for low, high, inside in self._walls(cell):
                for span in range(len(cell.contour.kinds)):
                    self.faces.append(self._wall(number, span, low, high, inside))
                    self.sinks.append(0.0)
        for top in (True, False):
            self._add_level(top)

    def _outside(self, cell: _Cell) -> Filled:
        return self._cells[cell.parent].filled if cell.parent is not None else ()

    def _walls(self, cell: _Cell) -> list[tuple[float, float, bool]]:
        """Where it is filled on one side of a cell's contour alone, and whether that is inside."""
        outside = self._outside(cell)
        ends = sorted({level for part in (*cell.filled, *outside) for level in part})
        found = list[tuple[float, float, bool]]()
        for low, high in pairwise(ends):
            within, without = _is_in(cell.filled, low, high), _is_in(outside, low, high)
            if within == without:
                continue
            if found and found[-1][1] == low:
                if found[-1][2] != within:
                    raise NotExact(
                        f"areas meet in an edge alone at a height of {low:g} mm; such a body would hang together by a line"
                    )
                found[-1] = (found[-1][0], high, within)
            else:
                found.append((low, high, within))
        return found

    def _vertex(self, cell: int, node: int, level: float) -> int:
        key = ("vertex", cell, node, level)
        if key not in self._numbers:
            self._numbers[key] = len(self.vertices)
            self.vertices.append(np.append(self._cells[cell].contour.nodes[node], level))
        return self._numbers[key]

    def _along(self, cell: int, span: int, level: float) -> int:
        key = ("along", cell, span, level)
        if key not in self._numbers:
            contour = self._cells[cell].contour
            begin = self._vertex(cell, span, level)
            end = self._vertex(cell, (span + 1) % len(contour.nodes), level)
            self._numbers[key] = len(self.edges)
            self.edges.append(Edge(_curve_at(contour, span, level), begin, end))
        return self._numbers[key]

    def _upright(self, cell: int, node: int, low: float, high: float) -> int:
        key = ("upright", cell, node, low, high)
        if key not in self._numbers:
            begin, end = self._vertex(cell, node, low), self._vertex(cell, node, high)
            self._numbers[key] = len(self.edges)
            self.edges.append(Edge(Straight(), begin, end))
        return self._numbers[key]

    def _wall(self, cell: int, span: int, low: float, high: float, inside: bool) -> Face:
        contour = self._cells[cell].contour
        onward = (span + 1) % len(contour.nodes)
        loop: Loop = (
            (self._along(cell, span, low), True),
            (self._upright(cell, onward, low, high), True),
            (self._along(cell, span, high), False),
            (self._upright(cell, span, low, high), False),
        )
        if not inside:
            loop = tuple((edge, not along) for edge, along in reversed(loop))
        surface, outward = _wall_surface(contour, span, low, high, inside)
        return Face(surface, (loop,), outward)

    def _add_level(self, top: bool) -> None:
        """The faces that look up, or down: cells beside each other that end at one level share one."""
        for level in sorted({part[top] for cell in self._cells for part in cell.filled}):
            there = [
                k
                for k, cell in enumerate(self._cells)
                if any(part[top] == level for part in cell.filled)
            ]
            for root in there:
                if self._cells[root].parent not in there:
                    self._add_flat(root, there, level, top)

    def _add_flat(self, root: int, there: Sequence[int], level: float, top: bool) -> None:
        held, holes = [root], list[int]()
        for cell in held:
            for k, other in enumerate(self._cells):
                if other.parent == cell:
                    (held if k in there else holes).append(k)
        loops = [self._ring(root, level, top)]
        loops += [self._ring(k, level, not top) for k in holes]
        area = self._cells[root].contour.area
        area -= sum(self._cells[k].contour.area for k in holes)
        origin = np.append(self._cells[root].contour.nodes[0], level)
        self.faces.append(Face(Plane(origin, _UP if top else -_UP), tuple(loops)))
        self.sinks.append(area * level if top else -area * level)

    def _ring(self, cell: int, level: float, along: bool) -> Loop:
        edges = [
            (self._along(cell, span, level), along)
            for span in range(len(self._cells[cell].contour.kinds))
        ]
        return tuple(edges if along else reversed(edges))


def _is_in(filled: Filled, low: float, high: float) -> bool:
    return any(a <= low and b >= high for a, b in filled)


def _curve_at(contour: Contour, span: int, level: float) -> Curve:
    kind = int(contour.kinds[span])
    if kind == LINE:
        return Straight()
    if kind == ARC:
        centre, radius = circle_of(contour, span)
        x = np.append((contour.nodes[span] - centre) / radius, 0.0)
        y = np.cross(_UP, x) if contour.bulges[span] > 0 else np.cross(x, _UP)
        return Round(np.append(centre, level), x, y, radius)
    free = free_span(contour.spans, span)
    return Free(_lifted(free.poles, level), free.weights, free.degree, free.knots)


def _lifted(poles: Floats, level: float) -> Floats:
    found: Floats = np.column_stack([poles, np.full(len(poles), level)])
    return found


def _wall_surface(
    contour: Contour, span: int, low: float, high: float, inside: bool
) -> tuple[Surface, bool]:
    kind, spans = int(contour.kinds[span]), contour.spans
    begin = np.append(spans.starts[span], low)
    if kind == LINE:
        dx, dy = (spans.ends[span] - spans.starts[span]).tolist()
        normal = np.array([dy, -dx, 0.0]) / np.hypot(dx, dy)
        return Plane(begin, normal if inside else -normal), True
    if kind == ARC:
        centre, radius = circle_of(contour, span)
        middle = np.append(centre, low)
        outward = bool(contour.bulges[span] > 0) == inside
        return Cylinder(middle, _UP, (begin - middle) / radius, radius), outward
    free = free_span(spans, span)
    return led_straight(free, _lifted(free.poles, low), _lifted(free.poles, high)), inside


def _parted(walls: _Walls, of: Raised) -> list[ExactSolid]:
    """Solids that hang together, each with its hollows."""
    if not walls.faces:
        return []
    assert not unpaired_edges([walls.faces])
    shells = _shells(walls)
    volumes = [sum(walls.sinks[k] for k in shell) for shell in shells]
    outer = [k for k, volume in enumerate(volumes) if volume > 0]
    hollows = {k: list[int]() for k in outer}
    boxes = [_box(walls, shell) for shell in shells]
    for k, volume in enumerate(volumes):
        if volume <= 0:
            around = [j for j in outer if _holds(boxes[j], boxes[k])]
            hollows[min(around, key=lambda j: volumes[j])].append(k)
    vertices, edges = np.array(walls.vertices), tuple(walls.edges)
    return [
        ExactSolid(
            of.name,
            of.colour,
            vertices,
            edges,
            tuple(tuple(walls.faces[f] for f in shells[s]) for s in (k, *hollows[k])),
        )
        for k in outer
    ]


def _shells(walls: _Walls) -> list[list[int]]:
    """Faces, by their numbers, that hang together by edges."""
    beside = dict[int, list[int]]()
    for number, face in enumerate(walls.faces):
        for loop in face.loops:
            for edge, _ in loop:
                beside.setdefault(edge, []).append(number)
    seen, found = set[int](), list[list[int]]()
    for first in range(len(walls.faces)):
        if first in seen:
            continue
        shell = [first]
        seen.add(first)
        for number in shell:
            for loop in walls.faces[number].loops:
                for edge, _ in loop:
                    for other in beside[edge]:
                        if other not in seen:
                            seen.add(other)
                            shell.append(other)
        found.append(shell)
    return found


def _box(walls: _Walls, shell: Sequence[int]) -> tuple[Floats, Floats]:
    ends = [
        walls.edges[edge].begin
        for number in shell
        for loop in walls.faces[number].loops
        for edge, _ in loop
    ]
    places = np.array([walls.vertices[k] for k in ends])
    return places.min(axis=0), places.max(axis=0)


def _holds(one: tuple[Floats, Floats], other: tuple[Floats, Floats]) -> bool:
    return bool((one[0] <= other[0]).all() and (one[1] >= other[1]).all())
