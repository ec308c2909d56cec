"""What a stitcher makes of a sheet: needle points, thread by thread."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from draxet.geometry.affine import Affine
from draxet.geometry.arc_length import ArcLength
from draxet.geometry.arrays import Floats, Points
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import area_of
from draxet.job.coloured_areas import outlines_with_holes
from draxet.job.findings import count_words
from draxet.job.machine_kinds import Machine
from draxet.job.operations import Operation
from draxet.job.records import Job
from draxet.job.sewing_threads import nearest_thread
from draxet.job.sheet_records import Sheet
from draxet.make.stitching.satin_columns import Column, column_between
from draxet.make.stitching.stitch_fill import Fill, Place
from draxet.make.stitching.stitch_manner import broadest_column, rim_of
from draxet.make.stitching.stitch_plan import Sewn, StitchPlan, lines_of_contours, sewn
from draxet.progress import Progress, Unwatched
from draxet.record import record

__all__ = ["BROAD_LINE", "INK", "StitchedSheet", "stitched_sheet"]

BROAD_LINE = 0.8
"""mm: so broad a line is sewn in satin."""
_GRID, _FINE = 0.2, 0.01
"""mm: by that a stitch may become longer by the file's grid."""
_ON = 0.05
"""mm² or mm: so much of one must lie on another for their order to count."""
INK = "#000000"
"""The thread of what has no colour."""


@record(frozen=True, eq=False)
class StitchedSheet:
    """A plan that counts from the sheet's origin, and of each thing that is sewn the ids of its
    contours."""

    on: Machine
    plan: StitchPlan
    ids: tuple[tuple[str, ...], ...]

    product = "stitches"

    def __len__(self) -> int:
        return len(self.plan)

    @property
    def machine(self) -> Machine:
        return self.on

    @property
    def box(self) -> tuple[float, float, float, float]:
        return self.plan.box if self.plan.blocks else (0.0, 0.0, 0.0, 0.0)

    @property
    def cut_mm(self) -> float:
        return self.plan.thread_mm

    @property
    def travel_mm(self) -> float:
        gaps = np.array(self.plan.gaps)
        return float(np.nansum(gaps)) if len(gaps) else 0.0

    def breadths_of_satin(self) -> list[tuple[float, tuple[str, ...]]]:
        """How broad what is told to be satin is, in mm, with the ids of its contours."""
        return [
            (broadest_column(thing.shape), ids)
            for thing, ids in zip(self.plan.things, self.ids, strict=True)
            if thing.is_area and thing.column is None and thing.fill.manner == "satin"
        ]

    @property
    def told(self) -> str:
        stitches, threads = f"{len(self):,}".replace(",", " "), len(self.plan.colours)
        said = f"{stitches} stitches · {count_words(threads, 'thread')}"
        return f"{said} · {count_words(self.plan.trims, 'trim')}" if len(self) else ""

    @property
    def seconds(self) -> float:
        machine: Any = self.on
        changes = max(len(self.plan.colours) - 1, 0)
        return float(
            len(self) / machine.a_minute * 60
            + machine.trim * self.plan.trims
            + machine.change * changes
        )


