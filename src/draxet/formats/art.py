"""Contours as a picture: PNG at a chosen number of dots an inch, on white or on nothing."""

from __future__ import annotations

import io
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from draxet.formats.drawn_marks import Area, Line, outlines_of
from draxet.formats.layer import FormatError, Layer
from draxet.geometry.arrays import NDArray, Points

__all__ = ["read_size", "sheet_png"]

_INCH = 25.4
_MOST = 200_000_000
_SHIFT = 4


def sheet_png(
    layers: Sequence[Layer],
    box: tuple[float, float, float, float],
    dpi: float,
    line: float = 0.3,
    *,
    transparent: bool = False,
) -> bytes:
    """What lies in a box (mm) as a PNG; bare contours are lines `line` mm broad.

    Raises
    ------
    FormatError : where it would have too many pixels.
    """
    from PIL import Image

    scale = dpi / _INCH
    wide, high = max(round((box[2] - box[0]) * scale), 1), max(round((box[3] - box[1]) * scale), 1)
    if wide * high > _MOST:
        raise FormatError(
            f"the picture would have {wide * high / 1e6:.0f} megapixels, {_MOST // 1_000_000} at most; choose fewer dots an inch than {dpi:g}"
        )
    ink, cover = np.zeros((high, wide, 3), np.uint8), np.zeros((high, wide), np.uint8)
    for layer in layers:
        for mark in layer.holding(Area, Line).marks:
            outlines = outlines_of(mark)
            rings = [_at(contour.flattened(0.2 / scale), box, scale) for contour in outlines]
            colour = _levels(getattr(mark, "colour", layer.colour) or "#000000")
            if isinstance(mark, Area):
                cv2.fillPoly(ink, rings, colour, cv2.LINE_8, _SHIFT)
                cv2.fillPoly(cover, rings, 255, cv2.LINE_AA, _SHIFT)
                continue
            broad = max(round((mark.width if isinstance(mark, Line) else line) * scale), 1)
            for canvas, level, smooth in ((ink, colour, cv2.LINE_8), (cover, 255, cv2.LINE_AA)):
                closed = outlines[0].closed
                cv2.polylines(canvas, rings, closed, level, broad, smooth, _SHIFT)
    alpha = cover[..., None].astype(np.float32) / 255
    pixels = (
        np.dstack([ink, cover])
        if transparent
        else (255 * (1 - alpha) + ink * alpha).astype(np.uint8)
    )
    out = io.BytesIO()
    Image.fromarray(pixels, "RGBA" if transparent else "RGB").save(out, "PNG", dpi=(dpi, dpi))
    return out.getvalue()


def _levels(colour: str) -> tuple[int, ...]:
    return tuple(int(colour[k : k + 2], 16) for k in (1, 3, 5))


def read_size(path: Path) -> tuple[int, int, float]:
    """Width and height of a PNG in pixels, and its dots an inch."""
    from PIL import Image

    with Image.open(path) as image:
        image.load()
        return image.width, image.height, float(image.info.get("dpi", (0.0, 0.0))[0])


def _at(points: Points, box: tuple[float, float, float, float], scale: float) -> NDArray[Any]:
    places = np.column_stack([points[:, 0] - box[0], box[3] - points[:, 1]]) * scale - 0.5
    return np.asarray(np.round(places * 2**_SHIFT).astype(np.int32))
