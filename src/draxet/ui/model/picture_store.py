"""Pictures on the canvas: decoded once, kept as a pyramid of halved sizes, painted from the size
that fits the zoom."""

from __future__ import annotations

import threading
from collections.abc import Iterable
from dataclasses import replace
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF, QTransform

from draxet.gather.load import read_picture
from draxet.geometry.affine import Affine
from draxet.geometry.arrays import NDArray
from draxet.job.picture_records import Picture
from draxet.pixels.grey_levels import grey_of
from draxet.progress import Progress
from draxet.record import record
from draxet.ui.look.tokens import Tokens

__all__ = ["PictureStore", "Pyramid", "Seen", "paint_awaited", "paint_picture", "to_qimage"]

_SMALLEST = 256
_KEPT = 4
_QUICK_PIXELS = 3_000_000
_GLANCE_PIXELS = 1_500_000


class Pyramid:
    """A picture's pixels at full size, half, quarter and so on; `grey` at full size for picking and
    tracing."""

    def __init__(self, pixels: NDArray[Any]) -> None:
        self.levels = [pixels]
        self._grey: NDArray[Any] | None = None

    @classmethod
    def whole(cls, pixels: NDArray[Any]) -> Pyramid:
        """With all its sizes made: for workers, so that painting has none to make."""
        made = cls(pixels)
        made.level(max(pixels.shape))
        return made

    @property
    def grey(self) -> NDArray[Any]:
        if self._grey is None:
            self._grey = grey_of(self.levels[0])
        return self._grey

    def level(self, shrink: float) -> tuple[int, NDArray[Any]]:
        """The smallest level that still has a pixel for every `shrink` full pixels, and its
        number."""
        import cv2

        wanted = max(0, int(np.floor(np.log2(max(shrink, 1.0)))))
        while len(self.levels) <= wanted and min(self.levels[-1].shape[:2]) > _SMALLEST:
            last = self.levels[-1]
            self.levels.append(
                cv2.resize(
                    last, (last.shape[1] // 2, last.shape[0] // 2), interpolation=cv2.INTER_AREA
                )
            )
        number = min(wanted, len(self.levels) - 1)
        return number, self.levels[number]


@record(frozen=True, eq=False)
class Seen:
    """What there is to look at of a picture: pixels, how they lie, and whether they are the exact
    ones."""

    pyramid: Pyramid
    picture: Picture
    exact: bool


class PictureStore:
    """Pyramids of the session's pictures, by the digest of their files and by what was done to
    them.

    `of` and `glance` make what is not there yet and take their time: they are for workers, `of`
    also for a picture known to be ready. `shown` makes nothing: until a picture is ready it gives a
    coarse version of it, or what was last seen of it.
    """

    def __init__(self) -> None:
        self._pyramids: dict[str, Pyramid] = {}
        self._made_of: dict[str, Picture] = {}
        self._lock, self._reading = threading.Lock(), threading.Lock()
        """Of what is kept, held for a moment only, and of reading files, which the window never
        waits for."""

    def put(self, picture: Picture, made: Pyramid) -> Pyramid:
        """Keep the file's picture, which was read already."""
        with self._lock:
            self._made_of[_file(picture)] = replace(picture, square=None, steps=())
            self._pyramids[_file(picture)] = made
        return made

    def let_go(self, pictures: Iterable[Picture]) -> None:
        """Keep only what belongs to these pictures; the rest can be made again."""
        files = {_file(picture) for picture in pictures}
        with self._lock:
            for key in [k for k in self._pyramids if k.split(" ")[0] not in files]:
                del self._pyramids[key], self._made_of[key]

    def base(self, picture: Picture) -> Pyramid:
        """The file's picture, nothing done to it."""
        with self._reading:
            return self._pyramids.get(_file(picture)) or self.put(
                picture,
                Pyramid.whole(read_picture(picture.source, picture.name, picture.page).pixels),
            )

    def ready(self, picture: Picture) -> bool:
        return _key(picture) in self._pyramids

    def of(self, picture: Picture, progress: Progress | None = None) -> Pyramid:
        """The picture as it is worked with."""
        key = _key(picture)
        made = self._pyramids.get(key)
        if made is None:
            from draxet.gather.prepare import prepared  # not needed to show a window

            made = (
                self.base(picture)
                if key == _file(picture)
                else Pyramid.whole(
                    prepared(self.base(picture).levels[0], picture.square, picture.steps, progress)
                )
            )
            self._keep(picture, key, made)
        return self._pyramids.get(key) or made

    def latest(self, picture: Picture) -> Seen | None:
        """A version to look at: the exact one, a coarse one, or what was last seen of it; None
        where there is nothing yet, or it was squared since."""
        key = _key(picture)
        if exact := self._pyramids.get(key):
            return Seen(exact, picture, True)
        if coarse := self._pyramids.get(_coarse(key)):
            return Seen(coarse, picture, False)
        for before, made in reversed(list(self._pyramids.items())):
            of = self._made_of.get(before)
            if of and (_file(of), of.square) == (_file(picture), picture.square):
                return Seen(made, _as_before(picture, of), False)
        return None

    def glance(self, picture: Picture, progress: Progress | None = None) -> None:
        """Make a coarse version of a picture that is slow to make."""
        key = _coarse(_key(picture))
        if key not in self._pyramids:
            self._keep(picture, key, Pyramid(self._made_small(picture, progress)))

    def is_slow(self, picture: Picture) -> bool:
        """Whether making the picture would be felt."""
        heavy = any(step.kind.slow for step in picture.steps if step.on)
        return _key(picture) != _file(picture) and picture.base_size[0] * picture.base_size[1] > (
            _QUICK_PIXELS / 4 if heavy else _QUICK_PIXELS
        )

    def _made_small(self, picture: Picture, progress: Progress | None) -> NDArray[Any]:
        from draxet.gather.prepare import at_a_glance, prepared  # not needed to show a window

        if picture.square is not None:
            plan = picture.square.plan
            factor = max(1.0, float(np.sqrt(plan[0] * plan[1] / _GLANCE_PIXELS)))
            small = (max(2, round(plan[0] / factor)), max(2, round(plan[1] / factor)))
            scale = np.diag([plan[0] / small[0], plan[1] / small[1], 1.0])
            matrix = tuple((np.array(picture.square.matrix).reshape(3, 3) @ scale).ravel().tolist())
            return prepared(
                self.base(picture).levels[0],
                replace(picture.square, plan=small, matrix=matrix),
                at_a_glance(picture.steps, factor),
                progress,
            )
        base = self.base(picture)
        number, pixels = base.level(
            float(np.sqrt(base.levels[0].shape[0] * base.levels[0].shape[1] / _GLANCE_PIXELS))
        )
        return prepared(pixels, None, at_a_glance(picture.steps, 2.0**number), progress)

    def _keep(self, picture: Picture, key: str, made: Pyramid) -> None:
        with self._lock:
            for old in [k for k in self._pyramids if k.startswith(f"{_file(picture)} ")][:-_KEPT]:
                del self._pyramids[old], self._made_of[old]  # they can be made again
            self._made_of[key] = picture
            self._pyramids[key] = made


def _file(picture: Picture) -> str:
    return f"{hash(picture.source):x}/{len(picture.source)}/{picture.page}"


def _key(picture: Picture) -> str:
    acting = tuple(step.kind for step in picture.steps if step.on and not step.kind.moves)
    return (
        f"{_file(picture)} {picture.square} {acting}"
        if picture.square or acting
        else _file(picture)
    )


def _coarse(key: str) -> str:
    return f"{key} coarse"


def _as_before(picture: Picture, before: Picture) -> Picture:
    """A picture as it lay with the steps that it had before: nothing moves, but what was cropped
    since is there again."""
    again = replace(picture, steps=before.steps)
    return replace(again, to_job=again.to_base.then(picture.to_base.inverse()).then(picture.to_job))


def to_qimage(pixels: NDArray[Any]) -> QImage:
    """Pixels (rows, columns) or (rows, columns, 3) of uint8 as an image that owns its memory."""
    part = np.ascontiguousarray(pixels)
    kind = QImage.Format.Format_Grayscale8 if part.ndim == 2 else QImage.Format.Format_RGB888
    return QImage(part.tobytes(), part.shape[1], part.shape[0], part.strides[0], kind).copy()


def paint_picture(
    painter: QPainter,
    picture: Picture,
    pyramid: Pyramid,
    to_view: Affine,
    clip: QRectF,
    strength: float,
    ink_below: float | None = None,
) -> None:
    """Paint the part of a picture that lies in `clip` (view), at `strength` 0..1.

    Parameters
    ----------
    ink_below : where given, what is darker is shown as ink instead of the picture: the overlay of a
    threshold.
    """
    whole = picture.to_job.then(to_view)
    number, pixels = pyramid.level(1.0 / max(whole.scale, 1e-9))
    rows, columns = pixels.shape[:2]
    fx, fy = picture.width / columns, picture.height / rows
    back = whole.inverse()
    corners = back.apply(
        np.array(
            [
                (clip.left(), clip.top()),
                (clip.right(), clip.top()),
                (clip.left(), clip.bottom()),
                (clip.right(), clip.bottom()),
            ]
        )
    )
    low = np.floor(corners.min(axis=0) / (fx, fy)).astype(int) - 2
    high = np.ceil(corners.max(axis=0) / (fx, fy)).astype(int) + 2
    x0, y0, x1, y1 = max(0, low[0]), max(0, low[1]), min(columns, high[0]), min(rows, high[1])
    if x0 >= x1 or y0 >= y1:
        return
    part = pixels[y0:y1, x0:x1]
    image = to_qimage(part) if ink_below is None else _ink_image(grey_of(part), ink_below)
    painter.save()
    painter.setOpacity(strength if ink_below is None else 0.55)
    painter.setTransform(
        QTransform(whole.a * fx, whole.d * fx, whole.b * fy, whole.e * fy, whole.c, whole.f), True
    )
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, whole.scale * fx < 6)
    painter.drawImage(QRectF(x0, y0, x1 - x0, y1 - y0), image)
    painter.restore()


def paint_awaited(painter: QPainter, picture: Picture, to_view: Affine, t: Tokens) -> None:
    """A picture whose file is still being read: its outline on paper."""
    corners = [
        picture.to_job.then(to_view).point(x, y)
        for x, y in (
            (0, 0),
            (picture.width, 0),
            (picture.width, picture.height),
            (0, picture.height),
        )
    ]
    painter.setPen(QPen(QColor(t.sheet_edge), 1, Qt.PenStyle.DashLine))
    painter.setBrush(QColor(t.field))
    painter.drawPolygon(QPolygonF([QPointF(x, y) for x, y in corners]))


def _ink_image(grey: NDArray[Any], below: float) -> QImage:
    rgba = np.zeros((*grey.shape, 4), dtype=np.uint8)
    rgba[grey < below] = (0xB9, 0x81, 0x2B, 255)
    return QImage(
        rgba.tobytes(),
        grey.shape[1],
        grey.shape[0],
        4 * grey.shape[1],
        QImage.Format.Format_RGBA8888,
    ).copy()
