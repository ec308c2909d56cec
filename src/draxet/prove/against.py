"""What a program leaves of a sheet, held against the parts that contours bound: what is too much, and what is missing."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from draxet.geometry.contour import Contour
from draxet.job.operations.engrave import area_of
from draxet.machines.rehearsal import Rehearsal
from draxet.record import record

__all__ = ["Against", "against"]

_EVERY = 0.25
"""mm: so near to each other are the places at which edges are compared."""


@record(frozen=True, eq=False)
class Against:
    """too_much, too_little : how far what is left stands over the edge of its part, and how far it lies within it, at most, in mm, and where; missing : middles of
    parts of which nothing is left. parts : how many were compared."""

    too_much: float = 0.0
    too_much_at: tuple[float, float] = (0.0, 0.0)
    too_little: float = 0.0
    too_little_at: tuple[float, float] = (0.0, 0.0)
    missing: tuple[tuple[float, float], ...] = ()
    parts: int = 0


def against(run: Rehearsal, contours: Sequence[Contour], away: tuple[float, float] = (0.0, 0.0)) -> Against:
    """Compare the pieces that a run leaves with the parts of closed contours, every second of nested ones an opening.

    Parameters
    ----------
    away : where the program's origin lies, as the contours count.
    """
    closed = [contour for contour in contours if contour.closed]
    wanted = shapely.get_parts(shapely.transform(area_of(closed), lambda points: points - np.array(away)))
    pieces = run.left
    if not len(wanted) or not pieces:
        return Against(missing=tuple(_middle(part) for part in wanted), parts=len(wanted))
    tree = shapely.STRtree(pieces)
    much, little = (0.0, (0.0, 0.0)), (0.0, (0.0, 0.0))
    missing = []
    for part in wanted:
        near = tree.query(part, predicate="intersects")
        shares = [part.intersection(pieces[k]).area for k in near.tolist()]
        if not shares or max(shares) < 0.5 * part.area:
            missing.append(_middle(part))
            continue
        piece = pieces[int(near[int(np.argmax(shares))])]
        over, under = _beyond(piece, part), _beyond(part, piece)
        much, little = max(much, over, key=lambda each: each[0]), max(little, under, key=lambda each: each[0])
    return Against(much[0], much[1], little[0], little[1], tuple(missing), len(wanted))


def _beyond(shape: Any, other: Any) -> tuple[float, tuple[float, float]]:
    """How far the edge of a shape lies outside another one at most, and where."""
    edge = shapely.get_coordinates(shapely.segmentize(shape.boundary, _EVERY))
    off = shapely.distance(shapely.points(edge), other)
    k = int(off.argmax())
    return float(off[k]), (float(edge[k, 0]), float(edge[k, 1]))


def _middle(part: Any) -> tuple[float, float]:
    spot = part.representative_point()
    return float(spot.x), float(spot.y)
