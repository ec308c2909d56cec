"""A simulated camera: a leaf stencil on a bench with a card of known size beside it, seen at an
angle, hand-held.

The scene is drawn from known geometry, so whatever is measured on a shot can be compared with the
truth.
"""

from __future__ import annotations

import math
from typing import Any

import cv2
import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Floats, NDArray, Points
from draxet.geometry.contour import Contour
from draxet.geometry.homography import apply_homography, bent, homography, unbent
from draxet.geometry.shapes import rounded_polygon
from draxet.geometry.spans import CUBIC
from draxet.record import record

__all__ = [
    "CARD_MM",
    "SimulatedCamera",
    "View",
    "card_corners",
    "leaf_stencil",
    "leaf_veins",
    "stencil_on_bench",
]

CARD_MM = (85.6, 53.98)
_BENCH_MM = (420.0, 320.0)
_MIDDLE = (210.0, 160.0)
_CARD_AT, _CARD_TURN = (78.0, 70.0), 9.0
_LEAF_AT = (262.0, 160.0)
_PIXELS_A_MM = 5
_DISTANCE_MM = 520.0
_NOISES = 4
_ROOT, _VEIN = np.array([62.0, 82.0]), 2.2
"""Where the veins of the right corner come together, and how far their handles lie aside, in mm."""


@record(frozen=True)
class View:
    """How the camera is held: leaning by `tilt` degrees towards `around`, rolled by `roll`, with a
    lens `curve`."""

    tilt: float = 16.0
    around: float = 60.0
    roll: float = -3.0
    curve: float = 0.012


def leaf_stencil() -> list[Contour]:
    """The stencil in mm about its own middle: a plate, and in it a leaf in two halves with the rib
    left standing, and a hole."""
    plate = rounded_polygon([(-70, -90, 8), (70, -90, 8), (70, 90, 8), (-70, 90, 8)])
    right = [(3, -62), (46, -30), (50, 12), (3, 70)]
    bends = [
        ((18, -62), (40, -50)),
        ((54, -12), (58, 0)),
        ((42, 36), (14, 52)),
        ((3, 30), (3, -20)),
    ]
    half = Contour.make(right, np.full(4, CUBIC), np.zeros(4), bends)
    mirrored = half.transformed(Affine.scaled(-1, 1))
    return [plate, half, mirrored, Contour.circle(0, -78, 4)]


def leaf_veins() -> list[Contour]:
    """What is drawn on the stencil's plate in ink, in mm about its middle: a spray of three slender
    veins in each upper corner."""
    found = []
    for tip in ((24.0, 81.0), (36.0, 63.0), (58.0, 50.0)):
        way = np.array(tip) - _ROOT
        aside = np.array([-way[1], way[0]]) / np.hypot(*way) * _VEIN
        ends = np.array([_ROOT, tip])
        there = (ends[0] + way / 3 + aside, ends[0] + 2 * way / 3 + aside)
        back = (ends[0] + 2 * way / 3 - aside, ends[0] + way / 3 - aside)
        found.append(Contour.make(ends, np.full(2, CUBIC), np.zeros(2), [there, back]))
    return [*found, *(contour.transformed(Affine.scaled(-1, 1)) for contour in found)]


