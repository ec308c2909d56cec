"""What a saw that is led by hand goes by: a pattern on paper at true size."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from draxet.formats.drawn_marks import Line, Words
from draxet.formats.layer import Layer
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import nesting_depths, polygons_of
from draxet.geometry.spans import ARC, LINE
from draxet.job.machine_kinds import Machine
from draxet.job.operations import Side
from draxet.job.program import Program
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.make.program_making import program_of
from draxet.progress import Progress, Unwatched
from draxet.record import record

__all__ = ["SawPattern", "saw_pattern"]

_FINE = 0.01
_BLADE, _HOLE, _EDGE = "#D2D2D2", "#6E6E6E", "#000000"
_THIN = 0.25
_LETTERS, _BESIDE = 4.0, 1.5
"""mm: how high numbers are, and how far beside what they number."""
_ROOM = 0.3
"""mm that stay between a pilot hole and the blade's way."""

Place = tuple[float, float]


@record(frozen=True)
class SawPattern:
    """Layers counted from the sheet's lower left: the blade's ways, what is sawn, and numbers with
    pilot holes. order : the cuts one after the other; holes : of each pilot hole its middle and diameter; tight : ids of
    openings too small for any hole that lets the blade through, and of slits that begin nowhere."""

    order: Program
    layers: tuple[Layer, ...]
    holes: tuple[tuple[Place, float], ...]
    tight: tuple[str, ...]

    product = "pattern"

    def __len__(self) -> int:
        return len(self.order)

    @property
    def machine(self) -> Machine:
        return self.order.machine

    @property
    def cuts(self) -> int:
        """How many there are."""
        return len(self.order.ids)

    @property
    def box(self) -> tuple[float, float, float, float]:
        return self.order.box

    @property
    def cut_mm(self) -> float:
        return self.order.cut_mm

    @property
    def travel_mm(self) -> float:
        return self.order.travel_mm

    @property
    def told(self) -> str:
        return ""

    @property
    def seconds(self) -> float:
        return self.order.seconds


def saw_pattern(
    job: Job, sheet: Sheet, machine: Machine, report: Progress = Unwatched()
) -> SawPattern:
    """The pattern of what is sawn, cut by cut in the order of a program; `job` is the side of the
    sheet that is seen.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    program, there = program_of(job, sheet, machine, report), Affine.moved(-sheet.x, -sheet.y)
    ways = [_way(program, k).transformed(_from_program(sheet)) for k in range(len(program.ids))]
    names = list(dict.fromkeys(name for ids in program.ids for name in ids))
    contours = [job.shape_of(name).transformed(there) for name in names]
    shapes = dict(zip(names, contours, strict=True))
    waste, stays = _waste(job, sheet, shapes), _stays(shapes)
    blades = [Line(way, machine.cut_width, _BLADE) for way in ways]
    notes, holes, tight = list[Any](), list[tuple[Place, float]](), list[str]()
    for number, (way, ids) in enumerate(zip(ways, program.ids, strict=True), 1):
        begin = (float(way.nodes[0, 0]), float(way.nodes[0, 1]))
        inside = next((waste[name] for name in ids if name in waste), None)
        hole = None if inside is None else _hole(inside, begin, machine.pilot, machine.cut_width)
        if hole is None and (inside is not None or _is_closed_in(way, stays, machine.cut_width)):
            tight += ids
        if hole is None:
            at = _beside(begin, [contours[names.index(name)] for name in ids])
        else:
            holes.append(hole)
            notes += _hole_marks(*hole)
            at = _in_waste(str(number), begin, hole, inside)
        notes.append(Words(str(number), at, _LETTERS))
    layers = (
        Layer("Blade", tuple(blades)),
        Layer("Sawn", tuple(Line(each, _THIN, _EDGE) for each in contours)),
        Layer("Numbers", tuple(notes)),
    )
    return SawPattern(program, layers, tuple(holes), tuple(tight))


def _from_program(sheet: Sheet) -> Affine:
    x, y = sheet.origin_place
    return Affine.moved(x - sheet.x, y - sheet.y)


def _way(program: Program, path: int) -> Contour:
    """The blade's way along a line of a program."""
    some = np.flatnonzero(program.path == path)
    nodes = np.vstack([program.beginnings[some[:1]], program.to[some]])
    turns = program.turn[some]
    closed = math.dist(nodes[0], nodes[-1]) < 1e-6
    return Contour.make(
        nodes[:-1] if closed else nodes,
        [ARC if turn else LINE for turn in turns.tolist()],
        np.tan(turns / 4).tolist(),
        closed=closed,
    )


