"""Pixels read between their centres, from pictures and at places of any number."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import Floats, NDArray, Points

__all__ = ["sampled"]

_MOST = 30_000
"""The library reads at most 32,767 rows and columns at once."""


def sampled(image: NDArray[Any], places: Points, beyond: int | None = None) -> Floats:
    """Brightness or colour at places, bilinear.

    Parameters
    ----------
    image : (rows, columns) or (rows, columns, channels). places : (n, m, 2) x, y in picture space
    (pixel 0's centre at 0.5).
    beyond : what lies outside of the image; None for its nearest pixel.

    Returns
    -------
    (n, m) or (n, m, channels) of float64.
    """
    if not len(places):
        return np.zeros((*places.shape[:-1], *image.shape[2:]))
    if max(image.shape[:2]) > _MOST:
        return _by_hand(image, places, beyond)
    mode = cv2.BORDER_REPLICATE if beyond is None else cv2.BORDER_CONSTANT
    value = (beyond or 0,) * 4
    parts = []
    for k in range(0, len(places), _MOST):
        at = places[k : k + _MOST] - 0.5
        x, y = (np.ascontiguousarray(at[..., axis], dtype=np.float32) for axis in (0, 1))
        parts.append(cv2.remap(image, x, y, cv2.INTER_LINEAR, borderMode=mode, borderValue=value))
    return np.concatenate(parts).astype(np.float64)


def _by_hand(image: NDArray[Any], places: Points, beyond: int | None) -> Floats:
    at = places - 0.5
    corner = np.floor(at).astype(np.int64)
    part = at - corner
    total: Floats = np.zeros((*places.shape[:-1], *image.shape[2:]))
    rows, columns = image.shape[:2]
    for dx in (0, 1):
        for dy in (0, 1):
            x, y = corner[..., 0] + dx, corner[..., 1] + dy
            weight = np.abs(1 - dx - part[..., 0]) * np.abs(1 - dy - part[..., 1])
            values = image[np.clip(y, 0, rows - 1), np.clip(x, 0, columns - 1)].astype(np.float64)
            if beyond is not None:
                values[(x < 0) | (y < 0) | (x >= columns) | (y >= rows)] = beyond
            total += values * (weight if image.ndim == 2 else weight[..., None])
    return total
