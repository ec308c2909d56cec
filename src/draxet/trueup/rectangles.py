"""Rectangles seen at an angle, found in a photo where its brightness steps all along four straight
sides."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import Floats, NDArray, Points
from draxet.geometry.homography import bent
from draxet.progress import Progress, Unwatched
from draxet.trueup.brightness_steps import (
    convex_inside,
    drawn_to_steps,
    in_turn,
    signed_areas,
)
from draxet.trueup.edge_lines import Corners, sharpened
from draxet.trueup.outlines import (
    long_lines,
    outlines_of_lines,
    outlines_of_regions,
    outlines_of_three_sides,
)
from draxet.trueup.patches import outlines_about, outlines_of_patches
from draxet.trueup.rectangle_traits import fits, likelihoods, supports

__all__ = ["find_corners", "find_rectangles"]

_WORK_PIXELS = 1_000_000
_OF_LINES = (0.85, 0.35)
"""Lines that happen to bound four sides count for less than an outline in one piece: where its
sides are typed, and where not."""
_MOST_QUADS = 400
_MOST_DRAWN, _DRAWN_WITHIN = 6000, 0.2
"""So many outlines of about the proportion looked for, within such a share, are drawn to steps."""
_FEW = 12
"""Places along each side at which the step is taken roughly."""
_WORDS = "looking for the corners"
_MOST_MEASURED, _ROUGHLY, _FINELY = 56, 100, 400
"""So many outlines are measured, and at so many places along a side, first and at last."""
_MOST_ABOUT, _MOST_EACH, _ABOUT = 6, 5, 12
"""About so many of the likeliest, so many more outlines each are measured, whose sides lie up to so
many working pixels beside theirs."""
_WORSE, _STIFF = 0.2, 0.08
"""Pixels by which sides measured at more places may lie farther off straight lines, and by which
they must become straighter for a lens to be taken as curved as most are."""
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
    quads, worth = _outlines(small, real, report)
    scores = supports(small, quads, typed=real is not None) * fits(quads, small.shape, real)
    chosen = _apart(quads, scores * worth, _MOST_MEASURED)
    scale = np.array([grey.shape[1] / small.shape[1], grey.shape[0] / small.shape[0]])
    found = _sharpened(grey, (quads[chosen] + 0.5) * scale, report)
    moved = np.array([_as_seen(each, grey) for each in found]).reshape(-1, 4, 2) / scale - 0.5
    far = np.hypot(*np.moveaxis(in_turn(moved) - quads[chosen], -1, 0)).max(axis=1) > _SAME_PX
    worth = np.where(far, np.minimum(worth[chosen], _OF_LINES[1]), worth[chosen])
    if real is not None:  # how it is measured tells more than how it was found
        first = _judged(grey, small, found, np.ones(len(found)), real, _MOST_ABOUT)
        about = _about(small, [found[k] for k in first], grey, real)
        found += _sharpened(grey, (about + 0.5) * scale, report)
        worth = np.ones(len(found))
    for count in (3 * most, most):  # the likeliest of them once more, at many places
        best = _judged(grey, small, found, worth, real, count)
        found, worth = [found[k] for k in best], worth[best]
        if count > most:
            found = [_finer(grey, each, report) for each in found]
    return [Corners(_as_seen(each, grey), residual=each.residual) for each in found]


def _outlines(
    small: NDArray[Any], real: tuple[float, float] | None, report: Progress
) -> tuple[Points, Floats]:
    """All outlines (n, 4, 2) that are worth a close look, in turn, and how much each way of finding
    them counts."""
    lines = long_lines(small)
    report(0.2, _WORDS)
    ways = [outlines_of_lines(small, lines)]
    if real is not None:
        ways.append(outlines_of_three_sides(small, lines, real))
        ways.append(outlines_of_patches(small, report))
    likely = [np.array(outlines_of_regions(small)).reshape(-1, 4, 2)]
    for some in ways:
        report(0.4, _WORDS)
        if real is not None:
            some = drawn_to_steps(small, _that_fit(some, small.shape, real))
        likely.append(some[_likeliest(small, some, real)])
    quads = in_turn(np.concatenate(likely))
    of_lines = _OF_LINES[0 if real is not None else 1]
    return quads, np.where(np.arange(len(quads)) < len(likely[0]), 1.0, of_lines)


def _judged(
    grey: NDArray[Any],
    small: NDArray[Any],
    found: list[Corners],
    worth: Floats,
    real: tuple[float, float] | None,
    count: int,
) -> list[int]:
    """The numbers of the likeliest of the outlines that were measured, so many at the most."""
    scale = np.array([grey.shape[1] / small.shape[1], grey.shape[0] / small.shape[0]])
    seen = np.array([_as_seen(each, grey) for each in found]).reshape(-1, 4, 2)
    measured = in_turn(seen / scale - 0.5)
    straight = in_turn(np.array([each.places for each in found]).reshape(-1, 4, 2) / scale - 0.5)
    scores = likelihoods(small, measured, straight, found, real) * worth
    return _apart(measured, scores, count)


def _about(
    small: NDArray[Any], found: list[Corners], grey: NDArray[Any], real: tuple[float, float]
) -> Points:
    """Outlines (n, 4, 2) about those found, whose sides may have been taken for lines beside
    them."""
    scale = np.array([grey.shape[1] / small.shape[1], grey.shape[0] / small.shape[0]])
    made = [np.zeros((0, 4, 2))]
    for each in found:
        outline = in_turn(_as_seen(each, grey)[None] / scale - 0.5)[0]
        some = convex_inside(outlines_about(small, outline, _ABOUT, _ABOUT), small)
        some = drawn_to_steps(small, in_turn(some))
        scores = supports(small, some) * fits(some, small.shape, real)
        made.append(some[_apart(some, scores, _MOST_EACH)])
    return np.concatenate(made)


def _as_seen(measured: Corners, grey: NDArray[Any]) -> Points:
    """Where corners lie in the photo, bent by its lens."""
    height, width = grey.shape
    return bent(measured.places, measured.curve, width, height)


def _finer(grey: NDArray[Any], rough: Corners, report: Progress) -> Corners:
    """Measured once more at many places, unless its sides then follow something less straight."""
    report(0.9, _WORDS)
    finer = sharpened(grey, _as_seen(rough, grey), lens=True, stiff=_STIFF, most=_FINELY)
    return finer if finer.residual <= rough.residual + _WORSE else rough


def _sharpened(grey: NDArray[Any], quads: Points, report: Progress) -> list[Corners]:
    found = []
    for quad in quads:
        report(0.6, _WORDS)
        found.append(sharpened(grey, quad, lens=True, stiff=_STIFF, most=_ROUGHLY))
    return found


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


def _that_fit(quads: Points, shape: tuple[int, ...], real: tuple[float, float]) -> Points:
    """Outlines (n, 4, 2), in turn, of much the proportion that is looked for: the best so many."""
    turned = in_turn(quads)
    fit = fits(turned, shape, real, _DRAWN_WITHIN)
    return turned[np.argsort(fit)[::-1][:_MOST_DRAWN]]


def _likeliest(
    small: NDArray[Any], quads: Points, real: tuple[float, float] | None
) -> NDArray[np.int64]:
    """Numbers of the outlines that are worth a close look: those with steps in brightness on all
    sides, as a few places tell."""
    if not len(quads):
        return np.zeros(0, dtype=np.int64)
    turned = np.where((signed_areas(quads) < 0)[:, None, None], quads[:, ::-1], quads)
    roughly = supports(small, turned, samples=_FEW)
    best = np.argsort(roughly)[::-1][: 4 * _MOST_QUADS]
    best = best[roughly[best] > 0]
    fit = fits(in_turn(quads[best]), small.shape, real)
    return best[np.argsort(roughly[best] * fit)[::-1][:_MOST_QUADS]]
