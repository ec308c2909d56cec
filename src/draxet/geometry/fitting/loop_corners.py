"""Where a loop turns sharply, and the exact place of such a corner.

Round a corner the direction turns all at once: the turn seen over a short reach equals the turn
seen over twice the reach. On a curve it doubles. So twice the short turn less the long one is the
part of the turn that is sharp. The picture's blur rounds every tip, so a corner's place is where
its two sides meet, not where the samples run.
"""

from __future__ import annotations

import numpy as np

from draxet.geometry.arrays import Bools, Floats, Ints, Points, crosses, dots, norms, rows
from draxet.geometry.fitting.loops import Loops

__all__ = ["confirmed_corners", "meeting_points", "sharp_turns", "tip_retreat", "tip_room", "turns"]

_INSIDE = 0.1
"""So far inside the samples may a corner's tip lie: blur only ever moves them inwards from it, but
they stray a little."""
_RETREAT, _PIXEL = 0.75, 0.3
_BESIDE, _SURELY = 0.4, 1.13
"""A tip may lie so much farther off, as samples stand apart, and so many times as far as blur alone
moves it, as sides are not exact."""


def sharp_turns(loops: Loops, reach: int, least_degrees: float) -> Bools:
    """Which samples (n,) are corners of at least `least_degrees`, one for each corner.

    Parameters
    ----------
    reach : samples to either side over which the short turn is seen.
    """
    least = np.radians(least_degrees)
    whole = turns(loops, reach)
    at = np.flatnonzero((np.abs(whole) >= least) & (loops.counts >= 4 * reach).repeat(loops.counts))
    whole = rows(whole, at)
    size = np.minimum(np.abs(2 * whole - turns(loops, 2 * reach, at)), np.abs(whole))
    at, size = at[size >= least], size[size >= least]
    strength = np.zeros(len(loops.points))
    strength[at] = size + 0.5 * np.abs(
        turns(loops, max(1, reach // 2), at)
    )  # the tip itself, not the place beside it
    top = np.ones(len(at), dtype=bool)
    for offset in range(1, reach + 1):
        top &= (strength[at] > strength[loops.on_from(at, -offset)]) & (
            strength[at] >= strength[loops.on_from(at, offset)]
        )
    sharp = np.zeros(len(loops.points), dtype=bool)
    sharp[at[top]] = True
    return sharp


def confirmed_corners(loops: Loops, sharp: Bools, blur: float) -> Bools:
    """Those of the corners `sharp` (n,) whose tip lies no farther inside its two sides than a blur
    of `blur` would put it.

    A blur of standard deviation s moves the half-way level of a 90° tip inwards by 0.77 s, and of
    sharper tips by more; a rounding moves it farther.
    """
    at = np.flatnonzero(sharp)
    if not at.size:
        return sharp
    owner = loops.owner[at]
    first, count = loops.firsts[owner], loops.counts[owner]
    same_next, same_last = np.roll(owner, -1) == owner, np.roll(owner, 1) == owner
    ahead = np.where(same_next, np.remainder(np.roll(at, -1) - at - 1, count) + 1, count)
    behind = np.where(same_last, np.remainder(at - np.roll(at, 1) - 1, count) + 1, count)
    skip = 2 if blur < 0.7 else 3
    q, v = _side(loops.points, first, count, at, 1, ahead, skip)
    p, u = _side(loops.points, first, count, at, -1, behind, skip)
    turn = np.arccos(np.clip(-dots(u, v), -1, 1))
    place, met = meeting_points(loops.points[at], p, -u, q, v, tip_room(turn, blur))
    confirmed = sharp.copy()
    confirmed[at[~met]] = False
    return confirmed


def tip_retreat(turn: Floats, blur: float) -> Floats:
    """How far blur of standard deviation `blur`, and that of the pixels, moves the half-way level
    of a tip that turns by `turn` radians inwards, in pixels.

    For a wedge this is about 0.75 standard deviations times the cotangent of half its angle, solved
    for two normal variables (within a tenth for wedges of 10° to 150°).
    """
    return np.asarray(
        _RETREAT * np.hypot(blur, _PIXEL) / np.tan(np.clip(np.pi - turn, 0.3, 3.0) / 2)
    )


def tip_room(turn: Floats, blur: float) -> Floats:
    """How far inside its sides the tip of a corner of `turn` radians may lie."""
    return np.asarray(np.minimum(_BESIDE + _SURELY * tip_retreat(turn, blur), 1.2 + 2.2 * blur))


def _side(
    points: Points, first: Ints, count: Ints, at: Ints, sense: int, room: Ints, skip: int
) -> tuple[Points, Points]:
    """The line of the samples beside a corner: a point of it and its direction away from the
    corner."""
    far = np.minimum(skip + 6, np.maximum(room - skip, 2))
    near = np.minimum(skip, far // 2)
    steps = np.rint(near[:, None] + (far - near)[:, None] * np.linspace(0, 1, 6)).astype(np.int64)
    samples = rows(
        points,
        first[:, None] + np.remainder(at[:, None] + sense * steps - first[:, None], count[:, None]),
    )
    middle = samples.mean(axis=1)
    t = steps - steps.mean(axis=1, keepdims=True)
    slope = (t[..., None] * (samples - middle[:, None])).sum(axis=1)
    return middle, slope / np.maximum(norms(slope), 1e-12)[:, None]


def turns(loops: Loops, reach: int, at: Ints | None = None) -> Floats:
    """Signed change of direction (n,) in radians between the chords before and after each sample,
    or after each of `at` only."""
    here = loops.points if at is None else rows(loops.points, at)
    before, after = (
        loops.beside(offset) if at is None else loops.on_from(at, offset)
        for offset in (-reach, reach)
    )
    to_here, from_here = here - rows(loops.points, before), rows(loops.points, after) - here
    return np.asarray(np.arctan2(crosses(to_here, from_here), dots(to_here, from_here)))


def meeting_points(
    at: Points, p: Points, u: Points, q: Points, v: Points, within: Floats
) -> tuple[Points, Bools]:
    """Where lines through `p` along `u` and through `q` along `v` meet (k, 2), row by row: the tip
    of a corner that blur has cut off.

    Returns
    -------
    points : the meeting point, or `at` where the lines are nearly parallel or meet farther from
    `at` than `within`, or on the corner's inner side.
    met : whether they did.
    """
    cross = crosses(u, v)
    gap = q - p
    with np.errstate(divide="ignore", invalid="ignore"):
        t = crosses(gap, v) / cross
        points = p + t[:, None] * u
        met = (
            (np.abs(cross) > 0.05)
            & (norms(points - at) <= within)
            & (dots(points - at, u - v) >= -_INSIDE * norms(u - v))
        )
    return np.where(met[:, None], points, at), met
