"""Edits: functions from a job to a job. None changes what it is given; all keep ids, and operations
never name a contour that is gone."""

from __future__ import annotations

import math
from collections.abc import Container, Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from draxet.files import plain_words
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour, boxes_of
from draxet.geometry.likeness import runs_along
from draxet.geometry.shapes import unit_ellipse
from draxet.job.contour_ties import fits_without, orders_without
from draxet.job.operating import operations_without
from draxet.job.records import (
    Bridge,
    ContourItem,
    Group,
    Guide,
    HandedOff,
    Job,
    KnownLength,
    MeasureNote,
    Picture,
    Sheet,
    SquareStep,
)
from draxet.job.spots import spots_carried
from draxet.job.steps import Cover, Crop, PrepareStep, Shrink, orientation

__all__ = [
    "add_bridges",
    "add_contours",
    "add_guide",
    "add_note",
    "add_picture",
    "add_sheet",
    "change_bridge",
    "change_contours",
    "change_picture",
    "choose_sheet",
    "colour_contours",
    "copy_picture",
    "cut_out",
    "filled_groups",
    "fix_size",
    "half_turn",
    "hand_off_noted",
    "map_contours",
    "mean_slits",
    "map_picture",
    "move_guide",
    "order_picture",
    "remove_bridges",
    "remove_contours",
    "remove_guides",
    "remove_note",
    "remove_picture",
    "remove_sheet",
    "replace_contours",
    "retrace",
    "set_ellipse",
    "set_known_lengths",
    "set_lines",
    "set_setup",
    "set_sheet",
    "set_steps",
    "set_unit",
    "square_picture",
    "template_of",
]

_SAME_PX, _SAME_SHARE = 1.5, 0.6
"""A traced contour is one changed by hand where so much of that lies within so many pixels of
it."""
_SHEET_GAP = 40.0
"""mm between sheets on the bench."""


def add_picture(
    job: Job,
    name: str,
    source: bytes,
    size: tuple[int, int],
    to_job: Affine,
    dpi: float | None = None,
    page: int = 0,
) -> tuple[Job, str]:
    """The job with one more picture in front of the others, and its id."""
    picture = Picture(
        f"picture-{job.next_id}", plain_words(name), source, size, to_job, dpi, page=page
    )
    return replace(job, pictures=(*job.pictures, picture), next_id=job.next_id + 1), picture.id


def remove_picture(job: Job, picture_id: str) -> Job:
    """The job without a picture; what was traced from it stays and belongs to no picture from then
    on."""
    contours = tuple(
        replace(item, picture="") if item.picture == picture_id else item for item in job.contours
    )
    return replace(
        job, pictures=tuple(p for p in job.pictures if p.id != picture_id), contours=contours
    )


def change_picture(job: Job, picture_id: str, **changes: Any) -> Job:
    """A picture with other words or state: name, locked, visible, strength, came_from,
    may_be_used."""
    return _with_picture(job, replace(job.picture_by_id[picture_id], **changes))


def order_picture(job: Job, picture_id: str, forward: int) -> Job:
    """A picture moved so many places to the front (to the back where under 0)."""
    pictures = list(job.pictures)
    at = next(k for k, p in enumerate(pictures) if p.id == picture_id)
    pictures.insert(min(max(at + forward, 0), len(pictures) - 1), pictures.pop(at))
    return replace(job, pictures=tuple(pictures)) if tuple(pictures) != job.pictures else job


def copy_picture(job: Job, picture_id: str, dx: float, dy: float) -> tuple[Job, str]:
    """One more of a picture, moved by (dx, dy) mm, and its id."""
    picture = job.picture_by_id[picture_id]
    again = replace(
        picture, id=f"picture-{job.next_id}", to_job=picture.to_job.then(Affine.moved(dx, dy))
    )
    return replace(job, pictures=(*job.pictures, again), next_id=job.next_id + 1), again.id


