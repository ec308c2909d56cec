"""Round which areas edges run: cycles by the angles at their nodes."""

from __future__ import annotations

import numpy as np
import scipy

from draxet.geometry.arrays import Bools, Floats, Ints, Points, norms
from draxet.geometry.edges_once import SAME, Ground
from draxet.geometry.spans import ARC, CUBIC, Spans

__all__ = ["connected_parts", "cycles_of", "strung_sides"]

_CIRCLE = 0.2
"""Of the shortest edge at a place: how large the circle is on which its edges are told in order."""

_TO_CIRCLE = 12
"""Rounds by which a curve's way to that circle is found."""


def cycles_of(ends: Ints, edges: Spans) -> list[Ints]:
    """The ways round areas: arrays of sides (2 k for edge k as it runs, 2 k + 1 for it backwards),
    each area on their left."""
    if not len(ends):
        return []
    count = len(ends)
    sides = np.arange(2 * count)
    at = np.where(
        sides % 2 == 0, ends[sides // 2, 0], ends[sides // 2, 1]
    )  # where each side leaves from
    angles = _angles(ends, edges, at)
    order = np.lexsort([angles, at])
    place = np.empty(2 * count, dtype=np.int64)
    place[order] = np.arange(2 * count)
    first = np.searchsorted(
        at[order], at
    )  # the first side that leaves from the same place, and how many there are
    degree = np.bincount(at, minlength=int(at.max()) + 1)[at]
    twin = sides ^ 1
    following = order[
        first[twin] + (place[twin] - first[twin] - 1) % degree[twin]
    ]  # the next one clockwise from the way back
    left, found = np.ones(2 * count, dtype=bool), []
    onward = following.tolist()
    for side in range(2 * count):
        if left[side]:
            cycle, k = [], side
            while left[k]:
                left[k] = False
                cycle.append(k)
                k = onward[k]
            found.append(np.array(cycle))
    return found


def _angles(ends: Ints, edges: Spans, at: Ints) -> Floats:
    """Of each side the angle at which it crosses a small circle about the place that it leaves
    from; 0 where only two sides leave from there, of which each follows the other."""
    lengths = edges.lengths()
    extents = np.maximum(
        norms(edges.ends - edges.starts), 0.5 * lengths * (ends[:, 0] == ends[:, 1])
    )
    least = np.full(int(ends.max()) + 1, np.inf)
    for k in (0, 1):
        np.minimum.at(least, ends[:, k], np.minimum(extents, lengths))
    angles = np.zeros(len(at))
    sides = np.flatnonzero(np.bincount(at)[at] > 2)
    which, back = sides // 2, sides % 2 == 1
    some, lengths, radius = (
        edges.take(which),
        lengths[which],
        np.maximum(_CIRCLE * least[at[sides]], SAME),
    )
    t = np.clip(radius / np.maximum(lengths, 1e-300), 0.0, 1.0)
    if (arcs := np.flatnonzero((some.kinds == ARC) & (some.bulges != 0))).size:
        shape = some.take(arcs).arc_shapes()
        t[arcs] = np.clip(
            2
            * np.arcsin(np.clip(radius[arcs] / (2 * shape.radii), 0, 1))
            / np.maximum(np.abs(shape.sweep), 1e-300),
            0,
            1,
        )
    step = some.at(np.arange(len(sides)), np.where(back, 1 - t, t)) - np.where(
        back[:, None], some.ends, some.starts
    )
    if (curves := np.flatnonzero(some.kinds == CUBIC)).size:
        step[curves] = _to_circle(some.take(curves), back[curves], radius[curves], lengths[curves])
    angles[sides] = np.arctan2(step[:, 1], step[:, 0])
    return angles


def _to_circle(cubics: Spans, back: Bools, radius: Floats, lengths: Floats) -> Points:
    """From the end of each cubic to where it is first `radius` away from it: false position within
    a bracket, halved where it stalls (the Illinois method)."""
    way = back[:, None]
    p0, p3 = np.where(way, cubics.ends, cubics.starts), np.where(way, cubics.starts, cubics.ends)
    p1, p2 = (np.where(way, cubics.handles[:, k], cubics.handles[:, 1 - k]) for k in (1, 0))
    c, b = 3 * (p1 - p0), 3 * (p2 - 2 * p1 + p0)
    a = p3 - p0 - b - c

    def off(t: Floats) -> Points:
        u = t[:, None]
        return np.asarray(((a * u + b) * u + c) * u)

    high = np.minimum(1.0, 2.5 * radius / np.maximum(lengths, 1e-12))
    high = np.where(norms(off(high)) < radius, 0.5, high)
    low, under, over = np.zeros(len(high)), -radius, norms(off(high)) - radius
    side = np.zeros(len(high), dtype=np.int64)
    for _ in range(_TO_CIRCLE):
        middle = np.clip(low + (high - low) * under / np.minimum(under - over, -1e-300), low, high)
        away = norms(off(middle)) - radius
        inside = away < 0
        over, under = (
            np.where(inside & (side == 1), over / 2, over),
            np.where(~inside & (side == -1), under / 2, under),
        )
        low, under = np.where(inside, middle, low), np.where(inside, away, under)
        high, over = np.where(inside, high, middle), np.where(inside, over, away)
        side = np.where(inside, 1, -1)
    return off(high)


def strung_sides(sides: Ints, ground: Ground) -> list[Ints]:
    """Sides strung into ways round, by the same order round places."""
    number = np.unique(sides // 2)
    wanted = set(sides.tolist())
    runs = (
        2 * number[cycle // 2] + cycle % 2
        for cycle in cycles_of(ground.ends[number], ground.edges.take(number))
    )
    return [run for run in runs if int(run[0]) in wanted]


def connected_parts(ends: Ints, number: Ints) -> Ints:
    """Of each place the number of what it hangs together with."""
    size = int(ends.max(initial=-1)) + 1
    some = ends[number]
    graph = scipy.sparse.coo_matrix(
        (np.ones(len(some)), (some[:, 0], some[:, 1])), shape=(size, size)
    )
    return np.asarray(scipy.sparse.csgraph.connected_components(graph, directed=False)[1])
