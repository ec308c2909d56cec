"""Cutting through: which side of a contour the cut runs on, and the band of material that it takes away."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import as_polygon, nesting_depths
from draxet.job.edits import give_operation
from draxet.job.records import CutThrough, Job, Side

__all__ = ["CutError", "cut_centre_lines", "cut_minutes", "give_cut"]

_FINE = 0.01


class CutError(ValueError):
    """A cut that cannot be given; the message is one sentence for people."""


def give_cut(job: Job, ids: Sequence[str], width: float, feed: float) -> Job:
    """Contours cut through so that the part keeps its size: openings by a cut inside them, outlines by a cut outside.

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
    depths = dict(zip((i.id for i in job.contours), nesting_depths([i.contour for i in job.contours]).tolist(), strict=True))
    openings = [i.id for i in job.contours if i.id in chosen and depths[i.id] % 2 == 1 and depths[i.id] > 0]
    outlines = [i.id for i in job.contours if i.id in chosen and depths[i.id] >= 0 and depths[i.id] % 2 == 0]
    slits = [i.id for i in job.contours if i.id in chosen and depths[i.id] < 0]
    for name, members, side in (("Cut openings", openings, Side.INSIDE), ("Cut slits", slits, Side.ON), ("Cut outlines", outlines, Side.OUTSIDE)):
        job = give_operation(job, name, members, side, width, feed)
    return job


def cut_centre_lines(contour: Contour, operation: CutThrough) -> list[tuple[Points, bool]]:
    """Where the middle of the cut runs, within 0.01 mm: points (n, 2) of each line and whether it is closed.

    Nothing is left where an opening is narrower than the cut.
    """
    if operation.side is Side.ON or not contour.closed:
        return [(contour.flattened(_FINE), contour.closed)]
    away = operation.width / 2 if operation.side is Side.OUTSIDE else -operation.width / 2
    shape = as_polygon(contour, _FINE)
    if not shape.is_valid:
        shape = shape.buffer(0)
    moved = shape.buffer(away, quad_segs=24)
    parts = getattr(moved, "geoms", [moved])
    return [(np.asarray(part.exterior.coords)[:-1], True) for part in parts if not part.is_empty]


def cut_minutes(job: Job) -> float:
    """Minutes that all cuts take at their feed, ways between them not counted."""
    return sum(job.contour_by_id[c].contour.length / operation.feed for operation in job.operations for c in operation.contours)
