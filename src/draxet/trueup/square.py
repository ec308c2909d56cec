"""Squaring a photo: four corners of something known to be a rectangle give the plan view and the scale in one go.

The corners are found where the picture shows a four-sided outline with clear edges. Each side is then measured finer
than a pixel, at many places across it, and the corners are where the sides meet. What is left over between the measured
places and straight sides says how well it holds, and gives the lens curve where that is asked for.
"""

from __future__ import annotations

import math
from typing import Any

import cv2
import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Floats, NDArray, Points
from draxet.geometry.homography import apply_homography, homography, unbent
from draxet.geometry.spread import Spread
from draxet.job.edits import set_known_lengths, square_picture
from draxet.job.records import Job, KnownLength, SquareStep
from draxet.record import record

__all__ = ["Corners", "as_taken", "find_corners", "find_rectangles", "plan_view", "sharpened", "square_photo"]

_WORK_PIXELS = 1_000_000
_REACH = 7.0
_FIRST_REACH = 20.0
_CORNER_SPREAD = 0.3
_LARGEST_PLAN = 30_000_000
_FARTHEST = 0.2
_PROPORTION_WITHIN = 0.09
_OF_LINES = 0.7
"""Lines that happen to bound four sides count for less than an outline in one piece."""
_MOST_LINES, _MOST_QUADS, _MOST_PAIRS, _MOST_RUNS = 60, 400, 400_000, 400
_MOST_THREE_SIDED, _FORESHORTENED = 600, (0.78, 0.84, 0.91, 0.98, 1.06, 1.15, 1.25)
"""Of outlines of three sides so many are led on, with the fourth at these shares of where it would lie seen square on."""
_WAYS, _MOST_ONE_WAY = 12, 14
"""Of lines that run within a twelfth of half a turn so many are taken at the most."""
_SCALES = ((1.5, 20.0, 60.0), (3.0, 14.0, 36.0), (5.0, 10.0, 25.0))
"""Of a blur in working pixels, and what is an edge after it."""
_PARALLEL, _ACROSS, _SAME_WAY = math.radians(32), math.radians(38), math.radians(1.5)
_SAMPLES, _FEW, _BESIDE, _STEP, _STRONG = 40, 12, (2.5, 4.5), 12.0, 60.0
"""Places along each side at which the step is taken, well and roughly, pixels to either side, and grey levels that are a step and a strong one."""
_MOST_MEASURED, _MOST_ROWS = 56, 30_000
_CROOKED = 0.5
"""Pixels: sides that lie so far off straight lines count for half."""
_SAME_PX, _SAME_SHARE = 4.0, 0.04
"""Outlines whose corners lie so near each other (working pixels, or a share of their size) are one."""
_CURVES = np.linspace(-0.12, 0.12, 49)


@record(frozen=True, eq=False)
class Corners:
    """Four corners (4, 2) in picture space, in turn round the rectangle, the first at its upper left; the lens curve; and how
    far the sides' measured places lie from straight lines, in pixels (root mean square)."""

    places: Points
    curve: float = 0.0
    residual: float = 0.0


def find_corners(grey: NDArray[Any], real: tuple[float, float] | None = None) -> Corners | None:
    """The first of ``find_rectangles``, or None where there is none."""
    return next(iter(find_rectangles(grey, real, most=1)), None)


