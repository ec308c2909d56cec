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
        for (colour, own), some in groups.items():
            contours = [contour for _, contour in some]
            shape = lines_of_contours(contours) if own else area_of(contours)
            if not shapely.is_empty(shape):
                word = "line" if own else "area"
                things.append(Sewn(f"{colour_word(colour)} {word}", colour, shape, fill))
                ids.append(tuple(name for name, _ in some))
    return StitchedSheet(machine, sewn(things, report), tuple(ids))
