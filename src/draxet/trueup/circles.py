"""Circles found from one click on their rim: followed both ways as far as one circle holds, its
centre as sure as so much of it tells."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from draxet.geometry.arrays import Bools, Floats, NDArray
from draxet.geometry.covariance import Covariance
from draxet.record import record
from draxet.trueup.bent import arc_as_far_as_it_holds
from draxet.trueup.measured_lines import LEAST_CONTRAST, Stroke, along_stroke, ranked

__all__ = ["Circle", "circle_along"]

_GROWS, _LEAST_GROWS, _SURELY = 1.5, 1.04, 0.9
"""By so much a seen piece of rim is led on at once, at first and at last; and the share of what was
seen so that is surely of the circle."""
_FIRST = (1.0, 0.7, 0.5)
"""Shares of what lies on one arc at first sight that are looked at first."""
_OUTER, _LEAVES = 0.12, 3.0
"""The share of a piece at its ends that leaves the circle where it lies so many standard deviations
beside it."""
_FINEST, _LITTLE = 0.03, math.radians(75)
"""The least noise (pixels), and a turn of which no more than half the certainty is left."""
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
    spread: Covariance
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
    rim, grows = bent.stroke, _GROWS
    for share in _FIRST:
        reach = (share * bent.end, share * bent.end)
        if found := _fitted(values, rim, reach, window):
            break
    while found and grows > _LEAST_GROWS and not _is_whole(reach, found[1]):
        wider = {
            _within_whole(reach, found[1], (grows**before, grows**after))
            for before, after in ((1, 1), (1, 0), (0, 1), (1, -1), (-1, 1))
        }
        fits = [(fit, each) for each in wider if (fit := _fitted(values, found[1], each, window))]
        best = min(fits, key=lambda each: each[0][0].spread.greatest, default=None)
        if best and best[0][0].spread.greatest < found[0].spread.greatest:
            found, reach = best
        else:
            grows = math.sqrt(grows)
    if found and not _is_whole(reach, found[1]):  # not up to the very place where it ends
        found = _fitted(values, found[1], (_SURELY * reach[0], _SURELY * reach[1]), window) or found
    return found[0] if found and found[0].seen > _LEAST_TURN else None


def _is_whole(reach: tuple[float, float], rim: Stroke) -> bool:
    return sum(reach) >= 0.999 * 2 * math.pi / abs(rim.bend)


def _within_whole(
    reach: tuple[float, float], rim: Stroke, grows: tuple[float, float]
) -> tuple[float, float]:
    """Pixels before and after a place on a rim, as many times as many, no more than all of it."""
    before, after = (side * more for side, more in zip(reach, grows, strict=True))
    share = min(1.0, 2 * math.pi / abs(rim.bend) / (before + after))
    return before * share, after * share


def _fitted(
    values: NDArray[Any], rim: Stroke, reach: tuple[float, float], window: float
) -> tuple[Circle, Stroke] | None:
    """The circle of least squares through the middles of cuts up to so many pixels before and
    after a place, and its rim at the same place; None where they lie on none, up to their ends."""
    length = sum(reach)
    along = np.linspace(-reach[0], reach[1], int(min(max(length / 2, 24.0), 400.0)))
    offsets = np.arange(-window, window + 0.01, 0.5)
    for _ in range(_ROUNDS):
        middle, good = _middles(values, rim, along, offsets)
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
        x1, y1 = x + radius * math.cos(first), y + radius * math.sin(first)
        rim = Stroke(x1, y1, rim.angle, rim.width, side / radius)
        if np.abs(shift).max() < 0.02:
            break
    sureness = _sureness(along, off, good, length, reach[0])
    if sureness is None:
        return None
    noise, told = sureness
    doubt = 1 + (_LITTLE * radius / length) ** 2  # of so little, some may lie on what leads on
    covariance: Floats = (doubt * max(noise, _FINEST)) ** 2 * np.linalg.pinv(
        rows[good].T @ rows[good] * told
    )
    spread = Covariance(float(covariance[0, 0]), float(covariance[0, 1]), float(covariance[1, 1]))
    return Circle(x, y, radius, spread, length / radius), rim


def _middles(
    values: NDArray[Any], rim: Stroke, along: Floats, offsets: Floats
) -> tuple[Floats, Bools]:
    """Where the step of each cut across a rim is, and which cuts have a clear one."""
    cuts = along_stroke(values, rim, along, offsets)
    peak = cuts.max(axis=1)
    weight = np.maximum(cuts - 0.35 * peak[:, None], 0)
    middle = (weight @ offsets) / np.maximum(weight.sum(axis=1), 1e-9)
    return middle, (peak > 0.5 * ranked(peak, 0.75)) & (peak > LEAST_CONTRAST / 2)


def _sureness(
    along: Floats, off: Floats, good: Bools, length: float, before: float
) -> tuple[float, float] | None:
    """How far the places that count lie off a circle (root mean square, pixels), and how much of a
    measurement of its own each is; None where they lie on none, up to their ends."""
    noise = float(np.sqrt(np.mean(off[good] ** 2)))
    ends = (along < _OUTER * length - before), (along > (1 - _OUTER) * length - before)
    if noise > _HOLDS or good.mean() < _LEAST_SEEN:
        return None
    if min(float(good[end].mean()) for end in ends) < _LAST_SEEN:
        return None
    told = min((length / _APART) / len(along), 1.0)
    inner = float(np.sqrt(np.mean(off[good & ~ends[0] & ~ends[1]] ** 2)))
    for end in ends:
        some = off[good & end]
        sure = max(inner, _FINEST) / math.sqrt(max(told * len(some), 1.0))
        if len(some) and abs(float(some.mean())) > _LEAVES * sure:
            return None
    return noise, told
