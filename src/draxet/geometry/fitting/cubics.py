"""Cubics through intervals of samples, by least squares in their chords' frames, many at a time.

They keep the directions given at both ends, so that neighbours meet smoothly; see Schneider, "An
algorithm for automatically fitting digitized curves", Graphics Gems (1990).
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from draxet.geometry.arrays import Floats, Ints, Points, columns, crosses, dots, norms, rows
from draxet.geometry.fitting.intervals import Chords
from draxet.record import record

__all__ = ["fit_cubics", "fit_free_cubics", "rough_distances"]

_SHORT = 1e-9
_PROBES = np.linspace(0, 1, 9)[:, None]
_PROBE_PULL = np.hstack([3 * (1 - _PROBES) ** 2 * _PROBES, 3 * (1 - _PROBES) * _PROBES**2])
"""How strongly each handle pulls at each probe of a cubic, and below how its slope follows from
them."""
_PROBE_SLOPE = np.hstack(
    [
        3 * (1 - _PROBES) ** 2 - 6 * (1 - _PROBES) * _PROBES,
        6 * (1 - _PROBES) * _PROBES - 3 * _PROBES**2,
    ]
)
_PROBE_SOLVE = np.linalg.pinv(_PROBE_PULL)
_THIRDS = np.array([[1 / 3], [0], [2 / 3], [0]])
"""Handles a third along a chord from either end."""
_SLIDE = 0.015
"""How much a sample's distance along the curve counts, against that across it."""


def rough_distances(
    points: Points, first: Ints, last: Ints, starts: Points, ends: Points
) -> tuple[Floats, Ints]:
    """About how far nine samples of each interval first..last are at the most (k,) from the better
    of an arc and a cubic, and how many samples into the interval that is (k,).

    Both are fitted to those nine as if they stood evenly along them, which is quick, and tells what
    no span will ever fit.
    """
    steps = np.rint((last - first) * _PROBES).astype(np.int64)
    local = rows(points, first + steps) - starts
    chord = ends - starts
    size = np.maximum(norms(chord), _SHORT)
    along = chord / size[:, None]
    x, y = dots(along, local) / size, crosses(along, local) / size
    rest_x = x - _PROBES**3
    pull_x, pull_y = _PROBE_SOLVE @ rest_x, _PROBE_SOLVE @ y
    slope_x, slope_y = _PROBE_SLOPE @ pull_x + 3 * _PROBES**2, _PROBE_SLOPE @ pull_y
    off_x, off_y = _PROBE_PULL @ pull_x - rest_x, _PROBE_PULL @ pull_y - y
    cubic = np.abs(off_x * slope_y - off_y * slope_x) / np.sqrt(
        np.maximum(slope_x * slope_x + slope_y * slope_y, 1e-12)
    )
    u, v = 2 * x - 1, 2 * y
    lift = (v * (u * u + v * v - 1)).sum(axis=0) / np.maximum((v * v).sum(axis=0), 1e-12) / 2
    arc = np.abs(np.sqrt(u * u + (v - lift) ** 2) - np.sqrt(1 + lift * lift)) / 2
    better = np.where(cubic.max(axis=0) <= arc.max(axis=0), cubic, arc)
    at = better.argmax(axis=0)
    return better.max(axis=0) * size, steps[at, np.arange(len(at))]


def fit_cubics(
    chords: Chords, leave: Points, reach: Points, rounds: int = 2, near: Floats | None = None
) -> tuple[Floats, Floats, Ints]:
    """The best cubic over each chord that leaves along `leave` and arrives along `reach` (unit, (k,
    2)).

    Parameters
    ----------
    near : (k, 2, 2) handles of cubics that are nearly those looked for; by default even parameters
    are begun with.

    Returns
    -------
    handles : (k, 2, 2)
    worst : (k,) greatest distance of a sample from the cubic
    at : (k,) how many samples into the interval that is
    """
    begin, end = chords.into(leave), chords.into(reach)
    most = 3 * np.maximum(1.0, (chords.part.counts - 1) / chords.size)

    def closer(pull: _Pull, handles: Floats) -> Floats:
        s00, s01, s11 = (
            _along(pull.near, begin, begin),
            -_along(pull.both, begin, end),
            _along(pull.far, end, end),
        )
        r0, r1 = dots(begin, pull.near_rest), -dots(end, pull.far_rest)
        with np.errstate(divide="ignore", invalid="ignore"):
            det = s00 * s11 - s01 * s01
            first, second = (
                dots(begin, handles[:2].T) + (r0 * s11 - r1 * s01) / det,
                dots(end, (1, 0) - handles[2:].T) + (s00 * r1 - s01 * r0) / det,
            )
            sound = (
                np.isfinite(first)
                & np.isfinite(second)
                & (first > 0.01)
                & (second > 0.01)
                & (first < most)
                & (second < most)
            )
        first, second = np.where(sound, first, 1 / 3), np.where(sound, second, 1 / 3)
        return np.stack(
            [first * begin[:, 0], first * begin[:, 1], 1 - second * end[:, 0], -second * end[:, 1]]
        )

    return _refined(chords, closer, rounds, near)


