"""What a run works twice."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np
import shapely

from draxet.geometry.arrays import Points
from draxet.job.findings import Finding, Gravity, count_words
from draxet.job.operating import remove_operation, set_operation
from draxet.job.operations import CutThrough
from draxet.job.program import Program
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.prove.look_places import MOST_PLACES
from draxet.prove.run_lines import FINE, SLACK, LinesAtWork

__all__ = ["shorter_leads", "worked_twice"]

_ON_IT = 0.025
"""mm: lines no farther apart lie on each other."""

_MEETS, _SHARE = 4.0, 0.02
"""mm, and of the shorter line: those that do so for no more than that only meet, cross or touch."""


def worked_twice(job: Job, sheet: Sheet, program: Program, lines: LinesAtWork) -> list[Finding]:
    """Lines that are cut along another cut, all the way or for a stretch."""
    through = [
        number
        for number, name in enumerate(program.operations)
        if any(operation.id == name and operation.through for operation in job.operations)
    ]
    cuts = set(program.path[program.work & np.isin(program.operation, through)].tolist())
    paths = lines.paths.tolist()
    one_of = {
        paths[k]: k for k in np.flatnonzero(lines.works).tolist() if paths[k] in cuts
    }  # the last pass stands for all
    some = sorted(one_of.values())
    if len(some) < 2:
        return []
    mine = lines.shapes[some]
    names = [frozenset(program.ids[paths[k]]) for k in some]
    tree = shapely.STRtree(mine)
    first, second = tree.query(mine, predicate="dwithin", distance=_ON_IT)
    other = (first < second) & np.array(
        [names[a] != names[b] for a, b in zip(first.tolist(), second.tolist(), strict=True)],
        dtype=bool,
    )
    first, second = first[other], second[other]
    if not len(first):
        return []
    shared = shapely.intersection(
        mine[first], shapely.buffer(mine[second], _ON_IT, quad_segs=4, cap_style="flat")
    )
    along = shapely.length(shared)
    real = along > np.maximum(
        _MEETS, _SHARE * np.minimum(shapely.length(mine[first]), shapely.length(mine[second]))
    )
    away = np.array(sheet.origin_place)
    of_leads = [
        k
        for k in np.flatnonzero(real).tolist()
        if not all(_beside(job, names[n], shared[k], away) for n in (int(first[k]), int(second[k])))
    ]
    real[of_leads] = False
    if not real.any():
        return []
    lengths = shapely.length(mine)
    shorter = [
        int(a) if lengths[a] < lengths[b] else int(b)
        for a, b in zip(first[real], second[real], strict=True)
    ]
    twice = sorted(set(shorter))
    ids = tuple(
        dict.fromkeys(
            name for k in twice for name in program.ids[paths[some[k]]] if name in job.contour_by_id
        )
    )
    middles = shapely.get_coordinates(shapely.point_on_surface(shared[real]))
    places = tuple((float(x + away[0]), float(y + away[1])) for x, y in middles[:MOST_PLACES])
    whole = all(along[real][n] > 0.98 * lengths[k] for n, k in enumerate(shorter))
    words = f"{count_words(len(twice), 'line')} would be cut twice: {'it lies' if len(twice) == 1 else 'they lie'} on another cut"
    words += "" if whole else f", over {along[real].sum():.0f} mm in all"
    mend = partial(_uncut, ids=frozenset(ids)) if whole else None
    return [
        Finding(
            f"cut-twice-{sheet.id}",
            words,
            Gravity.WARNS,
            "make",
            ids,
            places,
            mend,
            "Cut once" if whole else "",
        )
    ]


def _beside(job: Job, names: frozenset[str], stretch: Any, away: Points) -> bool:
    """Whether a stretch runs where a cut of some contours does, and not along a lead to it."""
    x, y = (
        shapely.get_coordinates(
            shapely.line_interpolate_point(shapely.get_parts(stretch)[0], 0.5, normalized=True)
        )[0]
        + away
    )
    for name in names & job.contour_by_id.keys():
        points = job.contour_by_id[name].contour.flattened(FINE)
        wide = job.cut_of[name].width if name in job.cut_of else 0.0
        line = (
            shapely.LinearRing(points)
            if job.contour_by_id[name].contour.closed and len(points) > 2
            else shapely.LineString(points)
        )
        if line.distance(shapely.Point(x, y)) <= wide / 2 + 3 * SLACK:
            return True
    return False


def _uncut(job: Job, ids: frozenset[str]) -> Job:
    """Contours taken out of the operations that cut them through."""
    for operation in job.operations:
        if operation.through and any(name in ids for name in operation.contours):
            left = [name for name in operation.contours if name not in ids]
            job = (
                set_operation(job, operation.with_contours(left))
                if left
                else remove_operation(job, operation.id)
            )
    return job


def shorter_leads(job: Job, ids: Sequence[str]) -> Job:
    for operation in job.operations:
        if operation.id in ids and isinstance(operation, CutThrough):
            job = set_operation(
                job, replace(operation, lead=operation.lead / 2 if operation.lead > 0.2 else 0.0)
            )
    return job
