"""Places where bent spans cross, led from their steps onto the spans themselves."""

from __future__ import annotations

import numpy as np

from draxet.geometry.arrays import Floats, Ints, Points, crosses, dots, norms
from draxet.geometry.crossing_records import WITHIN, Found, parameter, slopes_at
from draxet.geometry.spans import CUBIC, Spans
from draxet.geometry.steps import Steps, nearest_on_steps, steps_of, steps_that_meet

__all__ = ["led_from_steps", "nearest_on"]

_ROUNDS = 40

_NEWTONS = 16

_SOON, _NEARLY_MET = 8, 1e-3
"""After so many rounds what is not as near as that (mm) does not meet."""

_STEPS_FAR = 2.0
"""So many steps away a place is found at the most: beyond, others begin that are nearer to it."""

_ALIKE = 4
"""Places within a fourth of a step of each other are begun from once."""

_FARTHER = 8.0
"""Steps of Newton's, of which each is at most half as long as the one before, lead no more times as
far as the last one: what is farther apart then does not meet."""

_NEARLY_ALONG = 0.3
"""Steps that cross at a smaller angle (its sine) may hide two crossings, or a touch."""


def led_from_steps(spans: Spans, others: Spans, first: Ints, second: Ints) -> Found:
    if not len(first):
        return _no_places()
    which, i = np.unique(first, return_inverse=True)
    which_other, j = np.unique(second, return_inverse=True)
    a, b = steps_of(spans, which), steps_of(others, which_other)
    return _solved(spans, others, a, b, *steps_that_meet(a, b, i, j))


def _solved(spans: Spans, others: Spans, a: Steps, b: Steps, one: Ints, other: Ints) -> Found:
    """From pairs of steps to places on the true spans; and ends of one span that lie on the
    other."""
    which, steps, steps_other = _begins(a, b, one, other)
    i, j = a.owner[one][which], b.owner[other][which]
    count, count_other = a.count[one][which], b.count[other][which]
    reach = _STEPS_FAR / count, _STEPS_FAR / count_other
    t, u, off = _led(spans, others, i, j, steps / count, steps_other / count_other, reach)
    good = off <= WITHIN
    found: tuple[list[Ints], list[Ints], list[Floats], list[Floats]] = ([], [], [], [])
    _add(found, i[good], j[good], t[good], u[good])
    _add_ends(found, spans, others, a, b, one, other)
    return (
        np.concatenate(found[0]),
        np.concatenate(found[1]),
        np.concatenate(found[2]),
        np.concatenate(found[3]),
    )


def _begins(a: Steps, b: Steps, one: Ints, other: Ints) -> tuple[Ints, Floats, Floats]:
    """Where places are looked for from: the numbers of pairs of steps, and how many steps along
    each span that is. It is where the steps cross, and both ends of those that run along each
    other, so that two crossings beside a touch are both found."""
    s, v = nearest_on_steps(a.starts[one], a.ends[one], b.starts[other], b.ends[other])
    d, e = a.ends[one] - a.starts[one], b.ends[other] - b.starts[other]
    bent = np.flatnonzero(np.abs(crosses(d, e)) < _NEARLY_ALONG * norms(d) * norms(e))
    which = np.concatenate([np.arange(len(s)), bent, bent])
    along = np.concatenate([s, np.zeros(len(bent)), np.ones(len(bent))])
    steps = a.number[one][which] + along
    steps_other = b.number[other][which] + np.concatenate([v, v[bent], v[bent]])
    alike = (np.round(steps * _ALIKE), np.round(steps_other * _ALIKE))
    rows = np.column_stack([*alike, a.owner[one][which], b.owner[other][which]])
    some = np.unique(rows, axis=0, return_index=True)[1]  # where one step ends, another begins
    return which[some], steps[some], steps_other[some]


def _add_ends(
    found: tuple[list[Ints], list[Ints], list[Floats], list[Floats]],
    spans: Spans,
    others: Spans,
    a: Steps,
    b: Steps,
    one: Ints,
    other: Ints,
) -> None:
    """Ends of one span that lie on the other."""
    for end in (0, 1):
        for mine, theirs, steps, steps_other, k, n in (
            (spans, others, a, b, one, other),
            (others, spans, b, a, other, one),
        ):
            at_end = np.flatnonzero(steps.number[k] == (0 if end == 0 else steps.count[k] - 1))
            i, j = steps.owner[k[at_end]], steps_other.owner[n[at_end]]
            fixed = mine.ends[i] if end else mine.starts[i]
            u, off = nearest_on(
                theirs,
                j,
                fixed,
                (steps_other.number[n[at_end]] + 0.5) / steps_other.count[n[at_end]],
            )
            good, t = off <= WITHIN, np.full(len(i), float(end))
            i, j, t, u = i[good], j[good], t[good], u[good]
            _add(found, *((i, j, t, u) if steps is a else (j, i, u, t)))


