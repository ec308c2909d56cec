"""Copies: of their own, or placements, which follow the part that they lay."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from typing import Any

from draxet.geometry.affine import Affine
from draxet.job.contour_edits import remove_contours
from draxet.job.contour_moves import box_around
from draxet.job.contour_records import ContourItem, Lettering, Part, Placement
from draxet.job.entries import changed, set_on
from draxet.job.layout import map_of, meant_by, members_of, names_laid, parts_within, whole_parts
from draxet.job.layout_names import drawn_ids, laid_name, split_name
from draxet.job.part_making import new_part
from draxet.job.placed import riders_of
from draxet.job.records import Job
from draxet.job.references import all_renamed, lists_of, removed, renamed

__all__ = [
    "apart_in_work",
    "copied_out",
    "made_own",
    "place_copies",
    "removed_alone",
    "take_in",
    "worked_as_part",
    "worked_by_itself",
]


def place_copies(
    job: Job,
    ids: Iterable[str],
    places: Sequence[Affine],
    *,
    linked: bool = False,
    symmetric: bool = False,
) -> tuple[Job, frozenset[str]]:
    """Copies of contours of the layout, with what rides on them, under each of several maps, and
    the ids of the new ones in it. Whole parts among them are parts again. `linked` : they follow
    what they are copied from, as placements of it as one part; `symmetric` : and move likewise,
    each in its own half or sector."""
    some = dict.fromkeys(ids)
    if not linked:
        made, names = _laid(job, copied_out(job, some), places)
        return made, frozenset(name for each in names for name in each.values()) & (
            made.contour_by_id.keys()
        )
    job, units = _units(job, some)
    placements, new = list[Placement](), list[str]()
    for place in places:
        for part, at in units:
            members = members_of(job, part)
            x0, y0, x1, y1 = box_around(members)
            placed = at.then(place)
            there = job.part_by_id[part].frame.inverse().then(placed)
            x, y = there.point((x0 + x1) / 2, (y0 + y1) / 2)
            name = f"placement-{job.next_id + len(placements)}"
            sheet = job.sheet_under((x, y, x, y)) or members[0].sheet or job.sheet.id
            placements.append(Placement(name, part, placed, sheet, symmetric=symmetric))
            new += [laid_name(name, item.id) for item in members]
    found = replace(
        job,
        placements=(*job.placements, *placements),
        next_id=job.next_id + len(placements),
    )
    return found, frozenset(new)


def _units(job: Job, ids: Iterable[str]) -> tuple[Job, list[tuple[str, Affine]]]:
    """The parts that contours of the layout are, made where they are none yet, each with the map
    from its frame to where those lie."""
    some = set(ids)
    meant, whole = meant_by(job, some), whole_parts(job, some)
    placed = [each for each in meant.placements if each.within not in whole]
    units = [(each.part, each.placed) for each in placed]
    for placement, inner in meant.inside:
        job, more = _units(job, inner)
        units += [(part, at.then(map_of(job, placement))) for part, at in more]
    tops = {name for name in whole if job.part_by_id[name].within not in whole}
    within = {name for top in tops for name in parts_within(job, top)}
    loose: dict[str, list[str]] = {}
    for name in meant.drawn:
        if job.contour_by_id[name].part not in within:
            loose.setdefault(job.contour_by_id[name].part, []).append(name)
    holders = {job.part_by_id[top].within for top in tops} | loose.keys()
    for holder in sorted(holders):
        parts = sorted(top for top in tops if job.part_by_id[top].within == holder)
        if len(parts) == 1 and not loose.get(holder):
            found = parts[0]
        else:
            job, found = new_part(job, loose.get(holder, ()), parts, holder)
        units.append((found, job.part_by_id[found].frame))
    return job, units


def copied_out(job: Job, ids: Iterable[str]) -> Job:
    """Contours of the layout alone, with the parts all of which are among them and all that rides
    on either, as a job. Words that run along what is not among them are contours there."""
    some, job = frozenset(ids), job.layout
    items = tuple(item for item in job.contours if item.id in some)
    whole = whole_parts(job, some) if any(item.part for item in items) else frozenset()
    riding: dict[str, list[Any]] = {}
    for field, thing in riders_of(job, some | whole):
        if not isinstance(thing, Lettering) or not thing.along or thing.along in some:
            riding.setdefault(field, []).append(thing)
    lists: dict[str, Any] = {name: () for name in lists_of(job) if name != "sheets"}
    lists |= {name: tuple(things) for name, things in riding.items()}
    parts = tuple(part for part in job.parts if part.id in whole)
    return replace(job, **{**lists, "contours": items, "parts": parts})


def _laid(job: Job, taken: Job, places: Sequence[Affine]) -> tuple[Job, list[dict[str, str]]]:
    """All of a job of contours, parts and what rides on them, in another one under each of several
    maps; each thing is itself but for its id, its place and what it refers to. With the new ids by
    the old ones, for each of the maps."""
    lists: dict[str, list[Any]] = {name: list(getattr(job, name)) for name in lists_of(job)}
    sheets = {sheet.id for sheet in job.sheets}
    parts = {part.id for part in taken.parts}
    number, every = job.next_id, list[dict[str, str]]()
    things = [(name, each) for name in lists for each in getattr(taken, name) if name != "sheets"]
    for place in places:
        names = {
            each.id: f"{name.removesuffix('s').replace('_', '-')}-{number + k}"
            for k, (name, each) in enumerate(things)
        }
        number += len(things)
        for name, each in things:
            copy = replace(
                each.mapped(place) if hasattr(each, "mapped") else each, id=names[each.id]
            )
            if isinstance(copy, ContourItem):
                sheet = job.sheet_under(copy.box) or (
                    copy.sheet if copy.sheet in sheets else job.sheet.id
                )
                part = copy.part if copy.part in parts else ""
                copy = replace(copy, picture="", by_hand=False, traced="", sheet=sheet, part=part)
            elif isinstance(copy, Part):
                within = copy.within if copy.within in parts else ""
                copy = replace(copy, within=within, locked=False)
            elif isinstance(copy, Lettering):
                copy = replace(copy, waiting=())
            lists[name].append(renamed(copy, names))
        every.append(names)
    changes: dict[str, Any] = {
        name: tuple(each) for name, each in lists.items() if len(each) > len(getattr(job, name))
    }
    return replace(job, **changes, next_id=number), every


def take_in(job: Job, other: Job) -> tuple[Job, frozenset[str]]:
    """The contours of another job in their places, with their parts and what rides on them, and
    their ids in this one."""
    taken = copied_out(other, [item.id for item in other.layout.contours])
    made, (names,) = _laid(job, taken, [Affine()])
    return made, frozenset(names[item.id] for item in taken.contours)


def worked_by_itself(job: Job, *placement_ids: str) -> Job:
    """Placements that are worked as they are now, whatever is done to their part's work."""
    some = {name for name in placement_ids if not job.placement_by_id[name].by_itself}
    if not some:
        return job
    layout, number = job.layout, job.next_id

    def is_laid(name: str) -> bool:
        return split_name(name)[0] in some

    lists: dict[str, Any] = {}
    for field in lists_of(job):
        if field not in ("contours", "parts", "operations"):
            own = [each for each in getattr(layout, field) if is_laid(getattr(each, "id", ""))]
            kind = field.removesuffix("s").replace("_", "-")
            more = tuple(replace(each, id=f"{kind}-{number + k}") for k, each in enumerate(own))
            number += len(more)
            if more:
                lists[field] = (*getattr(job, field), *more)
    operations = []
    for operation, laid in zip(job.operations, layout.operations, strict=True):
        names = [name for name in laid.contours if is_laid(name)]
        spots = [spot for spot in getattr(laid, "spots", ()) if is_laid(spot.contour)]
        changes: dict[str, Any] = {"contours": (*operation.contours, *names)} if names else {}
        if spots:
            changes["spots"] = (*operation.spots, *spots)
        operations.append(replace(operation, **changes) if changes else operation)  # type: ignore[type-var]
    made = replace(job, **lists, operations=tuple(operations), next_id=number)
    return set_on(made, "placements", some, by_itself=True)


