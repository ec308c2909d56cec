"""Loops: many closed chains of evenly spaced samples in one batch.

A *loop* is a closed chain. A *sample* is one of its points; neighbours lie `step` apart along it.
Loops are *unrolled* where each one's first sample stands again at its end, so that no interval of
samples ever wraps round.
"""

from __future__ import annotations

import numpy as np

from draxet.cached import cached_property
from draxet.geometry.arrays import Bools, Floats, Ints, Points, columns, norms, ranges, rows
from draxet.record import record

__all__ = ["Loops", "Unrolled", "resampled", "resampled_open"]

_ENOUGH = 150
"""Samples with which no shape needs them nearer together."""
_LEAST = 8


@record(frozen=True)
class Loops:
    """`points` (n, 2); loop k is ``points[firsts[k]:firsts[k] + counts[k]]``."""

    points: Points
    firsts: Ints
    counts: Ints

    @cached_property
    def owner(self) -> Ints:
        """(n,) the loop each sample belongs to."""
        return np.repeat(np.arange(len(self.counts)), self.counts)

    def beside(self, offset: int) -> Ints:
        """(n,) index of the sample `offset` places on, round the loop."""
        beside = np.arange(len(self.points)) + offset
        reach = np.minimum(abs(offset), self.counts)  # only so many samples of each loop come round
        at, owner = ranges(self.firsts if offset < 0 else self.firsts + self.counts - reach, reach)
        first, count = self.firsts[owner], self.counts[owner]
        beside[at] = first + np.remainder(at - first + offset, count)
        return beside

    def on_from(self, at: Ints, offset: int) -> Ints:
        """Index of the sample `offset` places on from each of `at`, round its loop."""
        owner = rows(self.owner, at)
        first, count = rows(self.firsts, owner), rows(self.counts, owner)
        return np.asarray(first + np.remainder(at - first + offset, count))

    def as_open(self) -> Unrolled:
        """The chains taken as open ones: nothing is repeated."""
        index = np.arange(len(self.points))
        return Unrolled(self.points, self.firsts, self.counts, index, self.owner)

    def unrolled(self, begin: Ints) -> Unrolled:
        """Each loop from its sample ``begin[k]`` (an index into `points`) round to that sample
        again."""
        counts = self.counts + 1
        step, owner = ranges(np.zeros(len(counts), dtype=np.int64), counts)
        source = np.repeat(begin, counts) + step
        source -= np.where(
            source >= np.repeat(self.firsts + self.counts, counts),
            np.repeat(self.counts, counts),
            0,
        )
        return Unrolled(
            rows(self.points, source), np.cumsum(counts) - counts, counts, source, owner
        )


@record(frozen=True)
class Unrolled:
    """`points` (n, 2) with each loop's first sample again at its end; `source` (n,) their index in
    the loops; `owner` (n,)."""

    points: Points
    firsts: Ints
    counts: Ints
    source: Ints
    owner: Ints

    @property
    def lasts(self) -> Ints:
        return self.firsts + self.counts - 1

    @cached_property
    def loose(self) -> Bools:
        """(n,) whether an open chain begins or ends at a sample."""
        loose = np.zeros(len(self.points), dtype=bool)
        is_open = (self.points[self.firsts] != self.points[self.lasts]).any(axis=1)
        loose[self.firsts[is_open]] = loose[self.lasts[is_open]] = True
        return loose

    @cached_property
    def along(self) -> Floats:
        """(n,) how far each sample lies along the way through all loops, one after the other."""
        return np.cumsum(norms(np.diff(self.points, axis=0, prepend=self.points[:1])))


def resampled(
    points: Points, firsts: Ints, counts: Ints, step: float = 1.0, finest: float | None = None
) -> Loops:
    """Closed chains as loops of samples about `step` apart; in loops that would have few, nearer,
    down to `finest`.

    Parameters
    ----------
    points, firsts, counts : chains as in ``Loops``, spaced in any way.
    """
    closed_counts = counts + 1
    index, owner = ranges(firsts, closed_counts)
    ends = np.cumsum(closed_counts) - 1
    index[ends] = firsts
    chain = rows(points, index)
    gap = norms(chain[1:] - chain[:-1]) if len(chain) else np.zeros(0)
    gap[ends[:-1]] = 0.0
    along = np.concatenate([[0.0], np.cumsum(gap)])
    begin, length = along[ends - counts], along[ends] - along[ends - counts]
    steps = step if finest is None else np.clip(length / _ENOUGH, finest, step)
    sample_counts = np.maximum(_LEAST, np.rint(length / steps)).astype(np.int64)
    at, loop = ranges(np.zeros(len(counts), dtype=np.int64), sample_counts)
    where = np.repeat(begin, sample_counts) + np.repeat(length / sample_counts, sample_counts) * at
    # chains touch in `along`, so a small lean makes each chain's part of it its own
    lean = np.arange(len(counts), dtype=np.float64)
    x, y = (np.interp(where + lean[loop], along + lean[owner], chain[:, k]) for k in (0, 1))
    return Loops(columns(x, y), np.cumsum(sample_counts) - sample_counts, sample_counts)


def resampled_open(points: Points, firsts: Ints, counts: Ints, step: float = 1.0) -> Loops:
    """Open chains (of two points or more) with samples about `step` apart, their ends kept; at
    least three to a chain."""
    gap = norms(np.diff(points, axis=0, prepend=points[:1]))
    gap[firsts] = 0.0
    along = np.cumsum(gap)
    begin, length = along[firsts], along[firsts + counts - 1] - along[firsts]
    sample_counts = np.maximum(2, np.rint(length / step)).astype(np.int64) + 1
    at, chain = ranges(np.zeros(len(counts), dtype=np.int64), sample_counts)
    where = begin[chain] + length[chain] * (at / (sample_counts[chain] - 1))
    owner = np.repeat(np.arange(len(counts)), counts)
    lean = np.arange(
        len(counts), dtype=np.float64
    )  # chains touch in `along`: a small lean makes each one's part its own
    x = np.interp(where + lean[chain], along + lean[owner], points[:, 0])
    y = np.interp(where + lean[chain], along + lean[owner], points[:, 1])
    return Loops(columns(x, y), np.cumsum(sample_counts) - sample_counts, sample_counts)


def near_true(flags: Bools, firsts: Ints, counts: Ints) -> Ints:
    """For each loop the index of its first true flag, or its first sample where none is."""
    at = np.flatnonzero(flags)
    place = np.searchsorted(at, firsts)
    found = np.append(at, len(flags))[place]
    return np.where(found < firsts + counts, found, firsts)
