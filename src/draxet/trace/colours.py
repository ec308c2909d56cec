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
from draxet.geometry.arrays import NDArray
from draxet.geometry.contour import Contour
from draxet.geometry.fitting.fit_settings import FitSettings
from draxet.progress import Progress, Unwatched
from draxet.record import record
from draxet.trace.colour_edges import fitted_edges, measured_edges
from draxet.trace.colour_outlines import outlines_of_area
from draxet.trace.ground import Ground
from draxet.trace.palette import labelled
from draxet.trace.shared import edge_chains

__all__ = ["ColourAnswer", "ColourArea", "ColourRequest", "trace_colours"]

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
    measured = measured_edges(chains, source, labels, len(colours) + 1)
    report(0.6, f"fitting {len(chains):,} edges")
    curves = fitted_edges(chains, measured, FitSettings.exact_to(request.tolerance, blur=blur))
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
        loops = outlines_of_area(chains, curves, members)
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
