"""Edges: a picture becomes closed contours along the edges of its ink.

Contours come in picture space (x right, y down, in pixels) with ink on their left as seen on the
screen; mapped to job space, where y runs up, they run anticlockwise round ink and clockwise round a
hole in it.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from draxet.geometry.arrays import NDArray, kept
from draxet.geometry.contour import Contour
from draxet.geometry.fitting.chain import fit_loops
from draxet.geometry.fitting.fit_settings import SHAPES_WITHIN, FitSettings
from draxet.geometry.fitting.loops import Loops, resampled
from draxet.geometry.true_shapes import true_shapes
from draxet.progress import Progress, Unwatched
from draxet.record import record
from draxet.trace.extract import EdgeLines, edge_lines, refuse_noise
from draxet.trace.ground import Ground
from draxet.trace.levels import check_request, edge_blur
from draxet.trace.rim import lines_on_rim
from draxet.trace.strokes import middles_of_drawn_lines
from draxet.trace.uncross import crossing_contours, without_crossings

__all__ = ["EdgeAnswer", "EdgeRequest", "trace_edges"]

_STEP, _FINEST = 1.0, 0.5
"""Pixels between the samples that are fitted, and between those of the smallest contours, which
turn within few pixels."""


@record(frozen=True, eq=False)
class EdgeRequest:
    """What to trace and how.

    values : (rows, columns) grey picture, uint8, 0 black.
    level : brightness between ink and paper, 0..255; None for automatic.
    min_area : smallest speck or hole to keep, in square pixels.
    tolerance : how far a contour may lie from the edge, in pixels.
    middles : whether closed drawn lines become one contour along their middle, and open strokes are
    left out.
    ground : how the picture is readied first. corner_degrees : least turn that is a corner.
    true_shapes : whether lines that are square and radii that are equal within the tolerance become
    exactly so.
    keep_rim : whether contours that run mostly along the picture's border are kept.
    """

    values: NDArray[Any]
    level: float | None = None
    min_area: float = 4.0
    tolerance: float = 0.1
    middles: bool = False
    ground: Ground = Ground()
    corner_degrees: float = 30.0
    true_shapes: bool = False
    keep_rim: bool = False


@record(frozen=True, eq=False)
class EdgeAnswer:
    """Closed `contours` in picture space, the `level` used, the blur found, the picture as it was
    traced, whether each contour follows ``edges`` or ``middles`` (`traced`), open strokes left out,
    what was made exactly square or equal, in words, how many contours along the picture's own rim
    were left out, and whether the level followed uneven light though nobody asked."""

    contours: tuple[Contour, ...]
    level: float
    blur: float
    values: NDArray[Any]
    traced: tuple[str, ...]
    left_out: int = 0
    trued: str = ""
    rims: int = 0
    light_followed: bool = False

    @property
    def nodes(self) -> int:
        return sum(len(contour.nodes) for contour in self.contours)


def trace_edges(request: EdgeRequest, progress: Progress | None = None) -> EdgeAnswer:
    """Trace a picture's edges.

    Raises
    ------
    ValueError : where the picture is not a grey array or a setting is out of range.
    Cancelled : where `progress` says so.
    """
    report = progress or Unwatched()
    check_request(request.values, request.level, request.tolerance)
    if not request.min_area >= 0:
        raise ValueError(
            f"the smallest speck must be 0 or more, got {request.min_area:g} square px"
        )
    report(0.0, "finding the level")
    ready = request.ground.readied(request.values, request.level)
    level, values = ready.level, ready.values
    report(0.1, "finding edges")
    lines, blur = edge_lines(values, level, request.min_area), edge_blur(values, level)
    rim = lines_on_rim(lines, values.shape[1], values.shape[0]) & (not request.keep_rim)
    lines, rims = lines.kept(~rim), int(rim.sum())
    refuse_noise(lines, values)
    report(0.35, f"fitting {len(lines):,} contours")
    settings = FitSettings.exact_to(
        request.tolerance, blur=max(blur, 0.5), corner_degrees=request.corner_degrees
    )
    answer = EdgeAnswer((), level, blur, values, (), rims=rims, light_followed=ready.light_followed)
    if request.middles:
        return _trued(_with_middles(answer, lines, settings, report), request)
    contours = _fitted(lines, np.arange(len(lines)), settings)
    answer = replace(answer, contours=tuple(contours), traced=("edges",) * len(contours))
    return _trued(answer, request)


def _with_middles(
    answer: EdgeAnswer, lines: EdgeLines, settings: FitSettings, report: Progress
) -> EdgeAnswer:
    """Lines of even width as their middles, everything else as outlines."""
    middles = middles_of_drawn_lines(lines)
    report(0.5, f"fitting {len(middles.lines):,} contours")
    drawn, rest = np.flatnonzero(middles.is_middle), np.flatnonzero(~middles.is_middle)
    width = float(np.median(middles.widths[drawn])) if drawn.size else 0.0
    rounder = replace(
        settings,
        blur=settings.blur + 0.35 * width,
        join_within=settings.join_within + round(width / 2),
    )
    outlines = _fitted(middles.lines, rest, settings)
    lines_drawn = _fitted(middles.lines, drawn, rounder)
    return replace(
        answer,
        contours=(*outlines, *lines_drawn),
        traced=("edges",) * len(outlines) + ("middles",) * len(lines_drawn),
        left_out=middles.left_out,
    )


def _trued(answer: EdgeAnswer, request: EdgeRequest) -> EdgeAnswer:
    """The answer in true shapes, where that is asked for and makes no contours cross."""
    if not request.true_shapes:
        return answer
    trued = true_shapes(answer.contours, max(request.tolerance, SHAPES_WITHIN))
    worse = crossing_contours(trued.contours)
    if worse.size and not crossing_contours(answer.contours).size:
        return answer
    words = f"{trued.words}, moved by {trued.moved:.2f} px at the most" if trued.words else ""
    return replace(answer, contours=trued.contours, trued=words)


def _fitted(lines: EdgeLines, index: NDArray[np.int64], settings: FitSettings) -> list[Contour]:
    """Contours along edge lines of these numbers; none crosses itself or another."""

    def refit(numbers: NDArray[np.int64], share: float) -> list[Contour]:
        closer = replace(settings.closer(share), blur=0.5, circles=False, noise=0.0, join_within=2)
        return fit_loops(_samples(lines, index[numbers]), closer, trust_samples=True)

    def chain(number: int) -> NDArray[np.float64]:
        k = index[number]
        return lines.points[lines.firsts[k] : lines.firsts[k] + lines.counts[k]]

    if not index.size:
        return []
    return without_crossings(fit_loops(_samples(lines, index), settings), refit, chain)


def _samples(lines: EdgeLines, index: NDArray[np.int64]) -> Loops:
    keep = np.zeros(len(lines), dtype=bool)
    keep[index] = True
    counts = lines.counts[index]
    points = kept(lines.points, np.repeat(keep, lines.counts))
    return resampled(points, np.cumsum(counts) - counts, counts, _STEP, _FINEST)