def fit_free_cubics(chords: Chords, rounds: int = 2) -> tuple[Floats, Floats, Ints]:
    """As ``fit_cubics``, but the cubic chooses its own directions at both ends."""

    def closer(pull: _Pull, handles: Floats) -> Floats:
        step = _solved(pull)
        return np.where(np.isfinite(step).all(axis=0), handles + step, _THIRDS)

    return _refined(chords, closer, rounds)


def _refined(
    chords: Chords,
    closer: Callable[[_Pull, Floats], Floats],
    rounds: int,
    near: Floats | None = None,
) -> tuple[Floats, Floats, Ints]:
    """Handles (4, k) for even parameters, or `near` ones, then over and over for parameters nearer
    to the samples."""
    u = chords.even
    if near is None:
        handles = closer(_even_pull(chords, u), np.broadcast_to(_THIRDS, (4, len(chords.size))))
    else:
        handles = np.concatenate([chords.within(near[:, k]).T for k in (0, 1)])
    curve = _curve(chords, handles)
    if near is not None:
        u = _nearer(chords, curve, u)
    for _ in range(rounds - 1):
        u = _nearer(chords, curve, u)
        handles = closer(_pull(chords, curve, u), handles)
        curve = _curve(chords, handles)
    worst, at = chords.part.greatest(_distances(chords, curve, u))
    return (
        np.stack(
            [chords.out_of(handles[0], handles[1]), chords.out_of(handles[2], handles[3])], axis=1
        ),
        worst * chords.size,
        at,
    )


@record(frozen=True)
class _Pull:
    """Normal equations of a step of both handles: symmetric 2 × 2 blocks, each as xx, xy and yy
    (k,), of the first handle (`near`), of the second (`far`) and between them (`both`), and what is
    left over for each, (k, 2)."""

    near: tuple[Floats, Floats, Floats]
    both: tuple[Floats, Floats, Floats]
    far: tuple[Floats, Floats, Floats]
    near_rest: Points
    far_rest: Points


def _handle_weights(u: Floats) -> Floats:
    """(2, n) how much each handle counts at parameters (n,)."""
    v = 1 - u
    weights = np.empty((2, len(u)))
    np.multiply(u, v, out=weights[0])
    weights[0] *= 3
    np.multiply(weights[0], u, out=weights[1])
    weights[0] *= v
    return weights


def _even_pull(chords: Chords, u: Floats) -> _Pull:
    """The pull on handles a third along the chord of samples that stand where the parameters
    say."""
    b = _handle_weights(u)
    terms = np.empty((7, len(u)))
    np.multiply(b, b[:1], out=terms[:2])
    np.multiply(b[1], b[1], out=terms[2])
    off = chords.xy.copy()
    off[0] -= u
    np.multiply(b[:, None], off, out=terms[3:].reshape(2, 2, -1))
    near, both, far, x1, y1, x2, y2 = chords.part.sums(terms)
    none = np.zeros(len(near))
    return _Pull(
        (near, none, near), (both, none, both), (far, none, far), columns(x1, y1), columns(x2, y2)
    )


def _pull(chords: Chords, curve: Floats, u: Floats) -> _Pull:
    """The pull of the samples' distances across the cubic; those along it count little, as samples
    may slide there.

    So a step is nearly one of Gauss and Newton on true distances; see Wang, Pottmann and Liu,
    "Fitting B-spline curves to point clouds by curvature-based squared distance minimization", ACM
    Transactions on Graphics 25 (2006).
    """
    off, slope = _offsets(chords, curve, u)
    lean = slope * ((1 - _SLIDE) / _squared(slope))
    across = np.empty(
        (3, len(u))
    )  # xx, xy and yy of what turns an offset into the part of it that counts
    np.multiply(lean, -slope[0], out=across[:2])
    np.multiply(lean[1], -slope[1], out=across[2])
    across[::2] += 1
    rest = across[:2] * -off[0]
    rest -= across[1:] * off[1]
    b = _handle_weights(u)
    terms = np.empty((13, len(u)))
    np.multiply(across, b[0] * b[0], out=terms[0:3])
    np.multiply(across, b[0] * b[1], out=terms[3:6])
    np.multiply(across, b[1] * b[1], out=terms[6:9])
    np.multiply(rest, b[0], out=terms[9:11])
    np.multiply(rest, b[1], out=terms[11:13])
    s = chords.part.sums(terms)
    return _Pull((s[0], s[1], s[2]), (s[3], s[4], s[5]), (s[6], s[7], s[8]), s[9:11].T, s[11:13].T)


