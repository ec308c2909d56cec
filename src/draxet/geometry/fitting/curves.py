"""Arcs and cubics through intervals of samples, by least squares, many intervals at a time.

Cubics keep the directions given at both ends, so that neighbours meet smoothly; see Schneider, "An algorithm for
automatically fitting digitized curves", Graphics Gems (1990). Circles start from Kåsa's algebraic fit (1976) and are
refined on true distances.

Arcs and cubics are fitted in the *chord's frame*: the interval's start is (0, 0) and its end (1, 0).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from draxet.geometry.arrays import Bools, Floats, Ints, Points, columns, crosses, dots, kept, norms, ranges, rows

__all__ = ["Chords", "Intervals", "fit_bulges", "fit_circles", "fit_cubics", "fit_free_cubics", "rough_distances"]

Scalar = TypeVar("Scalar", bound=np.generic)

_PLENTY, _MOST_THINNED = 10, 3
"""A longer interval may be thinned so that about so many steps are left, or to every so manieth sample at the most."""
_NO_CHORD = 1e-9
_PROBES = np.linspace(0, 1, 9)[:, None]
_PROBE_PULL = np.hstack([3 * (1 - _PROBES) ** 2 * _PROBES, 3 * (1 - _PROBES) * _PROBES**2])
"""How strongly each handle pulls at each probe of a cubic, and below how its slope follows from them."""
_PROBE_SLOPE = np.hstack([3 * (1 - _PROBES) ** 2 - 6 * (1 - _PROBES) * _PROBES, 6 * (1 - _PROBES) * _PROBES - 3 * _PROBES**2])
_PROBE_SOLVE = np.linalg.pinv(_PROBE_PULL)
_THIRDS = np.array([[1 / 3], [0], [2 / 3], [0]])
"""Handles a third along a chord from either end."""
_SLIDE = 0.015
"""How much a sample's distance along the curve counts, against that across it."""


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
        """The samples first..last, both included, of each interval; of long ones only some, evenly, where `thinned`."""
        if not thinned:
            counts = last - first + 1
            index, owner = ranges(first, counts)
            return Intervals(rows(points, index), owner, np.cumsum(counts) - counts, counts)
        size = last - first
        stride = np.clip(size // _PLENTY, 1, _MOST_THINNED)
        counts = -(-size // stride) + 1
        step, owner = ranges(np.zeros(len(counts), dtype=np.int64), counts)
        index = np.repeat(first, counts) + step * np.repeat(stride, counts)
        index[np.cumsum(counts) - 1] = last
        return Intervals(rows(points, index), owner, np.cumsum(counts) - counts, counts, stride)

    def each(self, values: NDArray[Scalar]) -> NDArray[Scalar]:
        """For each sample the value of its interval."""
        spread: NDArray[Scalar] = values.repeat(self.counts, axis=0)
        return spread

    def sums(self, values: Floats) -> Floats:
        return np.add.reduceat(values, self.firsts) if len(self.counts) else values[:0]

    def greatest(self, values: Floats) -> tuple[Floats, Ints]:
        """The greatest of `values` (n,) in each interval and how many samples in it stands."""
        if not len(self.counts):
            return values[:0], self.counts
        peak = np.maximum.reduceat(values, self.firsts)
        at = np.flatnonzero(values == self.each(peak))
        place = at[np.searchsorted(at, self.firsts)] - self.firsts
        return peak, place if self.stride is None else place * self.stride


@dataclass(frozen=True)
class Chords:
    """Intervals in the frames of chords from `starts` to `ends` (k, 2): samples `x`, `y` (n,); chords are `along` (k, 2)
    and `size` (k,) long."""

    part: Intervals
    x: Floats
    y: Floats
    starts: Points
    ends: Points
    along: Points
    size: Floats

    @staticmethod
    def of(part: Intervals, starts: Points, ends: Points) -> Chords:
        chord = ends - starts
        size = norms(chord)
        none = size <= _NO_CHORD
        size = np.where(none, 1.0, size)
        along = np.where(none[:, None], (1.0, 0.0), chord / size[:, None])
        x, y = (part.points[:, k] - part.each(starts[:, k]) for k in (0, 1))
        cos, sin = part.each(along[:, 0] / size), part.each(along[:, 1] / size)
        return Chords(part, x * cos + y * sin, y * cos - x * sin, starts, ends, along, size)

    def take(self, keep: Bools) -> Chords:
        """Those intervals for which `keep` (k,) holds."""
        part = self.part
        samples, counts = part.each(keep), part.counts[keep]
        some = Intervals(
            kept(part.points, samples), np.repeat(np.arange(len(counts)), counts), np.cumsum(counts) - counts, counts,
            None if part.stride is None else part.stride[keep],
        )  # fmt: skip
        return Chords(some, self.x[samples], self.y[samples], self.starts[keep], self.ends[keep], self.along[keep], self.size[keep])

    @property
    def even(self) -> Floats:
        """(n,) parameters that run evenly from 0 to 1 in each interval."""
        part = self.part
        return np.asarray((np.arange(len(self.x)) - part.each(part.firsts)) * part.each(1 / np.maximum(part.counts - 1, 1)))

    def into(self, vectors: Points) -> Points:
        """Directions (k, 2) as the chords' frames see them."""
        return columns(dots(self.along, vectors), crosses(self.along, vectors))

    def within(self, places: Points) -> Points:
        """Places (k, 2), where the samples came from, as the chords' frames see them."""
        return self.into(places - self.starts) / self.size[:, None]

    def out_of(self, x: Floats, y: Floats) -> Points:
        """Places (k,) of the frames, (k, 2), where the samples came from."""
        cos, sin = self.along.T * self.size
        return self.starts + columns(x * cos - y * sin, x * sin + y * cos)


def fit_circles(part: Intervals) -> tuple[Points, Floats, Floats]:
    """The best circle of each interval: centre (k, 2), radius (k,) and greatest distance of a sample from it (k,)."""
    mean = columns(*(part.sums(part.points[:, k]) for k in (0, 1))) / part.counts[:, None]
    x, y = (part.points[:, k] - part.each(mean[:, k]) for k in (0, 1))
    z = x * x + y * y
    sxx, sxy, syy, sxz, syz, sz = (part.sums(values) for values in (x * x, x * y, y * y, x * z, y * z, z))
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
            s = np.stack([part.sums(values) for values in (ux * ux, ux * uy, uy * uy, ux, uy, ux * rest, uy * rest, rest)], axis=1)
            n = part.counts.astype(np.float64)
            normal = np.stack([s[:, 0], s[:, 1], s[:, 3], s[:, 1], s[:, 2], s[:, 4], s[:, 3], s[:, 4], n], axis=1).reshape(-1, 3, 3)
            good = np.isfinite(normal).all(axis=(1, 2)) & (np.abs(np.linalg.det(np.nan_to_num(normal))) > 1e-9 * n**3)
        step = np.zeros((len(n), 3))
        if good.any():
            step[good] = np.linalg.solve(normal[good], s[good, 5:8, None])[..., 0]
        cx, cy, radius = cx + step[:, 0], cy + step[:, 1], radius + step[:, 2]
    off = np.abs(np.sqrt((x - part.each(cx)) ** 2 + (y - part.each(cy)) ** 2) - part.each(radius))
    worst, _ = part.greatest(np.nan_to_num(off, nan=np.inf))
    return mean + columns(cx, cy), radius, worst


def rough_distances(points: Points, first: Ints, last: Ints, starts: Points, ends: Points) -> tuple[Floats, Ints]:
    """About how far nine samples of each interval first..last are at the most (k,) from the better of an arc and a cubic, and
    how many samples into the interval that is (k,).

    Both are fitted to those nine as if they stood evenly along them, which is quick, and tells what no span will ever fit.
    """
    steps = np.rint((last - first) * _PROBES).astype(np.int64)
    local = rows(points, first + steps) - starts
    chord = ends - starts
    size = np.maximum(norms(chord), _NO_CHORD)
    along = chord / size[:, None]
    x, y = dots(along, local) / size, crosses(along, local) / size
    rest_x = x - _PROBES**3
    pull_x, pull_y = _PROBE_SOLVE @ rest_x, _PROBE_SOLVE @ y
    slope_x, slope_y = _PROBE_SLOPE @ pull_x + 3 * _PROBES**2, _PROBE_SLOPE @ pull_y
    off_x, off_y = _PROBE_PULL @ pull_x - rest_x, _PROBE_PULL @ pull_y - y
    cubic = np.abs(off_x * slope_y - off_y * slope_x) / np.sqrt(np.maximum(slope_x * slope_x + slope_y * slope_y, 1e-12))
    u, v = 2 * x - 1, 2 * y
    lift = (v * (u * u + v * v - 1)).sum(axis=0) / np.maximum((v * v).sum(axis=0), 1e-12) / 2
    arc = np.abs(np.sqrt(u * u + (v - lift) ** 2) - np.sqrt(1 + lift * lift)) / 2
    better = np.where(cubic.max(axis=0) <= arc.max(axis=0), cubic, arc)
    at = better.argmax(axis=0)
    return better.max(axis=0) * size, steps[at, np.arange(len(at))]


def fit_bulges(chords: Chords) -> tuple[Floats, Floats]:
    """The best arc over each chord: its bulge (k,) and greatest distance of a sample from it (k,)."""
    part = chords.part
    u, v = 2 * chords.x - 1, 2 * chords.y
    # the circle over the chord -1..1 with bulge b is u² + v² - 1 = v (1/b - b), its arc on the side where v has the sign of -b
    square = v * v
    lift, depth, side = part.sums(v * (u * u + square - 1)), part.sums(square), part.sums(v)
    with np.errstate(divide="ignore", invalid="ignore"):
        lift = np.where(depth > 1e-18, lift / depth, np.inf)
        root = np.abs(lift) + np.sqrt(lift * lift + 4)
        sign = np.where(side < 0, 1.0, -1.0)
        bulge = sign * np.where(sign * lift > 0, 2 / root, root / 2)
        bulge[~np.isfinite(lift)] = 0.0
    flat = np.abs(lift) >= 1e6
    centre = np.where(flat, 0.0, lift / 2)
    away = np.abs(np.sqrt(u * u + (v - part.each(centre)) ** 2) - part.each(np.sqrt(1 + centre * centre)))
    if flat.any():
        along = part.each(flat)
        away[along] = np.abs(v[along])
    worst, _ = part.greatest(away)
    return bulge, worst * chords.size / 2


def fit_cubics(chords: Chords, leave: Points, reach: Points, rounds: int = 2, near: Floats | None = None) -> tuple[Floats, Floats, Ints]:
    """The best cubic over each chord that leaves along `leave` and arrives along `reach` (unit, (k, 2)).

    Parameters
    ----------
    near : (k, 2, 2) handles of cubics that are nearly those looked for; by default even parameters are begun with.

    Returns
    -------
    handles : (k, 2, 2)
    worst : (k,) greatest distance of a sample from the cubic
    at : (k,) how many samples into the interval that is
    """
    begin, end = chords.into(leave), chords.into(reach)
    most = 3 * np.maximum(1.0, (chords.part.counts - 1) / chords.size)

    def closer(pull: _Pull, handles: Floats) -> Floats:
        s00, s01, s11 = _along(pull.near, begin, begin), -_along(pull.both, begin, end), _along(pull.far, end, end)
        r0, r1 = dots(begin, pull.near_rest), -dots(end, pull.far_rest)
        with np.errstate(divide="ignore", invalid="ignore"):
            det = s00 * s11 - s01 * s01
            first, second = dots(begin, handles[:2].T) + (r0 * s11 - r1 * s01) / det, dots(end, (1, 0) - handles[2:].T) + (s00 * r1 - s01 * r0) / det
            sound = np.isfinite(first) & np.isfinite(second) & (first > 0.01) & (second > 0.01) & (first < most) & (second < most)
        first, second = np.where(sound, first, 1 / 3), np.where(sound, second, 1 / 3)
        return np.stack([first * begin[:, 0], first * begin[:, 1], 1 - second * end[:, 0], -second * end[:, 1]])

    return _refined(chords, closer, rounds, near)


def fit_free_cubics(chords: Chords, rounds: int = 2) -> tuple[Floats, Floats, Ints]:
    """As ``fit_cubics``, but the cubic chooses its own directions at both ends."""

    def closer(pull: _Pull, handles: Floats) -> Floats:
        step = _solved(pull)
        return np.where(np.isfinite(step).all(axis=0), handles + step, _THIRDS)

    return _refined(chords, closer, rounds)


def _refined(chords: Chords, closer: Callable[[_Pull, Floats], Floats], rounds: int, near: Floats | None = None) -> tuple[Floats, Floats, Ints]:
    """Handles (4, k) for even parameters, or `near` ones, then over and over for parameters nearer to the samples."""
    u = chords.even
    if near is None:
        handles = closer(_even_pull(chords, u), np.broadcast_to(_THIRDS, (4, len(chords.size))))
    else:
        handles = np.concatenate([chords.within(near[:, k]).T for k in (0, 1)])
        u = _nearer(chords, handles, u)
    for _ in range(rounds - 1):
        u = _nearer(chords, handles, u)
        handles = closer(_pull(chords, handles, u), handles)
    worst, at = chords.part.greatest(_distances(chords, handles, u))
    return np.stack([chords.out_of(handles[0], handles[1]), chords.out_of(handles[2], handles[3])], axis=1), worst * chords.size, at


@dataclass(frozen=True)
class _Pull:
    """Normal equations of a step of both handles: symmetric 2 × 2 blocks, each as xx, xy and yy (k,), of the first handle
    (`near`), of the second (`far`) and between them (`both`), and what is left over for each, (k, 2)."""

    near: tuple[Floats, Floats, Floats]
    both: tuple[Floats, Floats, Floats]
    far: tuple[Floats, Floats, Floats]
    near_rest: Points
    far_rest: Points


def _even_pull(chords: Chords, u: Floats) -> _Pull:
    """The pull on handles a third along the chord of samples that stand where the parameters say."""
    part, v = chords.part, 1 - u
    b1, b2 = 3 * v * v * u, 3 * v * u * u
    off_x = chords.x - u
    near, both, far = (part.sums(values) for values in (b1 * b1, b1 * b2, b2 * b2))
    none = np.zeros(len(near))
    rest = (part.sums(b * off) for b in (b1, b2) for off in (off_x, chords.y))
    x1, y1, x2, y2 = rest
    return _Pull((near, none, near), (both, none, both), (far, none, far), columns(x1, y1), columns(x2, y2))


def _pull(chords: Chords, handles: Floats, u: Floats) -> _Pull:
    """The pull of the samples' distances across the cubic; those along it count little, as samples may slide there.

    So a step is nearly one of Gauss and Newton on true distances; see Wang, Pottmann and Liu, "Fitting B-spline curves to
    point clouds by curvature-based squared distance minimization", ACM Transactions on Graphics 25 (2006).
    """
    off_x, off_y, slope_x, slope_y, _, _ = _offsets(chords, handles, u)
    slip = (1 - _SLIDE) / np.maximum(slope_x * slope_x + slope_y * slope_y, 1e-12)
    lean_x, lean_y = slip * slope_x, slip * slope_y
    xx, xy, yy = 1 - lean_x * slope_x, -lean_x * slope_y, 1 - lean_y * slope_y
    rest_x, rest_y = -(xx * off_x + xy * off_y), -(xy * off_x + yy * off_y)
    part, v = chords.part, 1 - u
    b1, b2 = 3 * v * v * u, 3 * v * u * u
    near, both, far = (
        (part.sums(weight * xx), part.sums(weight * xy), part.sums(weight * yy)) for weight in (b1 * b1, b1 * b2, b2 * b2)
    )
    x1, y1, x2, y2 = (part.sums(b * rest) for b in (b1, b2) for rest in (rest_x, rest_y))
    return _Pull(near, both, far, columns(x1, y1), columns(x2, y2))


def _along(block: tuple[Floats, Floats, Floats], a: Points, b: Points) -> Floats:
    """``a @ block @ b``, row by row."""
    xx, xy, yy = block
    return np.asarray(a[:, 0] * (xx * b[:, 0] + xy * b[:, 1]) + a[:, 1] * (xy * b[:, 0] + yy * b[:, 1]))


def _solved(pull: _Pull) -> Floats:
    """The step (4, k) of both handles, by elimination of the first."""
    (axx, axy, ayy), (bxx, bxy, byy), (dxx, dxy, dyy) = pull.near, pull.both, pull.far
    (rx, ry), (sx, sy) = pull.near_rest.T, pull.far_rest.T
    with np.errstate(divide="ignore", invalid="ignore"):
        det = axx * ayy - axy * axy
        det = np.where(det > 1e-9 * axx * ayy, det, np.nan)
        gxx, gxy, gyx, gyy = (ayy * bxx - axy * bxy) / det, (ayy * bxy - axy * byy) / det, (axx * bxy - axy * bxx) / det, (axx * byy - axy * bxy) / det
        qx, qy = (ayy * rx - axy * ry) / det, (axx * ry - axy * rx) / det
        exx, exy, eyy = dxx - bxx * gxx - bxy * gyx, dxy - bxx * gxy - bxy * gyy, dyy - bxy * gxy - byy * gyy
        tx, ty = sx - bxx * qx - bxy * qy, sy - bxy * qx - byy * qy
        rest = exx * eyy - exy * exy
        rest = np.where(rest > 1e-9 * dxx * dyy, rest, np.nan)
        x2, y2 = (eyy * tx - exy * ty) / rest, (exx * ty - exy * tx) / rest
    return np.stack([qx - gxx * x2 - gxy * y2, qy - gyx * x2 - gyy * y2, x2, y2])


def _offsets(chords: Chords, handles: Floats, u: Floats) -> tuple[Floats, ...]:
    """From the samples to the cubics with `handles` (4, k) at parameters `u`: offset, slope, and half the bend, x and y each."""
    hx, hy, kx, ky = handles
    each = chords.part.each
    ax, ay, bx, by, cx, cy = (each(values) for values in (1 + 3 * (hx - kx), 3 * (hy - ky), 3 * (kx - 2 * hx), 3 * (ky - 2 * hy), 3 * hx, 3 * hy))
    off_x, off_y = ((ax * u + bx) * u + cx) * u - chords.x, ((ay * u + by) * u + cy) * u - chords.y
    ax *= 3 * u
    ay *= 3 * u
    return off_x, off_y, (ax + 2 * bx) * u + cx, (ay + 2 * by) * u + cy, ax + bx, ay + by


def _nearer(chords: Chords, handles: Floats, u: Floats) -> Floats:
    """Parameters a Newton step nearer to the samples."""
    off_x, off_y, slope_x, slope_y, bend_x, bend_y = _offsets(chords, handles, u)
    slope = np.maximum(slope_x * slope_x + slope_y * slope_y, 1e-12)
    full = slope + 2 * (off_x * bend_x + off_y * bend_y)
    return np.clip(u - (off_x * slope_x + off_y * slope_y) / np.maximum(full, 0.2 * slope), 0.0, 1.0)


def _distances(chords: Chords, handles: Floats, u: Floats) -> Floats:
    """Distances of the samples across the cubics."""
    off_x, off_y, slope_x, slope_y, _, _ = _offsets(chords, handles, u)
    across = off_x * slope_y - off_y * slope_x
    return np.asarray(np.abs(across) / np.sqrt(np.maximum(slope_x * slope_x + slope_y * slope_y, 1e-12)))
