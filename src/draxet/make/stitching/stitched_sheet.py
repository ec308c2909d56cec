"""What a stitcher makes of a sheet: needle points, thread by thread."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import area_of
from draxet.job.colour_words import colour_word
from draxet.job.machine_kinds import Machine
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.make.stitching.stitch_fill import Fill
from draxet.make.stitching.stitch_plan import Sewn, StitchPlan, lines_of_contours, sewn
from draxet.progress import Progress, Unwatched
from draxet.record import record

__all__ = ["INK", "StitchedSheet", "stitched_sheet"]

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
    """What is sewn on a sheet, operation by operation; in each by the colours of its contours, as
    they lie on each other.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    back = Affine.moved(-sheet.origin_place[0], -sheet.origin_place[1])
    things, ids = list[Sewn](), list[tuple[str, ...]]()
    for operation in job.operations:
        if not machine.can_do(operation):
            continue
        settings: Any = operation
        fill = Fill(
            settings.spacing, settings.angle, settings.length, settings.pull, settings.underlay
        )
        groups = dict[tuple[str, str], list[tuple[str, Contour]]]()
        for name, contour in job.worked_on(operation, sheet):
            colour = job.contour_by_id[name].colour or INK
            own = "" if contour.closed and settings.way == "fill" else name
            groups.setdefault((colour, own), []).append((name, contour.transformed(back)))
        here = list[tuple[Sewn, tuple[str, ...]]]()
        for (colour, own), some in groups.items():
            contours = [contour for _, contour in some]
            shape = lines_of_contours(contours) if own else area_of(contours)
            if not shapely.is_empty(shape):
                word = "line" if own else "area"
                thing = Sewn(f"{colour_word(colour)} {word}", colour, shape, fill)
                here.append((thing, tuple(name for name, _ in some)))
        for k in _order([thing for thing, _ in here]):
            things.append(here[k][0])
            ids.append(here[k][1])
    return StitchedSheet(machine, sewn(things, report), tuple(ids))


def _order(things: list[Sewn]) -> list[int]:
    """In which order things are sewn: what lies under others before them, and where nothing does,
    areas before lines, light before dark, large before small."""
    shapes = [thing.shape for thing in things]
    tree = shapely.STRtree(shapes)
    over = dict[int, set[int]]((k, set()) for k in range(len(things)))
    for k, shape in enumerate(shapes):
        for other in tree.query(shape, predicate="intersects").tolist():
            if other < k and _covers(shapes[k], shapes[other]):
                over[k].add(other)
    found, left = list[int](), set(over)
    while left:
        free = [k for k in left if not over[k] & left]
        found.append(min(free, key=lambda k: _rank(things[k], k)))
        left.discard(found[-1])
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
