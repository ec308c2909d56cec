"""Edits of what belongs together: groups, linked copies, the order of contours, helper contours and
points.

A *group* is contours, and groups within it, that are chosen and arranged as one. *Linked* contours
have one shape: what is done to the shape of one is done to all, each as it lies. A *helper contour*
is drawn by, and never sent anywhere.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from draxet.files import plain_words
from draxet.geometry.affine import Affine
from draxet.job.contour_edits import filled_parts, remove_contours
from draxet.job.contour_records import ContourItem, Lettering, Part, Point
from draxet.job.placed import riders_of
from draxet.job.records import Job
from draxet.job.references import lists_of, removed, renamed

__all__ = [
    "add_point",
    "change_part",
    "copied_out",
    "free_helpers",
    "make_part",
    "in_part",
    "locked_contours",
    "make_helpers",
    "make_own",
    "move_point",
    "order_contours",
    "place_copies",
    "remove_points",
    "take_in",
    "top_part",
    "take_apart",
    "with_whole_parts",
]


def top_part(job: Job, item: ContourItem) -> str:
    """The outermost group that a contour stands in; empty where in none."""
    if not item.part:
        return ""
    parent = job.part_within
    name = item.part if item.part in parent else ""
    while name and parent.get(name, "") in parent:
        name = parent[name]
    return name


def in_part(job: Job, group_id: str) -> frozenset[str]:
    """Ids of all contours in a group and in the groups within it."""
    groups = {group_id}
    for _ in job.parts:  # as deep as there are groups at the most
        more = {group.id for group in job.parts if group.within in groups} | groups
        if more == groups:
            break
        groups = more
    return frozenset(item.id for item in job.contours if item.part in groups)


def with_whole_parts(job: Job, ids: Iterable[str]) -> frozenset[str]:
    """Contours, and all that stand in the same outermost groups."""
    some = frozenset(ids)
    tops = {top_part(job, job.contour_by_id[k]) for k in some} - {""} if job.parts else set()
    return some | frozenset(k for top in tops for k in in_part(job, top))


def locked_contours(job: Job) -> frozenset[str]:
    """Ids of contours in groups that are locked."""
    return frozenset(k for group in job.parts if group.locked for k in in_part(job, group.id))


def make_part(job: Job, ids: Iterable[str]) -> tuple[Job, str]:
    """Contours as one group, whole groups among them as groups within it; and its id."""
    some = with_whole_parts(job, ids)
    group = Part(f"group-{job.next_id}", f"Part {1 + sum(not g.within for g in job.parts)}")
    tops = {top_part(job, job.contour_by_id[k]) for k in some}
    contours = tuple(
        replace(i, part=group.id) if i.id in some and not top_part(job, i) else i
        for i in job.contours
    )
    groups = tuple(replace(g, within=group.id) if g.id in tops else g for g in job.parts)
    return replace(
        job, contours=contours, parts=(*groups, group), next_id=job.next_id + 1
    ), group.id


def take_apart(job: Job, group_id: str) -> Job:
    """A group's contours and groups stand where it stood."""
    group = next(g for g in job.parts if g.id == group_id)
    contours = tuple(
        replace(i, part=group.within) if i.part == group_id else i for i in job.contours
    )
    helpers = tuple(replace(i, part=group.within) if i.part == group_id else i for i in job.helpers)
    groups = tuple(
        replace(g, within=group.within) if g.within == group_id else g for g in job.parts
    )
    apart = replace(job, contours=contours, helpers=helpers, parts=groups)
    return removed(apart, "parts", [group_id])


def change_part(job: Job, group_id: str, **changes: Any) -> Job:
    """A group of another name, locked or free."""
    if "name" in changes:
        changes["name"] = plain_words(changes["name"])
    return replace(
        job, parts=tuple(replace(g, **changes) if g.id == group_id else g for g in job.parts)
    )


def order_contours(job: Job, ids: Iterable[str], *, front: bool) -> Job:
    """Contours before all others, or behind them."""
    some = frozenset(ids)
    moved = tuple(i for i in job.contours if i.id in some)
    rest = tuple(i for i in job.contours if i.id not in some)
    ordered = (*rest, *moved) if front else (*moved, *rest)
    return replace(job, contours=ordered) if ordered != job.contours else job


def place_copies(
    job: Job,
    ids: Iterable[str],
    places: Sequence[Affine],
    *,
    linked: bool = False,
    symmetric: bool = False,
) -> tuple[Job, frozenset[str]]:
    """Copies of contours, with what rides on them, under each of several maps, and the ids of the
    new ones. Whole groups among them are groups again. `linked` : copies and originals have one
    shape from now on; `symmetric` : and move likewise, each in its own half or sector."""
    some = frozenset(ids)
    if linked:
        job = _linked(job, some, symmetric)
    own = (
        {"symmetric": symmetric}
        if linked
        else {"link": "", "placed": Affine(), "symmetric": symmetric}
    )
    return _laid(job, copied_out(job, some, words=not linked), places, own)


