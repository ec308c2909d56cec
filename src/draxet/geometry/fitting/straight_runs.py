"""Straight runs: the longest stretches of samples that are truly straight.

From every sample the longest stretch that a line fits is found by doubling and halving its length,
all samples at once, on running sums of moments. A stretch counts as straight only where what is
left over has no bend in it: on a gentle curve a line fits for a while too, but the leftover is then
a bow.
"""

from __future__ import annotations

import numpy as np

from draxet.geometry.arrays import Bools, Floats, Ints, Points, columns, crosses, dots, rows
from draxet.geometry.fitting.loops import Unrolled
from draxet.record import record

__all__ = ["Moments", "StraightRuns", "straight_runs"]

_PROBES = 17
_LOOKED_AT = 4
"""Of neighbouring starts every so manieth is looked at first."""


@record(frozen=True)
class StraightRuns:
    """k runs from sample `first` to sample `last` (k,); each fitted line goes through `middle`
    along `direction` (k, 2)."""

    first: Ints
    last: Ints
    middle: Points
    direction: Points


class Moments:
    """Running sums over samples, from which the best line of any stretch follows in a few
    operations."""

    def __init__(self, loops: Unrolled) -> None:
        self.base = np.repeat(rows(loops.points, loops.firsts), loops.counts, axis=0)
        x, y = (loops.points - self.base).T
        self.sums = np.zeros((5, len(x) + 1))
        for total, values in zip(self.sums, (x, y, x * x, x * y, y * y), strict=True):
            np.cumsum(values, out=total[1:])

    def line(self, first: Ints, last: Ints) -> tuple[Points, Points, Floats]:
        """Best line of samples first..last, both included: its middle, direction (k, 2) and the rms
        distance (k,)."""
        return self._line(self._sums(first, last), last - first + 1, rows(self.base, first))

    def straightness(self, first: Ints, last: Ints) -> Floats:
        """The rms distance (k,) alone."""
        _, _, _, _, half, lean = self._spread(self._sums(first, last), last - first + 1)
        return np.asarray(np.sqrt(np.maximum(lean - half, 0.0)))

    def straightness_throughout(self, steps: int) -> Floats:
        """The rms distance (n - steps,) of the stretches of so many steps from each sample;
        nonsense where one leaves its loop."""
        ahead = steps + 1
        x, y, xx, xy, yy = self.sums[:, ahead:] - self.sums[:, :-ahead]
        mean_x, mean_y = x / ahead, y / ahead
        xx -= x * mean_x
        xy -= x * mean_y
        yy -= y * mean_y
        least = xx + yy - np.sqrt((xx - yy) ** 2 + 4 * xy * xy)
        return np.asarray(np.sqrt(np.maximum(least, 0.0) / (2 * ahead)))

    def means(self, first: Ints, last: Ints) -> tuple[Floats, Floats]:
        """Means of x and of y over the samples first..last, of any shape."""
        x, y = self._sums(first, last)[:2]
        return x / (last - first + 1) + self.base[:, 0].take(first), y / (
            last - first + 1
        ) + self.base[:, 1].take(first)

    def line_of_two(
        self, first: Ints, last: Ints, other_first: Ints, other_last: Ints
    ) -> tuple[Points, Points, Floats]:
        """As ``line``, for two stretches of the same loop taken together."""
        sums = self._sums(first, last) + self._sums(other_first, other_last)
        return self._line(sums, last - first + other_last - other_first + 2, self.base[first])

    def _sums(self, first: Ints, last: Ints) -> Floats:
        return np.asarray(
            self.sums.take(last + 1, axis=1, mode="clip")
            - self.sums.take(first, axis=1, mode="clip")
        )

    @staticmethod
    def _spread(sums: Floats, n: Ints | int) -> tuple[Floats, ...]:
        """Means of x and y, twice the covariance and the difference of the variances, their
        hypotenuse and the mean variance."""
        x, y, xx, xy, yy = sums / n
        cxx, cxy, cyy = xx - x * x, xy - x * y, yy - y * y
        return x, y, 2 * cxy, cxx - cyy, np.sqrt((cxx - cyy) ** 2 / 4 + cxy * cxy), (cxx + cyy) / 2

    @classmethod
    def _line(cls, sums: Floats, n: Ints, base: Points) -> tuple[Points, Points, Floats]:
        x, y, twice, differ, half, lean = cls._spread(sums, n)
        angle = np.arctan2(twice, differ) / 2
        rms = np.sqrt(np.maximum(lean - half, 0.0))
        return columns(x, y) + base, columns(np.cos(angle), np.sin(angle)), rms


def straight_runs(
    loops: Unrolled, moments: Moments, ends: Ints, rms: float, least: int, bow: float
) -> StraightRuns:
    """Straight runs that do not overlap, longest first.

    Parameters
    ----------
    ends : (n,) for each sample the last one that a run from it may reach (the next corner).
    rms : greatest rms distance from the line; `bow` : greatest bend of what is left over; both in
    the samples' unit.
    least : fewest steps of a run.
    """
    long = ends[:-least] - np.arange(len(ends) - least) >= least
    starts = np.flatnonzero(long & (moments.straightness_throughout(least) <= rms))
    starts, lasts = _farthest_reaching(moments, starts, ends, rms, least)
    straight = _without_bow(moments, starts, lasts, bow)
    first, last = _apart(starts[straight], lasts[straight], len(loops.points), least)
    straight = _without_bow(moments, first, last, bow)  # what is left of a run may be its bent end
    first, last = _without_bent_ends(
        loops.points, moments, first[straight], last[straight], bow, least
    )
    trim = (last - first) // 10
    middle, direction, _ = moments.line(first + trim, last - trim)
    forward = dots(loops.points[last] - loops.points[first], direction) >= 0
    return StraightRuns(first, last, middle, np.where(forward[:, None], direction, -direction))


