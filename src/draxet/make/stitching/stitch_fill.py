"""An area filled with rows of stitches, in one go: the way from one part of it to the next runs
inside, under rows that come later.

The cells of an area hang together like a tree. From any place the way leads to its outermost
branch first; each cell is filled towards the one that comes after it, so that what is done is left
behind and every way on leads through cells that are not done yet.
"""

from __future__ import annotations

import math
from collections import deque
from typing import Annotated

import numpy as np
import shapely

from draxet.geometry.arrays import Points
from draxet.job.ranges import Size, Within
from draxet.make.stitching.stitch_rows import Cell, Cells, cells_of
from draxet.record import record

__all__ = ["Fill", "Place", "evened", "filled", "way_inside"]

_SHIFTS = (0.0, 0.5, 0.25, 0.75)
"""By that share of a stitch rows are shifted against each other, in turn."""
_INSET, _UNDER_EVERY, _UNDER_STITCH = 0.6, 6, 3.5
_WAY_STITCH, _LEAST_UNDER = 2.5, 16.0
_SHORTEST, _TINY, _CLEAR = 0.6, 1e-3, 0.2
_STRAIGHT = 0.15

Place = tuple[float, float] | None


@record(frozen=True)
class Fill:
    """How an area is filled: rows `spacing` mm apart at an `angle` in degrees, stitches of `length`
    mm, each row longer by `pull` mm at both ends, over an `underlay` or not. every : of so many rows
    one is sewn. line_stitch, times : the stitch of a line in mm, and whether it is run once, there and back
    (2), or each stitch three times. overlap : mm that the area is taken broader all round.
    split : mm, the longest stitch from
    side to side. manner : ``fill`` for rows, ``satin`` from side to side, ``suited`` for what suits it;
    `satin` : mm between needle points of a side then, whose `corners` are ``turned``, ``mitred`` or
    ``capped``."""

    spacing: Annotated[float, Within(0.1, 5.0)] = 0.35
    angle: float = 45.0
    length: Size = 4.0
    pull: Annotated[float, Within(0.0, 2.0)] = 0.2
    underlay: bool = True
    every: int = 1
    line_stitch: Size = 2.5
    times: Annotated[int, Within(1, 3)] = 1
    overlap: Annotated[float, Within(0.0, 2.0)] = 0.1
    split: Size = 7.0
    manner: str = "fill"
    satin: Annotated[float, Within(0.1, 5.0)] = 0.4
    corners: str = "turned"


def filled(
    area: shapely.Geometry, fill: Fill, start: Place = None, end: Place = None
) -> list[Points]:
    """The stitches (n, 2) that fill an area, in mm: one run for each piece of it that hangs
    together, from a place on, the nearest first, and the last one to another place."""
    found = list[Points]()
    parts = [part for part in shapely.get_parts(area) if shapely.area(part) > 0]
    last = min(parts, key=lambda part: _away(part, end)) if end is not None and parts else None
    while parts:
        part = min(parts, key=lambda each: (each is last, _away(each, start)))
        parts = [each for each in parts if each is not part]
        turned = _turned(part, -fill.angle)
        at, to = (
            None if place is None else _turned_points(np.array([place]), -fill.angle)[0]
            for place in (start, end if part is last else None)
        )
        cells = cells_of(turned, fill.spacing)
        for piece in cells.pieces():
            run, piece = _run_through(cells, piece, fill, at, to)
            if fill.underlay:
                under = _underlay(turned, cells, piece, fill, run[0])
                run = np.vstack([under, run]) if len(under) else run
            if at is not None and shapely.contains_xy(turned, *at):
                run = np.vstack([_inside(cells, piece, at, run[0]), run])
                at = None
            found.append(_turned_points(evened(run, fill.length + _SHORTEST), fill.angle))
            start = (float(found[-1][-1, 0]), float(found[-1][-1, 1]))
    return found


def way_inside(area: shapely.Geometry, fill: Fill, begin: Points, end: Points) -> Points:
    """A way (n, 2) between two places of a polygon that leads through it, under rows that come later;
    nothing where it does not hang together between them."""
    cells = cells_of(_turned(area, -fill.angle), fill.spacing)
    a, b = _turned_points(np.array([begin, end]), -fill.angle)
    (first, _), (last, _) = (_at(cells, list(range(len(cells.cells))), place) for place in (a, b))
    piece = next((each for each in cells.pieces() if first in each and last in each), None)
    if piece is None:
        return np.zeros((0, 2))
    return _turned_points(_inside(cells, piece, a, b), fill.angle)


def _away(part: shapely.Geometry, place: Place) -> float:
    return 0.0 if place is None else float(shapely.distance(part, shapely.Point(place)))


