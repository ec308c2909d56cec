"""Edits of sheets and of what the whole job is set up with: functions from a job to a job."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from draxet.files import plain_words
from draxet.geometry.affine import Affine
from draxet.job.contour_edits import with_company
from draxet.job.records import Job
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
    return with_company(moved, mine, move)


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


def hand_off_noted(job: Job, file: str, sheet_id: str, *, back: bool = False) -> Job:
    """The work of a side of a sheet left in a file."""
    sheet = next(sheet for sheet in job.sheets if sheet.id == sheet_id)
    others = tuple(each for each in job.handed_off if (each.sheet, each.back) != (sheet.id, back))
    return replace(
        job,
        handed_off=(*others, HandedOff(plain_words(file), job.work_digest(sheet), sheet.id, back)),
    )
