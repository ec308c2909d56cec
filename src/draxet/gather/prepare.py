"""Steps between a picture's file and the picture as it is worked with. The file itself is never changed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from draxet.gather.lineart import line_art
from draxet.gather.load import grey_of
from draxet.pixels.paper import Paper, evenly_lit, ink_level
from draxet.geometry.affine import Affine
from draxet.geometry.homography import apply_homography, bent
from draxet.job.records import SquareStep
from draxet.job.steps import Contrast, Cover, Crop, EdgeMarks, EvenLight, GreyBy, Invert, LineArt, PrepareStep, Shrink, Specks, StepKind, worked_frame
from draxet.progress import Progress, Unwatched

__all__ = ["at_a_glance", "prepared", "shrink_for"]

_BAND_ROWS = 512
_LEAST_RANGE = 24
_FEATHER = 1.0
_PIXELS_A_TOLERANCE = 2.0


def prepared(
    pixels: NDArray[Any], square: SquareStep | None, steps: Sequence[PrepareStep] = (), progress: Progress | None = None
) -> NDArray[Any]:
    """A picture's pixels after its steps: squared to a plan where it is a photo that was, then each step that is on.

    Parameters
    ----------
    pixels : (rows, columns) or (rows, columns, 3) of uint8; not changed.

    Raises
    ------
    Cancelled : where `progress` says so.
    """
    report = progress or Unwatched()
    plan = pixels if square is None else _squared(pixels, square)
    (width, height), to_base = worked_frame((plan.shape[1], plan.shape[0]), steps)
    out = _cropped(plan, steps)
    acting = [step.kind for step in steps if step.on and not isinstance(step.kind, Crop)]
    for k, kind in enumerate(acting):
        report(k / len(acting), "preparing")
        if isinstance(kind, Shrink):
            if (out.shape[1], out.shape[0]) != (width, height):
                out = cv2.resize(out, (width, height), interpolation=cv2.INTER_AREA)
        elif isinstance(kind, Cover):
            scale = out.shape[1] / width  # before a shrinking the pixels are still base pixels
            out = _covered(out, _places(kind, to_base, scale))
        elif isinstance(kind, LineArt):
            out = line_art(grey_of(out), kind.strength, kind.detail, report)
        else:
            out = _toned(out, kind)
    return out


def _cropped(pixels: NDArray[Any], steps: Sequence[PrepareStep]) -> NDArray[Any]:
    crops = [step for step in steps if isinstance(step.kind, Crop)]
    (width, height), to_base = worked_frame((pixels.shape[1], pixels.shape[0]), crops)
    if (width, height) == (pixels.shape[1], pixels.shape[0]):
        return pixels
    left, top = round(to_base.c), round(to_base.f)
    return np.ascontiguousarray(pixels[top : top + height, left : left + width])


def at_a_glance(steps: Sequence[PrepareStep], factor: float) -> tuple[PrepareStep, ...]:
    """The steps for a picture shrunk `factor` times: much the same to look at, and soon there."""

    def smaller(kind: StepKind) -> StepKind:
        if isinstance(kind, Crop):
            return Crop(kind.x0 / factor, kind.y0 / factor, kind.x1 / factor, kind.y1 / factor)
        if isinstance(kind, Specks):
            return Specks(round(kind.size / factor))
        if isinstance(kind, EdgeMarks):
            return EdgeMarks(round(kind.reach / factor))
        if isinstance(kind, Shrink):
            return Shrink(max(1.0, kind.factor / factor))
        if isinstance(kind, Cover):
            return Cover(tuple((x / factor, y / factor) for x, y in kind.outline))
        return kind

    return tuple(replace(step, kind=smaller(step.kind)) for step in steps)


def shrink_for(pixel_size: float, tolerance: float) -> float:
    """How far a picture of `pixel_size` mm a pixel may be shrunk so that a pixel is still half of `tolerance` (mm): contours
    lie within a quarter of a pixel, so nothing that the job needs is lost. 1 where it is no finer than that."""
    return max(1.0, tolerance / _PIXELS_A_TOLERANCE / pixel_size)


def _toned(pixels: NDArray[Any], kind: StepKind) -> NDArray[Any]:
    match kind:
        case GreyBy():
            return _grey_by(pixels, kind.channel)
        case EvenLight():
            return evenly_lit(pixels)
        case Specks():
            return _without_specks(pixels, kind.size) if kind.size > 0 else pixels
        case EdgeMarks():
            return _without_edge_marks(pixels, kind.reach) if kind.reach > 0 else pixels
        case Contrast():
            return np.asarray(cv2.LUT(pixels, _contrast_curve(grey_of(pixels), kind.amount))) if kind.amount else pixels
        case Invert():
            return np.asarray(255 - pixels)
    return pixels  # turns and flips act on where the picture lies


def _grey_by(pixels: NDArray[Any], channel: str) -> NDArray[Any]:
    if pixels.ndim == 2 or channel == "eye":
        return grey_of(pixels)
    if channel == "darkest":
        return np.ascontiguousarray(pixels.min(axis=2))
    if channel == "lightest":
        return np.ascontiguousarray(pixels.max(axis=2))
    return np.ascontiguousarray(pixels[..., ("red", "green", "blue").index(channel)])


def _without_specks(pixels: NDArray[Any], size: int) -> NDArray[Any]:
    """Dark and light spots up to `size` pixels wide and high filled with what lies round them; longer things are untouched."""
    grey = grey_of(pixels)
    ink = (grey < ink_level(grey)).astype(np.uint8)
    out = pixels.copy()
    for mask, of_paper in ((ink, True), (1 - ink, False)):
        _, labels, stats, _ = cv2.connectedComponentsWithStats(mask, connectivity=8)
        small = (stats[:, cv2.CC_STAT_WIDTH] <= size) & (stats[:, cv2.CC_STAT_HEIGHT] <= size)
        small[0] = False
        if small.any():
            spots = cv2.dilate(small[labels].astype(np.uint8), np.ones((3, 3), np.uint8)).astype(bool)
            if of_paper:
                _fill_with_paper(out, pixels, spots)
            elif (mask == 0).any():
                out[spots] = np.percentile(pixels[mask == 0], 25, axis=0).astype(np.uint8)
    return out


def _without_edge_marks(pixels: NDArray[Any], reach: int) -> NDArray[Any]:
    """Ink that lies wholly within `reach` pixels of one border filled with paper."""
    grey = grey_of(pixels)
    ink = (grey < ink_level(grey)).astype(np.uint8)
    _, labels, stats, _ = cv2.connectedComponentsWithStats(ink, connectivity=8)
    left, top, wide, high = (stats[:, k] for k in (cv2.CC_STAT_LEFT, cv2.CC_STAT_TOP, cv2.CC_STAT_WIDTH, cv2.CC_STAT_HEIGHT))
    height, width = grey.shape
    marks = (left + wide <= reach) | (top + high <= reach) | (left >= width - reach) | (top >= height - reach)
    marks[0] = False
    out = pixels.copy()
    if marks.any():
        _fill_with_paper(out, pixels, cv2.dilate(marks[labels].astype(np.uint8), np.ones((5, 5), np.uint8)).astype(bool))
    return out


def _fill_with_paper(out: NDArray[Any], pixels: NDArray[Any], where: NDArray[np.bool_]) -> None:
    paper = Paper.of(pixels)
    for top in range(0, out.shape[0], _BAND_ROWS):
        band = slice(top, min(top + _BAND_ROWS, out.shape[0]))
        if where[band].any():
            out[band][where[band]] = np.clip(paper.rows(band), 0, 255).astype(np.uint8)[where[band]]


def _places(cover: Cover, to_base: Affine, scale: float) -> NDArray[np.float64]:
    back = to_base.inverse()
    return np.array([back.point(x, y) for x, y in cover.outline]).reshape(-1, 2) * scale


def _covered(pixels: NDArray[Any], outline: NDArray[np.float64]) -> NDArray[Any]:
    """The inside of an outline (n, 2) painted with the paper's colour, which a plane through the light places round it gives;
    the rim is blended so that no edge is left."""
    height, width = pixels.shape[:2]
    margin = int(max(12, 0.15 * np.ptp(outline, axis=0).max()))
    x0, y0 = np.maximum(np.floor(outline.min(axis=0)).astype(int) - margin, 0)
    x1, y1 = np.minimum(np.ceil(outline.max(axis=0)).astype(int) + margin, (width, height))
    if x1 - x0 < 2 or y1 - y0 < 2:
        return pixels
    part = pixels[y0:y1, x0:x1]
    inside = np.zeros(part.shape[:2], np.uint8)
    cv2.fillPoly(inside, [np.round((outline - (x0, y0) - 0.5) * 16).astype(np.int32)], 255, cv2.LINE_AA, 4)
    ring = cv2.dilate(inside, np.ones((2 * margin + 1, 2 * margin + 1), np.uint8)).astype(bool) & (inside == 0)
    if not ring.any():
        ring = inside == 0 if (inside == 0).any() else inside > 0
    share = (cv2.GaussianBlur(inside, (0, 0), _FEATHER).astype(np.float32) / 255).clip(0, 1)
    share = np.maximum(share, (inside == 255).astype(np.float32))
    paper, grain = _paper_plane(part, ring)
    if part.ndim == 3:
        share = share[..., None]
    out = pixels.copy()
    out[y0:y1, x0:x1] = np.clip(part * (1 - share) + (paper + grain) * share + 0.5, 0, 255).astype(np.uint8)
    return out


def _paper_plane(part: NDArray[Any], ring: NDArray[np.bool_]) -> tuple[NDArray[Any], NDArray[Any]]:
    """Each channel's plane through the paper in the ring, and grain as the paper there has."""
    grey = grey_of(part)
    rows, columns = np.nonzero(ring)
    tones = grey[ring].astype(np.float64)
    counts = np.convolve(np.bincount(grey[ring], minlength=256), np.ones(9), mode="same")
    usual = float(np.argmax(counts))  # the paper is what most of the ring is
    paper = np.abs(tones - usual) <= max(_LEAST_RANGE, 2.5 * float(np.median(np.abs(tones - usual))))
    ground = np.column_stack([np.ones(paper.sum()), columns[paper], rows[paper]])
    values = part[ring][paper].reshape(len(ground), -1).astype(np.float64)
    plane, *_ = np.linalg.lstsq(ground, values, rcond=None)
    spread = np.median(np.abs(values - ground @ plane), axis=0) * 1.4826
    at = np.indices(part.shape[:2]).astype(np.float64)
    field = plane[0] + at[1][..., None] * plane[1] + at[0][..., None] * plane[2]
    grain = np.random.default_rng(1).normal(0, 1, (*part.shape[:2], 1)) * spread
    shape = part.shape
    return field.reshape(shape), grain.reshape(shape)