def find_rectangles(grey: NDArray[Any], real: tuple[float, float] | None = None, *, most: int = 6) -> list[Corners]:
    """Four-sided outlines of a picture (rows, columns) of uint8 that may be rectangles seen at an angle, the likeliest first.

    Parameters
    ----------
    real : width and height in mm that are looked for: outlines whose sides may be in that proportion come first.
    most : how many at the most.
    """
    shrink = max(1.0, np.sqrt(grey.size / _WORK_PIXELS))
    small = cv2.resize(grey, None, fx=1 / shrink, fy=1 / shrink, interpolation=cv2.INTER_AREA) if shrink > 1 else grey
    outlines = np.array([_in_turn(quad) for quad in _quads(small)]).reshape(-1, 4, 2)
    lines = _long_lines(small)
    of_lines = _quads_of_lines(small, lines)
    led_on = _led_on(small, lines, real) if real is not None else of_lines[:0]
    of_lines = np.concatenate([some[_likeliest(small, some, real)] for some in (of_lines, led_on)])
    quads = [*outlines, *(_in_turn(quad) for quad in of_lines)]
    typed = real is not None
    scores = _supports(small, np.array(quads).reshape(-1, 4, 2), typed=typed) * np.array([_fits(quad, small.shape, real) for quad in quads])
    of_line = np.arange(len(quads)) >= len(outlines)
    scores[of_line] *= _OF_LINES if typed else _OF_LINES / 2
    scale = np.array([grey.shape[1] / small.shape[1], grey.shape[0] / small.shape[0]])
    order = [k for k in np.argsort(scores)[::-1].tolist() if scores[k] > 0]
    chosen = _apart([quads[k] for k in order], order, _MOST_MEASURED)
    found = [sharpened(grey, (quads[k] + 0.5) * scale) for k in chosen]
    measured = [_in_turn(each.places / scale - 0.5) for each in found]
    again = _supports(small, np.array(measured).reshape(-1, 4, 2), typed=typed) * np.array([_fits(quad, small.shape, real) for quad in measured])
    again /= np.array([1 + (each.residual / _CROOKED) ** 2 for each in found])
    again *= np.where(of_line[chosen], _OF_LINES if typed else _OF_LINES / 2, 1.0)
    order = np.argsort(again)[::-1].tolist()
    return [found[k] for k in _apart([measured[k] for k in order], order, most)]


def _apart(quads: list[Points], numbers: list[int], most: int) -> list[int]:
    """The numbers of outlines, so many at the most, that are not much the same as one before them."""
    chosen: list[Points] = []
    found = []
    for quad, number in zip(quads, numbers, strict=True):
        size = np.sqrt(cv2.contourArea(quad.astype(np.float32)))
        if all(np.hypot(*(quad - other).T).max() > max(_SAME_SHARE * size, _SAME_PX) for other in chosen):
            chosen.append(quad)
            found.append(number)
        if len(found) == most:
            break
    return found


def _fits(quad: Points, shape: tuple[int, ...], real: tuple[float, float] | None) -> float:
    """How well an outline agrees with the sides that are looked for, from near 0 to 1: by the proportion of the rectangle that
    a camera with its axis in the picture's middle would have seen so (Zhang and He, "Whiteboard scanning", 2007)."""
    if real is None:
        return 1.0
    found = _proportion(quad, shape)
    if found is None:
        return 0.3
    wanted = max(real) / min(real)
    off = abs(math.log(max(found, 1 / found) / wanted))
    return 0.04 + 0.96 * math.exp(-((off / _PROPORTION_WITHIN) ** 2))


def _proportion(quad: Points, shape: tuple[int, ...]) -> float | None:
    """Width over height of the rectangle that is seen as `quad`; None where that cannot be told."""
    middle = np.array([shape[1] / 2, shape[0] / 2])
    a, b, c, d = (np.append(p - middle, 1.0) for p in quad)  # in turn from the upper left
    k2 = np.cross(a, c) @ d / (np.cross(b, c) @ d)
    k3 = np.cross(a, c) @ b / (np.cross(d, c) @ b)
    n2, n3 = k2 * b - a, k3 * d - a
    far = max(shape[:2])
    if abs(n2[2]) < 1e-6 or abs(n3[2]) < 1e-6:
        return float(np.hypot(*n2[:2]) / max(np.hypot(*n3[:2]), 1e-9))
    focal2 = -(n2[0] * n3[0] + n2[1] * n3[1]) / (n2[2] * n3[2])
    if not (0.4 * far) ** 2 < focal2 < (4 * far) ** 2:  # too nearly square on to tell: as with a usual camera
        focal2 = (1.1 * far) ** 2
    long, high = ((n[0] ** 2 + n[1] ** 2) / focal2 + n[2] ** 2 for n in (n2, n3))
    return float(np.sqrt(long / high)) if high > 0 else None


