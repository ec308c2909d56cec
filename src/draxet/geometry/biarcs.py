"""Cubics as arcs: each cubic becomes pairs of arcs that run on smoothly, within a tolerance; those of
a contour all at once.

Biarcs with equal tangent lengths; see Bolton, "Biarc curves" (1975).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from draxet.geometry.arrays import Bools, Floats, Ints, Points, norms
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.spans import ARC, CUBIC, LINE

__all__ = ["all_as_lines_and_arcs", "as_lines_and_arcs"]

_DEEPEST = 12
_T = np.linspace(0, 1, 33)
_WEIGHTS = np.column_stack([(1 - _T) ** 3, 3 * (1 - _T) ** 2 * _T, 3 * (1 - _T) * _T * _T, _T**3])
"""Of a cubic's four places, for the places on it that are looked at."""
_ALONG = 7
_AT_ONCE = 40
"""Contours at once: more take much memory, fewer more time."""
_SURE = 0.98
"""Of the tolerance: so much a pair of arcs may use."""


def as_lines_and_arcs(contour: Contour, tolerance: float) -> Contour:
    """A contour without cubics, nowhere farther than `tolerance` from the one given."""
    return all_as_lines_and_arcs([contour], tolerance)[0]


def all_as_lines_and_arcs(contours: Sequence[Contour], tolerance: float) -> list[Contour]:
    """Many contours, each as ``as_lines_and_arcs`` has it."""
    found, some = list(contours), [(c.kinds == CUBIC).any() for c in contours]
    bent = [k for k, is_bent in enumerate(some) if is_bent]
    for first in range(0, len(bent), _AT_ONCE):
        numbers = bent[first : first + _AT_ONCE]
        made = _without_cubics([contours[k] for k in numbers], tolerance)
        for k, contour in zip(numbers, made, strict=True):
            found[k] = contour
    return found


def _without_cubics(contours: Sequence[Contour], tolerance: float) -> list[Contour]:
    spans, _ = joined_spans(contours)
    cubics, others = np.flatnonzero(spans.kinds == CUBIC), np.flatnonzero(spans.kinds != CUBIC)
    curves = np.concatenate(
        [spans.starts[cubics, None], spans.handles[cubics], spans.ends[cubics, None]], axis=1
    )
    owner, share, starts, bulges = _arcs(curves, tolerance)
    kinds = np.where(np.abs(bulges) > 1e-9, ARC, LINE)
    of = np.concatenate([others, cubics[owner]])
    order = np.lexsort([np.concatenate([np.zeros(len(others)), share]), of])
    nodes = np.concatenate([spans.starts[others], starts])[order]
    kinds = np.concatenate([spans.kinds[others], kinds])[order]
    bulges = np.concatenate([spans.bulges[others], np.where(np.abs(bulges) > 1e-9, bulges, 0.0)])[
        order
    ]
    lasts = np.searchsorted(of[order], np.cumsum([len(c.kinds) for c in contours]))
    made = []
    for contour, first, last in zip(
        contours, [0, *lasts[:-1].tolist()], lasts.tolist(), strict=True
    ):
        places = nodes[first:last]
        if not contour.closed:
            places = np.vstack([places, contour.nodes[-1:]])
        made.append(
            Contour.make(places, kinds[first:last], bulges[first:last], closed=contour.closed)
        )
    return made


def _arcs(curves: Floats, tolerance: float) -> tuple[Ints, Floats, Points, Floats]:
    """Of the arcs that stand for cubics (n, 4, 2): which of these each belongs to, where along it
    that begins (its share), its start and its bulge. What does not hold is halved."""
    owner, share = np.arange(len(curves)), np.zeros(len(curves))
    found: list[tuple[Ints, Floats, Points, Floats]] = []
    for depth in range(_DEEPEST, -1, -1):
        there, joint, bulges = _biarcs(curves)
        some = np.flatnonzero(there)
        good = np.zeros(len(curves), dtype=bool)
        good[some] = (
            True
            if depth == 0
            else _hold(curves[some], joint[some], bulges[some], _SURE * tolerance)
        )
        half = 0.5 ** (_DEEPEST - depth + 1)
        found.append((owner[good], share[good], curves[good, 0], bulges[good, 0]))
        found.append((owner[good], share[good] + half, joint[good], bulges[good, 1]))
        left = ~good
        if depth == 0:
            found.append((owner[left], share[left], curves[left, 0], np.zeros(left.sum())))
        curves = np.concatenate(_split(curves[left]))
        owner, share = np.tile(owner[left], 2), np.append(share[left], share[left] + half)
        if not len(curves):
            break
    owners, shares, starts, bulged = (np.concatenate(each) for each in zip(*found, strict=True))
    return owners, shares, starts, bulged


