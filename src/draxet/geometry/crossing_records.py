"""Places where spans meet, as a value, and places and slopes on spans."""

from __future__ import annotations

import numpy as np

from draxet.geometry.arrays import Bools, Floats, Ints, Points, columns, dots
from draxet.geometry.spans import ARC, CUBIC, Spans
from draxet.record import record

__all__ = ["Crossings", "Found", "WITHIN", "parameter", "slopes_at"]

WITHIN = 1e-7
"""mm: so near to each other places on two spans are the same."""


@record(frozen=True, eq=False)
class Crossings:
    """k places: on which spans `first` and `second` (k,) they lie, at which parameters `t` and `u`
    (k,) in 0..1, and where: `points` (k, 2). `touch` (k,) says that both have the same direction
    there; `along` (k,) that a stretch begins or ends there that they share."""

    first: Ints
    second: Ints
    t: Floats
    u: Floats
    points: Points
    touch: Bools
    along: Bools

    def __len__(self) -> int:
        return len(self.first)

    def take(self, index: Ints | Bools) -> Crossings:
        return Crossings(*(getattr(self, name)[index] for name in self.__dataclass_fields__))


def slopes_at(spans: Spans, index: Ints, t: Floats) -> Points:
    """How points move with the parameter (m, 2), at parameters `t` (m,) of the spans `index`
    (m,)."""
    some = spans.take(index)
    slopes: Points = some.ends - some.starts
    if (arcs := np.flatnonzero((some.kinds == ARC) & (some.bulges != 0))).size:
        shape = some.take(arcs).arc_shapes()
        angle = shape.first + t[arcs] * shape.sweep
        slopes[arcs] = (shape.radii * shape.sweep)[:, None] * columns(-np.sin(angle), np.cos(angle))
    if (cubics := np.flatnonzero(some.kinds == CUBIC)).size:
        p0, p3, (p1, p2) = (
            some.starts[cubics],
            some.ends[cubics],
            some.handles[cubics].transpose(1, 0, 2),
        )
        u, v = t[cubics, None], 1 - t[cubics, None]
        slopes[cubics] = 3 * (v * v * (p1 - p0) + 2 * v * u * (p2 - p1) + u * u * (p3 - p2))
    return slopes


Found = tuple[Ints, Ints, Floats, Floats]
"""Spans, and parameters on them, at which they meet; a place may be there more than once."""


def parameter(spans: Spans, index: Ints, points: Points) -> Floats:
    """Parameters 0..1 nearest to points (m, 2) on the lines and arcs `index`."""
    some = spans.take(index)
    chord = some.ends - some.starts
    t = dots(points - some.starts, chord) / np.maximum(dots(chord, chord), 1e-300)
    if (arcs := np.flatnonzero((some.kinds == ARC) & (some.bulges != 0))).size:
        shape = some.take(arcs).arc_shapes()
        spoke = points[arcs] - shape.centres
        turned = (
            (np.arctan2(spoke[:, 1], spoke[:, 0]) - shape.first)
            * np.sign(shape.sweep)
            % (2 * np.pi)
        )
        share = turned / np.abs(shape.sweep)
        beyond = (2 * np.pi - turned) / np.abs(
            shape.sweep
        )  # just before the start is nearer to it than to the end
        t[arcs] = np.where((share > 1) & (beyond < share - 1), 0.0, share)
    return np.clip(t, 0.0, 1.0)