def _quads(small: NDArray[Any]) -> list[Points]:
    """Convex four-sided outlines of light or dark regions and of edges, at several levels."""
    soft = cv2.GaussianBlur(small, (0, 0), 1.5)
    otsu = cv2.threshold(soft, 0, 255, cv2.THRESH_BINARY + cv2.THRESH_OTSU)[0]
    masks = [(soft > level).astype(np.uint8) for level in {otsu, *np.percentile(soft, [30, 60, 75, 85, 92, 97])}]
    masks += [1 - mask for mask in masks]
    masks.append(cv2.dilate(cv2.Canny(soft, 30, 90), np.ones((3, 3), np.uint8)))
    quads = []
    for mask in masks:
        for chain in cv2.findContours(mask, cv2.RETR_LIST, cv2.CHAIN_APPROX_SIMPLE)[0]:
            area = cv2.contourArea(chain)
            if not 0.004 * small.size < area < 0.9 * small.size:
                continue
            hull = cv2.convexHull(chain)
            if area < 0.9 * cv2.contourArea(hull):
                continue
            for share in (0.015, 0.03, 0.05):
                corners = cv2.approxPolyDP(hull, share * cv2.arcLength(hull, True), True)
                if len(corners) == 4:
                    if cv2.contourArea(corners) > 0.93 * area:
                        quads.append(corners.reshape(4, 2).astype(np.float64))
                    break
    return quads


