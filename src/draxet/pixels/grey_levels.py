"""Colours as one grey channel."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import NDArray

__all__ = ["grey_of"]


def grey_of(pixels: NDArray[Any]) -> NDArray[Any]:
    """Pixels as one grey channel (rows, columns) of uint8, weighted as the eye sees (Rec. 601)."""
    return pixels if pixels.ndim == 2 else np.asarray(cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY))
