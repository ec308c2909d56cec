"""The colour that a picture has inside a contour, or along an open one."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import NDArray
from draxet.geometry.contour import Contour

__all__ = ["colour_inside"]

_MOST_SIDE = 400


def colour_inside(contour: Contour, pixels: NDArray[Any]) -> str:
    """The median colour (#rrggbb) of the pixels inside a closed contour, or beneath an open one;
    empty where it lies beside the picture.

    Parameters
    ----------
    contour : in the picture's own pixels. pixels : (rows, columns[, 3]) of uint8.
    """
    high, wide = pixels.shape[:2]
    x0, y0, x1, y1 = contour.box
    left, top, right, bottom = (
        max(int(x0), 0),
        max(int(y0), 0),
        min(int(x1) + 2, wide),
        min(int(y1) + 2, high),
    )
    if right <= left or bottom <= top:
        return ""
    step = max(1, (right - left) // _MOST_SIDE, (bottom - top) // _MOST_SIDE)
    part = pixels[top:bottom:step, left:right:step]
    points = np.round((contour.flattened(0.5) - (left + 0.5, top + 0.5)) / step * 16).astype(
        np.int32
    )
    mask = np.zeros(part.shape[:2], np.uint8)
    if contour.closed:
        cv2.fillPoly(mask, [points], 1, shift=4)
    cv2.polylines(
        mask,
        [points],
        contour.closed,
        0 if mask.any() and mask.sum() > 4 * len(points) else 1,
        1,
        shift=4,
    )
    inside = part[mask.astype(bool)]
    if not len(inside):
        return ""
    colour = np.median(inside.reshape(len(inside), -1), axis=0)
    r, g, b = (int(v) for v in (colour if len(colour) == 3 else [colour[0]] * 3))
    return f"#{r:02x}{g:02x}{b:02x}"
