"""Bent lines measured finer than a pixel: arcs laid through the middles of cuts across a drawn
line, as far along it as one arc holds."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from draxet.geometry.arrays import Floats, NDArray
from draxet.record import record
from draxet.trueup.measured_lines import LEAST_CONTRAST, Stroke, along_stroke, ranked

__all__ = ["Bent", "arc_as_far_as_it_holds", "arc_through"]

_HOLDS = 0.45
"""Pixels (one standard deviation) within which middles lie on one arc."""
_LENGTHS = (10.0, 15.0, 22.0, 34.0, 52.0, 80.0)
_SURE = 4.0
"""A line is bent where it is so many times as much as the bend's own standard deviation."""
_APART = 2.5
"""Pixels along a line between cuts that tell something new."""
_OFFSET_STEP = 0.5
_CUT_STEP = 1.0
_LOOKS = 4
_SAME = 0.04
"""Pixels by which a look may still change an arc to be the last."""


@record(frozen=True)
class Bent:
    """An arc through a drawn line, the covariance (3, 3) of its base, slope and half its bend at
    its place, and from where to where along it it was seen, in pixels."""

    stroke: Stroke
    covariance: Floats
    begin: float
    end: float

    @property
    def is_bent(self) -> bool:
        """Whether it is surely no straight line."""
        return abs(self.stroke.bend) > _SURE * 2 * math.sqrt(self.covariance[2, 2])

    def unsure(self, along: float) -> float:
        """One standard deviation of the arc across it, `along` pixels from its place."""
        row = np.array([1.0, along, along * along])
        return math.sqrt(float(row @ self.covariance @ row))


def arc_through(values: NDArray[Any], stroke: Stroke, along: Floats, window: float) -> Bent | None:
    """The arc through the middles of cuts at `along` (pixels from the stroke's place, along its own
    arc); None where they lie on none.

    Parameters
    ----------
    values : (rows, columns) float32, high on lines. window : pixels that cuts reach to either side.
    """
    offsets = np.arange(-window, window + 0.01, _OFFSET_STEP)
    far = float(max(-along[0], along[-1]))
    fitted = None
    for _ in range(_LOOKS):
        cuts = along_stroke(values, stroke, along, offsets)
        fitted = _parabola(cuts, offsets, along)
        if fitted is None:
            return None
        (base, slope, half), good, off = fitted
        x, y = stroke.x - base * math.sin(stroke.angle), stroke.y + base * math.cos(stroke.angle)
        stroke = Stroke(x, y, stroke.angle + math.atan(slope), stroke.width, stroke.bend + 2 * half)
        if abs(stroke.bend) * window > 0.95:
            return None
        if abs(base) < _SAME and abs(slope * far) < _SAME and abs(half) * far * far < 2 * _SAME:
            break
    if fitted is None:
        return None
    _, good, off = fitted
    noise = float(np.sqrt(np.mean(off[good] ** 2)))
    if noise > _HOLDS:
        return None
    seen = along[good]
    rows = np.stack([np.ones_like(seen), seen, seen * seen], axis=1)
    told = max((seen[-1] - seen[0]) / _APART / len(seen), 1e-3)
    covariance = max(noise, 0.03) ** 2 * np.linalg.pinv(rows.T @ rows * min(told, 1.0))
    return Bent(stroke, covariance, float(seen[0]), float(seen[-1]))


def _parabola(
    cuts: Floats, offsets: Floats, along: Floats
) -> tuple[tuple[float, float, float], Any, Floats] | None:
    """Base, slope and half the bend of the parabola through the middles of cuts, which of them lie
    on it, and how far off each is."""
    peak = cuts.max(axis=1)
    weight = np.maximum(cuts - 0.35 * peak[:, None], 0)
    middle = (weight @ offsets) / np.maximum(weight.sum(axis=1), 1e-9)
    good = (peak > 0.5 * ranked(peak, 0.75)) & (peak > LEAST_CONTRAST / 2)
    far = float(max(-along[0], along[-1]))
    rows = np.stack([np.ones_like(along), along / far, (along / far) ** 2], axis=1)
    off, found = np.zeros_like(along), np.zeros(3)
    for turn in range(4):
        if good.sum() < 7:
            return None
        some = rows[good]
        found = np.linalg.solve(some.T @ some + 1e-9 * np.eye(3), some.T @ middle[good])
        off = middle - rows @ found
        if turn < 3:
            kept = good & (np.abs(off) < max(0.6, 2.5 * ranked(np.abs(off[good]), 0.5)))
            if kept.sum() == good.sum():
                break
            good = kept
    last = slice(-(len(along) // 3), None)
    if good.sum() < max(7, 0.7 * len(along)) or good[last].mean() < 0.6:
        return None
    return (float(found[0]), float(found[1]) / far, float(found[2]) / far**2), good, off


def arc_as_far_as_it_holds(
    values: NDArray[Any], stroke: Stroke, window: float, *, begin: float = 0.0, both: bool = False
) -> Bent | None:
    """The arc along a line from `begin` pixels beyond the stroke's place on (to `both` sides of
    it), as far as one arc holds."""
    found = None
    for length in _LENGTHS:
        along = np.arange(begin, begin + length + 0.1, _CUT_STEP)
        if both:
            along = np.concatenate([-along[:0:-1] if begin == 0 else -along[::-1], along])
        again = arc_through(values, stroke, along, window)
        if (
            again is None and found is None
        ):  # the first look knows no bend: a tight one leaves its window
            again = arc_through(values, stroke, along, 1.8 * window)
        if again is None:
            break
        found, stroke = again, again.stroke
    return found