def _waste(job: Job, sheet: Sheet, contours: dict[str, Contour]) -> dict[str, Any]:
    """Of each opening that is sawn what falls out of it, as areas, by its id."""
    closed = [name for name, contour in contours.items() if contour.closed]
    if not closed:
        return {}
    depths = dict(zip(closed, nesting_depths([contours[k] for k in closed]).tolist(), strict=True))
    areas = dict(zip(closed, polygons_of([contours[k] for k in closed], _FINE), strict=True))
    found = {}
    for operation in job.operations:
        if not operation.through:
            continue
        for name, _ in job.worked_on(operation, sheet):
            opens = operation.side is Side.INSIDE or (
                operation.side is Side.ON and depths.get(name, 0) % 2 == 1
            )
            if name in areas and opens:
                within = [
                    areas[other]
                    for other in closed
                    if depths[other] > depths[name] and areas[name].contains(areas[other])
                ]
                found[name] = areas[name].difference(shapely.union_all(within))
    return found


def _stays(contours: dict[str, Contour]) -> Any:
    """What is inside the outermost contours and in no opening, as an area."""
    closed = [contour for contour in contours.values() if contour.closed]
    found = shapely.Polygon()
    for area in polygons_of(closed, _FINE) if closed else ():
        found = found.symmetric_difference(area)
    return found


def _is_closed_in(way: Contour, stays: Any, blade: float) -> bool:
    """Whether both ends of a slit lie where nothing leads to them."""
    if way.closed or stays.is_empty:
        return False
    room = stays.buffer(-blade / 2)
    return bool(all(room.contains(shapely.Point(end)) for end in (way.nodes[0], way.nodes[-1])))


def _hole(waste: Any, begin: Place, pilot: float, blade: float) -> tuple[Place, float] | None:
    """The middle and the diameter of a hole in the waste, near where the blade begins: as large as
    is asked for, smaller where there is no room, none where the blade would not go through."""
    room = waste.buffer(-(pilot / 2 + _ROOM))
    if not room.is_empty:
        x, y = shapely.shortest_line(room, shapely.Point(begin)).coords[0]
        return (x, y), pilot
    widest = shapely.maximum_inscribed_circle(waste)
    (x, y), wide = widest.coords[0], 2 * (widest.length - _ROOM)
    return ((x, y), wide) if wide >= 1.2 * blade else None


def _hole_marks(at: Place, wide: float) -> list[Any]:
    (x, y), arm = at, wide / 2 + 1.0
    lines = [
        Contour.make([(x - arm, y), (x + arm, y)], closed=False),
        Contour.make([(x, y - arm), (x, y + arm)], closed=False),
        Contour.circle(x, y, wide / 2),
    ]
    return [Line(line, _THIN, _HOLE) for line in lines]


def _in_waste(words: str, begin: Place, hole: tuple[Place, float], waste: Any) -> Place:
    """Where a number stands beside its pilot hole: within the waste, away from the cut's begin where
    there is room, else beside the opening."""
    (x, y), wide = hole
    away = math.atan2(y - begin[1], x - begin[0])
    long, far = 0.6 * _LETTERS * len(words), wide / 2 + _BESIDE
    for turn in (0.0, 0.5, -0.5, 1.0):
        across, up = math.cos(away + turn * math.pi), math.sin(away + turn * math.pi)
        left = x + across * (far + long / 2) - long / 2
        low = y + up * (far + _LETTERS / 2) - _LETTERS / 2
        if waste.contains(shapely.box(left, low, left + long, low + _LETTERS)):
            return left, low
    _, low, right, high = waste.bounds
    return right + _BESIDE, (low + high - _LETTERS) / 2


def _beside(begin: Place, contours: Sequence[Contour]) -> Place:
    """Where a number stands beside the begin of a cut: away from what stays."""
    points = np.vstack([contour.flattened(_FINE) for contour in contours])
    near = points[np.hypot(*(points - begin).T).argmin()]
    away = np.array(begin) - near
    far = float(np.hypot(*away))
    way = away / far if far > 1e-6 else np.array([0.7, 0.7])
    x, y = np.array(begin) + (_BESIDE + _LETTERS / 2) * way
    return float(x) - _LETTERS / 3, float(y) - _LETTERS / 2
