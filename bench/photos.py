"""Simulated phone photos of a bench with a card of known size on it."""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from draxet.geometry.homography import apply_homography, bent, homography, unbent
from draxet.trueup.edge_lines import Corners, sharpened
from draxet.trueup.rectangles import find_corners
from draxet.trueup.square import plan_view

__all__ = ["CARD", "Photo", "simulate_photos"]

CARD = (85.6, 53.98)
_SIZE = (1600, 1200)
_MM = 4.0  # plan pixels a mm of the drawn bench


class Photo:
    """One photo, and the true map from bench mm to its pixels."""

    def __init__(self, seed: int) -> None:
        rng = np.random.default_rng(seed)
        tilt, around, roll = (
            math.radians(rng.uniform(5, 35)),
            rng.uniform(0, 2 * math.pi),
            math.radians(rng.uniform(-12, 12)),
        )
        self.curve = float(rng.uniform(-0.03, 0.03))
        self.card_at = rng.uniform((45, 40), (110, 90))
        turned = math.radians(rng.uniform(-15, 15))
        cos, sin = math.cos(turned), math.sin(turned)
        box = np.array([(-1, -1), (1, -1), (1, 1), (-1, 1)]) * np.array(CARD) / 2
        self.card = box @ np.array([[cos, sin], [-sin, cos]]) + self.card_at
        self.to_photo = self._camera(tilt, around, roll)
        self.pixels = self._shot(rng)

    @staticmethod
    def _camera(tilt: float, around: float, roll: float) -> NDArray[np.float64]:
        """A pinhole camera 320 mm from the bench's middle (120, 90), leaning by `tilt` towards
        `around`."""
        middle, distance, focal = np.array([120.0, 90, 0]), 320.0, 1650.0
        axis = np.array([-math.sin(around), math.cos(around), 0])
        lean, _ = cv2.Rodrigues(axis * tilt)
        spin, _ = cv2.Rodrigues(np.array([0, 0, roll]))
        rotation = spin @ lean
        plan = np.array([(0, 0, 0), (240, 0, 0), (240, 180, 0), (0, 180, 0)], dtype=np.float64)
        seen = (plan - middle) @ rotation.T + (0, 0, distance)
        return homography(plan[:, :2], seen[:, :2] / seen[:, 2:] * focal + np.array(_SIZE) / 2)

    def _shot(self, rng: np.random.Generator) -> NDArray[np.uint8]:
        grain = cv2.resize(
            rng.normal(0, 1, (60, 400)).astype(np.float32),
            (2400, 2000),
            interpolation=cv2.INTER_CUBIC,
        )
        bench = 118 + 10 * grain
        columns, rows = np.meshgrid(
            np.arange(bench.shape[1]) / _MM - 180, np.arange(bench.shape[0]) / _MM - 160
        )
        inside = np.full(bench.shape, np.inf)
        for a, b in zip(self.card, np.roll(self.card, -1, axis=0), strict=True):
            along = (b - a) / np.hypot(*(b - a))
            inside = np.minimum(inside, along[0] * (rows - a[1]) - along[1] * (columns - a[0]))
        card = np.clip(inside * _MM + 0.5, 0, 1)
        leaf = np.column_stack(
            [
                300 + 60 * np.cos(t := np.linspace(0, 6.3, 300)),
                250 + 35 * np.sin(t) * (1 + 0.2 * np.sin(5 * t)),
            ]
        )
        cv2.fillPoly(bench, [np.round(leaf * _MM * 16).astype(np.int32)], 60, cv2.LINE_AA, 4)
        bench = bench + (232 - bench) * card
        x, y = np.meshgrid(np.arange(_SIZE[0]) + 0.5, np.arange(_SIZE[1]) + 0.5)
        straight = unbent(np.column_stack([x.ravel(), y.ravel()]), self.curve, *_SIZE)
        mm = apply_homography(np.linalg.inv(self.to_photo), straight) + (180, 160)
        at = (mm * _MM).astype(np.float32).reshape(_SIZE[1], _SIZE[0], 2)
        shot = cv2.remap(
            bench.astype(np.float32),
            at[..., 0],
            at[..., 1],
            cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_REFLECT,
        )
        light = 1.05 - 0.2 * np.hypot(
            x / _SIZE[0] - rng.uniform(0.3, 0.7), y / _SIZE[1] - rng.uniform(0.3, 0.7)
        )
        shot = cv2.GaussianBlur(shot * light, (0, 0), 0.9) + rng.normal(
            0, 3.5, (_SIZE[1], _SIZE[0])
        )
        return np.clip(shot, 0, 255).astype(np.uint8)

    def seen(self, mm: NDArray[np.float64]) -> NDArray[np.float64]:
        """Where the photo shows places of the bench."""
        return bent(apply_homography(self.to_photo, mm), self.curve, *_SIZE)


def simulate_photos(count: int) -> tuple[int, int, float]:
    """In how many photos the automatic corners are right, in how many lengths are within 0.4 %, and
    the median error as a share."""
    right, near, errors = 0, 0, []
    for seed in range(count):
        photo = Photo(seed)
        found = find_corners(photo.pixels)
        truth = photo.seen(photo.card)
        if found is None or max(np.hypot(*(found.places - corner).T).min() for corner in truth) > 4:
            continue
        right += 1
        exact: Corners = sharpened(photo.pixels, found.places, lens=True)
        matrix, _, pixel = plan_view(_SIZE, exact, CARD)
        worst = 0.0
        for angle in np.radians([0, 45, 90, 135]):
            ends = photo.card_at + np.outer(
                (-1, 1), 45 * np.array([math.cos(angle), math.sin(angle)])
            )
            seen = unbent(photo.seen(ends), exact.curve, *_SIZE)
            plan = apply_homography(np.linalg.inv(matrix), seen) * pixel
            worst = max(worst, abs(float(np.hypot(*(plan[1] - plan[0]))) / 90 - 1))
        errors.append(worst)
        near += worst <= 0.004
    return right, near, float(np.median(errors)) if errors else math.nan
