"""Features of drawn lines: free ends, corners (where two lines meet and end) and crossings, found near a click and measured.

A small ring laid round a place of the ink shows how many *arms* leave it: one at an end, two at a corner (not opposite each
other), three or four where lines cross. Arms are then measured as straight lines away from the feature, where no other ink
disturbs them; a corner is where two of them meet, an end where the ink of the only one stops.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import Floats, NDArray
from draxet.geometry.spread import Spread
from draxet.record import record
from draxet.trueup.lines import LEAST_CONTRAST, Stroke, crossing, cuts_across, line_through

__all__ = ["Feature", "across_spread", "even_along", "feature_near", "in_area", "met"]

_WITHIN_WIDTH = 0.1
"""A drawn line's middle, or its end, lies within so much of its width (one standard deviation) of what its maker meant."""
_LEAST_SPREAD = 0.1
_END_SPREAD, _DRAWN_OUT = 0.2, 0.25
_ANGLES = 180
_STRAIGHT_ON = math.radians(22)
"""Arms that differ by so much or less from opposite are one line going on."""
_LONG = 34.0
_SIDE = 14.0
_MOST_TRIES, _MOST_LOOKS = 4, 3
_STAYS = 0.6
_OPPOSITE = 0.15
_STEP = 0.25


@record(frozen=True)
class Feature:
    """What was found: ``end``, ``corner`` or ``crossing``, its place and spread in pixels, the width of its line, and the
    directions of its lines."""

    kind: str
    x: float
    y: float
    width: float
    directions: tuple[float, ...]
    spread: Spread


def across_spread(width: float) -> float:
    """One standard deviation of a line's middle, across it."""
    return math.hypot(_LEAST_SPREAD, _WITHIN_WIDTH * width)


def _arm_spread(width: float) -> float:
    """As ``across_spread`` for an arm, drawn out to where it meets another one."""
    return math.hypot(_DRAWN_OUT, _WITHIN_WIDTH * width)


def met(first: Stroke, second: Stroke, first_across: float, second_across: float) -> Spread:
    """The spread of the place where two lines meet, from their own across them."""
    normals = np.array([(-math.sin(s.angle), math.cos(s.angle)) for s in (first, second)])
    back = np.linalg.inv(normals)
    covariance = back @ np.diag([first_across**2, second_across**2]) @ back.T
    return Spread(float(covariance[0, 0]), float(covariance[0, 1]), float(covariance[1, 1]))


def feature_near(values: NDArray[Any], x: float, y: float, reach: float, *, ends: bool = True, border: tuple[bool, bool, bool, bool] = (False,) * 4) -> Feature | None:
    """The feature nearest to (x, y) within `reach` pixels; None where there is none.

    Parameters
    ----------
    values : (rows, columns) float32, high on lines. ends : whether free ends count.
    border : which sides (left, top, right, bottom) of `values` are the picture's own.
    """
    solid, ridge, half = _solid(values, x, y, reach)
    if not len(ridge):
        return None
    ridge = _worth_a_look(solid, ridge, half)
    order = np.argsort(np.hypot(ridge[:, 0] + 0.5 - x, ridge[:, 1] + 0.5 - y))
    found: list[Feature] = []
    tried: list[tuple[float, float]] = []
    for column, row in ridge[order].tolist():
        if any(math.hypot(column - a, row - b) < 2.5 + 0.6 * float(half[row, column]) for a, b in tried):
            continue
        feature = _feature_at(values, solid, half, column, row, ends, border)
        if feature is None:
            continue
        tried.append((column, row))
        if feature.kind != "end":
            feature = _settled(values, solid, half, feature, ends, border)
        if feature and math.hypot(feature.x - x, feature.y - y) <= reach:
            found.append(feature)
            tried.append((feature.x, feature.y))
        if len(tried) >= _MOST_TRIES + len(found):
            break
    return min(found, key=lambda f: math.hypot(f.x - x, f.y - y)) if found else None


