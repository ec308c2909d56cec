"""Straight steps of spans, and which of them come near each other.

Each span is parted evenly into a power of two of steps, and the extents of one, two, four, … of
them stand in a binary tree (Gottschalk, Lin and Manocha, 1996, with upright boxes): pairs of spans
are followed down both trees at once.
"""

from __future__ import annotations

import numpy as np

from draxet.geometry.arrays import Bools, Floats, Ints, Points, dots, norms, ranges, rows
from draxet.geometry.spans import LINE, Spans
from draxet.record import record

__all__ = ["SAME", "Steps", "nearest_on_steps", "steps_of", "steps_that_meet"]

SAME = 2e-6
"""mm: places nearer to each other than that are one."""
_SHARE = 2e-3
"""Straight steps lie within this share of a span's size from it."""
_LEAST = 1e-5
_FEWEST, _MOST = 4, 4096
_AT_ONCE = 200_000
"""So many pairs of spans are followed down together."""


@record(frozen=True, eq=False)
class Steps:
    """Straight steps of n spans: the span each step belongs to, its number on that, of how many,
    and its `starts` and `ends` (m, 2).

    first, counts : of each span its first step, and how many it has. reach : how far its steps may
    lie from it. boxes : (2 m, 4) extents; of a span whose first step is f, row 2 f + 1 is all of
    it, and rows 2 f + 2 k and 2 f + 2 k + 1 are the two halves of row 2 f + k.
    """

    owner: Ints
    number: Ints
    count: Ints
    starts: Points
    ends: Points
    first: Ints
    counts: Ints
    reach: Floats
    boxes: Floats


def steps_of(spans: Spans, which: Ints) -> Steps:
    """The straight steps of some spans."""
    some = spans.take(which)
    extents = some.boxes()
    size = np.maximum(norms(extents[:, 2:] - extents[:, :2]), _LEAST)
    counts = np.ones(len(which), dtype=np.int64)
    power = np.ceil(np.log2(size))
    for each in np.unique(power):  # tolerances by size, a power of two each
        alike = np.flatnonzero(power == each)
        counts[alike] = some.take(alike).steps(max(2.0**each * _SHARE, _LEAST))
    counts = np.where(
        some.kinds == LINE, 1, 2 ** np.ceil(np.log2(counts.clip(_FEWEST, _MOST))).astype(np.int64)
    )
    number, owner = ranges(np.zeros(len(which), dtype=np.int64), counts)
    count = counts[owner]
    starts, ends = some.at(owner, number / count), some.at(owner, (number + 1) / count)
    first = np.cumsum(counts) - counts
    reach = np.where(some.kinds == LINE, 0.0, np.maximum(2 * size * _SHARE, _LEAST)) + SAME
    return Steps(
        which[owner],
        number,
        count,
        starts,
        ends,
        first,
        counts,
        reach,
        _boxes(starts, ends, 2 * first[owner] + count + number, first, counts),
    )


def _boxes(starts: Points, ends: Points, leaves: Ints, first: Ints, counts: Ints) -> Floats:
    boxes = np.empty((2 * len(starts), 4))
    boxes[leaves, :2], boxes[leaves, 2:] = np.minimum(starts, ends), np.maximum(starts, ends)
    size = int(counts.max(initial=1)) // 2
    while size:
        roots = 2 * first[counts > size]
        at = (roots[:, None] + np.arange(size, 2 * size)).ravel()
        below = (roots[:, None] + np.arange(2 * size, 4 * size, 2)).ravel()
        one, other = rows(boxes, below), rows(boxes, below + 1)
        boxes[at] = np.hstack(
            [np.minimum(one[:, :2], other[:, :2]), np.maximum(one[:, 2:], other[:, 2:])]
        )
        size //= 2
    return boxes


