"""Part of the picture blanked out."""

from __future__ import annotations

from typing import Annotated, Any, Self

import cv2
import numpy as np

from draxet.geometry.arrays import NDArray
from draxet.job.ranges import Count, Pixels
from draxet.job.steps.step_kind import Frame, StepKind
from draxet.pixels.grey_levels import grey_of
from draxet.progress import Progress
from draxet.record import record

__all__ = ["Cover"]

_LEAST_RANGE = 24
_FEATHER = 1.0


@record(frozen=True)
class Cover(StepKind):
    """Part of the picture blanked out with the paper's own colour, inside an outline of three or
    more places."""

    outline: Annotated[tuple[tuple[Pixels, Pixels], ...], Count(3, 100_000)]

    def words(self, unit: str, pixel: float) -> str:
        return "Cover"

    def smaller(self, factor: float) -> Self:
        return type(self)(tuple((x / factor, y / factor) for x, y in self.outline))

    def on_pixels(self, pixels: NDArray[Any], frame: Frame, report: Progress) -> NDArray[Any]:
        back, scale = (
            frame.to_base.inverse(),
            pixels.shape[1] / frame.size[0],
        )  # before a shrinking the pixels are still base pixels
        return _covered(
            pixels, np.array([back.point(x, y) for x, y in self.outline]).reshape(-1, 2) * scale
        )


def _covered(pixels: NDArray[Any], outline: NDArray[np.float64]) -> NDArray[Any]:
    """The inside of an outline (n, 2) painted with the paper's colour, which a plane through the
    light places round it gives; the rim is blended so that no edge is left."""
    height, width = pixels.shape[:2]
    margin = int(max(12, 0.15 * np.ptp(outline, axis=0).max()))
    x0, y0 = np.maximum(np.floor(outline.min(axis=0)).astype(int) - margin, 0)
    x1, y1 = np.minimum(np.ceil(outline.max(axis=0)).astype(int) + margin, (width, height))
    if x1 - x0 < 2 or y1 - y0 < 2:
        return pixels
    part = pixels[y0:y1, x0:x1]
    inside = np.zeros(part.shape[:2], np.uint8)
    cv2.fillPoly(
        inside, [np.round((outline - (x0, y0) - 0.5) * 16).astype(np.int32)], 255, cv2.LINE_AA, 4
    )
    ring = cv2.dilate(inside, np.ones((2 * margin + 1, 2 * margin + 1), np.uint8)).astype(bool) & (
        inside == 0
    )
    if not ring.any():
        ring = inside == 0 if (inside == 0).any() else inside > 0
    share = (cv2.GaussianBlur(inside, (0, 0), _FEATHER).astype(np.float32) / 255).clip(0, 1)
    share = np.maximum(share, (inside == 255).astype(np.float32))
    paper, grain = _paper_plane(part, ring)
    if part.ndim == 3:
        share = share[..., None]
    out = pixels.copy()
    out[y0:y1, x0:x1] = np.clip(part * (1 - share) + (paper + grain) * share + 0.5, 0, 255).astype(
        np.uint8
    )
    return out


def _paper_plane(part: NDArray[Any], ring: NDArray[np.bool_]) -> tuple[NDArray[Any], NDArray[Any]]:
    """Each channel's plane through the paper in the ring, and grain as the paper there has."""
    grey = grey_of(part)
    rows, columns = np.nonzero(ring)
    tones = grey[ring].astype(np.float64)
    counts = np.convolve(np.bincount(grey[ring], minlength=256), np.ones(9), mode="same")
    usual = float(np.argmax(counts))  # the paper is what most of the ring is
    paper = np.abs(tones - usual) <= max(
        _LEAST_RANGE, 2.5 * float(np.median(np.abs(tones - usual)))
    )
    ground = np.column_stack([np.ones(paper.sum()), columns[paper], rows[paper]])
    values = part[ring][paper].reshape(len(ground), -1).astype(np.float64)
    plane, *_ = np.linalg.lstsq(ground, values, rcond=None)
    spread = np.median(np.abs(values - ground @ plane), axis=0) * 1.4826
    at = np.indices(part.shape[:2]).astype(np.float64)
    field = plane[0] + at[1][..., None] * plane[1] + at[0][..., None] * plane[2]
    grain = np.random.default_rng(1).normal(0, 1, (*part.shape[:2], 1)) * spread
    shape = part.shape
    return field.reshape(shape), grain.reshape(shape)
