"""Squaring a photo: four corners of something known to be a rectangle give the plan view and the
scale in one go.

The corners are found where the picture shows a four-sided outline with clear edges
(``rectangles``). Each side is then measured finer than a pixel, at many places across it, and the
corners are where the sides meet (``sides``). What is left over between the measured places and
straight sides says how well it holds, and gives the lens curve where that is asked for.
"""

from __future__ import annotations

import cv2
import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Floats, Points
from draxet.geometry.covariance import Covariance
from draxet.geometry.homography import apply_homography, homography
from draxet.job.picture_edits import set_known_lengths, square_picture
from draxet.job.picture_records import KnownLength, SquareStep
from draxet.job.records import Job
from draxet.trueup.edge_lines import Corners

__all__ = ["as_taken", "plan_view", "square_photo"]

_CORNER_SPREAD = 0.3
_LARGEST_PLAN = 30_000_000
_FARTHEST = 0.2


def _in_front(outline: Points, depth: Floats, least: float) -> Points:
    """What of a convex outline is not too far off towards the horizon: `depth` (as shares of the
    rectangle's middle's) over `least`."""
    kept = []
    for a, b in zip(outline, np.roll(outline, -1, axis=0), strict=True):
        near_a, near_b = (float(np.append(p, 1) @ depth) - least for p in (a, b))
        if near_a >= 0:
            kept.append(a)
        if near_a * near_b < 0:
            kept.append(a + near_a / (near_a - near_b) * (b - a))
    return np.array(kept)


def plan_view(
    size: tuple[int, int],
    corners: Corners,
    real: tuple[float, float],
    frame: tuple[float, float, float, float] | None = None,
) -> tuple[Floats, tuple[int, int], float]:
    """How a photo becomes a plan.

    Parameters
    ----------
    size : width and height of the photo; real : width and height of the rectangle in mm (its longer
    side is taken to be the one that is longer in the photo). frame : the part of the photo that the
    plan shows, all of it by default; what lies towards the horizon is left out.

    Returns
    -------
    matrix : (3, 3) from the plan's pixels to the photo's (straightened) pixels
    plan : width and height of the plan in pixels
    pixel : mm a pixel of the plan

    Raises
    ------
    ValueError : where the corners do not bound a rectangle seen from the front, or a side is not
    over 0.
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
    """A picture squared by four corners: seen in plan, at its real size, about where it lay. Its
    two sides are known lengths.

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
        tuple((float(x), float(y)) for x, y in corners.places),
        real,
        corners.curve,
        tuple(matrix.ravel().tolist()),
        plan,
        corners.residual,
    )
    x, y = picture.middle
    to_job = Affine(pixel, 0.0, x - pixel * plan[0] / 2, 0.0, -pixel, y + pixel * plan[1] / 2)
    squared = square_picture(job, picture_id, step, to_job)
    at = apply_homography(np.asarray(np.linalg.inv(matrix), dtype=np.float64), corners.places)
    spread = Covariance.round(max(_CORNER_SPREAD, corners.residual))
    known = [
        KnownLength(
            tuple(at[k].tolist()),
            tuple(at[k + 1].tolist()),
            float(np.hypot(*(at[k + 1] - at[k]))) * pixel,
            spread,
            spread,
        )
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
    return square_picture(
        job,
        picture_id,
        None,
        Affine(pixel, 0.0, x - pixel * width / 2, 0.0, -pixel, y + pixel * height / 2),
    )
