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
from draxet.geometry.crossing_places import led_from_steps
from draxet.geometry.crossing_records import WITHIN, Crossings, Found, parameter, slopes_at
from draxet.geometry.crossing_stretches import at_joint, with_stretches
from draxet.geometry.spans import ARC, CUBIC, Spans
from draxet.geometry.steps import SAME

_EQUAL = 1e-12
"""Of a parameter."""

__all__ = ["crossings", "crossings_of", "parts_of", "self_crossings"]


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
    apart = found.take(~at_joint(spans, found))
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


def _plain(spans: Spans, others: Spans, first: Ints, second: Ints) -> Found:
    """Places where lines and arcs meet; the ends of each that lie on the other tell of stretches in
    common."""
    a, b = spans.take(first), others.take(second)
    places = [a.starts, a.ends, b.starts, b.ends, *_where_they_cross(a, b)]
    which = np.tile(np.arange(len(first)), len(places))
    points = np.concatenate(places)
    real = np.isfinite(points).all(axis=1)
    which, points = which[real], points[real]
    t, u = parameter(a, which, points), parameter(b, which, points)
    good = (norms(a.at(which, t) - points) <= WITHIN) & (norms(b.at(which, u) - points) <= WITHIN)
    return first[which[good]], second[which[good]], t[good], u[good]


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
        np.where((away > radii) & (away - radii <= WITHIN), 0.0, (radii - away) * (radii + away))
    )
    return foot + half[:, None] * along, foot - half[:, None] * along


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
    bent = led_from_steps(spans, others, first[apart], second[apart])
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
        both & (np.abs(mine - way).max(axis=(1, 2), initial=0.0) <= WITHIN)
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


def _each_once(
    spans: Spans, others: Spans, first: Ints, second: Ints, t: Floats, u: Floats
) -> Crossings:
    if not len(first):
        return _none()
    order = np.lexsort([u, t, second, first])
    first, second, t, u = first[order], second[order], t[order], u[order]
    again = (first[1:] == first[:-1]) & (second[1:] == second[:-1])
    again &= (t[1:] - t[:-1] <= _EQUAL) & (np.abs(u[1:] - u[:-1]) <= _EQUAL)
    new = np.concatenate([[True], ~again])  # found from several steps, to the last place
    first, second, t, u = first[new], second[new], t[new], u[new]
    points = spans.at(first, t)
    keep = _first_of_each(
        first, second, u, points, norms(others.ends - others.starts)[second] + 1e-9
    )
    first, second, t, u, points = first[keep], second[keep], t[keep], u[keep], points[keep]
    a, b = slopes_at(spans, first, t), slopes_at(others, second, u)
    length = np.maximum(norms(a) * norms(b), 1e-300)
    touch = np.abs(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]) <= 1e-5 * length
    found = Crossings(first, second, t, u, points, touch, np.zeros(len(first), dtype=bool))
    return with_stretches(spans, others, found)


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
    real = norms(points - spans.at(which, u)) <= 100 * WITHIN
    which, t, u, points = which[real], t[real], u[real], points[real]
    none = np.zeros(len(which), dtype=bool)
    return Crossings(which, which.copy(), t, u, points, none, none.copy())


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
