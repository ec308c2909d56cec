"""Gaps that are nearly equal, between what stands side by side or one above the other."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Floats, Ints
from draxet.geometry.nesting import nested_pairs
from draxet.job.contour_moves import map_contours
from draxet.job.contour_records import ContourItem
from draxet.job.find import boxes_of
from draxet.job.records import Job
from draxet.mend.truth_record import Truth

__all__ = ["equal_gaps", "with_equal_gaps"]

_LEAST = 3
"""Shapes that make a row."""
_OVERLAP = 0.5
"""Of the lower one's height, by which neighbours in a row stand beside each other."""
_ALIKE = 0.5
"""Of their mean, by which gaps differ at the most."""
_EXACT = 1e-7


def equal_gaps(items: Sequence[ContourItem], most: float) -> Iterator[Truth]:
    """Rows and columns of at least three closed outlines between which the gaps are nearly equal: the
    first and the last stay, what lies within an outline goes along, and none would move farther than
    `most` mm."""
    closed = [item for item in items if item.contour.closed]
    inner, outer = nested_pairs([item.contour for item in closed], 0.05)
    within = dict[int, list[int]]()
    for one, around in zip(inner.tolist(), outer.tolist(), strict=True):
        within.setdefault(around, []).append(one)
    outlines = np.setdiff1d(np.arange(len(closed)), inner)
    boxes = boxes_of(closed)[outlines] if len(closed) else np.zeros((0, 4))
    for axis in (0, 1):
        for row in _rows(boxes, axis):
            for begin, end in _runs(boxes[row], axis, most):
                run = row[begin:end]
                moves = float(np.abs(_shifts(boxes[run], axis)).max())
                if not _EXACT < moves <= most:
                    continue
                whole = [(k, *within.get(k, ())) for k in outlines[run].tolist()]
                ids = tuple(closed[n].id for each in whole for n in each)
                counts = tuple(float(len(each)) for each in whole)
                x0, y0, x1, y1 = boxes[run[1]].tolist()
                yield Truth("gap", ids, (), moves, ((x0 + x1) / 2, (y0 + y1) / 2), (axis, *counts))


def with_equal_gaps(job: Job, truth: Truth) -> Job:
    """The job with what stands in a row moved so that all gaps are the same."""
    axis, counts = int(truth.value[0]), np.array(truth.value[1:], dtype=np.int64)
    names = np.split(np.array(truth.ids, dtype=object), np.cumsum(counts)[:-1])
    outlines = [job.layout.contour_by_id[each[0]].contour.box for each in names]
    shifts = _shifts(np.array(outlines), axis)
    for each, by in zip(names, shifts.tolist(), strict=True):
        if by:
            to = Affine.moved(0.0, by) if axis else Affine.moved(by, 0.0)
            job = map_contours(job, each.tolist(), to, by_hand=True, alone=truth.ids)
    return job


def _rows(boxes: Floats, axis: int) -> Iterator[Ints]:
    """The numbers of boxes that stand in one row, in their order along an axis, each the nearest
    neighbour of the one before."""
    low, high = boxes[:, axis], boxes[:, axis + 2]
    below, above = boxes[:, 1 - axis], boxes[:, 3 - axis]
    beside = np.minimum(above[:, None], above) - np.maximum(below[:, None], below)
    tall = above - below
    after = (beside >= _OVERLAP * np.minimum(tall[:, None], tall)) & (low >= high[:, None])
    gaps = np.where(after, low - high[:, None], np.inf)
    following = {
        k: int(gaps[k].argmin())
        for k in range(len(boxes))
        if np.isfinite(gaps[k]).any() and int(gaps[:, gaps[k].argmin()].argmin()) == k
    }
    for first in set(range(len(boxes))) - set(following.values()):
        row = [first]
        while row[-1] in following:
            row.append(following[row[-1]])
        if len(row) >= _LEAST:
            yield np.array(row)


def _runs(boxes: Floats, axis: int, most: float) -> Iterator[tuple[int, int]]:
    """From which to before which box of a row the gaps are alike."""
    gaps = boxes[1:, axis] - boxes[:-1, axis + 2]
    begin = 0
    for end in range(1, len(gaps) + 1):
        some = gaps[begin : end + 1]
        alike = min(2 * most, _ALIKE * float(some.mean()))
        if end == len(gaps) or float(np.ptp(some)) > alike:
            if end - begin + 1 >= _LEAST:
                yield begin, end + 1
            begin = end


def _shifts(boxes: Floats, axis: int) -> Floats:
    """(n,) how far each box of a row moves, the first and the last not at all."""
    low, high = boxes[:, axis], boxes[:, axis + 2]
    gap = (high[-1] - low[0] - (high - low).sum()) / (len(boxes) - 1)
    wanted = low[0] + np.concatenate([[0.0], np.cumsum((high - low)[:-1] + gap)])
    shifts: Floats = wanted - low
    shifts[[0, -1]] = 0.0
    return shifts
