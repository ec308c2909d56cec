"""Ends: contours parted at places, and open ones joined by the ends that are nearest to each
other."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from draxet.geometry.contour import Contour
from draxet.geometry.pieces import SAME_END, closed_up, joined, opened_at, piece
from draxet.job.contour_edits import change_contours, remove_contours
from draxet.job.contour_pieces import put_pieces
from draxet.job.copies import made_own
from draxet.job.layout_names import split_name
from draxet.job.records import Job

__all__ = ["joined_ends", "parted"]


def parted(job: Job, contour_id: str, positions: Sequence[float]) -> tuple[Job, tuple[str, ...]]:
    """A contour parted at some positions, and the ids of its parts: the first keeps the contour's
    own."""
    contour = job.layout.contour_by_id[contour_id].contour
    places = sorted(set(positions))
    if contour.closed:
        parts: list[Contour | None] = (
            [opened_at(contour, places[0])]
            if len(places) == 1
            else [
                piece(contour, a, b) for a, b in zip(places, [*places[1:], places[0]], strict=True)
            ]
        )
    else:
        bounds = [
            0.0,
            *(p for p in places if 0 < p < len(contour.kinds)),
            float(len(contour.kinds)),
        ]
        parts = [piece(contour, a, b) for a, b in zip(bounds[:-1], bounds[1:], strict=True)]
    return put_pieces(job, contour_id, [part for part in parts if part is not None])


def joined_ends(job: Job, ids: Sequence[str]) -> tuple[Job, str]:
    """Open contours as one, and its id (that of the first): by lines where ends do not meet. One
    alone is closed; so are several whose last ends meet once they are joined."""
    if len({split_name(k)[0] for k in ids}) > 1:
        job, names = made_own(job, ids)
        ids = [names.get(k, k) for k in ids]
    first, by_id = ids[0], job.layout.contour_by_id
    left = {k: by_id[k].contour for k in ids}
    whole = left.pop(first)
    if not left:
        return change_contours(job, {first: closed_up(whole)}), first
    while left:
        near = min(left, key=lambda k: _apart(whole, left[k]))
        whole = joined(whole, left.pop(near))
    if np.hypot(*(whole.nodes[0] - whole.nodes[-1])) <= SAME_END:
        whole = closed_up(whole)
    return change_contours(remove_contours(job, ids[1:]), {first: whole}), first


def _apart(one: Contour, other: Contour) -> float:
    return min(
        float(np.hypot(*(a - b)))
        for a in (one.nodes[0], one.nodes[-1])
        for b in (other.nodes[0], other.nodes[-1])
    )