def _biarcs(curves: Floats) -> tuple[Bools, Points, Floats]:
    """Of cubics (n, 4, 2) whether there are two arcs tangent to each at its ends and to each other;
    where these meet, and their bulges (n, 2)."""
    start, end = curves[:, 0], curves[:, 3]
    t0, t1 = _directions(curves), -_directions(curves[:, ::-1])
    v = end - start
    size = np.hypot(v[:, 0], v[:, 1])
    vt, same, square, last = _dots(v, t0 + t1), _dots(t0, t1), _dots(v, v), _dots(v, t1)
    denominator = 2 * (1 - same)
    alike = denominator < 1e-9
    with np.errstate(divide="ignore", invalid="ignore"):
        d = np.where(
            alike,
            square / (4 * last),
            (-vt + np.sqrt(vt * vt + denominator * square)) / denominator,
        )
        there = (size >= 1e-9) & ~(alike & (last < 1e-9)) & (d > 0) & (d < 4 * size)
        joint = (start + end + d[:, None] * (t0 - t1)) / 2
        bulges = np.column_stack([_bulges(start, joint, t0), -_bulges(end, joint, -t1)])
    return np.asarray(there), np.asarray(joint), bulges


def _dots(a: Floats, b: Floats) -> Floats:
    return np.asarray((a[:, None] @ b[:, :, None])[:, 0, 0])


def _directions(curves: Floats) -> Points:
    """Unit ways (n, 2) in which cubics leave their starts."""
    found = np.tile([1.0, 0.0], (len(curves), 1))
    todo = np.ones(len(curves), dtype=bool)
    for k in (1, 2, 3):
        away = curves[:, k] - curves[:, 0]
        size = np.hypot(away[:, 0], away[:, 1])
        now = todo & (size > 1e-12)
        found[now] = away[now] / size[now, None]
        todo &= ~now
    return found


def _bulges(start: Points, end: Points, leave: Points) -> Floats:
    chord = end - start
    half = np.arctan2(leave[:, 0] * chord[:, 1] - leave[:, 1] * chord[:, 0], _dots(leave, chord))
    return np.asarray(np.tan(half / 2))


def _hold(curves: Floats, joint: Points, bulges: Floats, tolerance: float) -> Bools:
    """Whether two arcs and the cubic (n of each) lie within a tolerance of each other. What lies
    between the places that are looked at is reckoned with, by a parabola through each three of
    them."""
    good = np.abs(bulges).max(axis=1, initial=0.0) <= 1  # else it may go round elsewhere
    points = _WEIGHTS @ curves
    middle = _from_pair(points[:, 16:17], curves, joint, bulges)[:, 0]
    some = np.flatnonzero(good & (middle <= tolerance))
    curves, joint, bulges, points = curves[some], joint[some], bulges[some], points[some]
    away = _from_pair(points, curves, joint, bulges)
    before, here, after = away[:, :-2], away[:, 1:-1], away[:, 2:]
    bend = 2 * here - before - after
    peaks = (here >= before) & (here >= after) & (bend > 0)
    between = here + (after - before) ** 2 / (8 * np.where(peaks, bend, 1.0))
    holds = away.max(axis=1, initial=0.0) <= tolerance
    holds &= np.where(peaks, between, 0.0).max(axis=1, initial=0.0) <= tolerance
    some, curves, joint, bulges, points = (
        each[holds] for each in (some, curves, joint, bulges, points)
    )
    steps = points[:, 1:] - points[:, :-1]
    sagitta = norms(steps[:, 1:] - steps[:, :-1]).max(axis=1, initial=0.0) / 8
    """So far the cubic itself may lie from the line through those places."""
    back = np.concatenate(
        [
            _on_arcs(curves[:, 0], joint, bulges[:, 0]),
            _on_arcs(joint, curves[:, 3], bulges[:, 1]),
        ],
        axis=1,
    )
    found = np.zeros(len(good), dtype=bool)
    found[some] = _from_lines(back, points).max(axis=1, initial=0.0) <= tolerance + sagitta
    return found


