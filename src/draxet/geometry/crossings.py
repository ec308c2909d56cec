"""Where spans cross, touch or run along each other, and how spans are parted there.

Lines and arcs are met in closed form. Where a cubic is one of the two, the straight steps of both
that come near each other give the places to begin from, and damped Gauss-Newton steps (Levenberg,
1944) lead from there to where the true curves meet. A touch, where both have the same direction, is
one place.
"""

from __future__ import annotations

import numpy as np
import shapely

from draxet.geometry.arrays import Bools, Floats, Ints, Points, columns, crosses, dots, norms
from draxet.geometry.spans import ARC, CUBIC, Spans
from draxet.geometry.steps import SAME, Steps, nearest_on_steps, steps_of, steps_that_meet
from draxet.record import record

__all__ = [
    "Crossings",
    "crossings",
    "crossings_of",
    "nearest_on",
    "parts_of",
    "self_crossings",
    "slopes_at",
]

_WITHIN = 1e-7
"""mm: so near to each other places on two spans are the same."""
_TOUCH = 0.01
"""mm: a stretch in common that is no longer is a touch."""
_ROUNDS = 40
_NEWTONS = 16
_SOON, _NEARLY_MET = 8, 1e-3
"""After so many rounds what is not as near as that (mm) does not meet."""
_NEARLY_ALONG = 0.3
"""Steps that cross at a smaller angle (its sine) may hide two crossings, or a touch."""
_ALONG_PROBES = (0.2, 0.4, 0.6, 0.8)
_MANY = 3
"""So many places on one pair of spans, and they may run along each other."""


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


def crossings(spans: Spans, others: Spans) -> Crossings:
    """Where spans meet other ones.

    Cost: about that of a tree over the spans' extents, and of the steps of those that meet.
    """
    first, second = _near(spans, others)
    return _met(spans, others, first, second)


def self_crossings(spans: Spans) -> Crossings:
    """Where spans meet each other or, where they are cubics, themselves; `first` is no greater than
    `second`. Ends at which one span goes over into another are none."""
    first, second = _near(spans, spans)
    pair = first < second
    found = _met(spans, spans, first[pair], second[pair])
    apart = found.take(~_at_joint(spans, found))
    loops = _loops(spans)
    return Crossings(
        *(
            np.concatenate([getattr(apart, name), getattr(loops, name)])
            for name in Crossings.__dataclass_fields__
        )
    )


def crossings_of(spans: Spans, first: Ints, second: Ints) -> Crossings:
    """Where spans of one batch meet, pair by pair."""
    return _met(spans, spans, first, second)


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


def parts_of(spans: Spans, index: Ints, begin: Floats, end: Floats) -> Spans:
    """Parts of the spans `index` (m,) from parameter `begin` to `end` (m,): lines stay lines, arcs
    arcs of the same circle, cubics cubics (de Casteljau)."""
    some = spans.take(index)
    starts, ends = spans.at(index, begin), spans.at(index, end)
    whole_start, whole_end = begin == 0, end == 1
    starts[whole_start], ends[whole_end] = some.starts[whole_start], some.ends[whole_end]
    bulges = np.where(some.kinds == ARC, np.tan(np.arctan(some.bulges) * (end - begin)), 0.0)
    reach = (end - begin)[:, None] / 3
    cubic = (some.kinds == CUBIC)[:, None]
    first = np.where(cubic, starts + reach * slopes_at(spans, index, begin), 0.0)
    second = np.where(cubic, ends - reach * slopes_at(spans, index, end), 0.0)
    return Spans(starts, ends, some.kinds, bulges, np.stack([first, second], axis=1))


_Found = tuple[Ints, Ints, Floats, Floats]
"""Spans, and parameters on them, at which they meet; a place may be there more than once."""


# --- lines and arcs, in closed form


def _plain(spans: Spans, others: Spans, first: Ints, second: Ints) -> _Found:
    """Places where lines and arcs meet; the ends of each that lie on the other tell of stretches in
    common."""
    a, b = spans.take(first), others.take(second)
    places = [a.starts, a.ends, b.starts, b.ends, *_where_they_cross(a, b)]
    which = np.tile(np.arange(len(first)), len(places))
    points = np.concatenate(places)
    real = np.isfinite(points).all(axis=1)
    which, points = which[real], points[real]
    t, u = _parameter(a, which, points), _parameter(b, which, points)
    good = (norms(a.at(which, t) - points) <= _WITHIN) & (norms(b.at(which, u) - points) <= _WITHIN)
    return first[which[good]], second[which[good]], t[good], u[good]


def _parameter(spans: Spans, index: Ints, points: Points) -> Floats:
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


