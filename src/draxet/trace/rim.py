"""The picture's own rim is no contour: dark ground that reaches the border would be bounded by
it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from draxet.geometry.arrays import Bools, Points
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.nesting import nesting_depths
from draxet.trace.extract import EdgeLines

__all__ = ["lines_on_rim", "without_ground"]

_SHARE = 0.5
"""A contour is the picture's rim where more than so much of it runs along the border."""
_NEAR = 0.75


def lines_on_rim(lines: EdgeLines, width: int, height: int) -> Bools:
    """Which edge lines (k,) run mostly along the border of a picture of so many pixels."""
    if not len(lines):
        return np.zeros(0, dtype=bool)
    return np.asarray(
        np.add.reduceat(_at_border(lines.points, width, height, 0.0).astype(np.int64), lines.firsts)
        > _SHARE * lines.counts
    )


def _at_border(points: Points, width: int, height: int, within: float) -> Bools:
    x, y = points[:, 0], points[:, 1]
    reach = 0.5 + within
    return np.asarray((x < reach) | (y < reach) | (x > width - reach) | (y > height - reach))


def without_ground(contours: Sequence[Contour], width: int, height: int) -> list[int]:
    """Numbers of an area colour's closed contours (even-odd) that are left without the ground:
    areas whose outer boundary is mostly the picture's border, and the holes in them."""
    if not contours:
        return []
    spans, owner = joined_spans(contours)
    lengths = spans.lengths()
    at_border = (
        _at_border((spans.starts + spans.ends) / 2, width, height, _NEAR)
        & _at_border(spans.starts, width, height, _NEAR)
        & _at_border(spans.ends, width, height, _NEAR)
    )
    along = np.bincount(owner, np.where(at_border, lengths, 0.0), minlength=len(contours))
    rim = along > _SHARE * np.bincount(owner, lengths, minlength=len(contours))
    if not rim.any():
        return list(range(len(contours)))
    depths = nesting_depths(contours)
    inside = np.zeros(len(contours), dtype=bool)
    for k in np.flatnonzero(rim).tolist():
        inside |= (depths == depths[k] + 1) & _lie_within(contours, contours[k])
    return np.flatnonzero(~(rim | inside)).tolist()


def _lie_within(contours: Sequence[Contour], whole: Contour) -> Bools:
    x0, y0, x1, y1 = whole.box
    boxes = np.array([contour.box for contour in contours])
    return np.asarray(
        (boxes[:, 0] >= x0) & (boxes[:, 1] >= y0) & (boxes[:, 2] <= x1) & (boxes[:, 3] <= y1)
    )
