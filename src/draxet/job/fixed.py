"""Pieces of fixed size: whatever is done to them, they stay as long and as broad as they are."""

from __future__ import annotations

import numpy as np
import shapely

from draxet.geometry.contour import Contour
from draxet.job.records import Job

__all__ = ["resized"]

_FINE = 0.002
_SAME, _SAME_SHARE = 0.01, 1e-5
"""mm, and share of the size, that count as the same."""


def resized(before: Job, after: Job) -> str:
    """Which contour of fixed size would take another one by an edit, as a sentence; empty where
    none does."""
    names = ("contours", "parts", "placements")
    if all(getattr(before, name) is getattr(after, name) for name in names):
        return ""
    if not any(item.fixed for item in before.contours):
        return ""
    for item in after.layout.contours:
        was = before.layout.contour_by_id.get(item.id)
        if was is None or was.contour is item.contour or not (was.fixed and item.fixed):
            continue
        (a, b), (c, d) = _size(was.contour), _size(item.contour)
        if max(abs(a - c), abs(b - d)) > _SAME + _SAME_SHARE * a:
            return f"a contour of fixed size, {a:.2f} × {b:.2f} mm, would become {c:.2f} × {d:.2f} mm; free it in True up, Fixed size, first"
    return ""


def _size(contour: Contour) -> tuple[float, float]:
    """How long and how broad it is, however it is turned."""
    hull = shapely.MultiPoint(contour.flattened(_FINE)).convex_hull
    corners = shapely.get_coordinates(shapely.oriented_envelope(hull))
    sides = np.hypot(*np.diff(corners, axis=0).T) if len(corners) > 1 else np.zeros(1)
    return float(sides.max()), float(sides[:2].min()) if len(sides) > 2 else 0.0