def _from_pair(points: Floats, curves: Floats, joint: Points, bulges: Floats) -> Floats:
    """How far points (n, m, 2) lie from the nearer of two arcs of at most half a turn."""
    return np.minimum(
        _from_arcs(points, curves[:, 0], joint, bulges[:, 0]),
        _from_arcs(points, joint, curves[:, 3], bulges[:, 1]),
    )


def _from_arcs(points: Floats, start: Points, end: Points, bulge: Floats) -> Floats:
    """How far points (n, m, 2) lie from an arc each of at most half a turn."""
    chord = end - start
    across = np.column_stack([-chord[:, 1], chord[:, 0]])
    off = points - start[:, None]
    long = np.maximum((chord * chord).sum(axis=1), 1e-24)[:, None]
    from_ends = np.minimum(norms(off), norms(points - end[:, None]))
    along = (off * chord[:, None]).sum(axis=2) / long
    beside = np.abs((off * across[:, None]).sum(axis=2)) / np.sqrt(long)
    straight = np.where((along >= 0) & (along <= 1), beside, from_ends)
    flat = np.abs(bulge) < 1e-9
    centre = _centres(start, end, np.where(flat, 1.0, bulge))
    radius = norms(start - centre)[:, None]
    spokes, sign = points - centre[:, None], np.copysign(1.0, bulge)[:, None]
    first, last = start - centre, end - centre
    ahead = sign * (first[:, :1] * spokes[..., 1] - first[:, 1:] * spokes[..., 0]) >= 0
    before = sign * (spokes[..., 0] * last[:, 1:] - spokes[..., 1] * last[:, :1]) >= 0
    round_ = np.where(ahead & before, np.abs(norms(spokes) - radius), from_ends)
    return np.asarray(np.where(flat[:, None], straight, round_))


def _centres(start: Points, end: Points, bulge: Floats) -> Points:
    chord = end - start
    lift = ((1 / bulge - bulge) / 4)[:, None]
    return np.asarray((start + end) / 2 + lift * np.column_stack([-chord[:, 1], chord[:, 0]]))


def _on_arcs(start: Points, end: Points, bulge: Floats) -> Floats:
    """Places (n, m, 2) along arcs."""
    flat, share = np.abs(bulge) < 1e-9, np.linspace(0, 1, _ALONG)
    straight = start[:, None] + share[:, None] * (end - start)[:, None]
    centre = _centres(start, end, np.where(flat, 1.0, bulge))
    turn = 4 * np.arctan(bulge)[:, None] * share
    cos, sin = np.cos(turn), np.sin(turn)
    x, y = (start - centre)[:, :1], (start - centre)[:, 1:]
    curved = centre[:, None] + np.stack([cos * x - sin * y, sin * x + cos * y], axis=2)
    return np.asarray(np.where(flat[:, None, None], straight, curved))


def _from_lines(points: Floats, lines: Floats) -> Floats:
    """How far points (n, m, 2) lie from a line through places (n, k, 2) each."""
    start, step = lines[:, None, :-1], np.diff(lines, axis=1)[:, None]
    share = np.clip(
        ((points[:, :, None] - start) * step).sum(axis=3)
        / np.maximum((step * step).sum(axis=3), 1e-24),
        0,
        1,
    )
    gaps = points[:, :, None] - (start + share[..., None] * step)
    return np.asarray(norms(gaps).min(axis=2))


def _split(curves: Floats) -> tuple[Floats, Floats]:
    """Cubics (n, 4, 2) halved."""
    a, b, c = np.moveaxis((curves[:, :-1] + curves[:, 1:]) / 2, 1, 0)
    d, e = (a + b) / 2, (b + c) / 2
    f = (d + e) / 2
    first = np.stack([curves[:, 0], a, d, f], axis=1)
    return first, np.stack([f, e, c, curves[:, 3]], axis=1)
