"""Arcs as machines run them: from a place about a centre, through an angle."""

from __future__ import annotations

import numpy as np

from draxet.geometry.arrays import Bools, Floats, Ints, Points, dots, norms, ranges

__all__ = ["box_of", "boxes", "nearest", "way_points"]


def way_points(
    begins: Points, ends: Points, centres: Points, turns: Floats, within: float
) -> tuple[Points, Ints]:
    """Places along moves, without the one where each begins, so that straight steps between them
    lie within `within` mm of it.

    Parameters
    ----------
    begins, ends, centres : (m, 2). turns : (m,) in radians, anticlockwise over 0; 0 for a straight
    move, of which only the end is given.

    Returns
    -------
    points : (n, 2). owner : (n,) the number of the move each belongs to.
    """
    spokes = begins - centres
    widest = 2 * np.arccos(np.maximum(1 - within / np.maximum(norms(spokes), within), 0.0))
    counts = np.where(turns != 0, np.maximum((np.abs(turns) / widest).astype(np.int64) + 1, 2), 1)
    step, owner = ranges(np.ones(len(counts), dtype=np.int64), counts)
    angles = turns[owner] * step / counts[owner]
    cos, sin, spokes = np.cos(angles), np.sin(angles), spokes[owner]
    points: Points = centres[owner] + np.column_stack(
        [cos * spokes[:, 0] - sin * spokes[:, 1], sin * spokes[:, 0] + cos * spokes[:, 1]]
    )
    points[np.cumsum(counts) - 1] = ends
    return points, owner


def boxes(begins: Points, ends: Points, centres: Points, turns: Floats) -> tuple[Points, Points]:
    """The least and the greatest coordinates (m, 2) of moves; those that turn through 0 are
    straight.

    Parameters
    ----------
    begins, ends, centres : (m, 2). turns : (m,) in radians, anticlockwise over 0.
    """
    low, high = np.minimum(begins, ends), np.maximum(begins, ends)
    spokes = begins - centres
    first, radii = np.arctan2(spokes[:, 1], spokes[:, 0]), norms(spokes)
    for quarter, (x, y) in enumerate(((1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0))):
        passed = (turns != 0) & (
            (quarter * np.pi / 2 - first) * np.sign(turns) % (2 * np.pi) <= np.abs(turns)
        )
        there = centres[passed] + radii[passed, None] * (x, y)
        low[passed], high[passed] = np.minimum(low[passed], there), np.maximum(high[passed], there)
    return low, high


def box_of(
    begins: Points, ends: Points, centres: Points, turns: Floats, work: Bools
) -> tuple[float, float, float, float]:
    """What the moves (m,) that work run over, all of them where none does: least x, least y,
    greatest x, greatest y; 0 where there are none."""
    if not len(ends):
        return 0.0, 0.0, 0.0, 0.0
    low, high = boxes(begins, ends, centres, turns)
    if work.any():
        low, high = low[work], high[work]
    else:
        low = high = ends  # nobody knows from where it comes
    return (
        float(low[:, 0].min()),
        float(low[:, 1].min()),
        float(high[:, 0].max()),
        float(high[:, 1].max()),
    )


def nearest(
    begins: Points, ends: Points, centres: Points, turns: Floats, place: Points
) -> tuple[Floats, Floats]:
    """How far each of the same moves passes from a place (2,), and after which share of its way
    (m,)."""
    way = ends - begins
    share = np.clip(dots(place - begins, way) / np.maximum(dots(way, way), 1e-12), 0, 1)
    off = norms(begins + share[:, None] * way - place)
    arcs = np.flatnonzero(turns)
    if arcs.size:
        spokes, out, full = begins[arcs] - centres[arcs], place - centres[arcs], np.abs(turns[arcs])
        angle = (
            (np.arctan2(out[:, 1], out[:, 0]) - np.arctan2(spokes[:, 1], spokes[:, 0]))
            * np.sign(turns[arcs])
            % (2 * np.pi)
        )
        within = angle <= full
        after = angle - full < 2 * np.pi - angle  # else its end is nearer than its beginning
        share[arcs] = np.where(within, angle / full, after)
        off[arcs] = np.where(
            within,
            np.abs(norms(out) - norms(spokes)),
            norms(np.where(after[:, None], ends[arcs], begins[arcs]) - place),
        )
    return off, share
