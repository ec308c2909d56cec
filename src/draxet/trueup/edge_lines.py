"""The straight sides of a rectangle in a photo, measured finer than a pixel at many places across
each."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import Floats, Ints, NDArray, Points
from draxet.geometry.homography import bent, unbent
from draxet.record import record

__all__ = ["Corners", "sharpened"]

_REACH = 7.0
_FIRST_REACH = 20.0
"""Pixels to either side within which a side's edge is looked for, and at first where none is
straight there."""
_STRAIGHT = 0.6
_MOST_AGAIN = 2
"""Times that sides are measured once more where that moved them far."""
_MOST_PLACES = 400
_NEAR, _FAR, _MOST_LOOKED_AT = 2.5, 0.1, 60
"""Pixels to either side of the line of a side within which its step is measured; what it costs the
line to lie as far off as is looked, as a share of what is usual; at so many places at the most."""
_STRONG = 30.0
"""Grey levels a half pixel: what is steeper counts for no more."""
_BOWS = np.arange(-4.0, 4.1, 2.0)
"""Pixels by which a lens may bow a side at its middle."""
_CLEARER = 0.87
"""Sides close by are taken unless they are so much less clear than others (as a share)."""
_MOST_CURVED, _USUAL_CURVE = 0.12, 0.03


@record(frozen=True, eq=False)
class Corners:
    """Four corners (4, 2) in picture space, in turn round the rectangle, the first at its upper
    left; the lens curve; and how far the sides' measured places lie from straight lines, in pixels
    (root mean square). How clear the sides are is the root of the steps, in grey levels a half
    pixel (the geometric mean of the four)."""

    places: Points
    curve: float = 0.0
    residual: float = 0.0
    clearness: float = 0.0


def sharpened(
    grey: NDArray[Any],
    corners: Points,
    *,
    lens: bool = False,
    stiff: float = 0.0,
    most: int = _MOST_PLACES,
) -> Corners:
    """Corners moved to where the measured sides meet; with the lens curve that makes the sides
    straightest where asked. Sides are looked for close by first, as a frame may be printed not far
    within, and farther off where none is straight there.

    Parameters
    ----------
    stiff : pixels by which sides must become straighter (root mean square) for a lens as curved as
        most are.
    most : so many places are measured along a side at the most.
    """
    found = _sharpened_once(grey, corners, lens, stiff, most)
    for _ in range(_MOST_AGAIN):
        seen = bent(found.places, found.curve, grey.shape[1], grey.shape[0])
        if np.hypot(*(seen - corners).T).max() <= _REACH / 2:
            break  # else some of a side may have lain out of reach
        corners, found = seen, _sharpened_once(grey, seen, lens, stiff, most)
    return found


def _sharpened_once(
    grey: NDArray[Any], corners: Points, lens: bool, stiff: float, most: int
) -> Corners:
    close = _measured(grey, corners, lens, stiff, most)
    if close is not None and close.residual < _STRAIGHT:
        return close
    roughly = _side_lines_meet(grey, corners, _FIRST_REACH, most)
    wide = _measured(grey, roughly, lens, stiff, most) if roughly is not None else None
    if close is not None and (wide is None or close.clearness > _CLEARER * wide.clearness):
        return close
    return wide if wide is not None else Corners(corners, residual=_REACH)


def _measured(
    grey: NDArray[Any], corners: Points, lens: bool, stiff: float, most: int
) -> Corners | None:
    """Corners by the sides that lie close by; None where these cannot be measured or meet far
    off."""
    height, width = grey.shape
    measured = [
        _edge_places(grey, a, b, _REACH, most)
        for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True)
    ]
    sides = [side for side, _ in measured]
    if any(len(side) < 8 for side in sides):
        return None
    curve = _straightest(sides, width, height, stiff) if lens else 0.0
    straightened = [_straight(side, curve, width, height) for side in sides]
    lines = [_line(side) for side in straightened]
    places = np.array([_meet(lines[k - 1], lines[k]) for k in range(4)])
    straight = unbent(corners, curve, width, height)
    if not np.isfinite(places).all() or np.hypot(*(places - straight).T).max() > 6 * _REACH:
        return None
    residual = float(np.sqrt(np.mean([line[2] ** 2 for line in lines])))
    clearness = float(np.exp(np.mean(np.log([max(clear, 1e-9) for _, clear in measured]))))
    return Corners(places, curve, residual, clearness)


def _straightest(sides: list[Floats], width: int, height: int, stiff: float) -> float:
    """The lens curve that makes sides straightest: what they lie off straight lines grows much as
    its square, so that a few tell where it is least, and then a few near there."""
    whole, ends = np.concatenate(sides), np.cumsum([len(side) for side in sides])[:-1]

    def off(curve: float) -> float:
        straight = np.split(_straight(whole, curve, width, height), ends)
        rests = [_line(side)[2] ** 2 for side in straight]
        return sum(rests) + len(sides) * (stiff * curve / _USUAL_CURVE) ** 2

    found = 0.0
    for reach in (_MOST_CURVED, _MOST_CURVED / 3, _MOST_CURVED / 12):
        curves = found + reach * np.linspace(-1, 1, 5)
        bend, slope, _ = np.polyfit(curves - found, [off(curve) for curve in curves], 2)
        if bend > 0:
            found += float(np.clip(-slope / (2 * bend), -reach, reach))
    return float(np.clip(found, -_MOST_CURVED, _MOST_CURVED))


def _side_lines_meet(grey: NDArray[Any], corners: Points, reach: float, most: int) -> Points | None:
    """Where straight sides measured within `reach` of the given ones meet; None where they cannot
    be measured so."""
    sides = [
        _edge_places(grey, a, b, reach, most)[0]
        for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True)
    ]
    if any(len(side) < 8 for side in sides):
        return None
    lines = [_line(side) for side in sides]
    places = np.array([_meet(lines[k - 1], lines[k]) for k in range(4)])
    near = np.isfinite(places).all() and float(np.hypot(*(places - corners).T).max()) < 3 * reach
    return places if near and max(line[2] for line in lines) < reach / 4 else None


def _edge_places(
    grey: NDArray[Any], a: Points, b: Points, reach: float, most: int
) -> tuple[Floats, float]:
    """Places of the brightness step along a side with their weights (n, 3), each from one cut
    across it, and how clear the step is (the root of grey levels a half pixel): those near the
    straight or slightly bowed line along which most of them lie, whatever is printed beside it. A
    step twice as steep can be told twice as finely."""
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
    line = _along_most(slope, reach)
    near = np.abs(offsets - line[:, None]) <= _NEAR
    peak = np.where(near, slope, -1.0).argmax(axis=1)
    near &= np.abs(np.arange(len(offsets)) - peak[:, None]) <= 4
    weight = np.where(near, slope, 0.0) ** 2
    offset = (weight * offsets).sum(axis=1) / np.maximum(weight.sum(axis=1), 1e-9)
    strength = slope[np.arange(count), peak]
    good = strength > max(
        0.35 * float(np.median(strength)), 0.2 * float(np.percentile(strength, 90))
    )
    for _ in range(4):
        if good.sum() < 8:
            break
        t = np.linspace(-1, 1, count)
        fit = np.polyval(np.polyfit(t[good], offset[good], 2), t)
        away = np.abs(offset - fit)
        good &= away <= max(0.35, 2.5 * float(np.median(away[good])))
    clear = float(np.sqrt(np.minimum(strength, _STRONG)).mean())
    places = (base + offset[:, None] * normal)[good]
    return np.column_stack([places, np.minimum(strength[good], _STRONG) ** 2]), clear


def _along_most(slope: Floats, reach: float) -> Floats:
    """Offsets (n,) of the line, straight or slightly bowed, along which slopes (n, offsets half a
    pixel apart, up to `reach` to either side) are the clearest."""
    some = slope[:: max(1, len(slope) // _MOST_LOOKED_AT)]
    worth = np.sqrt(np.minimum(some, _STRONG))
    cells, lines, cost = _lines_tried(len(some), some.shape[1], reach)
    clear = worth.ravel()[cells].mean(axis=1)
    begin, end, bow = lines[int((clear - _FAR * worth.mean() * cost).argmax())].tolist()
    shares = np.linspace(0, 1, len(slope))
    return np.asarray(begin + (end - begin) * shares + bow * 4 * shares * (1 - shares))


@lru_cache(maxsize=16)
def _lines_tried(rows: int, columns: int, reach: float) -> tuple[Ints, Floats, Floats]:
    """Lines (n, 3) by their ends' offsets and their bow; the numbers (n, rows) of the cells of so
    many rows and columns that each leads through; and what it costs to lie far off."""
    shares = np.linspace(0, 1, rows)
    ends = np.arange(-reach, reach + 0.01, max(1.0, reach / 10))
    lines = np.stack(np.meshgrid(ends, ends, _BOWS, indexing="ij"), axis=-1).reshape(-1, 3)
    begin, end, bow = lines.T[:, :, None]
    offsets = begin + (end - begin) * shares + bow * 4 * shares * (1 - shares)
    at = np.clip(np.round(2 * (offsets + reach)).astype(np.int64), 0, columns - 1)
    cost = np.abs(lines[:, :2]).sum(axis=1) / (2 * reach) + np.abs(lines[:, 2]) / 8
    return at + np.arange(rows) * columns, lines, cost


def _line(side: Floats) -> tuple[Points, Points, float]:
    """Best line of places with weights (n, 3): its middle, its direction and how far the places
    lie off (root mean square)."""
    places, weights = side[:, :2], side[:, 2] / side[:, 2].sum()
    middle = weights @ places
    off = places - middle
    sizes, ways = np.linalg.eigh((off * weights[:, None]).T @ off)
    return middle, ways[:, 1], math.sqrt(max(float(sizes[0]), 0.0))


def _straight(side: Floats, curve: float, width: int, height: int) -> Floats:
    """Places with weights (n, 3) as a lens without the curve would have seen them."""
    return np.column_stack([unbent(side[:, :2], curve, width, height), side[:, 2]])


def _meet(a: tuple[Points, Points, float], b: tuple[Points, Points, float]) -> Points:
    cross = a[1][0] * b[1][1] - a[1][1] * b[1][0]
    if abs(cross) < 0.05:
        return np.array([np.nan, np.nan])
    t = ((b[0] - a[0])[0] * b[1][1] - (b[0] - a[0])[1] * b[1][0]) / cross
    return np.asarray(a[0] + t * a[1])
