"""Rectangles seen at an angle, found in a photo where its brightness steps all along four straight
sides."""

from __future__ import annotations

import math
from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import Floats, NDArray, Points
from draxet.progress import Progress, Unwatched
from draxet.trueup.brightness_steps import (
    drawn_to_steps,
    in_turn,
    least_step,
    signed_areas,
    steps_across,
    steps_beside,
)
from draxet.trueup.edge_lines import Corners, sharpened
from draxet.trueup.outlines import (
    long_lines,
    outlines_of_lines,
    outlines_of_regions,
    outlines_of_three_sides,
)
from draxet.trueup.patches import outlines_of_patches

__all__ = ["find_corners", "find_rectangles"]

_WORK_PIXELS = 1_000_000
_PROPORTION_WITHIN, _MEASURED_WITHIN = 0.09, 0.035
"""By so much may a proportion differ (as a share) from the one looked for, before its sides are
measured and after."""
_OF_LINES = (0.85, 0.35)
"""Lines that happen to bound four sides count for less than an outline in one piece: where its
sides are typed, and where not."""
_FOCAL_LENGTHS, _SKEW = np.array([0.7, 0.85, 1.0, 1.2, 1.5, 2.0, 3.0]), 0.06
"""Of usual cameras, as shares of the picture's longer side, and how far from square a rectangle's
corners may come out (the cosine)."""
_MOST_QUADS = 400
_MOST_DRAWN, _DRAWN_WITHIN = 6000, 0.2
"""So many outlines of about the proportion looked for, within such a share, are drawn to steps."""
_SAMPLES, _FEW, _STRONG = 40, 12, (30.0, 60.0)
"""Places along each side at which the step is taken, well and roughly, and grey levels that are a
strong one where sides are typed and where not."""
_WORDS = "looking for the corners"
_MOST_MEASURED, _ROUGHLY, _FINELY = 56, 100, 400
"""So many outlines are measured, and at so many places along a side, first and at last."""
_LARGER = 0.4
"""The power by which a larger one counts for more where its sides are typed."""
_CRISP, _BESIDE_SIDE = 0.6, 9
"""A side counts in full where so large a share of it steps more than what lies so many pixels
beside it."""
_BOW, _BOWED = 3, 0.04
"""Working pixels by which a lens may bow a side at its middle, and what a pixel of it costs (the
root of grey levels)."""
_VANISHING, _FARTHER = 0.35, (7.0, 10.0)
"""A side that steps along a smaller share of it all but vanishes; and how far to either side (working
pixels) a step that is not that of a thin line lasts."""
_WORSE = 0.2
"""Pixels by which sides measured at more places may lie farther off straight lines."""
_CROOKED = 0.5
"""Pixels: sides that lie so far off straight lines count for half."""
_SAME_PX, _SAME_SHARE = 4.0, 0.015
"""Outlines whose corners lie so near each other (working pixels, or a share of their size) are
one."""


def find_corners(grey: NDArray[Any], real: tuple[float, float] | None = None) -> Corners | None:
    """The first of ``find_rectangles``, or None where there is none."""
    return next(iter(find_rectangles(grey, real, most=1)), None)


def find_rectangles(
    grey: NDArray[Any],
    real: tuple[float, float] | None = None,
    report: Progress = Unwatched(),
    *,
    most: int = 6,
) -> list[Corners]:
    """Four-sided outlines of a picture (rows, columns) of uint8 that may be rectangles seen at an
    angle, the likeliest first.

    Parameters
    ----------
    real : width and height in mm that are looked for: outlines whose sides may be in that
    proportion come first.
    most : how many at the most.
    """
    shrink = max(1.0, np.sqrt(grey.size / _WORK_PIXELS))
    small = (
        cv2.resize(grey, None, fx=1 / shrink, fy=1 / shrink, interpolation=cv2.INTER_AREA)
        if shrink > 1
        else grey
    )
    outlines = np.array(outlines_of_regions(small)).reshape(-1, 4, 2)
    lines, typed = long_lines(small), real is not None
    report(0.2, _WORDS)
    of_lines = [outlines_of_lines(small, lines)]
    if real is not None:
        of_lines += [
            outlines_of_three_sides(small, lines, real),
            outlines_of_patches(small, report),
        ]
    likely = []
    for some in of_lines:
        report(0.4, _WORDS)
        if real is not None:
            some = drawn_to_steps(small, _that_fit(some, small.shape, real))
        likely.append(some[_likeliest(small, some, real)])
    quads = in_turn(np.concatenate([outlines, *likely]))
    worth = np.where(np.arange(len(quads)) < len(outlines), 1.0, _OF_LINES[0 if typed else 1])
    scores = _supports(small, quads, typed=typed) * _fits(quads, small.shape, real) * worth
    scale = np.array([grey.shape[1] / small.shape[1], grey.shape[0] / small.shape[0]])
    chosen = _apart(quads, scores, _MOST_MEASURED)
    found, worth = _sharpened(grey, (quads[chosen] + 0.5) * scale, report), worth[chosen]
    for count in (3 * most, most):  # the likeliest of them once more, at many places
        measured = in_turn(
            np.array([each.places for each in found]).reshape(-1, 4, 2) / scale - 0.5
        )
        best = _apart(measured, _measured_scores(small, measured, found, real) * worth, count)
        found, worth = [found[k] for k in best], worth[best]
        if count > most:
            found = [_finer(grey, each, report) for each in found]
    return found


