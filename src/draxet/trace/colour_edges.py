"""Edges between areas of colour, measured finer than a pixel and fitted with curves."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import Bools, Floats, Ints, NDArray, Points
from draxet.geometry.contour import Contour
from draxet.geometry.fitting.chain import fit_chains, fit_loops
from draxet.geometry.fitting.fit_settings import FitSettings
from draxet.geometry.fitting.loops import resampled, resampled_open
from draxet.pixels.sample import sampled
from draxet.record import record
from draxet.trace.shared import EdgeChains
from draxet.trace.uncross import without_crossings

__all__ = ["fitted_edges", "measured_edges"]

_CUT = np.arange(-2.5, 2.51, 0.25)

_NEAR_NODE = 2

_NODE_REACH = 8

_LOCAL = 13

_MOST_MOVE = 1.6


@record(frozen=True, eq=False)
class _EdgePlaces:
    """Chain points (n, 2) at sub-pixel places, which of them count (n,), and each chain's end nodes
    (k, 2)."""

    points: Points
    good: Bools
    begins: Points
    ends: Points


def measured_edges(
    chains: EdgeChains, rgb: NDArray[Any], labels: NDArray[np.uint8], count: int
) -> _EdgePlaces:
    owner = np.repeat(np.arange(len(chains)), chains.counts)
    place = np.arange(len(chains.points)) - chains.firsts[owner]
    size = chains.counts[owner]
    shut = chains.closed[owner]
    smooth = _running_mean(chains, owner, place, size, shut)
    along = _steps(chains, smooth, owner, place, size, shut)
    across = np.stack([-along[:, 1], along[:, 0]], axis=1)  # to the right hand, seen with y down
    offset, found = _half_way(
        smooth, across, chains.left[owner], chains.right[owner], rgb, labels, count
    )
    inner = (chains.left[owner] >= 0) & (chains.right[owner] >= 0)
    end_distance = np.minimum(place, size - 1 - place)
    good = np.where(inner, found, True) & (
        shut | (end_distance >= np.minimum(_NEAR_NODE, (size - 1) // 2))
    )
    points = np.where(inner[:, None], smooth + offset[:, None] * across, chains.points)
    begins, ends = _nodes(chains, points, good)
    return _EdgePlaces(points, good, begins, ends)


def _running_mean(chains: EdgeChains, owner: Ints, place: Ints, size: Ints, shut: Bools) -> Points:
    """Lattice points moved half-way to their neighbours' mean, twice: the staircase is gone."""
    points = chains.points
    index = np.arange(len(points))
    before = np.where(place > 0, index - 1, np.where(shut, index + size - 1, index))
    after = np.where(place < size - 1, index + 1, np.where(shut, index - size + 1, index))
    for _ in range(2):
        points = (points[before] + 2 * points + points[after]) / 4
    return np.asarray(points)


def _steps(
    chains: EdgeChains,
    points: Points,
    owner: Ints,
    place: Ints,
    size: Ints,
    shut: Bools,
    reach: int = 3,
) -> Points:
    first = chains.firsts[owner]
    ahead = np.where(
        shut, first + (place + reach) % size, first + np.minimum(place + reach, size - 1)
    )
    behind = np.where(shut, first + (place - reach) % size, first + np.maximum(place - reach, 0))
    chord = points[ahead] - points[behind]
    return np.asarray(chord / np.maximum(np.hypot(chord[:, 0], chord[:, 1]), 1e-9)[:, None])


def _half_way(
    points: Points,
    across: Points,
    left: Ints,
    right: Ints,
    rgb: NDArray[Any],
    labels: NDArray[np.uint8],
    count: int,
) -> tuple[Floats, Bools]:
    """How far from each point, along its cut, the colour is half-way between those of both sides as
    they are round there."""
    a, b = np.split(
        _local_colours(
            np.concatenate([points, points]), np.concatenate([left, right]), rgb, labels, count
        ),
        2,
    )
    cut = sampled(rgb, points[:, None] + _CUT[:, None] * across[:, None])
    step = b - a
    blend = ((cut - a[:, None]) * step[:, None]).sum(axis=2) / np.maximum(
        (step * step).sum(axis=1), 1e-6
    )[:, None] - 0.5
    rising = (blend[:, :-1] < 0) & (blend[:, 1:] >= 0)
    distance = np.where(rising, np.abs(_CUT[:-1] + 0.125), np.inf)
    k = distance.argmin(axis=1)
    rows = np.arange(len(k))
    found = (
        np.isfinite(distance[rows, k])
        & (distance[rows, k] <= _MOST_MOVE)
        & ((step * step).sum(axis=1) > 100)
    )
    low, high = blend[rows, k], blend[rows, k + 1]
    offset = _CUT[k] + 0.25 * np.where(found, -low / np.maximum(high - low, 1e-9), 0)
    return np.where(found, offset, 0.0), found


