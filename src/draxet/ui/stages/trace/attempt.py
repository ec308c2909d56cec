"""A trace of a picture that is not in the job yet, by the way and the settings that were used
last."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np

from draxet.geometry.arrays import NDArray
from draxet.geometry.contour import Contour
from draxet.pixels.grey_levels import grey_of
from draxet.progress import Progress
from draxet.trace.colours import ColourRequest, trace_colours
from draxet.trace.edges import EdgeRequest, trace_edges
from draxet.trace.ground import Ground, smooth_of, tolerance_of
from draxet.trace.middles import MiddleRequest, trace_middles
from draxet.trace.palette import suggested_palette
from draxet.ui.stages.trace_settings import TraceSettings

__all__ = ["Attempt", "attempt_by"]

_SPECK_PX = 40.0
"""Square pixels: where nobody knows how large they are in reality, smaller things are specks."""
_LEAST_TOLERANCE = 0.5

Attempt = Callable[[NDArray[Any], Progress], tuple[Contour, ...]]


def attempt_by(settings: TraceSettings) -> Attempt:
    """What traces pixels (rows, columns[, 3]) as the settings say."""
    s = replace(settings)
    ground = Ground(s.local, smooth_of(s.smoothness), ())
    near = max(tolerance_of(s.detail), _LEAST_TOLERANCE)

    def attempt(pixels: NDArray[Any], report: Progress) -> tuple[Contour, ...]:
        if s.way == "colours":
            rgb = np.repeat(pixels[..., None], 3, axis=2) if pixels.ndim == 2 else pixels
            colours = np.array([each.colour for each in s.swatches], np.uint8).reshape(-1, 3)
            if not len(colours):
                colours = suggested_palette(rgb).colours
            dropped = frozenset(k for k, each in enumerate(s.swatches) if each.dropped)
            request = ColourRequest(
                rgb, colours, _SPECK_PX, near, smooth_of(s.smoothness), s.stacked, dropped
            )
            areas = trace_colours(request, report).areas
            return tuple(contour for area in areas for contour in area.contours)
        grey = grey_of(pixels)
        if s.way == "middles":
            solids = MiddleRequest(
                grey, s.level, tolerance=near, ground=ground, solids=s.solids, min_area=_SPECK_PX
            )
            return trace_middles(solids, report).contours
        edges = EdgeRequest(
            grey, s.level, _SPECK_PX, near, s.middles, ground, s.corner_degrees, keep_rim=s.keep_rim
        )
        return trace_edges(edges, report).contours

    return attempt
