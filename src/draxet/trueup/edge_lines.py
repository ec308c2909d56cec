"""The straight sides of a rectangle in a photo, measured finer than a pixel at many places across
each."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import NDArray, Points
from draxet.geometry.homography import unbent
from draxet.record import record

__all__ = ["Corners", "sharpened"]

_REACH = 7.0
_FIRST_REACH = 20.0
"""Pixels to either side within which a side's edge is looked for, and at first where none is
straight there."""
_STRAIGHT = 0.6
_MOST_PLACES = 400
_CURVES = np.linspace(-0.12, 0.12, 49)


@record(frozen=True, eq=False)
class Corners:
    """Four corners (4, 2) in picture space, in turn round the rectangle, the first at its upper
    left; the lens curve; and how far the sides' measured places lie from straight lines, in pixels
    (root mean square)."""

    places: Points
    curve: float = 0.0
    residual: float = 0.0


def sharpened(
    grey: NDArray[Any], corners: Points, *, lens: bool = False, most: int = _MOST_PLACES
) -> Corners:
    """Corners moved to where the measured sides meet; with the lens curve that makes the sides
    straightest where asked. Sides are looked for close by first, as a frame may be printed not far
    within, and farther off where none is straight there.

    Parameters
    ----------
    most : so many places are measured along a side at the most.
    """
    close = _measured(grey, corners, lens, most)
    if close is not None and close.residual < _STRAIGHT:
        return close
    roughly = _side_lines_meet(grey, corners, _FIRST_REACH, most)
    wide = _measured(grey, roughly, lens, most) if roughly is not None else None
    found = [each for each in (close, wide) if each is not None]
    if not found:  # nothing was measured: as far off as a side may lie
        return Corners(corners, residual=_REACH)
    return min(found, key=lambda each: each.residual)


def _measured(grey: NDArray[Any], corners: Points, lens: bool, most: int) -> Corners | None:
    """Corners by the sides that lie close by; None where these cannot be measured or meet far
    off."""
    height, width = grey.shape
    sides = [
        _edge_places(grey, a, b, _REACH, most)
        for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True)
    ]
    if any(len(side) < 8 for side in sides):
        return None
    curve = 0.0
    if lens:
        rests = [
            sum(_line(unbent(side, c, width, height))[2] ** 2 for side in sides) for c in _CURVES
        ]
        curve = float(_CURVES[int(np.argmin(rests))])
    lines = [_line(unbent(side, curve, width, height)) for side in sides]
    places = np.array([_meet(lines[k - 1], lines[k]) for k in range(4)])
    straight = unbent(corners, curve, width, height)
    if not np.isfinite(places).all() or np.hypot(*(places - straight).T).max() > 6 * _REACH:
        return None
    return Corners(places, curve, float(np.sqrt(np.mean([line[2] ** 2 for line in lines]))))


def _side_lines_meet(grey: NDArray[Any], corners: Points, reach: float, most: int) -> Points | None:
    """Where straight sides measured within `reach` of the given ones meet; None where they cannot
    be measured so."""
    sides = [
        _edge_places(grey, a, b, reach, most)
        for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True)
    ]
    if any(len(side) < 8 for side in sides):
        return None
    lines = [_line(side) for side in sides]
    places = np.array([_meet(lines[k - 1], lines[k]) for k in range(4)])
    near = np.isfinite(places).all() and float(np.hypot(*(places - corners).T).max()) < 3 * reach
    return places if near and max(line[2] for line in lines) < reach / 4 else None


def _edge_places(grey: NDArray[Any], a: Points, b: Points, reach: float, most: int) -> Points:
    """Places (n, 2) of the brightness step along a side, each from one cut across it, outliers left
    out."""
    along = b - a
    normal = np.array([-along[1], along[0]]) / max(np.hypot(*along), 1e-9)
    count = int(np.clip(np.hypot(*along) / 3, 20, most))
    offsets = np.arange(-reach, reach + 0.01, 0.5)
    base = a + np.linspace(0.06, 0.94, count)[:, None] * along
    at = base[:, None] + offsets[None, :, None] * normal - 0.5
    cuts = cv2.remap(
        grey,
        at[..., 0].astype(np.float32),
        at[..., 1].astype(np.float32),
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REPLICATE,
    ).astype(np.float64)
    slope = np.abs(np.gradient(cv2.GaussianBlur(cuts, (0, 0), sigmaX=1.6, sigmaY=1.0), axis=1))
    peak = slope.argmax(axis=1)
    near = np.abs(np.arange(len(offsets)) - peak[:, None]) <= 4
    weight = np.where(near, slope, 0.0) ** 2
    offset = (weight * offsets).sum(axis=1) / np.maximum(weight.sum(axis=1), 1e-9)
    strength = slope.max(axis=1)
    good = strength > 0.35 * np.median(strength)
    for _ in range(4):
        if good.sum() < 8:
            break
        t = np.linspace(-1, 1, count)
        fit = np.polyval(np.polyfit(t[good], offset[good], 2), t)
        away = np.abs(offset - fit)
        good &= away <= max(0.35, 2.5 * float(np.median(away[good])))
    return np.asarray((base + offset[:, None] * normal)[good])


def _line(points: Points) -> tuple[Points, Points, float]:
    """Best line: its middle, its direction and the rms distance of the points."""
    middle = points.mean(axis=0)
    _, sizes, right = np.linalg.svd(points - middle, full_matrices=False)
    return middle, right[0], float(sizes[1] / np.sqrt(len(points)))


def _meet(a: tuple[Points, Points, float], b: tuple[Points, Points, float]) -> Points:
    cross = a[1][0] * b[1][1] - a[1][1] * b[1][0]
    if abs(cross) < 0.05:
        return np.array([np.nan, np.nan])
    t = ((b[0] - a[0])[0] * b[1][1] - (b[0] - a[0])[1] * b[1][0]) / cross
    return np.asarray(a[0] + t * a[1])
