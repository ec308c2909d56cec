"""A rehearsal as a value: the stock, the way that the tool went, what came loose and what went
wrong."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely

from draxet.cached import cached_property
from draxet.geometry.arrays import Bools, Floats, Ints, Points, norms
from draxet.geometry.turning import box_of, way_points
from draxet.job.machine_kinds import Machine
from draxet.machines.program_steps import Steps
from draxet.record import record

__all__ = ["FINE", "SPECK", "Loose", "Rehearsal", "Stock", "Trouble", "swept"]

_THROUGH = 0.02
"""mm: what is left thinner than that is through."""


FINE = 0.003
"""mm within which ways are led along straight steps."""
_PIECES, _ROUND = 24, 16
"""Straight pieces of which a band is made at once, and steps of a quarter of its round ends."""
SPECK = 0.05
"""mm²: a smaller piece is dust."""


@record(frozen=True)
class Stock:
    """The sheet: its size and thickness in mm, where its lower left lies as the program counts,
    whether heights count from its ``top`` or the ``bed``, and how broad a cut is in it where the
    program does not say so (0: as the machine's usual one)."""

    width: float
    height: float
    thickness: float
    x: float = 0.0
    y: float = 0.0
    zero: str = "top"
    cut: float = 0.0


@record(frozen=True)
class Trouble:
    """Something that goes wrong: what kind, in words, in which line, and where. stops : whether
    nobody should run it."""

    kind: str
    words: str
    line: int
    place: tuple[float, float]
    stops: bool = True


@record(frozen=True, eq=False)
class Loose:
    """A piece that comes loose: after which move, its outline, and its area in mm²."""

    move: int
    shape: Any
    area: float


@record(frozen=True, eq=False)
class Rehearsal:
    """What a run does: `ends` (m,) seconds at which each move ends, `work` (m,) whether it works,
    `depth` (m,) how deep it gets, `width` (m,) how broad, `run` (m,) the number of the unbroken
    line of work it belongs to (-1 for travel)."""

    steps: Steps
    machine: Machine
    stock: Stock
    ends: Floats
    work: Bools
    depth: Floats
    width: Floats
    run: Ints
    loose: tuple[Loose, ...]
    troubles: tuple[Trouble, ...]

    @property
    def seconds(self) -> float:
        return float(self.ends[-1]) if len(self.ends) else 0.0

    @cached_property
    def stops(self) -> tuple[tuple[float, str], ...]:
        """The seconds at which it waits for somebody, and what the file says there."""
        starts = np.append(0.0, self.ends)
        return tuple((float(starts[at]), words) for at, words in self.steps.stops)

    @property
    def cut_mm(self) -> float:
        return float(self.steps.lengths[self.work].sum())

    @property
    def travel_mm(self) -> float:
        begins = self.steps.begins
        level = norms(self.steps.to[:, :2] - begins[:, :2])
        return float(level[~self.work].sum())

    @property
    def pierces(self) -> int:
        return int(
            sum(
                1
                for k, run in enumerate(self.run.tolist())
                if run >= 0 and (k == 0 or self.run[k - 1] != run)
            )
        )

    @property
    def cutters(self) -> tuple[int, ...]:
        """The tools in the order in which they are wanted."""
        return tuple(dict.fromkeys(self.steps.cutter[self.work].tolist()))

    @property
    def box(self) -> tuple[float, float, float, float]:
        """What the work runs over."""
        return box_of(
            self.steps.begins[:, :2],
            self.steps.to[:, :2],
            self.steps.centre,
            self.steps.turn,
            self.work,
        )

    @cached_property
    def through(self) -> Bools:
        """Which moves leave nothing of the sheet's thickness."""
        return self.work & (self.depth >= self.stock.thickness - _THROUGH)

    @cached_property
    def left(self) -> list[Any]:
        """The pieces of the sheet once all has run, the largest first."""
        sheet = shapely.box(
            self.stock.x,
            self.stock.y,
            self.stock.x + self.stock.width,
            self.stock.y + self.stock.height,
        )
        taken = shapely.union_all([shape for _, shape in swept(self, self.through)])
        return sorted(
            (part for part in shapely.get_parts(sheet.difference(taken)) if part.area > SPECK),
            key=lambda part: -part.area,
        )


def swept(run: Rehearsal, moves: Bools) -> list[tuple[int, Any]]:
    """What lines of work take away: for each unbroken line among some moves the number of its last
    move, and the area."""
    found = []
    number = np.where(moves, run.run, -1)
    for part in (
        np.split(
            np.flatnonzero(moves),
            np.flatnonzero((np.diff(np.flatnonzero(moves)) > 1) | (np.diff(number[moves]) != 0))
            + 1,
        )
        if moves.any()
        else ()
    ):
        begins, steps = run.steps.begins[part, :2], run.steps
        points, _ = way_points(
            begins, steps.to[part, :2], steps.centre[part], steps.turn[part], FINE
        )
        width = float(run.width[part[0]])
        found.append((int(part[-1]), _band(np.vstack([begins[:1], points]), width)))
    return found


def _band(places: Points, width: float) -> Any:
    """What a tool of a width takes away along a way through places. What it runs over again counts
    once, and a long way is put together of short ones: a band that overlaps itself takes a time that
    grows with the square of its pieces."""
    begins, ends = places[:-1], places[1:]
    if norms(ends - begins).sum() <= 1e-9:
        return shapely.Point(places[0]).buffer(width / 2, quad_segs=_ROUND)
    if len(begins) <= _PIECES:
        return shapely.LineString(places).buffer(width / 2, quad_segs=_ROUND)
    swapped = (begins[:, 0] > ends[:, 0]) | (
        (begins[:, 0] == ends[:, 0]) & (begins[:, 1] > ends[:, 1])
    )
    either = np.where(swapped[:, None], np.hstack([ends, begins]), np.hstack([begins, ends]))
    _, first = np.unique(np.round(either, 6), axis=0, return_index=True)
    kept = np.sort(first)
    breaks = np.append(True, np.diff(kept) > 1)
    number = np.arange(len(kept))
    since = number - np.maximum.accumulate(np.where(breaks, number, 0))
    chain = np.cumsum(breaks | (since % _PIECES == 0)) - 1
    last = np.append(chain[1:] != chain[:-1], True)
    rows = np.insert(begins[kept], np.flatnonzero(last) + 1, ends[kept[last]], axis=0)
    owner = np.insert(chain, np.flatnonzero(last) + 1, chain[last])
    lines = shapely.linestrings(rows, indices=owner)
    return shapely.union_all(shapely.buffer(lines, width / 2, quad_segs=_ROUND))
