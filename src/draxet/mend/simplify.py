"""Contours made simpler within a tolerance: fitted anew, as machine tracing fits, to places along
what they were."""

from __future__ import annotations

import numpy as np
import shapely

from draxet.geometry.contour import Contour
from draxet.geometry.fitting.chain import fit_chains, fit_loops
from draxet.geometry.fitting.fit_settings import FitSettings
from draxet.geometry.fitting.loops import resampled, resampled_open
from draxet.mend.without_nodes import remove_nodes

__all__ = ["simplified", "spaced_nodes"]

_TOLERANCE_PX = 0.6
"""The tolerance is so many steps between the places that are fitted to."""
_MOST = 60_000
_FINE = 0.02
_PLACES = 2000
_SHARES = (1.0, 0.6, 0.35, 0.2)
"""Of the tolerance: tried one after the other until the whole contour holds it."""


def simplified(contour: Contour, within: float) -> tuple[Contour, float]:
    """A contour of fewer nodes that lies within a tolerance, and how far it lies off at the most,
    in mm. The same one where none has fewer.

    Raises
    ------
    ValueError : where the tolerance is not over 0.
    """
    if not within > 0:
        raise ValueError(f"the tolerance must be over 0 mm, got {within:g}")
    for share in _SHARES:
        made = _fitted(contour, within * share)
        if len(made.nodes) >= len(contour.nodes):
            break
        off = _apart(made, contour, within * _FINE)
        if off <= within:
            return made, off
    return contour, 0.0


def _apart(one: Contour, other: Contour, fine: float) -> float:
    """How far two contours lie apart at the most, from each to the other; never told too little,
    and too much by two steps of `fine` mm at the most."""
    lines = [
        shapely.LineString(np.vstack([points, points[:1]]) if each.closed else points)
        for each in (one, other)
        for points in [each.flattened(fine)]
    ]
    dense = [
        shapely.points(
            shapely.get_coordinates(shapely.segmentize(line, max(line.length / _PLACES, fine)))
        )
        for line in lines
    ]
    return max(float(shapely.distance(dense[k], lines[1 - k]).max()) for k in (0, 1)) + 2 * fine


def _fitted(contour: Contour, within: float) -> Contour:
    step = max(within / _TOLERANCE_PX, contour.length / _MOST)
    points = contour.flattened(within / 20) / step
    counts, first = np.array([len(points)]), np.array([0])
    settings = FitSettings(
        tolerance=_TOLERANCE_PX * 0.8,
        blur=0.5,
        straight_rms=0.3 * _TOLERANCE_PX,
        straight_bow=0.3 * _TOLERANCE_PX,
    )
    if contour.closed:
        found = fit_loops(resampled(points, first, counts, 1.0), settings, trust_samples=True)[0]
    else:
        found = fit_chains(
            resampled_open(points, first, counts, 1.0), settings, points[:1], points[-1:]
        )[0]
    return Contour.make(
        found.nodes * step, found.kinds, found.bulges, found.handles * step, closed=contour.closed
    )


def spaced_nodes(contour: Contour, spacing: float) -> Contour:
    """A contour without the nodes that lie nearer to the one before them than a spacing in mm,
    along it; the same one where none does. The shape is kept as well as it can be.

    Raises
    ------
    ValueError : where the spacing is not over 0.
    """
    if not spacing > 0:
        raise ValueError(f"the spacing must be over 0 mm, got {spacing:g}")
    along = np.concatenate([[0.0], np.cumsum(contour.spans.lengths())])
    last, gone = 0.0, []
    most = along[-1] - spacing if contour.closed else along[len(contour.nodes) - 1] - spacing
    for node in range(1, len(contour.nodes) if contour.closed else len(contour.nodes) - 1):
        if along[node] - last < spacing or along[node] > most:
            gone.append(node)
        else:
            last = float(along[node])
    left = len(contour.nodes) - len(gone)
    gone = gone[: len(contour.nodes) - 2] if left < 2 else gone
    return (remove_nodes(contour, gone) or contour) if gone else contour
