"""Features of drawn lines: free ends, corners (where two lines meet and end) and crossings, found
near a click and measured.

A small ring laid round a place of the ink shows how many *arms* leave it: one at an end, two at a
corner (not opposite each other), three or four where lines cross. Arms are then measured as
straight lines away from the feature, where no other ink disturbs them, or as arcs where they are
bent; a corner is where two of them meet, an end where the ink of the only one stops.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import Floats, NDArray
from draxet.geometry.covariance import Covariance
from draxet.progress import Progress, Unwatched
from draxet.record import record
from draxet.trueup.feature_arms import (
    STRAIGHT_ON,
    Arm,
    arm_line,
    rings_around,
    short_arm,
    solid_around,
    turn_between,
    two_lines,
    width_of,
)
from draxet.trueup.measured_lines import (
    LEAST_CONTRAST,
    Stroke,
    along_stroke,
    crossed_near,
    direction_at,
)

__all__ = ["Feature", "across_spread", "feature_near", "in_area", "met"]

_WITHIN_WIDTH = 0.1
"""A drawn line's middle, or its end, lies within so much of its width (one standard deviation) of
what its maker meant."""

_LEAST_SPREAD = 0.1

_END_SPREAD, _DRAWN_OUT, _EDGE_DRAWN_OUT = 0.2, 0.25, 0.18


_MOST_TRIES, _MOST_LOOKS = 4, 3

_STAYS = 0.6

_ROUGHLY = 3.0
"""Pixels by which a feature may lie elsewhere than where it was roughly seen."""

_STRAY = 4

_SPLAYS, _BLUNT = 1.1, 2.0
"""What widens by so much along it ends in a sharp corner, which lies within so many widths (one
standard deviation) of where its ink ends."""

_OPPOSITE = 0.15

_STEP = 0.25


@record(frozen=True)
class Feature:
    """What was found: ``end``, ``corner`` or ``crossing``, its place and spread in pixels, the
    width of its line, and the directions of its lines."""

    kind: str
    x: float
    y: float
    width: float
    directions: tuple[float, ...]
    spread: Covariance


def across_spread(width: float) -> float:
    """One standard deviation of a line's middle, across it."""
    return math.hypot(_LEAST_SPREAD, _WITHIN_WIDTH * width)


def met(first: Stroke, second: Stroke, first_across: float, second_across: float) -> Covariance:
    """The spread of the place where two lines meet, from their own across them."""
    normals = np.array([(-math.sin(s.angle), math.cos(s.angle)) for s in (first, second)])
    back = np.linalg.inv(normals)
    covariance = back @ np.diag([first_across**2, second_across**2]) @ back.T
    return Covariance(float(covariance[0, 0]), float(covariance[0, 1]), float(covariance[1, 1]))


def feature_near(
    values: NDArray[Any],
    x: float,
    y: float,
    reach: float,
    *,
    edges: bool = False,
    border: tuple[bool, bool, bool, bool] = (False,) * 4,
    report: Progress = Unwatched(),
) -> Feature | None:
    """The feature nearest to (x, y) within `reach` pixels; None where there is none. Cancelled
    where `report` says so.

    Parameters
    ----------
    values : (rows, columns) float32, high on lines. edges : whether lines are edges of areas, which
    have corners only and no width.
    border : which sides (left, top, right, bottom) of `values` are the picture's own.
    """
    solid, ridge, half = solid_around(values, x, y, reach)
    if not len(ridge):
        return None
    ridge = _worth_a_look(solid, ridge, half)
    looked = _Looked(values, solid, half, edges, border, report)
    order = np.argsort(np.hypot(ridge[:, 0] + 0.5 - x, ridge[:, 1] + 0.5 - y))
    found: list[tuple[Feature, tuple[int, int]]] = []
    tried: list[tuple[float, float]] = []
    for column, row in ridge[order].tolist():
        if any(
            math.hypot(column - a, row - b) < 2.5 + 0.6 * float(half[row, column]) for a, b in tried
        ):
            continue
        feature = looked.roughly(column, row)
        if feature is None:
            continue
        tried.append((column, row))
        led_on = math.hypot(feature.x - column, feature.y - row)
        if math.hypot(feature.x - x, feature.y - y) <= reach + max(_ROUGHLY, led_on) and all(
            _apart(feature, other) > _ROUGHLY for other, _ in found
        ):
            found.append((feature, (column, row)))
            tried.append((feature.x, feature.y))
        if len(tried) >= _MOST_TRIES + len(found):
            break
    for _, place in sorted(found, key=lambda f: math.hypot(f[0].x - x, f[0].y - y)):
        feature = looked.well(*place)
        if feature and math.hypot(feature.x - x, feature.y - y) <= reach:
            return feature
    found = [f for f in found if math.hypot(f[0].x - x, f[0].y - y) <= reach + _ROUGHLY]
    if not found:
        return None
    rough, place = min(
        found, key=lambda f: math.hypot(f[0].x - x, f[0].y - y)
    )  # something is there, but it cannot be measured
    return replace(
        rough,
        spread=Covariance.round(
            _ROUGHLY + 0.75 * math.hypot(rough.x - place[0], rough.y - place[1])
        ),
    )


