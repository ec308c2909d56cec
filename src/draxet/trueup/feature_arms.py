"""The lines that lead away from a place, seen on rings round it and measured along each."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import Floats, NDArray
from draxet.trueup.bent import arc_as_far_as_it_holds
from draxet.trueup.measured_lines import LEAST_CONTRAST, Stroke, along_stroke, away, line_through

__all__ = [
    "STRAIGHT_ON",
    "Arm",
    "arm_line",
    "even_along",
    "rings_around",
    "short_arm",
    "solid_around",
    "turn_between",
    "two_lines",
    "width_of",
]

STRAIGHT_ON = math.radians(22)
"""Arms that differ by so much or less from opposite are one line going on."""
_ANGLES = 180

_LONG = 34.0

_SIDE = 14.0

Arm = Callable[[NDArray[Any], float, float, float, float, float], "Stroke | None"]

_OFF_ITS_RING = math.radians(40)
"""An arm leads away from its place within so much of where it leaves the ring."""

_AS_STRAIGHT = 0.1
"""Pixels by which an arc must lead elsewhere than a straight line to be taken."""


def solid_around(
    values: NDArray[Any], x: float, y: float, reach: float
) -> tuple[NDArray[np.uint8], NDArray[np.int64], Floats]:
    """What is line round a place, the (column, row) of its middles within reach, and half its width
    everywhere."""
    rows, columns = np.indices(values.shape)
    near = np.hypot(columns + 0.5 - x, rows + 0.5 - y) <= reach + 6
    peak = float(np.percentile(values[near], 99)) if near.any() else 0.0
    if peak < LEAST_CONTRAST:
        return (
            np.zeros(values.shape, np.uint8),
            np.zeros((0, 2), dtype=np.int64),
            np.zeros(values.shape),
        )
    soft = cv2.GaussianBlur(values, (0, 0), 0.7)
    solid = (soft > 0.5 * peak).astype(np.uint8)
    half = cv2.distanceTransform(solid, cv2.DIST_L2, 5)
    ridge = (half >= cv2.dilate(half, np.ones((3, 3), np.uint8)) - 0.3) & (solid > 0) & near
    found = np.argwhere(ridge)[:, ::-1]
    return solid, found, np.asarray(half, dtype=np.float64)


def rings_around(
    solid: NDArray[np.uint8], column: int, row: int, width: float
) -> list[tuple[float, list[tuple[float, float]]]]:
    """Radius and arms of the ring that tells most, a small one where lines are short, a wider one
    where they lie close together; and where both tell the same, of the smaller one too, beyond
    which there is more of lines that are short."""
    near, far = 0.62 * width + 5.0, 1.2 * width + 5.0
    small, large = _arms(solid, column, row, near), _arms(solid, column, row, far)
    if not len(small) <= len(large) <= 4:
        return [(near, small)]
    return [(far, large), (near, small)] if len(small) == len(large) > 2 else [(far, large)]


def _arms(
    solid: NDArray[np.uint8], column: int, row: int, radius: float
) -> list[tuple[float, float]]:
    """Angles at which lines that hang together with a place leave a ring round it, and how wide
    (radians) each is seen there."""
    size = math.ceil(radius) + 2
    top, left = row - size, column - size
    part = np.zeros((2 * size + 1, 2 * size + 1), np.uint8)
    r0, r1, c0, c1 = (
        max(0, top),
        min(solid.shape[0], row + size + 1),
        max(0, left),
        min(solid.shape[1], column + size + 1),
    )
    part[r0 - top : r1 - top, c0 - left : c1 - left] = solid[r0:r1, c0:c1]
    rows, columns = np.indices(part.shape)
    part[np.hypot(columns - size, rows - size) > radius + 1.2] = 0
    _, labels = cv2.connectedComponents(part, connectivity=8)
    own = labels == labels[size, size]
    angles = np.arange(_ANGLES) * 2 * math.pi / _ANGLES
    on = own[
        np.rint(size + radius * np.sin(angles)).astype(int),
        np.rint(size + radius * np.cos(angles)).astype(int),
    ] & (part[size, size] > 0)
    if on.all() or not on.any():
        return []
    start = int(np.flatnonzero(~on)[0])
    rolled = np.roll(on, -start)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], rolled.view(np.int8), [0]])))
    step = 2 * math.pi / _ANGLES
    return [
        ((start + (a + b - 1) / 2) * step % (2 * math.pi), (b - a) * step)
        for a, b in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True)
    ]


def even_along(values: NDArray[Any], stroke: Stroke) -> bool:
    """Whether what is taken for a line is as wide some way along it, at least to one side: else it
    is part of an area."""
    here = width_of(values, stroke, -1.0, 1.0)
    sides = [width_of(values, stroke, sign * 0.6 * _SIDE, sign * _SIDE) for sign in (-1, 1)]
    return (
        any(abs(side - here) <= 0.25 * here + 1.0 for side in sides)
        and abs(here - stroke.width) <= 0.35 * stroke.width + 1.5
    )


def turn_between(a: float, b: float) -> float:
    return (a - b + math.pi) % (2 * math.pi) - math.pi


def arm_line(
    values: NDArray[Any], x: float, y: float, angle: float, radius: float, width: float
) -> Stroke | None:
    """An arm as a straight line, or as an arc where it is none, measured outside the ring; its
    place lies about where it leaves that."""
    stroke = Stroke(x + radius * math.cos(angle), y + radius * math.sin(angle), angle, width)
    straight = _straight_arm(values, stroke, width)
    bent = arc_as_far_as_it_holds(values, stroke, max(0.8 * width, 2.5), begin=0.6 * width)
    if (
        bent is None
        or abs(turn_between(bent.stroke.angle, angle)) > _OFF_ITS_RING
        or (straight and not bent.is_bent)
    ):
        return straight
    arc = replace(bent.stroke, unsure=bent.unsure(-radius))
    back = arc.moved(-radius)
    if straight and away(straight, back.x, back.y) < _AS_STRAIGHT:
        return straight
    return replace(arc, width=width_of(values, arc, 0.6 * width, 0.6 * width + _LONG))


def _straight_arm(values: NDArray[Any], stroke: Stroke, width: float) -> Stroke | None:
    near = _looked_along(values, stroke, width, 0.3, max(12.0, 1.5 * width), 0.9)
    if near is None or abs(turn_between(near.angle, stroke.angle)) > _OFF_ITS_RING:
        return None
    far = _looked_along(values, near, width, 0.8, max(_LONG, 3.5 * width), 0.8)
    if far is None:
        return near
    return far if abs(turn_between(far.angle, stroke.angle)) <= _OFF_ITS_RING else None


def short_arm(
    values: NDArray[Any], x: float, y: float, angle: float, radius: float, width: float
) -> Stroke | None:
    """An arm as a short straight line just outside the ring."""
    found = _looked_along(
        values,
        Stroke(x + radius * math.cos(angle), y + radius * math.sin(angle), angle, width),
        width,
        0.3,
        max(12.0, 1.5 * width),
        0.9,
    )
    return found if found and abs(turn_between(found.angle, angle)) <= _OFF_ITS_RING else None


def _looked_along(
    values: NDArray[Any], stroke: Stroke, width: float, begin: float, length: float, window: float
) -> Stroke | None:
    """The straight line through the middles of cuts from `begin` widths on, with its own width."""
    found = line_through(
        values,
        stroke,
        np.linspace(begin * width, begin * width + length, 41),
        max(window * width, 2.5),
    )
    return (
        Stroke(
            found.x,
            found.y,
            found.angle,
            width_of(values, found, begin * width, begin * width + length),
        )
        if found
        else None
    )


def width_of(values: NDArray[Any], stroke: Stroke, begin: float, end: float) -> float:
    """Width at half height of a line's usual cut."""
    reach = max(1.5 * stroke.width, 4.0) + 2
    offsets = np.arange(-reach, reach + 0.01, 0.25)
    cut = np.median(along_stroke(values, stroke, np.linspace(begin, end, 21), offsets), axis=0)
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


