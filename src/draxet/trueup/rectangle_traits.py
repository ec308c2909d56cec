"""What tells the outline of a rectangle in a photo from others: how its sides step, how far it fits
the proportion that is looked for, how crisp and straight it is."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from draxet.geometry.arrays import Bools, Floats, NDArray, Points
from draxet.trueup.brightness_steps import least_step, signed_areas, steps_across, steps_beside
from draxet.trueup.edge_lines import Corners

__all__ = ["fits", "likelihoods", "supports"]

_PROPORTION_WITHIN, _MEASURED_WITHIN = 0.09, 0.035
"""By so much may a proportion differ (as a share) from the one looked for, before its sides are
measured and after."""
_FOCAL_LENGTHS, _SKEW = np.geomspace(0.65, 3.2, 14), 0.06
"""Of usual cameras, as shares of the picture's longer side, and how far from square a rectangle's
corners may come out (the cosine)."""
_SAMPLES, _STRONG = 40, (30.0, 60.0)
"""Places along each side at which the step is taken, and grey levels that are a strong one where
sides are typed and where not."""
_LARGER = 0.4
"""The power by which a larger one counts for more where its sides are typed."""
_BESIDE_SIDE = 9
"""Pixels to either side within which a crisp side steps most where it is."""
_BOW, _BOWED = 3, 0.04
"""Working pixels by which a lens may bow a side at its middle, and what a pixel of it costs (the
root of grey levels)."""
_VANISHING, _FARTHER = 0.35, (7.0, 10.0)
"""A side that steps along a smaller share of it all but vanishes; and how far to either side (working
pixels) a step that is not that of a thin line lasts."""
_LEAST_CRISP = 0.25
"""What a side counts beside which a line is printed all along it; set by hand, not fitted."""
_CROOKED = 0.5
"""Pixels: sides that lie so far off straight lines are crooked."""
_STEPS, _LASTS, _SIZE, _FIT, _CRISP, _CLEAR, _STRAIGHT = 0.9, 1.8, 0.75, 1.3, 1.4, 3.4, 3.6
"""The powers with which each trait counts, where sides are typed: those by which the true outline is
the likeliest (conditional logit, McFadden, 1974) in 240 drawn photos of nine kinds of card."""


def fits(
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


def likelihoods(
    small: NDArray[Any],
    measured: Points,
    straight: Points,
    found: list[Corners],
    real: tuple[float, float] | None,
) -> Floats:
    """How likely outlines (n, 4, 2), in turn, are whose sides were measured: as they are seen, and
    as a lens without a curve would have seen them."""
    fit = fits(straight, small.shape, real, _MEASURED_WITHIN)
    crooked = 1 + (np.array([each.residual for each in found]) / _CROOKED) ** 2
    if real is None:
        return supports(small, measured, typed=False) * fit / crooked
    if not len(measured):
        return np.zeros(0)
    _, second, _, _, sizes, within = _traits(small, measured, _SAMPLES, typed=True)
    lasting = _lasting(small, measured, _SAMPLES)
    crisp = np.array([_crispness(small, quad) for quad in measured])
    clear = np.array([each.clearness for each in found])
    likely = second**_STEPS * sizes**_SIZE * fit**_FIT * clear**_CLEAR / crooked**_STRAIGHT
    likely *= (_LEAST_CRISP + (1 - _LEAST_CRISP) * crisp) ** _CRISP * np.maximum(
        lasting, 0.05
    ) ** _LASTS
    return np.where(within, likely, 0.0)


def supports(
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
    weakest, second, strength, one_way, sizes, within = _traits(small, corners, samples, typed)
    if not typed:
        support = weakest**2 * strength * (0.5 + 0.5 * one_way) * np.sqrt(sizes)
        return np.where(within & (weakest > 0.6), support, 0.0)
    share = second * np.cbrt(0.3 + 0.7 * weakest) * np.minimum(weakest / _VANISHING, 1)
    support = share**3 * np.sqrt(strength) * (0.75 + 0.25 * one_way) * sizes**_LARGER
    lasting = np.minimum(_lasting(small, corners, samples) / _VANISHING, 1)
    return np.where(within & (second > 0.6), support * (0.1 + 0.9 * lasting), 0.0)


def _traits(
    small: NDArray[Any], corners: Points, samples: int, typed: bool
) -> tuple[Floats, Floats, Floats, Floats, Floats, Bools]:
    """Of outlines (n, 4, 2), in turn: the share of its way along which the worst side steps, and
    the second worst; the usual step of the side where it is the least; how much the steps go one
    way; the share of the photo that it takes; whether it lies within that."""
    height, width = small.shape
    within = np.all((corners >= 3) & (corners <= (width - 4, height - 4)), axis=(1, 2))
    shares = np.linspace(0.08, 0.92, samples)
    steps = _along_bows(steps_beside(small, corners, shares, _BOW), shares)
    if (along := samples // 13) > 1:
        sums = np.cumsum(np.pad(steps, ((0, 0), (0, 0), (1, 0))), axis=2)
        steps = (sums[..., along:] - sums[..., :-along]) / along
    least = least_step(small)
    weakest, second = np.sort((np.abs(steps) > least).mean(axis=2), axis=1)[:, :2].T
    strength = np.minimum(np.median(np.abs(steps), axis=2).min(axis=1), _STRONG[0 if typed else 1])
    one_way = np.abs(np.sign(steps).sum(axis=2)).mean(axis=1) / steps.shape[2]
    return (
        weakest,
        second,
        strength,
        one_way,
        np.abs(signed_areas(corners)) / 2 / small.size,
        within,
    )


def _lasting(small: NDArray[Any], corners: Points, samples: int) -> Floats:
    """The share of its way along which the worst side of each outline (n, 4, 2) steps farther away
    too."""
    shares = np.linspace(0.08, 0.92, samples)
    farther = np.abs(steps_beside(small, corners, shares, 0, _FARTHER)[..., 0])
    return np.asarray((farther > least_step(small)).mean(axis=2).min(axis=1))


def _crispness(small: NDArray[Any], quad: Points) -> float:
    """The share of places along an outline's worst side at which its step is the greatest about:
    one that runs across print or grain by chance has others beside it."""
    reach = _BESIDE_SIDE + _BOW
    shares, offsets = np.linspace(0.08, 0.92, _SAMPLES), np.arange(-reach, reach + 1.0)
    bows = np.round(np.arange(-_BOW, _BOW + 1)[:, None] * 4 * shares * (1 - shares)).astype(int)
    beside = np.arange(-_BESIDE_SIDE, _BESIDE_SIDE + 1)
    least, worst = 0.7 * least_step(small), 1.0
    for a, b in zip(quad, np.roll(quad, -1, axis=0), strict=True):
        steps, _ = steps_across(small, a, b, shares, offsets)
        columns = reach + bows[:, :, None] + beside
        bowed = steps[np.arange(_SAMPLES)[:, None], columns]
        there = bowed[..., _BESIDE_SIDE - 2 : _BESIDE_SIDE + 3].max(axis=2)
        clear = (there >= bowed.max(axis=2)) & (there > least)
        worst = min(worst, float(clear.mean(axis=1).max()))
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
