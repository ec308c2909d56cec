"""Cutting through: which side of each contour the cut runs on."""

from __future__ import annotations

from collections.abc import Sequence

from draxet.geometry.nesting import nesting_depths
from draxet.job.copies import worked_by_itself
from draxet.job.layout_names import drawn_name, split_name
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
    items = job.layout.contours
    found = nesting_depths([i.contour for i in items]).tolist()
    depths = dict(zip((i.id for i in items), found, strict=True))
    some = [i.id for i in items if i.id in chosen]
    openings = [name for name in some if depths[name] % 2 == 1 and depths[name] > 0]
    outlines = [name for name in some if depths[name] >= 0 and depths[name] % 2 == 0]
    slits = [name for name in some if depths[name] < 0]
    for name in some:
        drawn, placement = drawn_name(name), split_name(name)[0]
        if depths[name] >= 0 and depths[drawn] % 2 != depths[name] % 2:  # laid in an opening
            job = worked_by_itself(job, placement)
    for name, members, side in (
        ("Cut openings", openings, Side.INSIDE),
        ("Cut slits", slits, Side.ON),
        ("Cut outlines", outlines, Side.OUTSIDE),
    ):
        job = give_operation(job, name, members, side, width, feed)
    return job
