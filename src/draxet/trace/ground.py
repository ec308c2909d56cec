"""What every way of tracing does to a picture first, and presets for kinds of picture."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import NDArray
from draxet.pixels.paper_ground import evenly_inked
from draxet.pixels.uneven_light import is_unevenly_lit
from draxet.record import record
from draxet.trace.levels import automatic_level

__all__ = [
    "PRESETS",
    "Ground",
    "Preset",
    "Readied",
    "corner_degrees_of",
    "smooth_of",
    "tolerance_of",
]


@record(frozen=True, eq=False)
class Readied:
    """A picture as it is traced: `toned` (rows, columns) of uint8, the `level` between its ink and
    its paper, whether the light was followed though nobody asked, and the same with paper outside
    of the area (`values`)."""

    toned: NDArray[Any]
    values: NDArray[Any]
    level: float
    light_followed: bool


@record(frozen=True)
class Ground:
    """How a picture is readied for tracing.

    local : whether the level follows uneven light. smooth : standard deviation of a smoothing, in
    pixels.
    area : outline (x, y in picture space) outside of which nothing is traced; all of it where
    empty.
    """

    local: bool = False
    smooth: float = 0.0
    area: tuple[tuple[float, float], ...] = ()

    def toned(self, values: NDArray[Any]) -> NDArray[Any]:
        """The picture (rows, columns) lit evenly and smoothed: uint8; `values` itself where nothing
        is to be done."""
        out = evenly_inked(values) if self.local else values
        return np.asarray(cv2.GaussianBlur(out, (0, 0), self.smooth) if self.smooth > 0 else out)

    def readied(self, values: NDArray[Any], level: float | None) -> Readied:
        """A picture readied for tracing at a level; where that is None, at the one midway between
        ink and paper, which follows the light where that is uneven."""
        follows = (
            level is None
            and not self.local
            and is_unevenly_lit(self.part(values), automatic_level(self.part(values)))
        )
        toned = replace(self, local=True).toned(values) if follows else self.toned(values)
        return Readied(
            toned,
            self.masked(toned),
            automatic_level(self.part(toned)) if level is None else float(level),
            follows,
        )

    def part(self, toned: NDArray[Any]) -> NDArray[Any]:
        """The part of a toned picture from which the level is to be found: the box round the
        area."""
        if not self.area:
            return toned
        xs, ys = [x for x, _ in self.area], [y for _, y in self.area]
        part = toned[
            max(0, int(min(ys))) : int(max(ys)) + 1, max(0, int(min(xs))) : int(max(xs)) + 1
        ]
        return np.ascontiguousarray(part) if part.size else toned

    def masked(self, toned: NDArray[Any]) -> NDArray[Any]:
        """A toned picture with paper outside of the area."""
        return (
            np.asarray(np.where(self.inside(toned.shape), toned, np.uint8(255)))
            if self.area
            else toned
        )

    def inside(self, shape: tuple[int, ...]) -> NDArray[np.bool_]:
        """Which pixels of a picture of `shape` lie in the area."""
        mask = np.zeros(shape[:2], np.uint8)
        cv2.fillPoly(
            mask, [np.round((np.array(self.area) - 0.5) * 16).astype(np.int32)], 1, cv2.LINE_8, 4
        )
        return np.asarray(mask > 0)


@record(frozen=True)
class Preset:
    """Settings for a kind of picture: `detail` and `smoothness` 0..100, `local` level, `speck` in
    square pixels."""

    name: str
    words: str
    detail: int
    smoothness: int
    local: bool
    speck: float


PRESETS = {
    preset.name: preset
    for preset in (
        Preset("ink", "pen or print-out, sharp and dark", 80, 0, False, 6.0),
        Preset("pencil", "thin grey lines on paper with grain", 45, 26, True, 24.0),
        Preset("crayon", "broad, rough, broken strokes", 24, 70, True, 120.0),
        Preset("shape", "one solid dark shape, a silhouette", 80, 14, False, 200.0),
        Preset("print", "print seen near: raster dots, JPEG blocks", 40, 40, False, 40.0),
    )
}


def tolerance_of(detail: float) -> float:
    """Tolerance in pixels for a detail of 0..100: from 2 down to 0.05; 0.1 for 80."""
    return float(2.0 * 0.0236 ** (detail / 100))


def smooth_of(smoothness: float) -> float:
    """Standard deviation in pixels of the smoothing for a smoothness of 0..100: up to 3."""
    return float(3.0 * (smoothness / 100) ** 1.3)


def corner_degrees_of(smoothness: float) -> float:
    """Least turn that is a corner for a smoothness of 0..100: from 30 to 60 degrees."""
    return 30.0 + 0.3 * smoothness
