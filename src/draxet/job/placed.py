"""Placed things: all that has a place on a sheet, whatever it is.

A record in a list of the job is placed where it tells its `box` and gives itself `mapped`; nothing
else is to be said of another kind. What `rides` on another thing (``Refers``) lies where that lies.
"""

from __future__ import annotations

from collections.abc import Callable, Container, Iterable, Iterator
from dataclasses import replace
from typing import Any, Protocol, Self

from draxet.geometry.affine import Affine
from draxet.job.place_types import Box
from draxet.job.records import Job
from draxet.job.references import lists_of, references_of, references_of_kind

__all__ = [
    "PlacedThing",
    "anything_rides",
    "carrier_of",
    "lying_on",
    "map_placed",
    "map_riders",
    "placed_fields",
    "riders_of",
]


class PlacedThing(Protocol):
    """What has a place: its id, its extent, and itself moved, turned, mirrored or scaled."""

    @property
    def id(self) -> str: ...

    @property
    def box(self) -> Box: ...

    def mapped(self, after: Affine) -> Self: ...


def placed_fields(job: Job) -> tuple[str, ...]:
    """The fields of a job that hold placed things."""
    return tuple(
        name
        for name, kinds in lists_of(job).items()
        if all(hasattr(kind, "mapped") and hasattr(kind, "box") for kind in kinds)
    )


def lying_on(job: Job, sheet_id: str) -> Callable[[PlacedThing], bool]:
    """Whether a thing lies on a sheet: it belongs to it, or rides on what does; else its middle
    lies on it, or above or beneath it and on none."""
    sheet = next(sheet for sheet in job.sheets if sheet.id == sheet_id)
    carriers = _sheets_of(job)

    def lies(thing: PlacedThing) -> bool:
        own = getattr(thing, "sheet", "") or carriers.get(carrier_of(thing) or thing.id, "")
        if own:
            return bool(own == sheet_id)
        box = thing.box
        under = job.sheet_under(box)
        return under == sheet_id or (
            not under and sheet.x <= (box[0] + box[2]) / 2 <= sheet.x + sheet.width
        )

    return lies


def _sheets_of(job: Job) -> dict[str, str]:
    """The sheets of all that something can ride on: contours, parts, and what placements lay."""
    found = {item.id: item.sheet for item in (*job.helpers, *job.contours)}
    if job.placements:
        found |= {item.id: item.sheet for item in job.layout.contours}
    for item in job.contours:
        part = item.part
        while part in job.part_by_id and part not in found:
            found[part] = item.sheet
            part = job.part_by_id[part].within
    return found


def carrier_of(thing: PlacedThing) -> str:
    """The id of what a thing rides on; empty for none."""
    names = (name for name, refers in references_of(thing).items() if refers.rides)
    return next((str(getattr(thing, name)) for name in names), "")


def map_placed(job: Job, chosen: Callable[[PlacedThing], bool], after: Affine) -> Job:
    """All placed things that are chosen, moved, turned, mirrored or scaled."""
    return _mapped(job, placed_fields(job), chosen, after)


def _mapped(
    job: Job, fields: Iterable[str], chosen: Callable[[PlacedThing], bool], after: Affine
) -> Job:
    changes: dict[str, Any] = {}
    for name in fields:
        old = getattr(job, name)
        new = tuple(each.mapped(after) if chosen(each) else each for each in old)
        if any(one is not other for one, other in zip(old, new, strict=True)):
            changes[name] = new
    return replace(job, **changes) if changes else job


def riders_of(job: Job, carriers: Container[str]) -> Iterator[tuple[str, PlacedThing]]:
    """All that rides on some things, with the field that it stands in."""
    for name in _riding_fields(job):
        for thing in getattr(job, name):
            if carrier_of(thing) in carriers:
                yield name, thing


def anything_rides(job: Job) -> bool:
    """Whether anything in it rides on another thing."""
    return any(getattr(job, name) for name in _riding_fields(job))


def _riding_fields(job: Job) -> tuple[str, ...]:
    lists = lists_of(job)
    return tuple(
        name
        for name in placed_fields(job)
        if any(refers.rides for kind in lists[name] for refers in references_of_kind(kind).values())
    )


def map_riders(job: Job, carriers: Container[str], after: Affine) -> Job:
    """All that rides on some things, gone along with those."""
    return _mapped(job, _riding_fields(job), lambda each: carrier_of(each) in carriers, after)
