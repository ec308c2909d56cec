"""Four-sided outlines of what is smooth on a ground with grain: a printed card on wood or cloth.
Its own print steps as the ground does, so that no level parts them, but the grain ends at its
sides."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import Floats, NDArray, Points
from draxet.progress import Progress, Unwatched
from draxet.trueup.brightness_steps import convex_inside, in_turn, least_step, steps_across

__all__ = ["outlines_about", "outlines_of_patches"]

_FINE, _COARSE = 0.8, 2.2
"""Blurs between which grain is looked for, in pixels."""
_WIDE, _LEVELS = (2.5, 4.0, 6.0), 8
"""Blurs over which it is averaged, and so many levels of it are tried."""
_SAME_PX, _MOST_PATCHES = 4.0, 16
_INWARD, _OUTWARD, _SWING = 6, 26, 16
"""Pixels about a side of a patch within which the card's own is looked for, and by how much its
ends may differ."""
_CALM = 21
"""Pixels of calm within print that are bridged."""
_PLACES, _MOST_SIDES, _APART, _STRONG = 40, 4, 4.0, 60.0


def outlines_of_patches(small: NDArray[Any], report: Progress = Unwatched()) -> Points:
    """Four-sided outlines (n, 4, 2) about what is smooth or printed all over, each of its sides put
    where steps lie in line near it, in a few ways each."""
    patches = np.zeros((0, 4, 2))
    for most, less in ((_MOST_PATCHES, True), (2 * _MOST_PATCHES, False)):
        for patch in (each for wide in _WIDE for each in _patches(small, wide, less)):
            if len(patches) < most and (np.abs(patches - patch).max(axis=(1, 2)) > _SAME_PX).all():
                patches = np.concatenate([patches, patch[None]])
    found = []
    for patch in patches:
        report(0.3, "looking for the corners")
        found.append(outlines_about(small, patch, _INWARD, _OUTWARD))
    return convex_inside(np.concatenate([np.zeros((0, 4, 2)), *found]), small)


def _patches(small: NDArray[Any], wide: float, less: bool) -> Iterator[Points]:
    """Four corners of parts with `less` grain than lies about them, or with more."""
    grey = small.astype(np.float32)
    grain = cv2.GaussianBlur(grey, (0, 0), _FINE) - cv2.GaussianBlur(grey, (0, 0), _COARSE)
    rough = np.log1p(cv2.GaussianBlur(grain * grain, (0, 0), wide))
    low, high = np.percentile(rough, [3, 97]).tolist()
    for level in np.linspace(low, high, _LEVELS, endpoint=False).tolist():
        mask = ((rough < level) == less).astype(np.uint8)
        if not less:  # print has calm places in it
            mask = cv2.morphologyEx(mask, cv2.MORPH_CLOSE, np.ones((_CALM, _CALM), np.uint8))
        mask = cv2.morphologyEx(mask, cv2.MORPH_OPEN, np.ones((9, 9), np.uint8))
        for chain in cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)[0]:
            hull, area = cv2.convexHull(chain), cv2.contourArea(chain)
            if not 0.004 * small.size < area < 0.9 * small.size or area < 0.85 * cv2.contourArea(
                hull
            ):
                continue
            corners = (
                cv2.approxPolyDP(hull, share * cv2.arcLength(hull, True), True)
                for share in (0.015, 0.03, 0.05, 0.08)
            )
            four = next((each for each in corners if len(each) == 4), None)
            if four is not None and cv2.contourArea(four) > 0.88 * area:
                yield in_turn(four.reshape(1, 4, 2).astype(np.float64))[0]


def outlines_about(small: NDArray[Any], outline: Points, inward: int, outward: int) -> Points:
    """Outlines (n, 4, 2) about one that is nearly right: every choice of the lines that may be its
    sides, so many pixels inward and outward of it."""
    least = least_step(small)
    offsets = np.arange(-inward, outward + 1.0)
    lines = [
        _lines_beside(small, a, b, offsets, least)
        for a, b in zip(outline, np.roll(outline, -1, axis=0), strict=True)
    ]
    choice = np.stack(
        np.meshgrid(*(np.arange(len(some)) for some in lines), indexing="ij"), axis=-1
    ).reshape(-1, 4)
    sides = [some[choice[:, k]] for k, some in enumerate(lines)]
    outlines = np.stack([_crossings(sides[k - 1], sides[k]) for k in range(4)], axis=1)
    return np.asarray(outlines[np.isfinite(outlines).all(axis=(1, 2))])


def _lines_beside(
    small: NDArray[Any], a: Points, b: Points, offsets: Floats, least: float
) -> Points:
    """Lines (n, 2, 2) near a side, at pixels outward of it, along which most and strongest steps lie, the best
    first."""
    shares = np.linspace(0.06, 0.94, _PLACES)
    steps, outward = steps_across(small, a, b, shares, offsets)
    ridge = (steps >= cv2.dilate(steps, np.ones((1, 7), np.uint8)) - 1e-6) & (steps > least)
    weight = cv2.dilate(
        (ridge * np.sqrt(np.minimum(steps, _STRONG))).astype(np.float32), np.ones((1, 3), np.uint8)
    )
    padded = np.pad(weight, ((0, 0), (_SWING, _SWING)))
    swings = np.arange(-_SWING, _SWING + 1, 2)
    moved = np.round(swings[:, None] * (shares - 0.5)).astype(int) + _SWING
    columns = moved[:, :, None] + np.arange(len(offsets))
    scores = padded[np.arange(_PLACES)[:, None], columns].mean(axis=1)
    chosen: list[tuple[float, float]] = []
    for k in np.argsort(scores, axis=None)[::-1].tolist():
        swing, offset = swings[k // len(offsets)], offsets[k % len(offsets)]
        ends = (float(offset - swing / 2), float(offset + swing / 2))
        if all(max(abs(ends[0] - other[0]), abs(ends[1] - other[1])) > _APART for other in chosen):
            chosen.append(ends)
        if len(chosen) == _MOST_SIDES:
            break
    return np.array([(a + begin * outward, b + end * outward) for begin, end in chosen])


def _crossings(one: Points, other: Points) -> Floats:
    """Where lines (n, 2, 2) meet others, pair by pair (n, 2); not finite where they run the same
    way."""
    u, v, between = one[:, 1] - one[:, 0], other[:, 1] - other[:, 0], other[:, 0] - one[:, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        share = (between[:, 0] * v[:, 1] - between[:, 1] * v[:, 0]) / (
            u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
        )
        return np.asarray(one[:, 0] + share[:, None] * u)
