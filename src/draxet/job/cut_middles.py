"""Where the middle of a cut runs, on a side of what it cuts: exactly, as a machine goes along it;
and as straight steps, for what is drawn of cuts and what falls out between them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import polygons_of, uncrossed
from draxet.geometry.spans import CUBIC
from draxet.job.operations.operation_kind import Side

__all__ = ["is_beside", "middles_in_steps", "middles_of", "middles_of_many", "moved_aside"]

_FINE = 0.01
_ROUND = 12
"""Straight steps for a quarter of a turn about a corner."""


def is_beside(contour: Contour, side: Side) -> bool:
    """Whether the cut runs beside its contour: else its middle is the contour itself."""
    return contour.closed and side is not Side.ON


def middles_of(contour: Contour, side: Side, width: float) -> list[Contour]:
    """The middle of one cut; nothing where an opening is narrower than it. Lines and arcs stay so;
    curves are straight steps within 0.01 mm."""
    from draxet.geometry.offset import offset_area  # not needed to show a window

    if not is_beside(contour, side):
        return [contour]
    if (contour.kinds == CUBIC).any():
        return middles_of_many([contour], [side], width)[0]
    return offset_area([contour], width / 2 if side is Side.OUTSIDE else -width / 2)


def middles_of_many(
    contours: Sequence[Contour], sides: Sequence[Side], width: float
) -> list[list[Contour]]:
    """As ``middles_of`` for each of many contours; curves of all of them are worked out
    together."""
    curved = [
        k
        for k, (contour, side) in enumerate(zip(contours, sides, strict=True))
        if is_beside(contour, side) and (contour.kinds == CUBIC).any()
    ]
    found, some = list[list[Contour]](), set(curved)
    for k, (contour, side) in enumerate(zip(contours, sides, strict=True)):
        found.append([] if k in some else middles_of(contour, side, width))
    if not curved:
        return found
    shapes = moved_aside(
        uncrossed(polygons_of([contours[k] for k in curved], _FINE / 2)),
        [sides[k] for k in curved],
        width / 2,
    )
    for k, ring in _rings_of(shapely.simplify(shapes, _FINE / 2, preserve_topology=False)):
        found[curved[k]].append(Contour.make(ring))
    return found


def middles_in_steps(
    contours: Sequence[Contour], sides: Sequence[Side], widths: Sequence[float]
) -> list[list[tuple[Points, bool]]]:
    """The middles of many cuts within 0.01 mm: points (n, 2) of each line and whether it is
    closed."""
    beside = [
        k
        for k, (contour, side) in enumerate(zip(contours, sides, strict=True))
        if is_beside(contour, side)
    ]
    found, some = list[list[tuple[Points, bool]]](), set(beside)
    for k, contour in enumerate(contours):
        found.append([] if k in some else [(contour.flattened(_FINE), contour.closed)])
    if not beside:
        return found
    shapes = moved_aside(
        uncrossed(polygons_of([contours[k] for k in beside], _FINE)),
        [sides[k] for k in beside],
        np.array([widths[k] for k in beside]) / 2,
    )
    for k, ring in _rings_of(shapes):
        found[beside[k]].append((ring, True))
    return found


def moved_aside(shapes: Any, sides: Sequence[Side], away: Any) -> Any:
    """Areas (n,) grown by a distance, or shrunk where what cuts them runs inside."""
    outwards = np.array([1.0 if side is Side.OUTSIDE else -1.0 for side in sides])
    return shapely.buffer(shapes, outwards * away, quad_segs=_ROUND)


def _rings_of(shapes: Any) -> list[tuple[int, Points]]:
    """Outlines and openings of areas (n,): the number of the area, and places (m, 2), the first not
    repeated."""
    parts, of_shape = shapely.get_parts(shapes, return_index=True)
    rings, of_part = shapely.get_rings(parts, return_index=True)
    places, of = shapely.get_coordinates(rings, return_index=True)
    bounds = np.searchsorted(of, np.arange(len(rings) + 1)).tolist()
    return [
        (k, places[first : last - 1])
        for k, first, last in zip(of_shape[of_part].tolist(), bounds[:-1], bounds[1:], strict=True)
        if last > first
    ]