def _worth_a_look(solid: NDArray[np.uint8], ridge: NDArray[np.int64], half: Floats) -> NDArray[np.int64]:
    """Places where a ring is left by anything but one line that goes straight on."""
    angles = np.arange(72) * 2 * math.pi / 72
    radius = 1.24 * half[ridge[:, 1], ridge[:, 0]][:, None] + 5.0
    columns = np.rint(ridge[:, :1] + radius * np.cos(angles)).astype(int)
    rows = np.rint(ridge[:, 1:] + radius * np.sin(angles)).astype(int)
    inside = (columns >= 0) & (rows >= 0) & (columns < solid.shape[1]) & (rows < solid.shape[0])
    on = inside & (solid[rows.clip(0, solid.shape[0] - 1), columns.clip(0, solid.shape[1] - 1)] > 0)
    arms = (on & ~np.roll(on, 1, axis=1)).sum(axis=1)
    lean = np.hypot(on @ np.cos(angles), on @ np.sin(angles)) / np.maximum(on.sum(axis=1), 1)
    return np.asarray(ridge[(arms > 0) & ((arms != 2) | (lean > _OPPOSITE))])


def _settled(
    values: NDArray[Any], solid: NDArray[np.uint8], half: Floats, feature: Feature, ends: bool, border: tuple[bool, bool, bool, bool]
) -> Feature | None:  # fmt: skip
    """A feature looked at again from where it was found to be, until it stays there; None where it does not."""
    for _ in range(_MOST_LOOKS):
        again = _feature_at(values, solid, half, int(feature.x), int(feature.y), ends, border)
        if again is None or again.kind == "end":
            return None
        if math.hypot(again.x - feature.x, again.y - feature.y) < _STAYS:
            return again
        feature = again
    return None


def in_area(values: NDArray[Any], x: float, y: float, reach: float, half: float) -> bool:
    """Whether the ink nearest to a place is an area: more than twice `half` pixels wide, or a corner of what is."""
    solid, _, inside = _solid(values, x, y, reach)
    core = inside > half
    if not core.any():
        return False
    rows, columns = np.nonzero(solid)
    near = int(np.argmin((columns + 0.5 - x) ** 2 + (rows + 0.5 - y) ** 2))
    away = cv2.distanceTransform((~core).astype(np.uint8), cv2.DIST_L2, 5)
    return bool(away[rows[near], columns[near]] <= 1.5 * half + 1)


def _feature_at(
    values: NDArray[Any], solid: NDArray[np.uint8], half: Floats, column: int, row: int, ends: bool, border: tuple[bool, bool, bool, bool]
) -> Feature | None:  # fmt: skip
    """The feature as it is seen from a place; None where there is none."""
    if not (0 <= column < solid.shape[1] and 0 <= row < solid.shape[0]) or not solid[row, column]:
        return None
    width = 2.0 * float(half[row, column])
    radius, arms = _ring(solid, column, row, width)
    kind = _kind(arms, 2.6 * math.asin(min(1.0, (width / 2 + 1) / radius)))
    if not kind or (kind == "end" and not ends):
        return None
    return _measured(values, column + 0.5, row + 0.5, arms, radius, width, kind, border)


def _solid(values: NDArray[Any], x: float, y: float, reach: float) -> tuple[NDArray[np.uint8], NDArray[np.int64], Floats]:
    """What is line round a place, the (column, row) of its middles within reach, and half its width everywhere."""
    rows, columns = np.indices(values.shape)
    near = np.hypot(columns + 0.5 - x, rows + 0.5 - y) <= reach + 6
    peak = float(np.percentile(values[near], 99)) if near.any() else 0.0
    if peak < LEAST_CONTRAST:
        return np.zeros(values.shape, np.uint8), np.zeros((0, 2), dtype=np.int64), np.zeros(values.shape)
    soft = cv2.GaussianBlur(values, (0, 0), 0.7)
    solid = (soft > 0.5 * peak).astype(np.uint8)
    half = cv2.distanceTransform(solid, cv2.DIST_L2, 5)
    ridge = (half >= cv2.dilate(half, np.ones((3, 3), np.uint8)) - 0.3) & (solid > 0) & near
    found = np.argwhere(ridge)[:, ::-1]
    return solid, found, np.asarray(half, dtype=np.float64)


def _ring(solid: NDArray[np.uint8], column: int, row: int, width: float) -> tuple[float, list[tuple[float, float]]]:
    """Radius and arms of the ring that tells most: a small one where lines are short, a wider one where they lie close together."""
    near, far = 0.62 * width + 5.0, 1.2 * width + 5.0
    small, large = _arms(solid, column, row, near), _arms(solid, column, row, far)
    return (far, large) if len(small) <= len(large) <= 4 else (near, small)