def _quads_of_lines(small: NDArray[Any], lines: Floats) -> Points:
    """Four-sided outlines (n, 4, 2) from long straight lines: two that run much the same way, and two across them. What is printed on a
    card may cut its outline to pieces, but not its sides."""
    if len(lines) < 4:
        return np.zeros((0, 4, 2))
    turns = np.abs((lines[:, 2][:, None] - lines[:, 2][None] + np.pi / 2) % np.pi - np.pi / 2)
    meets = _crosses(lines)
    one, other = np.nonzero(np.triu(turns < _PARALLEL, 1))
    m, n = np.triu_indices(len(one), 1)
    if len(m) > _MOST_PAIRS:
        m, n = (v[:: len(m) // _MOST_PAIRS + 1] for v in (m, n))
    i, j, k, l = one[m], other[m], one[n], other[n]
    good = (turns[i, k] > _ACROSS) & (turns[j, l] > _ACROSS)
    i, j, k, l = (v[good] for v in (i, j, k, l))
    quads = np.stack([meets[i, k], meets[k, j], meets[j, l], meets[l, i]], axis=1)
    return _convex_inside(quads, small)


def _convex_inside(quads: Points, small: NDArray[Any]) -> Points:
    """Those outlines that lie inside a picture, turn one way and are not too small."""
    height, width = small.shape
    quads = quads[(quads > 3).all(axis=(1, 2)) & (quads[..., 0] < width - 4).all(axis=1) & (quads[..., 1] < height - 4).all(axis=1)]
    sides = np.roll(quads, -1, axis=1) - quads
    following = np.roll(sides, -1, axis=1)
    turn = np.sign(sides[..., 0] * following[..., 1] - sides[..., 1] * following[..., 0])
    found: Points = quads[(np.abs(turn.sum(axis=1)) == 4) & (np.abs(_signed(quads)) > 0.008 * small.size)]
    return found


def _led_on(small: NDArray[Any], lines: Floats, real: tuple[float, float]) -> Points:
    """Four-sided outlines (n, 4, 2) of which three sides were found: two lines that run much the same way and one across them; the fourth lies where
    the sides that are looked for want it, as it may be foreshortened."""
    if len(lines) < 3:
        return np.zeros((0, 4, 2))
    turns = np.abs((lines[:, 2][:, None] - lines[:, 2][None] + np.pi / 2) % np.pi - np.pi / 2)
    meets = _crosses(lines)
    one, other = np.nonzero(np.triu(turns < _PARALLEL, 1))
    pair, across = np.nonzero((turns[one] > _ACROSS) & (turns[other] > _ACROSS))
    i, j = one[pair], other[pair]
    a, b = meets[i, across], meets[j, across]
    long = np.hypot(*(b - a).T)
    size = float(max(small.shape))
    steps = _steps_along(small, a, b)
    good = np.flatnonzero((long > 0.05 * size) & (long < 0.7 * size) & (steps > 0.6))
    good = good[np.argsort(steps[good])[::-1][:_MOST_THREE_SIDED]]
    a, b, long, i, j = a[good], b[good], long[good], i[good], j[good]
    along_i = np.column_stack([np.cos(lines[i, 2]), np.sin(lines[i, 2])])
    along_j = np.column_stack([np.cos(lines[j, 2]), np.sin(lines[j, 2])])
    along_j *= np.sign((along_i * along_j).sum(axis=1))[:, None]
    wanted = max(real) / min(real)
    quads = []
    for ratio in (wanted, 1 / wanted):
        for share in _FORESHORTENED:
            for way in (1.0, -1.0):
                reach = (way * ratio * share * long)[:, None]
                quads.append(np.stack([a, b, b + reach * along_j, a + reach * along_i], axis=1))
    return _convex_inside(np.concatenate(quads), small)


def _steps_along(small: NDArray[Any], a: Points, b: Points) -> Floats:
    """The share of places between two places (n, 2) each at which brightness steps across the line between them; 0 where one is none."""
    known = np.isfinite(a).all(axis=1) & np.isfinite(b).all(axis=1)
    found = np.zeros(len(a))
    begin, side = a[known], (b - a)[known]
    normal = np.column_stack([-side[:, 1], side[:, 0]]) / np.maximum(np.hypot(*side.T), 1e-9)[:, None]
    at = begin[:, None] + np.linspace(0.08, 0.92, _FEW)[:, None] * side[:, None]
    inner, outer = (np.mean([_sample(small, at + way * far * normal[:, None]) for far in _BESIDE], axis=0) for way in (1.0, -1.0))
    found[known] = (np.abs(inner - outer) > _least_step(small)).mean(axis=1)
    return found


def _likeliest(small: NDArray[Any], quads: Points, real: tuple[float, float] | None) -> NDArray[np.int64]:
    """Numbers of the outlines that are worth a close look: those with steps in brightness on all sides, as a few places tell."""
    if not len(quads):
        return np.zeros(0, dtype=np.int64)
    turned = np.where((_signed(quads) < 0)[:, None, None], quads[:, ::-1], quads)
    roughly = _supports(small, turned, samples=_FEW)
    best = np.argsort(roughly)[::-1][: 4 * _MOST_QUADS]
    best = best[roughly[best] > 0]
    fits = np.array([_fits(_in_turn(quads[k]), small.shape, real) for k in best.tolist()])
    return best[np.argsort(roughly[best] * fits)[::-1][:_MOST_QUADS]]


def _signed(quads: Points) -> Floats:
    return np.asarray((quads[..., 0] * np.roll(quads[..., 1], -1, axis=1) - quads[..., 1] * np.roll(quads[..., 0], -1, axis=1)).sum(axis=1))


def _long_lines(small: NDArray[Any]) -> Floats:
    """The longest straight lines (n, 3) of a picture as a place x, y and a direction: runs of edge pixels that go on as one, fine ones and such as stay
    where grain is smoothed away; only so many that run the same way, as grain does."""
    lines: list[tuple[float, float, float]] = []
    weights: list[float] = []
    for blur, low, high in _SCALES:
        soft = cv2.GaussianBlur(small, (0, 0), blur)
        found = cv2.HoughLinesP(cv2.Canny(soft, low, high), 1, np.pi / 360, 30, minLineLength=0.022 * max(small.shape), maxLineGap=5)
        if found is None:
            continue
        runs = found.reshape(-1, 4).astype(np.float64)
        sizes = np.hypot(runs[:, 2] - runs[:, 0], runs[:, 3] - runs[:, 1])
        for k in np.argsort(sizes)[::-1][:_MOST_RUNS].tolist():
            x, y = (runs[k, 0] + runs[k, 2]) / 2, (runs[k, 1] + runs[k, 3]) / 2
            angle = float(np.arctan2(runs[k, 3] - runs[k, 1], runs[k, 2] - runs[k, 0]))
            same = next((m for m, line in enumerate(lines) if _goes_on(line, x, y, angle)), None)
            if same is None:
                lines.append((x, y, angle))
                weights.append(float(sizes[k]) * blur)
            else:
                weights[same] += float(sizes[k]) * blur
    ways = np.zeros(_WAYS, dtype=int)
    chosen = []
    for k in np.argsort(weights)[::-1].tolist():
        way = int((lines[k][2] % np.pi) / np.pi * _WAYS) % _WAYS
        if ways[way] < _MOST_ONE_WAY:
            ways[way] += 1
            chosen.append(lines[k])
        if len(chosen) == _MOST_LINES:
            break
    return np.array(chosen).reshape(-1, 3)


def _goes_on(line: tuple[float, float, float], x: float, y: float, angle: float) -> bool:
    turn = abs((angle - line[2] + np.pi / 2) % np.pi - np.pi / 2)
    off = abs(-(x - line[0]) * np.sin(line[2]) + (y - line[1]) * np.cos(line[2]))
    return bool(turn < _SAME_WAY and off < 3.0)


def _crosses(lines: Floats) -> Points:
    """Where lines cross each other (n, n, 2); NaN where they hardly differ in direction."""
    x, y, angle = lines.T
    turn = np.sin(angle[None] - angle[:, None])
    with np.errstate(divide="ignore", invalid="ignore"):
        t = ((x[None] - x[:, None]) * np.sin(angle)[None] - (y[None] - y[:, None]) * np.cos(angle)[None]) / turn
        t = np.where(np.abs(turn) < 0.2, np.nan, t)
        return np.stack([x[:, None] + t * np.cos(angle)[:, None], y[:, None] + t * np.sin(angle)[:, None]], axis=-1)


def _supports(small: NDArray[Any], corners: Points, samples: int = _SAMPLES, *, typed: bool = True) -> Floats:
    """How clear the step in brightness is all along the sides of each outline (n, 4, 2), in turn, clockwise as seen, and how large it is.
    A step counts whichever way it goes: what is printed on a card may be darker or lighter than what it lies on. It is one between what lies to
    either side over some way, so that grain makes none. Where its sides are not `typed`, what is large, stands out and is all of a piece counts for more."""
    if not len(corners):
        return np.zeros(0)
    height, width = small.shape
    within = ((corners >= 3) & (corners <= (width - 4, height - 4))).all(axis=(1, 2))
    sides = np.roll(corners, -1, axis=1) - corners
    normals = np.stack([-sides[..., 1], sides[..., 0]], axis=-1) / np.maximum(np.hypot(sides[..., 0], sides[..., 1]), 1e-9)[..., None]
    at = corners[:, :, None] + np.linspace(0.08, 0.92, samples)[:, None] * sides[:, :, None]

    def beside(side: float) -> Floats:
        seen = [_sample(small, (at + side * far * normals[:, :, None]).reshape(len(corners), -1, 2)) for far in _BESIDE]
        return np.asarray(np.mean(seen, axis=0).reshape(len(corners), 4, samples))

    steps = beside(1.0) - beside(-1.0)
    along = max(1, samples // 13)
    steps = np.apply_along_axis(lambda row: np.convolve(row, np.ones(along) / along, mode="valid"), 2, steps) if along > 1 else steps
    there = np.abs(steps) > _least_step(small)
    weakest, second = np.sort(there.mean(axis=2), axis=1)[:, :2].T
    share = np.where((second > 0.6) & (weakest > 0.35), second * np.cbrt(0.3 + 0.7 * weakest), 0.0)  # one side may all but vanish, as in a shadow
    strength = np.minimum(np.median(np.abs(steps), axis=2).min(axis=1), _STRONG)
    one_way = np.abs(np.sign(steps).sum(axis=2)).mean(axis=1) / steps.shape[2]
    areas = np.abs(_signed(corners)) / 2
    if not typed:
        return np.asarray(np.where(within & (weakest > 0.6), weakest**2 * strength * (0.5 + 0.5 * one_way) * np.sqrt(areas / small.size), 0.0))
    return np.asarray(np.where(within, share**3 * np.sqrt(strength) * (0.75 + 0.25 * one_way) * np.sqrt(np.sqrt(areas / small.size)), 0.0))


def _least_step(small: NDArray[Any]) -> float:
    """Grey levels that are a step: more than grain and noise make, as they mostly are."""
    across = np.abs(small[:, 7:].astype(np.int16) - small[:, :-7]).ravel()[::17]
    return float(np.clip(2.2 * float(np.median(across)), 6.0, _STEP))


def _sample(grey: NDArray[Any], at: Points) -> Floats:
    """Brightness at places (n, m, 2), rows at a time as can be looked up at once."""
    x, y = (np.ascontiguousarray(at[..., k], dtype=np.float32) for k in (0, 1))
    rows = (slice(k, k + _MOST_ROWS) for k in range(0, len(x), _MOST_ROWS))
    return np.concatenate([cv2.remap(grey, x[some], y[some], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE) for some in rows]).astype(np.float64)


def _in_turn(corners: Points) -> Points:
    """Corners in turn, with y down clockwise as seen, from the one nearest to the upper left."""
    middle = corners.mean(axis=0)
    order = np.argsort(np.arctan2(corners[:, 1] - middle[1], corners[:, 0] - middle[0]))
    turned = corners[order]
    return np.roll(turned, -int(np.argmin(turned.sum(axis=1))), axis=0)


def sharpened(grey: NDArray[Any], corners: Points, *, lens: bool = False) -> Corners:
    """Corners moved to where the measured sides meet; with the lens curve that makes the sides straightest where asked."""
    roughly = _side_lines_meet(grey, corners, _FIRST_REACH)
    if roughly is not None:
        corners = roughly
    height, width = grey.shape
    sides = [_edge_places(grey, a, b, _REACH) for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True)]
    if any(len(side) < 8 for side in sides):
        return Corners(corners)
    curve = 0.0
    if lens:
        rests = [sum(_line(unbent(side, c, width, height))[2] ** 2 for side in sides) for c in _CURVES]
        curve = float(_CURVES[int(np.argmin(rests))])
    lines = [_line(unbent(side, curve, width, height)) for side in sides]
    places = np.array([_meet(lines[k - 1], lines[k]) for k in range(4)])
    straight = unbent(corners, curve, width, height)
    if not np.isfinite(places).all() or np.hypot(*(places - straight).T).max() > 6 * _REACH:
        return Corners(corners, curve)
    return Corners(places, curve, float(np.sqrt(np.mean([line[2] ** 2 for line in lines]))))


def _side_lines_meet(grey: NDArray[Any], corners: Points, reach: float) -> Points | None:
    """Where straight sides measured within `reach` of the given ones meet; None where they cannot be measured so."""
    sides = [_edge_places(grey, a, b, reach) for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True)]
    if any(len(side) < 8 for side in sides):
        return None
    lines = [_line(side) for side in sides]
    places = np.array([_meet(lines[k - 1], lines[k]) for k in range(4)])
    near = np.isfinite(places).all() and float(np.hypot(*(places - corners).T).max()) < 3 * reach
    return places if near and max(line[2] for line in lines) < reach / 4 else None


def _edge_places(grey: NDArray[Any], a: Points, b: Points, reach: float) -> Points:
    """Places (n, 2) of the brightness step along a side, each from one cut across it, outliers left out."""
    along = b - a
    normal = np.array([-along[1], along[0]]) / max(np.hypot(*along), 1e-9)
    count = int(np.clip(np.hypot(*along) / 3, 20, 400))
    offsets = np.arange(-reach, reach + 0.01, 0.5)
    base = a + np.linspace(0.06, 0.94, count)[:, None] * along
    at = base[:, None] + offsets[None, :, None] * normal - 0.5
    cuts = cv2.remap(grey, at[..., 0].astype(np.float32), at[..., 1].astype(np.float32), cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE).astype(np.float64)
    slope = np.abs(np.gradient(cv2.GaussianBlur(cuts, (0, 0), sigmaX=1.6, sigmaY=1.0), axis=1))
    peak = slope.argmax(axis=1)
    near = np.abs(np.arange(len(offsets)) - peak[:, None]) <= 4
    weight = np.where(near, slope, 0.0) ** 2
    offset = (weight * offsets).sum(axis=1) / np.maximum(weight.sum(axis=1), 1e-9)
    strength = slope.max(axis=1)
    good = strength > 0.35 * np.median(strength)
    for _ in range(4):
        if good.sum() < 8:
            break
        t = np.linspace(-1, 1, count)
        fit = np.polyval(np.polyfit(t[good], offset[good], 2), t)
        away = np.abs(offset - fit)
        good &= away <= max(0.35, 2.5 * float(np.median(away[good])))
    return np.asarray((base + offset[:, None] * normal)[good])


def _line(points: Points) -> tuple[Points, Points, float]:
    """Best line: its middle, its direction and the rms distance of the points."""
    middle = points.mean(axis=0)
    _, sizes, right = np.linalg.svd(points - middle, full_matrices=False)
    return middle, right[0], float(sizes[1] / np.sqrt(len(points)))


def _meet(a: tuple[Points, Points, float], b: tuple[Points, Points, float]) -> Points:
    cross = a[1][0] * b[1][1] - a[1][1] * b[1][0]
    if abs(cross) < 0.05:
        return np.array([np.nan, np.nan])
    t = ((b[0] - a[0])[0] * b[1][1] - (b[0] - a[0])[1] * b[1][0]) / cross
    return np.asarray(a[0] + t * a[1])


def _in_front(outline: Points, depth: Floats, least: float) -> Points:
    """What of a convex outline is not too far off towards the horizon: `depth` (as shares of the rectangle's middle's) over `least`."""
    kept = []
    for a, b in zip(outline, np.roll(outline, -1, axis=0), strict=True):
        near_a, near_b = (float(np.append(p, 1) @ depth) - least for p in (a, b))
        if near_a >= 0:
            kept.append(a)
        if near_a * near_b < 0:
            kept.append(a + near_a / (near_a - near_b) * (b - a))
    return np.array(kept)


def plan_view(
    size: tuple[int, int], corners: Corners, real: tuple[float, float], frame: tuple[float, float, float, float] | None = None
) -> tuple[Floats, tuple[int, int], float]:
    """How a photo becomes a plan.

    Parameters
    ----------
    size : width and height of the photo; real : width and height of the rectangle in mm (its longer side is taken to be
    the one that is longer in the photo). frame : the part of the photo that the plan shows, all of it by default; what lies
    towards the horizon is left out.

    Returns
    -------
    matrix : (3, 3) from the plan's pixels to the photo's (straightened) pixels
    plan : width and height of the plan in pixels
    pixel : mm a pixel of the plan

    Raises
    ------
    ValueError : where the corners do not bound a rectangle seen from the front, or a side is not over 0.
    """
    if min(real) <= 0:
        raise ValueError(f"the rectangle's sides must be over 0 mm, got {real[0]:g} × {real[1]:g}")
    sides = np.hypot(*(np.roll(corners.places, -1, axis=0) - corners.places).T)
    wide, high = sides[0] + sides[2], sides[1] + sides[3]
    w, h = (max(real), min(real)) if wide >= high else (min(real), max(real))
    to_mm = homography(corners.places, np.array([(0, 0), (w, 0), (w, h), (0, h)], dtype=np.float64))
    pixel = float(np.sqrt(w * h / max(cv2.contourArea(corners.places.astype(np.float32)), 1e-6)))
    x0, y0, x1, y1 = frame or (0, 0, *size)
    seen_part = np.array([(x0, y0), (x1, y0), (x1, y1), (x0, y1)], dtype=np.float64)
    middle_depth = float(np.append(corners.places.mean(axis=0), 1) @ to_mm[2])
    depth = to_mm[2] / middle_depth
    nearest_to_horizon = float((np.column_stack([corners.places, np.ones(4)]) @ depth).min())
    seen_part = _in_front(seen_part, depth, min(_FARTHEST, 0.8 * nearest_to_horizon))
    seen = apply_homography(to_mm, seen_part)
    low, high_corner = seen.min(axis=0), seen.max(axis=0)
    extent = high_corner - low
    pixel = max(pixel, float(np.sqrt(extent.prod() / _LARGEST_PLAN)))
    plan = (int(np.ceil(extent[0] / pixel)), int(np.ceil(extent[1] / pixel)))
    from_plan = np.linalg.inv(to_mm) @ np.array([[pixel, 0, low[0]], [0, pixel, low[1]], [0, 0, 1]])
    return from_plan / from_plan[2, 2], plan, pixel


def square_photo(job: Job, picture_id: str, corners: Corners, real: tuple[float, float]) -> Job:
    """A picture squared by four corners: seen in plan, at its real size, about where it lay. Its two sides are known lengths.

    Parameters
    ----------
    corners : in the file's pixels.

    Raises
    ------
    ValueError : as ``plan_view``.
    """
    picture = job.picture_by_id[picture_id]
    to_file = picture.to_base
    part = (*to_file.point(0, 0), *to_file.point(picture.width, picture.height))
    matrix, plan, pixel = plan_view(picture.file_size, corners, real, part)
    step = SquareStep(
        tuple((float(x), float(y)) for x, y in corners.places), real, corners.curve, tuple(matrix.ravel().tolist()), plan, corners.residual
    )
    x, y = picture.middle
    to_job = Affine(pixel, 0.0, x - pixel * plan[0] / 2, 0.0, -pixel, y + pixel * plan[1] / 2)
    squared = square_picture(job, picture_id, step, to_job)
    at = apply_homography(np.asarray(np.linalg.inv(matrix), dtype=np.float64), corners.places)
    spread = Spread.round(max(_CORNER_SPREAD, corners.residual))
    known = [
        KnownLength(tuple(at[k].tolist()), tuple(at[k + 1].tolist()), float(np.hypot(*(at[k + 1] - at[k]))) * pixel, spread, spread)
        for k in (0, 1)
    ]
    return set_known_lengths(squared, picture_id, known)


def as_taken(job: Job, picture_id: str) -> Job:
    """A squared photo as it was taken, no longer to scale, about where it lies."""
    picture = job.picture_by_id[picture_id]
    if picture.square is None:
        return job
    width, height = picture.file_size
    (x, y), pixel = picture.middle, picture.pixel_size
    return square_picture(job, picture_id, None, Affine(pixel, 0.0, x - pixel * width / 2, 0.0, -pixel, y + pixel * height / 2))
