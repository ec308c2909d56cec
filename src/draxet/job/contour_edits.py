"""Edits of contours, with what refers to them.

Functions from a job to a job: none changes what it is given, all keep ids, and operations
never name a contour that is gone.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Container, Iterable, Mapping, Sequence
from dataclasses import replace

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour, boxes_of
from draxet.geometry.likeness import runs_along
from draxet.geometry.shapes import unit_ellipse
from draxet.job.contour_records import ContourItem, Part
from draxet.job.placed import anything_rides, map_riders, riders_of
from draxet.job.records import Job
from draxet.job.references import removed
from draxet.job.spots import spots_carried

__all__ = [
    "add_contours",
    "change_contours",
    "colour_contours",
    "filled_parts",
    "fix_size",
    "map_contours",
    "mean_slits",
    "remove_contours",
    "remove_for_good",
    "replace_contours",
    "retrace",
    "set_ellipse",
    "set_lines",
    "with_company",
]

_SAME_PX, _SAME_SHARE = 1.5, 0.6
"""A traced contour is one changed by hand where so much of that lies within so many pixels of
it."""


def map_contours(
    job: Job,
    ids: Iterable[str],
    after: Affine,
    *,
    by_hand: bool = False,
    alone: Container[str] = (),
) -> Job:
    """Contours moved, turned or scaled by `after`; those of fixed size keep it. `by_hand` : whether
    tracing anew is to leave them, and what symmetry drew of them moves likewise in its own half or
    sector, but for those that are left `alone`."""
    rigid = _turn_of(after)
    moved = {}
    for contour_id in ids:
        item = job.contour_by_id[contour_id]
        if item.fixed:
            x0, y0, x1, y1 = item.contour.box
            x, y = (x0 + x1) / 2, (y0 + y1) / 2
            to = after.point(x, y)
            moved[item.id] = item.mapped(rigid.about(x, y).then(Affine.moved(to[0] - x, to[1] - y)))
        else:
            moved[item.id] = item.mapped(after)
        if by_hand:
            moved[item.id] = replace(moved[item.id], by_hand=True)
    following = _followers(job, moved, alone) if by_hand else {}
    moved_too = {
        name: job.contour_by_id[name].mapped(likewise) for name, likewise in following.items()
    }
    made = with_company(_with_items(job, {**moved, **moved_too}), moved, after)
    for name, likewise in following.items() if anything_rides(made) else ():
        made = with_company(made, {name}, likewise)
    return made


def _followers(
    job: Job, moved: Mapping[str, ContourItem], alone: Container[str]
) -> dict[str, Affine]:
    """What symmetry drew of contours that are moved, and how each moves."""
    leaders = {
        item.link: item for item in reversed(list(moved.values())) if item.symmetric and item.link
    }
    found = {}
    for item in job.contours if leaders else ():
        leader = leaders.get(item.link)
        if leader and item.symmetric and item.id not in moved and item.id not in alone:
            to_it = (
                job.contour_by_id[leader.id].placed.inverse().then(item.placed)
            )  # constant: the symmetry's map
            found[item.id] = item.placed.inverse().then(leader.placed).then(to_it)
    return found


def with_company(job: Job, ids: Collection[str], after: Affine) -> Job:
    """What rides on contours, and on groups all of which are among them, gone along with those."""
    if not anything_rides(job):
        return job
    whole = _whole_parts(job, ids) if job.parts else set()
    parted = [
        each.id
        for each in job.letterings
        if each.part in whole and each.along in job.contour_by_id and each.along not in ids
    ]  # words taken away from what they run along are contours
    job = removed(job, "letterings", parted) if parted else job
    return map_riders(job, {*whole, *ids}, after)


def _whole_parts(job: Job, ids: Container[str]) -> set[str]:
    """The groups all of whose own contours are among some."""
    left = {item.part for item in job.contours if item.part and item.id not in ids}
    return {item.part for item in job.contours if item.part and item.id in ids} - left


def _with_items(job: Job, items: Mapping[str, ContourItem]) -> Job:
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


def fix_size(job: Job, ids: Iterable[str], fixed: bool) -> Job:
    """Contours whose size is locked, or free again."""
    some = set(ids)
    return replace(
        job,
        contours=tuple(
            replace(item, fixed=fixed) if item.id in some else item for item in job.contours
        ),
    )


def add_contours(
    job: Job,
    contours: Sequence[Contour],
    picture_id: str = "",
    colours: Sequence[str] = (),
    traced: Sequence[str] = (),
    layers: Sequence[str] = (),
) -> Job:
    """The job with more contours, in their order, after those it has, on the sheet where their
    middle lies, else the one in hand; `colours` (#rrggbb), `traced` and `layers` (as in
    ``ContourItem``) one for each, or none."""
    new = tuple(
        ContourItem(
            f"contour-{job.next_id + k}",
            contour,
            picture_id,
            colour=colours[k] if colours else "",
            traced=traced[k] if traced else "",
            sheet=job.sheet_under(tuple(box)) or job.sheet.id,
            layer=layers[k] if layers else "",
        )
        for k, (contour, box) in enumerate(zip(contours, boxes_of(contours).tolist(), strict=True))
    )
    return replace(job, contours=(*job.contours, *new), next_id=job.next_id + len(new))


def retrace(
    job: Job,
    picture_id: str,
    contours: Sequence[Contour],
    colours: Sequence[str] = (),
    traced: Sequence[str] = (),
    within: tuple[float, float, float, float] | None = None,
) -> Job:
    """Contours traced from a picture in place of those traced from it before. What was changed by
    hand since is left alone, and a new contour that would lie on such a one is left out.

    Parameters
    ----------
    within : box in job space; where given, only earlier contours that lie in it give way.
    """
    old = [item for item in job.contours if item.picture == picture_id]
    gone = [
        item.id
        for item in old
        if not item.by_hand and (within is None or _lies_in(item.contour.box, within))
    ]
    kept = [item.contour for item in old if item.by_hand]
    near = _SAME_PX * job.picture_by_id[picture_id].pixel_size if kept else 0.0
    fresh = [
        k
        for k, contour in enumerate(contours)
        if not any(
            _touch(contour, one) and runs_along(one, contour, near) > _SAME_SHARE for one in kept
        )
    ]
    of_fresh = ([of[k] for k in fresh] if of else () for of in (colours, traced))
    return add_contours(
        remove_contours(job, gone), [contours[k] for k in fresh], picture_id, *of_fresh
    )


def _touch(a: Contour, b: Contour) -> bool:
    return (
        a.box[0] <= b.box[2]
        and a.box[2] >= b.box[0]
        and a.box[1] <= b.box[3]
        and a.box[3] >= b.box[1]
    )


def _lies_in(
    box: tuple[float, float, float, float], other: tuple[float, float, float, float]
) -> bool:
    return box[0] >= other[0] and box[1] >= other[1] and box[2] <= other[2] and box[3] <= other[3]


def colour_contours(job: Job, ids: Iterable[str], colour: str) -> Job:
    """Contours that bound areas of a colour (#rrggbb)."""
    some = set(ids)
    return replace(
        job,
        contours=tuple(
            replace(item, colour=colour) if item.id in some else item for item in job.contours
        ),
    )


def set_lines(job: Job, ids: Iterable[str], width: float) -> Job:
    """Contours that stand for lines of a width in mm; 0 for none."""
    some = set(ids)
    return replace(
        job,
        contours=tuple(
            replace(item, line=width) if item.id in some and item.line != width else item
            for item in job.contours
        ),
    )


def change_contours(job: Job, contours: Mapping[str, Contour]) -> Job:
    """Contours changed by hand."""
    before, job = job.contour_by_id, replace_contours(job, contours)
    return (
        replace(
            job,
            contours=tuple(
                i if i.by_hand or i is before[i.id] else replace(i, by_hand=True)
                for i in job.contours
            ),
        )
        if contours
        else job
    )


def replace_contours(job: Job, contours: Mapping[str, Contour]) -> Job:
    """Contours of other shapes in the place of others of the same ids: those that are linked to one
    take its shape as well, and an ellipse is a contour like others from then on. Where cuts begin
    and tabs hold stays in its place, as near as the new shape has one."""
    by_id = job.contour_by_id
    items = {
        k: replace(by_id[k], contour=contour, ellipse=None)
        for k, contour in contours.items()
        if contour is not by_id[k].contour
    }
    first = {item.link: item for item in reversed(items.values()) if item.link}
    shapes = {link: item.contour.transformed(item.placed.inverse()) for link, item in first.items()}
    for other in job.contours if shapes else ():
        if other.link in shapes and other.id != first[other.link].id:
            items[other.id] = replace(
                other, contour=shapes[other.link].transformed(other.placed), ellipse=None
            )
    return replace(_with_items(job, items), operations=spots_carried(job.operations, by_id, items))


def set_ellipse(job: Job, contour_id: str, ellipse: Affine) -> Job:
    """A contour that is an ellipse from now on, the unit circle under a map; and those that are
    linked to it."""
    before = job.contour_by_id[contour_id]
    shape = ellipse.then(before.placed.inverse())
    job = change_contours(job, {contour_id: unit_ellipse().transformed(ellipse)})
    same = {
        i.id for i in job.contours if i.id == contour_id or (before.link and i.link == before.link)
    }
    return replace(
        job,
        contours=tuple(
            replace(i, ellipse=shape.then(i.placed)) if i.id in same else i for i in job.contours
        ),
    )


def mean_slits(job: Job, ids: Iterable[str], meant: bool = True) -> Job:
    """Open contours that are meant to be open, or not."""
    some = set(ids)
    return replace(
        job,
        contours=tuple(
            replace(i, slit=meant) if i.id in some and not i.contour.closed else i
            for i in job.contours
        ),
    )


def remove_contours(job: Job, ids: Iterable[str]) -> Job:
    """The job without contours, and without groups that held nothing else."""
    gone = set(ids)
    if not gone:
        return job
    left = removed(job, "contours", gone)
    full = filled_parts(left.parts, (*left.contours, *left.helpers))
    empty = {group.id for group in left.parts} - {group.id for group in full}
    return removed(left, "parts", empty) if empty else left


def remove_for_good(job: Job, ids: Iterable[str]) -> Job:
    """The job without contours that nothing takes the place of, and without what rides on them: a
    bridge left there would hold whatever is cut beside it."""
    gone = frozenset(ids)
    for field, thing in list(riders_of(job, gone)):
        job = removed(job, field, [thing.id])
    return remove_contours(job, gone)


def filled_parts(groups: tuple[Part, ...], items: Sequence[ContourItem]) -> tuple[Part, ...]:
    """Those of the groups in which something stands, be it in a group within."""
    parent, used = {group.id: group.within for group in groups}, set()
    for name in {item.part for item in items}:
        while name in parent and name not in used:
            used.add(name)
            name = parent[name]
    return (
        groups if len(used) == len(groups) else tuple(group for group in groups if group.id in used)
    )