def _where_they_cross(a: Spans, b: Spans) -> list[Points]:
    """Two candidates for each pair of lines and arcs; NaN where there is none."""
    arc_a, arc_b = ((each.kinds == ARC) & (each.bulges != 0) for each in (a, b))
    out = [np.full((len(a), 2), np.nan) for _ in range(2)]
    with np.errstate(divide="ignore", invalid="ignore"):
        if (both := np.flatnonzero(~arc_a & ~arc_b)).size:
            d, e = (a.ends - a.starts)[both], (b.ends - b.starts)[both]
            s = crosses(b.starts[both] - a.starts[both], e) / crosses(d, e)
            out[0][both] = a.starts[both] + s[:, None] * d
        for lines, arcs, which in (
            (a, b, np.flatnonzero(~arc_a & arc_b)),
            (b, a, np.flatnonzero(arc_a & ~arc_b)),
        ):
            if which.size:
                shape, d = arcs.take(which).arc_shapes(), (lines.ends - lines.starts)[which]
                along = d / norms(d)[:, None]
                foot = (
                    lines.starts[which]
                    + dots(shape.centres - lines.starts[which], along)[:, None] * along
                )
                out[0][which], out[1][which] = _aside(
                    foot, along, shape.radii, norms(foot - shape.centres)
                )
        if (both := np.flatnonzero(arc_a & arc_b)).size:
            one, other = a.take(both).arc_shapes(), b.take(both).arc_shapes()
            d = other.centres - one.centres
            apart = norms(d)
            along = d / apart[:, None]
            reach = (apart**2 + one.radii**2 - other.radii**2) / (2 * apart)
            out[0][both], out[1][both] = _aside(
                one.centres + reach[:, None] * along,
                columns(-along[:, 1], along[:, 0]),
                one.radii,
                np.abs(reach),
            )
    return out


def _aside(foot: Points, along: Points, radii: Floats, away: Floats) -> tuple[Points, Points]:
    """Two points of circles beside a foot that lies so far away from their centres; the foot's own
    place where it all but touches."""
    half = np.sqrt(
        np.where((away > radii) & (away - radii <= _WITHIN), 0.0, (radii - away) * (radii + away))
    )
    return foot + half[:, None] * along, foot - half[:, None] * along


# --- places to begin from


def _near(spans: Spans, others: Spans) -> tuple[Ints, Ints]:
    """Pairs of spans whose extents meet."""
    a, b = spans.boxes(), others.boxes()
    tree = shapely.STRtree(
        np.atleast_1d(np.asarray(shapely.box(*(b + (-SAME, -SAME, SAME, SAME)).T)))
    )
    first, second = tree.query(np.atleast_1d(np.asarray(shapely.box(*a.T))))
    return first.astype(np.int64), second.astype(np.int64)


def _met(spans: Spans, others: Spans, first: Ints, second: Ints) -> Crossings:
    curved = (spans.kinds[first] == CUBIC) | (others.kinds[second] == CUBIC)
    plain = _plain(spans, others, first[~curved], second[~curved])
    first, second = first[curved], second[curved]
    onward, back = _alike(spans, others, first, second)
    apart = ~(onward | back)
    bent = _led_from_steps(spans, others, first[apart], second[apart])
    found = _each_once(
        spans, others, *(np.concatenate(parts) for parts in zip(plain, bent, strict=True))
    )
    return _with_doubles(spans, found, first[~apart], second[~apart], back[~apart])


def _alike(spans: Spans, others: Spans, first: Ints, second: Ints) -> tuple[Bools, Bools]:
    """Which pairs (m,) are one cubic drawn twice, and which are one drawn there and back."""
    a, b = spans.take(first), others.take(second)
    both = (a.kinds == CUBIC) & (b.kinds == CUBIC)
    mine = np.stack([a.starts, a.handles[:, 0], a.handles[:, 1], a.ends], axis=1)
    theirs = np.stack([b.starts, b.handles[:, 0], b.handles[:, 1], b.ends], axis=1)
    onward, back = (
        both & (np.abs(mine - way).max(axis=(1, 2), initial=0.0) <= _WITHIN)
        for way in (theirs, theirs[:, ::-1])
    )
    return onward, back & ~onward


def _with_doubles(
    spans: Spans, found: Crossings, first: Ints, second: Ints, back: Bools
) -> Crossings:
    """What was found, and pairs that share all of their course: they share both ends."""
    if not len(first):
        return found
    t, count = np.tile([0.0, 1.0], len(first)), np.ones(2 * len(first), dtype=bool)
    first, second, u = (
        np.repeat(first, 2),
        np.repeat(second, 2),
        np.where(np.repeat(back, 2), 1 - t, t),
    )
    doubles = Crossings(first, second, t, u, spans.at(first, t), count, count.copy())
    whole = Crossings(
        *(
            np.concatenate([getattr(found, name), getattr(doubles, name)])
            for name in Crossings.__dataclass_fields__
        )
    )
    return whole.take(np.lexsort([whole.u, whole.t, whole.second, whole.first]))


