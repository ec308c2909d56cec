"""Steps between a picture's file and the picture as it is worked with. The file itself is never
changed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import NDArray
from draxet.geometry.homography import apply_homography, bent
from draxet.job.picture_records import SquareStep
from draxet.job.steps import Crop, PrepareStep, worked_frame
from draxet.progress import Progress, Unwatched

__all__ = ["at_a_glance", "prepared", "shrink_for"]

_BAND_ROWS = 512
_PIXELS_A_TOLERANCE = 2.0


def prepared(
    pixels: NDArray[Any],
    square: SquareStep | None,
    steps: Sequence[PrepareStep] = (),
    progress: Progress | None = None,
) -> NDArray[Any]:
    """A picture's pixels after its steps: squared to a plan where it is a photo that was, then each
    step that is on.

    Parameters
    ----------
    pixels : (rows, columns) or (rows, columns, 3) of uint8; not changed.

    Raises
    ------
    Cancelled : where `progress` says so.
    """
    report = progress or Unwatched()
    plan = pixels if square is None else _squared(pixels, square)
    frame = worked_frame((plan.shape[1], plan.shape[0]), steps)
    out = _cropped(plan, steps)
    acting = [step.kind for step in steps if step.on and not isinstance(step.kind, Crop)]
    for k, kind in enumerate(acting):
        report(k / len(acting), "preparing")
        out = kind.on_pixels(out, frame, report)
    return out


def _cropped(pixels: NDArray[Any], steps: Sequence[PrepareStep]) -> NDArray[Any]:
    """All crops at once, before everything else."""
    size = (pixels.shape[1], pixels.shape[0])
    frame = worked_frame(size, [step for step in steps if isinstance(step.kind, Crop)])
    if frame.size == size:
        return pixels
    left, top = round(frame.to_base.c), round(frame.to_base.f)
    return np.ascontiguousarray(pixels[top : top + frame.size[1], left : left + frame.size[0]])


def at_a_glance(steps: Sequence[PrepareStep], factor: float) -> tuple[PrepareStep, ...]:
    """The steps for a picture shrunk `factor` times: much the same to look at, and soon there."""
    return tuple(replace(step, kind=step.kind.smaller(factor)) for step in steps)


def shrink_for(pixel_size: float, tolerance: float) -> float:
    """How far a picture of `pixel_size` mm a pixel may be shrunk so that a pixel is still half of
    `tolerance` (mm): contours lie within a quarter of a pixel, so nothing that the job needs is
    lost. 1 where it is no finer than that."""
    return max(1.0, tolerance / _PIXELS_A_TOLERANCE / pixel_size)


def _squared(pixels: NDArray[Any], step: SquareStep) -> NDArray[Any]:
    """Each pixel of the plan fetched from where the camera saw it; beyond the photo's edge the plan
    has the usual colour of the photo's rim, so that nothing is seen there that is none."""
    height, width = pixels.shape[:2]
    columns, rows = step.plan
    matrix = np.array(step.matrix).reshape(3, 3)
    out = np.empty((rows, columns, *pixels.shape[2:]), dtype=np.uint8)
    rim = np.concatenate(
        [
            part.reshape(-1, *pixels.shape[2:])
            for part in (pixels[0], pixels[-1], pixels[:, 0], pixels[:, -1])
        ]
    )
    usual = tuple(int(v) for v in np.atleast_1d(np.median(rim, axis=0)))
    for top in range(0, rows, _BAND_ROWS):
        count = min(_BAND_ROWS, rows - top)
        x, y = np.meshgrid(np.arange(columns) + 0.5, np.arange(top, top + count) + 0.5)
        at = apply_homography(matrix, np.column_stack([x.ravel(), y.ravel()]))
        at = bent(at, step.curve, width, height) - 0.5
        at_x, at_y = (at[:, k].astype(np.float32).reshape(count, columns) for k in (0, 1))
        out[top : top + count] = cv2.remap(
            pixels, at_x, at_y, cv2.INTER_CUBIC, borderMode=cv2.BORDER_CONSTANT, borderValue=usual
        )
    return out
