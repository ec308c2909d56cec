"""Middles: one contour along the middle of each stroke of ink, finer than a pixel.

The skeleton says how strokes hang together. Across it, at every pixel, the picture is cut, and
half-way between the two places where the cut meets the level lies the stroke's middle. Where
strokes cross, the cuts say nothing; there each stroke is drawn on by its direction. Contours come
in picture space; open ones are slits.
"""

from __future__ import annotations

import math
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
from draxet.progress import Progress, Unwatched
from draxet.record import record
from draxet.trace.edges import EdgeRequest, trace_edges
from draxet.trace.extract import edge_lines, refuse_noise
from draxet.trace.ground import Ground
from draxet.trace.levels import check_request, edge_blur
from draxet.trace.paths import End, Path, join_gaps
from draxet.trace.skeleton import Branch, Skeleton, skeleton_of, unit_steps
from draxet.trace.solids import parted_ink, solids_of
from draxet.trace.stroke_crossings import join_through

__all__ = ["MiddleAnswer", "MiddleRequest", "trace_middles"]

_CUT_SAMPLES = 41
_ROUNDS = 2
_SHORT = 3.0
_HOLE = 6.0
"""Holes in ink up to so many square pixels are grain, not paper."""


@record(frozen=True, eq=False)
class MiddleRequest:
    """What to trace and how; lengths in pixels.

    values : (rows, columns) grey picture, uint8, 0 black. level : brightness between ink and paper;
    None for automatic.
    min_length : shortest open stroke to keep. join_gap : ends no farther apart that point at each
    other become one stroke.
    tolerance : how far a contour may lie from the middle. ground : how the picture is readied
    first. solids : whether what is no stroke, as a dot or a filled shape, becomes an outline; those
    of `min_area` and more.
    """

    values: NDArray[Any]
    level: float | None = None
    min_length: float = 6.0
    join_gap: float = 0.0
    tolerance: float = 0.1
    ground: Ground = Ground()
    solids: bool = False
    min_area: float = 4.0


@record(frozen=True, eq=False)
class MiddleAnswer:
    """`contours` in picture space, closed and open, those along ``middles`` first, then the
    ``edges`` of solids (`traced`), the stroke's width along each of the first (`widths`, in
    pixels), the level used, the picture as it was traced, that of its solids alone, and whether the level followed uneven
    light though nobody asked."""

    contours: tuple[Contour, ...]
    widths: tuple[float, ...]
    level: float
    values: NDArray[Any]
    solids: NDArray[Any]
    light_followed: bool = False

    @property
    def nodes(self) -> int:
        return sum(len(contour.nodes) for contour in self.contours)

    @property
    def traced(self) -> tuple[str, ...]:
        strokes = len(self.widths)
        return ("middles",) * strokes + ("edges",) * (len(self.contours) - strokes)


def trace_middles(request: MiddleRequest, progress: Progress | None = None) -> MiddleAnswer:
    """Trace the middles of a picture's strokes.

    Raises
    ------
    ValueError : where the picture is not a grey array or a setting is out of range.
    Cancelled : where `progress` says so.
    """
    report = progress or Unwatched()
    check_request(request.values, request.level, request.tolerance)
    if not (request.min_length >= 0 and request.join_gap >= 0):
        raise ValueError(
            f"the shortest stroke and the gap must be 0 or more, got {request.min_length:g} and {request.join_gap:g} px"
        )
    report(0.0, "finding the strokes")
    ready = request.ground.readied(request.values, request.level)
    level, values = ready.level, ready.values
    refuse_noise(edge_lines(values, level, _HOLE), values)
    seen, solids, outlines = values, values, list[Contour]()
    if request.solids:
        report(0.05, "finding what is no stroke")
        values, solids = parted_ink(values, level, solids_of(_without_grain(values < level)))
        outlines = _outlines(request, solids, level)
    skeleton = skeleton_of(_without_grain(values < level))
    report(0.45, f"measuring {len(skeleton.branches):,} strokes")
    measured = [_measured(branch, values, level, skeleton) for branch in skeleton.branches]
    paths = join_through([m for m in measured if m is not None], skeleton)
    paths = join_gaps([_to_tips(path, values, level) for path in paths], request.join_gap)
    paths = [path for path in paths if path.closed or path.length >= request.min_length]
    report(0.75, f"fitting {len(paths):,} contours")
    blur = edge_blur(values, level)
    contours = _fitted(paths, FitSettings.exact_to(request.tolerance, blur=max(blur, 0.5)))
    widths = tuple(path.width for path in paths)
    return MiddleAnswer((*contours, *outlines), widths, level, seen, solids, ready.light_followed)