def _led_from_steps(spans: Spans, others: Spans, first: Ints, second: Ints) -> _Found:
    if not len(first):
        return _no_places()
    which, i = np.unique(first, return_inverse=True)
    which_other, j = np.unique(second, return_inverse=True)
    a, b = steps_of(spans, which), steps_of(others, which_other)
    return _solved(spans, others, a, b, *steps_that_meet(a, b, i, j))


def _solved(spans: Spans, others: Spans, a: Steps, b: Steps, one: Ints, other: Ints) -> _Found:
    """From pairs of steps to places on the true spans: begun where the steps cross, and at both
    ends of each, so that two crossings beside a touch are both found; and ends of one span that lie
    on the other."""
    s, v = nearest_on_steps(a.starts[one], a.ends[one], b.starts[other], b.ends[other])
    first, second = a.owner[one], b.owner[other]
    d, e = a.ends[one] - a.starts[one], b.ends[other] - b.starts[other]
    bent = np.flatnonzero(np.abs(crosses(d, e)) < _NEARLY_ALONG * norms(d) * norms(e))
    begins = [
        (np.arange(len(s)), s, v),
        (bent, np.zeros(len(bent)), v[bent]),
        (bent, np.ones(len(bent)), v[bent]),
    ]
    found: tuple[list[Ints], list[Ints], list[Floats], list[Floats]] = ([], [], [], [])
    for which, along, across in begins:
        i, j, t, u = (
            first[which],
            second[which],
            (a.number[one][which] + along) / a.count[one][which],
            (b.number[other][which] + across) / b.count[other][which],
        )
        t, u, off = _led(spans, others, i, j, t, u)
        good = off <= _WITHIN
        _add(found, i[good], j[good], t[good], u[good])
    _add_ends(found, spans, others, a, b, one, other)
    return (
        np.concatenate(found[0]),
        np.concatenate(found[1]),
        np.concatenate(found[2]),
        np.concatenate(found[3]),
    )


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
            good, t = off <= _WITHIN, np.full(len(i), float(end))
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
    plain = _parameter(spans, index, points)
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
    spans: Spans, others: Spans, first: Ints, second: Ints, t: Floats, u: Floats
) -> tuple[Floats, Floats, Floats]:
    """Parameters led to where the spans are nearest, and how far they are apart there."""
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
        new_t, new_u = np.clip(t[active] + slow * dt, 0, 1), np.clip(u[active] + slow * du, 0, 1)
        moved = np.maximum(np.abs(new_t - t[active]), np.abs(new_u - u[active]))
        t[active], u[active] = new_t, new_u
        active = active[moved > 1e-14]
    off = norms(spans.at(first, t) - others.at(second, u))
    return t, u, off


# --- each place once


def _each_once(
    spans: Spans, others: Spans, first: Ints, second: Ints, t: Floats, u: Floats
) -> Crossings:
    if not len(first):
        return _none()
    order = np.lexsort([u, t, second, first])
    first, second, t, u = first[order], second[order], t[order], u[order]
    points = spans.at(first, t)
    keep = _first_of_each(
        first, second, u, points, norms(others.ends - others.starts)[second] + 1e-9
    )
    first, second, t, u, points = first[keep], second[keep], t[keep], u[keep], points[keep]
    a, b = slopes_at(spans, first, t), slopes_at(others, second, u)
    length = np.maximum(norms(a) * norms(b), 1e-300)
    touch = np.abs(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]) <= 1e-5 * length
    found = Crossings(first, second, t, u, points, touch, np.zeros(len(first), dtype=bool))
    return _with_stretches(spans, others, found)


def _first_of_each(first: Ints, second: Ints, u: Floats, points: Points, sizes: Floats) -> Bools:
    """Which places stand for themselves: in a pair of spans the same place is found from several
    steps, and the first of them counts."""
    later, sooner = [np.zeros(0, dtype=np.int64)], [np.zeros(0, dtype=np.int64)]
    for back in range(1, len(first)):
        pair = (first[back:] == first[:-back]) & (second[back:] == second[:-back])
        if not pair.any():
            break
        near = (
            pair
            & (np.abs(points[back:] - points[:-back]).max(axis=1) <= SAME)
            & (np.abs(u[back:] - u[:-back]) * sizes[back:] <= 50 * SAME)
        )
        later.append(np.flatnonzero(near) + back)
        sooner.append(np.flatnonzero(near))
    k, n = np.concatenate(later), np.concatenate(sooner)
    order = np.argsort(k, kind="stable")
    keep = [True] * len(first)
    for one, other in zip(k[order].tolist(), n[order].tolist(), strict=True):
        if keep[other]:
            keep[one] = False
    return np.array(keep)


