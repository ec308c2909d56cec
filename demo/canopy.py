"""What is turned in the shed: the knob of a brake handle, and the canopy of a stop with its columns, in
plan at 1 : 50 and a column at 1 : 20; their true geometry and the pencil drawings made from it.

Run as a script it draws ``knob.jpg`` and ``canopy.jpg`` beside itself; the seeds are fixed. Places are
mm on the paper, y up from its lower left.
"""

from __future__ import annotations

import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import cv2
import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "src"))

from draxet.geometry.affine import Affine  # noqa: E402
from draxet.geometry.contour import Contour  # noqa: E402

DPI = 127.0
KNOB_PAPER, KNOB_AXIS = (120.0, 90.0), 46.0
PAPER = (270.0, 180.0)
PLAN = (78.0, 88.0)
ROOF, INNER, COLUMNS = 60.0, 44.0, 52.0
"""Radii of the canopy's ring and of the circle on which its columns stand."""
LEFT_OUT = (5, 7)
"""Of twelve columns, counted from the lowest: there the tram's door is."""
DETAIL, SCALE = (200.0, 28.0), 0.4
"""The foot of the column's axis, and how large it is in the plan."""
BASE, SHAFT, TOP = (10.0, 10.0), (7.5, 6.0), 120.0
"""Half of the base's width and its height; the shaft's radii; how high all of it is."""
_OVER = 3


def knob() -> Contour:
    """Half of the knob, from where its axis comes in to where it leaves, open to that."""
    x = KNOB_AXIS
    nodes = [(x, 12), (x + 14, 12), (x + 14, 16), (x + 8, 22), (x + 7, 36), (x + 17, 58), (x, 76)]
    return Contour.make(nodes, [0, 0, 1, 0, 1, 1], [0, 0, 0.18, 0, -0.12, 0.42], closed=False)


def column() -> tuple[Contour, Contour, Contour]:
    """Right of its axis: the base, the shaft's curve, and the cap, open to the axis."""
    x, y = DETAIL
    low, high = SHAFT
    wide, foot = BASE
    base = Contour.make([(x, y), (x + wide, y), (x + wide, y + foot), (x, y + foot)], closed=False)
    shaft = Contour.make(
        [(x + low, y + foot), (x + high, y + 105)],
        [2],
        [0],
        [[(x + low + 0.6, y + 40), (x + high + 0.5, y + 75)]],
        closed=False,
    )
    cap = Contour.make(
        [(x, y + 105), (x + 6, y + 105), (x + 10, y + 112), (x + 10, y + TOP), (x, y + TOP)],
        [0, 1, 0, 0],
        [0, -0.25, 0, 0],
        closed=False,
    )
    return base, shaft, cap


def canopy() -> list[Contour]:
    """In plan: the ring, and the lowest column's base and shaft."""
    x, y = PLAN
    half = BASE[0] * SCALE
    foot = y - COLUMNS
    square = [(x - half, foot - half), (x + half, foot - half), (x + half, foot + half)]
    return [
        Contour.circle(x, y, ROOF),
        Contour.circle(x, y, INNER),
        Contour.make([*square, (x - half, foot + half)]),
        Contour.circle(x, foot, SHAFT[0] * SCALE),
    ]


