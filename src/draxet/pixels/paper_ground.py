"""The paper of a picture: its own brightness at each place, with the ink on it thought away."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import NDArray
from draxet.record import record

__all__ = ["Paper", "evenly_inked", "evenly_lit", "fill_with_paper", "ink_level"]

_SIDE = 700
_BAND_ROWS = 512
_EVEN = 245.0


@record(frozen=True, eq=False)
class Paper:
    """A small map of the paper's brightness, channel by channel, of a picture `width` and `height`
    pixels large."""

    small: NDArray[Any]
    width: int
    height: int

    @staticmethod
    def of(pixels: NDArray[Any]) -> Paper:
        """What a closing over a wide neighbourhood leaves, found on a small copy."""
        height, width = pixels.shape[:2]
        shrink = max(1.0, max(height, width) / _SIDE)
        small = cv2.resize(
            pixels,
            (max(1, round(width / shrink)), max(1, round(height / shrink))),
            interpolation=cv2.INTER_AREA,
        )
        reach = max(3, round(min(small.shape[:2]) / 10)) | 1
        widened = _drawn_on(_over_octagon(cv2.dilate, small, reach // 2).astype(np.float32), reach)
        smooth = _over_octagon(cv2.erode, widened, reach // 2)
        for _ in range(
            3
        ):  # three means after each other are near a Gaussian of half their width, in a tenth of its time
            smooth = cv2.blur(smooth, (reach, reach))
        return Paper(np.ascontiguousarray(smooth[reach:-reach, reach:-reach]), width, height)

    def rows(self, band: slice) -> NDArray[Any]:
        """The paper of the rows in `band`, float32, at full size."""
        fx, fy = self.small.shape[1] / self.width, self.small.shape[0] / self.height
        matrix = np.array([[fx, 0, fx / 2 - 0.5], [0, fy, fy * (band.start + 0.5) - 0.5]])
        size = (self.width, band.stop - band.start)
        return np.asarray(
            cv2.warpAffine(
                self.small,
                matrix,
                size,
                flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
                borderMode=cv2.BORDER_REPLICATE,
            )
        )


def _over_octagon(
    change: Callable[..., NDArray[Any]], image: NDArray[Any], radius: int
) -> NDArray[Any]:
    """The image dilated or eroded over a regular octagon: the sum of a square and a diamond, both
    quick where a disc is not."""
    square = round(radius / (1 + math.sqrt(2)))
    side = 2 * square + 1
    return change(
        change(image, np.ones((side, side), np.uint8)),
        cv2.getStructuringElement(cv2.MORPH_CROSS, (3, 3)),
        iterations=max(1, radius - square),
    )


def _drawn_on(image: NDArray[np.float32], reach: int) -> NDArray[np.float32]:
    """An image with a border on which its shading goes on as it did, so that the border's own place
    takes no harm."""
    mirrored = cv2.copyMakeBorder(image, reach, reach, reach, reach, cv2.BORDER_REFLECT_101)
    edge = cv2.copyMakeBorder(image, reach, reach, reach, reach, cv2.BORDER_REPLICATE)
    out = 2 * edge - mirrored
    out[reach:-reach, reach:-reach] = image
    return np.asarray(np.clip(out, 0, 255))


def evenly_lit(pixels: NDArray[Any]) -> NDArray[Any]:
    """Brightness as a share of the paper's own at each place: paper becomes 245 everywhere."""
    paper = Paper.of(pixels)
    out = np.empty_like(pixels)
    for top in range(0, pixels.shape[0], _BAND_ROWS):
        band = slice(top, min(top + _BAND_ROWS, pixels.shape[0]))
        out[band] = np.clip(
            pixels[band] * (_EVEN / np.maximum(paper.rows(band), 16.0)), 0, 255
        ).astype(np.uint8)
    return out


def evenly_inked(grey: NDArray[Any]) -> NDArray[Any]:
    """Brightness between the ink's and the paper's own at each place: ink becomes 0 and paper 255
    everywhere, so that half-way is 128 in any light. Where there is no ink near by, the picture's
    usual difference between the two is taken.

    Parameters
    ----------
    grey : (rows, columns) of uint8.
    """
    paper = Paper.of(grey)
    dark = Paper.of(
        255 - evenly_lit(grey)
    )  # how far below the paper its darkest ink lies, as shares
    usual = float(np.percentile(dark.small, 97))
    depth = np.clip(dark.small, 0.6 * usual, None)
    ink = Paper(depth, grey.shape[1], grey.shape[0])
    out = np.empty_like(grey)
    for top in range(0, grey.shape[0], _BAND_ROWS):
        band = slice(top, min(top + _BAND_ROWS, grey.shape[0]))
        white = np.maximum(paper.rows(band), 16.0)
        share = (white - grey[band]) / white * 255.0 / np.maximum(ink.rows(band), 8.0)
        out[band] = np.clip(255 - 255 * share + 0.5, 0, 255).astype(np.uint8)
    return out


def ink_level(grey: NDArray[Any]) -> float:
    """The brightness that parts ink and paper best (Otsu, 1979); ink is below it."""
    return float(cv2.threshold(grey, 0, 255, cv2.THRESH_BINARY + cv2.THRESH_OTSU)[0]) + 0.5


def fill_with_paper(out: NDArray[Any], pixels: NDArray[Any], where: NDArray[np.bool_]) -> None:
    """Paint places (rows, columns) of `out` with the paper that `pixels` have there."""
    paper = Paper.of(pixels)
    for top in range(0, out.shape[0], _BAND_ROWS):
        band = slice(top, min(top + _BAND_ROWS, out.shape[0]))
        if where[band].any():
            out[band][where[band]] = np.clip(paper.rows(band), 0, 255).astype(np.uint8)[where[band]]
