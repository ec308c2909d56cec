"""Steps between a picture's file and the picture as it is worked with. The file itself is never changed."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from draxet.geometry.homography import apply_homography, bent
from draxet.job.records import SquareStep

__all__ = ["prepared"]

_BAND_ROWS = 512


def prepared(pixels: NDArray[Any], square: SquareStep | None) -> NDArray[Any]:
    """A picture's pixels after its steps: squared to a plan where it has that step."""
    return pixels if square is None else _squared(pixels, square)


def _squared(pixels: NDArray[Any], step: SquareStep) -> NDArray[Any]:
    """Each pixel of the plan fetched from where the camera saw it; beyond the photo's edge the plan is paper-white."""
    height, width = pixels.shape[:2]
    columns, rows = step.plan
    matrix = np.array(step.matrix).reshape(3, 3)
    out = np.full((rows, columns, *pixels.shape[2:]), 255, dtype=np.uint8)
    white = (255, 255, 255)[: pixels.shape[2] if pixels.ndim == 3 else 1]
    for top in range(0, rows, _BAND_ROWS):
        count = min(_BAND_ROWS, rows - top)
        x, y = np.meshgrid(np.arange(columns) + 0.5, np.arange(top, top + count) + 0.5)
        at = apply_homography(matrix, np.column_stack([x.ravel(), y.ravel()]))
        at = bent(at, step.curve, width, height) - 0.5
        at_x, at_y = (at[:, k].astype(np.float32).reshape(count, columns) for k in (0, 1))
        out[top : top + count] = cv2.remap(pixels, at_x, at_y, cv2.INTER_CUBIC, borderMode=cv2.BORDER_CONSTANT, borderValue=white)
    return out