def _contrast_curve(grey: NDArray[Any], contrast: int) -> NDArray[np.uint8]:
    """256 brightnesses, steeper about the ink level the higher the contrast."""
    level = ink_level(grey)
    steep = 1.0 / max(1.0 - contrast / 100.0, 1e-3)
    return np.asarray(np.clip(level + (np.arange(256) - level) * steep, 0, 255), dtype=np.uint8)


def _squared(pixels: NDArray[Any], step: SquareStep) -> NDArray[Any]:
    """Each pixel of the plan fetched from where the camera saw it; beyond the photo's edge the plan has the usual colour of the
    photo's rim, so that nothing is seen there that is none."""
    height, width = pixels.shape[:2]
    columns, rows = step.plan
    matrix = np.array(step.matrix).reshape(3, 3)
    out = np.empty((rows, columns, *pixels.shape[2:]), dtype=np.uint8)
    rim = np.concatenate([part.reshape(-1, *pixels.shape[2:]) for part in (pixels[0], pixels[-1], pixels[:, 0], pixels[:, -1])])
    usual = tuple(int(v) for v in np.atleast_1d(np.median(rim, axis=0)))
    for top in range(0, rows, _BAND_ROWS):
        count = min(_BAND_ROWS, rows - top)
        x, y = np.meshgrid(np.arange(columns) + 0.5, np.arange(top, top + count) + 0.5)
        at = apply_homography(matrix, np.column_stack([x.ravel(), y.ravel()]))
        at = bent(at, step.curve, width, height) - 0.5
        at_x, at_y = (at[:, k].astype(np.float32).reshape(count, columns) for k in (0, 1))
        out[top : top + count] = cv2.remap(pixels, at_x, at_y, cv2.INTER_CUBIC, borderMode=cv2.BORDER_CONSTANT, borderValue=usual)
    return out
