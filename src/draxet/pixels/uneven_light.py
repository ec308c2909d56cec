"""Whether a page is lit so unevenly that no one brightness parts its ink from its paper."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import NDArray
from draxet.pixels.paper_ground import Paper

__all__ = ["is_unevenly_lit"]

_SIDE = 700
_DEVIATES = 0.25
"""Of the difference between ink and paper: paper that deviates by so much is lit otherwise."""
_LEAST_SHARE = 0.01
_LEAST_CONTRAST = 20.0
_SOFT = 0.35
"""Of the same difference: light changes by no more within a few pixels, the border of something
printed does."""
_WITHIN = 4
_LOST = 0.1
"""Of all ink: so much of it would be taken for paper."""
_LEAST_INK = 0.002
"""Of what is lit otherwise: so much is ink at the least, or it is no page but something dark."""


def is_unevenly_lit(grey: NDArray[Any], level: float) -> bool:
    """Whether a picture's light is so uneven that one level between ink and paper takes paper for
    ink, or ink for paper: where it is darker, softly so, with ink on it there, or where ink is
    lighter than elsewhere.

    Parameters
    ----------
    grey : (rows, columns) of uint8. level : the one midway between its ink and its paper.
    """
    shrink = max(1.0, max(grey.shape) / _SIDE)
    small = cv2.resize(
        grey,
        (max(1, round(grey.shape[1] / shrink)), max(1, round(grey.shape[0] / shrink))),
        interpolation=cv2.INTER_AREA,
    )
    if min(small.shape) < 32:
        return False
    paper = np.asarray(Paper.of(small).small, dtype=np.float32)
    usual = float(np.median(paper))
    depth = paper - small
    printed = depth > 0.5 * float(np.percentile(depth, 99.5))
    contrast = float(np.median(depth[printed])) if printed.any() else 0.0
    if (
        contrast < _LEAST_CONTRAST or usual < level
    ):  # most of it is dark: things on a table, no page
        return False
    bare = cv2.morphologyEx(
        small, cv2.MORPH_CLOSE, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (13, 13))
    )  # without its thin ink
    bare = cv2.GaussianBlur(bare, (0, 0), 1.0).astype(np.float32)
    swallowed = _softly_bounded(
        bare, (np.abs(bare - usual) > _DEVIATES * contrast) & (bare < level), contrast
    )
    if swallowed.mean() >= _LEAST_SHARE and _has_ink(depth, paper, swallowed):
        return True
    lighter = _softly_bounded(bare, bare - usual > _DEVIATES * contrast, contrast)
    ink = depth > 0.35 * paper
    return bool(lighter.mean() >= _LEAST_SHARE) and bool(
        (ink & lighter & (small > level)).sum() > _LOST * ink.sum()
    )


def _has_ink(depth: NDArray[Any], paper: NDArray[Any], where: NDArray[np.bool_]) -> bool:
    """Whether strokes stand out from the paper there as well."""
    share = depth[where] / np.maximum(paper[where], 8.0)
    return bool((share > 0.25).mean() > _LEAST_INK)


def _softly_bounded(
    bare: NDArray[Any], where: NDArray[np.bool_], contrast: float
) -> NDArray[np.bool_]:
    """Those connected parts of `where` along whose border brightness changes slowly: light, and
    nothing printed."""
    kernel = np.ones((2 * _WITHIN + 1, 2 * _WITHIN + 1), np.uint8)
    steps = cv2.dilate(bare, kernel) - cv2.erode(bare, kernel)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(
        where.astype(np.uint8), connectivity=8
    )
    inner = np.zeros(where.shape, bool)
    inner[2:-2, 2:-2] = True
    soft = np.zeros(where.shape, bool)
    for k in range(1, count):
        if stats[k, cv2.CC_STAT_AREA] < _LEAST_SHARE * where.size:
            continue
        mine = labels == k
        rim = (cv2.dilate(mine.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0) & ~mine & inner
        if rim.any() and float(np.median(steps[rim])) < _SOFT * contrast:
            soft |= mine
    return soft