def _run_through(
    cells: Cells, piece: list[int], fill: Fill, at: Points | None, to: Points | None
) -> tuple[Points, list[int]]:
    """All rows of cells that hang together, from near a place to near another; and the cells, as
    one may have been parted."""
    last, end = (-1, None) if to is None else _at(cells, piece, to)
    if end is not None:
        piece = cells.parted(piece, last, end)
    first = piece[0] if at is None else _at(cells, piece, at)[0]
    last = last if end is not None else _farthest(cells, piece, first)
    order, after = _outermost_first(cells, piece, first, last)
    left, points = set(piece), list[Points]()
    here: tuple[int, int, float] | None = None
    for number in order:
        cell = cells.cells[number]
        if after[number] >= 0:
            upward = after[number] in cell.above
        elif end is not None:
            upward = end >= cell.last
        else:
            upward = here is None or here[1] <= cell.first
        row = cell.first if upward else cell.last
        if here is not None:
            points += _way(cells, here, (number, row), left)
        x = float(points[-1][-1, 0]) if points else None
        points.append(_rows(cells, cell, upward, fill, x))
        left.discard(number)
        here = (number, cell.last if upward else cell.first, float(points[-1][-1, 0]))
    return np.vstack(points), piece


def _rows(cells: Cells, cell: Cell, upward: bool, fill: Fill, x: float | None) -> Points:
    """The stitches of a cell's rows, there and back, from the end that is nearer to x on."""
    numbers = range(cell.first, cell.last + 1)
    found = list[Points]()
    a, b = cell.row(cell.first if upward else cell.last)
    flipped = int(x is not None and abs(x - b) < abs(x - a))
    for step, row in enumerate(numbers if upward else reversed(numbers)):
        a, b = cell.row(row)
        turn, between = divmod(step, fill.every)
        rightward = (turn + flipped) % 2 == 0
        if between:  # along the rim to the next one
            found.append(np.array([[b if rightward else a, cells.y(row)]]))
            continue
        a, b = a - fill.pull, b + fill.pull
        shift = _SHIFTS[row % len(_SHIFTS)] * fill.length
        first = math.ceil((a + _SHORTEST - shift) / fill.length)
        inner = shift + fill.length * np.arange(
            first, math.floor((b - _SHORTEST - shift) / fill.length) + 1
        )
        along = np.concatenate([[a], inner, [b]])
        way = along if rightward else along[::-1]
        found.append(np.column_stack([way, np.full(len(way), cells.y(row))]))
    return np.vstack(found)


def _steps(cells: Cells, begin: set[int], within: set[int]) -> dict[int, int]:
    """Each cell that is got to from some through others, and the one before it on the way."""
    before, ahead = dict.fromkeys(sorted(begin), -1), deque(sorted(begin))
    while ahead:
        number = ahead.popleft()
        cell = cells.cells[number]
        for other in sorted((cell.below | cell.above) & within):
            if other not in before:
                before[other] = number
                ahead.append(other)
    return before


def _farthest(cells: Cells, piece: list[int], first: int) -> int:
    """The cell that is most steps away: there it ends."""
    return list(_steps(cells, {first}, set(piece)))[-1]


def _outermost_first(
    cells: Cells, piece: list[int], first: int, last: int
) -> tuple[list[int], dict[int, int]]:
    """Cells in an order in which those that are not done hang together still, beginning with the
    branch of `first` and ending with `last`, and of each the one towards which it is filled."""
    after = _steps(cells, {last}, set(piece))
    begun, at = set[int](), first
    while at >= 0:
        begun.add(at)
        at = after[at]
    inner = dict[int, list[int]]()
    for number, to in sorted(after.items(), key=lambda each: each[0] not in begun):
        inner.setdefault(to, []).append(number)
    order, ahead = list[int](), [last]
    while ahead:
        number = ahead.pop()
        order.append(number)
        ahead += inner.get(number, [])
    return order[::-1], after


def _way(
    cells: Cells, here: tuple[int, int, float], to: tuple[int, int], left: set[int]
) -> list[Points]:
    """The way from a row's end to where another cell begins, through cells that are not done."""
    number, row, x = here
    cell = cells.cells[number]
    beyond = (cell.above if row == cell.last else set()) | (
        cell.below if row == cell.first else set()
    )
    path = [number, *_path(cells, beyond & left, to[0], left)]
    door = _door(cells, path[0], path[1])
    (a, b), (c, d) = cell.row(row), cells.cells[path[1]].row(door)
    low, high = max(a, c) + _CLEAR, min(b, d) - _CLEAR
    at = min(max(x, low), high) if low < high else (low + high) / 2
    begin = [(at, cells.y(row)), (at, cells.y(door))]  # along its own row, then over
    line = _led(cells, path[1:], door, to[1])
    return [_stitched(np.array([*begin, *line]), _WAY_STITCH)]


