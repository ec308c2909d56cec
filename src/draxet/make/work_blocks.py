"""The lines of a sheet gathered in blocks: of one part and one operation, in the phases in which
they are worked."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely

from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour, places_on
from draxet.geometry.nesting import nesting_depths, polygons_of
from draxet.job.machine_kinds import Machine
from draxet.job.operations import Operation, Toolpath
from draxet.job.records import Job
from draxet.record import record

__all__ = ["EVERY", "FINE", "WorkBlock", "blocks_of", "ends_of", "phases_of", "stretches_of"]


FINE = 0.01
"""mm within which outlines are led along straight steps."""
EVERY = 100
"""So many steps of work lie between two looks at whether it is still wanted."""


@record(frozen=True, eq=False)
class WorkBlock:
    """Lines that are worked one after the other, as they are: what they belong to, and where one
    comes in and goes out."""

    operation: int
    lines: tuple[Toolpath, ...]
    rank: tuple[int, int, int, int]
    """Lower ones of a part go first."""
    part: int
    stop: str = ""
    """What is to be done at a stop before it."""

    @property
    def is_closed(self) -> bool:
        return len(self.lines) == 1 and self.lines[0].line.closed


def blocks_of(job: Job, work: Sequence[tuple[Operation, list[Toolpath]]]) -> list[WorkBlock]:
    names = list(dict.fromkeys(name for _, lines in work for path in lines for name in path.ids))
    contours = [job.shape_of(name) for name in names]
    depths = _depths(names, contours)
    part_of = _parts(names, contours, depths)
    blocks = []
    for number, (operation, lines) in enumerate(work):
        alone = [(path,) for path in lines if not path.batch]
        batches: dict[int, list[Toolpath]] = {}
        for path in lines:
            if path.batch:
                batches.setdefault(path.batch, []).append(path)
        for group in (*alone, *(tuple(batch) for batch in batches.values())):
            ids, first = group[0].ids, group[0]
            deepest = max((depths.get(name, 0) for name in ids), default=0)
            if (
                not first.line.closed and first.whole is None
            ):  # a slit, or an edge that parts share, before what comes loose by it
                deepest += 1
            blocks.append(
                WorkBlock(
                    number,
                    group,
                    (operation.rank, -deepest if operation.through else 0, number, first.step),
                    min((part_of[name] for name in ids), default=0),
                )
            )
    return _with_joined_parts(blocks, part_of)


def _depths(names: Sequence[str], contours: Sequence[Contour]) -> dict[str, int]:
    """How many closed contours lie round each one; round the middle of an open one."""
    if not names:
        return {}
    found = nesting_depths(contours)
    opened, closed = np.flatnonzero(found < 0), np.flatnonzero(found >= 0)
    if len(opened):
        middles = places_on([contours[k] for k in opened.tolist()])
        found[opened] = 0
        if len(closed):
            _, inside = shapely.STRtree(np.atleast_1d(np.asarray(shapely.points(middles)))).query(
                polygons_of([contours[k] for k in closed.tolist()], FINE), predicate="contains"
            )
            found[opened] = np.bincount(inside, minlength=len(opened))
    return dict(zip(names, found.tolist(), strict=True))


def _with_joined_parts(blocks: Sequence[WorkBlock], part_of: dict[str, int]) -> list[WorkBlock]:
    """Parts that share a line are one: what is in any of them goes before what parts them from the
    sheet."""
    joined = {part: part for part in part_of.values()}

    def root(part: int) -> int:
        while joined[part] != part:
            part = joined[part]
        return part

    for block in blocks:
        some = sorted({root(part_of[name]) for name in block.lines[0].ids})
        for part in some[1:]:
            joined[part] = some[0]
    return [
        replace(block, part=root(block.part))
        if block.part in joined and root(block.part) != block.part
        else block
        for block in blocks
    ]


def _parts(
    names: Sequence[str], contours: Sequence[Contour], depths: dict[str, int]
) -> dict[str, int]:
    """For each contour the number of the outermost one round it, which is its part."""
    found = {name: k for k, name in enumerate(names)}
    outer = [k for k, name in enumerate(names) if depths[name] == 0 and contours[k].closed]
    inner = [k for k, name in enumerate(names) if depths[name] > 0]
    if inner:
        places = shapely.STRtree(
            np.atleast_1d(np.asarray(shapely.points(places_on([contours[k] for k in inner]))))
        )
        around, inside = places.query(
            polygons_of([contours[k] for k in outer], FINE), predicate="contains"
        )
        for one, other in sorted(
            zip(around.tolist(), inside.tolist(), strict=True), reverse=True
        ):  # the first one round it counts
            found[names[inner[other]]] = outer[one]
    return found


def ends_of(block: WorkBlock) -> tuple[Points, Points]:
    return block.lines[0].line.nodes[0], block.lines[-1].line.nodes[
        0 if block.lines[-1].line.closed else -1
    ]


def stretches_of(
    blocks: list[WorkBlock], operations: Sequence[Operation]
) -> list[tuple[str, list[WorkBlock]]]:
    """What runs without a stop, one stretch after the other, with what is to be done before each:
    an operation that begins with a stop begins a stretch, in the order of the operations."""
    turn = sorted(range(len(operations)), key=lambda number: (operations[number].rank, number))
    found = list[tuple[str, list[WorkBlock]]]([("", [])])
    of: dict[int, list[WorkBlock]] = {}
    for number in turn:
        if operations[number].stop:
            found.append((operations[number].stop, []))
        of[number] = found[-1][1]
    for block in blocks:
        of[block.operation].append(block)
    return [(words, some) for words, some in found if some]


def phases_of(blocks: list[WorkBlock], machine: Machine) -> list[list[WorkBlock]]:
    """What is worked before a tool is changed, one phase after the other: on a router all parts are
    worked with a tool before the next one is taken, as far as what goes before what in a part
    allows it; on other machines there is one phase."""
    widths = {block.lines[0].width for block in blocks}
    if not machine.traits.lowers or len(widths) < 2:
        return [blocks] if blocks else []
    of_rank: dict[int, set[float]] = {}
    for block in blocks:
        of_rank.setdefault(block.rank[0], set()).add(block.lines[0].width)
    groups: dict[tuple[int, int], dict[float, list[WorkBlock]]] = {}
    for block in blocks:
        level = block.rank[1] if len(of_rank[block.rank[0]]) > 1 else 0
        groups.setdefault((block.rank[0], level), {}).setdefault(block.lines[0].width, []).append(
            block
        )
    phases, held = list[list[WorkBlock]](), math.nan
    for key in sorted(groups):
        for width in sorted(groups[key], key=lambda width: (width != held, width)):
            phases.append(groups[key][width])
            held = width
    return phases
