"""What a run works twice."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Any

import numpy as np
import shapely

from draxet.geometry.arrays import Bools, Floats, Ints, Points
from draxet.job.copies import apart_in_work
from draxet.job.findings import Finding, Gravity, count_words
from draxet.job.layout import worked_name
from draxet.job.operating import remove_operation, set_operation
from draxet.job.program import Program
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.prove.look_places import MOST_PLACES
from draxet.prove.run_lines import FINE, SLACK, LinesAtWork
from draxet.record import record

__all__ = ["shorter_leads", "worked_twice"]

_STRETCH = 4
"""So many steps of a line are looked at in one."""
_ON_IT = 0.025
"""mm: lines no farther apart lie on each other."""

_MEETS, _SHARE = 4.0, 0.02
"""mm, and of the shorter line: those that do so for no more than that only meet, cross or touch."""


@record(frozen=True, eq=False)
class _Cuts:
    """The lines that part the material, one for all its passes: their shapes, and the contours that
    each comes from."""

    shapes: Any
    ids: list[tuple[str, ...]]


@record(frozen=True, eq=False)
class _Shared:
    """What two cuts share: their numbers (n,), the stretch of the first that lies on the second,
    and how long that is."""

    first: Ints
    second: Ints
    stretch: Any
    along: Floats

    def some(self, which: Bools) -> _Shared:
        return _Shared(
            self.first[which], self.second[which], self.stretch[which], self.along[which]
        )


def worked_twice(job: Job, sheet: Sheet, program: Program, lines: LinesAtWork) -> list[Finding]:
    """Lines that are cut along another cut, all the way or for a stretch."""
    cuts, away = _cuts(job, program, lines), np.array(sheet.origin_place)
    shared = _shared(cuts)
    names = [frozenset(each) for each in cuts.ids]
    pairs = zip(shared.first.tolist(), shared.second.tolist(), shared.stretch, strict=True)
    both = [all(_beside(job, names[n], part, away) for n in (a, b)) for a, b, part in pairs]
    shared = shared.some(np.array(both, dtype=bool))  # leads may lie on each other
    if not len(shared.first):
        return []
    lengths = shapely.length(cuts.shapes)
    shorter = np.where(lengths[shared.first] < lengths[shared.second], shared.first, shared.second)
    twice = np.unique(shorter).tolist()
    ids = tuple(
        dict.fromkeys(name for k in twice for name in cuts.ids[k] if name in job.contour_by_id)
    )
    middles = shapely.get_coordinates(shapely.point_on_surface(shared.stretch))
    places = tuple((float(x + away[0]), float(y + away[1])) for x, y in middles[:MOST_PLACES])
    whole = bool((shared.along > 0.98 * lengths[shorter]).all())
    words = f"{count_words(len(twice), 'line')} would be cut twice: {'it lies' if len(twice) == 1 else 'they lie'} on another cut"
    words += "" if whole else f", over {shared.along.sum():.0f} mm in all"
    mend, mends = (partial(_uncut, ids=frozenset(ids)), "Cut once") if whole else (None, "")
    return [
        Finding(f"cut-twice-{sheet.id}", words, Gravity.WARNS, "make", ids, places, mend, mends)
    ]


def _cuts(job: Job, program: Program, lines: LinesAtWork) -> _Cuts:
    through = [
        number
        for number, name in enumerate(program.operations)
        if any(operation.id == name and operation.through for operation in job.operations)
    ]
    cuts = set(program.path[program.work & np.isin(program.operation, through)].tolist())
    paths = lines.paths.tolist()
    last = {paths[k]: k for k in np.flatnonzero(lines.works).tolist() if paths[k] in cuts}
    some = sorted(last.values())  # the last pass stands for all
    return _Cuts(lines.shapes[some], [program.ids[paths[k]] for k in some])


def _shared(cuts: _Cuts) -> _Shared:
    """What cuts of different contours share, where it is more than that they meet."""
    shapes = cuts.shapes
    first, second = _near_each_other(shapes)
    pairs = zip(first.tolist(), second.tolist(), strict=True)
    other = [a < b and set(cuts.ids[a]) != set(cuts.ids[b]) for a, b in pairs]
    first, second = (each[np.array(other, dtype=bool)] for each in (first, second))
    stretch = shapely.intersection(
        shapes[first], shapely.buffer(shapes[second], _ON_IT, quad_segs=4, cap_style="flat")
    )
    along = shapely.length(stretch)
    shorter = np.minimum(shapely.length(shapes[first]), shapely.length(shapes[second]))
    real = along > np.maximum(_MEETS, _SHARE * shorter)
    return _Shared(first, second, stretch, along).some(real)


def _near_each_other(shapes: Any) -> tuple[Ints, Ints]:
    """Pairs of lines that come near each other somewhere, found by short stretches of them: whole
    ones that lie in each other all reach over one another."""
    points, of = shapely.get_coordinates(shapes, return_index=True)
    if not len(points):
        return np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64)
    first = np.searchsorted(of, np.arange(len(shapes)))
    step = np.arange(len(points)) - first[of]
    joint = (step % _STRETCH == 0) & (step > 0) & np.append(of[1:] == of[:-1], False)
    again = np.repeat(np.arange(len(points)), np.where(joint, 2, 1))  # it ends one, begins another
    begins = np.concatenate([[True], (again[1:] == again[:-1]) | (of[again][1:] != of[again][:-1])])
    number = np.cumsum(begins) - 1
    stretches: Any = shapely.linestrings(points[again], indices=number)
    owner = of[again][begins]
    one, other = shapely.STRtree(stretches).query(stretches, predicate="dwithin", distance=_ON_IT)
    pairs = np.unique(np.column_stack([owner[one], owner[other]]), axis=0)
    return pairs[:, 0], pairs[:, 1]


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
    job = apart_in_work(job, ids)
    gone = {worked_name(job, name) for name in ids}
    for operation in job.operations:
        if operation.through and any(name in gone for name in operation.contours):
            left = [name for name in operation.contours if name not in gone]
            job = (
                set_operation(job, operation.with_contours(left))
                if left
                else remove_operation(job, operation.id)
            )
    return job


def shorter_leads(job: Job, ids: Sequence[str]) -> Job:
    for operation in job.operations:
        if operation.id in ids and operation.lead:
            job = set_operation(
                job, operation.changed(lead=operation.lead / 2 if operation.lead > 0.2 else 0.0)
            )
    return job
