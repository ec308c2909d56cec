"""The layout: a job as it lies on its sheets, every placement of a part laid out.

It is a job itself, without placements, and what programs, looks, files and the canvas read. What a
placement lays has the ids of what its part holds, led by the placement's own:
``placement-7/contour-3``. They stay the same for as long as both are there, and edits take them.
"""

from __future__ import annotations

from collections.abc import Collection, Container, Iterable, Iterator, Mapping, Sequence, Set
from dataclasses import replace
from typing import Any

from draxet.geometry.affine import Affine
from draxet.job.contour_records import Bridge, ContourItem, Lettering, Part, Placement
from draxet.job.layout_names import drawn_name, laid_name, split_name
from draxet.job.operations import Operation
from draxet.job.placed import riders_of
from draxet.job.records import LAYING, Job
from draxet.job.references import lists_of, renamed
from draxet.record import record

__all__ = [
    "LAID_FIELDS",
    "items_named",
    "times_laid",
    "Meant",
    "meant_by",
    "whole_parts",
    "as_worked",
    "laid_items",
    "laid_out",
    "map_of",
    "members_of",
    "names_laid",
    "parts_round",
    "parts_within",
    "placement_of",
    "way_to",
    "worked_name",
]

LAID_FIELDS = ("parts", "placements")
"""The fields of a job that its layout goes by, beside those in which it has more than the job."""


def placement_of(job: Job, name: str) -> Placement | None:
    """The placement that lays the thing of an id; None for what lies there itself."""
    return job.placement_by_id.get(split_name(name)[0])


def worked_name(job: Job, name: str) -> str:
    """The id by which operations name a contour of the layout: its part's, but where its placement
    is worked by itself."""
    placement = placement_of(job, name)
    if placement is None:
        return name
    inner = worked_name(job, split_name(name)[1])
    return laid_name(placement.id, inner) if placement.by_itself else inner


def as_worked(job: Job, rider: Bridge) -> Bridge:
    """What rides on a contour of the layout, on what operations name in its place."""
    name = worked_name(job, rider.contour)
    if name == rider.contour:
        return rider
    here, there = way_to(job, rider.contour), way_to(job, name)
    to = here.inverse() if here else Affine()
    moved = rider.mapped(to.then(there) if there else to)
    return replace(moved, contour=name, id=drawn_name(rider.id))


def parts_within(job: Job, part_id: str) -> frozenset[str]:
    """A part and all parts within it."""
    found, waiting = {part_id}, [part_id]
    while waiting:
        for name in job.parts_in.get(waiting.pop(), ()):
            if name not in found:
                found.add(name)
                waiting.append(name)
    return frozenset(found)


def parts_round(job: Job, part_id: str) -> list[str]:
    """A part and all that it belongs to, from within outwards."""
    found = list[str]()
    while part_id in job.part_by_id and part_id not in found:
        found.append(part_id)
        part_id = job.part_by_id[part_id].within
    return found


def map_of(job: Job, placement: Placement) -> Affine:
    """The map from where a part lies itself to where a placement lays it."""
    return job.part_by_id[placement.part].frame.inverse().then(placement.placed)


@record(frozen=True)
class Meant:
    """What ids in a layout mean: contours that are drawn, whole placements, and of others what
    they lay, by its ids within the part."""

    drawn: tuple[str, ...]
    placements: tuple[Placement, ...]
    inside: tuple[tuple[Placement, tuple[str, ...]], ...]


def meant_by(job: Job, ids: Iterable[str]) -> Meant:
    """What some ids in the layout mean."""
    drawn, laid = list[str](), dict[str, dict[str, None]]()
    for name in ids:
        placement, rest = split_name(name)
        if placement:
            laid.setdefault(placement, {})[rest] = None
        else:
            drawn.append(name)
    whole, inside = list[Placement](), list[tuple[Placement, tuple[str, ...]]]()
    for name, inner in laid.items():
        placement_in_hand = job.placement_by_id[name]
        if len(inner) == len(members_of(job, placement_in_hand.part)):
            whole.append(placement_in_hand)
        else:
            inside.append((placement_in_hand, tuple(inner)))
    return Meant(tuple(drawn), tuple(whole), tuple(inside))


def whole_parts(job: Job, ids: Container[str]) -> frozenset[str]:
    """The parts all of whose contours are among some of the layout's."""
    touched: set[str] = set()
    for name in {item.part for item in job.contours if item.part and item.id in ids}:
        while name in job.part_by_id and name not in touched:
            touched.add(name)
            name = job.part_by_id[name].within
    return frozenset(
        name for name in touched if all(item.id in ids for item in members_of(job, name))
    )


