"""What the operations of a job cut, each stretch once, and the band of material that this takes
away.

Contours that share no edge are cut as their operation says. Where cut areas share edges (as areas
of colour do), the shared stretches are cut once, on the line, and what bounds the areas as a whole
is cut on its outer side (its inner side round an opening), so that the whole keeps its size. One
outline that stands there twice, with its area on the same side, is cut once.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from draxet.geometry.contour import Contour
from draxet.geometry.nesting import nesting_depths
from draxet.geometry.shared_edges import Run, shared_edges
from draxet.job.bridge_cuts import Cut
from draxet.job.bridges import cuts_held
from draxet.job.contour_records import ContourItem
from draxet.job.cut_middles import middles_in_steps
from draxet.job.operations import Operation, Side
from draxet.job.records import Job
from draxet.job.twice import drawn_twice, holes_of
from draxet.record import record

__all__ = ["CutWork", "cut_work", "vanishing_cuts"]

_KNOWN = "_cut_work"
"""Under what a layout keeps it."""


@record(frozen=True)
class CutWork:
    """One line to be cut: the operation that it belongs to, on which side of `contour` the cut
    runs, the job's contours that it comes from, and whether two areas share it."""

    operation: Operation
    side: Side
    contour: Contour
    ids: tuple[str, ...]
    shared: bool = False


def cut_work(job: Job) -> tuple[CutWork, ...]:
    """Everything that is cut on all sheets, in the order of the operations, held by the bridges;
    worked out once for each layout."""
    layout = job.layout
    known: tuple[CutWork, ...] | None = layout.__dict__.get(_KNOWN)
    if known is None:
        known = layout.__dict__[_KNOWN] = _worked_out(layout)
    return known


def _worked_out(job: Job) -> tuple[CutWork, ...]:
    whole = [
        (operation, job.contour_by_id[contour])
        for operation in job.operations
        if operation.through
        for contour in operation.contours
    ]
    if not whole:
        return ()
    cuts = [
        Cut(job.fitted.get(item.id, item.contour), operation.side, operation.width, (item.id,), k)
        for k, (operation, item) in enumerate(whole)
    ]
    items = [item for _, item in whole]
    cuts = _once(items, cuts)
    held = cuts_held(cuts, job.bridges).cuts
    lines = [CutWork(whole[cut.of][0], cut.side, cut.contour, cut.ids) for cut in held]
    holes = holes_of(items)
    found = shared_edges(
        [line.contour for line in lines],
        [bool(holes[cut.of]) for cut in held],
        [bool(items[cut.of].colour) for cut in held],
    )
    plain = [
        line for line, touches in zip(lines, found.touching.tolist(), strict=True) if not touches
    ]
    if len(plain) == len(lines) and held == tuple(cuts):
        return tuple(plain)
    work = (
        plain
        + _bounds(found.own, lines)
        + [_work_on_run(run, lines, Side.ON, shared=True) for run in found.shared]
    )
    order = {operation.id: number for number, operation in enumerate(job.operations)}
    return tuple(sorted(work, key=lambda each: order[each.operation.id]))


def _once(items: Sequence[ContourItem], cuts: Sequence[Cut]) -> list[Cut]:
    """Cuts without those whose outline stands there once more, whose contours go with the one that
    is kept: the one on the side that keeps the part's size, where there is one."""
    groups, gone, kept = drawn_twice(items), set[int](), list(cuts)
    depths = nesting_depths([item.contour for item in items]).tolist() if groups else []
    for group in groups:
        right = Side.INSIDE if depths[group[0]] % 2 else Side.OUTSIDE
        one = next((k for k in group if cuts[k].side is right), group[0])
        kept[one] = replace(cuts[one], ids=tuple(name for k in group for name in cuts[k].ids))
        gone |= set(group) - {one}
    return [cut for k, cut in enumerate(kept) if k not in gone]


def _bounds(runs: Sequence[Run], lines: Sequence[CutWork]) -> list[CutWork]:
    """What bounds the areas as a whole: outlines are cut outside, openings inside, all on the line
    where each operation says so."""
    depths = nesting_depths([run.contour for run in runs]).tolist()
    work = []
    for run, depth in zip(runs, depths, strict=True):
        on = depth < 0 or all(lines[k].side is Side.ON for k in run.of)
        work.append(
            _work_on_run(run, lines, Side.ON if on else Side.INSIDE if depth % 2 else Side.OUTSIDE)
        )
    return work


def _work_on_run(
    run: Run, lines: Sequence[CutWork], side: Side, *, shared: bool = False
) -> CutWork:
    operation = next(
        (lines[k].operation for k in run.of if lines[k].side is side), lines[run.of[0]].operation
    )
    return CutWork(
        operation,
        side,
        run.contour,
        tuple(dict.fromkeys(name for k in run.of for name in lines[k].ids)),
        shared,
    )


def vanishing_cuts(work: Sequence[CutWork]) -> tuple[CutWork, ...]:
    """Openings that are narrower than their cut: nothing would be cut."""
    inside = [
        each
        for each in work
        if each.side is Side.INSIDE and each.contour.closed and _may_vanish(each)
    ]
    left = middles_in_steps(
        [each.contour for each in inside],
        [each.side for each in inside],
        [each.operation.width for each in inside],
    )
    return tuple(each for each, lines in zip(inside, left, strict=True) if not lines)


def _may_vanish(work: CutWork) -> bool:
    """Whether an opening is small or thin enough to be looked at: twice its area over its length is
    at least half of its width."""
    return 2 * abs(work.contour.area) <= work.contour.length * work.operation.width
