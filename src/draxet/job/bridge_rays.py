"""What a ray meets first, and the nearest place on a contour."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from draxet.cached import kept_on_the_first
from draxet.geometry.arrays import Floats, Points
from draxet.geometry.contour import Contour, boxes_of, joined_spans
from draxet.geometry.crossings import crossings
from draxet.geometry.pieces import place_at, position_near
from draxet.geometry.spans import Spans

__all__ = ["first_hits", "foot"]

_FARTHEST = 500.0
"""mm: a strip is no longer."""

_FEW_RAYS = 16

_NEAR_BY = 40.0
"""mm: most strips are shorter."""

_OFF = 1e-3


@kept_on_the_first
def foot(contour: Contour, x: float, y: float) -> tuple[float, float]:
    """The place on a contour that is nearest to another."""
    a, b = place_at(contour, position_near(contour, x, y)).tolist()
    return a, b


def first_hits(
    contours: Sequence[Contour], starts: Points, angles: Floats
) -> list[tuple[int, Points] | None]:
    """Of each ray, from its start (n, 2) at its angle (n,) in radians, the contour that it meets
    first, and where; None where it meets none."""
    found: list[tuple[int, Points] | None] = [None] * len(starts)
    for far in (_NEAR_BY, _FARTHEST):
        left = np.array([k for k, each in enumerate(found) if each is None], dtype=np.int64)
        if not len(left):
            break
        ends = starts[left] + far * np.column_stack([np.cos(angles[left]), np.sin(angles[left])])
        some = _in_the_way(contours, starts[left], ends)
        spans, owner = joined_spans([contours[k] for k in some])
        rays = Spans(
            starts[left],
            ends,
            np.zeros(len(left), dtype=np.int64),
            np.zeros(len(left)),
            np.zeros((len(left), 2, 2)),
        )
        met = crossings(rays, spans)
        ahead = np.flatnonzero(met.t * far > _OFF)
        order = ahead[np.lexsort((met.t[ahead], met.first[ahead]))]
        rows, at = np.unique(met.first[order], return_index=True)
        for row, hit in zip(rows.tolist(), order[at].tolist(), strict=True):
            found[int(left[row])] = some[int(owner[met.second[hit]])], met.points[hit]
    return found


def _in_the_way(contours: Sequence[Contour], starts: Points, ends: Points) -> list[int]:
    """The numbers of contours that a few rays may meet; of many rays, all."""
    if len(starts) > _FEW_RAYS:
        return list(range(len(contours)))
    boxes, near = boxes_of(contours), np.zeros(len(contours), dtype=bool)
    for low, high in zip(np.minimum(starts, ends), np.maximum(starts, ends), strict=True):
        near |= (boxes[:, :2] <= high).all(axis=1) & (boxes[:, 2:] >= low).all(axis=1)
    return np.flatnonzero(near).tolist()
