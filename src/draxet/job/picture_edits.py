"""Edits of pictures: where they lie, what is done to them.

Functions from a job to a job: none changes what it is given, all keep ids, and operations
never name a contour that is gone.
"""

from __future__ import annotations

from collections.abc import Container, Sequence
from dataclasses import replace
from typing import Any

from draxet.files import plain_words
from draxet.geometry.affine import Affine
from draxet.job.contour_moves import map_contours
from draxet.job.entries import put, set_on
from draxet.job.picture_records import KnownLength, Picture, SquareStep
from draxet.job.records import Job
from draxet.job.references import removed
from draxet.job.steps import Cover, Crop, PrepareStep, Shrink, orientation

__all__ = [
    "add_picture",
    "change_picture",
    "copy_picture",
    "cut_out",
    "map_picture",
    "order_picture",
    "remove_picture",
    "mean_size",
    "set_known_lengths",
    "set_steps",
    "sized_with",
    "square_picture",
]


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
    return removed(job, "pictures", [picture_id])


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
        meant=False,
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


def set_known_lengths(
    job: Job, picture_id: str, known: Sequence[KnownLength], *, unstretched: bool = False
) -> Job:
    """The known lengths of a picture, and whether it is unstretched by them."""
    return _with_picture(
        job,
        replace(job.picture_by_id[picture_id], known_lengths=tuple(known), unstretched=unstretched),
    )


def mean_size(job: Job, ids: Container[str]) -> Job:
    """Pictures whose size is meant as it is."""
    return set_on(job, "pictures", ids, meant=True)


def sized_with(job: Job, ids: Container[str]) -> Job:
    """The job after contours took a size that somebody said: that of a picture from which nothing
    but these was traced is meant as well."""
    of = {item.picture for item in job.contours if item.id in ids}
    others = {item.picture for item in job.contours if item.id not in ids}
    meant = {each.id for each in job.pictures if each.id in of - others and not each.is_sized}
    return mean_size(job, meant) if meant else job


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
        picture,
        square=step,
        steps=kept,
        to_job=to_job,
        known_lengths=(),
        unstretched=False,
        meant=False,
    )
    contours = tuple(
        replace(item, picture="") if item.picture == picture_id else item for item in job.contours
    )
    return _with_picture(replace(job, contours=contours), squared)


def _with_picture(job: Job, picture: Picture) -> Job:
    return put(job, "pictures", picture)
