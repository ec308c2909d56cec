"""Edits of parts: what belongs together, drawn once and chosen and arranged as one."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from draxet.files import plain_words
from draxet.job.contour_records import ContourItem
from draxet.job.copies import made_own
from draxet.job.entries import set_on
from draxet.job.layout import meant_by, members_of
from draxet.job.layout_names import drawn_name, laid_name, split_name
from draxet.job.part_making import new_part
from draxet.job.records import Job
from draxet.job.references import removed

__all__ = [
    "change_part",
    "in_part",
    "locked_contours",
    "make_part",
    "order_contours",
    "take_apart",
    "top_part",
    "with_whole_parts",
]


def top_part(job: Job, item: ContourItem) -> str:
    """The outermost part of a layout that a contour belongs to; empty where to none."""
    if not item.part:
        return ""
    parent = job.part_within
    name = item.part if item.part in parent else ""
    while name and parent.get(name, "") in parent:
        name = parent[name]
    return name


def in_part(job: Job, part_id: str) -> frozenset[str]:
    """Ids in the layout of all contours of one of its parts."""
    where = job if part_id in job.part_by_id else job.layout
    return frozenset(item.id for item in members_of(where, part_id))


def with_whole_parts(job: Job, ids: Iterable[str]) -> frozenset[str]:
    """Contours of the layout, and all that belong to the same outermost parts."""
    some, layout = frozenset(ids), job.layout
    if not layout.parts:
        return some
    tops = {top_part(layout, layout.contour_by_id[k]) for k in some} - {""}
    return some | frozenset(k for top in tops for k in in_part(layout, top))


def locked_contours(job: Job) -> frozenset[str]:
    """Ids in the layout of contours of parts that are locked."""
    layout = job.layout
    return frozenset(k for part in layout.parts if part.locked for k in in_part(layout, part.id))


def make_part(job: Job, ids: Iterable[str]) -> tuple[Job, str]:
    """Contours as one part, with the points and drop-outs that lie in them; whole parts and
    placements among them stand within it. And its id."""
    some = with_whole_parts(job, ids)
    meant, layout = meant_by(job, some), job.layout
    tops = {top_part(layout, layout.contour_by_id[k]) for k in some}
    loose = [k for k in meant.drawn if not top_part(job, job.contour_by_id[k])]
    return new_part(job, loose, tops, "")


def take_apart(job: Job, part_id: str) -> Job:
    """What belongs to a part of the layout stands where that stood; what a placement laid is its
    own from then on, and so is what followed the part."""
    placement, _ = split_name(part_id if "/" in part_id else laid_name(part_id, ""))
    if placement in job.placement_by_id:
        ids = (laid_name(placement, item.id) for item in _laid_by(job, placement))
        job, names = made_own(job, ids)
        part_id = names[part_id]
    members = members_of(job, part_id)
    followers = [each.id for each in job.placements if each.part == part_id]
    job, _ = made_own(job, (laid_name(name, item.id) for name in followers for item in members))
    part = job.part_by_id[part_id]

    def freed(things: tuple[Any, ...], name: str) -> tuple[Any, ...]:
        return tuple(
            replace(each, **{name: part.within}) if getattr(each, name) == part_id else each
            for each in things
        )

    lists: dict[str, Any] = {
        name: freed(getattr(job, name), "part") for name in ("contours", "helpers")
    }
    lists |= {name: freed(getattr(job, name), "part") for name in ("points", "drop_outs")}
    lists |= {name: freed(getattr(job, name), "within") for name in ("parts", "placements")}
    return removed(replace(job, **lists), "parts", [part_id])


def _laid_by(job: Job, placement: str) -> tuple[ContourItem, ...]:
    return members_of(job, job.placement_by_id[placement].part)


def change_part(job: Job, part_id: str, **changes: Any) -> Job:
    """A part of another name, locked or free, and all that follows it."""
    if "name" in changes:
        changes["name"] = plain_words(changes["name"])
    name = drawn_name(part_id)
    name = job.placement_by_id[name].part if name in job.placement_by_id else name
    return set_on(job, "parts", (name,), **changes)


def order_contours(job: Job, ids: Iterable[str], *, front: bool) -> Job:
    """Contours before all others, or behind them."""
    meant = meant_by(job, ids)
    some, placed = frozenset(meant.drawn), frozenset(each.id for each in meant.placements)
    moved = tuple(i for i in job.contours if i.id in some)
    rest = tuple(i for i in job.contours if i.id not in some)
    ordered = (*rest, *moved) if front else (*moved, *rest)
    hindmost = "" if front or not rest else rest[0].id
    found = replace(job, contours=ordered) if ordered != job.contours else job
    if not placed:
        return found
    laid = tuple(replace(p, beneath=hindmost) for p in job.placements if p.id in placed)
    others = tuple(p for p in job.placements if p.id not in placed)
    placements = (*others, *laid) if front else (*laid, *others)
    return replace(found, placements=placements) if placements != job.placements else found
