"""Exact rasters of rings: every sub-pixel whose middle lies inside counts, none other."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["ink_on_paper"]


def ink_on_paper(
    rings: Sequence[NDArray[np.float64]], size: int, over: int = 8
) -> NDArray[np.uint8]:
    """Rings in picture space (x right, y down; even-odd) as ink of 0 on paper of 255, `over` ×
    `over` sub-pixels a pixel."""
    side = size * over
    toggles = np.zeros((side, side + 1), dtype=np.uint8)
    for ring in rings:
        a, b = ring * over, np.roll(ring, -1, axis=0) * over
        low, high = np.minimum(a[:, 1], b[:, 1]), np.maximum(a[:, 1], b[:, 1])
        first, last = (
            np.clip(np.ceil(low - 0.5), 0, side).astype(int),
            np.clip(np.ceil(high - 0.5), 0, side).astype(int),
        )
        counts = last - first
        owner = np.repeat(np.arange(len(a)), counts)
        row = first[owner] + np.arange(len(owner)) - np.repeat(np.cumsum(counts) - counts, counts)
        share = (row + 0.5 - a[owner, 1]) / (b[owner, 1] - a[owner, 1])
        x = a[owner, 0] + share * (b[owner, 0] - a[owner, 0])
        np.add.at(toggles, (row, np.clip(np.ceil(x - 0.5), 0, side).astype(int)), 1)
    inside = np.cumsum(toggles, axis=1, dtype=np.uint8)[:, :side] & 1
    return np.asarray(
        255 - cv2.resize(inside * 255, (size, size), interpolation=cv2.INTER_AREA), dtype=np.uint8
    )
