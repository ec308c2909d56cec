"""Cutting through: which side of each contour the cut runs on."""

from __future__ import annotations

from collections.abc import Sequence

from draxet.geometry.nesting import nesting_depths
from draxet.job.operating import give_operation
from draxet.job.operations import Side
from draxet.job.records import Job

__all__ = ["CutError", "give_cut"]


class CutError(ValueError):
    """A cut that cannot be given; the message is one sentence for people."""


def give_cut(job: Job, ids: Sequence[str], width: float, feed: float) -> Job:
    """Contours cut through so that the part keeps its size: openings by a cut inside them, outlines
    by a cut outside.

    Open contours among `ids` are cut on the line, as slits.

    Raises
    ------
    CutError : where there is nothing to cut or the width or feed is not over 0.
    """
    if not width > 0:
        raise CutError(f"the cut width must be over 0 mm, got {width:g}")
    if not feed > 0:
        raise CutError(f"the feed must be over 0 mm a minute, got {feed:g}")
    chosen = set(ids)
    if not chosen:
        raise CutError("there is no contour to cut; trace the picture first")
    depths = dict(
        zip(
            (i.id for i in job.contours),
            nesting_depths([i.contour for i in job.contours]).tolist(),
            strict=True,
        )
    )
    openings = [
        i.id for i in job.contours if i.id in chosen and depths[i.id] % 2 == 1 and depths[i.id] > 0
    ]
    outlines = [
        i.id for i in job.contours if i.id in chosen and depths[i.id] >= 0 and depths[i.id] % 2 == 0
    ]
    slits = [i.id for i in job.contours if i.id in chosen and depths[i.id] < 0]
    for name, members, side in (
        ("Cut openings", openings, Side.INSIDE),
        ("Cut slits", slits, Side.ON),
        ("Cut outlines", outlines, Side.OUTSIDE),
    ):
        job = give_operation(job, name, members, side, width, feed)
    return job