def _apart(a: Feature, b: Feature) -> float:
    return math.hypot(a.x - b.x, a.y - b.y)


def _worth_a_look(
    solid: NDArray[np.uint8], ridge: NDArray[np.int64], half: Floats
) -> NDArray[np.int64]:
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


def in_area(values: NDArray[Any], x: float, y: float, reach: float, half: float) -> bool:
    """Whether the ink nearest to a place is an area: more than twice `half` pixels wide, or a
    corner of what is."""
    solid, _, inside = solid_around(values, x, y, reach)
    core = inside > half
    if not core.any():
        return False
    rows, columns = np.nonzero(solid)
    near = int(np.argmin((columns + 0.5 - x) ** 2 + (rows + 0.5 - y) ** 2))
    away = cv2.distanceTransform((~core).astype(np.uint8), cv2.DIST_L2, 5)
    return bool(away[rows[near], columns[near]] <= 1.5 * half + 1)


class _Looked:
    """The surroundings of one click, looked at from place to place: roughly while features are
    searched, well where one was seen."""

    def __init__(
        self,
        values: NDArray[Any],
        solid: NDArray[np.uint8],
        half: Floats,
        edges: bool,
        border: tuple[bool, bool, bool, bool],
        report: Progress,
    ) -> None:
        self._values, self._solid, self._half, self._edges, self._border = (
            values,
            solid,
            half,
            edges,
            border,
        )
        self._report = report

    def roughly(self, column: int, row: int) -> Feature | None:
        """The feature as it is seen from a place, its arms taken as short straight lines; None
        where there is none."""
        return self._seen_from(column, row, short_arm)

    def well(self, column: int, row: int) -> Feature | None:
        """The feature seen from a place, measured as well as can be, and looked at again from where
        it lies until it stays there; where it does not, as unsure as it moved last; None where
        there is none."""
        feature: Feature | None = None
        moved = math.inf
        for _ in range(_MOST_LOOKS + 1):
            again = self._seen_from(column, row, arm_line)
            if again is None or again.kind == "end":
                break
            moved = _apart(again, feature) if feature else math.inf
            feature = (
                replace(again, x=(again.x + feature.x) / 2, y=(again.y + feature.y) / 2)
                if feature and moved < _ROUGHLY
                else again
            )
            place = int(again.x), int(again.y)
            if moved < _STAYS or place == (column, row):
                return again
            column, row = place
        else:
            again = None
        if feature is None:
            return again
        return (
            replace(feature, spread=feature.spread.plus(Covariance.round(moved)))
            if moved < _ROUGHLY
            else None
        )

    def _on_ink(self, column: int, row: int) -> tuple[int, int]:
        """The place of the ink nearest to a place; -1, -1 where there is none near."""
        high, wide = self._solid.shape
        if 0 <= column < wide and 0 <= row < high and self._solid[row, column]:
            return column, row
        top, left = max(row - _STRAY, 0), max(column - _STRAY, 0)
        rows, columns = np.nonzero(
            self._solid[top : max(row + _STRAY + 1, 0), left : max(column + _STRAY + 1, 0)]
        )
        if not rows.size:
            return -1, -1
        k = int(np.argmin((rows + top - row) ** 2 + (columns + left - column) ** 2))
        return int(columns[k]) + left, int(rows[k]) + top

    def _seen_from(self, column: int, row: int, arm: Arm) -> Feature | None:
        column, row = self._on_ink(column, row)
        if column < 0:
            return None
        solid = self._solid
        width = 2.0 * float(self._half[row, column])
        for radius, arms in rings_around(solid, column, row, width):
            kind = _kind(arms, 2.6 * math.asin(min(1.0, (width / 2 + 1) / radius)))
            if not kind or (kind == "end" and self._edges):
                return None
            lines = []
            for angle, _ in arms:
                self._report(0.0, "")
                lines.append(arm(self._values, column + 0.5, row + 0.5, angle, radius, width))
            if found := self._measured(column + 0.5, row + 0.5, arms, lines, radius, width, kind):
                return found
        return None

    def _across(self, arm: Stroke) -> float:
        """One standard deviation across an arm, drawn out to where it meets another one."""
        return (
            math.hypot(_EDGE_DRAWN_OUT, arm.unsure)
            if self._edges
            else math.hypot(_DRAWN_OUT, _WITHIN_WIDTH * arm.width, arm.unsure)
        )

    def _measured(
        self,
        x: float,
        y: float,
        arms: Sequence[tuple[float, float]],
        lines: Sequence[Stroke | None],
        radius: float,
        width: float,
        kind: str,
    ) -> Feature | None:
        if any(line is None for line in lines):
            return None
        real = [line for line in lines if line is not None]
        if any(
            not 0.6 * width - 1.5 <= line.width <= 1.7 * width + 1.5 for line in real
        ):  # arms of an area, not of a line
            return None
        if kind == "end":
            return _end(self._values, x, y, arms[0][0], real[0], radius, width, self._border)
        outward = [
            line if abs(turn_between(line.angle, angle)) < math.pi / 2 else line.turned()
            for line, (angle, _) in zip(real, arms, strict=True)
        ]
        pair = two_lines(self._values, outward, radius)
        if pair is None:
            return None
        first, second = pair
        at = crossed_near(first, second, x, y)
        if at is None or math.hypot(at[0] - x, at[1] - y) > 1.6 * radius:
            return None
        tangents = [Stroke(*at, direction_at(line, *at), line.width) for line in pair]
        spread = met(tangents[0], tangents[1], self._across(first), self._across(second))
        return Feature(
            kind,
            at[0],
            at[1],
            max(first.width, second.width),
            (tangents[0].angle, tangents[1].angle),
            spread,
        )


