"""The colour that a picture has inside a contour, or along an open one."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import NDArray
from draxet.geometry.contour import Contour

__all__ = ["colour_at", "colour_inside"]

_MOST_SIDE = 400
_BY_EDGE, _WITHIN = 3.0, 0.5
"""So many pixels, or that share of what it is broad, beside an edge colours are mixed."""
_CELL = 16
"""Of 256 levels: as broad is a cell of colours that are told apart."""


def colour_inside(contour: Contour, pixels: NDArray[Any]) -> str:
    """The colour (#rrggbb) that most of the pixels inside a closed contour have, those by its edge
    left aside where there are others, or of those beneath an open one; empty where it lies beside
    the picture.

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
        deep = cv2.distanceTransform(np.pad(mask, 1), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)[
            1:-1, 1:-1
        ]
        mask = (deep >= min(_BY_EDGE, _WITHIN * float(deep.max(initial=0.0)))).astype(
            np.uint8
        ) & mask
    if not mask.any():
        cv2.polylines(mask, [points], contour.closed, 1, 1, shift=4)
    inside = part[mask.astype(bool)]
    return _most_of(inside.reshape(len(inside), -1)) if len(inside) else ""


def colour_at(x: float, y: float, pixels: NDArray[Any]) -> str:
    """The colour (#rrggbb) about a place in a picture's own pixels, of the nine next to it; empty
    beside the picture."""
    column, row = int(np.floor(x)), int(np.floor(y))
    if not (0 <= column < pixels.shape[1] and 0 <= row < pixels.shape[0]):
        return ""
    near = pixels[max(row - 1, 0) : row + 2, max(column - 1, 0) : column + 2]
    return _most_of(near.reshape(near.shape[0] * near.shape[1], -1))


def _most_of(colours: NDArray[Any]) -> str:
    """The colour that most of them (n, channels) have: of their densest cell and those about it the
    median. A mixture of two that are there is none of them."""
    cells = (colours.astype(np.int64) + _CELL // 2) // _CELL
    keys = cells @ (1 << 8 * np.arange(cells.shape[1]))
    names, counts = np.unique(keys, return_counts=True)
    centre = cells[np.argmax(keys == names[np.argmax(counts)])]
    near = colours[(np.abs(cells - centre) <= 1).all(axis=1)]
    found = np.median(near, axis=0)
    r, g, b = (int(v) for v in (found[:3] if len(found) >= 3 else [found[0]] * 3))
    return f"#{r:02x}{g:02x}{b:02x}"
