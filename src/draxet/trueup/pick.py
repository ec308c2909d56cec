"""Picks: a place on a picture locked to what is drawn beneath the pointer, finer than a pixel, and
how sure it is.

A pick near a free end, a corner or a crossing of lines is that place. Elsewhere it lies on the
middle of a line or, where there is no line, on the edge of an area: sure *across* it, and along it
only as sure as the click. A corner that is not drawn comes from two picks.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from dataclasses import replace
from typing import Any

import numpy as np

from draxet.geometry.arrays import NDArray
from draxet.geometry.covariance import Covariance
from draxet.progress import Progress, Unwatched
from draxet.record import record
from draxet.trueup.bent import arc_as_far_as_it_holds
from draxet.trueup.circles import Circle, circle_along
from draxet.trueup.feature_arms import even_along
from draxet.trueup.features import across_spread, feature_near, in_area, met
from draxet.trueup.measured_lines import (
    LEAST_CONTRAST,
    Stroke,
    away,
    crossing,
    direction_at,
    directions_near,
    edge_near,
    foot,
    line_through,
    slopes,
    stroke_near,
)

__all__ = [
    "FREE_SPREAD",
    "Pick",
    "centre_of",
    "corner_of",
    "free_pick",
    "lock_pick",
    "straightened",
]

FREE_SPREAD = 1.5
"""Standard deviation, in pixels, of a click where nothing better is known."""
_LEAST_BY_EYE = 0.25
_EDGE_SPREAD = 0.15
_EDGE_WINDOW = 3.0
_FEATURE_SHARE = 0.65
"""Ends, corners and crossings count within so much of the reach."""
_WIDEST = 0.9
"""A line wider than twice so much of the reach is an area: picks lock to its edge."""
_LINE_ALWAYS = 24.0
"""Pixels up to which a line is a line, however near it is looked at."""
_AROUND = 72
_ROUND_WITHIN = 24.0
"""Pixels from where the sides of a corner would meet within which its round lies."""
_AROUND_CIRCLES = (160, 480, 1400)
_LONG_ALONG = (40.0, 90.0, 180.0, 360.0)


@record(frozen=True)
class Pick:
    """A place in picture space, the drawn line's width there in pixels (0 where none), its
    direction(s) in radians, and the place's spread in pixels. `kind` : ``middle``, ``end``,
    ``corner``, ``crossing``, ``edge``, ``centre`` or ``free``."""

    x: float
    y: float
    width: float
    directions: tuple[float, ...]
    spread: Covariance
    on_edge: bool = False
    kind: str = "middle"

    @property
    def locked(self) -> bool:
        return bool(self.directions)


def free_pick(x: float, y: float, click: float = FREE_SPREAD) -> Pick:
    """A pick just where the pointer is; `click` : one standard deviation of a click, in pixels."""
    return Pick(x, y, 0.0, (), Covariance.round(max(click, _LEAST_BY_EYE)), kind="free")


def lock_pick(
    grey: NDArray[Any],
    x: float,
    y: float,
    reach: float = 12.0,
    *,
    edge: bool = False,
    click: float = FREE_SPREAD,
    report: Progress = Unwatched(),
) -> Pick:
    """The pick that a click at (x, y) means: a free end, corner or crossing nearby, else the
    nearest place on the middle of a drawn line, or on the edge of an area where there is no line or
    where `edge` asks for it; a free one where nothing is within `reach` pixels.

    Parameters
    ----------
    grey : (rows, columns) of uint8, dark lines on light paper.
    x, y : in picture space (pixel 0's centre at 0.5).
    click : one standard deviation of a click in the picture's pixels: about one pixel of the
    screen.
    report : asked every few milliseconds whether to go on; it may raise ``Cancelled``.
    """
    half = int(np.ceil(reach)) + _AROUND
    column, row = (int(np.floor(v)) if abs(v) < 1e9 else -(10**9) for v in (x, y))
    top, left = max(0, row - half), max(0, column - half)
    part = grey[top : max(row + half + 1, 0), left : max(column + half + 1, 0)].astype(np.float32)
    if min(part.shape, default=0) < 8:
        return free_pick(x, y, click)
    ink = np.clip(np.percentile(part, 80) - part, 0, None)
    if float(np.percentile(ink, 99.5)) < LEAST_CONTRAST:
        return free_pick(x, y, click)
    border = (
        left == 0,
        top == 0,
        left + part.shape[1] == grey.shape[1],
        top + part.shape[0] == grey.shape[0],
    )
    px, py = x - left, y - top
    found = None
    if not edge:
        found = _on_line(ink, px, py, reach, click, border, report)
    found = found or _on_edge(part, ink, px, py, reach, click, border, report)
    return replace(found, x=found.x + left, y=found.y + top) if found else free_pick(x, y, click)


def _on_line(
    ink: NDArray[Any],
    x: float,
    y: float,
    reach: float,
    click: float,
    border: tuple[bool, bool, bool, bool],
    report: Progress,
) -> Pick | None:
    report(0.0, "")
    widest = max(2 * _WIDEST * reach, _LINE_ALWAYS)
    if in_area(ink, x, y, reach, widest / 2):
        return None
    feature = feature_near(ink, x, y, _FEATURE_SHARE * reach, border=border, report=report)
    if feature and feature.width <= widest:
        return Pick(
            feature.x,
            feature.y,
            feature.width,
            feature.directions,
            feature.spread,
            kind=feature.kind,
        )
    first = _line_near(ink, x, y, reach, widest, report)
    if first is None:
        return None
    at, angle = foot(first, x, y), direction_at(first, x, y)
    across = math.hypot(across_spread(first.width), first.unsure)
    return Pick(
        *at, first.width, (angle,), Covariance.along_line(angle, across, max(click, _LEAST_BY_EYE))
    )


def _line_near(
    ink: NDArray[Any],
    x: float,
    y: float,
    reach: float,
    widest: float = math.inf,
    report: Progress = Unwatched(),
) -> Stroke | None:
    """The drawn line nearest to a place, straight or bent."""
    looked = max(
        reach, 0.6 * _LINE_ALWAYS
    )  # however near the picture is looked at, a click on a line's ink means the line
    strokes = [
        stroke
        for angle in _watched(directions_near(ink, x, y, looked), report)
        if (stroke := stroke_near(ink, x, y, angle, looked))
        and stroke.width <= widest
        and away(stroke, x, y) <= max(reach, stroke.width / 2)
    ]
    if not strokes:
        return None
    first = min(strokes, key=lambda s: (not even_along(ink, s), away(s, x, y)))
    return _as_bent(ink, first, max(0.8 * first.width, 2.5))


def _watched(values: Iterable[float], report: Progress) -> Iterator[float]:
    for value in values:
        report(0.0, "")
        yield value


def _as_bent(values: NDArray[Any], stroke: Stroke, window: float) -> Stroke:
    """A line as the arc that it runs along to both sides, where it is surely bent."""
    bent = arc_as_far_as_it_holds(values, stroke, window, both=True)
    return replace(bent.stroke, unsure=bent.unsure(0.0)) if bent and bent.is_bent else stroke


def _on_edge(
    part: NDArray[Any],
    ink: NDArray[Any],
    x: float,
    y: float,
    reach: float,
    click: float,
    border: tuple[bool, bool, bool, bool],
    report: Progress,
) -> Pick | None:
    """The pick on the brightness step nearest to (x, y), or on the corner of two; None where there
    is none."""
    steep = slopes(part) / 4  # as high as the step itself, for a step as sharp as scans have
    feature = feature_near(
        steep, x, y, _FEATURE_SHARE * reach, edges=True, border=border, report=report
    )
    if feature:
        return Pick(feature.x, feature.y, 0.0, feature.directions, feature.spread, True, "corner")
    found = [
        edge
        for angle in _watched(directions_near(ink, x, y, reach), report)
        if (edge := edge_near(part, x, y, angle, reach))
    ]
    if not found:
        return None
    report(0.0, "")
    nearest = min(found, key=lambda s: away(s, x, y))
    nearest = _as_bent(steep, nearest, _EDGE_WINDOW)
    at, angle = foot(nearest, x, y), direction_at(nearest, x, y)
    if math.hypot(at[0] - x, at[1] - y) > reach:
        return None
    return Pick(
        *at,
        0.0,
        (angle,),
        Covariance.along_line(
            angle, math.hypot(_EDGE_SPREAD, nearest.unsure), max(click, _LEAST_BY_EYE)
        ),
        True,
        "edge",
    )


def corner_of(first: Pick, second: Pick) -> Pick | None:
    """The corner in which the lines beneath two picks would meet, drawn or not; None where they
    hardly differ in direction."""
    if not (first.directions and second.directions):
        return None
    a, b = (Stroke(p.x, p.y, p.directions[0], p.width) for p in (first, second))
    at = crossing(a, b)
    if at is None:
        return None

    def across(pick: Pick, line: Stroke) -> float:
        """Of the line where the corner lies: the farther from the pick, the less sure."""
        far = math.hypot(at[0] - pick.x, at[1] - pick.y)
        return pick.spread.along(-math.sin(line.angle), math.cos(line.angle)) * (
            1.0 + far / _LONG_ALONG[1]
        )

    return Pick(
        *at, 0.0, (a.angle, b.angle), met(a, b, across(first, a), across(second, b)), True, "corner"
    )


def centre_of(grey: NDArray[Any], pick: Pick) -> Pick | None:
    """The centre of the circle, or of the round corner, on whose rim a pick lies; None where the
    line there is not surely bent."""
    if not pick.directions:
        return None
    found = None
    for half in _AROUND_CIRCLES:
        values, left, top = _round(grey, pick, half)
        found = _circle_at(values, pick, pick.x - left, pick.y - top)
        if found is None or 2 * found.radius + pick.width + 4 < half:
            break
    if found is None:
        return None
    as_drawn = Covariance.round(_EDGE_SPREAD if pick.on_edge else across_spread(pick.width))
    return Pick(
        found.x + left, found.y + top, 0.0, (), found.spread.plus(as_drawn), pick.on_edge, "centre"
    )


def _circle_at(values: NDArray[Any], pick: Pick, x: float, y: float) -> Circle | None:
    """The first circle on whose rim one of a pick's lines lies; of a corner also the tight round
    that it may be."""
    strokes = [Stroke(x, y, angle, pick.width) for angle in pick.directions]
    if pick.kind == "corner" and (round_it := _line_near(values, x, y, _ROUND_WITHIN)):
        strokes.append(round_it)
    for stroke in strokes:
        window = _EDGE_WINDOW if pick.on_edge else max(0.8 * pick.width, 2.5)
        if found := circle_along(values, stroke, window):
            return found
    return None


def _round(grey: NDArray[Any], pick: Pick, half: int) -> tuple[NDArray[Any], int, int]:
    """What lines and edges are measured on round a pick, and its first column and row."""
    column, row = int(np.floor(pick.x)), int(np.floor(pick.y))
    top, left = max(0, row - half), max(0, column - half)
    part = grey[top : row + half + 1, left : column + half + 1].astype(np.float32)
    return (
        slopes(part) / 4 if pick.on_edge else np.clip(np.percentile(part, 80) - part, 0, None),
        left,
        top,
    )


def straightened(grey: NDArray[Any], pick: Pick) -> Pick:
    """A pick on a line or edge with its direction measured along as much of it as runs straight:
    for a corner that lies farther out."""
    if not pick.directions:
        return pick
    values, left, top = _round(grey, pick, int(_LONG_ALONG[-1]) + 8)
    stroke = Stroke(pick.x - left, pick.y - top, pick.directions[0], pick.width)
    for reach in _LONG_ALONG:
        longer = line_through(values, stroke, np.linspace(-reach, reach, 81))
        if longer is None:
            break
        x, y = foot(longer, pick.x - left, pick.y - top)
        stroke = Stroke(x, y, longer.angle, stroke.width)
    return Pick(
        stroke.x + left,
        stroke.y + top,
        pick.width,
        (stroke.angle,),
        pick.spread,
        pick.on_edge,
        pick.kind,
    )
