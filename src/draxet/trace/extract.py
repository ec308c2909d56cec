"""Edges of ink at sub-pixel accuracy: marching squares over the whole picture at once.

An *edge line* is the closed chain of points at which the picture, read between its pixels, has exactly the level's
brightness. *Ink* is darker than the level. Every edge line is closed: beyond its border the picture counts as paper.

The cell cases follow Lorensen and Cline, "Marching cubes" (1987), in two dimensions; in the two ambiguous cases the
mean of the four corners says whether ink joins.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from draxet.geometry.arrays import Floats, Ints, Points

__all__ = ["EdgeLines", "edge_lines"]

_TOP, _RIGHT, _BOTTOM, _LEFT = 0, 1, 2, 3
_OFF_GREY = 0.01

# _EXIT[corners, side entered]: the side left by; corners are bits (1 top left, 2 top right, 4 bottom right, 8 bottom
# left), 16 is added where a cell's middle is ink. Ink lies on the left hand of the way, seen with y down.
_EXIT = np.full((32, 4), -1, dtype=np.int8)
for _corners, _ways in {
    1: ((_LEFT, _TOP),), 2: ((_TOP, _RIGHT),), 4: ((_RIGHT, _BOTTOM),), 8: ((_BOTTOM, _LEFT),),
    14: ((_TOP, _LEFT),), 13: ((_RIGHT, _TOP),), 11: ((_BOTTOM, _RIGHT),), 7: ((_LEFT, _BOTTOM),),
    3: ((_LEFT, _RIGHT),), 6: ((_TOP, _BOTTOM),), 12: ((_RIGHT, _LEFT),), 9: ((_BOTTOM, _TOP),),
}.items():  # fmt: skip
    for _enter, _leave in _ways:
        _EXIT[_corners, _enter] = _EXIT[_corners + 16, _enter] = _leave
for _corners, _two_ways in {
    5: ((_LEFT, _TOP), (_RIGHT, _BOTTOM)), 5 + 16: ((_RIGHT, _TOP), (_LEFT, _BOTTOM)),
    10: ((_TOP, _RIGHT), (_BOTTOM, _LEFT)), 10 + 16: ((_TOP, _LEFT), (_BOTTOM, _RIGHT)),
}.items():  # fmt: skip
    for _enter, _leave in _two_ways:
        _EXIT[_corners, _enter] = _leave


@dataclass(frozen=True)
class EdgeLines:
    """Closed chains in picture space (x right, y down, pixel 0's centre at 0.5).

    `points` (n, 2); chain k is ``points[firsts[k]:firsts[k] + counts[k]]``, its first point not repeated. `areas` (k,)
    in square pixels are over 0 around ink and under 0 around a hole in ink.
    """

    points: Points
    firsts: Ints
    counts: Ints
    areas: Floats

    def __len__(self) -> int:
        return len(self.counts)


def edge_lines(values: NDArray[Any], level: float, min_area: float = 0.0) -> EdgeLines:
    """All edge lines of a picture that enclose at least `min_area`.

    Parameters
    ----------
    values : (rows, columns) brightness, uint8 or float32.
    level : the brightness between ink and paper.
    min_area : in square pixels.

    Notes
    -----
    Time grows with the pixels (a few comparisons each) and with the points found. Memory is about 4 bytes a pixel.
    """
    if float(level).is_integer() and values.dtype == np.uint8:
        level -= _OFF_GREY  # at a grey that pixels have, edges would run through pixels' centres and touch there
    padded = cv2.copyMakeBorder(values, 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=(255,))
    ink = padded < level
    width = ink.shape[1]
    across = np.flatnonzero(ink[:, :-1] != ink[:, 1:])  # between a pixel and its right neighbour
    across += across // (width - 1)  # as flat index of the left pixel
    down = np.flatnonzero(ink[:-1] != ink[1:])  # between a pixel and the one below it
    flat, flat_ink = padded.ravel(), ink.ravel()
    following = _following(flat, flat_ink, across, down, width, level)
    order, firsts, counts = _chains(following)
    points = _crossings(flat, across, down, width, level)[order]
    return _large_enough(points, firsts, counts, min_area)


def _following(flat: NDArray[Any], ink: NDArray[np.bool_], across: Ints, down: Ints, width: int, level: float) -> Ints:
    """For each crossing (those of `across`, then those of `down`), the one that comes after it."""
    from_left, from_top = ink[across], ink[down]
    cell = np.concatenate([np.where(from_left, across - width, across), np.where(from_top, down, down - 1)])
    side = np.concatenate([np.where(from_left, _BOTTOM, _TOP), np.where(from_top, _LEFT, _RIGHT)])
    corners = ink[cell] + 2 * ink[cell + 1].astype(np.int8) + 4 * ink[cell + width + 1].astype(np.int8) + 8 * ink[cell + width].astype(np.int8)
    saddles = np.flatnonzero((corners == 5) | (corners == 10))
    at = cell[saddles]
    mean = (flat[at].astype(np.float64) + flat[at + 1] + flat[at + width] + flat[at + width + 1]) / 4
    corners[saddles[mean < level]] += 16
    leave = _EXIT[corners, side]
    following = np.empty(len(cell), dtype=np.int64)
    level_side = (leave == _TOP) | (leave == _BOTTOM)
    following[level_side] = np.searchsorted(across, cell[level_side] + np.where(leave[level_side] == _BOTTOM, width, 0))
    upright_side = ~level_side
    following[upright_side] = len(across) + np.searchsorted(down, cell[upright_side] + (leave[upright_side] == _RIGHT))
    return following


def _chains(following: Ints) -> tuple[Ints, Ints, Ints]:
    """The cycles of a permutation: their members in order, and where each begins and how long it is.

    By pointer jumping (Wyllie, 1979): each member first learns its cycle's least member, in steps that double, and then how
    many steps it stands before that one.
    """
    count = len(following)
    if not count:
        return following, following, following
    index = np.arange(count, dtype=np.int32)
    after = following.astype(np.int32)
    least, jump = np.minimum(index, after), after
    while True:
        jump = jump[jump]
        lower = np.minimum(least, least[jump])
        if np.array_equal(lower, least):
            break
        least = lower
    heads = np.flatnonzero(least == index)
    steps = np.ones(count, dtype=np.int32)
    jump = after.copy()
    last = np.empty(count, dtype=np.int32)
    last[after] = index
    jump[last[heads]] = last[heads]  # the member before each head is where its cycle ends
    steps[last[heads]] = 0
    while True:
        onward = jump[jump]
        if np.array_equal(onward, jump):
            break
        steps += steps[jump]
        jump = onward
    counts = steps[heads].astype(np.int64) + 1
    firsts = np.cumsum(counts) - counts
    cycle = np.zeros(count, dtype=np.int64)
    cycle[heads] = np.arange(len(heads))
    place = cycle[least]
    order = np.empty(count, dtype=np.int64)
    order[firsts[place] + counts[place] - 1 - steps] = index
    return order, firsts, counts


def _crossings(flat: NDArray[Any], across: Ints, down: Ints, width: int, level: float) -> Points:
    def part(near: Ints, far: Ints) -> Floats:
        first = flat[near].astype(np.float64)
        return np.asarray((level - first) / (flat[far] - first))

    points = np.empty((len(across) + len(down), 2))
    points[: len(across), 0] = across % width + part(across, across + 1) - 0.5
    points[: len(across), 1] = across // width - 0.5
    points[len(across) :, 0] = down % width - 0.5
    points[len(across) :, 1] = down // width + part(down, down + width) - 0.5
    return points


def _large_enough(points: Points, firsts: Ints, counts: Ints, min_area: float) -> EdgeLines:
    if not len(counts):
        return EdgeLines(points, firsts, counts, np.zeros(0))
    ahead = np.roll(points, -1, axis=0)
    ahead[firsts + counts - 1] = points[firsts]
    areas = np.add.reduceat(points[:, 1] * ahead[:, 0] - points[:, 0] * ahead[:, 1], firsts) / 2
    keep = np.abs(areas) >= min_area
    if keep.all():
        return EdgeLines(points, firsts, counts, areas)
    kept_points = points[np.repeat(keep, counts)]
    kept_counts = counts[keep]
    return EdgeLines(kept_points, np.cumsum(kept_counts) - kept_counts, kept_counts, areas[keep])
