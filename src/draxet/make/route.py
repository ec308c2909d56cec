"""The shortest way over many places: neighbours first, then reversed stretches (2-opt, Croes, 1958)
and moved ones (Or-opt, Or, 1976), looked for among the nearest neighbours alone."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from scipy.spatial import cKDTree

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
    tree, left = cKDTree(both), np.ones(2 * count, dtype=bool)
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
    count = len(entries)
    if count < 3:
        return nearest_order(start, entries, exits, report)
    order = nearest_order(start, entries, exits, report)
    a = [(float(x), float(y)) for x, y in entries]
    b = [(float(x), float(y)) for x, y in exits]
    home = (float(start[0]), float(start[1]))
    both = np.vstack([entries, exits])
    _, near = cKDTree(both).query(both, k=min(2 * _NEIGHBOURS, 2 * count))
    beside: list[list[int]] = []
    for k in range(count):
        some = dict.fromkeys(int(n) % count for n in np.concatenate([near[k], near[k + count]]))
        beside.append([n for n in some if n != k][: 2 * _NEIGHBOURS])
    tour = [k for k, _ in order]
    back = [False] * count
    for k, other_way in order:
        back[k] = other_way
    place = [0] * count
    for at, k in enumerate(tour):
        place[k] = at

    begin = [b[k] if back[k] else a[k] for k in range(count)]
    end = [a[k] if back[k] else b[k] for k in range(count)]
    dist = math.dist

    def flip(k: int) -> None:
        back[k] = not back[k]
        begin[k], end[k] = end[k], begin[k]

    def before(at: int) -> tuple[float, float]:
        return home if at == 0 else end[tour[at - 1]]

    def reversed_between(i: int, j: int) -> None:
        part = tour[i : j + 1][::-1]
        tour[i : j + 1] = part
        for at, k in enumerate(part, i):
            flip(k)
            place[k] = at

    def improved(k: int) -> float:
        """Try to reverse a stretch that begins or ends beside a line, or to move the line to
        another place; how much that gains."""
        i = place[k]
        here, came = begin[k], before(i)
        now = dist(came, here)
        for other in beside[k]:
            j = place[other]
            # reverse from i to j: what came before i leads to the end of j, and the beginning of i
            # to what follows j
            if j > i:
                gain = now - dist(came, end[other])
                if gain > _GAIN:
                    last = j == count - 1
                    gain += (
                        0.0
                        if last
                        else dist(end[other], begin[tour[j + 1]]) - dist(here, begin[tour[j + 1]])
                    )
                    if gain > _GAIN:
                        reversed_between(i, j)
                        return gain
            # reverse from j + 1 to i: the end of j leads to the end of i, the beginning of j + 1 to
            # what follows i
            elif j < i - 1:
                first = tour[j + 1]
                what_follows = None if i == count - 1 else begin[tour[i + 1]]
                gain = dist(end[other], begin[first]) - dist(end[other], end[k])
                gain += (
                    0.0
                    if what_follows is None
                    else dist(end[k], what_follows) - dist(begin[first], what_follows)
                )
                if gain > _GAIN:
                    reversed_between(j + 1, i)
                    return gain
        for stretch in (1, 2, 3):
            if i + stretch > count:
                break
            tail = tour[i + stretch - 1]
            follows = None if i + stretch == count else begin[tour[i + stretch]]
            out = now + (0.0 if follows is None else dist(end[tail], follows) - dist(came, follows))
            for other in beside[k]:
                j = place[other]
                if i <= j < i + stretch or j == i - 1:
                    continue
                nxt = None if j == count - 1 else begin[tour[j + 1]]
                gap = 0.0 if nxt is None else dist(end[other], nxt)
                plain = (
                    dist(end[other], here) + (0.0 if nxt is None else dist(end[tail], nxt)) - gap
                )
                turned = (
                    dist(end[other], end[tail]) + (0.0 if nxt is None else dist(here, nxt)) - gap
                )
                if out - min(plain, turned) > _GAIN:
                    part = tour[i : i + stretch]
                    if turned < plain:
                        part = part[::-1]
                        for one in part:
                            flip(one)
                    del tour[i : i + stretch]
                    to = j + 1 if j < i else j + 1 - stretch
                    tour[to:to] = part
                    low, high = min(i, to), max(i, to) + stretch
                    for at in range(low, min(high, count)):
                        place[tour[at]] = at
                    return out - min(plain, turned)
        return 0.0

    def settle(waiting: list[int]) -> float:
        """Improve about some lines until nothing more is gained; how much was."""
        total = 0.0
        for _ in range(_ROUNDS):
            again = []
            for done, k in enumerate(waiting):
                if done % _EVERY == 0:
                    report(0.6, "looking for the shortest way")
                for tries in range(_TRIES):
                    gain = improved(k)
                    total += gain
                    if not gain:
                        break
                if tries:
                    again += [k, *beside[k][:4]]
            if not again:
                break
            waiting = list(dict.fromkeys(again))
        return total

    def joint(at: int) -> float:
        """How far it is to the line at a place in the tour."""
        return dist(before(at), begin[tour[at]]) if at < count else 0.0

    settle(list(tour))
    rng = np.random.default_rng(count)  # the same lines always give the same way
    kicks = min(_KICKS * count, _MOST_KICKS) if count >= _LEAST_KICKED else 0
    for i, one, other in rng.integers(
        (0, 1, 1), (max(count - 3, 1), _SWAPPED, _SWAPPED), (kicks, 3)
    ).tolist():
        j, k = min(i + one, count - 1), min(i + one + other, count)
        if not i < j < k:
            continue
        kept = tour[:], back[:], place[:], begin[:], end[:]
        ends = [
            tour[max(i - 1, 0)],
            tour[i],
            tour[j - 1],
            tour[j],
            tour[k - 1],
            tour[min(k, count - 1)],
        ]
        gain = joint(i) + joint(j) + joint(k)
        tour[i:k] = tour[j:k] + tour[i:j]
        for at in range(i, k):
            place[tour[at]] = at
        gain -= joint(i) + joint(i + k - j) + joint(k)
        if gain + settle(list(dict.fromkeys(ends))) <= _GAIN:
            tour[:], back[:], place[:], begin[:], end[:] = kept
    return [(k, back[k]) for k in tour]