def _along(block: tuple[Floats, Floats, Floats], a: Points, b: Points) -> Floats:
    """``a @ block @ b``, row by row."""
    xx, xy, yy = block
    return np.asarray(
        a[:, 0] * (xx * b[:, 0] + xy * b[:, 1]) + a[:, 1] * (xy * b[:, 0] + yy * b[:, 1])
    )


def _solved(pull: _Pull) -> Floats:
    """The step (4, k) of both handles, by elimination of the first."""
    (axx, axy, ayy), (bxx, bxy, byy), (dxx, dxy, dyy) = pull.near, pull.both, pull.far
    (rx, ry), (sx, sy) = pull.near_rest.T, pull.far_rest.T
    with np.errstate(divide="ignore", invalid="ignore"):
        det = axx * ayy - axy * axy
        det = np.where(det > 1e-9 * axx * ayy, det, np.nan)
        gxx, gxy, gyx, gyy = (
            (ayy * bxx - axy * bxy) / det,
            (ayy * bxy - axy * byy) / det,
            (axx * bxy - axy * bxx) / det,
            (axx * byy - axy * bxy) / det,
        )
        qx, qy = (ayy * rx - axy * ry) / det, (axx * ry - axy * rx) / det
        exx, exy, eyy = (
            dxx - bxx * gxx - bxy * gyx,
            dxy - bxx * gxy - bxy * gyy,
            dyy - bxy * gxy - byy * gyy,
        )
        tx, ty = sx - bxx * qx - bxy * qy, sy - bxy * qx - byy * qy
        rest = exx * eyy - exy * exy
        rest = np.where(rest > 1e-9 * dxx * dyy, rest, np.nan)
        x2, y2 = (eyy * tx - exy * ty) / rest, (exx * ty - exy * tx) / rest
    return np.stack([qx - gxx * x2 - gxy * y2, qy - gyx * x2 - gyy * y2, x2, y2])


def _curve(chords: Chords, handles: Floats) -> Floats:
    """The cubics with `handles` (4, k) as polynomials, at each of their samples: (3, 2, n), those
    of the third power first, x and y."""
    first, second = handles.reshape(2, 2, -1)
    powers = np.empty((3, 2, first.shape[1]))
    np.subtract(first, second, out=powers[0])
    np.subtract(second, first, out=powers[1])
    powers[1] -= first
    powers[2] = first
    powers *= 3
    powers[0, 0] += 1
    return chords.part.each(powers)


def _offsets(chords: Chords, curve: Floats, u: Floats) -> tuple[Floats, Floats]:
    """From the samples to the cubics at parameters `u`: offset and slope, (2, n) each."""
    a, b, c = curve
    rising = a * u
    rising += b
    off = rising * u
    off += c
    off *= u
    off -= chords.xy
    slope = a * u
    rising *= 2
    slope += rising  # 3 a u + 2 b
    slope *= u
    slope += c
    return off, slope


def _squared(vectors: Floats) -> Floats:
    """Squared lengths (n,) of vectors (2, n), never quite 0."""
    both = vectors * vectors
    return np.asarray(np.maximum(both[0] + both[1], 1e-12))


def _nearer(chords: Chords, curve: Floats, u: Floats) -> Floats:
    """Parameters a Newton step nearer to the samples."""
    off, slope = _offsets(chords, curve, u)
    bend = curve[0] * (3 * u)
    bend += curve[1]
    bend *= off
    square = _squared(slope)
    full = bend[0] + bend[1]
    full *= 2
    full += square
    slope *= off
    return np.asarray(np.clip(u - (slope[0] + slope[1]) / np.maximum(full, 0.2 * square), 0.0, 1.0))


def _distances(chords: Chords, curve: Floats, u: Floats) -> Floats:
    """Distances of the samples across the cubics."""
    off, slope = _offsets(chords, curve, u)
    across = off[0] * slope[1] - off[1] * slope[0]
    return np.asarray(np.abs(across) / np.sqrt(_squared(slope)))
