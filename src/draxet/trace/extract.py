"""Edges of ink at sub-pixel accuracy: marching squares over the whole picture at once.

An *edge line* is the closed chain of points at which the picture, read between its pixels, has
exactly the level's brightness. *Ink* is darker than the level. Every edge line is closed: beyond
its border the picture counts as paper.

The cell cases follow Lorensen and Cline, "Marching cubes" (1987), in two dimensions; in the two
ambiguous cases the mean of the four corners says whether ink joins.
"""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
import scipy

from draxet.geometry.arrays import Bools, Floats, Ints, NDArray, Points, crosses, kept, rows
from draxet.record import record

__all__ = ["EdgeLines", "edge_lines", "refuse_noise"]

_TOP, _RIGHT, _BOTTOM, _LEFT = 0, 1, 2, 3
_OFF_GREY = 0.01
_SCRAPS, _POINTS_A_PIXEL, _SCRAP_POINTS, _COMPACT = 200, 0.12, 40, 0.002
"""Noise: more scraps than so many, most of them of fewer points than that, with so many points a
pixel of the picture, among edge lines that wander about and enclose a smaller share than that of
what their length could."""

# _EXIT[corners, side entered]: the side left by; corners are bits (1 top left, 2 top right, 4
# bottom right, 8 bottom left), 16 is added where a cell's middle is ink. Ink lies on the left hand
# of the way, seen with y down.
_EXIT = np.full((32, 4), -1, dtype=np.int8)
for _corners, _ways in {
    1: ((_LEFT, _TOP),),
    2: ((_TOP, _RIGHT),),
    4: ((_RIGHT, _BOTTOM),),
    8: ((_BOTTOM, _LEFT),),
    14: ((_TOP, _LEFT),),
    13: ((_RIGHT, _TOP),),
    11: ((_BOTTOM, _RIGHT),),
    7: ((_LEFT, _BOTTOM),),
    3: ((_LEFT, _RIGHT),),
    6: ((_TOP, _BOTTOM),),
    12: ((_RIGHT, _LEFT),),
    9: ((_BOTTOM, _TOP),),
}.items():
    for _enter, _leave in _ways:
        _EXIT[_corners, _enter] = _EXIT[_corners + 16, _enter] = _leave
for _corners, _two_ways in {
    5: ((_LEFT, _TOP), (_RIGHT, _BOTTOM)),
    5 + 16: ((_RIGHT, _TOP), (_LEFT, _BOTTOM)),
    10: ((_TOP, _RIGHT), (_BOTTOM, _LEFT)),
    10 + 16: ((_TOP, _LEFT), (_BOTTOM, _RIGHT)),
}.items():
    for _enter, _leave in _two_ways:
        _EXIT[_corners, _enter] = _leave


@record(frozen=True)
class EdgeLines:
    """Closed chains in picture space (x right, y down, pixel 0's centre at 0.5).

    `points` (n, 2); chain k is ``points[firsts[k]:firsts[k] + counts[k]]``, its first point not
    repeated. `areas` (k,) in square pixels are over 0 around ink and under 0 around a hole in ink.
    """

    points: Points
    firsts: Ints
    counts: Ints
    areas: Floats

    def __len__(self) -> int:
        return len(self.counts)

    def kept(self, keep: Bools) -> EdgeLines:
        """Only the chains (k,) that are to be kept."""
        if keep.all():
            return self
        counts = self.counts[keep]
        return EdgeLines(
            kept(self.points, np.repeat(keep, self.counts)),
            np.cumsum(counts) - counts,
            counts,
            self.areas[keep],
        )


def refuse_noise(lines: EdgeLines, values: NDArray[Any]) -> None:
    """Refuse what is no drawing: scraps everywhere, which would be fitted one by one for a long
    time and be of no use.

    Raises
    ------
    ValueError : says how many scraps there are and how to go on.
    """
    if (
        len(lines) < _SCRAPS
        or len(lines.points) < _POINTS_A_PIXEL * values.size
        or float(np.median(lines.counts)) > _SCRAP_POINTS
    ):
        return
    if float(np.abs(lines.areas).sum() / (lines.counts.astype(np.float64) ** 2).sum()) < _COMPACT:
        raise ValueError(
            f"this is no drawing as it is: {len(lines):,} scraps all over it. Go on with more smoothness, a larger smallest speck, a chosen area, or prepare the picture "
            "(specks out, even light, line art from a photo)"
        )


