"""A piece of embroidery: areas and lines sewn one after the other, tied at their ends, with jumps
and trims between."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import shapely

from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.job.colour_words import colour_word
from draxet.make.stitching.satin_columns import Column, led_across
from draxet.make.stitching.satin_corners import cornered
from draxet.make.stitching.satin_stitches import satin
from draxet.make.stitching.stitch_fill import Fill, Place
from draxet.make.stitching.stitch_manner import sewn_area
from draxet.progress import Progress, Unwatched
from draxet.record import record

__all__ = ["Sewn", "StitchBlock", "StitchPlan", "lines_of_contours", "sewn"]

_TIE, _ROUND, _FINE, _MITRE = 0.7, 0.1, 0.02, 2.5
_BEND = 0.1
"""mm that a stitch may cut a bend short."""
_TRIM_OVER = 2.0
_A_MINUTE, _TRIM_S, _COLOUR_S = 700.0, 6.0, 15.0


@record(frozen=True, eq=False)
class Sewn:
    """What is to be sewn: an area, or a line, in a colour (#rrggbb), that of a `thread` by name where
    there is one; at which places (mm) it begins and ends, where that is said. leads : pairs of places
    between which satin is led across. column : what is sewn instead of those that the shape has."""

    name: str
    colour: str
    shape: shapely.Geometry
    fill: Fill = Fill()
    start: Place = None
    end: Place = None
    thread: str = ""
    leads: tuple[tuple[Points, Points], ...] = ()
    column: Column | None = None

    @property
    def is_area(self) -> bool:
        return bool(shapely.area(self.shape) > 0)


@record(frozen=True, eq=False)
class StitchBlock:
    """What is sewn of a thing without a jump: needle points (n, 2) in mm, in its colour; `of` is the
    number of the thing."""

    of: int
    colour: str
    points: Points


@record(frozen=True, eq=False)
class StitchPlan:
    """Blocks in the order in which they are sewn."""

    things: tuple[Sewn, ...]
    blocks: tuple[StitchBlock, ...]

    def __len__(self) -> int:
        """How many stitches there are."""
        return sum(len(block.points) for block in self.blocks)

    @property
    def colours(self) -> list[str]:
        """The threads in their order; one again where it comes again."""
        found = list[str]()
        for block in self.blocks:
            if not found or found[-1] != block.colour:
                found.append(block.colour)
        return found

    @property
    def thread_names(self) -> list[str]:
        """What the threads are called, in the same order."""
        names = {thing.colour: thing.thread for thing in self.things if thing.thread}
        return [names.get(colour) or colour_word(colour) for colour in self.colours]

    @property
    def gaps(self) -> list[float]:
        """How far it is from each block to the next, in mm; no number where the thread changes."""
        return [
            math.dist(a.points[-1], b.points[0]) if a.colour == b.colour else math.nan
            for a, b in zip(self.blocks, self.blocks[1:], strict=False)
        ]

    @property
    def trims(self) -> int:
        """How often the thread is cut, changes aside."""
        return sum(gap > _TRIM_OVER for gap in self.gaps)

    @property
    def jumps(self) -> int:
        return sum(0 < gap <= _TRIM_OVER for gap in self.gaps)

    @property
    def thread_mm(self) -> float:
        return float(sum(np.hypot(*np.diff(block.points, axis=0).T).sum() for block in self.blocks))

    @property
    def seconds(self) -> float:
        changes = max(len(self.colours) - 1, 0)
        return len(self) / _A_MINUTE * 60 + _TRIM_S * self.trims + _COLOUR_S * changes

    @property
    def box(self) -> tuple[float, float, float, float]:
        points = np.vstack([block.points for block in self.blocks])
        (x0, y0), (x1, y1) = points.min(axis=0).tolist(), points.max(axis=0).tolist()
        return x0, y0, x1, y1


def sewn(things: Sequence[Sewn], report: Progress = Unwatched()) -> StitchPlan:
    """How things are sewn, in their order.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    blocks = list[StitchBlock]()
    for number, thing in enumerate(things):
        report(number / len(things), f"sewing {thing.name}")
        here = thing.start or (tuple(blocks[-1].points[-1].tolist()) if blocks else None)
        if thing.is_area:
            over = thing.fill.overlap
            broader = shapely.buffer(thing.shape, over, join_style="mitre", mitre_limit=_MITRE)
            fill = replace(thing.fill, pull=max(thing.fill.pull - over, 0.0))
            onward = thing.end or _onward(things, number)
            runs = (
                satin(
                    thing.shape,
                    thing.fill,
                    here,
                    onward,
                    [
                        led_across(column, thing.leads)
                        for column in cornered([thing.column], thing.shape, fill.corners)
                    ],
                )
                if thing.column is not None
                else sewn_area(broader, fill, here, onward, thing.leads)
            )
        else:
            runs = [_run(line, thing.fill) for line in _in_turn(thing, here)]
        for run in runs:
            points = _rounded(_tied(run)) if len(run) > 1 else run[:0]
            if len(points) > 1:  # what is smaller than the needle's step is none
                blocks.append(StitchBlock(number, thing.colour, points))
    return StitchPlan(tuple(things), tuple(blocks))


def _onward(things: Sequence[Sewn], number: int) -> Place:
    """Where the way on is shortest: the place of a thing that is nearest to the next one, as long as
    the thread stays the same."""
    thing, after = things[number], things[number + 1] if number + 1 < len(things) else None
    if after is None or after.colour != thing.colour:
        return None
    to = after.shape if after.start is None else shapely.Point(after.start)
    line = shapely.shortest_line(thing.shape, to)
    (x, y), *_ = shapely.get_coordinates(line).tolist()
    return x, y


def _in_turn(thing: Sewn, here: Place) -> list[Any]:
    """The lines of a thing, the nearest first; each begins at its nearer end, a closed one at its
    nearest place."""
    left, found = list(shapely.get_parts(thing.shape)), list[Any]()
    while left:
        at = None if here is None else shapely.Point(here)
        line = (
            left[0] if at is None else min(left, key=lambda each: float(shapely.distance(each, at)))
        )
        left = [each for each in left if each is not line]
        found.append(line if at is None else _begun(line, at))
        (x, y) = shapely.get_coordinates(found[-1])[-1].tolist()
        here = (x, y)
    return found


def _begun(line: Any, at: shapely.Geometry) -> Any:
    points = shapely.get_coordinates(line)
    if not shapely.is_closed(line):
        away = [float(shapely.distance(shapely.Point(points[k]), at)) for k in (0, -1)]
        return line if away[0] <= away[1] else shapely.reverse(line)
    long = float(shapely.line_locate_point(line, at))
    if not 0 < long < shapely.length(line):
        return line
    first = int(np.searchsorted(np.cumsum(np.hypot(*np.diff(points, axis=0).T)), long)) + 1
    place = shapely.get_coordinates(shapely.line_interpolate_point(line, long))
    return shapely.LineString(np.vstack([place, points[first:-1], points[:first], place]))


def lines_of_contours(contours: Sequence[Contour]) -> shapely.Geometry:
    """Contours as lines that can be sewn; closed ones come back to where they begin."""
    points = [each.flattened(_FINE) for each in contours]
    return shapely.multilinestrings(
        [
            shapely.LineString(np.vstack([line, line[:1]]) if each.closed else line)
            for each, line in zip(contours, points, strict=True)
        ]
    )


def _run(line: shapely.Geometry, fill: Fill) -> Points:
    """Stitches along a line, shorter where it bends, as often as it is told."""
    plain = shapely.get_coordinates(shapely.simplify(line, _BEND / 2))
    found = [plain[:1]]
    for a, b in zip(plain[:-1], plain[1:], strict=True):
        count = max(math.ceil(float(np.hypot(*(b - a))) / fill.line_stitch), 1)
        found.append(a + (b - a) * (np.arange(1, count + 1) / count)[:, None])
    once = np.vstack(found)
    if fill.times == 2:
        return np.vstack([once, once[-2::-1]])
    if fill.times == 3:  # each stitch forth, back and forth again
        thrice = np.stack([once[1:], once[:-1], once[1:]], axis=1).reshape(-1, 2)
        return np.vstack([once[:1], thrice])
    return once


def _tied(run: Points) -> Points:
    """A run with small stitches there and back at both of its ends, which hold the thread."""
    head, tail = (_tie(run[:2]), _tie(run[:-3:-1])[::-1])
    return np.vstack([head, run, tail])


def _tie(two: Points) -> Points:
    way = two[1] - two[0]
    step = way / max(float(np.hypot(*way)), 1e-9) * min(_TIE, float(np.hypot(*way)))
    return np.array([two[0], two[0] + step, two[0], two[0] + step])


def _rounded(points: Points) -> Points:
    """Needle points as files count them, so that nothing creeps; one for those that are the same."""
    points = np.round(points / _ROUND) * _ROUND
    keep = np.ones(len(points), dtype=bool)
    keep[1:] = np.hypot(*np.diff(points, axis=0).T) > _ROUND / 2
    return points[keep]