def cut_out(job: Job, picture_id: str, box: tuple[float, float, float, float]) -> tuple[Job, str]:
    """Part of a picture as a picture of its own, lying where it lay, its size not known yet; and
    its id.

    Parameters
    ----------
    box : x0, y0, x1, y1 in the pixels that are worked with.
    """
    picture = job.picture_by_id[picture_id]
    (x0, y0), (x1, y1) = picture.to_base.point(*box[:2]), picture.to_base.point(*box[2:])
    steps = (*picture.steps, PrepareStep(Crop(x0, y0, x1, y1)))
    detail = replace(
        picture,
        id=f"picture-{job.next_id}",
        name=f"Detail of {picture.name}",
        steps=steps,
        known_lengths=(),
        unstretched=False,
        locked=False,
    )
    base = picture.to_base.inverse().then(picture.to_job)
    detail = replace(detail, to_job=detail.to_base.then(base))
    return replace(job, pictures=(*job.pictures, detail), next_id=job.next_id + 1), detail.id


def map_picture(job: Job, picture_id: str, after: Affine) -> Job:
    """A picture moved, turned or scaled by `after`; contours traced from it go with it, those of
    fixed size without resizing."""
    picture = job.picture_by_id[picture_id]
    job = _with_picture(job, replace(picture, to_job=picture.to_job.then(after)))
    return map_contours(
        job, [item.id for item in job.contours if item.picture == picture_id], after
    )


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
    made = _with_company(_with_items(job, {**moved, **moved_too}), moved, after)
    for name, likewise in following.items() if made.bridges else ():
        made = _with_company(made, {name}, likewise)
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


def _with_company(job: Job, ids: Container[str], after: Affine) -> Job:
    """Bridges of contours, and words whose contours are all among them, gone along with those."""
    if any(bridge.contour in ids for bridge in job.bridges):
        job = replace(
            job,
            bridges=tuple(
                bridge.mapped(after) if bridge.contour in ids else bridge for bridge in job.bridges
            ),
        )
    left = {item.group for item in job.contours if item.id not in ids} if job.letterings else set()
    if all(lettering.group in left for lettering in job.letterings):
        return job
    going = (
        each if each.group in left else each.mapped(after)
        for each in job.letterings
        if each.group in left or each.along not in job.contour_by_id or each.along in ids
    )
    return replace(
        job, letterings=tuple(going)
    )  # words taken away from what they run along are contours


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


def set_known_lengths(
    job: Job, picture_id: str, known: Sequence[KnownLength], *, unstretched: bool = False
) -> Job:
    """The known lengths of a picture, and whether it is unstretched by them."""
    return _with_picture(
        job,
        replace(job.picture_by_id[picture_id], known_lengths=tuple(known), unstretched=unstretched),
    )


def set_steps(job: Job, picture_id: str, steps: Sequence[PrepareStep]) -> Job:
    """A picture's prepare steps in their order. Nothing moves but by turns and flips; known lengths
    stay on their places."""
    picture = job.picture_by_id[picture_id]
    after = replace(picture, steps=tuple(steps))
    if after.steps == picture.steps:
        return job
    again = after.to_base.then(picture.to_base.inverse())  # new pixels to old ones
    back = again.inverse()
    known = tuple(
        replace(
            k,
            first=back.point(*k.first),
            second=back.point(*k.second),
            first_spread=k.first_spread.mapped(back),
            second_spread=k.second_spread.mapped(back),
        )
        for k in picture.known_lengths
    )
    job = _with_picture(job, replace(after, to_job=again.then(picture.to_job), known_lengths=known))
    turned = orientation(picture.steps).inverse().then(orientation(after.steps))
    return (
        job
        if turned == Affine()
        else map_picture(job, picture_id, turned.about(*job.picture_by_id[picture_id].middle))
    )


def square_picture(job: Job, picture_id: str, step: SquareStep | None, to_job: Affine) -> Job:
    """A photo squared, or as it was taken. Its base pixels are other ones now, so its known
    lengths, its contours' tie, and the steps that name places (crop, shrink, cover) go."""
    picture = job.picture_by_id[picture_id]
    kept = tuple(s for s in picture.steps if not isinstance(s.kind, Crop | Shrink | Cover))
    squared = replace(
        picture, square=step, steps=kept, to_job=to_job, known_lengths=(), unstretched=False
    )
    contours = tuple(
        replace(item, picture="") if item.picture == picture_id else item for item in job.contours
    )
    return _with_picture(replace(job, contours=contours), squared)


