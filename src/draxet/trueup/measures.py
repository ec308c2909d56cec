"""What can be measured between places: lengths along, angles, circles, areas, each with how far it
can be trusted.

Trust is two of the result, from the first-order propagation of
the places' spreads and of the picture's scale.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import numpy as np

from draxet.geometry.arrays import Floats, Points
from draxet.geometry.covariance import Covariance
from draxet.record import record

__all__ = ["Reading", "angle_at", "area_of", "circle_through", "length_along", "read"]

_SIGMAS = 2.0
_STEP = 1e-4


@record(frozen=True)
class Reading:
    """A measured `value` (mm, mm² or degrees) and its trust, plus or minus."""

    value: float
    trust: float


def length_along(points: Points) -> float:
    """Length of the chain through points (n ≥ 2, 2)."""
    return float(np.hypot(*np.diff(points, axis=0).T).sum())


def angle_at(points: Points) -> float:
    """Angle in degrees, 0..180, at the second of three points (3, 2); NaN where two lie
    together."""
    a, b = points[0] - points[1], points[2] - points[1]
    size = math.hypot(*a) * math.hypot(*b)
    return math.degrees(math.acos(min(1.0, max(-1.0, float(a @ b) / size)))) if size else math.nan


def circle_through(points: Points) -> tuple[float, float, float]:
    """Centre x, y and radius of the circle through three points (3, 2).

    Raises
    ------
    ValueError : where they lie on one line.
    """
    (ax, ay), (bx, by), (cx, cy) = points.tolist()
    d = 2 * ((bx - ax) * (cy - ay) - (by - ay) * (cx - ax))
    spread = max(math.hypot(bx - ax, by - ay), math.hypot(cx - ax, cy - ay))
    if abs(d) <= 1e-6 * spread * spread:
        raise ValueError("the three places lie on one line; pick them farther round the circle")
    b2, c2 = (bx - ax) ** 2 + (by - ay) ** 2, (cx - ax) ** 2 + (cy - ay) ** 2
    x = ((cy - ay) * b2 - (by - ay) * c2) / d
    y = ((bx - ax) * c2 - (cx - ax) * b2) / d
    return ax + x, ay + y, math.hypot(x, y)


def area_of(points: Points) -> float:
    """Area inside the outline through points (n ≥ 3, 2)."""
    x, y = points.T
    return abs(float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum())) / 2


def read(
    value: Callable[[Points], float],
    points: Points,
    spreads: Sequence[Covariance],
    scale_share: float,
    power: int,
) -> Reading:
    """A measurement and its trust.

    Parameters
    ----------
    value : of the points (n, 2). spreads : of each point in mm. scale_share : one standard
    deviation of the scale as a share.
    power : how the value grows with the scale: 1 for lengths, 2 for areas, 0 for angles.
    """
    here = value(points)
    step = _STEP * max(float(np.ptp(points, axis=0).max()), 1e-6)
    variance = 0.0
    for k, spread in enumerate(spreads):
        slopes: list[float] = []
        for axis in (0, 1):
            moved: Floats = points.copy()
            moved[k, axis] += step
            slopes.append((value(moved) - here) / step)
        variance += spread.variance(*slopes)
    return Reading(here, _SIGMAS * math.sqrt(variance + (power * scale_share * here) ** 2))