def two_lines(
    values: NDArray[Any], arms: Sequence[Stroke], radius: float
) -> tuple[Stroke, Stroke] | None:
    """The two lines that arms belong to, each as it leaves: opposite ones are one line."""
    angles = [arm.angle - arm.bend * radius for arm in arms]
    groups: list[list[int]] = []
    for k, angle in enumerate(angles):
        mate = next(
            (
                group
                for group in groups
                if len(group) == 1
                and abs(turn_between(angle, angles[group[0]] + math.pi)) <= STRAIGHT_ON
            ),
            None,
        )
        (groups.append([k]) if mate is None else mate.append(k))
    if len(groups) > 2:
        groups = sorted(groups, key=len, reverse=True)[:2]
    if len(groups) != 2:
        return None
    first, second = (
        arms[group[0]]
        if len(group) == 1
        else _through(values, arms[group[0]], arms[group[1]], radius)
        for group in groups
    )
    return first, second


def _through(values: NDArray[Any], a: Stroke, b: Stroke, radius: float) -> Stroke:
    """The line through the far parts of two opposite arms, or the arc through both where they are
    bent."""
    width = (a.width + b.width) / 2
    if a.bend or b.bend:
        inner_a, inner_b = a.moved(-radius), b.moved(-radius)
        middle = Stroke(
            (inner_a.x + inner_b.x) / 2,
            (inner_a.y + inner_b.y) / 2,
            inner_b.angle + turn_between(inner_a.angle, inner_b.angle + math.pi) / 2 + math.pi,
            width,
            (a.bend - b.bend) / 2,
        )
        bent = arc_as_far_as_it_holds(
            values, middle, max(0.8 * width, 2.5), begin=radius + 0.6 * width, both=True
        )
        if bent:
            return replace(bent.stroke, unsure=bent.unsure(0.0))
    p, q = (s.moved(0.5 * _LONG) for s in (a, b))
    return Stroke((p.x + q.x) / 2, (p.y + q.y) / 2, math.atan2(p.y - q.y, p.x - q.x), width)
