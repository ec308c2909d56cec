"""Edits: functions from a job to a job. None changes what it is given; all keep ids, and operations never name a contour
that is gone."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.records import ContourItem, CutThrough, HandedOff, Job, KnownLength, Picture, Sheet, Side, SquareStep, Tones

__all__ = [
    "add_contours", "add_picture", "give_operation", "hand_off_noted", "lock_picture", "map_picture", "note_picture", "remove_contours", "remove_picture",
    "replace_contours", "retrace", "set_known_lengths", "set_operation", "set_sheet", "set_tones", "set_unit", "show_picture", "square_picture",
]  # fmt: skip


def add_picture(
    job: Job, name: str, source: bytes, size: tuple[int, int], to_job: Affine, dpi: float | None = None, page: int = 0
) -> tuple[Job, str]:
    """The job with one more picture in front of the others, and its id."""
    picture = Picture(f"picture-{job.next_id}", name, source, *size, to_job, dpi, page=page)
    return replace(job, pictures=(*job.pictures, picture), next_id=job.next_id + 1), picture.id


def remove_picture(job: Job, picture_id: str) -> Job:
    return replace(job, pictures=tuple(p for p in job.pictures if p.id != picture_id))


def lock_picture(job: Job, picture_id: str, locked: bool) -> Job:
    return _with_picture(job, replace(job.picture_by_id[picture_id], locked=locked))


def note_picture(job: Job, picture_id: str, came_from: str, may_be_used: str) -> Job:
    """Where a picture came from and what it may be used for."""
    return _with_picture(job, replace(job.picture_by_id[picture_id], came_from=came_from, may_be_used=may_be_used))


def show_picture(job: Job, picture_id: str, visible: bool) -> Job:
    return _with_picture(job, replace(job.picture_by_id[picture_id], visible=visible))


def map_picture(job: Job, picture_id: str, after: Affine) -> Job:
    """A picture moved, turned or scaled by `after`; contours traced from it go with it."""
    picture = job.picture_by_id[picture_id]
    job = _with_picture(job, replace(picture, to_job=picture.to_job.then(after)))
    moved = {item.id: item.contour.transformed(after) for item in job.contours if item.picture == picture_id}
    return replace_contours(job, moved)


def set_known_lengths(job: Job, picture_id: str, known: Sequence[KnownLength], *, unstretched: bool = False) -> Job:
    """The known lengths of a picture, and whether it is unstretched by them."""
    return _with_picture(job, replace(job.picture_by_id[picture_id], known_lengths=tuple(known), unstretched=unstretched))


def set_tones(job: Job, picture_id: str, tones: Tones) -> Job:
    return _with_picture(job, replace(job.picture_by_id[picture_id], tones=tones))


def square_picture(job: Job, picture_id: str, step: SquareStep | None, to_job: Affine) -> Job:
    """A photo squared, or as it was taken; its pixels are other ones now, so its known lengths and its contours' tie go."""
    picture = job.picture_by_id[picture_id]
    width, height = step.plan if step else picture.square.photo if picture.square else (picture.width, picture.height)
    squared = replace(picture, square=step, width=width, height=height, to_job=to_job, known_lengths=(), unstretched=False)
    contours = tuple(replace(item, picture="") if item.picture == picture_id else item for item in job.contours)
    return _with_picture(replace(job, contours=contours), squared)


def _with_picture(job: Job, picture: Picture) -> Job:
    return replace(job, pictures=tuple(picture if p.id == picture.id else p for p in job.pictures))


def add_contours(job: Job, contours: Iterable[Contour], picture_id: str = "") -> Job:
    """The job with more contours, in their order, after those it has."""
    new = tuple(ContourItem(f"contour-{job.next_id + k}", contour, picture_id) for k, contour in enumerate(contours))
    return replace(job, contours=(*job.contours, *new), next_id=job.next_id + len(new))


def retrace(job: Job, picture_id: str, contours: Sequence[Contour]) -> Job:
    """Contours traced from a picture in place of those traced from it before."""
    job = remove_contours(job, [item.id for item in job.contours if item.picture == picture_id])
    return add_contours(job, contours, picture_id)


def replace_contours(job: Job, contours: Mapping[str, Contour]) -> Job:
    if not contours:
        return job
    return replace(job, contours=tuple(replace(i, contour=contours[i.id]) if i.id in contours else i for i in job.contours))


def remove_contours(job: Job, ids: Iterable[str]) -> Job:
    gone = set(ids)
    if not gone:
        return job
    kept = tuple(item for item in job.contours if item.id not in gone)
    return replace(job, contours=kept, operations=_without(job.operations, gone))


def _without(operations: tuple[CutThrough, ...], gone: set[str]) -> tuple[CutThrough, ...]:
    left = (replace(o, contours=tuple(c for c in o.contours if c not in gone)) for o in operations)
    return tuple(operation for operation in left if operation.contours)


def give_operation(job: Job, name: str, ids: Sequence[str], side: Side, width: float, feed: float) -> Job:
    """Contours cut by a new operation; they leave the one they had."""
    if not ids:
        return job
    operation = CutThrough(f"operation-{job.next_id}", name, tuple(ids), side, width, feed)
    return replace(job, operations=(*_without(job.operations, set(ids)), operation), next_id=job.next_id + 1)


def set_operation(job: Job, operation: CutThrough) -> Job:
    """An operation with other settings, in its place."""
    return replace(job, operations=tuple(operation if o.id == operation.id else o for o in job.operations))


def set_sheet(job: Job, sheet: Sheet) -> Job:
    return replace(job, sheet=sheet)


def set_unit(job: Job, unit: str) -> Job:
    return replace(job, unit=unit)


def hand_off_noted(job: Job, file: str) -> Job:
    return replace(job, handed_off=HandedOff(file, job.work_digest))
