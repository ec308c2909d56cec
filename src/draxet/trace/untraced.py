"""Lines of a picture that no contour follows yet."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import cv2
import numpy as np
from scipy.spatial import cKDTree

from draxet.geometry.arrays import Bools, Floats, NDArray, Points
from draxet.geometry.contour import Contour
from draxet.record import record
from draxet.trace.extract import EdgeLines, edge_lines
from draxet.trace.places import places_along

__all__ = ["UntracedLine", "untraced_lines"]

_STEP = 1.0
_LEAST_POINTS = 4


@record(frozen=True, eq=False)
class UntracedLine:
    """A line of the picture that was left out: the stretches of its edges, each (n, 2) in picture space, a `place` on it, and about how
    `long` it is, in pixels."""

    stretches: tuple[Points, ...]
    place: tuple[float, float]
    long: float


def untraced_lines(
    contours: Sequence[Contour], traced: Sequence[str], values: NDArray[Any], level: float, farther_than: float, least: float = 4.0
) -> list[UntracedLine]:
    """Lines whose edges lie farther from every contour than a distance; the longest first.

    Parameters
    ----------
    contours : in picture space, with what each follows (as in ``ContourItem.traced``): along a middle, half the stroke's width is
    nearer than it looks. values : (rows, columns) of uint8. level : the brightness of ink's edge. farther_than : in pixels.
    least : smallest area of a speck that counts, in square pixels.
    """
    lines = edge_lines(values, level, least)
    if not len(lines):
        return []
    ink = (values < level).astype(np.uint8)
    depth = np.asarray(cv2.distanceTransform(ink, cv2.DIST_L2, 5))
    far = _far(lines.points, contours, traced, depth, farther_than)
    return _lines(lines, far, depth)


def _far(points: Points, contours: Sequence[Contour], traced: Sequence[str], depth: NDArray[Any], farther_than: float) -> Bools:
    """Which points (n,) no contour lies near to."""
    if not contours:
        return np.ones(len(points), dtype=bool)
    places = places_along(contours, _STEP)
    middle = np.array([way == "middles" for way in traced])[places.owner]
    columns = np.clip(places.points[:, 0].astype(int), 0, depth.shape[1] - 1)
    rows = np.clip(places.points[:, 1].astype(int), 0, depth.shape[0] - 1)
    reach: Floats = farther_than + np.where(middle, depth[rows, columns] + 1.0, 0.0)
    away, nearest = cKDTree(places.points).query(points, distance_upper_bound=float(reach.max()))
    far: Bools = away > reach[np.minimum(nearest, len(reach) - 1)]
    return far


def _lines(lines: EdgeLines, far: Bools, depth: NDArray[Any]) -> list[UntracedLine]:
    """Far points as lines: both edges of a stroke are one."""
    stretches = [run for k in range(len(lines)) for run in _runs(lines, k, far) if len(run) >= _LEAST_POINTS]
    if not stretches:
        return []
    broad = 2.0 * float(np.median(depth[depth > 0])) if (depth > 0).any() else 1.0
    mark = np.zeros(depth.shape, np.uint8)
    for run in stretches:
        cv2.polylines(mark, [np.round(run - 0.5).astype(np.int32)], False, 1, max(1, round(broad) + 2))
    _, labels = cv2.connectedComponents(mark, connectivity=8)
    groups: dict[int, list[Points]] = {}
    for run in stretches:
        x, y = run[len(run) // 2].astype(int)
        groups.setdefault(int(labels[min(y, labels.shape[0] - 1), min(x, labels.shape[1] - 1)]), []).append(run)
    found = [_line(runs) for runs in groups.values()]
    return sorted(found, key=lambda line: -line.long)


def _line(runs: list[Points]) -> UntracedLine:
    long = sum(float(np.hypot(*np.diff(run, axis=0).T).sum()) for run in runs)
    longest = max(runs, key=len)
    x, y = longest[len(longest) // 2].tolist()
    return UntracedLine(tuple(runs), (x, y), long / 2)


def _runs(lines: EdgeLines, k: int, far: Bools) -> list[Points]:
    """Stretches of far points of one closed chain."""
    at = slice(lines.firsts[k], lines.firsts[k] + lines.counts[k])
    points, is_far = lines.points[at], far[at]
    if is_far.all():
        return [np.vstack([points, points[:1]])]
    if not is_far.any():
        return []
    begin = int(np.flatnonzero(~is_far)[0])
    points, is_far = np.roll(points, -begin, axis=0), np.roll(is_far, -begin)
    edges = np.flatnonzero(np.diff(np.concatenate([[False], is_far, [False]]).astype(np.int8)))
    return [points[a:b] for a, b in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True)]
