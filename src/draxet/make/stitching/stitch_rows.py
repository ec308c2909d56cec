"""Rows across an area, gathered into cells: stacks of rows of which each has one above and one
below. What is round a hole, or branches, is several cells that meet."""

from __future__ import annotations

import itertools
from dataclasses import field

import numpy as np
import shapely
from shapely import affinity

from draxet.geometry.affine import Affine
from draxet.record import record

__all__ = ["Cell", "Cells", "cells_of", "few_rows"]

_LEAST, _SLIVER, _FEWER = 1e-3, 0.1, 0.2


@record(eq=False)
class Cell:
    """Rows from number `first` on, each from `left` to `right` (x in mm); the numbers of the cells
    that it meets `below` its first row and `above` its last one."""

    first: int
    left: list[float] = field(default_factory=list)
    right: list[float] = field(default_factory=list)
    below: set[int] = field(default_factory=set)
    above: set[int] = field(default_factory=set)

    @property
    def last(self) -> int:
        return self.first + len(self.left) - 1

    def row(self, number: int) -> tuple[float, float]:
        """Where the row of a number begins and ends."""
        return self.left[number - self.first], self.right[number - self.first]

    def middle(self, number: int) -> float:
        a, b = self.row(number)
        return (a + b) / 2


@record(frozen=True, eq=False)
class Cells:
    """The cells of an area whose rows run along x; row k lies at y = `base` + k `spacing`."""

    cells: list[Cell]
    base: float
    spacing: float

    def y(self, row: int) -> float:
        return self.base + row * self.spacing

    def parted(self, piece: list[int], number: int, row: int) -> list[int]:
        """A piece whose cell ends at a row, and begins there: what lies beyond, on the smaller side,
        becomes a cell of its own."""
        cell, new = self.cells[number], len(self.cells)
        below, above = row - cell.first, cell.last - row
        if not min(below, above):
            return piece
        if above > below:
            cut = below + 1
            self.cells.append(
                Cell(cell.first, cell.left[:cut], cell.right[:cut], cell.below, {number})
            )
            for other in cell.below:
                self.cells[other].above = self.cells[other].above - {number} | {new}
            cell.first, cell.left, cell.right = row + 1, cell.left[cut:], cell.right[cut:]
            cell.below = {new}
        else:
            cut = below
            self.cells.append(Cell(row, cell.left[cut:], cell.right[cut:], {number}, cell.above))
            for other in cell.above:
                self.cells[other].below = self.cells[other].below - {number} | {new}
            cell.left, cell.right = cell.left[:cut], cell.right[:cut]
            cell.above = {new}
        return [*piece, new]

    def pieces(self) -> list[list[int]]:
        """Numbers of cells that hang together."""
        left, found = set(range(len(self.cells))), []
        while left:
            piece, ahead = [], [min(left)]
            left.discard(ahead[0])
            while ahead:
                number = ahead.pop()
                piece.append(number)
                cell = self.cells[number]
                more = sorted((cell.below | cell.above) & left)
                left -= set(more)
                ahead += more
            found.append(sorted(piece))
        return found


def cells_of(area: shapely.Geometry, spacing: float) -> Cells:
    """The cells of an area (polygons) whose rows run along x, as nearly `spacing` mm apart as they go
    into it evenly, the outermost half of that within its rim."""
    _, low, _, high = shapely.bounds(area).tolist()
    count = max(int(np.ceil((high - low) / spacing - _FEWER)), 1)
    spacing = (high - low) / count
    base = low + spacing / 2
    cells, open_ = list[Cell](), list[int]()
    for row, spans in enumerate(_spans(area, base, spacing, count)):
        open_ = _grown(cells, open_, row, spans)
    found = Cells(cells, base, spacing)
    _join_slivers(found, area)
    return found


def few_rows(
    area: shapely.Geometry, angle: float, most: int
) -> list[tuple[float, float, float, float]]:
    """Some rows (x0, y0, x1, y1) at an angle in degrees, evenly over an area: what can be shown at
    once of how it will be filled."""
    if shapely.area(area) <= 0:
        return []
    turned = affinity.rotate(area, -angle, origin=(0, 0))
    parts = shapely.MultiPolygon([each for each in shapely.get_parts(turned) if each.area > 0])
    _, low, _, high = shapely.bounds(parts).tolist()
    spacing = (high - low) / most
    ends = np.array(
        [
            ((left, y), (right, y))
            for row, spans in enumerate(_spans(parts, low + spacing / 2, spacing, most))
            for left, right in spans
            for y in (low + (row + 0.5) * spacing,)
        ]
    ).reshape(-1, 2)
    back = Affine.turned(angle).apply(ends).reshape(-1, 4)
    return [(x0, y0, x1, y1) for x0, y0, x1, y1 in back.tolist()]


