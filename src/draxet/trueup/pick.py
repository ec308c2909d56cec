"""Picks: a place on a picture locked to the middle of the drawn line beneath the pointer, or to an edge, finer than a pixel.

The line's direction comes from the brightness slopes round the pointer; its middle from cuts across it at many places
along it, through which a line is laid. Where a second line crosses near the pointer, the pick is their crossing. An edge is
found in the same way, from where the brightness steps on each cut. A corner that is not drawn comes from two picks.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from draxet.geometry.arrays import Floats
from draxet.geometry.spread import Spread

__all__ = ["FREE_SPREAD", "Pick", "corner_of", "free_pick", "lock_pick", "straightened"]

FREE_SPREAD = 1.5
"""Standard deviation, in pixels, of a pick made by eye."""

_ALONG = 14.0
_FINE_ALONG = 30.0
_LONG_ALONG = (40.0, 90.0, 180.0, 360.0)
_STRAIGHT = 0.6
_CLEARINGS = 4
_LEAST_CONTRAST = 18.0
_WITHIN_WIDTH = 0.1
"""A drawn line's middle lies within so much of its width (one standard deviation) of what its maker meant."""
_LEAST_SPREAD = 0.1
_EDGE_SPREAD = 0.15
_WIDEST = 0.9
"""A line wider than so much of the reach is an area: picks lock to its edge."""


@dataclass(frozen=True)
class Pick:
    """A place in picture space, the drawn line's width there in pixels (0 where none), its direction(s) in radians,
    and the place's spread in pixels."""

    x: float
    y: float
    width: float
    directions: tuple[float, ...]
    spread: Spread
    on_edge: bool = False

    @property
    def locked(self) -> bool:
        return bool(self.directions)


@dataclass(frozen=True)
class _Stroke:
    x: float
    y: float
    angle: float
    width: float


def free_pick(x: float, y: float) -> Pick:
    """A pick just where the pointer is."""
    return Pick(x, y, 0.0, (), Spread.round(FREE_SPREAD))


def lock_pick(grey: NDArray[Any], x: float, y: float, reach: float = 12.0, *, edge: bool = False) -> Pick:
    """The pick nearest to (x, y) that lies on the middle of a drawn line, or on the edge of an area where there is no line or
    where `edge` asks for it; a free one where neither is within `reach` pixels.

    Parameters
    ----------
    grey : (rows, columns) of uint8, dark lines on light paper.
    x, y : in picture space (pixel 0's centre at 0.5).
    """
    half = int(np.ceil(reach + _FINE_ALONG + 8))
    column, row = int(np.floor(x)), int(np.floor(y))
    top, left = max(0, row - half), max(0, column - half)
    part = grey[top : row + half + 1, left : column + half + 1].astype(np.float32)
    if min(part.shape, default=0) < 8:
        return free_pick(x, y)
    ink = np.clip(np.percentile(part, 80) - part, 0, None)
    if float(np.percentile(ink, 99.5)) < _LEAST_CONTRAST:
        return free_pick(x, y)
    px, py = x - left, y - top
    if edge:
        return _edge_pick(part, ink, px, py, reach, left, top) or free_pick(x, y)
    strokes = [stroke for angle in _directions(ink, px, py, reach) if (stroke := _stroke(ink, px, py, angle, reach))]
    strokes = [stroke for stroke in strokes if stroke.width <= 2 * _WIDEST * reach]
    if not strokes:
        return _edge_pick(part, ink, px, py, reach, left, top) or free_pick(x, y)
    first = min(strokes, key=lambda s: _away(s, px, py))
    at, used = _foot(first, px, py), [first]
    for other in strokes:
        crossing = _crossing(first, other) if other is not first else None
        if crossing and np.hypot(crossing[0] - px, crossing[1] - py) <= reach:
            used = [_cleared(ink, stroke, crossing) for stroke in (first, other)]
            at = _crossing(*used) or crossing
            break
    if np.hypot(at[0] - px, at[1] - py) > reach:
        return _edge_pick(part, ink, px, py, reach, left, top) or free_pick(x, y)
    spread = Spread.round(max(_LEAST_SPREAD, _WITHIN_WIDTH * first.width))
    return Pick(at[0] + left, at[1] + top, first.width, tuple(s.angle for s in used), spread)


