"""Lines of a program at work, by contour and depth."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely

from draxet.geometry.arrays import Bools, Ints
from draxet.geometry.turning import way_points
from draxet.job.program import Program
from draxet.record import record

__all__ = ["FINE", "LinesAtWork", "SLACK", "lines_at_work", "width_of"]

FINE = 0.01

SLACK = 0.05
"""mm: so much of a neighbour may be touched untold."""


@record(frozen=True, eq=False)
class LinesAtWork:
    """The moves of a program as lines within 0.01 mm: each line's working moves as one, and each
    travel; with the numbers of their paths (-1 for travel), and whether they work."""

    shapes: Any
    paths: Ints
    works: Bools


def lines_at_work(program: Program) -> LinesAtWork:
    same = program.work[1:] & program.work[:-1] & (program.path[1:] == program.path[:-1])
    first = np.flatnonzero(np.append(True, ~same))
    line = np.cumsum(np.append(True, ~same)) - 1
    points, move = way_points(program.beginnings, program.to, program.centre, program.turn, FINE)
    places, owner = (
        np.vstack([program.beginnings[first], points]),
        np.append(np.arange(len(first)), line[move]),
    )
    order = np.argsort(owner, kind="stable")
    return LinesAtWork(
        shapely.linestrings(places[order], indices=owner[order]),
        program.path[first],
        program.work[first],
    )


def width_of(program: Program, path: int, widths: dict[str, float]) -> float:
    number = int(program.operation[np.flatnonzero(program.path == path)[0]]) if path >= 0 else -1
    return widths.get(program.operations[number], 0.0) if number >= 0 else 0.0
