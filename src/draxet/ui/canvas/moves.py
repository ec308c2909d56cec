"""Moves of programs, and other runs of places, as paths."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainterPath, QPolygonF

from draxet.geometry.arrays import Points

__all__ = ["add_lines", "add_move"]


def add_move(
    path: QPainterPath,
    begin: Sequence[float],
    to: Sequence[float],
    centre: Sequence[float],
    turn: float,
) -> None:
    """A straight move, or an arc that turns through an angle (radians), put at the end of a path
    that stands at its beginning."""
    if not turn:
        path.lineTo(to[0], to[1])
        return
    radius = math.dist(begin[:2], centre[:2])
    box = QRectF(centre[0] - radius, centre[1] - radius, 2 * radius, 2 * radius)
    start = -math.degrees(
        math.atan2(begin[1] - centre[1], begin[0] - centre[0])
    )  # the library counts clockwise where y is up
    path.arcTo(box, start, -math.degrees(turn))


def add_lines(path: QPainterPath, points: Points) -> None:
    """Straight lines from place to place (n, 2), put into the library's own memory at once."""
    polygon = QPolygonF()
    polygon.fill(QPointF(), len(points))
    memory = polygon.data()
    memory.setsize(16 * len(points))
    np.frombuffer(memory, dtype=np.float64).reshape(-1, 2)[:] = points  # type: ignore[call-overload]
    path.addPolygon(polygon)