def steps_that_meet(a: Steps, b: Steps, first: Ints, second: Ints) -> tuple[Ints, Ints]:
    """Of pairs of spans, told by their places among those of `a` and `b`, the pairs of steps
    between which they may meet.

    Cost: that of the pairs, times the depth of their trees, while little of them is near the other.
    """
    one, other = [np.zeros(0, dtype=np.int64)], [np.zeros(0, dtype=np.int64)]
    for begin in range(0, len(first), _AT_ONCE):
        i, j = first[begin : begin + _AT_ONCE], second[begin : begin + _AT_ONCE]
        k, n = np.ones(len(i), dtype=np.int64), np.ones(len(i), dtype=np.int64)
        while len(i):
            near = _near(a, b, i, j, k, n)
            i, j, k, n = i[near], j[near], k[near], n[near]
            deeper_a, deeper_b = k < a.counts[i], n < b.counts[j]
            done = np.flatnonzero(~deeper_a & ~deeper_b)
            one.append(a.first[i[done]] + k[done] - a.counts[i[done]])
            other.append(b.first[j[done]] + n[done] - b.counts[j[done]])
            rest = np.flatnonzero(deeper_a | deeper_b)
            in_a = (deeper_a & (~deeper_b | (a.counts[i] * n >= b.counts[j] * k)))[
                rest
            ]  # the one of which more steps are left
            i, j, k, n = i[rest], j[rest], k[rest], n[rest]
            twice, half = np.repeat(np.arange(len(i)), 2), np.tile(np.arange(2), len(i))
            i, j, k, n = (
                i[twice],
                j[twice],
                np.where(in_a[twice], 2 * k[twice] + half, k[twice]),
                np.where(in_a[twice], n[twice], 2 * n[twice] + half),
            )
    found, others = np.concatenate(one), np.concatenate(other)
    if not len(found):
        return found, others
    s, v = nearest_on_steps(a.starts[found], a.ends[found], b.starts[others], b.ends[others])
    apart = (
        a.starts[found]
        + s[:, None] * (a.ends - a.starts)[found]
        - b.starts[others]
        - v[:, None] * (b.ends - b.starts)[others]
    )
    near = norms(apart) <= _of_steps(a)[found] + _of_steps(b)[others]
    return found[near], others[near]


def _of_steps(steps: Steps) -> Floats:
    reach: Floats = np.repeat(steps.reach, steps.counts)
    return reach


def _near(a: Steps, b: Steps, i: Ints, j: Ints, k: Ints, n: Ints) -> Bools:
    """Whether the extents of parts of spans come as near each other as their steps may lie from
    them."""
    box, other, reach = (
        rows(a.boxes, 2 * a.first[i] + k),
        rows(b.boxes, 2 * b.first[j] + n),
        a.reach[i] + b.reach[j],
    )
    near: Bools = box[:, 0] <= other[:, 2] + reach
    near &= box[:, 1] <= other[:, 3] + reach
    near &= other[:, 0] <= box[:, 2] + reach
    near &= other[:, 1] <= box[:, 3] + reach
    return near


def nearest_on_steps(p: Points, q: Points, r: Points, w: Points) -> tuple[Floats, Floats]:
    """Parameters 0..1 on straight steps p..q and r..w (m, 2) where they cross, or at which they are
    nearest (Ericson, 2005, 5.1.9)."""
    d, e, away = q - p, w - r, r - p
    dd, ee, de = dots(d, d), dots(e, e), dots(d, e)
    rest = dd * ee - de * de
    with np.errstate(divide="ignore", invalid="ignore"):
        s = np.where(rest > 1e-14 * dd * ee, (dots(away, d) * ee - dots(away, e) * de) / rest, 0.5)
        s = np.clip(np.nan_to_num(s, nan=0.5), 0, 1)
        v = np.clip(np.nan_to_num((dots(s[:, None] * d - away, e)) / ee, nan=0.5), 0, 1)
        s = np.clip(np.nan_to_num((dots(away + v[:, None] * e, d)) / dd, nan=0.5), 0, 1)
    return s, v