def way_to(job: Job, name: str) -> Affine | None:
    """The map from where something is drawn to where it lies in the layout; None where that is the
    same."""
    placement, rest = split_name(name)
    if not placement:
        return None
    inner, to = way_to(job, rest), map_of(job, job.placement_by_id[placement])
    return to if inner is None else inner.then(to)


def members_of(job: Job, part_id: str) -> tuple[ContourItem, ...]:
    """All contours of a part, those of placements within it included, as they lie. Kept once it is
    whole, as workers and the window ask for it at the same time."""
    if part_id not in job.members:
        within = parts_within(job, part_id)
        own = sorted(number for name in within for number in job.numbers_in.get(name, ()))
        more = (each for each in job.placements if each.within in within)
        job.members[part_id] = (
            *(job.contours[number] for number in own),
            *(item for each in more for item in laid_items(job, each)),
        )
    return job.members[part_id]


def laid_items(job: Job, placement: Placement) -> tuple[ContourItem, ...]:
    """The contours that a placement lays: the same ones for as long as nothing of them has
    changed."""
    members, to = members_of(job, placement.part), map_of(job, placement)
    kept = placement.kept.get("items")
    if kept and kept[1] == to and len(kept[0]) == len(members):
        if all(one is other for one, other in zip(kept[0], members, strict=True)):
            found: tuple[ContourItem, ...] = kept[2]
            return found
    made = tuple(
        replace(
            item.mapped(to),
            id=laid_name(placement.id, item.id),
            part=_part_name(placement, item.part),
            sheet=placement.sheet or item.sheet,
            picture="",
            traced="",
        )
        for item in members
    )
    placement.kept["items"] = (members, to, made)
    return made


def _part_name(placement: Placement, part: str) -> str:
    return placement.id if part == placement.part else laid_name(placement.id, part)


def names_laid(job: Job, placement: Placement) -> frozenset[str]:
    """The ids in the layout of the contours and parts that a placement lays: all that something
    can ride on."""
    parts = (_part_name(placement, name) for name in parts_within(job, placement.part))
    items = (laid_name(placement.id, item.id) for item in members_of(job, placement.part))
    return frozenset((*items, *parts))


def laid_out(job: Job) -> Job:
    """The layout of a job; itself where nothing is placed."""
    if not job.placements:
        return job
    laid = job
    while laid.placements:
        first, later = _first_to_lay(laid)
        if not first:  # parts that hold each other
            break
        laid = replace(_with_laid(laid, first), placements=later)
    kept, changes = job.placements[0].kept, dict[str, Any]()
    for field in lists_of(job):
        now, before = getattr(laid, field), kept.get(field)
        if before is not None and len(before) == len(now):
            if all(a is b or a == b for a, b in zip(before, now, strict=True)):
                changes[field] = before
        kept[field] = changes.get(field, now)
    return replace(laid, **{**changes, "placements": ()})


def _first_to_lay(job: Job) -> tuple[list[Placement], tuple[Placement, ...]]:
    """The placements whose parts hold no placement, and the others."""
    within = {each.within for each in job.placements} - {""}
    held = {part: bool(parts_within(job, part) & within) for part in _placed(job)}
    first = [each for each in job.placements if not held[each.part]]
    return first, tuple(each for each in job.placements if held[each.part])


def _placed(job: Job) -> set[str]:
    return {each.part for each in job.placements}


def times_laid(job: Job) -> dict[str, int]:
    """How often each part stands in the layout; RecursionError where parts hold each other."""
    placed: dict[str, list[str]] = {}
    for placement in job.placements:
        placed.setdefault(placement.part, []).append(placement.within)
    times: dict[str, int] = {"": 1}

    def of(part: str, holders: frozenset[str]) -> int:
        if part in holders:
            raise RecursionError
        if part not in times:
            inner, own = holders | {part}, job.part_by_id.get(part)
            times[part] = of(own.within, inner) if own else 1
            times[part] += sum(of(within, inner) for within in placed.get(part, ()))
        return times[part]

    for part in job.parts:
        of(part.id, frozenset())
    return times


def items_named(job: Job, ids: Collection[str]) -> tuple[ContourItem, ...]:
    """Those of some contours that are in the layout, without laying out all of it; what is drawn
    first."""
    own = (item for item in job.contours if item.id in ids)
    if not job.placements:
        if isinstance(ids, Set) and job.contour_by_id.keys() <= ids:
            return job.contours
        return tuple(own)
    names = {split_name(name)[0] for name in ids}
    laid = (placement for placement in job.placements if placement.id in names)
    return (*own, *(item for p in laid for item in laid_items(job, p) if item.id in ids))