def corner_of(first: Pick, second: Pick) -> Pick | None:
    """The corner in which the lines beneath two picks would meet, drawn or not; None where they hardly differ in direction."""
    if not (first.directions and second.directions):
        return None
    a, b = (_Stroke(p.x, p.y, p.directions[0], p.width) for p in (first, second))
    at = _crossing(a, b)
    if at is None:
        return None
    far = max(np.hypot(at[0] - p.x, at[1] - p.y) for p in (first, second))
    lever = 1.0 + far / _LONG_ALONG[1]
    return Pick(*at, 0.0, (a.angle, b.angle), Spread.round(float(np.hypot(first.spread.greatest, second.spread.greatest) * lever / np.sqrt(2))), True)


def _edge_pick(part: NDArray[Any], ink: NDArray[Any], x: float, y: float, reach: float, left: int, top: int) -> Pick | None:
    """The pick on the brightness step nearest to (x, y), in the whole picture; None where there is none."""
    found = [edge for angle in _directions(ink, x, y, reach) if (edge := _edge(part, x, y, angle, reach))]
    if not found:
        return None
    first = min(found, key=lambda s: _away(s, x, y))
    at, used = _foot(first, x, y), [first]
    for other in found:
        crossing = _crossing(first, other) if other is not first else None
        if crossing and np.hypot(crossing[0] - x, crossing[1] - y) <= reach:
            at, used = crossing, [first, other]
            break
    if np.hypot(at[0] - x, at[1] - y) > reach:
        return None
    return Pick(at[0] + left, at[1] + top, 0.0, tuple(s.angle for s in used), Spread.round(_EDGE_SPREAD), True)


def _edge(part: NDArray[Any], x: float, y: float, angle: float, reach: float) -> _Stroke | None:
    """The brightness step of direction about `angle` nearest to (x, y), as a line of no width."""
    along = np.arange(-_ALONG, _ALONG + 0.1, 1.0)
    near = reach
    for _ in range(3):
        offsets = np.arange(-near - 3, near + 3.01, 0.5)
        slope = np.abs(np.gradient(cv2.GaussianBlur(_cuts(part, x, y, angle, along, offsets), (0, 0), sigmaX=1.2, sigmaY=1.0), axis=1))
        profile = np.median(slope, axis=0)
        tops = np.flatnonzero((profile[1:-1] >= profile[:-2]) & (profile[1:-1] > profile[2:])) + 1
        tops = tops[profile[tops] > max(0.35 * profile.max(), _LEAST_CONTRAST / 16)]
        if not tops.size:
            return None
        middle = offsets[tops[np.argmin(np.abs(offsets[tops]))]]
        weight = np.where(np.abs(offsets - middle) <= 2.5, slope, 0.0) ** 2
        total = weight.sum(axis=1)
        good = total > 0.3 * np.median(total) + 1e-9
        if good.sum() < 6:
            return None
        place = (weight * offsets).sum(axis=1)[good] / total[good]
        keep = np.abs(place - np.median(place)) < 1.0
        if keep.sum() < 5:
            return None
        lean, base = np.polyfit(along[good][keep], place[keep], 1)
        x, y = x - base * np.sin(angle), y + base * np.cos(angle)
        angle += float(np.arctan(lean))
        near = 3.0
    return _Stroke(float(x), float(y), float(angle), 0.0)


