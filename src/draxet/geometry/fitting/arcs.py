"""Circles and arcs through intervals of samples, by least squares, many at a time.

Circles start from Kåsa's algebraic fit (1976) and are refined on true distances; arcs are fitted in
their chord's frame.
"""

from __future__ import annotations

import numpy as np

from draxet.geometry.arrays import Floats, Points, columns
from draxet.geometry.fitting.intervals import Chords, Intervals

__all__ = ["fit_bulges", "fit_circles"]


def fit_circles(part: Intervals) -> tuple[Points, Floats, Floats]:
    """The best circle of each interval: centre (k, 2), radius (k,) and greatest distance of a
    sample from it (k,)."""
    mean = columns(*(part.sums(part.points[:, k]) for k in (0, 1))) / part.counts[:, None]
    x, y = (part.points[:, k] - part.each(mean[:, k]) for k in (0, 1))
    z = x * x + y * y
    sxx, sxy, syy, sxz, syz, sz = (
        part.sums(values) for values in (x * x, x * y, y * y, x * z, y * z, z)
    )
    with np.errstate(divide="ignore", invalid="ignore"):
        det = 2 * (sxx * syy - sxy * sxy)
        cx, cy = (sxz * syy - syz * sxy) / det, (syz * sxx - sxz * sxy) / det
        radius = np.sqrt(cx * cx + cy * cy + sz / part.counts)
    for _ in range(2):  # Gauss-Newton on true distances
        dx, dy = x - part.each(cx), y - part.each(cy)
        distance = np.sqrt(dx * dx + dy * dy)
        with np.errstate(divide="ignore", invalid="ignore"):
            ux, uy = dx / distance, dy / distance
            rest = distance - part.each(radius)
            s = np.stack(
                [
                    part.sums(values)
                    for values in (ux * ux, ux * uy, uy * uy, ux, uy, ux * rest, uy * rest, rest)
                ],
                axis=1,
            )
            n = part.counts.astype(np.float64)
            normal = np.stack(
                [s[:, 0], s[:, 1], s[:, 3], s[:, 1], s[:, 2], s[:, 4], s[:, 3], s[:, 4], n], axis=1
            ).reshape(-1, 3, 3)
            good = np.isfinite(normal).all(axis=(1, 2)) & (
                np.abs(np.linalg.det(np.nan_to_num(normal))) > 1e-9 * n**3
            )
        step = np.zeros((len(n), 3))
        if good.any():
            step[good] = np.linalg.solve(normal[good], s[good, 5:8, None])[..., 0]
        cx, cy, radius = cx + step[:, 0], cy + step[:, 1], radius + step[:, 2]
    off = np.abs(np.sqrt((x - part.each(cx)) ** 2 + (y - part.each(cy)) ** 2) - part.each(radius))
    worst, _ = part.greatest(np.nan_to_num(off, nan=np.inf))
    return mean + columns(cx, cy), radius, worst


def fit_bulges(chords: Chords) -> tuple[Floats, Floats]:
    """The best arc over each chord: its bulge (k,) and greatest distance of a sample from it
    (k,)."""
    part = chords.part
    u, v = 2 * chords.xy
    u -= 1
    # the circle over the chord -1..1 with bulge b is u² + v² - 1 = v (1/b - b), its arc on the side
    # where v has the sign of -b
    square, level = v * v, u * u
    lift, depth, side = part.sums(np.stack([v * (level + square - 1), square, v]))
    with np.errstate(divide="ignore", invalid="ignore"):
        lift = np.where(depth > 1e-18, lift / depth, np.inf)
        root = np.abs(lift) + np.sqrt(lift * lift + 4)
        sign = np.where(side < 0, 1.0, -1.0)
        bulge = sign * np.where(sign * lift > 0, 2 / root, root / 2)
        bulge[~np.isfinite(lift)] = 0.0
    flat = np.abs(lift) >= 1e6
    centre = np.where(flat, 0.0, lift / 2)
    middle, radius = part.each(np.stack([centre, np.sqrt(1 + centre * centre)]))
    away = np.abs(np.sqrt(level + (v - middle) ** 2) - radius)
    if flat.any():
        along = part.each(flat)
        away[along] = np.abs(v[along])
    worst, _ = part.greatest(away)
    return bulge, worst * chords.size / 2