def edge_lines(values: NDArray[Any], level: float, min_area: float = 0.0) -> EdgeLines:
    """All edge lines of a picture that enclose at least `min_area`.

    Parameters
    ----------
    values : (rows, columns) brightness, uint8 or float32.
    level : the brightness between ink and paper.
    min_area : in square pixels.

    Notes
    -----
    Time grows with the pixels (a few comparisons each) and with the points found. Memory is about 4
    bytes a pixel.
    """
    if float(level).is_integer() and values.dtype == np.uint8:
        level -= _OFF_GREY  # at a grey that pixels have, edges would run through pixels' centres and touch there
    padded = cv2.copyMakeBorder(values, 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=(255,))
    width, flat = padded.shape[1], padded.ravel()
    ink = flat < (np.uint8(np.ceil(level)) if values.dtype == np.uint8 else level)
    across = np.flatnonzero(
        ink[:-1] != ink[1:]
    )  # between a pixel and its right neighbour; rows begin and end in paper
    down = np.flatnonzero(ink[:-width] != ink[width:])  # between a pixel and the one below it
    following = _following(flat, ink, across, down, width, level)
    order, firsts, counts = _chains(following)
    points = rows(_crossings(flat, across, down, width, level), order)
    return _large_enough(points, firsts, counts, min_area)


def _following(
    flat: NDArray[Any], ink: NDArray[np.bool_], across: Ints, down: Ints, width: int, level: float
) -> Ints:
    """For each crossing (those of `across`, then those of `down`), the one that comes after it."""
    from_left, from_top = ink[across], ink[down]
    cell = np.concatenate(
        [np.where(from_left, across - width, across), np.where(from_top, down, down - 1)]
    )
    side = np.concatenate([np.where(from_left, _BOTTOM, _TOP), np.where(from_top, _LEFT, _RIGHT)])
    corners = (
        ink[cell]
        + 2 * ink[cell + 1].astype(np.int8)
        + 4 * ink[cell + width + 1].astype(np.int8)
        + 8 * ink[cell + width].astype(np.int8)
    )
    saddles = np.flatnonzero((corners == 5) | (corners == 10))
    at = cell[saddles]
    mean = (
        flat[at].astype(np.float64) + flat[at + 1] + flat[at + width] + flat[at + width + 1]
    ) / 4
    corners[saddles[mean < level]] += 16
    leave = _EXIT[corners, side]
    following = np.empty(len(cell), dtype=np.int64)
    level_side = (leave == _TOP) | (leave == _BOTTOM)
    following[level_side] = np.searchsorted(
        across, cell[level_side] + np.where(leave[level_side] == _BOTTOM, width, 0)
    )
    upright_side = ~level_side
    following[upright_side] = len(across) + np.searchsorted(
        down, cell[upright_side] + (leave[upright_side] == _RIGHT)
    )
    return following


def _chains(following: Ints) -> tuple[Ints, Ints, Ints]:
    """The cycles of a permutation, by their least members: all members in order, and where each
    begins and how long it is."""
    count = len(following)
    if not count:
        return following, following, following
    ways = scipy.sparse.csr_array(
        (
            np.ones(count, dtype=np.int8),
            following.astype(np.int32),
            np.arange(count + 1, dtype=np.int32),
        ),
        shape=(count, count),
    )
    cycles, cycle = scipy.sparse.csgraph.connected_components(
        ways, directed=True, connection="strong"
    )
    heads = np.full(cycles, count, dtype=np.int64)
    np.minimum.at(heads, cycle, np.arange(count))
    order = np.argsort(heads)
    heads, counts = heads[order], np.bincount(cycle, minlength=cycles)[order]
    last = np.empty(count, dtype=np.int64)  # the member before each head is where its cycle ends
    last[following] = np.arange(count)
    ways.indices[last[heads]] = np.roll(
        heads, -1
    )  # each cycle cut open there and led into the next: one path through all
    path = scipy.sparse.csgraph.depth_first_order(
        ways, int(heads[0]), directed=True, return_predecessors=False
    )
    return path.astype(np.int64), np.cumsum(counts) - counts, counts


def _crossings(flat: NDArray[Any], across: Ints, down: Ints, width: int, level: float) -> Points:
    def part(near: Ints, far: Ints) -> Floats:
        first = flat[near].astype(np.float64)
        return np.asarray((level - first) / (flat[far] - first))

    points = np.empty((len(across) + len(down), 2))
    for on, near, step, axis in (
        (slice(len(across)), across, 1, 0),
        (slice(len(across), None), down, width, 1),
    ):
        row = near // width
        points[on, 0], points[on, 1] = near - row * width - 0.5, row - 0.5
        points[on, axis] += part(near, near + step)
    return points


def _large_enough(points: Points, firsts: Ints, counts: Ints, min_area: float) -> EdgeLines:
    if not len(counts):
        return EdgeLines(points, firsts, counts, np.zeros(0))
    ahead = np.roll(points, -1, axis=0)
    ahead[firsts + counts - 1] = points[firsts]
    areas = np.add.reduceat(crosses(ahead, points), firsts) / 2
    return EdgeLines(points, firsts, counts, areas).kept(np.abs(areas) >= min_area)
