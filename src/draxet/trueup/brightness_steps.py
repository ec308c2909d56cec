"""Steps in brightness across the sides of four-sided outlines, and what tells such outlines
apart."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import Floats, NDArray, Points

__all__ = [
    "BESIDE",
    "convex_inside",
    "drawn_to_steps",
    "in_turn",
    "least_step",
    "outward_of",
    "sample",
    "signed_areas",
    "steps_across",
    "steps_beside",
]

_STEP, _MOST_ROWS = 12.0, 30_000
_REACH, _PLACES, _MOVED = 4, 12, 0.02
"""Pixels by which the ends of a side are drawn to a step, at how many places along it that is taken,
and what a pixel of it costs (the root of grey levels)."""
BESIDE = (2.5, 4.5)
"""Pixels to either side of a line at which the step across it is taken."""


def least_step(small: NDArray[Any]) -> float:
    """Grey levels that are a step: more than grain and noise make, as they mostly are."""
    across = np.abs(small[:, 7:].astype(np.int16) - small[:, :-7]).ravel()[::17]
    if not len(across):
        return _STEP
    return float(np.clip(2.2 * float(np.median(across)), 6.0, _STEP))


def sample(grey: NDArray[Any], at: Points) -> Floats:
    """Brightness at places (n, m, 2), rows at a time as can be looked up at once."""
    if not at.size:
        return np.zeros(at.shape[:-1])
    x, y = (np.ascontiguousarray(at[..., k], dtype=np.float32) for k in (0, 1))
    rows = (slice(k, k + _MOST_ROWS) for k in range(0, len(x), _MOST_ROWS))
    return np.concatenate(
        [
            cv2.remap(grey, x[some], y[some], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
            for some in rows
        ]
    ).astype(np.float64)


def in_turn(quads: Points) -> Points:
    """Corners of outlines (n, 4, 2) in turn, with y down clockwise as seen, from the one nearest to
    the upper left."""
    away = quads - quads.mean(axis=1, keepdims=True)
    turned = np.take_along_axis(
        quads, np.argsort(np.arctan2(away[..., 1], away[..., 0]), axis=1)[..., None], axis=1
    )
    first = turned.sum(axis=2).argmin(axis=1) if len(quads) else np.zeros(0, dtype=int)
    return np.asarray(
        np.take_along_axis(turned, ((first[:, None] + np.arange(4)) % 4)[..., None], axis=1)
    )


def steps_across(
    small: NDArray[Any], a: Points, b: Points, shares: Floats, offsets: Floats
) -> tuple[NDArray[np.float32], Points]:
    """Steps in brightness (n, m) across a side at shares of its way, at pixels outward from it (a
    pixel apart), with the direction that is outward where corners are in turn. Each is taken
    together with those beside it along the side, so that grain makes fewer."""
    along = b - a
    outward = np.array([along[1], -along[0]]) / max(float(np.hypot(*along)), 1e-9)
    x, y = np.moveaxis(
        (a + shares[:, None] * along)[:, None] + offsets[None, :, None] * outward, 2, 0
    ).astype(np.float32)
    seen = cv2.remap(small, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE).astype(
        np.float32
    )
    near, far = (round(each) for each in BESIDE)
    kernel = np.zeros((1, 2 * far + 1), np.float32)
    for away in (near, far):
        kernel[0, far + away] += 0.5
        kernel[0, far - away] -= 0.5
    return np.abs(
        cv2.blur(cv2.filter2D(seen, -1, kernel, borderType=cv2.BORDER_REPLICATE), (1, 3))
    ), outward


def drawn_to_steps(small: NDArray[Any], quads: Points) -> Points:
    """Outlines (n, 4, 2) in turn, each side moved and turned by a few pixels to where brightness
    steps most across it."""
    if not len(quads):
        return quads
    ends = np.roll(quads, -1, axis=1)
    outward = outward_of(ends - quads)
    shares = np.linspace(0.06, 0.94, _PLACES)
    steps = np.sqrt(np.abs(steps_beside(small, quads, shares, _REACH)))
    best = np.full(quads.shape[:2], -np.inf)
    moved = np.zeros(quads.shape)
    for first in range(-_REACH, _REACH + 1, 2):
        for last in range(-_REACH, _REACH + 1, 2):
            at = np.round(first + (last - first) * shares).astype(int) + _REACH
            found = steps[:, :, np.arange(_PLACES), at].mean(axis=2)
            found = found - _MOVED * (abs(first) + abs(last))
            better = found > best
            best[better], moved[better] = found[better], (first, last)
    begin, end = quads + moved[..., :1] * outward, ends + moved[..., 1:] * outward
    before, along = np.roll(begin, 1, axis=1), end - begin
    way = np.roll(along, 1, axis=1)
    with np.errstate(divide="ignore", invalid="ignore"):
        t = _turn(begin - before, along) / _turn(way, along)
        corners = before + t[..., None] * way
        off = np.hypot(*np.moveaxis(corners - quads, -1, 0)).max(axis=1)
    return np.where((off <= 4 * _REACH)[:, None, None], corners, quads)


def steps_beside(
    small: NDArray[Any],
    corners: Points,
    shares: Floats,
    reach: int,
    beside: tuple[float, ...] = BESIDE,
) -> Floats:
    """Steps (n, 4, m, 2 * reach + 1) in brightness, over 0 where it is lighter outside, across the
    sides of outlines in turn at shares of their way, at pixels outward from them; each between
    what lies so many pixels `beside` there."""
    sides = np.roll(corners, -1, axis=1) - corners
    outward = outward_of(sides)
    middle = np.arange(-reach, reach + 1.0)
    offsets = np.unique([middle + way * far for far in beside for way in (1, -1)])
    at = (corners[:, :, None] + shares[:, None] * sides[:, :, None])[:, :, :, None]
    at = at + offsets[:, None] * outward[:, :, None, None]
    seen = sample(small, at.reshape(len(corners), -1, 2))
    seen = seen.reshape(len(corners), 4, len(shares), len(offsets))
    steps = np.zeros((*seen.shape[:3], len(middle)))
    for far in beside:
        steps += seen[..., np.searchsorted(offsets, middle + far)]
        steps -= seen[..., np.searchsorted(offsets, middle - far)]
    return steps / len(beside)


def outward_of(sides: Points) -> Points:
    """Directions of length 1 out of outlines in turn, across their sides (n, 4, 2)."""
    found: Points = np.stack([sides[..., 1], -sides[..., 0]], axis=-1)
    return found / np.maximum(np.hypot(sides[..., 0], sides[..., 1]), 1e-9)[..., None]


def _turn(one: Points, other: Points) -> Floats:
    return np.asarray(one[..., 0] * other[..., 1] - one[..., 1] * other[..., 0])


def signed_areas(quads: Points) -> Floats:
    """Twice the area of outlines (n, 4, 2), under 0 where they turn the other way."""
    return np.asarray(
        (
            quads[..., 0] * np.roll(quads[..., 1], -1, axis=1)
            - quads[..., 1] * np.roll(quads[..., 0], -1, axis=1)
        ).sum(axis=1)
    )


def convex_inside(quads: Points, small: NDArray[Any]) -> Points:
    """Those outlines that lie inside a picture, turn one way and are not too small."""
    height, width = small.shape
    quads = quads[
        (quads > 3).all(axis=(1, 2))
        & (quads[..., 0] < width - 4).all(axis=1)
        & (quads[..., 1] < height - 4).all(axis=1)
    ]
    sides = np.roll(quads, -1, axis=1) - quads
    following = np.roll(sides, -1, axis=1)
    turn = np.sign(sides[..., 0] * following[..., 1] - sides[..., 1] * following[..., 0])
    found: Points = quads[
        (np.abs(turn.sum(axis=1)) == 4) & (np.abs(signed_areas(quads)) > 0.008 * small.size)
    ]
    return found