class _Pencil:
    """A sheet of paper that is drawn on, and scanned."""

    def __init__(self, paper: tuple[float, float], seed: int) -> None:
        self._size = tuple(round(side * DPI / 25.4) for side in paper)
        self._high, self._rng = paper[1], np.random.default_rng(seed)
        wide, high = self._size
        self._ink = np.zeros((high * _OVER, wide * _OVER), np.uint8)

    def _at(self, places: Any) -> np.ndarray[Any, Any]:
        straight = Affine(1, 0, 0, 0, -1, self._high).apply(np.asarray(places, float))
        return straight * DPI / 25.4 * _OVER - 0.5

    def line(self, places: Any, width: float, shade: int = 255, *, closed: bool = False) -> None:
        thick = max(1, round(width * DPI / 25.4 * _OVER))
        at = [np.round(self._at(places) * 16).astype(np.int32)]
        cv2.polylines(self._ink, at, closed, shade, thick, cv2.LINE_AA, 4)

    def stroke(self, contour: Contour, width: float = 0.45) -> None:
        self.line(contour.flattened(0.01), width, closed=contour.closed)

    def axis(self, x: float, low: float, high: float) -> None:
        """Long and short strokes."""
        for y in np.arange(low, high, 9.0).tolist():
            self.line([(x, y), (x, min(y + 5.5, high))], 0.25, 150)
            self.line([(x, y + 7), (x, min(y + 7.6, high))], 0.25, 150)

    def size(self, a: Sequence[float], b: Sequence[float], words: str) -> None:
        """A dimension line with its number."""
        a, b = np.asarray(a, float), np.asarray(b, float)
        way = (b - a) / np.hypot(*(b - a))
        self.line([a, b], 0.25, 160)
        for end, sense in ((a, way), (b, -way)):
            side = np.array([-sense[1], sense[0]])
            self.line([end + 3 * sense + 0.8 * side, end, end + 3 * sense - 0.8 * side], 0.25, 160)
        level = abs(way[1]) < 0.5
        self.write((a + b) / 2 + ((-6, 1.5) if level else (1.5, -1.5)), words)

    def write(self, place: Any, words: str) -> None:
        at = tuple(round(v) for v in self._at([place])[0].tolist())
        face = cv2.FONT_HERSHEY_SIMPLEX | cv2.FONT_ITALIC
        cv2.putText(
            self._ink, words, at, face, 0.155 * _OVER * DPI / 25.4, 170, 3 * _OVER // 2, cv2.LINE_AA
        )

    def scanned(self) -> np.ndarray[Any, Any]:
        wide, high = self._size
        rng = self._rng
        ink = cv2.resize(self._ink, (wide, high), interpolation=cv2.INTER_AREA) / 255.0 * 0.74
        coarse = cv2.resize(
            rng.normal(0, 1, (high // 6, wide // 6)).astype(np.float32),
            (wide, high),
            interpolation=cv2.INTER_CUBIC,
        )
        grain = cv2.GaussianBlur(rng.normal(0, 1, (high, wide)).astype(np.float32), (0, 0), 0.7)
        ink = np.clip(ink, 0, 0.76) * (1 + 0.10 * grain + 0.04 * coarse)
        light = 239 - 10 * np.linspace(0, 1, wide)[None] - 6 * np.linspace(0, 1, high)[:, None]
        shade = (light + 1.5 * coarse) * (1 - ink) + rng.normal(0, 2.2, (high, wide))
        return np.clip(shade, 0, 255).astype(np.uint8)


def draw_knob() -> np.ndarray[Any, Any]:
    pencil = _Pencil(KNOB_PAPER, 20_34)
    pencil.stroke(knob())
    pencil.axis(KNOB_AXIS, 5, 86)
    pencil.size((KNOB_AXIS + 26, 12), (KNOB_AXIS + 26, 76), "64")
    pencil.size((KNOB_AXIS, 7), (KNOB_AXIS + 14, 7), "14")
    pencil.write((84, 20), "knob 1:1")
    return pencil.scanned()


def draw_canopy() -> np.ndarray[Any, Any]:
    pencil = _Pencil(PAPER, 20_35)
    for contour in canopy():
        pencil.stroke(contour)
    x, y = PLAN
    for k in range(1, 12):
        if k not in LEFT_OUT:
            at = Affine.turned(30.0 * k).about(x, y).point(x, y - COLUMNS)
            pencil.line([(at[0] - 2, at[1]), (at[0] + 2, at[1])], 0.25, 160)
            pencil.line([(at[0], at[1] - 2), (at[0], at[1] + 2)], 0.25, 160)
    pencil.size((x - ROOF, y + ROOF + 10), (x + ROOF, y + ROOF + 10), "6000")
    pencil.write((x - 12, y), "canopy 1:50")
    foot_x, foot_y = DETAIL
    for contour in column():
        pencil.stroke(contour)
    pencil.axis(foot_x, foot_y - 6, foot_y + TOP + 8)
    pencil.size((foot_x + 26, foot_y), (foot_x + 26, foot_y + TOP), "2400")
    pencil.write((foot_x - 6, foot_y - 15), "column 1:20")
    return pencil.scanned()


if __name__ == "__main__":
    here = Path(__file__).resolve().parent
    for name, picture in (("knob", draw_knob()), ("canopy", draw_canopy())):
        cv2.imwrite(str(here / f"{name}.jpg"), picture, [cv2.IMWRITE_JPEG_QUALITY, 88])
