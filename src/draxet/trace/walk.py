"""Walking along a picture's lines: the way from one place to another that keeps to the edges of
ink, or to the middles of strokes.

The picture's lines are known as chains of points (`extract` for edges, `middles` for strokes).
Points that follow each other, and points of different chains that come near each other, are linked;
the shortest way over these links (Dijkstra, 1959) is the walk. From one place it is worked out once
for all ends, so that a move only reads it.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import scipy

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Floats, Ints, NDArray, Points, crosses, norms
from draxet.geometry.contour import Contour
from draxet.geometry.fitting.chain import fit_chains, fit_loops
from draxet.geometry.fitting.fit_settings import FitSettings
from draxet.geometry.fitting.loops import resampled, resampled_open
from draxet.record import record
from draxet.trace.extract import edge_lines

__all__ = [
    "Reach",
    "WalkMap",
    "edge_map",
    "fitted_walk",
    "line_map",
    "reach_from",
    "walk_to",
    "way_along",
]

_STEP = 1.5
_LINK = 6.0
"""Pixels over which chains are linked: a gap in a line, or a crossing."""
_JUMP = 12.0
"""A link over a gap counts so many times its length: who can stay on a line does."""
_FAR = 1500.0
_NONE = -9999
_AGAIN = 20.0
_SHORT_AND_LONG, _CLEAN = (21, 61), 0.05
"""Samples over which a walk is smoothed to see how it wanders, and pixels that are no wandering."""
_ASIDE = 12.0
"""Pixels that an end may lie off the line that it is to follow."""


@record(frozen=True, eq=False)
class WalkMap:
    """A picture's lines as linked points: `points` (n, 2) in picture space, and the links'
    lengths."""

    points: Points
    links: scipy.sparse.csr_matrix
    tree: scipy.spatial.cKDTree

    def nearest(self, x: float, y: float) -> tuple[int, float]:
        """The point nearest to a place, and how many pixels away it is."""
        away, index = self.tree.query((x, y))
        return int(index), float(away)


@record(frozen=True, eq=False)
class Reach:
    """All ways from the point `start`: before which point each one is reached (n,), and how far it
    is along the lines (n,)."""

    start: int
    before: Ints
    far: Floats


def edge_map(values: NDArray[Any], level: float, least: float = 4.0) -> WalkMap | None:
    """The edges of ink of a picture, (rows, columns) of uint8; None where there is no ink. `least`
    as in ``edge_lines``."""
    lines = edge_lines(values, level, least)
    if not len(lines):
        return None
    loops = resampled(lines.points, lines.firsts, lines.counts, _STEP)
    last = loops.firsts + loops.counts - 1
    ahead = np.arange(len(loops.points)) + 1
    ahead[last] = loops.firsts
    return _linked(loops.points, loops.owner, np.arange(len(loops.points)), ahead)


def line_map(contours: list[Contour]) -> WalkMap | None:
    """Lines that were traced, as middles of strokes are; None where there are none."""
    parts, owners, pairs, count = [], [], [], 0
    for k, contour in enumerate(contours):
        points = contour.flattened(0.05)
        points = np.vstack([points, points[:1]]) if contour.closed else points
        along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
        at = np.linspace(0, along[-1], max(int(along[-1] / _STEP), 2) + 1)
        even = np.column_stack(
            [np.interp(at, along, points[:, 0]), np.interp(at, along, points[:, 1])]
        )
        parts.append(even)
        owners.append(np.full(len(even), k))
        pairs.append(np.arange(count, count + len(even) - 1))
        count += len(even)
    if not parts:
        return None
    first = np.concatenate(pairs)
    return _linked(np.vstack(parts), np.concatenate(owners), first, first + 1)


def _linked(points: Points, owner: Ints, first: Ints, second: Ints) -> WalkMap:
    tree = scipy.spatial.cKDTree(points)
    near = tree.query_pairs(_LINK, output_type="ndarray")
    near = near[owner[near[:, 0]] != owner[near[:, 1]]]
    a, b = np.concatenate([first, near[:, 0]]), np.concatenate([second, near[:, 1]])
    long = np.hypot(*(points[a] - points[b]).T) * np.concatenate(
        [np.ones(len(first)), np.full(len(near), _JUMP)]
    )
    links = scipy.sparse.coo_matrix(
        (np.maximum(long, 1e-6), (a, b)), shape=(len(points), len(points))
    ).tocsr()
    return WalkMap(points, links, tree)


def reach_from(lines: WalkMap, start: int, used: Ints | None = None) -> Reach:
    """All ways along the lines from a point, as far as about 1,500 pixels; points that are `used`
    are gone over again only where there is no other way near."""
    links = lines.links
    if used is not None and used.size:
        gone = np.zeros(len(lines.points), dtype=bool)
        gone[used] = True
        gone[start] = False
        some = links.tocoo()
        again = np.where(gone[some.row] | gone[some.col], _AGAIN, 1.0)
        links = scipy.sparse.coo_matrix(
            (some.data * again, (some.row, some.col)), shape=links.shape
        ).tocsr()
    far, before = scipy.sparse.csgraph.dijkstra(
        links, directed=False, indices=start, return_predecessors=True, limit=3 * _FAR
    )
    return Reach(start, before.astype(np.int64), far)


def walk_to(reach: Reach, end: int) -> Ints | None:
    """The points (m,) on the way to one, from the start; None where the lines do not lead there."""
    if end != reach.start and reach.before[end] == _NONE:
        return None
    way = [end]
    while way[-1] != reach.start:
        way.append(int(reach.before[way[-1]]))
    return np.array(way[::-1], dtype=np.int64)


def way_along(
    lines: WalkMap | None, ends: tuple[Points, Points], to_job: Affine, tolerance: float
) -> Contour | None:
    """From one place (2,) in job space to another along a picture's lines, fitted within
    `tolerance` pixels; None where they do not lead there."""
    if lines is None:
        return None
    back = to_job.inverse()
    (start, near), (end, far) = (lines.nearest(*back.point(float(x), float(y))) for x, y in ends)
    way = (
        walk_to(reach_from(lines, start), end)
        if max(near, far) <= _ASIDE and start != end
        else None
    )
    if way is None:
        return None
    points = np.vstack([back.apply(ends[0][None]), lines.points[way], back.apply(ends[1][None])])
    return fitted_walk(points, tolerance, closed=False).transformed(to_job)


def fitted_walk(points: Points, tolerance: float, *, closed: bool) -> Contour:
    """A walk (n, 2) as lines, arcs and curves within `tolerance` pixels, as machine tracing fits;
    in grain, which makes edges wander, no closer than that hides.

    Raises
    ------
    ValueError : for fewer than two places.
    """
    keep = np.append(True, np.hypot(*np.diff(points, axis=0).T) > 1e-6)
    points = points[keep]
    if len(points) < 2:
        raise ValueError("a walk needs two places that are not the same")
    if closed and np.hypot(*(points[0] - points[-1])) < 1e-6:
        points = points[:-1]
    counts = np.array([len(points)])
    closed = closed and len(points) > 3
    samples = (
        resampled(points, np.array([0]), counts, 1.0)
        if closed
        else resampled_open(points, np.array([0]), counts, 1.0)
    )
    settings = _settings_in_grain(_wander(samples.points, closed=closed), tolerance)
    return fit_loops(samples, settings)[0] if closed else fit_chains(samples, settings)[0]


def _wander(points: Points, *, closed: bool) -> float:
    """How far a walk (n, 2) strays from a smooth way (standard deviation, in pixels): over short
    pieces, and where it does so, over longer ones."""
    found = 0.0
    for long in _SHORT_AND_LONG:
        if len(points) <= long + 2:
            break
        smooth = scipy.signal.savgol_filter(
            points, long, 3, axis=0, mode="wrap" if closed else "interp"
        )
        along = np.gradient(smooth, axis=0)
        off = np.abs(crosses(along, points - smooth)) / np.maximum(norms(along), 1e-9)
        found = max(found, 1.4826 * float(np.median(off)))
        if found < _CLEAN:
            break
    return found


def _settings_in_grain(wander: float, tolerance: float) -> FitSettings:
    settings = FitSettings.exact_to(tolerance, blur=0.7)
    if wander < _CLEAN:
        return settings
    within = max(tolerance, 4.0 * wander)
    return replace(
        settings.for_noise(wander),
        tolerance=within,
        free=within,
        blur=0.7 + wander,
        corner_degrees=30.0 + 30.0 * min(wander / 0.3, 1.0),
        corner_reach=4 + round(14 * min(wander / 0.4, 2.0)),
    )
