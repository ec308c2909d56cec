"""The level: the brightness midway between ink and paper as they really are in a picture."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import NDArray

__all__ = ["automatic_level", "check_request", "edge_blur"]

_BAND_ROWS = 96
_BAND_PIXELS = 500_000


def check_request(values: NDArray[Any], level: float | None, tolerance: float) -> None:
    """Refuse what no picture can be traced by: `values` not (rows, columns) of uint8, a `level`
    outside 0..255, no `tolerance`.

    Raises
    ------
    ValueError : names the value, what was wanted and what came.
    """
    if values.ndim != 2 or values.dtype != np.uint8 or not values.size:
        raise ValueError(
            f"the picture to trace must be a grey one of 8 bits, got {values.dtype} of shape {values.shape}"
        )
    if level is not None and not 0 <= level <= 255:
        raise ValueError(f"the threshold must be from 0 to 255, got {level:g}")
    if not tolerance > 0:
        raise ValueError(f"the tolerance must be over 0, got {tolerance:g} px")


def automatic_level(values: NDArray[Any]) -> float:
    """Midway between typical ink and typical paper of a picture (rows, columns) of uint8.

    The two are told apart by the threshold of greatest variance between classes (Otsu, 1979); each
    is then taken at its own most frequent brightness, so that the blurred rims between them count
    for nothing.

    Returns
    -------
    level : between 0 and 255; a picture of one brightness only gives a level below it (no ink).
    """
    counts = cv2.calcHist([values], [0], None, [256], [0, 256]).ravel().astype(np.float64)
    if np.count_nonzero(counts) < 2:
        return 0.0
    otsu = _parting(counts)
    smooth = np.convolve(counts, np.ones(5) / 5, mode="same")
    ink = _typical(smooth[: otsu + 1], counts[: otsu + 1], 0)
    paper = _typical(smooth[otsu + 1 :], counts[otsu + 1 :], otsu + 1)
    return (ink + paper) / 2


def _parting(counts: NDArray[Any]) -> int:
    """The brightness up to which pixels belong to the darker class."""
    darker, sums = np.cumsum(counts), np.cumsum(counts * np.arange(len(counts)))
    lighter = darker[-1] - darker
    return int(
        np.argmax((sums[-1] * darker - sums * darker[-1]) ** 2 / np.maximum(darker * lighter, 1))
    )


def _typical(smooth: NDArray[Any], counts: NDArray[Any], base: int) -> float:
    """Mean brightness of the bins about the peak that hold at least half its height."""
    if not counts.any():
        return float(base)
    near = smooth >= smooth.max() / 2
    bins = np.arange(len(counts))[near]
    return base + float((bins * counts[near]).sum() / max(counts[near].sum(), 1e-9))


def _bands(values: NDArray[Any]) -> NDArray[Any]:
    """A picture, or evenly spaced bands of rows of a large one, about half a million pixels in
    all."""
    count = int(_BAND_PIXELS / (_BAND_ROWS * values.shape[1])) + 1
    if values.shape[0] <= count * _BAND_ROWS:
        return values
    begins = np.linspace(0, values.shape[0] - _BAND_ROWS, count).astype(int)
    return np.concatenate([values[at : at + _BAND_ROWS] for at in begins])


def edge_blur(values: NDArray[Any], level: float) -> float:
    """Standard deviation, in pixels, of the blur across the edges at `level`; 0.3 at least, which
    pixels themselves make."""
    near = cv2.GaussianBlur(_bands(values), (0, 0), 0.7)
    counts = cv2.calcHist([near], [0], None, [256], [0, 256]).ravel()
    least = int(np.ceil(level))  # of paper
    ink, paper = counts[:least], counts[least:]
    if not (ink.any() and paper.any()):
        return 0.3
    contrast = float(least + _brighter_than(paper, 0.5) - _brighter_than(ink, 0.2))
    slopes = _slopes_across(near, least)
    steep = float(np.percentile(slopes, 70)) if slopes.size else contrast
    spread = contrast / max(steep * np.sqrt(2 * np.pi), 1e-6)
    return float(np.clip(np.sqrt(max(spread**2 - 0.7**2 - 0.45**2, 0.0)), 0.3, 3.0))


def _brighter_than(counts: NDArray[Any], share: float) -> int:
    """The first bin up to which that share of all lies."""
    return int(
        np.searchsorted(np.cumsum(counts, dtype=np.float64), share * counts.sum(dtype=np.float64))
    )


def _slopes_across(values: NDArray[Any], least: int) -> NDArray[Any]:
    """How steeply brightness changes with each pixel (Sobel), at those beside which, in a row, ink
    and paper meet."""
    dark = values < least
    at = np.flatnonzero(dark[:, 1:] != dark[:, :-1])
    row = at // (values.shape[1] - 1) if at.size else at
    padded = cv2.copyMakeBorder(values, 1, 1, 1, 1, cv2.BORDER_REFLECT_101)
    wide, flat = padded.shape[1], padded.ravel()
    here = at - row * (values.shape[1] - 1) + 2 + (row + 1) * wide
    upper, level, lower = (
        flat.take(here + below + np.array([[-1], [0], [1]])).astype(np.float64)
        for below in (-wide, 0, wide)
    )
    across = upper[2] - upper[0] + 2 * (level[2] - level[0]) + lower[2] - lower[0]
    down = lower.sum(axis=0) + lower[1] - upper.sum(axis=0) - upper[1]
    slopes: NDArray[Any] = np.sqrt(across * across + down * down) / 8
    return slopes