def _finer(grey: NDArray[Any], rough: Corners, report: Progress) -> Corners:
    """Measured once more at many places, unless its sides then follow something less straight."""
    report(0.9, _WORDS)
    finer = sharpened(grey, rough.places, most=_FINELY)
    return finer if finer.residual <= rough.residual + _WORSE else rough


def _sharpened(grey: NDArray[Any], quads: Points, report: Progress) -> list[Corners]:
    found = []
    for quad in quads:
        report(0.6, _WORDS)
        found.append(sharpened(grey, quad, most=_ROUGHLY))
    return found


def _measured_scores(
    small: NDArray[Any], measured: Points, found: list[Corners], real: tuple[float, float] | None
) -> Floats:
    """How likely outlines (n, 4, 2) are whose sides were measured, with what is left over at
    each."""
    scores = _supports(small, measured, typed=real is not None) * _fits(
        measured, small.shape, real, _MEASURED_WITHIN
    )
    scores /= np.array([1 + (each.residual / _CROOKED) ** 2 for each in found])
    if real is not None:
        scores *= np.array(
            [0.3 + 0.7 * min(1.0, _crispness(small, quad) / _CRISP) for quad in measured]
        )
    return scores


def _apart(quads: Points, scores: Floats, most: int) -> list[int]:
    """The numbers of the outlines (n, 4, 2) with the best scores, so many at the most, that are not
    much the same as a better one."""
    sizes = np.sqrt(np.abs(signed_areas(quads)) / 2)
    found: list[int] = []
    for k in np.argsort(scores)[::-1].tolist():
        if scores[k] > 0 and all(
            np.hypot(*(quads[k] - quads[other]).T).max() > max(_SAME_SHARE * sizes[k], _SAME_PX)
            for other in found
        ):
            found.append(k)
        if len(found) == most:
            break
    return found


def _fits(
    quads: Points,
    shape: tuple[int, ...],
    real: tuple[float, float] | None,
    within: float = _PROPORTION_WITHIN,
) -> Floats:
    """How well outlines (n, 4, 2), in turn, agree with the sides that are looked for, from near 0
    to 1: by the proportion of the rectangle that a camera with its axis in the picture's middle
    would have seen so, and how square it would be (Zhang and He, "Whiteboard scanning", 2007), at
    the best of usual focal lengths."""
    if real is None or not len(quads):
        return np.ones(len(quads))
    wanted = math.log(max(real) / min(real))
    across, down = _side_directions(quads, shape)
    best = np.zeros(len(quads))
    for focal in _FOCAL_LENGTHS * max(shape[:2]):
        scale = np.array([1 / focal, 1 / focal, 1.0])
        wide, high = across * scale, down * scale
        long, tall = (np.linalg.norm(each, axis=1) for each in (wide, high))
        with np.errstate(divide="ignore", invalid="ignore"):
            off = np.abs(np.abs(np.log(long / tall)) - wanted)
            skew = (wide * high).sum(axis=1) / (long * tall)
            found = np.exp(-((off / within) ** 2) - (skew / _SKEW) ** 2)
        best = np.maximum(best, np.where(np.isfinite(found), found, 0.0))
    return 0.04 + 0.96 * best


def _side_directions(quads: Points, shape: tuple[int, ...]) -> tuple[Floats, Floats]:
    """Directions (n, 3) of the sides of parallelograms that are seen as `quads` (n, 4, 2), as long
    as these: x and y in pixels from the picture's middle, z as many focal lengths."""
    places = np.concatenate(
        [quads - np.array([shape[1] / 2, shape[0] / 2]), np.ones((len(quads), 4, 1))], axis=2
    )
    a, b, c, d = np.moveaxis(places, 1, 0)  # in turn from the upper left
    with np.errstate(divide="ignore", invalid="ignore"):
        k2 = (np.cross(a, c) * d).sum(axis=1) / (np.cross(b, c) * d).sum(axis=1)
        k3 = (np.cross(a, c) * b).sum(axis=1) / (np.cross(d, c) * b).sum(axis=1)
        return k2[:, None] * b - a, k3[:, None] * d - a


