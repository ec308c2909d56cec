"""Lines of a picture that no contour follows yet."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import cv2
import numpy as np
import scipy

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
    """A line of the picture that was left out: the stretches of its edges, each (n, 2) in picture
    space, a `place` on it, how `long` it is along its middle, in pixels, and the `area` of its ink,
    in square pixels."""

    stretches: tuple[Points, ...]
    place: tuple[float, float]
    long: float
    area: float


def untraced_lines(
    contours: Sequence[Contour],
    traced: Sequence[str],
    values: NDArray[Any],
    level: float,
    farther_than: float,
    least: float = 4.0,
) -> list[UntracedLine]:
    """Lines whose edges lie farther from every contour than a distance; the longest first.

    Parameters
    ----------
    contours : in picture space, with what each follows (as in ``ContourItem.traced``): along a
    middle, half the stroke's width is
    nearer than it looks. values : (rows, columns) of uint8. level : the brightness of ink's edge.
    farther_than : in pixels.
    least : smallest area of a speck that counts, in square pixels.
    """
    lines = edge_lines(values, level, least)
    if not len(lines):
        return []
    ink = (values < level).astype(np.uint8)
    depth = np.asarray(cv2.distanceTransform(ink, cv2.DIST_L2, 5))
    far = _far(lines.points, contours, traced, depth, farther_than)
    return _lines(lines, far, depth, ink)


def _far(
    points: Points,
    contours: Sequence[Contour],
    traced: Sequence[str],
    depth: NDArray[Any],
    farther_than: float,
) -> Bools:
    """Which points (n,) no contour lies near to."""
    if not contours:
        return np.ones(len(points), dtype=bool)
    places = places_along(contours, _STEP)
    middle = np.array([way == "middles" for way in traced])[places.owner]
    columns = np.clip(places.points[:, 0].astype(int), 0, depth.shape[1] - 1)
    rows = np.clip(places.points[:, 1].astype(int), 0, depth.shape[0] - 1)
    reach: Floats = farther_than + np.where(middle, depth[rows, columns] + 1.0, 0.0)
    away, nearest = scipy.spatial.cKDTree(places.points).query(
        points, distance_upper_bound=float(reach.max())
    )
    far: Bools = away > reach[np.minimum(nearest, len(reach) - 1)]
    return far


def _lines(
    lines: EdgeLines, far: Bools, depth: NDArray[Any], ink: NDArray[np.uint8]
) -> list[UntracedLine]:
    """Far points as lines: both edges of a stroke are one."""
    stretches = [
        run for k in range(len(lines)) for run in _runs(lines, k, far) if len(run) >= _LEAST_POINTS
    ]
    if not stretches:
        return []
    broad = 2.0 * float(np.median(depth[depth > 0])) if (depth > 0).any() else 1.0
    mark = np.zeros(depth.shape, np.uint8)
    for run in stretches:
        cv2.polylines(
            mark, [np.round(run - 0.5).astype(np.int32)], False, 1, max(1, round(broad) + 2)
        )
    _, labels = cv2.connectedComponents(mark, connectivity=8)
    groups: dict[int, list[Points]] = {}
    for run in stretches:
        x, y = run[len(run) // 2].astype(int)
        groups.setdefault(
            int(labels[min(y, labels.shape[0] - 1), min(x, labels.shape[1] - 1)]), []
        ).append(run)
    missing = _ink_of(lines.points, far, ink)
    found = [_line(runs, missing) for runs in groups.values()]
    return sorted(found, key=lambda line: -line.long)


def _ink_of(points: Points, far: Bools, ink: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """The ink (rows, columns) whose nearest edge is one of the far ones."""
    at = np.ones(ink.shape, np.uint8)
    columns, rows = (np.clip((points[:, k]).astype(int), 0, ink.shape[1 - k] - 1) for k in (0, 1))
    is_far = np.zeros(ink.shape, bool)
    is_far[rows[far], columns[far]] = True
    at[rows, columns] = 0
    _, labels = cv2.distanceTransformWithLabels(at, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    of_label = np.zeros(int(labels.max()) + 1, bool)
    of_label[labels[at == 0]] = is_far[at == 0]
    missing: NDArray[np.uint8] = (ink & of_label[labels]).astype(np.uint8)
    return missing


def _line(runs: list[Points], missing: NDArray[np.uint8]) -> UntracedLine:
    longest = max(runs, key=len)
    x, y = longest[len(longest) // 2].tolist()
    every = np.vstack(runs)
    (left, top), (right, bottom) = (
        np.maximum(np.floor(every.min(axis=0)).astype(int) - 1, 0),
        np.ceil(every.max(axis=0)).astype(int) + 2,
    )
    part = missing[top:bottom, left:right]
    _, labels = cv2.connectedComponents(part, connectivity=8)
    columns, rows = (
        np.clip(every[:, k].astype(int) - start, 0, part.shape[1 - k] - 1)
        for k, start in ((0, left), (1, top))
    )
    mine = np.setdiff1d(np.unique(labels[rows, columns]), [0])
    mask = np.isin(labels, mine)
    around = sum(float(np.hypot(*np.diff(run, axis=0).T).sum()) for run in runs)
    return UntracedLine(
        tuple(runs), (x, y), _along_middle(mask) if mine.size else around / 2, float(mask.sum())
    )


def _along_middle(mask: Bools) -> float:
    """How long ink is along its middle, in pixels, its ends included."""
    from skimage.morphology import skeletonize  # slow to load

    depth = cv2.distanceTransform(np.pad(mask, 1).astype(np.uint8), cv2.DIST_L2, 5)[1:-1, 1:-1]
    thin = skeletonize(mask)
    rows, columns = np.nonzero(thin)
    if not rows.size:
        return 2 * float(depth.max())
    tall, wide = thin.shape
    steps = 0.0
    for down, right, weight in ((0, 1, 1.0), (1, 0, 1.0), (1, 1, 0.7), (1, -1, 0.7)):
        here, there = max(right, 0), max(-right, 0)
        steps += weight * float(
            (thin[down:, here : wide - there] & thin[: tall - down, there : wide - here]).sum()
        )
    return steps + 2 * float(np.median(depth[thin]))


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
