"""Contours moved, turned, mirrored and scaled, with all that goes along with them."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import replace

from draxet.geometry.affine import Affine
from draxet.job.contour_records import ContourItem, Placement, mapped_all
from draxet.job.layout import map_of, meant_by, members_of, names_laid, whole_parts
from draxet.job.layout_names import laid_name
from draxet.job.place_types import Box
from draxet.job.placed import anything_rides, map_riders
from draxet.job.records import Job
from draxet.job.references import removed

__all__ = ["box_around", "map_contours", "with_items"]


def map_contours(
    job: Job,
    ids: Iterable[str],
    after: Affine,
    *,
    by_hand: bool = False,
    alone: Collection[str] = (),
) -> Job:
    """Contours of the layout moved, turned or scaled by `after`; those of fixed size keep it. A
    placement goes where all that it lays is meant; else its part is changed. `by_hand` : whether
    tracing anew is to leave them, and what symmetry laid of them moves likewise in its own half or
    sector, but for what is left `alone`."""
    some = dict.fromkeys(ids)
    meant = meant_by(job, some)
    for placement, inner in meant.inside:
        to = map_of(job, placement)
        job = map_contours(job, inner, to.then(after).then(to.inverse()), by_hand=by_hand)
    for placement in meant.placements if by_hand else ():
        members = [item.id for item in members_of(job, placement.part)]
        if placement.symmetric and not any(k in some or k in alone for k in members):
            own = [laid_name(placement.id, k) for k in members]
            others, to = [k for k in some if k not in set(own)], map_of(job, placement)
            likewise = to.then(after).then(to.inverse())
            led = map_contours(job, members, likewise, by_hand=True, alone={*alone, *others})
            return map_contours(led, others, after, by_hand=True, alone={*alone, *own, *members})
    job = _placements_moved(job, meant.placements, after)
    return _drawn_moved(job, meant.drawn, some.keys(), after, by_hand, alone) if some else job


def _placements_moved(job: Job, placements: Sequence[Placement], after: Affine) -> Job:
    """Placements somewhere else, with what rides on what they lay."""
    if not placements:
        return job
    boxes = {part: box_around(members_of(job, part)) for part in {p.part for p in placements}}
    fixed = {part: any(item.fixed for item in members_of(job, part)) for part in boxes}
    moved, maps = dict[str, Placement](), dict[str, Affine]()
    for placement in placements:
        x, y = _middle(boxes[placement.part])
        to = map_of(job, placement)
        maps[placement.id] = way = _way(after, to.point(x, y), fixed[placement.part])
        on = to.then(way).point(x, y)
        sheet = (len(job.sheets) > 1 and job.sheet_under((*on, *on))) or placement.sheet
        moved[placement.id] = replace(placement.mapped(way), sheet=sheet)
    found = replace(job, placements=tuple(moved.get(each.id, each) for each in job.placements))
    for placement in placements if anything_rides(job) else ():
        found = map_riders(found, names_laid(job, placement), maps[placement.id])
    return found


def _drawn_moved(
    job: Job,
    drawn: Sequence[str],
    ids: Collection[str],
    after: Affine,
    by_hand: bool,
    alone: Collection[str],
) -> Job:
    """Drawn contours somewhere else, with what rides on them and on parts all of which are among
    `ids`; placements of these stay, but for what symmetry laid."""
    items = [job.contour_by_id[contour_id] for contour_id in drawn]
    free = [item for item in items if not item.fixed]
    ways = dict.fromkeys((item.id for item in items), after)
    gone = mapped_all(free, after, by_hand=by_hand)
    moved = dict(zip((item.id for item in free), gone, strict=True))
    for item in items:
        if item.fixed:
            ways[item.id] = way = _way(after, _middle(item.contour.box), item.fixed)
            moved[item.id] = replace(item.mapped(way), by_hand=by_hand or item.by_hand)
    moved = {item.id: moved[item.id] for item in items}
    whole = whole_parts(job, ids) if job.parts else frozenset()
    made = _with_company(with_items(job, moved), moved, whole, after)
    parts = {
        name: ways.get(members[0].id, after)
        for name in whole
        if (members := members_of(job, name))
        and len({ways.get(item.id, after) for item in members}) == 1
    }
    return _placements_stay(job, made, parts, ids, alone if by_hand else None)


def _placements_stay(
    before: Job,
    job: Job,
    ways: Mapping[str, Affine],
    moved: Collection[str],
    alone: Collection[str] | None,
) -> Job:
    """Parts gone another way each, whose placements stay where they are; what symmetry laid goes
    likewise, but for what is `moved` itself or left `alone` (all of it where that is None)."""
    if not (job.placements and ways):
        return job
    parts = tuple(part.mapped(ways[part.id]) if part.id in ways else part for part in job.parts)
    found = replace(job, parts=parts)
    if alone is None or not any(each.symmetric and each.part in ways for each in job.placements):
        return found
    follows, likewise = list[Placement](), dict[str, Affine]()
    for each in before.placements:
        name = laid_name(each.id, next(iter(members_of(before, each.part))).id)
        if each.symmetric and each.part in ways and name not in moved and name not in alone:
            to = map_of(before, each)
            follows.append(replace(each, placed=found.part_by_id[each.part].frame.then(to)))
            likewise[each.id] = to.inverse().then(ways[each.part]).then(to)
    by_id = {each.id: each for each in follows}
    found = replace(found, placements=tuple(by_id.get(each.id, each) for each in found.placements))
    for each in follows if anything_rides(found) else ():
        found = map_riders(found, names_laid(before, each), likewise[each.id])
    return found


def _way(after: Affine, middle: tuple[float, float], fixed: bool) -> Affine:
    """The map for a thing with a `middle`; what is of fixed size is only turned and moved."""
    if not fixed:
        return after
    x, y = middle
    to = after.point(x, y)
    return _turn_of(after).about(x, y).then(Affine.moved(to[0] - x, to[1] - y))


def _middle(box: Box) -> tuple[float, float]:
    return (box[0] + box[2]) / 2, (box[1] + box[3]) / 2


def box_around(items: Sequence[ContourItem]) -> Box:
    """The box round some contours."""
    boxes = [item.contour.box for item in items]
    left, low, right, high = zip(*boxes, strict=True)
    return min(left), min(low), max(right), max(high)


def _with_company(job: Job, ids: Collection[str], whole: Collection[str], after: Affine) -> Job:
    """What rides on contours, and on whole parts, gone along with those."""
    if not anything_rides(job):
        return job
    parted = [
        each.id
        for each in job.letterings
        if each.part in whole and each.along in job.layout.contour_by_id and each.along not in ids
    ]  # words taken away from what they run along are contours
    job = removed(job, "letterings", parted) if parted else job
    return map_riders(job, {*whole, *ids}, after)


def with_items(job: Job, items: Mapping[str, ContourItem]) -> Job:
    """Contours in the place of others of the same ids; one whose middle lies on another sheet now
    belongs to that."""
    if not items:
        return job
    several = len(job.sheets) > 1

    def on_sheet(item: ContourItem) -> ContourItem:
        sheet = (several and job.sheet_under(item.contour.box)) or item.sheet
        return item if sheet == item.sheet else replace(item, sheet=sheet)

    return replace(
        job, contours=tuple(on_sheet(items[i.id]) if i.id in items else i for i in job.contours)
    )


def _turn_of(affine: Affine) -> Affine:
    """The turn (mirrored where `affine` mirrors) that is nearest to it."""
    if affine.determinant < 0:
        return Affine.scaled(-1, 1).then(_turn_of(Affine.scaled(-1, 1).then(affine)))
    return Affine.turned(math.degrees(math.atan2(affine.d - affine.b, affine.a + affine.e)))
