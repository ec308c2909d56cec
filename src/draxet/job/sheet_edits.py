"""Edits of sheets and of what the whole job is set up with: functions from a job to a job."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from draxet.files import plain_words
from draxet.geometry.affine import Affine
from draxet.job.entries import put, set_on
from draxet.job.placed import lying_on, map_placed, placed_fields
from draxet.job.records import Job
from draxet.job.references import removed, renamed
from draxet.job.sheet_records import HandedOff, Sheet

__all__ = [
    "add_sheet",
    "choose_sheet",
    "hand_off_noted",
    "remove_sheet",
    "set_setup",
    "set_sheet",
    "set_unit",
    "template_of",
]

_SHEET_GAP = 40.0
"""mm between sheets on the bench."""


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
    return put(job, "sheets", sheet)


def _shifted(job: Job, sheet: Sheet, dx: float) -> Job:
    """A sheet moved along with all that lies on it."""
    moved = map_placed(job, lying_on(job, sheet.id), Affine.moved(dx, 0.0))
    return set_on(moved, "sheets", (sheet.id,), x=sheet.x + dx)


def remove_sheet(job: Job, sheet_id: str) -> Job:
    """The job without a sheet; the last one stays. What lies on it stays too, and belongs to the
    first one from then on."""
    left = tuple(sheet for sheet in job.sheets if sheet.id != sheet_id)
    if not left or len(left) == len(job.sheets):
        return job
    names = {sheet_id: left[0].id}
    given: dict[str, Any] = {
        name: tuple(renamed(thing, names) for thing in getattr(job, name))
        for name in placed_fields(job)
    }
    job = replace(job, **given, sheet_id=left[0].id)
    return removed(job, "sheets", [sheet_id])


def set_unit(job: Job, unit: str) -> Job:
    return replace(job, unit=unit) if unit != job.unit else job


def set_setup(job: Job, **changes: Any) -> Job:
    """The job with another limit, exactness, smallest_feature or purpose."""
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
        purpose=job.purpose,
        next_id=job.next_id,
    )


def hand_off_noted(job: Job, file: str, sheet_id: str, *, back: bool = False) -> Job:
    """The work of a side of a sheet left in a file."""
    sheet = next(sheet for sheet in job.sheets if sheet.id == sheet_id)
    others = tuple(each for each in job.handed_off if (each.sheet, each.back) != (sheet.id, back))
    return replace(
        job,
        handed_off=(
            *others,
            HandedOff(plain_words(file)[:900], job.work_digest(sheet), sheet.id, back),
        ),
    )