def _with_laid(job: Job, placements: Sequence[Placement]) -> Job:
    """A job with all that some placements lay, in which no placement stands within their parts."""
    lists: dict[str, list[Any]] = {
        "contours": _in_order(job, placements),
        "parts": list(job.parts),
    }
    names: dict[str, set[str]] = {}
    for placement in placements:
        lists["parts"] += _parts_laid(job, placement)
        names[placement.id] = {item.id for item in members_of(job, placement.part)}
        if not placement.by_itself:
            for field, thing in _riders_laid(job, placement, names[placement.id]):
                lists.setdefault(field, list(getattr(job, field))).append(thing)
    followers = [each for each in placements if not each.by_itself]
    ties = {
        field: (*getattr(job, field), *_ties_laid(getattr(job, field), followers, names))
        for field in ("orders", "fits")
    }
    found: dict[str, Any] = {field: tuple(things) for field, things in lists.items()} | ties
    found["operations"] = tuple(_laid_work(each, followers, names) for each in job.operations)
    return replace(job, **found)


def _in_order(job: Job, placements: Sequence[Placement]) -> list[ContourItem]:
    """Contours from the hindmost on: what a placement lays stands right behind the contour that it
    lies beneath, else before all others."""
    beneath: dict[str, list[ContourItem]] = {}
    for placement in placements:
        under = placement.beneath if placement.beneath in job.contour_by_id else ""
        beneath.setdefault(under, []).extend(laid_items(job, placement))
    found: list[ContourItem] = []
    for item in job.contours:
        found += beneath.get(item.id, ())
        found.append(item)
    return found + beneath.get("", [])


def _parts_laid(job: Job, placement: Placement) -> Iterator[Part]:
    part = job.part_by_id[placement.part]
    yield replace(part, id=placement.id, within=placement.within)
    for name in sorted(parts_within(job, part.id) - {part.id}):
        inner = job.part_by_id[name]
        yield replace(
            inner, id=laid_name(placement.id, name), within=_part_name(placement, inner.within)
        )


def _riders_laid(job: Job, placement: Placement, names: set[str]) -> Iterator[tuple[str, Any]]:
    """What rides on a part's contours, and on it, where the placement has it; words are contours
    there."""
    within, to = parts_within(job, placement.part), map_of(job, placement)
    to_names = {name: laid_name(placement.id, name) for name in names}
    to_names |= {part: _part_name(placement, part) for part in within}
    for field, thing in riders_of(job, names | within):
        if not isinstance(thing, Lettering):
            laid: Any = replace(thing.mapped(to), id=laid_name(placement.id, thing.id))  # type: ignore[type-var]
            yield field, renamed(laid, to_names)


def _ties_laid(
    ties: Sequence[Any], placements: Sequence[Placement], names: Mapping[str, set[str]]
) -> Iterator[Any]:
    """What ties contours of one part to each other, of each placement."""
    every = [set(getattr(tie, "contours", ())) or {tie.part, tie.opening} for tie in ties]
    taken = set[str]().union(*every)
    for tie, tied in zip(ties, every, strict=True):
        for placement in placements:
            laid = {laid_name(placement.id, name) for name in tied}
            if tied <= names[placement.id] and not laid & taken:
                to_names = {name: laid_name(placement.id, name) for name in tied}
                yield renamed(replace(tie, id=laid_name(placement.id, tie.id)), to_names)


def _laid_work(
    operation: Operation, placements: Sequence[Placement], names: Mapping[str, set[str]]
) -> Operation:
    """An operation that works what follows a contour of its as well."""
    own, spots = operation.contours, operation.spots
    more = [
        laid_name(placement.id, name)
        for placement in placements
        for name in own
        if name in names[placement.id]
    ]
    if not more:
        return operation
    if spots:
        laid = tuple(
            replace(spot, contour=laid_name(placement.id, spot.contour))
            for placement in placements
            for spot in spots
            if spot.contour in names[placement.id]
        )
        operation = replace(operation, spots=tuple(dict.fromkeys((*spots, *laid))))  # type: ignore[type-var]
    return replace(operation, contours=tuple(dict.fromkeys((*own, *more))))  # type: ignore[type-var]


LAYING |= {"out": laid_out, "times": times_laid}
