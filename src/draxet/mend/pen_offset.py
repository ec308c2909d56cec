"""What a pen adds to a thing that it is led round: told by a round thing of known size."""

from __future__ import annotations

import math

import numpy as np

from draxet.geometry.contour import Contour

__all__ = ["pen_offset"]

_ROUND = 0.06
"""A contour no point of which lies farther off a circle, as a share of its radius, is round."""
_FINE = 1e-3
_WIDEST = 30.0
"""mm: no pen runs farther off."""


def pen_offset(contour: Contour, diameter: float) -> float:
    """How far a line drawn round a round thing lies outside of it, in mm; under 0 inside.

    Parameters
    ----------
    contour : the line, true to size. diameter : of the thing, in mm.

    Raises
    ------
    ValueError : with one sentence where it is no circle, or no pen would do that.
    """
    if not contour.closed:
        raise ValueError("the line round the coin must be closed, and is open")
    radius = math.sqrt(abs(contour.area) / math.pi)
    points = contour.flattened(max(_FINE * radius, 1e-6))
    middle = (points.min(axis=0) + points.max(axis=0)) / 2
    away = np.abs(np.hypot(*(points - middle).T) - radius).max() / max(radius, 1e-9)
    if away > _ROUND:
        raise ValueError(
            f"the line round the coin must be a circle; this one is {100 * away:.0f} % off one: choose that of a coin or a washer"
        )
    off = radius - diameter / 2
    if abs(off) > min(_WIDEST, radius / 2):
        raise ValueError(
            f"the thing must be about as wide as its line, {2 * radius:.2f} mm, got {diameter:g} mm: see whether the picture has its true size"
        )
    return off