def _with_picture(job: Job, picture: Picture) -> Job:
    return replace(job, pictures=tuple(picture if p.id == picture.id else p for p in job.pictures))


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


def add_bridges(job: Job, bridges: Sequence[Bridge]) -> Job:
    """More bridges, each with an id of its own."""
    new = tuple(replace(bridge, id=f"bridge-{job.next_id + k}") for k, bridge in enumerate(bridges))
    return replace(job, bridges=(*job.bridges, *new), next_id=job.next_id + len(new))


def change_bridge(job: Job, bridge: Bridge) -> Job:
    """Another bridge in the place of that of the same id."""
    return replace(
        job, bridges=tuple(bridge if each.id == bridge.id else each for each in job.bridges)
    )


def remove_bridges(job: Job, ids: Iterable[str]) -> Job:
    gone = frozenset(ids)
    return replace(job, bridges=tuple(bridge for bridge in job.bridges if bridge.id not in gone))


def remove_contours(job: Job, ids: Iterable[str]) -> Job:
    gone = set(ids)
    if not gone:
        return job
    kept = tuple(item for item in job.contours if item.id not in gone)
    return replace(
        job,
        contours=kept,
        operations=operations_without(job.operations, gone),
        groups=filled_groups(job.groups, (*kept, *job.helpers)),
        orders=orders_without(job.orders, gone),
        fits=fits_without(job.fits, gone),
    )


def filled_groups(groups: tuple[Group, ...], items: Sequence[ContourItem]) -> tuple[Group, ...]:
    """Those of the groups in which something stands, be it in a group within."""
    parent, used = {group.id: group.within for group in groups}, set()
    for name in {item.group for item in items}:
        while name in parent and name not in used:
            used.add(name)
            name = parent[name]
    return (
        groups if len(used) == len(groups) else tuple(group for group in groups if group.id in used)
    )


def add_sheet(job: Job) -> tuple[Job, str]:
    """The job with one more sheet like the one in hand, to the right of all, in hand now; and its
    id."""
    like = job.sheet
    right = max(sheet.x + sheet.width for sheet in job.sheets)
    sheet = replace(
        like,
        id=f"sheet-{job.next_id}",
        name=f"Sheet {len(job.sheets) + 1}",
        x=right + _SHEET_GAP,
        y=0.0,
    )
    return replace(
        job, sheets=(*job.sheets, sheet), sheet_id=sheet.id, next_id=job.next_id + 1
    ), sheet.id


def choose_sheet(job: Job, sheet_id: str) -> Job:
    return replace(job, sheet_id=sheet_id) if sheet_id != job.sheet_id else job


def set_sheet(job: Job, sheet: Sheet) -> Job:
    """A sheet with other settings, in its place. Where it grows, the sheets to its right make room
    with all that lies on them."""
    before = next(s for s in job.sheets if s.id == sheet.id)
    grown = max(0.0, sheet.width - before.width)
    later = [s for s in job.sheets if s.x > before.x]
    for other in later if grown else []:
        job = _shifted(job, other, grown)
    return replace(job, sheets=tuple(sheet if s.id == sheet.id else s for s in job.sheets))


