"""Pictures on the canvas: decoded once, kept as a pyramid of halved sizes, painted from the size that fits the zoom."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPainter, QTransform

from draxet.gather.load import LoadedPicture, grey_of, read_picture
from draxet.gather.prepare import prepared
from draxet.geometry.affine import Affine
from draxet.job.records import Picture, Tones

__all__ = ["PictureStore", "Pyramid", "paint_picture", "to_qimage"]

_SMALLEST = 256
_KEPT = 3


class Pyramid:
    """A picture's pixels at full size, half, quarter and so on; `grey` at full size for picking and tracing."""

    def __init__(self, pixels: NDArray[Any]) -> None:
        self.levels = [pixels]
        self._grey: NDArray[Any] | None = None

    @property
    def grey(self) -> NDArray[Any]:
        if self._grey is None:
            self._grey = grey_of(self.levels[0])
        return self._grey

    def level(self, shrink: float) -> tuple[int, NDArray[Any]]:
        """The smallest level that still has a pixel for every `shrink` full pixels, and its number."""
        import cv2

        wanted = max(0, int(np.floor(np.log2(max(shrink, 1.0)))))
        while len(self.levels) <= wanted and min(self.levels[-1].shape[:2]) > _SMALLEST:
            last = self.levels[-1]
            self.levels.append(cv2.resize(last, (last.shape[1] // 2, last.shape[0] // 2), interpolation=cv2.INTER_AREA))
        number = min(wanted, len(self.levels) - 1)
        return number, self.levels[number]


class PictureStore:
    """Pyramids of the session's pictures, by the digest of their files."""

    def __init__(self) -> None:
        self._pyramids: dict[str, Pyramid] = {}

    def put(self, picture: Picture, loaded: LoadedPicture) -> None:
        self._pyramids[f"{picture.digest} {picture.page}"] = Pyramid(loaded.pixels)

    def of(self, picture: Picture) -> Pyramid:
        file = f"{picture.digest} {picture.page}"
        if file not in self._pyramids:
            self.put(picture, read_picture(picture.source, picture.name, picture.page))
        as_it_came = self._pyramids[file]
        if picture.square is None and picture.tones == Tones():
            return as_it_came
        key = f"{file} {hash((picture.square, picture.tones))}"
        if key not in self._pyramids:
            for old in [k for k in self._pyramids if k.startswith(f"{file} ")][:-_KEPT]:
                del self._pyramids[old]  # they can be made again
            self._pyramids[key] = Pyramid(prepared(as_it_came.levels[0], picture.square, picture.tones))
        return self._pyramids[key]


def to_qimage(pixels: NDArray[Any]) -> QImage:
    """Pixels (rows, columns) or (rows, columns, 3) of uint8 as an image that owns its memory."""
    part = np.ascontiguousarray(pixels)
    kind = QImage.Format.Format_Grayscale8 if part.ndim == 2 else QImage.Format.Format_RGB888
    return QImage(part.tobytes(), part.shape[1], part.shape[0], part.strides[0], kind).copy()


def paint_picture(
    painter: QPainter, picture: Picture, pyramid: Pyramid, to_view: Affine, clip: QRectF, strength: float, ink_below: float | None = None
) -> None:
    """Paint the part of a picture that lies in `clip` (view), at `strength` 0..1.

    Parameters
    ----------
    ink_below : where given, what is darker is shown as ink instead of the picture: the overlay of a threshold.
    """
    whole = picture.to_job.then(to_view)
    number, pixels = pyramid.level(1.0 / max(whole.scale, 1e-9))
    rows, columns = pixels.shape[:2]
    fx, fy = picture.width / columns, picture.height / rows
    back = whole.inverse()
    corners = back.apply(np.array([(clip.left(), clip.top()), (clip.right(), clip.top()), (clip.left(), clip.bottom()), (clip.right(), clip.bottom())]))
    low = np.floor(corners.min(axis=0) / (fx, fy)).astype(int) - 2
    high = np.ceil(corners.max(axis=0) / (fx, fy)).astype(int) + 2
    x0, y0, x1, y1 = max(0, low[0]), max(0, low[1]), min(columns, high[0]), min(rows, high[1])
    if x0 >= x1 or y0 >= y1:
        return
    part = pixels[y0:y1, x0:x1]
    image = to_qimage(part) if ink_below is None else _ink_image(grey_of(part), ink_below)
    painter.save()
    painter.setOpacity(strength if ink_below is None else 0.55)
    painter.setTransform(QTransform(whole.a * fx, whole.d * fx, whole.b * fy, whole.e * fy, whole.c, whole.f), True)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, whole.scale * fx < 6)
    painter.drawImage(QRectF(x0, y0, x1 - x0, y1 - y0), image)
    painter.restore()


def _ink_image(grey: NDArray[Any], below: float) -> QImage:
    rgba = np.zeros((*grey.shape, 4), dtype=np.uint8)
    rgba[grey < below] = (0xB9, 0x81, 0x2B, 255)
    return QImage(rgba.tobytes(), grey.shape[1], grey.shape[0], 4 * grey.shape[1], QImage.Format.Format_RGBA8888).copy()