def _arms(solid: NDArray[np.uint8], column: int, row: int, radius: float) -> list[tuple[float, float]]:
    """Angles at which lines that hang together with a place leave a ring round it, and how wide (radians) each is seen there."""
    size = math.ceil(radius) + 2
    top, left = row - size, column - size
    part = np.zeros((2 * size + 1, 2 * size + 1), np.uint8)
    r0, r1, c0, c1 = max(0, top), min(solid.shape[0], row + size + 1), max(0, left), min(solid.shape[1], column + size + 1)
    part[r0 - top : r1 - top, c0 - left : c1 - left] = solid[r0:r1, c0:c1]
    rows, columns = np.indices(part.shape)
    part[np.hypot(columns - size, rows - size) > radius + 1.2] = 0
    _, labels = cv2.connectedComponents(part, connectivity=8)
    own = labels == labels[size, size]
    angles = np.arange(_ANGLES) * 2 * math.pi / _ANGLES
    on = own[np.rint(size + radius * np.sin(angles)).astype(int), np.rint(size + radius * np.cos(angles)).astype(int)] & (part[size, size] > 0)
    if on.all() or not on.any():
        return []
    start = int(np.flatnonzero(~on)[0])
    rolled = np.roll(on, -start)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], rolled.view(np.int8), [0]])))
    step = 2 * math.pi / _ANGLES
    return [((start + (a + b - 1) / 2) * step % (2 * math.pi), (b - a) * step) for a, b in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True)]


def _kind(arms: Sequence[tuple[float, float]], widest: float) -> str:
    """What so many arms stand for, where none is seen wider (radians) than one line is."""
    if any(wide > widest for _, wide in arms):
        return ""
    if len(arms) == 1:
        return "end"
    if len(arms) == 2:
        return "" if abs(_turn(arms[0][0], arms[1][0] + math.pi)) <= _STRAIGHT_ON else "corner"
    return "crossing" if 3 <= len(arms) <= 4 else ""


def even_along(values: NDArray[Any], stroke: Stroke) -> bool:
    """Whether what is taken for a line is as wide some way along it, at least to one side: else it is part of an area."""
    here = _width_of(values, stroke, -1.0, 1.0)
    sides = [_width_of(values, stroke, sign * 0.6 * _SIDE, sign * _SIDE) for sign in (-1, 1)]
    return any(abs(side - here) <= 0.25 * here + 1.0 for side in sides) and abs(here - stroke.width) <= 0.35 * stroke.width + 1.5


def _turn(a: float, b: float) -> float:
    return (a - b + math.pi) % (2 * math.pi) - math.pi


def _measured(
    values: NDArray[Any], x: float, y: float, arms: Sequence[tuple[float, float]], radius: float, width: float, kind: str, border: tuple[bool, bool, bool, bool]
) -> Feature | None:  # fmt: skip
    lines = [_arm_line(values, x, y, angle, radius, width) for angle, _ in arms]
    if any(line is None for line in lines):
        return None
    real = [line for line in lines if line is not None]
    if any(not 0.6 * width - 1.5 <= line.width <= 1.7 * width + 1.5 for line in real):  # arms of an area, not of a line
        return None
    if kind == "end":
        return _end(values, x, y, arms[0][0], real[0], radius, width, border)
    pair = _two_lines(real, [_outward(line.angle, angle) for line, (angle, _) in zip(real, arms, strict=True)])
    if pair is None:
        return None
    first, second = pair
    at = crossing(first, second)
    if at is None or math.hypot(at[0] - x, at[1] - y) > 1.6 * radius:
        return None
    spread = met(first, second, _arm_spread(first.width), _arm_spread(second.width))
    return Feature(kind, at[0], at[1], max(first.width, second.width), (first.angle, second.angle), spread)


def _arm_line(values: NDArray[Any], x: float, y: float, angle: float, radius: float, width: float) -> Stroke | None:
    """An arm as a straight line, measured outside the ring."""
    stroke = Stroke(x + radius * math.cos(angle), y + radius * math.sin(angle), angle, width)
    measured: Stroke | None = None
    for begin, length, window in ((0.3, max(12.0, 1.5 * width), 0.9), (0.8, max(_LONG, 3.5 * width), 0.8)):
        found = line_through(values, stroke, np.linspace(begin * width, begin * width + length, 41), max(window * width, 2.5))
        if found is None:
            break
        if abs(_turn(found.angle, angle)) > math.radians(40):
            return None
        measured = stroke = Stroke(found.x, found.y, found.angle, _width_of(values, found, begin * width, begin * width + length))
    return measured


