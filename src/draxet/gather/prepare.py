"""Steps between a picture's file and the picture as it is worked with. The file itself is never changed."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from draxet.gather.load import grey_of
from draxet.geometry.homography import apply_homography, bent
from draxet.job.records import SquareStep, Tones

__all__ = ["prepared"]

_BAND_ROWS = 512
_PAPER_SIDE = 700
_AT_REST = Tones()


def prepared(pixels: NDArray[Any], square: SquareStep | None, tones: Tones = _AT_REST) -> NDArray[Any]:
    """A picture's pixels after its steps: squared to a plan where it has that step, then its tones.

    Tones other than at rest make the picture grey.
    """
    plan = pixels if square is None else _squared(pixels, square)
    return plan if tones == _AT_REST else _toned(grey_of(plan), tones)


def _toned(grey: NDArray[Any], tones: Tones) -> NDArray[Any]:
    if tones.even_light:
        grey = _evenly_lit(grey)
    if tones.specks:
        grey = _without_specks(grey, tones.specks)
    if tones.contrast:
        grey = cv2.LUT(grey, _contrast_curve(grey, tones.contrast))
    return 255 - grey if tones.invert else grey


def _evenly_lit(grey: NDArray[Any]) -> NDArray[Any]:
    """Brightness as a share of the paper's own round each place: paper becomes 245 everywhere.

    The paper is what a closing over a wide neighbourhood leaves, found on a small copy.
    """
    shrink = max(1.0, max(grey.shape) / _PAPER_SIDE)
    small = cv2.resize(grey, None, fx=1 / shrink, fy=1 / shrink, interpolation=cv2.INTER_AREA)
    reach = max(3, round(min(small.shape) / 10)) | 1
    closed = cv2.morphologyEx(small, cv2.MORPH_CLOSE, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (reach, reach)))
    paper = cv2.GaussianBlur(closed.astype(np.float32), (0, 0), reach / 2)
    out = np.empty_like(grey)
    whole = cv2.resize(paper, (grey.shape[1], grey.shape[0]), interpolation=cv2.INTER_LINEAR)
    for top in range(0, grey.shape[0], _BAND_ROWS):
        band = slice(top, top + _BAND_ROWS)
        out[band] = np.clip(grey[band] * (245.0 / np.maximum(whole[band], 16.0)), 0, 255).astype(np.uint8)
    return out


def _without_specks(grey: NDArray[Any], size: int) -> NDArray[Any]:
    """Dark and light spots up to `size` pixels wide and high filled with what lies round them; longer things are untouched."""
    ink = (grey < automatic_ink_level(grey)).astype(np.uint8)
    out = grey.copy()
    for mask, fill in ((ink, 75.0), (1 - ink, 25.0)):
        count, labels, stats, _ = cv2.connectedComponentsWithStats(mask, connectivity=8)
        small = (stats[:, cv2.CC_STAT_WIDTH] <= size) & (stats[:, cv2.CC_STAT_HEIGHT] <= size)
        small[0] = False
        if small.any():
            spots = cv2.dilate(small[labels].astype(np.uint8), np.ones((3, 3), np.uint8)).astype(bool)
            value = np.percentile(grey[mask == 0], fill) if (mask == 0).any() else 255
            out[spots] = np.uint8(value)
    return out


def automatic_ink_level(grey: NDArray[Any]) -> float:
    """The brightness that parts ink and paper best (Otsu, 1979)."""
    return float(cv2.threshold(grey, 0, 255, cv2.THRESH_BINARY + cv2.THRESH_OTSU)[0])


def _contrast_curve(grey: NDArray[Any], contrast: int) -> NDArray[np.uint8]:
    """256 brightnesses, steeper about the ink level the higher the contrast."""
    level = automatic_ink_level(grey) + 0.5
    steep = 1.0 / max(1.0 - contrast / 100.0, 1e-3)
    return np.asarray(np.clip(level + (np.arange(256) - level) * steep, 0, 255), dtype=np.uint8)


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