def _that_fit(quads: Points, shape: tuple[int, ...], real: tuple[float, float]) -> Points:
    """Outlines (n, 4, 2), in turn, of much the proportion that is looked for: the best so many."""
    turned = in_turn(quads)
    fits = _fits(turned, shape, real, _DRAWN_WITHIN)
    return turned[np.argsort(fits)[::-1][:_MOST_DRAWN]]


def _likeliest(
    small: NDArray[Any], quads: Points, real: tuple[float, float] | None
) -> NDArray[np.int64]:
    """Numbers of the outlines that are worth a close look: those with steps in brightness on all
    sides, as a few places tell."""
    if not len(quads):
        return np.zeros(0, dtype=np.int64)
    turned = np.where((signed_areas(quads) < 0)[:, None, None], quads[:, ::-1], quads)
    roughly = _supports(small, turned, samples=_FEW)
    best = np.argsort(roughly)[::-1][: 4 * _MOST_QUADS]
    best = best[roughly[best] > 0]
    fits = _fits(in_turn(quads[best]), small.shape, real)
    return best[np.argsort(roughly[best] * fits)[::-1][:_MOST_QUADS]]


def _crispness(small: NDArray[Any], quad: Points) -> float:
    """The share of places along an outline's worst side at which its step is the greatest about:
    one that runs across print or grain by chance has others beside it."""
    shares, offsets = (
        np.linspace(0.08, 0.92, _SAMPLES),
        np.arange(-_BESIDE_SIDE, _BESIDE_SIDE + 1.0),
    )
    least, worst = 0.7 * least_step(small), 1.0
    for a, b in zip(quad, np.roll(quad, -1, axis=0), strict=True):
        steps, _ = steps_across(small, a, b, shares, offsets)
        there = steps[:, _BESIDE_SIDE - 2 : _BESIDE_SIDE + 3].max(axis=1)
        worst = min(worst, float(((there >= steps.max(axis=1)) & (there > least)).mean()))
    return worst


def _along_bows(steps: Floats, shares: Floats) -> Floats:
    """Of the steps beside the sides of outlines (n, 4, m, 2 * _BOW + 1) those (n, 4, m) along the
    bow that fits each side best."""
    best = np.full(steps.shape[:2], -np.inf)
    found = np.zeros(steps.shape[:3])
    for bow in range(-_BOW, _BOW + 1):
        at = np.round(bow * 4 * shares * (1 - shares)).astype(int) + _BOW
        there = steps[:, :, np.arange(len(shares)), at]
        worth = np.sqrt(np.abs(there)).mean(axis=2) - _BOWED * abs(bow)
        better = worth > best
        best[better], found[better] = worth[better], there[better]
    return found


def _supports(
    small: NDArray[Any], corners: Points, samples: int = _SAMPLES, *, typed: bool = True
) -> Floats:
    """How clear the step in brightness is all along the sides of each outline (n, 4, 2), in turn,
    clockwise as seen, and how large it is. A step counts whichever way it goes: what is printed on
    a card may be darker or lighter than what it lies on. It is one between what lies to either side
    over some way, so that grain makes none. Where its sides are not `typed`, what is large, stands
    out and is all of a piece counts for more; where they are, one side may all but vanish, as in a
    shadow, and the others step farther away too, as joints between tiles do not."""
    if not len(corners):
        return np.zeros(0)
    height, width = small.shape
    within = ((corners >= 3) & (corners <= (width - 4, height - 4))).all(axis=(1, 2))
    shares = np.linspace(0.08, 0.92, samples)
    steps = _along_bows(steps_beside(small, corners, shares, _BOW), shares)
    if (along := samples // 13) > 1:
        sums = np.cumsum(np.pad(steps, ((0, 0), (0, 0), (1, 0))), axis=2)
        steps = (sums[..., along:] - sums[..., :-along]) / along
    least = least_step(small)
    weakest, second = np.sort((np.abs(steps) > least).mean(axis=2), axis=1)[:, :2].T
    strength = np.minimum(np.median(np.abs(steps), axis=2).min(axis=1), _STRONG[0 if typed else 1])
    one_way = np.abs(np.sign(steps).sum(axis=2)).mean(axis=1) / steps.shape[2]
    sizes = np.abs(signed_areas(corners)) / 2 / small.size
    if not typed:
        support = weakest**2 * strength * (0.5 + 0.5 * one_way) * np.sqrt(sizes)
        return np.where(within & (weakest > 0.6), support, 0.0)
    share = second * np.cbrt(0.3 + 0.7 * weakest) * np.minimum(weakest / _VANISHING, 1)
    support = share**3 * np.sqrt(strength) * (0.75 + 0.25 * one_way) * sizes**_LARGER
    farther = np.abs(steps_beside(small, corners, shares, 0, _FARTHER)[..., 0]) > least
    lasting = np.minimum(farther.mean(axis=2).min(axis=1) / _VANISHING, 1)
    return np.where(within & (second > 0.6), support * (0.1 + 0.9 * lasting), 0.0)
