"""The frame of a job: its outer box or its hull, run with the tool up or at a power that marks
nothing, to see on the material where the work will lie."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely

from draxet.geometry.arrays import Points
from draxet.geometry.turning import way_points
from draxet.job.program import Event, Program

__all__ = ["FRAMES", "frame_program"]

FRAMES = ("box", "hull")
_FINE = 0.01


def frame_program(program: Program, how: str = "box", power: float = 0.0) -> Program:
    """A program that leads round what another one works.

    Parameters
    ----------
    how : ``box`` or ``hull``. power : in per cent, of a laser; 0 runs it with nothing on.

    Raises
    ------
    ValueError : where that one works nothing.
    """
    if not program.work.any():
        raise ValueError("there is no work to run round yet")
    corners = _box(program) if how == "box" else _hull(program)
    to = np.vstack([corners, corners[:1]])
    count, lit = len(to), program.machine.traits.has_power and power > 0
    work = np.append(False, np.full(count - 1, lit))
    none, numbers = np.zeros(count), np.zeros(count, dtype=np.int64)
    feed = np.where(
        work, min(program.machine.most_feed, program.machine.travel), program.machine.travel
    )
    events = (Event(1, "on", power), Event(count, "off")) if lit else ()
    return Program(
        program.machine,
        program.start,
        to,
        np.zeros((count, 2)),
        none,
        work,
        feed,
        np.where(work, power, 0.0),
        none,
        none,
        numbers,
        np.where(work, 0, -1),
        events,
        ("frame",),
        (("frame",),),
    )


def _box(program: Program) -> Points:
    x0, y0, x1, y1 = program.box
    return np.array([(x0, y0), (x1, y0), (x1, y1), (x0, y1)])


def _hull(program: Program) -> Points:
    """What a cord round all that is worked would lie along, anticlockwise."""
    some = program.work
    points, _ = way_points(
        program.beginnings[some], program.to[some], program.centre[some], program.turn[some], _FINE
    )
    hull: Any = shapely.MultiPoint(np.vstack([program.beginnings[some], points])).convex_hull
    corners: Points = shapely.get_coordinates(
        hull.exterior if hull.geom_type == "Polygon" else hull
    )
    return corners[:-1] if len(corners) > 2 else corners
