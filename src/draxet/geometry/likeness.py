"""Whether one contour runs along another."""

from __future__ import annotations

import numpy as np
import shapely

from draxet.geometry.contour import Contour

__all__ = ["runs_along"]

_SAMPLES = 200


def runs_along(one: Contour, other: Contour, within: float) -> float:
    """The share of `one` that lies within `within` of `other`, 0 to 1."""
    fine = max(within / 5, 1e-6)
    points = one.flattened(fine)
    line = shapely.LineString(np.vstack([points, points[:1]]) if one.closed else points)
    there = shapely.line_interpolate_point(line, np.linspace(0, line.length, _SAMPLES))
    way = other.flattened(fine)
    target = shapely.LineString(np.vstack([way, way[:1]]) if other.closed else way)
    return float((shapely.distance(there, target) <= within).mean())
