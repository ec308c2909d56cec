"""Areas raised and sunk with upright walls, as exact solids: contours that neither cross nor touch part
the plane into cells, each filled from level to level."""

from __future__ import annotations

from collections.abc import Container, Sequence
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
from draxet.make.solids.exact_cells import Cell, Filled, NotExact, Standing, cells_of, shape_of
from draxet.make.solids.exact_sweeps import circle_of
from draxet.make.solids.solid_levels import Raised

__all__ = ["walls_of"]

_UP = np.array([0.0, 0.0, 1.0])


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
    shapes = [shape_of(each) for each in standing]
    tree, found = shapely.STRtree(shapes), list[ExactSolid]()
    for k, each in enumerate(standing):
        if not each.raised.sunk:
            found += _parted(_Walls(cells_of(standing, shapes, tree, k)), each.raised)
    return found


class _Walls:
    """The faces of cells, and of each which way it looks: up, down, or beside."""

    def __init__(self, cells: Sequence[Cell]) -> None:
        self._cells = cells
        self._inner: list[list[int]] = [[] for _ in cells]
        for number, cell in enumerate(cells):
            if cell.parent is not None:
                self._inner[cell.parent].append(number)
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

    def _outside(self, cell: Cell) -> Filled:
        return self._cells[cell.parent].filled if cell.parent is not None else ()

    def _walls(self, cell: Cell) -> list[tuple[float, float, bool]]:
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
        ends = dict[float, list[int]]()
        for number, cell in enumerate(self._cells):
            for part in cell.filled:
                ends.setdefault(part[top], []).append(number)
        for level, there in sorted(ends.items()):
            known = set(there)
            for root in there:
                if self._cells[root].parent not in known:
                    self._add_flat(root, known, level, top)

    def _add_flat(self, root: int, there: Container[int], level: float, top: bool) -> None:
        held, holes = [root], list[int]()
        for cell in held:
            for k in self._inner[cell]:
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