def _farthest_reaching(
    moments: Moments, starts: Ints, ends: Ints, rms: float, least: int
) -> tuple[Ints, Ints]:
    """For each sample up to which a line fits from any of the `starts`, the first of those.

    Of a row of neighbouring starts some are looked at first: between two that reach equally far no
    other reaches farther.
    """
    place = np.arange(len(starts))
    begins = np.diff(starts, prepend=-2) > 1
    in_row = place - np.maximum.accumulate(np.where(begins, place, 0))
    some = np.flatnonzero((in_row % _LOOKED_AT == 0) | np.append(begins[1:], True)[: len(starts)])
    lasts = np.full(len(starts), -1)
    lasts[some] = _longest(moments, starts[some], ends[starts[some]], rms, least)
    following = np.searchsorted(some, place)
    rest = np.flatnonzero(
        (lasts < 0) & (lasts[some[following]] != lasts[some[np.maximum(following - 1, 0)]])
    )
    lasts[rest] = _longest(moments, starts[rest], ends[starts[rest]], rms, least)
    known = np.flatnonzero(lasts >= 0)
    starts, lasts = starts[known], lasts[known]
    new = np.diff(lasts, prepend=-1) > 0
    return starts[new], lasts[new]


def _longest(moments: Moments, starts: Ints, ends: Ints, rms: float, least: int) -> Ints:
    """For each start the farthest sample up to which a line fits within `rms`."""
    good = starts + least
    bad = ends + 1
    growing = np.arange(len(starts))
    size = least
    while growing.size:  # doubling
        size *= 2
        reach = np.minimum(starts[growing] + size, ends[growing])
        fits = moments.straightness(starts[growing], reach) <= rms
        good[growing[fits]] = reach[fits]
        bad[growing[~fits]] = reach[~fits]
        growing = growing[fits & (reach < ends[growing])]
    between = np.flatnonzero(bad - good > 1)
    while between.size:  # halving
        middle = (good[between] + bad[between]) // 2
        fits = moments.straightness(starts[between], middle) <= rms
        good[between[fits]] = middle[fits]
        bad[between[~fits]] = middle[~fits]
        between = between[bad[between] - good[between] > 1]
    return good


def _without_bow(moments: Moments, first: Ints, last: Ints, bow: float) -> Bools:
    """Whether what a line leaves over on each stretch, its outer tenths aside, has neither bow nor
    twist.

    The leftover is taken as the means of equal parts of the stretch: single samples waver with the
    pixels they lie between.
    """
    trim = (last - first) // 10
    a, b = first + trim, last - trim
    middle, direction, _ = moments.line(a, b)
    share = np.linspace(0, 1, _PROBES + 1)
    edge = np.rint(a[:, None] + (b + 1 - a)[:, None] * share).astype(np.int64)
    upper = np.maximum(edge[:, 1:], edge[:, :-1] + 1)
    x, y = moments.means(edge[:, :-1], upper - 1)
    rest = (y - middle[:, 1, None]) * direction[:, 0, None] - (x - middle[:, 0, None]) * direction[
        :, 1, None
    ]
    u = 2 * (share[1:] + share[:-1]) / 2 - 1
    basis = np.stack([(3 * u**2 - 1) / 2, (5 * u**3 - 3 * u) / 2], axis=1)
    basis /= (basis**2).sum(axis=0)
    return np.asarray((np.abs(rest @ basis) * 1.5 <= bow).all(axis=1))


def _without_bent_ends(
    points: Points, moments: Moments, first: Ints, last: Ints, bow: float, least: int
) -> tuple[Ints, Ints]:
    """Stretches cut back to where their samples come within `bow` of the line of their middle
    part."""
    trim = (last - first) // 10
    middle, direction, _ = moments.line(first + trim, last - trim)
    inwards = np.arange(2 * least)

    def cut(ends: Ints, sense: int) -> Ints:
        steps = np.minimum(inwards, ((last - first) // 3)[:, None])
        off = rows(points, ends[:, None] + sense * steps) - middle[:, None]
        away = np.abs(crosses(direction[:, None], off))
        near = np.append(away[:, :-1] <= 0.7 * bow, np.ones((len(ends), 1), dtype=bool), axis=1)
        return np.asarray(ends + sense * steps[np.arange(len(ends)), np.argmax(near, axis=1)])

    return cut(first, 1), cut(last, -1)


def _apart(first: Ints, last: Ints, total: int, least: int) -> tuple[Ints, Ints]:
    """Of overlapping stretches the longest, then what is left of the others where it is still long
    enough."""
    taken = bytearray(total + 1)
    kept: list[tuple[int, int]] = []
    for k in np.argsort(first - last, kind="stable").tolist():
        a, b = int(first[k]), int(last[k])
        clash = taken.count(1, a, b)
        if clash:
            if clash > (b - a) // 2:
                continue
            whole = b - a
            a = taken.find(0, a, b)
            end = taken.find(1, a, b)
            b = b if end < 0 else end
            if b - a < max(least, whole // 2):
                continue
        taken[a:b] = b"\1" * (b - a)
        kept.append((a, b))
    kept.sort()
    pairs = np.array(kept, dtype=np.int64).reshape(-1, 2)
    return pairs[:, 0], pairs[:, 1]
