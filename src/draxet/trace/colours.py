"""Colours: a picture becomes areas of flat colour whose common edges are exactly common.

Every edge between two areas is measured where the picture's colours are half-way between both
sides, fitted once, and used by both, so there is no gap and no overlap at any tolerance. Contours
come in picture space.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import cv2
import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Bools, Floats, Ints, NDArray, Points
from draxet.geometry.contour import Contour
from draxet.geometry.fitting.chain import fit_chains, fit_loops
from draxet.geometry.fitting.fit_settings import FitSettings
from draxet.geometry.fitting.loops import resampled, resampled_open
from draxet.pixels.sample import sampled
from draxet.progress import Progress, Unwatched
from draxet.record import record
from draxet.trace.ground import Ground
from draxet.trace.palette import labelled
from draxet.trace.shared import EdgeChains, edge_chains
from draxet.trace.uncross import without_crossings

__all__ = ["ColourAnswer", "ColourArea", "ColourRequest", "trace_colours"]

_CUT = np.arange(-2.5, 2.51, 0.25)
_NEAR_NODE = 2
_NODE_REACH = 8
_LOCAL = 13
_MOST_MOVE = 1.6
_MOST_PIXELS = 16_000_000
_MOST_FINER, _FEW_PIXELS = 4, 1000
"""A picture of few pixels a side is traced up to so many times as large, as long as it is no larger
than so many pixels then."""
_BLUR = 0.7
_NO_AREA = 1e-3
"""Square pixels: what bounds less bounds nothing."""


@record(frozen=True, eq=False)
class ColourRequest:
    """What to trace and how.

    pixels : (rows, columns, 3) red, green, blue of uint8. colours : (k, 3) of uint8, k from 1 to
    64.
    min_area : smallest area to keep, in square pixels; smaller ones go to their neighbours.
    tolerance : how far an edge may lie from the picture's, in pixels. smooth : smoothing before, in
    pixels.
    stacked : whether areas reach on beneath those in front of them (smaller ones) instead of ending
    at them.
    dropped : numbers of colours that give no areas. area : outline outside of which nothing is
    traced.
    """

    pixels: NDArray[Any]
    colours: NDArray[np.uint8]
    min_area: float = 12.0
    tolerance: float = 0.1
    smooth: float = 0.0
    stacked: bool = False
    dropped: frozenset[int] = frozenset()
    area: tuple[tuple[float, float], ...] = ()


@record(frozen=True, eq=False)
class ColourArea:
    """All areas of one colour: its number, its red, green, blue, and closed contours to be filled
    even-odd."""

    number: int
    colour: tuple[int, int, int]
    contours: tuple[Contour, ...]


@record(frozen=True, eq=False)
class ColourAnswer:
    """`areas` from the back to the front."""

    areas: tuple[ColourArea, ...]

    @property
    def contours(self) -> tuple[Contour, ...]:
        return tuple(contour for area in self.areas for contour in area.contours)

    @property
    def nodes(self) -> int:
        return sum(len(contour.nodes) for contour in self.contours)


def trace_colours(request: ColourRequest, progress: Progress | None = None) -> ColourAnswer:
    """Trace a picture's colour areas.

    Raises
    ------
    ValueError : where the picture is not one of 8-bit colours or a setting is out of range.
    Cancelled : where `progress` says so.
    """
    report = progress or Unwatched()
    pixels = request.pixels
    if pixels.dtype != np.uint8 or pixels.ndim not in (2, 3) or not pixels.size:
        raise ValueError(
            f"the picture to trace must be one of 8 bits, got {pixels.dtype} of shape {pixels.shape}"
        )
    if not request.tolerance > 0:
        raise ValueError(f"the tolerance must be over 0, got {request.tolerance:g} px")
    colours = np.asarray(request.colours, dtype=np.uint8).reshape(-1, 3)
    rgb = np.repeat(pixels[..., None], 3, axis=2) if pixels.ndim == 2 else pixels
    if rgb.shape[0] * rgb.shape[1] > _MOST_PIXELS:
        return _traced_smaller(request, rgb, report)
    finer = min(_MOST_FINER, _FEW_PIXELS // max(rgb.shape[:2]))
    if finer > 1:
        return _traced_larger(request, rgb, finer, report)
    return _traced(request, rgb, colours, _BLUR, report)


def _traced(
    request: ColourRequest,
    rgb: NDArray[Any],
    colours: NDArray[np.uint8],
    blur: float,
    report: Progress,
) -> ColourAnswer:
    """A picture (rows, columns, 3), whose edges are blurred by so many pixels, traced as it is."""
    report(0.0, "telling the colours apart")
    labels = _without_small(labelled(rgb, colours, request.smooth), request.min_area)
    if request.area:
        labels = np.where(
            Ground(area=request.area).inside(labels.shape), labels, np.uint8(len(colours))
        )  # one colour more: outside
    report(0.4, "finding common edges")
    chains = edge_chains(labels)
    source = cv2.GaussianBlur(rgb, (0, 0), request.smooth) if request.smooth > 0 else rgb
    measured = _measured(chains, source, labels, len(colours) + 1)
    report(0.6, f"fitting {len(chains):,} edges")
    curves = _fitted(chains, measured, FitSettings.exact_to(request.tolerance, blur=blur))
    report(0.9, "putting areas together")
    sizes = np.bincount(labels.ravel(), minlength=len(colours))[: len(colours)]
    order = np.argsort(-sizes, kind="stable").tolist()
    areas = []
    for place, k in enumerate(order):
        if k in request.dropped or not sizes[k]:
            continue
        members = np.zeros(
            len(colours) + 2, dtype=bool
        )  # the last two stand for outside the chosen area and the picture
        members[
            [j for j in order[place:] if j not in request.dropped] if request.stacked else [k]
        ] = True
        loops = _put_together(chains, curves, members)
        red, green, blue = (int(v) for v in colours[k])
        areas.append(
            ColourArea(
                k, (red, green, blue), tuple(loop for loop in loops if abs(loop.area) > _NO_AREA)
            )
        )
    return ColourAnswer(tuple(areas))


def _traced_larger(
    request: ColourRequest, rgb: NDArray[Any], finer: int, report: Progress
) -> ColourAnswer:
    """A small picture, whose thin tips are narrower than its pixels, traced from a larger copy."""
    size = (rgb.shape[1] * finer, rgb.shape[0] * finer)
    larger = replace(
        request,
        pixels=cv2.resize(rgb, size, interpolation=cv2.INTER_CUBIC),
        min_area=request.min_area * finer**2,
        tolerance=request.tolerance * finer,
        smooth=request.smooth * finer,
        area=tuple((x * finer, y * finer) for x, y in request.area),
    )
    colours = np.asarray(request.colours, dtype=np.uint8).reshape(-1, 3)
    back = Affine.scaled(1 / finer, 1 / finer)
    areas = _traced(larger, larger.pixels, colours, _BLUR * finer, report).areas
    return ColourAnswer(
        tuple(
            replace(area, contours=tuple(c.transformed(back) for c in area.contours))
            for area in areas
        )
    )


def _traced_smaller(request: ColourRequest, rgb: NDArray[Any], report: Progress) -> ColourAnswer:
    """A picture with more pixels than areas of colour need, traced from a smaller copy."""
    rows, columns = rgb.shape[:2]
    shrink = float(np.sqrt(rows * columns / _MOST_PIXELS))
    size = (max(1, int(columns / shrink)), max(1, int(rows / shrink)))
    fx, fy = columns / size[0], rows / size[1]
    smaller = replace(
        request,
        pixels=cv2.resize(rgb, size, interpolation=cv2.INTER_AREA),
        min_area=request.min_area / (fx * fy),
        tolerance=max(request.tolerance / fx, 0.1),
        smooth=request.smooth / fx,
        area=tuple((x / fx, y / fy) for x, y in request.area),
    )
    back = Affine.scaled(fx, fy)
    areas = trace_colours(smaller, report).areas
    return ColourAnswer(
        tuple(
            replace(area, contours=tuple(c.transformed(back) for c in area.contours))
            for area in areas
        )
    )


def _without_small(labels: NDArray[np.uint8], min_area: float) -> NDArray[np.uint8]:
    """Areas under `min_area` given to what lies nearest, the smallest ones first."""
    out = labels.copy()
    for limit in (min_area / 4, min_area):
        small = np.zeros(out.shape, dtype=bool)
        for k in np.flatnonzero(cv2.calcHist([out], [0], None, [256], [0, 256])).tolist():
            _, parts, stats, _ = cv2.connectedComponentsWithStats(
                (out == k).view(np.uint8), connectivity=4
            )
            few = stats[:, cv2.CC_STAT_AREA] < limit
            few[0] = False
            if few.any():
                small |= few[parts]
        if small.any() and not small.all():
            _, nearest = cv2.distanceTransformWithLabels(
                small.astype(np.uint8), cv2.DIST_L2, 3, labelType=cv2.DIST_LABEL_PIXEL
            )
            label_of = np.zeros(int(nearest.max()) + 1, dtype=np.uint8)
            label_of[nearest[~small]] = out[~small]
            out = np.where(small, label_of[nearest], out)
    return np.ascontiguousarray(out)


@record(frozen=True, eq=False)
class _Measured:
    """Chain points (n, 2) at sub-pixel places, which of them count (n,), and each chain's end nodes
    (k, 2)."""

    points: Points
    good: Bools
    begins: Points
    ends: Points


def _measured(
    chains: EdgeChains, rgb: NDArray[Any], labels: NDArray[np.uint8], count: int
) -> _Measured:
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
    return _Measured(points, good, begins, ends)


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


def _fitted(chains: EdgeChains, measured: _Measured, settings: FitSettings) -> list[Contour]:
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


def _part(chains: EdgeChains, measured: _Measured, k: int) -> Points:
    """The measured places of a chain that count, between its nodes."""
    piece = slice(int(chains.firsts[k]), int(chains.firsts[k] + chains.counts[k]))
    good = measured.points[piece][measured.good[piece]]
    if chains.closed[k]:
        return good if len(good) >= 4 else measured.points[piece]
    return np.vstack([measured.begins[k], good, measured.ends[k]])


def _put_together(chains: EdgeChains, curves: list[Contour], members: Bools) -> list[Contour]:
    """Closed contours round the areas in `members`, which lie on their left hand (seen with y
    down)."""
    inside_left, inside_right = members[chains.left], members[chains.right]
    loops: list[Contour] = []
    leaving: dict[int, list[tuple[int, bool]]] = {}
    for k in np.flatnonzero(inside_left != inside_right).tolist():
        forward = bool(inside_left[k])
        if chains.closed[k]:
            loops.append(curves[k] if forward else curves[k].reversed())
        else:
            leaving.setdefault(int(chains.begin[k] if forward else chains.end[k]), []).append(
                (k, forward)
            )
    for start in list(leaving):
        while leaving.get(start):
            loops.append(_loop(start, leaving, chains, curves))
    return loops


def _loop(
    start: int,
    leaving: dict[int, list[tuple[int, bool]]],
    chains: EdgeChains,
    curves: list[Contour],
) -> Contour:
    """From a node along edges, at each further node the one that turns most to the left, until
    back."""
    parts: list[Contour] = []
    at, came = start, (0.0, 0.0)
    while True:
        options = leaving[at]
        best = (
            max(options, key=lambda option: _left_turn(came, _first_step(chains, *option)))
            if len(options) > 1
            else options[0]
        )
        options.remove(best)
        k, forward = best
        parts.append(curves[k] if forward else curves[k].reversed())
        came = _last_step(chains, k, forward)
        at = int(chains.end[k] if forward else chains.begin[k])
        if at == start and not (leaving.get(at) and _goes_on(came, parts[0], leaving[at], chains)):
            break
    return Contour.make(
        np.concatenate([part.nodes[:-1] for part in parts]),
        np.concatenate([part.kinds for part in parts]),
        np.concatenate([part.bulges for part in parts]),
        np.concatenate([part.handles for part in parts]),
    )


def _goes_on(
    came: tuple[float, float], first: Contour, options: list[tuple[int, bool]], chains: EdgeChains
) -> bool:
    """Whether at the starting node another edge turns more to the left than the one begun with."""
    begun = first.nodes[1] - first.nodes[0]
    own = _left_turn(came, (float(begun[0]), float(begun[1])))
    return any(_left_turn(came, _first_step(chains, *option)) > own + 0.3 for option in options)


def _left_turn(came: tuple[float, float], goes: tuple[float, float]) -> float:
    """Turn in radians, over 0 to the left as seen with y down."""
    return -float(
        np.arctan2(came[0] * goes[1] - came[1] * goes[0], came[0] * goes[0] + came[1] * goes[1])
    )


def _first_step(chains: EdgeChains, k: int, forward: bool) -> tuple[float, float]:
    points = chains.chain(k)
    a, b = (points[0], points[1]) if forward else (points[-1], points[-2])
    return float(b[0] - a[0]), float(b[1] - a[1])


def _last_step(chains: EdgeChains, k: int, forward: bool) -> tuple[float, float]:
    x, y = _first_step(chains, k, not forward)
    return -x, -y