def _add(
    found: tuple[list[Ints], list[Ints], list[Floats], list[Floats]],
    i: Ints,
    j: Ints,
    t: Floats,
    u: Floats,
) -> None:
    found[0].append(i)
    found[1].append(j)
    found[2].append(t)
    found[3].append(u)


def nearest_on(spans: Spans, index: Ints, points: Points, t: Floats) -> tuple[Floats, Floats]:
    """Parameters on the spans `index` nearest to points (m, 2), and how far away they are: on lines
    and arcs in closed form, on cubics by Newton's steps from `t`."""
    plain = parameter(spans, index, points)
    cubic = np.flatnonzero(spans.kinds[index] == CUBIC)
    t = np.where(spans.kinds[index] == CUBIC, t, plain)
    if cubic.size:
        t[cubic] = _nearest_on_cubics(spans.take(index[cubic]), points[cubic], t[cubic])
    return t, norms(spans.at(index, t) - points)


def _nearest_on_cubics(cubics: Spans, points: Points, t: Floats) -> Floats:
    p0, p3, (p1, p2) = cubics.starts, cubics.ends, cubics.handles.transpose(1, 0, 2)
    c, b = 3 * (p1 - p0), 3 * (p0 - 2 * p1 + p2)
    a, off = p3 - p0 - c - b, p0 - points
    for _ in range(_NEWTONS):
        u = t[:, None]
        gap, slope, bend = (
            ((a * u + b) * u + c) * u + off,
            (3 * a * u + 2 * b) * u + c,
            6 * a * u + 2 * b,
        )
        square = np.maximum(dots(slope, slope), 1e-300)
        new = np.clip(
            t - dots(gap, slope) / np.maximum(square + dots(gap, bend), 0.2 * square), 0, 1
        )
        done = np.abs(new - t).max() <= 1e-13
        t = new
        if done:
            break
    return t


def _led(
    spans: Spans,
    others: Spans,
    first: Ints,
    second: Ints,
    t: Floats,
    u: Floats,
    reach: tuple[Floats, Floats],
) -> tuple[Floats, Floats, Floats]:
    """Parameters led to where the spans are nearest, no farther than `reach` from where they begin,
    and how far they are apart there."""
    low_t, high_t = np.maximum(t - reach[0], 0), np.minimum(t + reach[0], 1)
    low_u, high_u = np.maximum(u - reach[1], 0), np.minimum(u + reach[1], 1)
    t, u = t.copy(), u.copy()
    off = np.full(len(t), np.inf)
    active = np.arange(len(t))
    for round_ in range(_ROUNDS):
        if round_ == _SOON:
            active = active[off[active] < _NEARLY_MET]
        if not active.size:
            break
        i, j = first[active], second[active]
        gap = spans.at(i, t[active]) - others.at(j, u[active])
        off[active] = norms(gap)
        a, b = slopes_at(spans, i, t[active]), -slopes_at(others, j, u[active])
        aa, bb, ab = dots(a, a), dots(b, b), dots(a, b)
        damp = 1e-12 * (aa + bb)
        aa, bb = aa + damp, bb + damp
        ra, rb = -dots(a, gap), -dots(b, gap)
        det = np.maximum(aa * bb - ab * ab, 1e-300)
        dt, du = (ra * bb - rb * ab) / det, (rb * aa - ra * ab) / det
        most = np.maximum(np.abs(dt), np.abs(du))
        slow = np.minimum(1.0, 0.25 / np.maximum(most, 1e-300))
        new_t = np.clip(t[active] + slow * dt, low_t[active], high_t[active])
        new_u = np.clip(u[active] + slow * du, low_u[active], high_u[active])
        moved = np.maximum(np.abs(new_t - t[active]), np.abs(new_u - u[active]))
        t[active], u[active] = new_t, new_u
        within_reach = off[active] <= WITHIN + _FARTHER * moved * (np.sqrt(aa) + np.sqrt(bb))
        active = active[(moved > 1e-14) & within_reach]
    off = norms(spans.at(first, t) - others.at(second, u))
    return t, u, off


def _no_places() -> Found:
    empty = np.zeros(0, dtype=np.int64)
    return empty, empty, np.zeros(0), np.zeros(0)
