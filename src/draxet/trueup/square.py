"""Squaring a photo: four corners of something known to be a rectangle give the plan view and the scale in one go.

The corners are found where the picture shows a four-sided outline with clear edges. Each side is then measured finer
than a pixel, at many places across it, and the corners are where the sides meet. What is left over between the measured
places and straight sides says how well it holds, and gives the lens curve where that is asked for.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Floats, Points
from draxet.geometry.homography import apply_homography, homography, unbent
from draxet.geometry.spread import Spread
from draxet.job.edits import set_known_lengths, square_picture
from draxet.job.records import Job, KnownLength, SquareStep

__all__ = ["Corners", "as_taken", "find_corners", "plan_view", "sharpened", "square_photo"]

_WORK_PIXELS = 1_000_000
_REACH = 7.0
_FIRST_REACH = 20.0
_CORNER_SPREAD = 0.3
_LARGEST_PLAN = 30_000_000
_FARTHEST = 0.2
_CURVES = np.linspace(-0.12, 0.12, 49)


@dataclass(frozen=True, eq=False)
class Corners:
    """Four corners (4, 2) in picture space, in turn round the rectangle, the first at its upper left; the lens curve; and how
    far the sides' measured places lie from straight lines, in pixels (root mean square)."""

    places: Points
    curve: float = 0.0
    residual: float = 0.0


def find_corners(grey: NDArray[Any]) -> Corners | None:
    """The clearest four-sided outline of a picture (rows, columns) of uint8, or None where there is none."""
    shrink = max(1.0, np.sqrt(grey.size / _WORK_PIXELS))
    small = cv2.resize(grey, None, fx=1 / shrink, fy=1 / shrink, interpolation=cv2.INTER_AREA) if shrink > 1 else grey
    best, chosen = 0.0, None
    for quad in _quads(small):
        score = _support(small, quad)
        if score > best:
            best, chosen = score, quad
    if chosen is None:
        return None
    scale = np.array([grey.shape[1] / small.shape[1], grey.shape[0] / small.shape[0]])
    return sharpened(grey, _in_turn((chosen + 0.5) * scale))


def _quads(small: NDArray[Any]) -> list[Points]:
    """Convex four-sided outlines of light or dark regions and of edges, at several levels."""
    soft = cv2.GaussianBlur(small, (0, 0), 1.5)
    otsu = cv2.threshold(soft, 0, 255, cv2.THRESH_BINARY + cv2.THRESH_OTSU)[0]
    masks = [(soft > level).astype(np.uint8) for level in {otsu, *np.percentile(soft, [30, 60, 75, 85, 92, 97])}]
    masks += [1 - mask for mask in masks]
    edges = cv2.Canny(soft, 30, 90)
    masks.append(cv2.dilate(edges, np.ones((3, 3), np.uint8)))
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


def _support(small: NDArray[Any], quad: Points) -> float:
    """How clear and even the step in brightness is all along the sides, and how large the outline."""
    ordered = _in_turn(quad)
    middle = ordered.mean(axis=0)
    steps = []
    height, width = small.shape
    if (ordered < 3).any() or (ordered[:, 0] > width - 4).any() or (ordered[:, 1] > height - 4).any():
        return 0.0
    for a, b in zip(ordered, np.roll(ordered, -1, axis=0), strict=True):
        normal = np.array([-(b - a)[1], (b - a)[0]]) / max(np.hypot(*(b - a)), 1e-9)
        normal *= np.sign((middle - a) @ normal) or 1.0
        at = a + np.linspace(0.08, 0.92, 40)[:, None] * (b - a)
        inner, outer = (_sample(small, at + side * normal) for side in (4.0, -4.0))
        steps.append(inner - outer)
    whole = np.concatenate(steps)
    even = abs(float(np.median(whole))) - float(np.percentile(np.abs(whole - np.median(whole)), 80))
    weakest = min(abs(float(np.median(side))) for side in steps)
    return max(0.0, min(even, weakest)) * float(np.sqrt(cv2.contourArea(ordered.astype(np.float32)) / small.size))


def _sample(grey: NDArray[Any], at: Points) -> Floats:
    x, y = (np.ascontiguousarray(at[:, k], dtype=np.float32).reshape(1, -1) for k in (0, 1))
    return np.asarray(cv2.remap(grey, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)[0], dtype=np.float64)


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