def _led(cells: Cells, path: list[int], row: int, to: int) -> list[tuple[float, float]]:
    """Places from a row of the first cell of a path to a row of its last one: along the middle of
    each, and from one to the next where both are."""
    line = list[tuple[float, float]]()
    for k, name in enumerate(path):
        cell, onward = cells.cells[name], path[k + 1 : k + 2]
        leaves = _door(cells, onward[0], name) if onward else to
        step = 1 if leaves >= row else -1
        line += [(cell.middle(each), cells.y(each)) for each in range(row, leaves + step, step)]
        if onward:
            row = _door(cells, name, onward[0])
            (a, b), (c, d) = cell.row(leaves), cells.cells[onward[0]].row(row)
            x = (max(a, c) + min(b, d)) / 2
            line += [(x, cells.y(leaves)), (x, cells.y(row))]
    return line


def _door(cells: Cells, other: int, number: int) -> int:
    """The row of a cell at which it meets another one."""
    cell = cells.cells[number]
    return cell.first if other in cell.below else cell.last


def _path(cells: Cells, begin: set[int], end: int, within: set[int]) -> list[int]:
    """The cells through which a way leads from one of some to another."""
    before = _steps(cells, begin, within)
    path = [end]
    while before[path[-1]] >= 0:
        path.append(before[path[-1]])
    return path[::-1]


def _stitched(line: Points, length: float) -> Points:
    """Places along a line, no farther apart than a stitch; it is led straight where that is nearly
    the same."""
    plain = shapely.get_coordinates(shapely.simplify(shapely.LineString(line), _STRAIGHT))
    found = [plain[:1]]
    for a, b in zip(plain[:-1], plain[1:], strict=True):
        count = max(math.ceil(float(np.hypot(*(b - a))) / length), 1)
        found.append(a + (b - a) * (np.arange(1, count + 1) / count)[:, None])
    return np.vstack(found)


def _underlay(
    area: shapely.Geometry, cells: Cells, piece: list[int], fill: Fill, to: Points
) -> Points:
    """A run inside the rim and sparse rows across, which all that comes after covers."""
    inner = shapely.buffer(area, -_INSET, quad_segs=4)
    across = [
        part
        for part in shapely.get_parts(inner)
        if shapely.area(part) > _LEAST_UNDER
        and _is_of(cells, piece, shapely.point_on_surface(part))
    ]
    found = list[Points]()
    for part in across:
        sparse = Fill(fill.spacing, 90.0, _UNDER_STITCH, 0.0, False, _UNDER_EVERY)
        for ring in (part.exterior, *part.interiors):
            found.append(_stitched(shapely.get_coordinates(ring), _WAY_STITCH))
        found += filled(part, sparse, (float(found[-1][-1, 0]), float(found[-1][-1, 1])))
    if not found:
        return np.zeros((0, 2))
    ways = [found[0]]
    for run in [*found[1:], to[None]]:
        ways += [_inside(cells, piece, ways[-1][-1], run[0]), run]
    return np.vstack(ways[:-1])


def _inside(cells: Cells, piece: list[int], begin: Points, end: Points) -> Points:
    """A way between two places of an area that leads through it."""
    (a, row), (b, to) = _at(cells, piece, begin), _at(cells, piece, end)
    path = _path(cells, {a}, b, set(piece))
    line = _led(cells, path, row, to)
    return _stitched(np.array([tuple(begin), *line, tuple(end)]), _WAY_STITCH)


def _at(cells: Cells, piece: list[int], place: Points) -> tuple[int, int]:
    """The cell and the row nearest to a place."""
    best = (math.inf, piece[0], 0)
    for number in piece:
        cell = cells.cells[number]
        rows = np.arange(cell.first, cell.last + 1)
        left, right = np.array(cell.left), np.array(cell.right)
        dx = np.maximum(np.maximum(left - place[0], place[0] - right), 0.0)
        away = np.hypot(dx, cells.base + rows * cells.spacing - place[1])
        k = int(np.argmin(away))
        best = min(best, (float(away[k]), number, int(rows[k])))
    return best[1], best[2]


def _is_of(cells: Cells, piece: list[int], place: shapely.Point) -> bool:
    number, row = _at(cells, list(range(len(cells.cells))), np.array([place.x, place.y]))
    return number in piece and cells.cells[number].row(row)[0] <= place.x


def evened(run: Points, longest: float) -> Points:
    """Without places that are as good as the one before, and with more of them where stitches would
    be longer than that."""
    keep = np.ones(len(run), dtype=bool)
    keep[1:] = np.hypot(*np.diff(run, axis=0).T) > _TINY
    run = run[keep]
    parts = np.maximum(np.ceil(np.hypot(*np.diff(run, axis=0).T) / longest - 1e-9), 1).astype(int)
    at = np.repeat(np.arange(len(parts)), parts)
    share = (np.arange(parts.sum()) - np.repeat(np.cumsum(parts) - parts, parts) + 1) / parts[at]
    return np.vstack([run[:1], run[at] + share[:, None] * (run[at + 1] - run[at])])


def _turned(area: shapely.Geometry, degrees: float) -> shapely.Geometry:
    return shapely.transform(area, lambda at: _turned_points(at, degrees))


def _turned_points(points: Points, degrees: float) -> Points:
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return np.asarray(points @ np.array([[c, s], [-s, c]]))
