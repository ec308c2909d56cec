"""Edits of contours, with what refers to them.

Functions from a job to a job: none changes what it is given, all keep ids, and operations
never name a contour that is gone.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import replace

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour, boxes_of
from draxet.geometry.likeness import runs_along
from draxet.geometry.pieces import closed_up
from draxet.geometry.shapes import unit_ellipse
from draxet.job.contour_moves import map_contours, with_items
from draxet.job.contour_records import ContourItem, Part, Placement
from draxet.job.entries import changed, set_on
from draxet.job.layout import (
    map_of,
    meant_by,
    members_of,
    names_laid,
    parts_within,
    way_to,
    whole_parts,
)
from draxet.job.layout_names import drawn_ids, drawn_name, laid_name, split_name
from draxet.job.placed import carrier_of, riders_of
from draxet.job.records import Job
from draxet.job.references import all_renamed, removed
from draxet.job.spots import spots_carried

__all__ = [
    "add_contours",
    "change_contours",
    "close_contours",
    "colour_contours",
    "exchange_colour",
    "filled_parts",
    "fix_size",
    "mean_slits",
    "remove_contours",
    "remove_for_good",
    "replace_contours",
    "retrace",
    "set_ellipse",
    "set_lines",
]

_SAME_PX, _SAME_SHARE = 1.5, 0.6
"""A traced contour is one changed by hand where so much of that lies within so many pixels of
it."""


def fix_size(job: Job, ids: Iterable[str], fixed: bool) -> Job:
    """Contours whose size is locked, or free again."""
    return set_on(job, "contours", drawn_ids(ids), fixed=fixed)


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
    *,
    adds: bool = False,
) -> Job:
    """Contours traced from a picture in place of those traced from it before. What was changed by
    hand since is left alone, and a new contour that would lie on such a one is left out. Where it
    `adds`, all that was traced before is left alone so.

    Parameters
    ----------
    within : box in job space; where given, only earlier contours that lie in it give way.
    """
    old = [item for item in job.contours if item.picture == picture_id]
    gone = [
        item.id
        for item in old
        if not adds and not item.by_hand and (within is None or _lies_in(item.contour.box, within))
    ]
    kept = [item.contour for item in old if item.by_hand or adds]
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
    return set_on(job, "contours", drawn_ids(ids), colour=colour)


def set_lines(job: Job, ids: Iterable[str], width: float) -> Job:
    """Contours that stand for lines of a width in mm; 0 for none."""
    return set_on(job, "contours", drawn_ids(ids), line=width)


def close_contours(job: Job, ids: Iterable[str]) -> Job:
    """Open contours closed, by a line each where their ends do not meet."""
    items = job.layout.contour_by_id
    return change_contours(job, {name: closed_up(items[name].contour) for name in ids})


def change_contours(job: Job, contours: Mapping[str, Contour]) -> Job:
    """Contours changed by hand."""
    before, job = job, replace_contours(job, contours)
    if not contours:
        return job
    pairs = zip(job.contours, before.contours, strict=True)
    return replace(
        job,
        contours=tuple(
            i if i is was or i.by_hand else replace(i, by_hand=True) for i, was in pairs
        ),
    )


def replace_contours(job: Job, contours: Mapping[str, Contour]) -> Job:
    """Contours of other shapes in the place of others of the same ids, be it ones that placements
    lay: what follows them takes their shape as well, and an ellipse is a contour like others from
    then on. Where cuts begin and tabs hold stays in its place, as near as the new shape has one."""
    by_id, laid = job.contour_by_id, job.layout.contour_by_id
    items: dict[str, ContourItem] = {}
    for name in sorted(contours, key=lambda name: name not in by_id):
        if contours[name] is not laid[name].contour and drawn_name(name) not in items:
            to = way_to(job, name)
            shape = contours[name] if to is None else contours[name].transformed(to.inverse())
            items[drawn_name(name)] = replace(by_id[drawn_name(name)], contour=shape, ellipse=None)
    return replace(with_items(job, items), operations=spots_carried(job.operations, by_id, items))


def set_ellipse(job: Job, contour_id: str, ellipse: Affine) -> Job:
    """A contour that is an ellipse from now on, the unit circle under a map; and what follows
    it."""
    to, name = way_to(job, contour_id), drawn_name(contour_id)
    own = ellipse if to is None else ellipse.then(to.inverse())
    job = change_contours(job, {name: unit_ellipse().transformed(own)})
    return set_on(job, "contours", (name,), ellipse=own)


def exchange_colour(job: Job, before: str, colour: str) -> Job:
    """Another colour (#rrggbb) wherever the job has one."""
    ids = {item.id for item in job.contours if item.colour.lower() == before.lower()}
    return set_on(job, "contours", ids, colour=colour)


def mean_slits(job: Job, ids: Iterable[str], meant: bool = True) -> Job:
    """Open contours that are meant to be open, or not."""
    some = drawn_ids(ids)
    opened = {item.id for item in job.contours if item.id in some and not item.contour.closed}
    return set_on(job, "contours", opened, slit=meant)


def remove_contours(job: Job, ids: Iterable[str]) -> Job:
    """The job without contours, and without parts that held nothing else. Where all of a part is
    among them, its first placement that is left takes its place."""
    meant = meant_by(job, ids)
    while meant.inside:
        inner = (name for _, names in meant.inside for name in names)
        meant = meant_by(job, {*meant.drawn, *inner, *_laid_by(job, meant.placements)})
    gone, going = {*meant.drawn, *_laid_by(job, meant.placements)}, set(meant.placements)
    for name in _outer_first(job, whole_parts(job, gone)) if job.placements else ():
        members = {item.id for item in members_of(job, name)}
        heir = next((p for p in job.placements if p.part == name and p not in going), None)
        if heir and members <= gone:
            job, gone = _inherited(job, heir), gone - members
    meant = meant_by(job, gone)
    if meant.placements:
        job = removed(job, "placements", {each.id for each in meant.placements})
    if meant.drawn:
        job = removed(job, "contours", meant.drawn)
    empty = {part.id for part in job.parts} - {part.id for part in filled_parts(job)}
    return removed(job, "parts", empty) if gone and empty else job


def _laid_by(job: Job, placements: Iterable[Placement]) -> Iterator[str]:
    for placement in placements:
        for item in members_of(job, placement.part):
            yield laid_name(placement.id, item.id)


def _outer_first(job: Job, parts: Collection[str]) -> list[str]:
    return sorted(parts, key=lambda name: -len(parts_within(job, name)))


def _inherited(job: Job, heir: Placement) -> Job:
    """A part where a placement of it lies, and that placement gone."""
    members = frozenset(item.id for item in members_of(job, heir.part))
    if heir.by_itself:
        for field, thing in list(riders_of(job, members | parts_within(job, heir.part))):
            job = removed(job, field, [thing.id])
        job = removed(job, "contours", members, kept=True)
    job = map_contours(job, members, map_of(job, heir))
    job = changed(
        job,
        "contours",
        members,
        lambda item: replace(item, picture="", traced="", sheet=heir.sheet or item.sheet),
    )
    job = set_on(job, "parts", (heir.part,), within=heir.within)
    names = {name: split_name(name)[1] for name in names_laid(job, heir)} | {heir.id: heir.part}
    job = all_renamed(job, names)
    return removed(job, "placements", [heir.id])


def remove_for_good(job: Job, ids: Iterable[str]) -> Job:
    """The job without contours that nothing takes the place of, and without what rides on them: a
    bridge left there would hold whatever is cut beside it."""
    gone = frozenset(ids)
    riding = list(riders_of(job, gone | drawn_ids(gone)))
    job = remove_contours(job, gone)
    for field, thing in riding:
        if carrier_of(thing) not in job.layout.contour_by_id:
            job = removed(job, field, [thing.id])
    return job


def filled_parts(job: Job) -> tuple[Part, ...]:
    """The parts of a job in which something stands, be it in a part within."""
    parent, used = {part.id: part.within for part in job.parts}, set[str]()
    names = {item.part for item in (*job.contours, *job.helpers)}
    for name in names | {each.within for each in job.placements}:
        while name in parent and name not in used:
            used.add(name)
            name = parent[name]
    if len(used) == len(parent):
        return job.parts
    return tuple(part for part in job.parts if part.id in used)
