"""Intervals of samples, many at a time, and the frames in which spans are fitted to them.

In a *chord's frame* the interval's start is (0, 0) and its end (1, 0).
"""

from __future__ import annotations

from typing import TypeVar

import numpy as np

from draxet.geometry.arrays import (
    Bools,
    Floats,
    Ints,
    NDArray,
    Points,
    columns,
    crosses,
    dots,
    kept,
    norms,
    ranges,
    rows,
)
from draxet.record import record

__all__ = ["Chords", "Intervals"]

Scalar = TypeVar("Scalar", bound=np.generic)

_PLENTY, _MOST_THINNED = 10, 3
"""A longer interval may be thinned so that about so many steps are left, or to every so manieth
sample at the most."""
_NO_CHORD = 1e-9


@record(frozen=True)
class Intervals:
    """Samples of k intervals laid end to end: `points` (n, 2), `owner` (n,), `firsts` (k,) and
    `counts` (k,) ≥ 2; `stride` (k,) says how many samples apart those taken stand."""

    points: Points
    owner: Ints
    firsts: Ints
    counts: Ints
    stride: Ints | None = None

    @staticmethod
    def of(points: Points, first: Ints, last: Ints, *, thinned: bool = False) -> Intervals:
        """The samples first..last, both included, of each interval; of long ones only some, evenly,
        where `thinned`."""
        if not thinned:
            counts = last - first + 1
            index, owner = ranges(first, counts)
            return Intervals(rows(points, index), owner, np.cumsum(counts) - counts, counts)
        size = last - first
        stride = np.clip(size // _PLENTY, 1, _MOST_THINNED)
        counts = -(-size // stride) + 1
        step, owner = ranges(np.zeros(len(counts), dtype=np.int64), counts)
        index = np.repeat(first, counts) + step * np.repeat(stride, counts)
        index[np.cumsum(counts) - 1] = last
        return Intervals(rows(points, index), owner, np.cumsum(counts) - counts, counts, stride)

    def each(self, values: NDArray[Scalar]) -> NDArray[Scalar]:
        """For each sample (..., n) the value of its interval, of values (..., k): of many at once
        in a fraction of the time."""
        spread: NDArray[Scalar] = values.repeat(self.counts, axis=-1)
        return spread

    def sums(self, values: Floats) -> Floats:
        """Sums (..., k) of values (..., n)."""
        return (
            np.add.reduceat(values, self.firsts, axis=-1) if len(self.counts) else values[..., :0]
        )

    def greatest(self, values: Floats) -> tuple[Floats, Ints]:
        """The greatest of `values` (n,) in each interval and how many samples in it stands."""
        if not len(self.counts):
            return values[:0], self.counts
        peak = np.maximum.reduceat(values, self.firsts)
        at = np.flatnonzero(values == self.each(peak))
        place = at[np.searchsorted(at, self.firsts)] - self.firsts
        return peak, place if self.stride is None else place * self.stride


@record(frozen=True)
class Chords:
    """Intervals in the frames of chords from `starts` to `ends` (k, 2): samples `xy` (2, n); chords
    are `along` (k, 2) and `size` (k,) long."""

    part: Intervals
    xy: Floats
    starts: Points
    ends: Points
    along: Points
    size: Floats

    @staticmethod
    def of(part: Intervals, starts: Points, ends: Points) -> Chords:
        chord = ends - starts
        size = norms(chord)
        none = size <= _NO_CHORD
        size = np.where(none, 1.0, size)
        along = np.where(none[:, None], (1.0, 0.0), chord / size[:, None])
        x0, y0, cos, sin = part.each(np.concatenate([starts.T, along.T / size]))
        x, y = part.points[:, 0] - x0, part.points[:, 1] - y0
        return Chords(
            part, np.stack([x * cos + y * sin, y * cos - x * sin]), starts, ends, along, size
        )

    def take(self, keep: Bools) -> Chords:
        """Those intervals for which `keep` (k,) holds."""
        part = self.part
        samples, counts = part.each(keep), part.counts[keep]
        some = Intervals(
            kept(part.points, samples),
            np.repeat(np.arange(len(counts)), counts),
            np.cumsum(counts) - counts,
            counts,
            None if part.stride is None else part.stride[keep],
        )
        return Chords(
            some,
            self.xy.compress(samples, axis=1),
            self.starts[keep],
            self.ends[keep],
            self.along[keep],
            self.size[keep],
        )

    @property
    def even(self) -> Floats:
        """(n,) parameters that run evenly from 0 to 1 in each interval."""
        part = self.part
        first, step = part.each(np.stack([part.firsts, 1 / np.maximum(part.counts - 1, 1)]))
        return np.asarray((np.arange(self.xy.shape[1]) - first) * step)

    def into(self, vectors: Points) -> Points:
        """Directions (k, 2) as the chords' frames see them."""
        return columns(dots(self.along, vectors), crosses(self.along, vectors))

    def within(self, places: Points) -> Points:
        """Places (k, 2), where the samples came from, as the chords' frames see them."""
        return self.into(places - self.starts) / self.size[:, None]

    def out_of(self, x: Floats, y: Floats) -> Points:
        """Places (k,) of the frames, (k, 2), where the samples came from."""
        cos, sin = self.along.T * self.size
        return self.starts + columns(x * cos - y * sin, x * sin + y * cos)