def _shifted(job: Job, sheet: Sheet, dx: float) -> Job:
    """A sheet moved along with all that lies on it."""
    move = Affine.moved(dx, 0.0)

    def lies_on(x0: float, x1: float) -> bool:
        return sheet.x <= (x0 + x1) / 2 <= sheet.x + sheet.width

    def along(places: Sequence[tuple[float, float]]) -> tuple[tuple[float, float], ...]:
        on = lies_on(min(x for x, _ in places), max(x for x, _ in places))
        return tuple((x + dx, y) for x, y in places) if on else tuple(places)

    mine = {i.id for i in job.contours if i.sheet == sheet.id}
    moved = replace(
        job,
        pictures=tuple(
            replace(p, to_job=p.to_job.then(move)) if lies_on(p.box[0], p.box[2]) else p
            for p in job.pictures
        ),
        contours=tuple(i.mapped(move) if i.sheet == sheet.id else i for i in job.contours),
        helpers=tuple(i.mapped(move) if i.sheet == sheet.id else i for i in job.helpers),
        points=tuple(
            replace(p, x=p.x + dx) if job.sheet_of_point(p) == sheet.id else p for p in job.points
        ),
        drop_outs=tuple(along([place])[0] for place in job.drop_outs),
        guides=tuple(replace(g, x=along([(g.x, g.y)])[0][0]) for g in job.guides),
        bridges=tuple(
            b.mapped(move) if not b.contour and lies_on(b.x, b.x) else b for b in job.bridges
        ),
        notes=tuple(replace(note, places=along(note.places)) for note in job.notes),
        sheets=tuple(replace(s, x=s.x + dx) if s.id == sheet.id else s for s in job.sheets),
    )
    return _with_company(moved, mine, move)


def remove_sheet(job: Job, sheet_id: str) -> Job:
    """The job without a sheet; the last one stays. What lies on it stays too, and belongs to the
    first one from then on."""
    left = tuple(sheet for sheet in job.sheets if sheet.id != sheet_id)
    if not left or len(left) == len(job.sheets):
        return job
    contours = tuple(
        replace(item, sheet=left[0].id) if item.sheet == sheet_id else item for item in job.contours
    )
    return replace(job, sheets=left, sheet_id=left[0].id, contours=contours)


def set_unit(job: Job, unit: str) -> Job:
    return replace(job, unit=unit) if unit != job.unit else job


def set_setup(job: Job, **changes: Any) -> Job:
    """The job with another limit, exactness or smallest_feature."""
    return (
        replace(job, **changes)
        if any(getattr(job, name) != value for name, value in changes.items())
        else job
    )


def template_of(job: Job) -> Job:
    """The job's set-up alone: unit, sheets, limit, exactness; no pictures, no contours."""
    return Job(
        job.name,
        job.unit,
        job.sheets,
        job.sheet_id,
        job.limit,
        job.exactness,
        job.smallest_feature,
        machines=job.machines,
        next_id=job.next_id,
    )


def add_note(job: Job, kind: str, places: Sequence[tuple[float, float]], words: str) -> Job:
    """A measurement kept on the drawing."""
    note = MeasureNote(f"note-{job.next_id}", kind, tuple(places), words)
    return replace(job, notes=(*job.notes, note), next_id=job.next_id + 1)


def remove_note(job: Job, note_id: str) -> Job:
    return replace(job, notes=tuple(note for note in job.notes if note.id != note_id))


def add_guide(job: Job, x: float, y: float, angle: float) -> Job:
    """A guide through a place, at so many degrees."""
    guide = Guide(f"guide-{job.next_id}", x, y, angle)
    return replace(job, guides=(*job.guides, guide), next_id=job.next_id + 1)


def remove_guides(job: Job, ids: Iterable[str] | None = None) -> Job:
    """Guides, or all of them, are gone."""
    gone = frozenset(guide.id for guide in job.guides) if ids is None else frozenset(ids)
    return replace(job, guides=tuple(guide for guide in job.guides if guide.id not in gone))


def move_guide(job: Job, guide_id: str, x: float, y: float) -> Job:
    """A guide through another place, at the angle that it has."""
    return replace(
        job,
        guides=tuple(
            replace(guide, x=x, y=y) if guide.id == guide_id else guide for guide in job.guides
        ),
    )


def half_turn(degrees: float) -> float:
    """An angle of a line, from -90 to 90 degrees."""
    return (degrees + 90.0) % 180.0 - 90.0


def hand_off_noted(job: Job, file: str, sheet_id: str, *, back: bool = False) -> Job:
    """The work of a side of a sheet left in a file."""
    sheet = next(sheet for sheet in job.sheets if sheet.id == sheet_id)
    others = tuple(each for each in job.handed_off if (each.sheet, each.back) != (sheet.id, back))
    return replace(
        job,
        handed_off=(*others, HandedOff(plain_words(file), job.work_digest(sheet), sheet.id, back)),
    )