def _kind(arms: Sequence[tuple[float, float]], widest: float) -> str:
    """What so many arms stand for, where none is seen wider (radians) than one line is."""
    if any(wide > widest for _, wide in arms):
        return ""
    if len(arms) == 1:
        return "end"
    if len(arms) == 2:
        return (
            "" if abs(turn_between(arms[0][0], arms[1][0] + math.pi)) <= STRAIGHT_ON else "corner"
        )
    return "crossing" if 3 <= len(arms) <= 4 else ""


def _end(
    values: NDArray[Any],
    x: float,
    y: float,
    angle: float,
    line: Stroke,
    radius: float,
    width: float,
    border: tuple[bool, bool, bool, bool],
) -> Feature | None:
    """Where the ink of a line's only arm stops: half-way between its own darkness and the
    paper's."""
    out = (
        line.turned() if math.cos(line.angle - angle) > 0 else line
    )  # from the line's body towards its tip
    t = (x - out.x) * math.cos(out.angle) + (y - out.y) * math.sin(out.angle)
    along = np.arange(-1.5 * radius - 4, radius + width + 4, _STEP) + t
    half = max(0.35 * line.width, 0.5)
    ink = along_stroke(values, out, along, np.linspace(-half, half, 5)).mean(axis=1)
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
    tip = out.moved(far)
    high, wide = values.shape
    margin = 2.5
    left, top, right, bottom = border
    outside = tip.x < margin or tip.y < margin or tip.x > wide - margin or tip.y > high - margin
    if outside:  # the line goes on beyond what is looked at, or beyond the picture
        return None
    ends = math.hypot(_END_SPREAD, _WITHIN_WIDTH * line.width)
    near, further = (
        width_of(values, out.turned(), back - t, back + line.width - t)
        for back in (0.5 * line.width, 3.0 * line.width)
    )
    if (
        further > _SPLAYS * near + 0.5
    ):  # two lines that meet at a sharp angle: where, cannot be had from what they look like
        ends = _BLUNT * line.width
    spread = Covariance.along_line(
        tip.angle, math.hypot(across_spread(line.width), line.unsure), ends
    )
    return Feature("end", tip.x, tip.y, line.width, (tip.angle % math.pi,), spread)