def _width_of(values: NDArray[Any], stroke: Stroke, begin: float, end: float) -> float:
    """Width at half height of a line's usual cut."""
    reach = max(1.5 * stroke.width, 4.0) + 2
    offsets = np.arange(-reach, reach + 0.01, 0.25)
    cut = np.median(cuts_across(values, stroke.x, stroke.y, stroke.angle, np.linspace(begin, end, 21), offsets), axis=0)
    above = cut > cut.max() / 2
    middle = len(offsets) // 2
    if not above[middle]:
        return stroke.width
    left, right = middle, middle
    while left > 0 and above[left - 1]:
        left -= 1
    while right < len(above) - 1 and above[right + 1]:
        right += 1
    return float((right - left + 1) * 0.25)


def _outward(angle: float, arm: float) -> float:
    """A line's direction as it leaves along an arm."""
    return angle if abs(_turn(angle, arm)) < math.pi / 2 else angle + math.pi


def _two_lines(lines: Sequence[Stroke], angles: Sequence[float]) -> tuple[Stroke, Stroke] | None:
    """The two lines that arms leaving at `angles` belong to: opposite ones are one line."""
    groups: list[list[int]] = []
    for k, angle in enumerate(angles):
        mate = next((group for group in groups if len(group) == 1 and abs(_turn(angle, angles[group[0]] + math.pi)) <= _STRAIGHT_ON), None)
        (groups.append([k]) if mate is None else mate.append(k))
    if len(groups) > 2:
        groups = sorted(groups, key=len, reverse=True)[:2]
    if len(groups) != 2:
        return None
    first, second = (lines[group[0]] if len(group) == 1 else _through(lines[group[0]], lines[group[1]]) for group in groups)
    return first, second


def _through(a: Stroke, b: Stroke) -> Stroke:
    """The line through the far parts of two opposite arms."""
    p, q = ((s.x + 0.5 * _LONG * math.cos(s.angle), s.y + 0.5 * _LONG * math.sin(s.angle)) for s in (a, b))
    return Stroke((p[0] + q[0]) / 2, (p[1] + q[1]) / 2, math.atan2(p[1] - q[1], p[0] - q[0]), (a.width + b.width) / 2)


def _end(
    values: NDArray[Any], x: float, y: float, angle: float, line: Stroke, radius: float, width: float, border: tuple[bool, bool, bool, bool]
) -> Feature | None:  # fmt: skip
    """Where the ink of a line's only arm stops: half-way between its own darkness and the paper's."""
    back = math.cos(line.angle - angle) > 0
    out = line.angle + (math.pi if back else 0.0)  # from the line's body towards its tip
    along = np.arange(-1.5 * radius - 4, radius + width + 4, _STEP)
    t = (x - line.x) * math.cos(out) + (y - line.y) * math.sin(out)
    foot = (line.x + t * math.cos(out), line.y + t * math.sin(out))
    half = max(0.35 * line.width, 0.5)
    ink = cuts_across(values, foot[0], foot[1], out, along, np.linspace(-half, half, 5)).mean(axis=1)
    body = float(np.median(ink[: max(4, round(radius / _STEP))]))
    paper = float(np.percentile(ink[-round(4 / _STEP) :], 30))
    level = (body + min(paper, 0.4 * body)) / 2
    after = np.flatnonzero(ink < level)
    after = after[after > round(radius / 2 / _STEP)]
    if body < LEAST_CONTRAST or not after.size or not after[0]:
        return None
    k = int(after[0])
    share = (ink[k - 1] - level) / max(ink[k - 1] - ink[k], 1e-9)
    far = along[k - 1] + share * _STEP
    tip = foot[0] + far * math.cos(out), foot[1] + far * math.sin(out)
    high, wide = values.shape
    margin = 2.5
    left, top, right, bottom = border
    outside = tip[0] < margin or tip[1] < margin or tip[0] > wide - margin or tip[1] > high - margin
    if outside:  # the line goes on beyond what is looked at, or beyond the picture
        return None
    spread = Spread.along_line(out, across_spread(line.width), math.hypot(_END_SPREAD, _WITHIN_WIDTH * line.width))
    return Feature("end", tip[0], tip[1], line.width, (out % math.pi,), spread)
