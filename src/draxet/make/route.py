"""The shortest way over many places: neighbours first, then reversed stretches (2-opt, Croes, 1958)
and moved ones (Or-opt, Or, 1976), looked for among the nearest neighbours alone."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
import scipy

from draxet.geometry.arrays import Points
from draxet.progress import Progress, Unwatched

__all__ = ["nearest_order", "route_length", "shortest_order"]

_NEIGHBOURS = 7
_EVERY = 300
_GAIN = 1e-9
_ROUNDS, _TRIES = 60, 8
_KICKS, _MOST_KICKS, _LEAST_KICKED, _SWAPPED = 1, 400, 8, 30
"""So often two stretches, of no more lines than that, are swapped and the way is looked at
again."""


def nearest_order(
    start: Points, entries: Points, exits: Points, report: Progress = Unwatched()
) -> list[tuple[int, bool]]:
    """From a start always on to the nearest that is left: numbers, and whether each is run the
    other way. A line has an entry and an exit (n, 2)."""
    count = len(entries)
    both = np.vstack([entries, exits])
    tree, left = scipy.spatial.cKDTree(both), np.ones(2 * count, dtype=bool)
    at = start
    order: list[tuple[int, bool]] = []
    for done in range(count):
        if done % _EVERY == 0:
            report(0.5, "looking for the shortest way")
        k = 8
        while True:
            _, near = tree.query(at, k=min(k, 2 * count))
            found = [int(n) for n in np.atleast_1d(near) if left[n]]
            if found or k >= 2 * count:
                break
            k *= 4
        one = found[0]
        number, back = one % count, one >= count
        order.append((number, back))
        left[number] = left[number + count] = False
        at = entries[number] if back else exits[number]
    return order


def route_length(
    start: Points, entries: Points, exits: Points, order: Sequence[tuple[int, bool]]
) -> float:
    """How far one travels from a start to each line in order, in mm; the lines themselves do not
    count."""
    if not order:
        return 0.0
    begins = np.array([exits[k] if back else entries[k] for k, back in order])
    ends = np.array([entries[k] if back else exits[k] for k, back in order])
    return float(np.hypot(*(begins - np.vstack([start[None], ends[:-1]])).T).sum())


def shortest_order(
    start: Points, entries: Points, exits: Points, report: Progress = Unwatched()
) -> list[tuple[int, bool]]:
    """A short way from a start over all lines, each run either way; it ends where it ends.
    Cancelled where `report` says so."""
    order = nearest_order(start, entries, exits, report)
    if len(order) < 3:
        return order
    tour = _Tour(start, entries, exits, order, report)
    tour.settle(list(tour.order))
    tour.kick()
    return [(k, tour.back[k]) for k in tour.order]


def _nearest_lines(entries: Points, exits: Points) -> list[list[int]]:
    """Of each line the numbers of those with an end near one of its own, the nearest first."""
    count, both = len(entries), np.vstack([entries, exits])
    _, near = scipy.spatial.cKDTree(both).query(both, k=min(2 * _NEIGHBOURS, 2 * count))
    beside = []
    for k in range(count):
        some = dict.fromkeys(int(n) % count for n in np.concatenate([near[k], near[k + count]]))
        beside.append([n for n in some if n != k][: 2 * _NEIGHBOURS])
    return beside


class _Tour:
    """A way over all lines that is improved in place: `order` holds their numbers, `place` where
    each stands in it, `back` whether it is run the other way, `begin` and `end` where it then
    begins and ends."""

    def __init__(
        self,
        start: Points,
        entries: Points,
        exits: Points,
        order: Sequence[tuple[int, bool]],
        report: Progress,
    ) -> None:
        self.report, self.count = report, len(order)
        self.home = (float(start[0]), float(start[1]))
        self.order = [k for k, _ in order]
        ends = ([(float(x), float(y)) for x, y in some] for some in (entries, exits))
        self.begin, self.end = ends
        self.back = [False] * self.count
        self.place = [0] * self.count
        for at, (k, back) in enumerate(order):
            self.place[k] = at
            if back:
                self._flip(k)
        self.beside = _nearest_lines(entries, exits)

    def settle(self, waiting: list[int]) -> float:
        """Improve about some lines until nothing more is gained; how much was."""
        total = 0.0
        for _ in range(_ROUNDS):
            again: list[int] = []
            for done, k in enumerate(waiting):
                if done % _EVERY == 0:
                    self.report(0.6, "looking for the shortest way")
                for tries in range(_TRIES):
                    gain = self._improved(k)
                    total += gain
                    if not gain:
                        break
                if tries:
                    again += [k, *self.beside[k][:4]]
            if not again:
                break
            waiting = list(dict.fromkeys(again))
        return total

    def kick(self) -> None:
        """Swap two stretches by chance, and keep that where the way about them then comes out
        shorter."""
        count, order = self.count, self.order
        rng = np.random.default_rng(count)  # the same lines always give the same way
        kicks = min(_KICKS * count, _MOST_KICKS) if count >= _LEAST_KICKED else 0
        highest = (max(count - 3, 1), _SWAPPED, _SWAPPED)
        for i, one, other in rng.integers((0, 1, 1), highest, (kicks, 3)).tolist():
            j, k = min(i + one, count - 1), min(i + one + other, count)
            if not i < j < k:
                continue
            lists: tuple[list[Any], ...] = order, self.back, self.place, self.begin, self.end
            kept = [each[:] for each in lists]
            places = (max(i - 1, 0), i, j - 1, j, k - 1, min(k, count - 1))
            about = list(dict.fromkeys(order[at] for at in places))
            if self._swapped(i, j, k) + self.settle(about) <= _GAIN:
                for each, before in zip(lists, kept, strict=True):
                    each[:] = before

    def _swapped(self, i: int, j: int, k: int) -> float:
        """Put the stretch from j to k before that from i to j; how much that gains."""
        gain = self._joint(i) + self._joint(j) + self._joint(k)
        self.order[i:k] = self.order[j:k] + self.order[i:j]
        for at in range(i, k):
            self.place[self.order[at]] = at
        return gain - (self._joint(i) + self._joint(i + k - j) + self._joint(k))

    def _flip(self, k: int) -> None:
        self.back[k] = not self.back[k]
        self.begin[k], self.end[k] = self.end[k], self.begin[k]

    def _before(self, at: int) -> tuple[float, float]:
        return self.home if at == 0 else self.end[self.order[at - 1]]

    def _joint(self, at: int) -> float:
        """How far it is to the line at a place in the order."""
        return math.dist(self._before(at), self.begin[self.order[at]]) if at < self.count else 0.0

    def _reverse(self, i: int, j: int) -> None:
        """Run the lines from place i to j in the other order, each the other way."""
        part = self.order[i : j + 1][::-1]
        self.order[i : j + 1] = part
        for at, k in enumerate(part, i):
            self._flip(k)
            self.place[k] = at

    def _improved(self, k: int) -> float:
        """Reverse a stretch that begins or ends beside a line, or move the line to another place,
        where that gains something; how much."""
        return self._by_reversing(k) or self._by_moving(k)

    def _by_reversing(self, k: int) -> float:
        order, begin, end, dist = self.order, self.begin, self.end, math.dist
        i = self.place[k]
        here, came = begin[k], self._before(i)
        now = dist(came, here)
        follows = None if i == self.count - 1 else begin[order[i + 1]]
        for other in self.beside[k]:
            j = self.place[other]
            if (
                j > i
            ):  # what came before i leads to the end of j, the beginning of i to what follows j
                gain = now - dist(came, end[other])
                if gain > _GAIN and j < self.count - 1:
                    beyond = begin[order[j + 1]]
                    gain += dist(end[other], beyond) - dist(here, beyond)
                low, high = i, j
            elif (
                j < i - 1
            ):  # the end of j leads to that of i, the beginning of j + 1 to what follows i
                first = begin[order[j + 1]]
                gain = dist(end[other], first) - dist(end[other], end[k])
                if follows is not None:
                    gain += dist(end[k], follows) - dist(first, follows)
                low, high = j + 1, i
            else:
                continue
            if gain > _GAIN:
                self._reverse(low, high)
                return gain
        return 0.0

    def _by_moving(self, k: int) -> float:
        order, begin, end, dist = self.order, self.begin, self.end, math.dist
        i, count = self.place[k], self.count
        here, came = begin[k], self._before(i)
        now = dist(came, here)
        for long in (1, 2, 3):
            if i + long > count:
                break
            tail = end[order[i + long - 1]]
            out = now
            if i + long < count:
                follows = begin[order[i + long]]
                out += dist(tail, follows) - dist(came, follows)
            for other in self.beside[k]:
                j = self.place[other]
                if i - 1 <= j < i + long:
                    continue
                plain, turned = dist(end[other], here), dist(end[other], tail)
                if j < count - 1:
                    then = begin[order[j + 1]]
                    gap = dist(end[other], then)
                    plain, turned = plain + dist(tail, then) - gap, turned + dist(here, then) - gap
                if out - min(plain, turned) > _GAIN:
                    self._move(i, long, j, turned=turned < plain)
                    return out - min(plain, turned)
        return 0.0

    def _move(self, i: int, long: int, j: int, *, turned: bool) -> None:
        """Move a stretch of lines from place i behind that at place j."""
        part = self.order[i : i + long]
        if turned:
            part = part[::-1]
            for k in part:
                self._flip(k)
        del self.order[i : i + long]
        to = j + 1 if j < i else j + 1 - long
        self.order[to:to] = part
        for at in range(min(i, to), min(max(i, to) + long, self.count)):
            self.place[self.order[at]] = at
