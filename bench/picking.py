"""Simulated picks: square lines, corners, crossings, free ends and area corners, thin and thick, clicked as people click, at every
zoom; whether lengths between them lie within their ±, and how much wider that is than need be."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from draxet.geometry.spread import Spread
from draxet.trueup.pick import Pick, lock_pick

__all__ = ["KINDS", "ZOOMS", "Sureness", "end_pick", "sureness"]

KINDS = ("square line", "L corner", "T corner", "crossing", "free end", "middle, free along", "area corner")
ZOOMS = {"whole scan": 3.9, "one to one": 1.0, "four times": 0.25}
"""Picture pixels to one of the screen: a scan of 3,000 pixels wholly in view, and nearer."""
_PATCH = 260
_DRAWN = 0.1
"""A line is drawn within so much of its width (one standard deviation) of where it was meant."""


@dataclass(frozen=True)
class Sureness:
    """The share of lengths within their ±, the ± against what would just hold 95 % of the errors, and the median error in pixels."""

    inside: float
    too_wide: float
    error: float


def _ink(x: NDArray[np.float64], y: NDArray[np.float64], at: NDArray[np.float64], angle: float, width: float, start: float, stop: float) -> NDArray[np.float64]:
    """A stroke along `angle` through `at`, from `start` to `stop` along it, antialiased."""
    c, s = math.cos(angle), math.sin(angle)
    along, across = (x - at[0]) * c + (y - at[1]) * s, np.abs(-(x - at[0]) * s + (y - at[1]) * c)
    return np.clip(width / 2 + 0.5 - across, 0, 1) * np.clip(along - start + 0.5, 0, 1) * np.clip(stop - along + 0.5, 0, 1)


def end_pick(kind: str, along: float, click: float, rng: np.random.Generator) -> tuple[Pick, NDArray[np.float64], NDArray[np.float64]]:
    """A pick at the end of a length that runs at angle `along`: the pick, the true place, and the direction that counts."""
    width = rng.uniform(2, 12)
    truth = _PATCH / 2 + rng.uniform(-1, 1, 2)
    direction = np.array([math.cos(along), math.sin(along)])
    square = along + math.pi / 2
    x, y = np.meshgrid(np.arange(_PATCH) + 0.5, np.arange(_PATCH) + 0.5)
    far = 2.0 * _PATCH

    def line(angle: float, start: float, stop: float) -> NDArray[np.float64]:
        """Drawn by hand: off across by a share of its width, and where it ends also along."""
        normal, way = np.array([-math.sin(angle), math.cos(angle)]), np.array([math.cos(angle), math.sin(angle)])
        off = normal * rng.normal(0, _DRAWN * width) + way * (rng.normal(0, _DRAWN * width) if kind == "free end" else 0.0)
        return _ink(x, y, truth + off, angle, width, start, stop)

    lean = rng.uniform(math.radians(55), math.radians(125))
    if kind == "square line":
        ink = line(square, -far, far)
    elif kind == "L corner":
        ink = np.maximum(line(along, 0 - width / 2, far), line(along + lean, -width / 2, far))
    elif kind == "T corner":
        ink = np.maximum(line(square, -far, far), line(along, 0, far))
    elif kind == "crossing":
        ink = np.maximum(line(along, -far, far), line(along + lean, -far, far))
    elif kind == "area corner":
        ink = np.where((np.cos(along) * (x - truth[0]) + np.sin(along) * (y - truth[1]) > 0) & (np.cos(square) * (x - truth[0]) + np.sin(square) * (y - truth[1]) > 0), 1.0, 0.0)
        big = cv2.resize(ink, None, fx=1, fy=1)
        ink = cv2.GaussianBlur(big, (0, 0), 0.5)
    else:
        ink = line(along, 0.0 if kind == "free end" else -far, far)
    soft = cv2.GaussianBlur(ink, (0, 0), 0.8)
    grey = np.clip(235 - 130 * soft + rng.normal(0, rng.uniform(2, 8), ink.shape), 0, 255).astype(np.uint8)
    clicked = truth + rng.normal(0, click, 2)
    reach = min(max(14.0 * click, 4.0), 40.0)
    return lock_pick(grey, float(clicked[0]), float(clicked[1]), reach, click=click), truth, direction


def sureness(kind: str, click: float, seeds: Sequence[int]) -> Sureness:
    """Lengths between two such places, far apart: error and ± along the length."""
    errors, trusts = [], []
    for seed in seeds:
        rng = np.random.default_rng(seed)
        along = rng.uniform(0, 2 * math.pi)
        error, variance = 0.0, 0.0
        for turn in (0.0, math.pi):
            pick, truth, direction = end_pick(kind, along + turn, click, rng)
            error += float((np.array([pick.x, pick.y]) - truth) @ direction)
            spread: Spread = pick.spread
            variance += spread.variance(*direction)
        errors.append(abs(error))
        trusts.append(2 * math.sqrt(variance))
    found, trust = np.array(errors), np.array(trusts)
    needed = float(np.quantile(found / trust, 0.95))
    return Sureness(float((found <= trust).mean()), 1 / max(needed, 1e-9), float(np.median(found)))