def apart_in_work(job: Job, ids: Iterable[str]) -> Job:
    """A job in which what is done to the work of some contours of the layout concerns no others:
    placements that do not have all of that in common with their part are worked by themselves."""
    some = set(ids)
    for name in some:
        placement, inner = split_name(name)
        if placement and inner not in some:
            job = worked_by_itself(job, placement)
    return job


def worked_as_part(job: Job, placement_id: str) -> Job:
    """A placement that is worked as its part is; what was done to it by itself is gone."""
    if not job.placement_by_id[placement_id].by_itself:
        return job
    ids = names_laid(job, job.placement_by_id[placement_id])
    for field, thing in list(riders_of(job, ids)):
        job = removed(job, field, [thing.id])
    job = removed(job, "contours", ids, kept=True)
    return set_on(job, "placements", (placement_id,), by_itself=False)


def made_own(job: Job, ids: Iterable[str]) -> tuple[Job, dict[str, str]]:
    """Contours of the layout that follow nothing any more, and keep their shape; the new ids of
    those and of their parts by the old ones. What followed them follows the first of it."""
    some = list(ids)
    names: dict[str, str] = {}
    if laid := list(dict.fromkeys(split_name(name)[0] for name in some if "/" in name)):
        job, names = _placements_made_own(job, laid)
    placed = {each.part for each in job.placements}
    drawn = drawn_ids(name for name in some if "/" not in name)
    for part in sorted(placed, key=lambda name: -len(parts_within(job, name))):
        heir = next((each for each in job.placements if each.part == part), None)
        if heir and any(item.id in drawn for item in members_of(job, part)):
            job = _handed_on(job, heir)
    return job, names


