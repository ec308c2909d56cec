"""Arcs and cubics through intervals of samples, by least squares, many intervals at a time.

Cubics keep the directions given at both ends, so that neighbours meet smoothly; see Schneider, "An algorithm for
automatically fitting digitized curves", Graphics Gems (1990). Circles start from Kåsa's algebraic fit (1976) and are
refined on true distances.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from draxet.geometry.arrays import Floats, Ints, Points, ranges

__all__ = ["Intervals", "fit_bulges", "fit_circles", "fit_cubics", "fit_free_cubics"]

_LONG = 24
"""Samples from which on an interval may be thinned."""


@dataclass(frozen=True)
class Intervals:
    """Samples of k intervals laid end to end: `points` (n, 2), `owner` (n,), `firsts` (k,) and `counts` (k,) ≥ 2; `stride`
    (k,) says how many samples apart those taken stand."""

    points: Points
    owner: Ints
    firsts: Ints
    counts: Ints
    stride: Ints | None = None

    @staticmethod
    def of(points: Points, first: Ints, last: Ints, *, thinned: bool = False) -> Intervals:
        """The samples first..last, both included, of each interval; of long ones every second, where `thinned`."""
        if not thinned:
            counts = last - first + 1
            index, owner = ranges(first, counts)
            return Intervals(points[index], owner, np.cumsum(counts) - counts, counts)
        size = last - first
        stride = np.where(size >= _LONG, 2, 1)
        counts = size // stride + 1
        step, owner = ranges(np.zeros(len(counts), dtype=np.int64), counts)
        index = first[owner] + step * stride[owner]
        index[np.cumsum(counts) - 1] = last
        return Intervals(points[index], owner, np.cumsum(counts) - counts, counts, stride)

    def sums(self, values: Floats) -> Floats:
        return np.asarray(np.add.reduceat(values, self.firsts, axis=0)) if len(self.counts) else values[:0]

    def greatest(self, values: Floats) -> tuple[Floats, Ints]:
        """The greatest of `values` (n,) in each interval and how many samples in it stands."""
        if not len(self.counts):
            return values[:0], self.counts
        peak = np.maximum.reduceat(values, self.firsts)
        at = np.flatnonzero(values == peak[self.owner])
        place = at[np.searchsorted(at, self.firsts)] - self.firsts
        return peak, place if self.stride is None else place * self.stride


def fit_circles(part: Intervals) -> tuple[Points, Floats, Floats]:
    """The best circle of each interval: centre (k, 2), radius (k,) and greatest distance of a sample from it (k,)."""
    mean = part.sums(part.points) / part.counts[:, None]
    x, y = (part.points - mean[part.owner]).T
    z = x * x + y * y
    sxx, sxy, syy, sxz, syz, sz = part.sums(np.stack([x * x, x * y, y * y, x * z, y * z, z], axis=1)).T
    with np.errstate(divide="ignore", invalid="ignore"):
        det = 2 * (sxx * syy - sxy * sxy)
        cx, cy = (sxz * syy - syz * sxy) / det, (syz * sxx - sxz * sxy) / det
        radius = np.sqrt(cx * cx + cy * cy + sz / part.counts)
    for _ in range(2):  # Gauss-Newton on true distances
        dx, dy = x - cx[part.owner], y - cy[part.owner]
        distance = np.hypot(dx, dy)
        with np.errstate(divide="ignore", invalid="ignore"):
            ux, uy = dx / distance, dy / distance
            rest = distance - radius[part.owner]
            s = part.sums(np.stack([ux * ux, ux * uy, uy * uy, ux, uy, ux * rest, uy * rest, rest], axis=1))
            n = part.counts.astype(np.float64)
            normal = np.stack([s[:, 0], s[:, 1], s[:, 3], s[:, 1], s[:, 2], s[:, 4], s[:, 3], s[:, 4], n], axis=1).reshape(-1, 3, 3)
            good = np.isfinite(normal).all(axis=(1, 2)) & (np.abs(np.linalg.det(np.nan_to_num(normal))) > 1e-9 * n**3)
        step = np.zeros((len(n), 3))
        if good.any():
            step[good] = np.linalg.solve(normal[good], s[good, 5:8, None])[..., 0]
        cx, cy, radius = cx + step[:, 0], cy + step[:, 1], radius + step[:, 2]
    off = np.abs(np.hypot(x - cx[part.owner], y - cy[part.owner]) - radius[part.owner])
    worst, _ = part.greatest(np.nan_to_num(off, nan=np.inf))
    return mean + np.stack([cx, cy], axis=1), radius, worst


def fit_bulges(part: Intervals, starts: Points, ends: Points) -> tuple[Floats, Floats]:
    """The best arc from `starts` to `ends` for each interval: its bulge (k,) and greatest distance of a sample (k,)."""
    chord = ends - starts
    half = np.maximum(np.hypot(chord[:, 0], chord[:, 1]), 1e-9) / 2
    along = chord / (2 * half)[:, None]
    off = part.points - ((starts + ends) / 2)[part.owner]
    u = (off * along[part.owner]).sum(axis=1) / half[part.owner]
    v = (off[:, 1] * along[part.owner, 0] - off[:, 0] * along[part.owner, 1]) / half[part.owner]
    # the circle over the chord -1..1 with bulge b is u² + v² - 1 = v (1/b - b), its arc on the side where v has the sign of -b
    lift, depth, side = part.sums(np.stack([v * (u * u + v * v - 1), v * v, v], axis=1)).T
    with np.errstate(divide="ignore", invalid="ignore"):
        lift = np.where(depth > 1e-18, lift / depth, np.inf)
        root = np.abs(lift) + np.sqrt(lift * lift + 4)
        sign = np.where(side < 0, 1.0, -1.0)
        bulge = sign * np.where(sign * lift > 0, 2 / root, root / 2)
        bulge[~np.isfinite(lift)] = 0.0
        centre = lift / 2
        away = np.abs(np.hypot(u, v - centre[part.owner]) - np.hypot(1, centre)[part.owner])
    away = np.where((np.abs(lift) < 1e6)[part.owner], away, np.abs(v))
    worst, _ = part.greatest(away * half[part.owner])
    return bulge, worst


def fit_cubics(part: Intervals, starts: Points, ends: Points, leave: Points, reach: Points, rounds: int = 2) -> tuple[Floats, Floats, Ints]:
    """The best cubic from `starts` to `ends` that leaves along `leave` and arrives along `reach` (unit, (k, 2)).

    Returns
    -------
    handles : (k, 2, 2)
    worst : (k,) greatest distance of a sample from the cubic
    at : (k,) how many samples into the interval that is
    """
    u = (np.arange(len(part.owner)) - part.firsts[part.owner]) / np.maximum(part.counts - 1, 1)[part.owner]
    span = np.maximum(np.hypot(*(ends - starts).T), 1e-9)
    away = np.zeros(len(u))
    handles = np.zeros((len(starts), 2, 2))
    for turn in range(rounds):
        handles = _solve_handles(part, u, starts, ends, leave, reach, span)
        curve = np.stack([starts, handles[:, 0], handles[:, 1], ends], axis=1)
        u, away = _nearer(curve, part, u, move=turn + 1 < rounds)
    worst, at = part.greatest(away)
    return handles, worst, at


def fit_free_cubics(part: Intervals, starts: Points, ends: Points, rounds: int = 2) -> tuple[Floats, Floats, Ints]:
    """As ``fit_cubics``, but the cubic chooses its own directions at both ends."""
    u = (np.arange(len(part.owner)) - part.firsts[part.owner]) / np.maximum(part.counts - 1, 1)[part.owner]
    away = np.zeros(len(u))
    handles = np.zeros((len(starts), 2, 2))
    for turn in range(rounds):
        v = 1 - u
        b1, b2, b0, b3 = 3 * v * v * u, 3 * v * u * u, v * v * v, u * u * u
        rest_x, rest_y = (part.points[:, k] - b0 * starts[:, k][part.owner] - b3 * ends[:, k][part.owner] for k in (0, 1))
        s11, s12, s22, x1, y1, x2, y2 = (
            part.sums(values) for values in (b1 * b1, b1 * b2, b2 * b2, b1 * rest_x, b1 * rest_y, b2 * rest_x, b2 * rest_y)
        )
        det = s11 * s22 - s12 * s12
        with np.errstate(divide="ignore", invalid="ignore"):
            solved = np.stack([s22 * x1 - s12 * x2, s22 * y1 - s12 * y2, s11 * x2 - s12 * x1, s11 * y2 - s12 * y1], axis=1) / det[:, None]
        thirds = np.hstack([starts + (ends - starts) / 3, ends - (ends - starts) / 3])
        handles = np.where((det > 1e-9 * s11 * s22)[:, None] & np.isfinite(solved), solved, thirds).reshape(-1, 2, 2)
        curve = np.stack([starts, handles[:, 0], handles[:, 1], ends], axis=1)
        u, away = _nearer(curve, part, u, move=turn + 1 < rounds)
    worst, at = part.greatest(away)
    return handles, worst, at


def _solve_handles(part: Intervals, u: Floats, starts: Points, ends: Points, leave: Points, reach: Points, span: Floats) -> Floats:
    v = 1 - u
    b0, b1, b2, b3 = v * v * v, 3 * v * v * u, 3 * v * u * u, u * u * u
    near, far = b0 + b1, b2 + b3
    rest_x, rest_y = (part.points[:, k] - near * starts[:, k][part.owner] - far * ends[:, k][part.owner] for k in (0, 1))
    s00, s11 = part.sums(b1 * b1), part.sums(b2 * b2)
    s01 = -part.sums(b1 * b2) * (leave * reach).sum(axis=1)
    r0 = part.sums(b1 * rest_x) * leave[:, 0] + part.sums(b1 * rest_y) * leave[:, 1]
    r1 = -part.sums(b2 * rest_x) * reach[:, 0] - part.sums(b2 * rest_y) * reach[:, 1]
    with np.errstate(divide="ignore", invalid="ignore"):
        det = s00 * s11 - s01 * s01
        first, second = (r0 * s11 - r1 * s01) / det, (s00 * r1 - s01 * r0) / det
    length = np.maximum(span, part.counts - 1.0)
    bad = ~(np.isfinite(first) & np.isfinite(second) & (first > 0.01 * span) & (second > 0.01 * span) & (first < 3 * length) & (second < 3 * length))
    first, second = np.where(bad, span / 3, first), np.where(bad, span / 3, second)
    return np.stack([starts + first[:, None] * leave, ends - second[:, None] * reach], axis=1)


def _nearer(curve: Floats, part: Intervals, u: Floats, *, move: bool) -> tuple[Floats, Floats]:
    """Parameters a Newton step nearer to the samples, and the samples' distances across the cubics (k, 4, 2) at the old ones."""
    p0, p1, p2, p3 = curve.transpose(1, 0, 2)
    c3, c2, c1 = p3 - 3 * p2 + 3 * p1 - p0, 3 * (p2 - 2 * p1 + p0), 3 * (p1 - p0)
    rows = np.ascontiguousarray(np.concatenate([c3, c2, c1, p0], axis=1).T)
    ax, ay, bx, by, cx, cy, dx, dy = (row[part.owner] for row in rows)
    off_x, off_y = ((ax * u + bx) * u + cx) * u + dx - part.points[:, 0], ((ay * u + by) * u + cy) * u + dy - part.points[:, 1]
    ax *= 3 * u
    ay *= 3 * u
    d1x, d1y = (ax + 2 * bx) * u + cx, (ay + 2 * by) * u + cy
    slope = np.maximum(d1x * d1x + d1y * d1y, 1e-12)
    lean = off_x * d1x + off_y * d1y
    away = np.sqrt(np.maximum(off_x * off_x + off_y * off_y - lean * lean / slope, 0.0))
    if not move:
        return u, away
    full = slope + 2 * (off_x * (ax + bx) + off_y * (ay + by))
    return np.clip(u - lean / np.maximum(full, 0.2 * slope), 0.0, 1.0), away
