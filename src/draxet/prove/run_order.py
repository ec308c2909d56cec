"""What a run does too late, with too thick a tool or too deep."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial

import numpy as np
import shapely

from draxet.geometry.contour import places_on
from draxet.geometry.nesting import polygons_of
from draxet.job.findings import Finding, Gravity, count_words
from draxet.job.make_edits import remove_order
from draxet.job.operating import set_operation
from draxet.job.program import Program
from draxet.job.records import Job
from draxet.prove.look_places import MOST_PLACES
from draxet.prove.run_lines import FINE

__all__ = ["cut_too_deep", "cut_too_late"]


def cut_too_late(job: Job, program: Program) -> list[Finding]:
    """What is worked in a part after that was cut out: it may have moved."""
    late = _worked_too_late(job, *_ends_of(job, program))
    if not late:
        return []
    by_hand = tuple(order.id for order in job.orders)
    words = f"{count_words(len(late), 'contour')} would be worked after the part round {'it' if len(late) == 1 else 'them'} was cut out{', as an order by hand says' if by_hand else ''}"
    nodes = (job.contour_by_id[name].contour.nodes[0] for name in late[:MOST_PLACES])
    places = tuple((float(node[0]), float(node[1])) for node in nodes)
    mend = partial(_without_orders, ids=by_hand) if by_hand else None
    return [
        Finding(
            "wrong-order",
            words,
            Gravity.STOPS,
            "make",
            tuple(late),
            places,
            mend,
            "Give the order up" if by_hand else "",
        )
    ]


def _ends_of(job: Job, program: Program) -> tuple[dict[str, int], dict[str, int]]:
    """Contour ids to the last move at which each is worked, and at which it is cut through."""
    last: dict[str, int] = {}
    cut: dict[str, int] = {}
    through = np.isin(
        program.operation,
        [
            number
            for number, name in enumerate(program.operations)
            if any(operation.id == name and operation.through for operation in job.operations)
        ],
    )
    paths, at = np.unique(program.path[program.work][::-1], return_index=True)
    ends = np.flatnonzero(program.work)[::-1][at]  # the last move of each line
    for path, k in zip(paths.tolist(), ends.tolist(), strict=True):
        for name in program.ids[path]:
            last[name] = max(last.get(name, -1), k)
            if through[k]:
                cut[name] = max(cut.get(name, -1), k)
    return last, cut


def _worked_too_late(job: Job, last: dict[str, int], cut: dict[str, int]) -> list[str]:
    """Ids of the contours that are worked after one round them was cut through."""
    names = [name for name in last if name in job.contour_by_id]
    closed = [
        name for name in cut if name in job.contour_by_id and job.contour_by_id[name].contour.closed
    ]
    if not closed:
        return []
    middles = places_on([job.contour_by_id[name].contour for name in names])
    around, inside = shapely.STRtree(np.atleast_1d(np.asarray(shapely.points(middles)))).query(
        polygons_of([job.contour_by_id[name].contour for name in closed], FINE),
        predicate="contains",
    )
    return list(
        dict.fromkeys(
            names[k]
            for n, k in zip(around.tolist(), inside.tolist(), strict=True)
            if names[k] != closed[n] and last[names[k]] > cut[closed[n]]
        )
    )


def _with_cutter(job: Job, operation_id: str, own: str, diameter: float) -> Job:
    operation = next(each for each in job.operations if each.id == operation_id)
    return set_operation(job, replace(operation, **{own: diameter}))  # type: ignore[type-var]


def _without_orders(job: Job, ids: Sequence[str]) -> Job:
    for name in ids:
        job = remove_order(job, name)
    return job


def cut_too_deep(job: Job, program: Program) -> list[Finding]:
    """Tools that the machine does not have, or that cannot reach so deep."""
    machine = program.machine
    if not machine.traits.lowers or not machine.cutters:
        return []
    found = []
    for number, name in enumerate(program.operations):
        moves = program.work & (program.operation == number)
        if not moves.any():
            continue
        operation = next(each for each in job.operations if each.id == name)
        own, wide = operation.broad_by if operation.broad_by != "spacing" else "", operation.broad
        fitting = [cutter for cutter in machine.cutters if abs(cutter.diameter - wide) <= 0.01]
        deep = float(program.depth[moves].max())
        ids = tuple(each for each in operation.contours if each in job.contour_by_id)
        if not fitting:
            words = f"{operation.name} wants a tool of {wide:g} mm; the {machine.name.lower()} has {', '.join(f'{cutter.diameter:g}' for cutter in machine.cutters)} mm"
            nearest = min(
                (cutter.diameter for cutter in machine.cutters),
                key=lambda diameter: abs(diameter - wide),
            )
            mend = (
                partial(_with_cutter, operation_id=name, own=own, diameter=nearest) if own else None
            )
            found.append(
                Finding(
                    f"tool-{name}",
                    words,
                    Gravity.STOPS if own else Gravity.WARNS,
                    "make",
                    ids,
                    (),
                    mend,
                    f"Take the one of {nearest:g} mm" if own else "",
                )
            )
        elif max(cutter.longest for cutter in fitting) < deep - 1e-9:
            words = f"{operation.name} goes {deep:g} mm deep; the longest tool of {wide:g} mm cuts {max(cutter.longest for cutter in fitting):g} mm"
            found.append(Finding(f"tool-{name}", words, Gravity.STOPS, "make", ids))
    return found