def _local_colours(
    points: Points, label: Ints, rgb: NDArray[Any], labels: NDArray[np.uint8], count: int
) -> Floats:
    """For each point the mean colour that its label's pixels have round it, rims left out where
    that leaves any."""
    out = np.zeros((len(points), 3))
    planes = cv2.split(rgb.astype(np.float32))
    for k in range(count):
        mine = np.flatnonzero(label == k)
        if not mine.size:
            continue
        mask = (labels == k).view(np.uint8)
        weight = cv2.erode(mask, np.ones((3, 3), np.uint8)) + np.float32(1e-3) * mask
        sums = sampled(
            cv2.blur(cv2.merge([*(plane * weight for plane in planes), weight]), (_LOCAL, _LOCAL)),
            points[mine][:, None],
        ).reshape(-1, 4)
        out[mine] = sums[:, :3] / np.maximum(sums[:, 3:], 1e-9)
    return out


def _nodes(chains: EdgeChains, points: Points, good: Bools) -> tuple[Points, Points]:
    """Where each open chain begins and ends: nodes, moved to where the lines of their chains
    meet."""
    begins, ends = np.zeros((len(chains), 2)), np.zeros((len(chains), 2))
    meeting: dict[int, list[tuple[int, bool]]] = {}
    for k in np.flatnonzero(~chains.closed).tolist():
        meeting.setdefault(int(chains.begin[k]), []).append((k, False))
        meeting.setdefault(int(chains.end[k]), []).append((k, True))
    for ends_here in meeting.values():
        k, at_end = ends_here[0]
        lattice = chains.points[chains.firsts[k] + (chains.counts[k] - 1 if at_end else 0)]
        normal, right, fixed = 0.15 * np.eye(2), 0.15 * lattice, False
        for k, at_end in ends_here:
            if chains.left[k] < 0 or chains.right[k] < 0:
                fixed = True  # on the picture's border it stays there
            line = _end_line(chains, points, good, k, at_end)
            if line is not None:
                middle, across = line
                normal = normal + across
                right = right + across @ middle
        place = lattice if fixed else np.linalg.solve(normal, right)
        if float(np.hypot(*(place - lattice))) > _MOST_MOVE:
            place = lattice
        for k, at_end in ends_here:
            (ends if at_end else begins)[k] = place
    return begins, ends


def _end_line(
    chains: EdgeChains, points: Points, good: Bools, k: int, at_end: bool
) -> tuple[Points, Floats] | None:
    """The line of a chain's last good points: a place on it and the matrix that takes what lies
    across it."""
    first, count = int(chains.firsts[k]), int(chains.counts[k])
    index = np.arange(first, first + count)
    index = index[::-1] if at_end else index
    some = index[: _NODE_REACH + 1][good[index[: _NODE_REACH + 1]]]
    if len(some) < 4:
        return None
    part = points[some]
    middle = part.mean(axis=0)
    _, _, ways = np.linalg.svd(part - middle, full_matrices=False)
    return middle, np.eye(2) - np.outer(ways[0], ways[0])


def fitted_edges(chains: EdgeChains, measured: _EdgePlaces, settings: FitSettings) -> list[Contour]:
    """One curve for each chain, in their order; they meet at nodes and cross nowhere."""
    parts = [_part(chains, measured, k) for k in range(len(chains))]

    def fit(numbers: Ints, share: float) -> list[Contour]:
        some = (
            settings
            if share == 1.0
            else replace(settings.closer(share), blur=0.5, circles=False, join_within=2)
        )
        found: dict[int, Contour] = {}
        for shut in (True, False):
            index = numbers[chains.closed[numbers] == shut]
            if not index.size:
                continue
            counts = np.array([len(parts[k]) for k in index.tolist()], dtype=np.int64)
            points = np.concatenate([parts[k] for k in index.tolist()])
            firsts = np.cumsum(counts) - counts
            if shut:
                curves = fit_loops(resampled(points, firsts, counts), some)
            else:
                curves = fit_chains(
                    resampled_open(points, firsts, counts),
                    some,
                    measured.begins[index],
                    measured.ends[index],
                )
            found |= dict(zip(index.tolist(), curves, strict=True))
        return [found[k] for k in numbers.tolist()]

    return without_crossings(fit(np.arange(len(chains)), 1.0), fit, lambda k: parts[k])


def _part(chains: EdgeChains, measured: _EdgePlaces, k: int) -> Points:
    """The measured places of a chain that count, between its nodes."""
    piece = slice(int(chains.firsts[k]), int(chains.firsts[k] + chains.counts[k]))
    good = measured.points[piece][measured.good[piece]]
    if chains.closed[k]:
        return good if len(good) >= 4 else measured.points[piece]
    return np.vstack([measured.begins[k], good, measured.ends[k]])