def _directions(ink: NDArray[Any], x: float, y: float, reach: float) -> list[float]:
    """Directions along which lines run near (x, y): the strongest first, a second where it is clearly another."""
    soft = cv2.GaussianBlur(ink, (0, 0), 1.2)
    gx, gy = cv2.Sobel(soft, cv2.CV_32F, 1, 0), cv2.Sobel(soft, cv2.CV_32F, 0, 1)
    rows, columns = np.indices(ink.shape)
    near = np.exp(-((columns + 0.5 - x) ** 2 + (rows + 0.5 - y) ** 2) / (2 * (0.7 * reach) ** 2))
    angle = np.remainder(np.arctan2(gy, gx) + np.pi / 2, np.pi)
    counts, _ = np.histogram(angle, bins=60, range=(0, np.pi), weights=near * (gx * gx + gy * gy))
    ring = np.convolve(np.concatenate([counts[-4:], counts, counts[:4]]), [1, 2, 3, 2, 1], mode="same")[4:-4]
    best = int(np.argmax(ring))
    distance = np.abs((np.arange(60) - best + 30) % 60 - 30)
    others = np.where(distance >= 10, ring, 0)
    second = int(np.argmax(others))
    found = [best] + [second] * bool(others[second] > 0.3 * ring[best])
    return [(k + 0.5) * np.pi / 60 for k in found]


def _stroke(ink: NDArray[Any], x: float, y: float, angle: float, reach: float) -> _Stroke | None:
    """The line of direction about `angle` nearest to (x, y)."""
    for _ in range(3):
        offsets = np.arange(-reach - 4, reach + 4.01, 0.5)
        along = np.arange(-_ALONG, _ALONG + 0.1, 1.0)
        cuts = _cuts(ink, x, y, angle, along, offsets)
        middle, width = _ridge(np.median(cuts, axis=0), offsets)
        if width <= 0:
            return None
        near = np.abs(offsets - middle) <= max(1.5 * width, 3.0)
        weight = np.clip(cuts[:, near] - 0.35 * np.median(cuts[:, near].max(axis=1)), 0, None)
        total = weight.sum(axis=1)
        good = total > 0.4 * np.median(total) + 1e-6
        if good.sum() < 6:
            return None
        centre = (weight[good] * offsets[near]).sum(axis=1) / total[good]
        keep = np.abs(centre - np.median(centre)) < max(1.0, 0.6 * width)
        slope, base = np.polyfit(along[good][keep], centre[keep], 1) if keep.sum() >= 5 else (0.0, middle)
        x, y = x - base * np.sin(angle), y + base * np.cos(angle)
        angle += float(np.arctan(slope))
    return _Stroke(x, y, float(angle), float(width))


def _cleared(ink: NDArray[Any], stroke: _Stroke, crossing: tuple[float, float]) -> _Stroke:
    """A line measured again without the stretch round a crossing, where the other line's ink would draw its middle aside."""
    away = np.arange(-_FINE_ALONG, _FINE_ALONG + 0.1, 1.0)
    away = away[np.abs(away) > 1.2 * stroke.width + 2]
    for _ in range(_CLEARINGS):
        x, y = _foot(stroke, *crossing)
        found = _line_through(ink, _Stroke(x, y, stroke.angle, stroke.width), away)
        if found is None:
            break
        stroke = found
    return stroke


def _line_through(ink: NDArray[Any], stroke: _Stroke, along: Floats) -> _Stroke | None:
    """The line through the middles of cuts at `along` from a stroke's place; None where too few cuts show it straight."""
    window = max(1.2 * stroke.width, 3.0)
    offsets = np.arange(-window, window + 0.01, 0.5)
    cuts = _cuts(ink, stroke.x, stroke.y, stroke.angle, along, offsets)
    peak = cuts.max(axis=1)
    usual = float(np.percentile(peak, 75))
    weight = np.clip(cuts - 0.35 * peak[:, None], 0, None)
    total = weight.sum(axis=1)
    middle = (weight * offsets).sum(axis=1) / np.maximum(total, 1e-9)
    good = (peak > 0.5 * usual) & (peak > _LEAST_CONTRAST / 2)
    for _ in range(3):
        if good.sum() < 6:
            return None
        slope, base = np.polyfit(along[good], middle[good], 1)
        off = np.abs(middle - (base + slope * along))
        good &= off < max(0.5, 2.5 * float(np.median(off[good])))
    if good.sum() < max(6, 0.3 * len(along)) or float(np.sqrt(np.mean(off[good] ** 2))) > _STRAIGHT:
        return None
    slope, base = np.polyfit(along[good], middle[good], 1)
    x, y = stroke.x - base * np.sin(stroke.angle), stroke.y + base * np.cos(stroke.angle)
    return _Stroke(float(x), float(y), stroke.angle + float(np.arctan(slope)), stroke.width)


