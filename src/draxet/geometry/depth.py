"""Which triangle is nearest at each pixel: depth compared pixel by pixel, so that what is hidden is
hidden truly, however triangles lie among each other."""

from __future__ import annotations

import numpy as np

from draxet.geometry.arrays import Floats, Ints
from draxet.progress import Progress, Unwatched

__all__ = ["nearest_at_pixels"]

_FLAT = 1e-9
"""Square pixels: a triangle that is seen from its edge is not seen."""
_AT_ONCE = 1_000_000
"""Pixels of triangles that are compared at a time."""


def nearest_at_pixels(
    corners: Floats, width: int, height: int, report: Progress = Unwatched()
) -> tuple[Floats, Ints]:
    """What is seen of triangles.

    Parameters
    ----------
    corners : (m, 3, 3) of each triangle x to the right and y downwards in pixels, as they are seen
    from straight ahead, and how near it is (greater is nearer).

    Returns
    -------
    nearness (height, width) at the pixels' middles, minus infinity where nothing is; and the number
    of the triangle there, or -1.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    near = np.full(width * height, -np.inf)
    which = np.full(width * height, -1, dtype=np.int64)
    a, b, c = np.moveaxis(np.asarray(corners, dtype=np.float64), 1, 0)
    ab, ac = b - a, c - a
    area = ab[:, 0] * ac[:, 1] - ab[:, 1] * ac[:, 0]
    kept = np.flatnonzero(np.abs(area) > _FLAT)
    kept = kept[np.argsort(a[kept, 2] + b[kept, 2] + c[kept, 2], kind="stable")]  # far ones first
    triangle, row = _rows(corners, kept, height)
    low, high = _stretches(corners, triangle, row, width)
    some = high >= low
    triangle, row, low, high = triangle[some], row[some], low[some], high[some]
    with np.errstate(divide="ignore", invalid="ignore"):
        along_x = (ab[:, 2] * ac[:, 1] - ac[:, 2] * ab[:, 1]) / area
        along_y = (ac[:, 2] * ab[:, 0] - ab[:, 2] * ac[:, 0]) / area
    step = along_x[triangle]
    first = a[triangle, 2] + step * (low + 0.5 - a[triangle, 0])
    first += along_y[triangle] * (row + 0.5 - a[triangle, 1])
    pixel, counts = row * width + low, high - low + 1
    until = np.cumsum(counts)
    begin = 0
    while begin < len(triangle):
        report(begin / len(triangle), "looking at bodies")
        done = int(until[begin - 1]) if begin else 0
        end = max(int(np.searchsorted(until, done + _AT_ONCE, side="right")), begin + 1)
        part, many = slice(begin, end), counts[begin:end]
        on = np.arange(int(until[end - 1]) - done) - np.repeat(until[part] - many - done, many)
        _compare(
            near,
            which,
            np.repeat(pixel[part], many) + on,
            np.repeat(first[part], many) + np.repeat(step[part], many) * on,
            np.repeat(triangle[part], many),
        )
        begin = end
    return near.reshape(height, width), which.reshape(height, width)


def _rows(corners: Floats, kept: Ints, height: int) -> tuple[Ints, Ints]:
    """Triangle and row, for each row of pixels' middles that a triangle crosses."""
    ys = corners[kept, :, 1]
    first = np.clip(np.ceil(ys.min(axis=1) - 0.5), 0, height).astype(np.int64)
    last = np.clip(np.floor(ys.max(axis=1) - 0.5), -1, height - 1).astype(np.int64)
    counts = np.maximum(last - first + 1, 0)
    row = np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)
    return np.repeat(kept, counts), row + np.repeat(first, counts)


def _stretches(corners: Floats, triangle: Ints, row: Ints, width: int) -> tuple[Ints, Ints]:
    """The first and the last pixel of a row whose middle lies in a triangle: between the side from its
    highest to its lowest corner and, above and below the third, the two others. An edge that two
    triangles share is reckoned in the same way for both, so that nothing shows between them."""
    order = np.argsort(corners[:, :, 1], axis=1)
    xs = np.take_along_axis(corners[:, :, 0], order, axis=1)
    ys = np.take_along_axis(corners[:, :, 1], order, axis=1)
    ends = ((0, 2), (0, 1), (1, 2))
    with np.errstate(divide="ignore", invalid="ignore"):
        lean = np.stack([(xs[:, b] - xs[:, a]) / (ys[:, b] - ys[:, a]) for a, b in ends], axis=1)
        at_zero = np.stack(
            [xs[:, a] - lean[:, k] * ys[:, a] for k, (a, _) in enumerate(ends)], axis=1
        )
        y = row + 0.5
        middle = ys[:, 1].take(triangle)
        lower = (y > middle) | (ys[:, 0] == ys[:, 1]).take(triangle)
        side = 3 * triangle + 1 + lower
        long = at_zero[:, 0].take(triangle) + lean[:, 0].take(triangle) * y
        short = at_zero.reshape(-1).take(side) + lean.reshape(-1).take(side) * y
    left, right = np.fmin(long, short), np.fmax(long, short)
    low = np.clip(np.ceil(left - 0.5), 0, width).astype(np.int64)
    high = np.clip(np.floor(right - 0.5), -1, width - 1).astype(np.int64)
    return low, high


def _compare(near: Floats, which: Ints, pixel: Ints, there: Floats, of: Ints) -> None:
    """Take over what is nearer than what is known: whoever writes last at a pixel stands there, and
    those that are nearer try again."""
    left = np.flatnonzero(there > near[pixel])
    while len(left):
        near[pixel[left]] = there[left]
        which[pixel[left]] = of[left]
        left = left[there[left] > near[pixel[left]]]
