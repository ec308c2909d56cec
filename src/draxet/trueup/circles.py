"""Circles found from one click on their rim: followed both ways as far as one circle holds, its
centre as sure as so much of it tells."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from draxet.geometry.arrays import Floats, NDArray
from draxet.geometry.spread import Spread
from draxet.record import record
from draxet.trueup.bent import arc_as_far_as_it_holds
from draxet.trueup.measured_lines import LEAST_CONTRAST, Stroke, along_stroke, ranked

__all__ = ["Circle", "circle_along"]

_GROWS = 1.5
_HOLDS = 0.6
"""Pixels (one standard deviation) within which the rim lies on one circle."""
_LEAST_SEEN, _LAST_SEEN = 0.6, 0.4
"""Shares of a rim, and of what was led on to last, that must be seen."""
_LEAST_TURN = math.radians(20)
_APART = 3.0
"""Pixels along a rim between cuts that tell something new."""
_ROUNDS = 6
_LARGEST = 6000.0


@record(frozen=True)
class Circle:
    """A circle in pixels, the spread of its centre, and how much of it was seen (radians)."""

    x: float
    y: float
    radius: float
    spread: Spread
    seen: float


def circle_along(values: NDArray[Any], stroke: Stroke, window: float) -> Circle | None:
    """The circle on whose rim a stroke lies; None where the line there is not surely bent or turns
    too little to tell.

    Parameters
    ----------
    values : (rows, columns) float32, high on lines. window : pixels that cuts reach to either side.
    """
    bent = arc_as_far_as_it_holds(values, stroke, window, both=True)
    if bent is None or not bent.is_bent or abs(bent.stroke.bend) * _LARGEST < 1:
        return None
    rim, length = bent.stroke, bent.end
    found: Circle | None = None
    while True:
        length = min(length, math.pi / abs(rim.bend))
        fitted = _fitted(values, rim, length, window)
        if fitted is None:
            break
        found, rim = fitted
        if length >= 0.999 * math.pi / abs(rim.bend):
            break
        length *= _GROWS
    return found if found and found.seen > _LEAST_TURN else None


def _fitted(
    values: NDArray[Any], rim: Stroke, length: float, window: float
) -> tuple[Circle, Stroke] | None:
    """The circle of least squares through the middles of cuts up to `length` pixels to both sides,
    and its rim at the same place."""
    along = np.linspace(-length, length, int(min(max(length, 24.0), 400.0)))
    offsets = np.arange(-window, window + 0.01, 0.5)
    for _ in range(_ROUNDS):
        cuts = along_stroke(values, rim, along, offsets)
        peak = cuts.max(axis=1)
        weight = np.maximum(cuts - 0.35 * peak[:, None], 0)
        middle = (weight @ offsets) / np.maximum(weight.sum(axis=1), 1e-9)
        good = (peak > 0.5 * ranked(peak, 0.75)) & (peak > LEAST_CONTRAST / 2)
        side = math.copysign(1.0, rim.bend)
        radius = 1 / abs(rim.bend)
        turn = rim.angle + rim.bend * along - side * math.pi / 2  # from the centre out
        rows = np.stack([np.cos(turn), np.sin(turn), np.ones_like(turn)], axis=1)
        out = -side * middle
        shift, off = np.zeros(3), out
        for _ in range(4):
            if good.sum() < 9:
                return None
            shift = np.linalg.lstsq(rows[good], out[good], rcond=None)[0]
            off = out - rows @ shift
            good = good & (np.abs(off) < max(0.8, 2.5 * ranked(np.abs(off[good]), 0.5)))
        x = rim.x - radius * math.cos(rim.angle - side * math.pi / 2) + float(shift[0])
        y = rim.y - radius * math.sin(rim.angle - side * math.pi / 2) + float(shift[1])
        radius += float(shift[2])
        if radius < window:
            return None
        first = rim.angle - side * math.pi / 2
        rim = Stroke(
            x + radius * math.cos(first),
            y + radius * math.sin(first),
            rim.angle,
            rim.width,
            side / radius,
        )
        if np.abs(shift).max() < 0.02:
            break
    noise = float(np.sqrt(np.mean(off[good] ** 2)))
    ends = np.abs(along) > 0.7 * length
    if noise > _HOLDS or good.mean() < _LEAST_SEEN or good[ends].mean() < _LAST_SEEN:
        return None
    told = min((2 * length / _APART) / len(along), 1.0)
    covariance: Floats = max(noise, 0.03) ** 2 * np.linalg.pinv(rows[good].T @ rows[good] * told)
    spread = Spread(float(covariance[0, 0]), float(covariance[0, 1]), float(covariance[1, 1]))
    return Circle(x, y, radius, spread, 2 * length / radius), rim