class SimulatedCamera:
    """Gives frames as red, green, blue (rows, columns, 3) of uint8."""

    def __init__(self, size: tuple[int, int] = (1280, 960), seed: int = 7) -> None:
        self.size = size
        self._rng = np.random.default_rng(seed)
        self._bench = _draw_bench(self._rng)
        self._noise = [
            self._rng.normal(0, 3.0, (size[1], size[0], 1)).astype(np.float32)
            for _ in range(_NOISES)
        ]
        self._frames = 0

    @staticmethod
    def hand_held(seconds: float) -> View:
        """How a hand holds it at a time: it sways a little."""
        return View(
            16 + 1.5 * math.sin(0.7 * seconds),
            60 + 5 * math.sin(0.31 * seconds),
            -3 + math.sin(0.53 * seconds),
        )

    def frame(self, view: View) -> NDArray[Any]:
        """One frame."""
        width, height = self.size
        shown = self._warped(view)
        x, y = np.meshgrid(
            np.linspace(0, 1, width, dtype=np.float32), np.linspace(0, 1, height, dtype=np.float32)
        )
        hand = np.exp(-(((x - 0.95) / 0.35) ** 2 + ((y - 1.05) / 0.4) ** 2))
        light = (1.04 - 0.22 * np.hypot(x - 0.35, y - 0.3) - 0.28 * hand)[..., None]
        self._frames += 1
        return np.asarray(
            np.clip(shown * light + self._noise[self._frames % _NOISES], 0, 255).astype(np.uint8)
        )

    def to_frame(self, view: View) -> Floats:
        """The (3, 3) map from mm on the bench to the frame's pixels, the lens curve left out."""
        focal = 1.15 * self.size[0]
        axis = np.array(
            [-math.sin(math.radians(view.around)), math.cos(math.radians(view.around)), 0]
        )
        lean, _ = cv2.Rodrigues(axis * math.radians(view.tilt))
        spin, _ = cv2.Rodrigues(np.array([0, 0, math.radians(view.roll)]))
        corners = np.array(
            [(0, 0, 0), (_BENCH_MM[0], 0, 0), (*_BENCH_MM, 0), (0, _BENCH_MM[1], 0)],
            dtype=np.float64,
        )
        seen = (corners - (*_MIDDLE, 0)) * (1, -1, 1) @ (spin @ lean).T + (0, 0, _DISTANCE_MM)
        return homography(
            corners[:, :2], seen[:, :2] / seen[:, 2:] * focal + np.array(self.size) / 2
        )

    def seen(self, view: View, mm: Points) -> Points:
        """Where a frame shows places of the bench (n, 2)."""
        return bent(apply_homography(self.to_frame(view), mm), view.curve, *self.size)

    def _warped(self, view: View) -> NDArray[Any]:
        width, height = self.size
        step = 8
        columns, rows = np.arange(0, width + step, step), np.arange(0, height + step, step)
        x, y = np.meshgrid(columns + 0.5, rows + 0.5)
        straight = unbent(np.column_stack([x.ravel(), y.ravel()]), view.curve, width, height)
        mm = apply_homography(
            np.asarray(np.linalg.inv(self.to_frame(view)), dtype=np.float64), straight
        )
        at = np.column_stack([mm[:, 0], _BENCH_MM[1] - mm[:, 1]]) * _PIXELS_A_MM - 0.5
        coarse = at.reshape(len(rows), len(columns), 2).astype(np.float32)
        spread = np.array([[1 / step, 0, 0], [0, 1 / step, 0]])
        fine = cv2.warpAffine(
            coarse,
            spread,
            (width, height),
            flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_REPLICATE,
        )
        return np.asarray(
            cv2.remap(
                self._bench,
                fine[..., 0],
                fine[..., 1],
                cv2.INTER_LINEAR,
                borderMode=cv2.BORDER_REFLECT,
            ),
            dtype=np.float32,
        )


def card_corners() -> Points:
    """The card's corners on the bench in mm, anticlockwise."""
    turn = math.radians(_CARD_TURN)
    cos, sin = math.cos(turn), math.sin(turn)
    box = np.array([(-1, -1), (1, -1), (1, 1), (-1, 1)]) * np.array(CARD_MM) / 2
    return np.asarray(box @ np.array([[cos, sin], [-sin, cos]]) + _CARD_AT)


def stencil_on_bench() -> list[Contour]:
    """The stencil's contours in mm on the bench."""
    return _on_bench(leaf_stencil())


def _on_bench(contours: list[Contour]) -> list[Contour]:
    return [
        contour.transformed(Affine.turned(-6).then(Affine.moved(*_LEAF_AT))) for contour in contours
    ]


def _draw_bench(rng: np.random.Generator) -> NDArray[Any]:
    width, height = (round(side * _PIXELS_A_MM) for side in _BENCH_MM)
    grain = cv2.resize(
        rng.normal(0, 1, (height // 90, width // 6)).astype(np.float32),
        (width, height),
        interpolation=cv2.INTER_CUBIC,
    )
    bench = np.array([124, 104, 82], dtype=np.float32) + 7 * grain[..., None]
    plate, *openings = stencil_on_bench()
    shadow = _mask([c.flattened(0.05) + (2.5, -3.0) for c in (plate,)], bench.shape[:2])
    shadow = np.maximum(shadow, _mask([card_corners() + (1.5, -2.0)], bench.shape[:2]))
    bench *= 1 - 0.45 * cv2.GaussianBlur(shadow, (0, 0), 9)[..., None]
    card = cv2.GaussianBlur(_mask([card_corners()], bench.shape[:2]), (0, 0), 0.8)[..., None]
    bench += (np.array([236, 233, 224]) - bench) * card
    steel = cv2.GaussianBlur(
        _mask([c.flattened(0.02) for c in (plate, *openings)], bench.shape[:2]), (0, 0), 0.8
    )[..., None]
    bench += (np.array([196, 200, 204]) + 3 * grain[..., None] - bench) * steel
    ink = cv2.GaussianBlur(
        _mask([c.flattened(0.02) for c in _on_bench(leaf_veins())], bench.shape[:2]), (0, 0), 0.8
    )[..., None]
    bench += (np.array([44, 48, 60]) - bench) * ink
    return np.asarray(np.clip(bench, 0, 255).astype(np.float32))


def _mask(outlines: list[Points], shape: tuple[int, ...]) -> NDArray[Any]:
    mask = np.zeros(shape, np.uint8)
    at = [
        np.round(
            (np.column_stack([p[:, 0], _BENCH_MM[1] - p[:, 1]]) * _PIXELS_A_MM - 0.5) * 16
        ).astype(np.int32)
        for p in outlines
    ]
    cv2.fillPoly(mask, at, 255, cv2.LINE_AA, 4)
    return mask.astype(np.float32) / 255
