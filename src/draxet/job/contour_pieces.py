"""Parts: contours that take another one's place."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours, change_contours, remove_contours
from draxet.job.part_edits import make_own
from draxet.job.records import Job

__all__ = ["put_pieces"]


def put_pieces(job: Job, contour_id: str, parts: Sequence[Contour]) -> tuple[Job, set[str]]:
    """A contour's parts in its place, worked as it was, and their ids; it is gone where there are
    none."""
    if not parts:
        return remove_contours(job, [contour_id]), set()
    item = job.contour_by_id[contour_id]
    job = change_contours(make_own(job, [contour_id]), {contour_id: parts[0]})
    before = len(job.contours)
    job = add_contours(
        job,
        list(parts[1:]),
        item.picture,
        [item.colour] * (len(parts) - 1),
        [item.traced] * (len(parts) - 1),
        [item.layer] * (len(parts) - 1),
    )
    new = [other.id for other in job.contours[before:]]
    contours = tuple(
        replace(i, part=item.part, by_hand=True, line=item.line) if i.id in new else i
        for i in job.contours
    )
    operations = tuple(
        each.with_contours([*each.contours, *new]) if new and contour_id in each.contours else each
        for each in job.operations
    )
    return replace(job, contours=contours, operations=operations), {contour_id, *new}
