"""From operations to a program: every line that is worked, in an order that keeps parts in their
place until they are finished and travels little.

In each part what does not part it goes first (drawn, engraved, scored, drilled, pocketed), then
what is cut, inner before outer; within that the shortest way is looked for, and on each closed line
the place where it begins.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from draxet.geometry.contour import areas_of, boxes_of
from draxet.job.cut_middles import middles_of_many
from draxet.job.machine_kinds import Machine
from draxet.job.operations import Operation, Toolpath
from draxet.job.program import Program
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.job.work import cut_work
from draxet.make.program_moves import moves_along
from draxet.make.work_begun import begun_well
from draxet.make.work_blocks import WorkBlock, blocks_of, ends_of, phases_of, stretches_of
from draxet.make.work_order import ordered_blocks, ordered_by_hand
from draxet.progress import Progress, Unwatched

__all__ = ["lines_of", "program_of"]


def lines_of(
    job: Job, sheet: Sheet, machine: Machine, report: Progress = Unwatched()
) -> list[tuple[Operation, list[Toolpath]]]:
    """What each operation works on a sheet with a machine; cuts as bridges and shared edges leave
    them."""
    found = []
    report(0.0, "working out the cuts")
    cuts = cut_work(job)
    for number, operation in enumerate(job.operations):
        report(0.4 * number / len(job.operations), f"working out {operation.name}")
        here, operation = job.worked_on(operation, sheet), operation.on(machine.traits)
        if not here:
            continue
        if operation.through:
            some = {name for name, _ in here}
            mine = [
                work for work in cuts if work.operation.id == operation.id and some & set(work.ids)
            ]
            middles = middles_of_many(
                [work.contour for work in mine], [work.side for work in mine], operation.width
            )
            boxes_of([work.contour for work in mine])  # each knows its own now, and its area
            areas_of([middle for some in middles for middle in some])
            lines = [
                path
                for work, known in zip(mine, middles, strict=True)
                for path in operation.along(
                    work.contour, work.side, work.ids, sheet.thickness, known
                )
            ]
        else:
            lines = operation.paths(here, sheet.thickness)
        found.append((operation, lines))
    return found


def program_of(job: Job, sheet: Sheet, machine: Machine, report: Progress = Unwatched()) -> Program:
    """The program of a sheet on a machine, counted from the sheet's origin; without moves where
    nothing is worked there.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    work = lines_of(job, sheet, machine, report)
    blocks = blocks_of(job, work)
    start = np.zeros(2)
    origin = np.array(sheet.origin_place)
    operations = [operation for operation, _ in work]
    order, at = list[WorkBlock](), start + origin
    for stop, stretch in stretches_of(blocks, operations):
        mine = list[WorkBlock]()
        for phase in phases_of(stretch, machine):
            mine += ordered_blocks(phase, at, report)
            at = ends_of(mine[-1])[1]
        mine = ordered_by_hand(mine, job.orders)
        order += [replace(mine[0], stop=stop), *mine[1:]]
        at = ends_of(order[-1])[1]
    order = begun_well(order, start + origin, report)
    return moves_along(order, operations, machine, origin, report)
