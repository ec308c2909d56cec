"""Fillets: arcs that run tangent from one straight line into the next."""

from __future__ import annotations

import numpy as np

from draxet.geometry.arrays import Floats, Points, columns, crosses, dots, norms
from draxet.geometry.fitting.intervals import Intervals
from draxet.record import record

__all__ = ["Fillets", "fit_fillets"]


@record(frozen=True)
class Fillets:
    """k arcs from `starts` to `ends` (k, 2) with `bulges` (k,); `worst` (k,) is a sample's greatest
    distance, inf where none fits."""

    starts: Points
    ends: Points
    bulges: Floats
    worst: Floats


def fit_fillets(
    part: Intervals, p: Points, u: Points, q: Points, v: Points, rounds: int = 5
) -> Fillets:
    """The arc tangent to the line through `p` along `u` and to the line through `q` along `v`, of
    the best radius.

    Parameters
    ----------
    part : samples between the two lines, k intervals.
    p, q : where the first line starts and the second ends (k, 2); `u`, `v` : their unit directions.
    """
    cross, along = crosses(u, v), dots(u, v)
    turn = np.arctan2(cross, along)
    side = np.where(turn < 0, -1.0, 1.0)[:, None]
    m, n = side * columns(-u[:, 1], u[:, 0]), side * columns(-v[:, 1], v[:, 0])
    facing = (
        np.abs(cross) < 0.08
    )  # nearly parallel: the arc of a slot's end, which fits at one radius only
    gap = np.maximum(dots(q - p, m) / 2, 0.0)
    normals = np.where(facing[:, None, None], np.stack([m, u], axis=1), np.stack([m, n], axis=1))
    away = np.where(facing, dots(p, u), dots(q, n))
    # the centre is base + t * drift and the radius least + t * grow: where lines meet, t is the
    # radius; at a slot's end t is how far along the slot the centre lies
    base = np.linalg.solve(normals, columns(dots(p, m) + gap * facing, away)[..., None])[..., 0]
    drift = np.asarray(
        np.linalg.solve(normals, columns((~facing).astype(np.float64), np.ones(len(p)))[..., None])[
            ..., 0
        ],
        dtype=np.float64,
    )
    least, grow = gap * facing, (~facing).astype(np.float64)
    span = part.points[part.firsts] - part.points[part.firsts + part.counts - 1]
    t = np.where(
        facing,
        dots(part.points[part.firsts] - base, u),
        norms(span) / np.maximum(2 * np.abs(np.sin(turn / 2)), 0.05),
    )
    for _ in range(rounds):
        step = _step(part, np.asarray(base, dtype=np.float64), drift, least, grow, t)
        t = np.where(facing, t - step, np.clip(t - step, 0.3 * t, 3 * t))
    centre, radius = base + t[:, None] * drift, least + t * grow
    off = part.points - part.each(centre.T).T
    worst, _ = part.greatest(np.abs(norms(off) - part.each(radius)))
    starts, ends = centre - radius[:, None] * m, centre - radius[:, None] * n
    sound = (
        (dots(starts - p, u) > 0)
        & (dots(q - ends, v) > 0)
        & (np.abs(turn) > 0.1)
        & np.isfinite(worst)
    )
    return Fillets(starts, ends, np.tan(turn / 4), np.where(sound, worst, np.inf))


def _step(
    part: Intervals, base: Points, drift: Points, least: Floats, grow: Floats, t: Floats
) -> Floats:
    """By how much each `t` is too large, for circles whose centre is base + t * drift and whose
    radius is least + t * grow (Gauss and Newton)."""
    off = part.points - part.each((base + t[:, None] * drift).T).T
    distance = np.maximum(norms(off), 1e-9)
    slope = -dots(off, part.each(drift.T).T) / distance - part.each(grow)
    top = part.sums(slope * (distance - part.each(least + t * grow)))
    return np.asarray(top / np.maximum(part.sums(slope * slope), 1e-9))
