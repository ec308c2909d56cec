"""Areas of a label map with exactly common edges: every edge between two areas is one curve, used
by both.

Edges run between pixels. Where three or more areas meet stands a *node*; edges between nodes are
taken as chains, moved to where the picture's colours are half-way between both sides, and fitted
once. Areas are then put together from the curves.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from draxet.geometry.arrays import Bools, Ints, NDArray, Points
from draxet.record import record

__all__ = ["EdgeChains", "edge_chains"]


@record(frozen=True, eq=False)
class EdgeChains:
    """k chains of lattice points (corners of pixels), each between two areas.

    points : (n, 2) x, y; chain k is ``points[firsts[k]:firsts[k] + counts[k]]``. Of a closed chain
    the first point is not repeated.
    left, right : (k,) the area on either hand going along it (y down), -1 outside the picture.
    closed : (k,). begin, end : (k,) lattice numbers of an open chain's nodes (-1 for a closed one).
    """

    points: Points
    firsts: Ints
    counts: Ints
    left: Ints
    right: Ints
    closed: Bools
    begin: Ints
    end: Ints

    def __len__(self) -> int:
        return len(self.counts)

    def chain(self, k: int) -> Points:
        return self.points[self.firsts[k] : self.firsts[k] + self.counts[k]]


def edge_chains(labels: NDArray[Any]) -> EdgeChains:
    """All edges between different areas of a label map (rows, columns), and round the picture.

    Where four pixels meet like a chessboard, both colours are parted there: the lattice point is a
    node.
    """
    rows, columns = labels.shape
    padded = np.full((rows + 2, columns + 2), -1, dtype=np.int64)
    padded[1:-1, 1:-1] = labels
    width = columns + 1  # lattice points in a row
    up = padded[:-1, 1:-1] != padded[1:, 1:-1]  # the edge above each pixel row: (rows + 1, columns)
    beside = (
        padded[1:-1, :-1] != padded[1:-1, 1:]
    )  # the edge left of each pixel column: (rows, columns + 1)
    level = np.flatnonzero(up.ravel())
    level_from = level // columns * width + level % columns
    upright = np.flatnonzero(beside.ravel())
    upright_from = upright
    starts = np.concatenate([level_from, upright_from])
    stops = np.concatenate([level_from + 1, upright_from + width])
    y, x = level // columns, level % columns
    above, below = padded[y, x + 1], padded[y + 1, x + 1]
    y, x = upright // width, upright % width
    before, behind = padded[y + 1, x], padded[y + 1, x + 1]
    left, right = np.concatenate([above, behind]), np.concatenate([below, before])
    return _linked(starts, stops, left, right, width)


def _linked(starts: Ints, stops: Ints, left: Ints, right: Ints, width: int) -> EdgeChains:
    """Edges strung together at lattice points of degree two."""
    count = len(starts)
    order = np.argsort(np.concatenate([starts, stops]), kind="stable")
    places = np.concatenate([starts, stops])[order]
    half = order  # half-edge h < count leaves at `starts`, else at `stops`
    heads = np.flatnonzero(np.append(True, places[1:] != places[:-1]))
    degree = np.diff(np.append(heads, len(places)))
    two = np.flatnonzero(degree == 2)
    other = np.full(2 * count, -1, dtype=np.int64)  # the half-edge that goes on where this one ends
    a, b = half[heads[two]], half[heads[two] + 1]
    other[a], other[b] = b, a
    onward = other.tolist()
    seen = bytearray(count)
    chains: list[list[int]] = []
    closed: list[bool] = []
    node_halves = [
        h
        for k in np.flatnonzero(degree != 2).tolist()
        for h in half[heads[k] : heads[k] + degree[k]].tolist()
    ]
    for h in node_halves:
        if not seen[h % count]:
            chains.append(_follow(h, onward, seen, count))
            closed.append(False)
    at = seen.find(0)
    while at >= 0:
        chains.append(_follow(at, onward, seen, count))
        closed.append(True)
        at = seen.find(0, at)
    return _as_arrays(chains, closed, starts, stops, left, right, width, count)


def _follow(h: int, onward: list[int], seen: bytearray, count: int) -> list[int]:
    """Half-edges from `h` on, each named by the end it is left at first."""
    chain = []
    while h >= 0 and not seen[h % count]:
        seen[h % count] = 1
        chain.append(h)
        far = h + count if h < count else h - count
        h = onward[far]
    return chain


def _as_arrays(
    chains: list[list[int]],
    closed: list[bool],
    starts: Ints,
    stops: Ints,
    left: Ints,
    right: Ints,
    width: int,
    count: int,
) -> EdgeChains:
    if not chains:
        none = np.zeros(0, dtype=np.int64)
        return EdgeChains(
            np.zeros((0, 2)), none, none, none, none, np.zeros(0, dtype=bool), none, none
        )
    sizes = np.array([len(chain) for chain in chains])
    halves = np.array([h for chain in chains for h in chain], dtype=np.int64)
    forward = halves < count
    edge = halves % count
    near, far = (
        np.where(forward, starts[edge], stops[edge]),
        np.where(forward, stops[edge], starts[edge]),
    )
    ends = np.cumsum(sizes)
    begins = ends - sizes
    shut = np.array(closed)
    lattice: list[Ints] = [
        near[a:b] if c else np.append(near[a:b], far[b - 1])
        for a, b, c in zip(begins.tolist(), ends.tolist(), closed, strict=True)
    ]
    counts = sizes + ~shut
    flat = np.concatenate(lattice)
    points = np.column_stack([flat % width, flat // width]).astype(np.float64)
    first_forward = forward[begins]
    one, two = left[edge[begins]], right[edge[begins]]
    return EdgeChains(
        points,
        np.cumsum(counts) - counts,
        counts,
        np.where(first_forward, one, two),
        np.where(first_forward, two, one),
        shut,
        np.where(shut, -1, near[begins]),
        np.where(shut, -1, far[ends - 1]),
    )
