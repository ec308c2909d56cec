"""Four-sided outlines in a photo that may be rectangles seen at an angle: of regions, of edges, of
long straight lines."""

from __future__ import annotations

import math
from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import Floats, NDArray, Points
from draxet.trueup.brightness_steps import BESIDE, convex_inside, least_step, sample

__all__ = ["long_lines", "outlines_of_lines", "outlines_of_regions", "outlines_of_three_sides"]

_MOST_LINES, _AT_ONCE, _MOST_RUNS = 80, 200_000, 400
_MOST_THREE_SIDED, _FOCAL_SHARES = 600, (0.75, 1.1, 1.6, 3.0)
"""Of outlines of three sides so many are led on, as cameras of these focal lengths (shares of the
picture's longer side) would see them."""
_WAYS, _MOST_ONE_WAY = 12, 18
"""Of lines that run within a twelfth of half a turn so many are taken at the most."""
_SCALES = ((1.5, 20.0, 60.0), (3.0, 14.0, 36.0), (5.0, 10.0, 25.0))
"""Of a blur in working pixels, and what is an edge after it."""
_PARALLEL, _ACROSS, _SAME_WAY = math.radians(32), math.radians(38), math.radians(1.5)
_FEW = 12
"""Places along each side at which the step is taken roughly."""


def outlines_of_regions(small: NDArray[Any]) -> list[Points]:
    """Convex four-sided outlines of light or dark regions and of edges, at several levels."""
    soft = cv2.GaussianBlur(small, (0, 0), 1.5)
    otsu = cv2.threshold(soft, 0, 255, cv2.THRESH_BINARY + cv2.THRESH_OTSU)[0]
    masks = [
        (soft > level).astype(np.uint8)
        for level in {otsu, *np.percentile(soft, [30, 60, 75, 85, 92, 97])}
    ]
    masks += [1 - mask for mask in masks]
    masks.append(cv2.dilate(cv2.Canny(soft, 30, 90), np.ones((3, 3), np.uint8)))
    quads = []
    for mask in masks:
        for chain in cv2.findContours(mask, cv2.RETR_LIST, cv2.CHAIN_APPROX_SIMPLE)[0]:
            area = cv2.contourArea(chain)
            if not 0.004 * small.size < area < 0.9 * small.size:
                continue
            hull = cv2.convexHull(chain)
            if area < 0.9 * cv2.contourArea(hull):
                continue
            for share in (0.015, 0.03, 0.05):
                corners = cv2.approxPolyDP(hull, share * cv2.arcLength(hull, True), True)
                if len(corners) == 4:
                    if cv2.contourArea(corners) > 0.93 * area:
                        quads.append(corners.reshape(4, 2).astype(np.float64))
                    break
    return quads


def outlines_of_lines(small: NDArray[Any], lines: Floats) -> Points:
    """Four-sided outlines (n, 4, 2) from long straight lines: two that run much the same way, and
    two across them. What is printed on a card may cut its outline to pieces, but not its sides."""
    if len(lines) < 4:
        return np.zeros((0, 4, 2))
    turns = np.abs((lines[:, 2][:, None] - lines[:, 2][None] + np.pi / 2) % np.pi - np.pi / 2)
    meets = _crosses(lines)
    one, other = np.nonzero(np.triu(turns < _PARALLEL, 1))
    across = turns > _ACROSS
    m, n = np.nonzero(np.triu(across[one][:, one] & across[other][:, other], 1))
    found = [np.zeros((0, 4, 2))]
    for first in range(0, len(m), _AT_ONCE):
        pairs = (v[first : first + _AT_ONCE] for v in (m, n))
        i, j, k, l = (lines_of[some] for some in pairs for lines_of in (one, other))
        quads = np.stack([meets[i, k], meets[k, j], meets[j, l], meets[l, i]], axis=1)
        found.append(convex_inside(quads, small))
    return np.concatenate(found)


def outlines_of_three_sides(
    small: NDArray[Any], lines: Floats, real: tuple[float, float]
) -> Points:
    """Four-sided outlines (n, 4, 2) of which three sides were found: two lines that run much the
    same way and one across them. Where the fourth lies follows from the sides that are looked for
    and how far away the picture is seen from: the two meet in the vanishing point of one direction,
    and that of the other, square to it, lies on the one across."""
    if len(lines) < 3:
        return np.zeros((0, 4, 2))
    turns = np.abs((lines[:, 2][:, None] - lines[:, 2][None] + np.pi / 2) % np.pi - np.pi / 2)
    meets = _crosses(lines)
    one, other = np.nonzero(np.triu(turns < _PARALLEL, 1))
    pair, across = np.nonzero((turns[one] > _ACROSS) & (turns[other] > _ACROSS))
    i, j = one[pair], other[pair]
    a, b = meets[i, across], meets[j, across]
    long = np.hypot(*(b - a).T)
    size = float(max(small.shape))
    steps = _steps_along(small, a, b)
    good = np.flatnonzero((long > 0.05 * size) & (long < 0.7 * size) & (steps > 0.6))
    good = good[np.argsort(steps[good])[::-1][:_MOST_THREE_SIDED]]
    three = np.column_stack([i, j, across])[good]
    middle = np.array([small.shape[1], small.shape[0]]) / 2
    wanted = max(real) / min(real)
    quads = [
        _fourth_side(a[good], b[good], lines, three, focal * size, middle, ratio)
        for focal in _FOCAL_SHARES
        for ratio in (wanted, -wanted, 1 / wanted, -1 / wanted)
    ]
    return convex_inside(np.concatenate(quads), small)