def _outlines(request: MiddleRequest, solids: NDArray[Any], level: float) -> list[Contour]:
    if not (solids < level).any():
        return []
    least = request.min_area
    return list(trace_edges(EdgeRequest(solids, level, least, request.tolerance)).contours)


def _without_grain(ink: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Ink with its smallest holes filled and its smallest specks gone."""
    solid = ink.astype(np.uint8)
    for value in (0, 1):
        _, labels, stats, _ = cv2.connectedComponentsWithStats(
            (solid == value).astype(np.uint8), connectivity=4 if value == 0 else 8
        )
        small = stats[:, cv2.CC_STAT_AREA] <= _HOLE
        small[0] = False
        if small.any():
            solid[small[labels]] = 1 - value
    return solid.astype(bool)


def _beside_joints(branch: Branch, skeleton: Skeleton) -> tuple[Bools, Bools]:
    """Of a branch's points whether they lie beside the ink of its joints, and whether well clear of
    it."""
    beside, clear = np.ones((2, len(branch.points)), dtype=bool)
    for joint in {branch.first, branch.last} - {-1}:
        places, ink = skeleton.cores[joint]
        away = np.hypot(*(branch.points[:, None] - places).transpose(2, 0, 1))
        beside &= (away > 0.6 * ink).all(axis=1)
        clear &= (away > 1.15 * ink + 1.0).all(axis=1)
    return beside, clear


def _measured(
    branch: Branch, values: NDArray[Any], level: float, skeleton: Skeleton
) -> Path | None:
    """A branch with its middle measured on the picture; None where no cut across it says
    anything."""
    points = branch.points
    at = np.clip(np.floor(points).astype(int), 0, (values.shape[1] - 1, values.shape[0] - 1))
    radius = skeleton.radius[at[:, 1], at[:, 0]].astype(np.float64)
    good, width = np.ones(len(points), dtype=bool), 2 * radius
    for _ in range(_ROUNDS):
        reach = np.clip(np.rint(1.2 * radius) + 2, 3, 14).astype(np.int64)
        along = (
            unit_steps(_smooth(points, branch.closed), reach)
            if not branch.closed
            else _round_steps(_smooth(points, True), reach)
        )
        points, width, good = _centred(points, along, radius, values, level)
    usual = float(np.median(width[good])) if good.any() else 0.0
    beside, clear = _beside_joints(branch, skeleton)
    good &= (np.abs(width - usual) < 0.35 * usual + 1.0) & clear
    if len(points) < _SHORT * max(usual, 2.0):  # where the cuts say nothing the skeleton must do
        points = np.where(good[:, None], points, _smooth(branch.points, branch.closed))
        width = np.where(good, width, 2 * radius)
        good |= beside
    if good.sum() < 2:
        if branch.closed or (branch.first < 0 and branch.last < 0):
            return None
        return Path(
            branch.points[:0],
            float(np.median(2 * radius)),
            End(branch.first),
            End(branch.last),
            reach=len(branch.points),
        )
    return Path(
        points[good],
        float(np.median(width[good])),
        End(branch.first),
        End(branch.last),
        branch.closed,
        len(branch.points),
    )


def _smooth(points: Points, closed: bool) -> Points:
    """Running means of three: pixels are a staircase."""
    if len(points) < 5:
        return points
    padded = (
        np.concatenate([points[-1:], points, points[:1]])
        if closed
        else np.concatenate([points[:1], points, points[-1:]])
    )
    return np.asarray((padded[:-2] + padded[1:-1] + padded[2:]) / 3)


def _round_steps(points: Points, reach: Ints) -> Points:
    index = np.arange(len(points))
    chord = points[(index + reach) % len(points)] - points[(index - reach) % len(points)]
    return np.asarray(chord / np.maximum(np.hypot(chord[:, 0], chord[:, 1]), 1e-9)[:, None])


def _centred(
    points: Points, along: Points, radius: Floats, values: NDArray[Any], level: float
) -> tuple[Points, Floats, Bools]:
    """Points moved to half-way between the two places where a cut across the stroke meets the
    level.

    Returns
    -------
    points (n, 2), the widths between those places (n,), and whether both were found (n,).
    """
    across = np.stack([-along[:, 1], along[:, 0]], axis=1)
    far = 1.7 * radius + 2.5
    share = np.linspace(-1, 1, _CUT_SAMPLES)
    light = (
        sampled(values, points[:, None] + (share * far[:, None])[..., None] * across[:, None], 255)
        - level
    )
    middle = _CUT_SAMPLES // 2
    right, found_right = _first_crossing(light[:, middle:])
    left, found_left = _first_crossing(light[:, middle::-1])
    step = far / middle
    good = found_right & found_left
    offset = np.where(good, (right - left) / 2 * step, 0.0)
    return points + offset[:, None] * across, np.where(good, (right + left) * step, 0.0), good


def _first_crossing(light: Floats) -> tuple[Floats, Bools]:
    """Where each row (from the middle outwards) first goes over 0, in samples, and whether it
    begins under 0 and does."""
    over = light >= 0
    k = over.argmax(axis=1)
    found = over.any(axis=1) & (k > 0)
    k = np.maximum(k, 1)
    rows = np.arange(len(k))
    low, high = light[rows, k - 1], light[rows, k]
    return k - 1 + np.where(found, -low / np.maximum(high - low, 1e-9), 0.0), found


def _to_tips(path: Path, values: NDArray[Any], level: float) -> Path:
    """A path whose free ends reach as far as the pen's middle did: half a width short of the ink's
    tip."""
    if path.closed or len(path.points) < 2:
        return path
    points = path.points
    for end, is_free in ((0, path.first.joint < 0), (-1, path.last.joint < 0)):
        if is_free:
            points = _drawn_out(points, path.width, values, level, at_end=end == -1)
    return replace(path, points=points)


def _drawn_out(
    points: Points, width: float, values: NDArray[Any], level: float, *, at_end: bool
) -> Points:
    chain = points if at_end else points[::-1]
    reach = min(len(chain) - 1, max(4, round(1.5 * width)))
    along = chain[-1] - chain[-1 - reach]
    size = float(np.hypot(*along))
    if size < 1e-9:
        return points
    along /= size
    steps = np.arange(0, 2.5 * width + 3, 0.25)
    light = sampled(values, (chain[-1] + steps[:, None] * along)[None], 255)[0] - level
    over = np.flatnonzero(light >= 0)
    if not over.size or over[0] == 0:
        return points
    tip = steps[over[0]]
    ahead = tip - width / 2
    if ahead > 0.3:
        chain = np.vstack([chain, chain[-1] + ahead * along])
    return chain if at_end else chain[::-1]


def _fitted(paths: list[Path], settings: FitSettings) -> list[Contour]:
    """Contours along paths, in their order."""
    found: dict[int, Contour] = {}
    for closed in (True, False):
        index = [
            k
            for k, path in enumerate(paths)
            if path.closed == closed and len(path.points) >= (3 if closed else 2)
        ]
        if not index:
            continue
        counts = np.array([len(paths[k].points) for k in index], dtype=np.int64)
        points = np.concatenate([paths[k].points for k in index])
        width = float(np.median([paths[k].width for k in index]))
        rounder = replace(
            settings,
            blur=settings.blur + 0.35 * width,
            join_within=settings.join_within + math.ceil(width / 2),
        )
        firsts = np.cumsum(counts) - counts
        if closed:
            contours = fit_loops(resampled(points, firsts, counts), rounder)
        else:
            contours = fit_chains(resampled_open(points, firsts, counts), rounder)
        found |= dict(zip(index, contours, strict=True))
    return [found[k] for k in sorted(found)]