def removed_alone(job: Job, ids: Iterable[str]) -> Job:
    """The job without contours of the layout, and all that follows their parts as it was."""
    some = list(ids)
    job, names = made_own(job, (name for name in some if "/" in name))
    return remove_contours(job, [names.get(name, name) for name in some])


def _placements_made_own(job: Job, placement_ids: Sequence[str]) -> tuple[Job, dict[str, str]]:
    """All of them at once, so that many take no longer than one layout."""
    job = worked_by_itself(job, *placement_ids)
    placements = [job.placement_by_id[name] for name in placement_ids]
    ids = frozenset[str]().union(*(names_laid(job, placement) for placement in placements))
    taken, riding = copied_out(job, ids), dict[str, list[str]]()
    for field, thing in riders_of(job, ids):
        riding.setdefault(field, []).append(thing.id)
    for field, gone in riding.items():
        job = removed(job, field, gone)
    made, (names,) = _laid(job, taken, [Affine()])
    within = {names[placement.id]: placement.within for placement in placements}
    made = changed(made, "parts", within, lambda part: replace(part, within=within[part.id]))
    kept = {old: new for old, new in names.items() if old in ids}
    return removed(all_renamed(made, kept), "placements", placement_ids), names


def _handed_on(job: Job, heir: Placement) -> Job:
    """What follows a part follows its first placement instead, which is a part itself now."""
    job, names = _placements_made_own(job, [heir.id])
    part = names[heir.id]
    parts = tuple(replace(p, frame=heir.placed) if p.id == part else p for p in job.parts)
    others = [each for each in job.placements if each.part == heir.part]
    placements = tuple(
        replace(each, part=part) if each.part == heir.part else each for each in job.placements
    )
    to_names = {
        laid_name(each.id, split_name(old)[1]): laid_name(each.id, new)
        for each in others
        for old, new in names.items()
        if split_name(old)[0] == heir.id
    }
    return all_renamed(replace(job, parts=parts, placements=placements), to_names)