def copied_out(job: Job, ids: Iterable[str], *, words: bool = True) -> Job:
    """Contours alone, with the groups all of which are among them and all that rides on either, as
    a job. Words that run along what is not among them are contours there; without `words` all
    are."""
    some = frozenset(ids)
    items = tuple(item for item in job.contours if item.id in some)
    whole = (
        tuple(group for group in job.parts if (held := in_part(job, group.id)) and held <= some)
        if any(item.part for item in items)
        else ()
    )
    kept = some | {group.id for group in whole}
    riding: dict[str, list[Any]] = {}
    for field, thing in riders_of(job, kept):
        if not isinstance(thing, Lettering) or (words and (not thing.along or thing.along in some)):
            riding.setdefault(field, []).append(thing)
    lists: dict[str, Any] = {name: () for name in lists_of(job) if name != "sheets"}
    lists |= {name: tuple(things) for name, things in riding.items()}
    return replace(job, **{**lists, "contours": items, "parts": whole})


def _laid(
    job: Job, taken: Job, places: Sequence[Affine], own: Mapping[str, Any]
) -> tuple[Job, frozenset[str]]:
    """All of a job of contours, groups and what rides on them, in another one under each of several
    maps; each thing is itself but for its id, its place and what it refers to. `own` : what of the
    contours is otherwise too."""
    lists: dict[str, list[Any]] = {name: list(getattr(job, name)) for name in lists_of(job)}
    sheets = {sheet.id for sheet in job.sheets}
    groups = {group.id for group in taken.parts}
    number, new = job.next_id, list[str]()
    for place in places:
        things = [
            (name, each) for name in lists for each in getattr(taken, name) if name != "sheets"
        ]
        names = {
            each.id: f"{each.id.rsplit('-', 1)[0]}-{number + k}"
            for k, (_, each) in enumerate(things)
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
                group = copy.part if copy.part in groups else ""
                copy = replace(
                    copy, picture="", by_hand=False, traced="", sheet=sheet, part=group, **own
                )
                new.append(copy.id)
            elif isinstance(copy, Part):
                copy = replace(
                    copy, within=copy.within if copy.within in groups else "", locked=False
                )
            elif isinstance(copy, Lettering):
                copy = replace(copy, waiting=())
            lists[name].append(renamed(copy, names))
    changes: dict[str, Any] = {
        name: tuple(each) for name, each in lists.items() if len(each) > len(getattr(job, name))
    }
    return replace(job, **changes, next_id=number), frozenset(new)


def _linked(job: Job, ids: frozenset[str], symmetric: bool) -> Job:
    """Contours that have a link each."""
    number, contours = job.next_id, list[ContourItem]()
    for item in job.contours:
        if item.id in ids and not item.link:
            contours.append(
                replace(item, link=f"link-{number}", placed=Affine(), symmetric=symmetric)
            )
            number += 1
        else:
            contours.append(item)
    return replace(job, contours=tuple(contours), next_id=number)


def make_own(job: Job, ids: Iterable[str]) -> Job:
    """Contours that are linked to none any more, and keep their shape."""
    some = frozenset(ids)
    return replace(
        job,
        contours=tuple(
            replace(i, link="", placed=Affine(), symmetric=False) if i.id in some and i.link else i
            for i in job.contours
        ),
    )


def make_helpers(job: Job, ids: Iterable[str]) -> Job:
    """Contours become helper contours: they lose their operation, and are drawn by from now on."""
    some = frozenset(ids)
    moved = tuple(
        replace(item, link="", placed=Affine(), symmetric=False, part="")
        for item in job.contours
        if item.id in some
    )
    return replace(remove_contours(job, some), helpers=(*job.helpers, *moved))


def free_helpers(job: Job, ids: Iterable[str] | None = None) -> Job:
    """Helper contours, or all of them, are contours like others again."""
    some = frozenset(item.id for item in job.helpers) if ids is None else frozenset(ids)
    freed = tuple(item for item in job.helpers if item.id in some)
    helpers = tuple(item for item in job.helpers if item.id not in some)
    contours = (*job.contours, *freed)
    return (
        replace(
            job,
            contours=contours,
            helpers=helpers,
            parts=filled_parts(job.parts, (*contours, *helpers)),
        )
        if freed
        else job
    )


def add_point(job: Job, x: float, y: float) -> Job:
    """One more point."""
    return replace(
        job, points=(*job.points, Point(f"point-{job.next_id}", x, y)), next_id=job.next_id + 1
    )


def move_point(job: Job, point_id: str, x: float, y: float) -> Job:
    return replace(
        job, points=tuple(replace(p, x=x, y=y) if p.id == point_id else p for p in job.points)
    )


def remove_points(job: Job, ids: Iterable[str]) -> Job:
    some = frozenset(ids)
    return replace(job, points=tuple(p for p in job.points if p.id not in some))


def take_in(job: Job, other: Job) -> tuple[Job, frozenset[str]]:
    """The contours of another job in their places, with their groups and what rides on them, and
    their ids in this one."""
    taken = copied_out(other, [item.id for item in other.contours])
    own = {"link": "", "placed": Affine(), "symmetric": False}
    return _laid(job, taken, [Affine()], own)
