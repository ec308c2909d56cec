"""Simulated scans with written lengths: how near the truth truing comes, and whether its ±
holds."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from draxet.job.picture_records import KnownLength
from draxet.trueup.lengths import fit_lengths
from draxet.trueup.pick import Pick, lock_pick

__all__ = ["Scan", "simulate"]

_PATCH = 128
_LENGTHS = ((0, 180.0), (90, 240.0), (0, 120.0), (45, 200.0), (120, 150.0))
"""Directions in degrees and lengths in mm of the five written lengths, in the order in which they
are used."""
_ASKED = (20, 210.0)


class Scan:
    """One scan: its true map from mm to pixels, and what is picked on it."""

    def __init__(self, seed: int) -> None:
        rng = self._rng = np.random.default_rng(seed)
        self.width, self.noise = rng.uniform(2, 12), rng.uniform(2, 8)
        turn, scale = math.radians(rng.uniform(-5, 5)), rng.uniform(5, 12)
        stretch = np.diag(
            [1 + rng.uniform(0, 0.015), 1.0]
            if rng.random() < 0.5
            else [1.0, 1 + rng.uniform(0, 0.015)]
        )
        rotation = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
        self.to_pixels = scale * stretch @ rotation

    def _end(self, place: NDArray[np.float64], along: NDArray[np.float64]) -> Pick:
        """A pick at the end of a written length, where a line stands square to it; drawn by hand,
        clicked by hand."""
        drawn = place + along * self._rng.normal(0, 0.1 * self.width)
        corner = np.floor(drawn) - _PATCH // 2
        x, y = drawn - corner
        columns, rows = np.meshgrid(np.arange(_PATCH) + 0.5, np.arange(_PATCH) + 0.5)
        across = np.abs((columns - x) * along[0] + (rows - y) * along[1])
        ink = cv2.GaussianBlur(np.clip(self.width / 2 + 0.5 - across, 0, 1), (0, 0), 0.8)
        grey = np.clip(235 - 130 * ink + self._rng.normal(0, self.noise, ink.shape), 0, 255).astype(
            np.uint8
        )
        click = np.array([x, y]) + self._rng.normal(0, 1.5, 2)
        pick = lock_pick(grey, float(click[0]), float(click[1]))
        return replace(pick, x=pick.x + corner[0], y=pick.y + corner[1])

    def picked(self, degrees: float, length: float) -> tuple[Pick, Pick]:
        """Both ends of a length that lies anywhere on the sheet."""
        direction = np.array([math.cos(math.radians(degrees)), math.sin(math.radians(degrees))])
        start = self._rng.uniform(20, 60, 2)
        a, b = (self.to_pixels @ (start + length * t * direction) + 400 for t in (0, 1))
        normal = (
            np.linalg.inv(self.to_pixels).T @ direction
        )  # lines square to the length on paper, seen in the scan
        along = normal / np.hypot(*normal)
        return self._end(a, along), self._end(b, along)

    def known(self, count: int) -> list[KnownLength]:
        lengths = []
        for degrees, length in _LENGTHS[:count]:
            a, b = self.picked(degrees, length)
            lengths.append(KnownLength((a.x, a.y), (b.x, b.y), length, a.spread, b.spread))
        return lengths


def simulate(count: int, seeds: Sequence[int]) -> tuple[float, float]:
    """With `count` known lengths: the share of scans in which a length lies within its ±, and its
    median error in mm."""
    inside, errors = 0, []
    for seed in seeds:
        scan = Scan(seed)
        known = scan.known(count)
        fit = fit_lengths(known, unstretched=False)
        if fit.is_stretched:
            fit = fit_lengths(known, unstretched=True)
        direction = np.array(
            [
                math.cos(math.radians(_ASKED[0] + 37 * seed)),
                math.sin(math.radians(_ASKED[0] + 37 * seed)),
            ]
        )
        line = scan.to_pixels @ (_ASKED[1] * direction)
        u, v, w = fit.strain
        found = fit.scale * math.sqrt(
            (line[0] * (1 + u)) ** 2 + (line[1] * (1 + v)) ** 2 + 2 * w * line[0] * line[1]
        )
        errors.append(abs(found - _ASKED[1]))
        inside += errors[-1] <= 2 * fit.share_spread(line[0], line[1]) * _ASKED[1]
    return inside / len(seeds), float(np.median(errors))