def _with_stretches(spans: Spans, others: Spans, found: Crossings) -> Crossings:
    """Where two spans run along each other, the two ends of the stretch stand for all of it."""
    keep, along, touch = np.ones(len(found), dtype=bool), found.along.copy(), found.touch.copy()
    begins = np.flatnonzero(
        np.append(True, (np.diff(found.first) != 0) | (np.diff(found.second) != 0))
    )
    sizes = np.diff(np.append(begins, len(found)))
    some = (sizes >= 2) & ((sizes >= _MANY) | np.logical_or.reduceat(touch, begins))
    runs_on = _running_on(spans, others, found, np.repeat(some, sizes))
    for a, b in zip(begins[some].tolist(), (begins + sizes)[some].tolist(), strict=True):
        k = a
        while k + 1 < b:
            end = k
            while end + 1 < b and runs_on[end]:
                end += 1
            if (
                end > k and np.hypot(*(found.points[end] - found.points[k])) <= _TOUCH
            ):  # a touch: so flat that it has no one place
                keep[k : end + 1] = False
                keep[(k + end) // 2] = touch[(k + end) // 2] = True
            elif end > k:
                keep[k + 1 : end] = False
                along[[k, end]] = touch[[k, end]] = True
            k = end + 1
    return Crossings(found.first, found.second, found.t, found.u, found.points, touch, along).take(
        keep
    )


def _running_on(spans: Spans, others: Spans, found: Crossings, asked: Bools) -> list[bool]:
    """Whether from each place of those `asked` for to the next one, which is on the same pair of
    spans, the first span lies on the second."""
    pair = (found.first[1:] == found.first[:-1]) & (found.second[1:] == found.second[:-1])
    k = np.flatnonzero(pair & asked[:-1] & (np.abs(np.diff(found.t)) > 1e-9))
    on = np.zeros(len(found), dtype=bool)
    if k.size:
        share = np.tile(_ALONG_PROBES, len(k))
        k4 = np.repeat(k, len(_ALONG_PROBES))
        points = spans.at(found.first[k4], found.t[k4] + share * (found.t[k4 + 1] - found.t[k4]))
        _, off = nearest_on(
            others, found.second[k4], points, found.u[k4] + share * (found.u[k4 + 1] - found.u[k4])
        )
        on[k] = (off.reshape(len(k), -1) <= 4 * _WITHIN).all(axis=1)
    return on.tolist()


# --- joints and loops


def _at_joint(spans: Spans, found: Crossings) -> Bools:
    """Whether the places (k,) are where one span goes over into the next: where both run the same
    way there, also what lies so near to the joint that it is the same place."""
    joint = np.zeros(len(found), dtype=bool)
    for one, other in ((found.first, found.second), (found.second, found.first)):
        a, b = spans.ends[one], spans.starts[other]
        joint |= (a == b).all(axis=1) & (norms(found.points - a) <= SAME)
    return joint


def _loops(spans: Spans) -> Crossings:
    """Where cubics cross themselves in closed form."""
    which = np.flatnonzero(spans.kinds == CUBIC)
    if not which.size:
        return _none()
    p0, p3, (p1, p2) = (
        spans.starts[which],
        spans.ends[which],
        spans.handles[which].transpose(1, 0, 2),
    )
    a, b, c = p3 - p0 + 3 * (p1 - p2), 3 * (p0 - 2 * p1 + p2), 3 * (p1 - p0)
    ab, ac, bc = (x[:, 0] * y[:, 1] - x[:, 1] * y[:, 0] for x, y in ((a, b), (a, c), (b, c)))
    with np.errstate(divide="ignore", invalid="ignore"):
        total = (
            -ac / ab
        )  # t + u, and below t · u: what is left of both coordinates once equal places are set equal
        product = total * total - bc / ab
        root = np.sqrt(total * total - 4 * product)
        t, u = (total - root) / 2, (total + root) / 2
    good = np.isfinite(t) & np.isfinite(u) & (t >= -1e-12) & (u <= 1 + 1e-12) & (u - t > 1e-6)
    which, t, u = which[good], np.clip(t[good], 0, 1), np.clip(u[good], 0, 1)
    points = spans.at(which, t)
    real = norms(points - spans.at(which, u)) <= 100 * _WITHIN
    which, t, u, points = which[real], t[real], u[real], points[real]
    none = np.zeros(len(which), dtype=bool)
    return Crossings(which, which.copy(), t, u, points, none, none.copy())


def _no_places() -> _Found:
    empty = np.zeros(0, dtype=np.int64)
    return empty, empty, np.zeros(0), np.zeros(0)


def _none() -> Crossings:
    empty = np.zeros(0, dtype=np.int64)
    return Crossings(
        empty,
        empty,
        np.zeros(0),
        np.zeros(0),
        np.zeros((0, 2)),
        np.zeros(0, dtype=bool),
        np.zeros(0, dtype=bool),
    )