def _join_slivers(cells: Cells, area: shapely.Geometry) -> None:
    """Let cells meet that only a sliver joins, nearly along the rows, so that no two of its rows lie
    beside each other; the nearest first, as long as that joins what does not hang together yet."""
    pieces = cells.pieces()
    if len(pieces) == 1:
        return
    of = {number: k for k, piece in enumerate(pieces) for number in piece}
    some = list[tuple[float, int, int]]()
    for low, high in itertools.permutations(range(len(cells.cells)), 2):
        a, b = cells.cells[low], cells.cells[high]
        if a.last + 1 == b.first and of[low] != of[high]:
            (left, right), (other_left, other_right) = a.row(a.last), b.row(b.first)
            gap = max(left, other_left) - min(right, other_right)
            some.append((gap, low, high))
    broad = shapely.buffer(area, _SLIVER)
    for _, low, high in sorted(some):
        a, b = cells.cells[low], cells.cells[high]
        if of[low] == of[high]:
            continue
        (left, right), (other_left, other_right) = a.row(a.last), b.row(b.first)
        here, there = (right, other_left) if right <= other_left else (left, other_right)
        way = shapely.LineString([(here, cells.y(a.last)), (there, cells.y(b.first))])
        if shapely.covers(broad, way):
            a.above.add(high)
            b.below.add(low)
            was, now = of[high], of[low]
            of = {number: now if k == was else k for number, k in of.items()}


def _spans(
    area: shapely.Geometry, base: float, spacing: float, count: int
) -> list[list[tuple[float, float]]]:
    """Of each row where it runs through the area, from left to right."""
    rings = [
        shapely.get_coordinates(ring)
        for part in shapely.get_parts(area)
        for ring in (part.exterior, *part.interiors)
    ]
    a = np.concatenate([ring[:-1] for ring in rings])
    b = np.concatenate([ring[1:] for ring in rings])
    low, high = np.minimum(a[:, 1], b[:, 1]), np.maximum(a[:, 1], b[:, 1])
    first = np.ceil((low - base) / spacing - 1e-12).astype(int).clip(0)
    last = np.ceil((high - base) / spacing - 1e-12).astype(int).clip(0, count)
    number = np.maximum(last - first, 0)
    edge = np.repeat(np.arange(len(a)), number)
    row = np.arange(number.sum()) - np.repeat(np.cumsum(number) - number, number) + first[edge]
    share = (base + row * spacing - a[edge, 1]) / (b[edge, 1] - a[edge, 1])
    x = a[edge, 0] + share * (b[edge, 0] - a[edge, 0])
    order = np.lexsort((x, row))
    ends = np.searchsorted(row[order], np.arange(count + 1))
    xs = x[order]
    return [
        [
            (float(p), float(q))
            for p, q in zip(xs[i:j:2], xs[i + 1 : j : 2], strict=False)
            if q - p > _LEAST
        ]
        for i, j in zip(ends[:-1].tolist(), ends[1:].tolist(), strict=True)
    ]


def _grown(
    cells: list[Cell], open_: list[int], row: int, spans: list[tuple[float, float]]
) -> list[int]:
    """Put the spans of a row onto the cells that were open; the cells that are open now."""
    meets = [
        [k for k in open_ if cells[k].left[-1] < right and left < cells[k].right[-1]]
        for left, right in spans
    ]
    times = {k: sum(k in each for each in meets) for k in open_}
    now = list[int]()
    for (left, right), under in zip(spans, meets, strict=True):
        if len(under) == 1 and times[under[0]] == 1:
            number = under[0]
        else:
            number = len(cells)
            cells.append(Cell(row, below=set(under)))
            for k in under:
                cells[k].above.add(number)
        cells[number].left.append(left)
        cells[number].right.append(right)
        now.append(number)
    return now