def stitched_sheet(
    job: Job, sheet: Sheet, machine: Machine, report: Progress = Unwatched()
) -> StitchedSheet:
    """What is sewn on a sheet: areas and lines as they lie on each other.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    back = Affine.moved(-sheet.origin_place[0], -sheet.origin_place[1])
    heights = {item.id: k for k, item in enumerate(job.contours)}
    found = list[tuple[int, Sewn, tuple[str, ...]]]()
    for operation in job.operations:
        if machine.can_do(operation):
            for some in _groups(job, operation, sheet):
                placed = [(name, contour.transformed(back)) for name, contour in some]
                if thing := _thing(job, operation, machine, placed):
                    ids = tuple(name for name, _ in some)
                    found.append((min(heights.get(name, 0) for name in ids), thing, ids))
    found.sort(key=lambda each: each[0])
    names = [each for _, _, each in found]
    number = {name: k for k, some in enumerate(names) for name in some}
    orders = [each.contours for each in job.orders] + _words_read(job)
    by_hand = [list(dict.fromkeys(number[n] for n in each if n in number)) for each in orders]
    order = _order([thing for _, thing, _ in found], by_hand)
    plan = sewn([found[k][1] for k in order], report)
    return StitchedSheet(machine, plan, tuple(names[k] for k in order))


def _words_read(job: Job) -> list[tuple[str, ...]]:
    """Of each lettering its contours, as it is read."""
    return [
        tuple(item.id for item in job.contours if item.part == words.part)
        for words in job.letterings
    ]


_Named = tuple[str, Contour]


def _groups(job: Job, operation: Operation, sheet: Sheet) -> list[list[_Named]]:
    """Contours that an operation sews as one: an area's outline with its holes, each line by
    itself."""
    settings: Any = operation
    some = list(job.worked_on(operation, sheet))
    if settings.way == "between":
        kinds = [[each for each in some if each[1].closed is closed] for closed in (True, False)]
        return [of[k : k + 2] for of in kinds for k in range(0, len(of), 2)]
    if not settings.sews_areas:
        return [[each] for each in some]
    closed = [each for each in some if each[1].closed]
    colours = [job.contour_by_id[name].colour for name, _ in closed]
    areas = outlines_with_holes([contour for _, contour in closed], colours)
    lines = [[each] for each in some if not each[1].closed]
    return [[closed[k] for k in area] for area in areas] + lines


def _thing(job: Job, operation: Operation, machine: Machine, some: Sequence[_Named]) -> Sewn | None:
    """What is sewn of contours; None where that is nothing."""
    settings: Any = operation
    stitcher: Any = machine
    item = job.contour_by_id[some[0][0]]
    shape, column = _shape(settings, item.line, [contour for _, contour in some])
    if shapely.is_empty(shape):
        return None
    is_area = bool(shapely.area(shape) > 0)
    as_told = is_area and settings.sews_areas and some[0][1].closed
    fill = Fill(
        settings.spacing,
        settings.angle,
        settings.length,
        settings.pull,
        settings.underlay,
        line_stitch=settings.line_stitch,
        times=settings.times,
        overlap=settings.overlap if as_told else 0.0,
        split=stitcher.longest - _GRID,
        manner=settings.way if as_told else "satin",
        satin=settings.satin,
        corners=settings.corners,
    )
    start, end = (_spot(operation, some, what) for what in ("start", "end"))
    thread = nearest_thread(job.every_thread, item.colour or INK)
    words = f"{thread.name} {'area' if is_area else 'line'}"
    leads = _leads(operation, some)
    return Sewn(words, thread.colour, shape, fill, start, end, thread.name, leads, column)


def _shape(
    settings: Any, line: float, contours: Sequence[Contour]
) -> tuple[shapely.Geometry, Column | None]:
    """What is sewn of contours, of which open ones are drawn as broad as a `line`: an area or lines; and
    the column that it is where that is told."""
    first = contours[0]
    if settings.way == "between" and len(contours) == 2:
        one, other = (each.flattened(_FINE) for each in contours)
        column = column_between(one, other, closed=first.closed)
        return column.shape, column
    if settings.sews_areas and first.closed:
        return area_of(contours), None
    lines = lines_of_contours(contours)
    if settings.way == "border":
        return rim_of(lines, settings.border, mitred=settings.mitred), None
    if settings.way in ("suited", "satin") and line >= BROAD_LINE:
        return rim_of(lines, line), None
    return lines, None


def _leads(operation: Operation, some: Sequence[_Named]) -> tuple[tuple[Points, Points], ...]:
    """The pairs of places on contours between which satin is led across."""
    contours, found = dict(some), dict[int, list[Points]]()
    for spot in operation.spots:
        if spot.what == "across" and spot.contour in contours:
            measured = ArcLength(contours[spot.contour])
            found.setdefault(spot.pair, []).append(measured.place(spot.share * measured.length))
    return tuple((pair[0], pair[1]) for pair in found.values() if len(pair) == 2)


def _spot(operation: Operation, some: Sequence[_Named], what: str) -> Place:
    """Where it was said that sewing begins or ends."""
    contours = dict(some)
    spot = next((s for s in operation.spots if s.what == what and s.contour in contours), None)
    if spot is None:
        return None
    measured = ArcLength(contours[spot.contour])
    x, y = measured.place(spot.share * measured.length).tolist()
    return float(x), float(y)


def _order(things: Sequence[Sewn], by_hand: Sequence[Sequence[int]]) -> list[int]:
    """In which order things are sewn, as they are given from the lowest up: what was put in order by
    hand, what lies under others before them; as long as it may be with one thread, from each to the nearest, and
    where that is another one, areas before lines, light before dark, large before small."""
    after = _what_is_under(things)
    for some in by_hand:
        for k, first in enumerate(some):
            for second in some[k + 1 :]:
                if first != second:
                    after[second].add(first)
                    after[first].discard(second)
    then = dict[int, list[int]]((k, []) for k in after)
    for k, firsts in after.items():
        for first in firsts:
            then[first].append(k)
    boxes = shapely.bounds([thing.shape for thing in things]) if things else np.zeros((0, 4))
    found, left, thread = list[int](), set(range(len(things))), ""
    while left:
        free = [k for k in left if not after[k]] or sorted(left)  # orders may go in a ring
        mine = [k for k in free if things[k].colour == thread]
        if not mine:
            thread = things[_next_thread(things, after, left, free)].colour
            mine = [k for k in free if things[k].colour == thread]
        last = found[-1] if found and things[found[-1]].colour == thread else None
        away = _between(boxes, last, mine)
        found.append(
            min(mine, key=lambda k: (_rank(things[k], k)[0], away[k], _rank(things[k], k)))
        )
        left.discard(found[-1])
        for k in then[found[-1]]:
            after[k].discard(found[-1])
    return found


def _between(boxes: Floats, one: int | None, others: Sequence[int]) -> dict[int, float]:
    """How far the boxes of some things are from that of one, in mm; nothing where there is none."""
    if one is None:
        return dict.fromkeys(others, 0.0)
    low, high = boxes[others][:, :2] - boxes[one, 2:], boxes[one, :2] - boxes[others][:, 2:]
    away = np.hypot(*np.maximum(np.maximum(low, high), 0.0).T)
    return dict(zip(others, away.tolist(), strict=True))


def _next_thread(
    things: Sequence[Sewn], after: dict[int, set[int]], left: set[int], free: Sequence[int]
) -> int:
    """The thing with which to take another thread: rather one whose thread is then done with."""

    def comes_again(k: int) -> bool:
        colour, rest = things[k].colour, set(left)
        while now := [n for n in rest if things[n].colour == colour and not after[n] & rest]:
            rest -= set(now)
        return any(things[n].colour == colour for n in rest)

    return min(free, key=lambda k: (comes_again(k), _rank(things[k], k)))


def _what_is_under(things: Sequence[Sewn]) -> dict[int, set[int]]:
    """Of each thing those that lie under it."""
    shapes = [thing.shape for thing in things]
    tree = shapely.STRtree(shapes)
    found = dict[int, set[int]]((k, set()) for k in range(len(things)))
    for k, shape in enumerate(shapes):
        for other in tree.query(shape, predicate="intersects").tolist():
            if other < k and _covers(shapes[k], shapes[other]):
                found[k].add(other)
    return found


def _covers(shape: shapely.Geometry, other: shapely.Geometry) -> bool:
    """Whether one lies on another, and not beside it alone."""
    common = shapely.intersection(shape, other)
    return bool(
        shapely.area(common) > _ON or (shapely.area(shape) == 0 and shapely.length(common) > _ON)
    )


def _rank(thing: Sewn, number: int) -> tuple[bool, float, float, int]:
    r, g, b = (int(thing.colour[k : k + 2], 16) for k in (1, 3, 5))
    light = 0.3 * r + 0.59 * g + 0.11 * b
    return not thing.is_area, -round(light), -float(shapely.area(thing.shape)), number