def straightened(grey: NDArray[Any], pick: Pick) -> Pick:
    """A pick with its direction measured along as much of its line as runs straight: what is drawn on from it holds farther out."""
    if not pick.directions:
        return pick
    half = int(_LONG_ALONG[-1]) + 8
    column, row = int(np.floor(pick.x)), int(np.floor(pick.y))
    top, left = max(0, row - half), max(0, column - half)
    part = grey[top : row + half + 1, left : column + half + 1].astype(np.float32)
    values = _slopes(part) if pick.on_edge else np.clip(np.percentile(part, 80) - part, 0, None)
    stroke = _Stroke(pick.x - left, pick.y - top, pick.directions[0], pick.width)
    for reach in _LONG_ALONG:
        longer = _line_through(values, stroke, np.linspace(-reach, reach, 81))
        if longer is None:
            break
        x, y = _foot(longer, pick.x - left, pick.y - top)
        stroke = _Stroke(x, y, longer.angle, stroke.width)
    return Pick(stroke.x + left, stroke.y + top, pick.width, (stroke.angle,), pick.spread, pick.on_edge)


def _slopes(part: NDArray[Any]) -> NDArray[Any]:
    """How steep the brightness is: an edge becomes a line."""
    soft = cv2.GaussianBlur(part, (0, 0), 1.0)
    return np.asarray(cv2.magnitude(cv2.Sobel(soft, cv2.CV_32F, 1, 0), cv2.Sobel(soft, cv2.CV_32F, 0, 1)))


def _cuts(ink: NDArray[Any], x: float, y: float, angle: float, along: Floats, offsets: Floats) -> Floats:
    """Ink on cuts across a line: one row for each place along it."""
    cos, sin = np.cos(angle), np.sin(angle)
    at_x = x + along[:, None] * cos - offsets[None] * sin - 0.5
    at_y = y + along[:, None] * sin + offsets[None] * cos - 0.5
    cuts = cv2.remap(ink, at_x.astype(np.float32), at_y.astype(np.float32), cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)
    return np.asarray(cuts, dtype=np.float64)


def _ridge(cut: Floats, offsets: Floats) -> tuple[float, float]:
    """Middle and width at half height of the ridge on a cut that lies nearest to 0; width 0 where there is none."""
    peak = float(cut.max())
    if peak < _LEAST_CONTRAST / 2:
        return 0.0, 0.0
    above = cut > peak / 2
    edges = np.flatnonzero(np.diff(np.concatenate([[0], above.view(np.int8), [0]])))
    begins, ends = edges[::2], edges[1::2] - 1
    middles = (offsets[begins] + offsets[ends]) / 2
    k = int(np.argmin(np.maximum(np.abs(middles) - (offsets[ends] - offsets[begins]) / 2, 0)))
    return float(middles[k]), float(offsets[ends[k]] - offsets[begins[k]] + 0.5)


def _foot(stroke: _Stroke, x: float, y: float) -> tuple[float, float]:
    cos, sin = np.cos(stroke.angle), np.sin(stroke.angle)
    t = (x - stroke.x) * cos + (y - stroke.y) * sin
    return float(stroke.x + t * cos), float(stroke.y + t * sin)


def _away(stroke: _Stroke, x: float, y: float) -> float:
    return float(np.hypot(*np.subtract(_foot(stroke, x, y), (x, y))))


def _crossing(a: _Stroke, b: _Stroke) -> tuple[float, float] | None:
    cross = np.sin(b.angle - a.angle)
    if abs(cross) < 0.3:
        return None
    t = ((b.x - a.x) * np.sin(b.angle) - (b.y - a.y) * np.cos(b.angle)) / cross
    return float(a.x + t * np.cos(a.angle)), float(a.y + t * np.sin(a.angle))
