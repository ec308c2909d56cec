"""Edits of what belongs together: groups, linked copies, the order of contours, helper contours and
points.

A *group* is contours, and groups within it, that are chosen and arranged as one. *Linked* contours
have one shape: what is done to the shape of one is done to all, each as it lies. A *helper contour*
is drawn by, and never sent anywhere.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from typing import Any

from draxet.files import plain_words
from draxet.geometry.affine import Affine
from draxet.job.bridge_edits import add_bridges
from draxet.job.contour_edits import filled_groups, remove_contours
from draxet.job.contour_records import Bridge, ContourItem, Group, Point
from draxet.job.records import Job

__all__ = [
    "add_point",
    "change_group",
    "free_helpers",
    "group_contours",
    "in_group",
    "locked_contours",
    "make_helpers",
    "make_own",
    "move_point",
    "order_contours",
    "place_copies",
    "remove_points",
    "take_in",
    "top_group",
    "ungroup",
    "with_whole_groups",
]


def top_group(job: Job, item: ContourItem) -> str:
    """The outermost group that a contour stands in; empty where in none."""
    if not item.group:
        return ""
    parent = job.group_within
    name = item.group if item.group in parent else ""
    while name and parent.get(name, "") in parent:
        name = parent[name]
    return name


def in_group(job: Job, group_id: str) -> frozenset[str]:
    """Ids of all contours in a group and in the groups within it."""
    groups = {group_id}
    for _ in job.groups:  # as deep as there are groups at the most
        more = {group.id for group in job.groups if group.within in groups} | groups
        if more == groups:
            break
        groups = more
    return frozenset(item.id for item in job.contours if item.group in groups)


def with_whole_groups(job: Job, ids: Iterable[str]) -> frozenset[str]:
    """Contours, and all that stand in the same outermost groups."""
    some = frozenset(ids)
    tops = {top_group(job, job.contour_by_id[k]) for k in some} - {""} if job.groups else set()
    return some | frozenset(k for top in tops for k in in_group(job, top))


def locked_contours(job: Job) -> frozenset[str]:
    """Ids of contours in groups that are locked."""
    return frozenset(k for group in job.groups if group.locked for k in in_group(job, group.id))


def group_contours(job: Job, ids: Iterable[str]) -> tuple[Job, str]:
    """Contours as one group, whole groups among them as groups within it; and its id."""
    some = with_whole_groups(job, ids)
    group = Group(f"group-{job.next_id}", f"Part {1 + sum(not g.within for g in job.groups)}")
    tops = {top_group(job, job.contour_by_id[k]) for k in some}
    contours = tuple(
        replace(i, group=group.id) if i.id in some and not top_group(job, i) else i
        for i in job.contours
    )
    groups = tuple(replace(g, within=group.id) if g.id in tops else g for g in job.groups)
    return replace(
        job, contours=contours, groups=(*groups, group), next_id=job.next_id + 1
    ), group.id


def ungroup(job: Job, group_id: str) -> Job:
    """A group's contours and groups stand where it stood."""
    group = next(g for g in job.groups if g.id == group_id)
    contours = tuple(
        replace(i, group=group.within) if i.group == group_id else i for i in job.contours
    )
    helpers = tuple(
        replace(i, group=group.within) if i.group == group_id else i for i in job.helpers
    )
    groups = tuple(
        replace(g, within=group.within) if g.within == group_id else g
        for g in job.groups
        if g.id != group_id
    )
    return replace(job, contours=contours, helpers=helpers, groups=groups)


def change_group(job: Job, group_id: str, **changes: Any) -> Job:
    """A group of another name, locked or free."""
    if "name" in changes:
        changes["name"] = plain_words(changes["name"])
    return replace(
        job, groups=tuple(replace(g, **changes) if g.id == group_id else g for g in job.groups)
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
    """Copies of contours, with their bridges, under each of several maps, and the ids of the new
    ones. Whole groups among them are groups
    again. `linked` : copies and originals have one shape from now on; `symmetric` : and move
    likewise, each in its own half or sector."""
    some = frozenset(ids)
    if linked:
        job = _linked(job, some, symmetric)
    originals = [item for item in job.contours if item.id in some]
    whole = (
        [group for group in job.groups if (held := in_group(job, group.id)) and held <= some]
        if any(item.group for item in originals)
        else []
    )
    number, new, groups, bridges = (
        job.next_id,
        list[ContourItem](),
        list(job.groups),
        list[Bridge](),
    )
    for place in places:
        again = {group.id: f"group-{number + k}" for k, group in enumerate(whole)}
        number += len(again)
        groups += [
            replace(group, id=again[group.id], within=again.get(group.within, ""), locked=False)
            for group in whole
        ]
        copied: dict[str, str] = {}
        for item in originals:
            copy = item.mapped(place)
            copied[item.id] = f"contour-{number}"
            new.append(
                replace(
                    copy,
                    id=copied[item.id],
                    picture="",
                    by_hand=False,
                    traced="",
                    sheet=job.sheet_under(copy.contour.box) or item.sheet,
                    group=again.get(item.group, ""),
                    link=copy.link if linked else "",
                    placed=copy.placed if linked else Affine(),
                    symmetric=symmetric,
                )
            )
            number += 1
        bridges += [
            replace(bridge.mapped(place), contour=copied[bridge.contour])
            for bridge in job.bridges
            if bridge.contour in some
        ]
    made = replace(job, contours=(*job.contours, *new), groups=tuple(groups), next_id=number)
    return add_bridges(made, bridges) if bridges else made, frozenset(item.id for item in new)


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
        replace(item, link="", placed=Affine(), symmetric=False, group="")
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
            groups=filled_groups(job.groups, (*contours, *helpers)),
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
    """The contours of another job in their places, with their groups, and their ids in this one."""
    names = {group.id: f"group-{job.next_id + k}" for k, group in enumerate(other.groups)}
    number = job.next_id + len(names)
    groups = tuple(
        replace(g, id=names[g.id], within=names.get(g.within, ""), locked=False)
        for g in other.groups
    )
    new = tuple(
        replace(
            item,
            id=f"contour-{number + k}",
            picture="",
            by_hand=False,
            traced="",
            group=names.get(item.group, ""),
            link="",
            placed=Affine(),
            sheet=job.sheet_under(item.contour.box) or job.sheet.id,
        )
        for k, item in enumerate(other.contours)
    )
    kept = filled_groups((*job.groups, *groups), (*job.contours, *new, *job.helpers))
    return replace(
        job, contours=(*job.contours, *new), groups=kept, next_id=number + len(new)
    ), frozenset(item.id for item in new)