def _fourth_side(
    a: Points,
    b: Points,
    lines: Floats,
    three: NDArray[np.int64],
    focal: float,
    middle: Floats,
    ratio: float,
) -> Points:
    """Outlines (n, 4, 2) on sides from `a` to `b`, seen by a camera of a focal length (pixels) about
    the picture's middle: numbers of the two lines that lead on from there, and of the one across
    (n, 3), and how long those are against it, under 0 to its other side."""

    def ray(places: Points) -> Floats:
        return np.column_stack([(places - middle) / focal, np.ones(len(places))])

    ways = np.column_stack([np.cos(lines[:, 2]), np.sin(lines[:, 2]), np.zeros(len(lines))])
    planes = np.cross(ray(lines[:, :2]), ways)
    first, second, across = (planes[column] for column in three.T)
    along = np.cross(first, second)
    along /= np.maximum(np.linalg.norm(along, axis=1), 1e-12)[:, None]
    normal = np.cross(along, np.cross(across, along))
    with np.errstate(divide="ignore", invalid="ignore"):
        near = [ray(places) for places in (a, b)]
        start, stop = (each / (each * normal).sum(axis=1)[:, None] for each in near)
        reach = ratio * np.linalg.norm(stop - start, axis=1)[:, None] * along
        far = stop + reach, start + reach
        seen = [each[:, :2] / each[:, 2:] * focal + middle for each in far]
        before = np.all([each[:, 2] * start[:, 2] > 0 for each in far], axis=0)
    quads = np.stack([a, b, *seen], axis=1)
    return np.asarray(quads[before & np.isfinite(quads).all(axis=(1, 2))])


def _steps_along(small: NDArray[Any], a: Points, b: Points) -> Floats:
    """The share of places between two places (n, 2) each at which brightness steps across the line
    between them; 0 where one is none."""
    known = np.isfinite(a).all(axis=1) & np.isfinite(b).all(axis=1)
    found = np.zeros(len(a))
    begin, side = a[known], (b - a)[known]
    normal = (
        np.column_stack([-side[:, 1], side[:, 0]]) / np.maximum(np.hypot(*side.T), 1e-9)[:, None]
    )
    at = begin[:, None] + np.linspace(0.08, 0.92, _FEW)[:, None] * side[:, None]
    inner, outer = (
        np.mean([sample(small, at + way * far * normal[:, None]) for far in BESIDE], axis=0)
        for way in (1.0, -1.0)
    )
    found[known] = (np.abs(inner - outer) > least_step(small)).mean(axis=1)
    return found


def long_lines(small: NDArray[Any]) -> Floats:
    """The longest straight lines (n, 3) of a picture as a place x, y and a direction: runs of edge
    pixels that go on as one, fine ones and such as stay where grain is smoothed away; only so many
    that run the same way, as grain does."""
    lines: list[tuple[float, float, float]] = []
    weights: list[float] = []
    for blur, low, high in _SCALES:
        soft = cv2.GaussianBlur(small, (0, 0), blur)
        found = cv2.HoughLinesP(
            cv2.Canny(soft, low, high),
            1,
            np.pi / 360,
            30,
            minLineLength=0.022 * max(small.shape),
            maxLineGap=5,
        )
        if found is None:
            continue
        runs = found.reshape(-1, 4).astype(np.float64)
        sizes = np.hypot(runs[:, 2] - runs[:, 0], runs[:, 3] - runs[:, 1])
        for k in np.argsort(sizes)[::-1][:_MOST_RUNS].tolist():
            x, y = (runs[k, 0] + runs[k, 2]) / 2, (runs[k, 1] + runs[k, 3]) / 2
            angle = float(np.arctan2(runs[k, 3] - runs[k, 1], runs[k, 2] - runs[k, 0]))
            same = next((m for m, line in enumerate(lines) if _goes_on(line, x, y, angle)), None)
            if same is None:
                lines.append((x, y, angle))
                weights.append(float(sizes[k]) * blur)
            else:
                weights[same] += float(sizes[k]) * blur
    ways = np.zeros(_WAYS, dtype=int)
    chosen = []
    for k in np.argsort(weights)[::-1].tolist():
        way = int((lines[k][2] % np.pi) / np.pi * _WAYS) % _WAYS
        if ways[way] < _MOST_ONE_WAY:
            ways[way] += 1
            chosen.append(lines[k])
        if len(chosen) == _MOST_LINES:
            break
    return np.array(chosen).reshape(-1, 3)


def _goes_on(line: tuple[float, float, float], x: float, y: float, angle: float) -> bool:
    turn = abs((angle - line[2] + np.pi / 2) % np.pi - np.pi / 2)
    off = abs(-(x - line[0]) * np.sin(line[2]) + (y - line[1]) * np.cos(line[2]))
    return bool(turn < _SAME_WAY and off < 3.0)


def _crosses(lines: Floats) -> Points:
    """Where lines cross each other (n, n, 2); NaN where they hardly differ in direction."""
    x, y, angle = lines.T
    turn = np.sin(angle[None] - angle[:, None])
    with np.errstate(divide="ignore", invalid="ignore"):
        t = (
            (x[None] - x[:, None]) * np.sin(angle)[None]
            - (y[None] - y[:, None]) * np.cos(angle)[None]
        ) / turn
        t = np.where(np.abs(turn) < 0.2, np.nan, t)
        return np.stack(
            [x[:, None] + t * np.cos(angle)[:, None], y[:, None] + t * np.sin(angle)[:, None]],
            axis=-1,
        )
