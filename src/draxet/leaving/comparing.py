"""How far what was read back lies from what was written: span by span where both have the same,
between the same nodes where one has others there, and as whole lines else."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
import scipy
import shapely

from draxet.geometry.arrays import Floats, Ints, Points, norms
from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, CUBIC, Spans
from draxet.progress import Progress, Unwatched

__all__ = ["greatest_difference"]

_FINE = 0.0005
"""mm: so fine are lines that are compared as such."""
_STEPS, _MOST_STEPS = 4000, 400_000
"""Straight steps for an arc: so many a contour has at once, and so many at the most."""
_SHARES = np.linspace(0.0, 1.0, 9)
"""Of an arc's turn: where two are compared."""
_AT_ONCE = 2000
"""Contours compared between two reports."""
_WORDS = "comparing what was written"


def greatest_difference(
    wanted: Sequence[Contour],
    found: Sequence[Contour],
    allowed: float,
    report: Progress = Unwatched(),
) -> float:
    """The greatest distance in mm between contours and those that stand for them, within 0.0005 mm;
    nodes count as the same that lie within `allowed` of each other. 0 where there are none. Time
    grows with n log n for n spans."""
    worst, count = 0.0, min(len(wanted), len(found))
    for first in range(0, count, _AT_ONCE):
        report(first / count, _WORDS)
        some = range(first, min(first + _AT_ONCE, count))
        alike: list[tuple[Contour, Contour]] = []
        for k in some:
            a, b = wanted[k], found[k]
            if a.closed is b.closed and np.array_equal(a.kinds, b.kinds):
                alike.append((a, b))
            else:
                worst = max(worst, _unlike_apart(a, b, allowed))
        for (a, b), off in zip(alike, _alike_apart(alike), strict=True):
            if off > max(worst, allowed):  # they may begin at other places
                off = _unlike_apart(a, b, allowed)
            worst = max(worst, off)
    return worst


def _alike_apart(pairs: Sequence[tuple[Contour, Contour]]) -> list[float]:
    """Of contours with the same kinds of spans, no less than their distance each."""
    if not pairs:
        return []
    mine, theirs = (_joined([pair[k].spans for pair in pairs]) for k in (0, 1))
    begins = np.cumsum([0, *(len(a.kinds) for a, _ in pairs[:-1])])
    return [float(off) for off in np.maximum.reduceat(_spans_apart(mine, theirs), begins)]


def _unlike_apart(a: Contour, b: Contour, allowed: float) -> float:
    """Of contours with other spans."""
    mine, theirs = a.circle_shape, b.circle_shape
    if mine and theirs:
        return math.dist(mine[:2], theirs[:2]) + abs(mine[2] - theirs[2])
    between = _owners(a, b, allowed)
    off = _parts_apart(a.spans, b.spans, between) if between is not None else math.inf
    return off if off <= allowed else _lines_apart(a, b)


def _joined(spans: Sequence[Spans]) -> Spans:
    return Spans(
        *(
            np.concatenate([getattr(each, name) for each in spans])
            for name in ("starts", "ends", "kinds", "bulges", "handles")
        )
    )


def _spans_apart(a: Spans, b: Spans) -> Floats:
    """(n,) of spans of the same kinds: no less than their distance. Cubics whose control points lie
    so near do so themselves; arcs are compared at places along them."""
    off = np.maximum(norms(a.starts - b.starts), norms(a.ends - b.ends))
    cubics, arcs = np.flatnonzero(a.kinds == CUBIC), np.flatnonzero(a.kinds == ARC)
    handles = np.linalg.norm(a.handles[cubics] - b.handles[cubics], axis=2).max(axis=1, initial=0.0)
    off[cubics] = np.maximum(off[cubics], handles)
    for share in _SHARES[1:-1]:
        along = np.full(len(arcs), share)
        off[arcs] = np.maximum(off[arcs], norms(a.at(arcs, along) - b.at(arcs, along)))
    return np.asarray(off)


def _owners(a: Contour, b: Contour, allowed: float) -> Ints | None:
    """(m,) which span of `a` each of `b` belongs to, where the nodes of `a` are all in `b`, in
    their order; None where they are not."""
    if a.closed is not b.closed or len(b.nodes) < len(a.nodes) or not len(a.nodes):
        return None
    away, at = scipy.spatial.cKDTree(b.nodes).query(a.nodes)
    if away.max() > allowed or at[0] != 0 or (np.diff(at) <= 0).any():
        return None
    return np.searchsorted(at[: len(a.kinds)], np.arange(len(b.kinds)), side="right") - 1


def _parts_apart(a: Spans, b: Spans, owners: Ints) -> float:
    """Of spans `a` and those of `b` that each stands for."""
    counts = np.bincount(owners, minlength=len(a))
    first = np.searchsorted(owners, np.arange(len(a)))
    same = np.flatnonzero((counts == 1) & (b.kinds[np.minimum(first, len(b) - 1)] == a.kinds))
    worst = float(_spans_apart(a.take(same), b.take(first[same])).max(initial=0.0))
    others = np.setdiff1d(np.arange(len(a)), same)
    if not len(others):
        return worst
    number = np.full(len(a), -1)
    number[others] = np.arange(len(others))
    theirs = np.flatnonzero(number[owners] >= 0)
    lines = (
        _as_lines(a.take(others), np.arange(len(others))),
        _as_lines(b.take(theirs), number[owners[theirs]]),
    )
    return max(worst, float(shapely.hausdorff_distance(*lines).max()))


def _as_lines(spans: Spans, of: Ints) -> Any:
    """One line for each number of `of` (ascending), along the spans of that number."""
    steps = spans.steps(_FINE)
    which = np.repeat(np.arange(len(spans)), steps + 1)
    begins = np.cumsum(steps + 1) - steps - 1
    share = (np.arange(len(which)) - begins[which]) / steps[which]
    return shapely.linestrings(spans.at(which, share), indices=of[which])


def _lines_apart(a: Contour, b: Contour) -> float:
    """Of whole contours, wherever they are: from the places of each to the pieces of the other."""
    ways = [
        np.vstack([places, places[:1]]) if contour.closed else places
        for contour in (a, b)
        for places in [_finely(contour)]
    ]
    worst = 0.0
    for mine, theirs in (ways, ways[::-1]):
        pieces: Any = shapely.linestrings(np.stack([theirs[:-1], theirs[1:]], axis=1))
        tree = shapely.STRtree(pieces)
        _, away = tree.query_nearest(shapely.points(mine), return_distance=True, all_matches=False)
        worst = max(worst, float(away.max()))
    return worst


def _finely(contour: Contour) -> Points:
    """Places along a contour (n, 2) no farther apart than its bend allows, however large an arc
    is."""
    spans = contour.spans
    arcs = np.flatnonzero((spans.kinds == ARC) & (spans.bulges != 0))
    shape = spans.take(arcs).arc_shapes()
    wide = arcs[np.abs(shape.sweep) * np.sqrt(shape.radii / (8 * _FINE)) > _STEPS]
    if not len(wide):
        return contour.flattened(_FINE)
    steps = spans.steps(_FINE)
    large = spans.take(wide).arc_shapes()
    steps[wide] = np.minimum(
        np.ceil(np.abs(large.sweep) * np.sqrt(large.radii / (8 * _FINE))), _MOST_STEPS
    )
    which = np.repeat(np.arange(len(spans)), steps)
    share = np.arange(len(which)) - np.repeat(np.cumsum(steps) - steps, steps)
    places = spans.at(which, share / steps[which])
    return places if contour.closed else np.vstack([places, contour.nodes[-1:]])
