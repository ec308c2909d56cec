"""Programs: what a machine does, as a value. Arrays of moves, and events between them; time,
rehearsal and file formats take nothing else."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from draxet.cached import cached_property
from draxet.geometry.arrays import Bools, Floats, Ints, Points, norms
from draxet.geometry.turning import box_of
from draxet.job.machine_kinds import Machine
from draxet.job.pace import seconds_of
from draxet.job.product import LINES
from draxet.record import record

__all__ = ["CUT_WIDTH", "Event", "Program", "empty_program"]

CUT_WIDTH = "cut width"
"""What a program's file says before the lines that are cut so broad, in mm."""


@record(frozen=True)
class Event:
    """Something between moves: before move number `at`, ``on`` and ``off`` (of the beam, torch,
    spindle or pen), ``pierce`` (seconds), ``cutter`` (its diameter in mm), ``pen`` (its number),
    ``air`` (1 on, 0 off), ``stop`` (until somebody goes on, who has done what the `words` say)."""

    at: int
    what: str
    value: float = 0.0
    words: str = ""


@record(frozen=True, eq=False)
class Program:
    """m moves, one after the other from `start` (2,): `to` (m, 2) where each ends, `centre` (m, 2)
    of arcs, `turn` (m,) the angle an arc turns through (radians, anticlockwise over 0; 0 for a
    straight move), `work` (m,) whether it works or only travels, `feed` (m,) in mm a minute,
    `power` (m,) in per cent, `depth` (m,) at its end and `depth_from` (m,) at its beginning, in mm
    below the top of the sheet, `operation` (m,) the number of the operation and `path` (m,) of the
    line it belongs to (-1 for travel).
    operations : ids by number; ids : of the contours of each line. thinned : how many places were
    left out as nearer to each other than the machine's least step, and how far what is run lies
    from them, in mm."""

    machine: Machine
    start: Points
    to: Points
    centre: Points
    turn: Floats
    work: Bools
    feed: Floats
    power: Floats
    depth_from: Floats
    depth: Floats
    operation: Ints
    path: Ints
    events: tuple[Event, ...]
    operations: tuple[str, ...]
    ids: tuple[tuple[str, ...], ...]
    thinned: tuple[int, float] = (0, 0.0)

    product = LINES

    def __len__(self) -> int:
        return len(self.to)

    @cached_property
    def beginnings(self) -> Points:
        """Where each move begins (m, 2)."""
        return np.vstack([self.start, self.to[:-1]]) if len(self.to) else np.zeros((0, 2))

    @cached_property
    def lengths(self) -> Floats:
        """How long each move is (m,), in mm."""
        straight = norms(self.to - self.beginnings)
        return np.where(
            self.turn != 0, norms(self.beginnings - self.centre) * np.abs(self.turn), straight
        )

    def counted_from(self, x: float, y: float) -> Program:
        """The same, counted from another place."""
        away = np.array([x, y])
        return replace(
            self,
            to=self.to - away,
            centre=np.where((self.turn != 0)[:, None], self.centre - away, self.centre),
        )

    @property
    def cut_mm(self) -> float:
        return float(self.lengths[self.work].sum())

    @property
    def travel_mm(self) -> float:
        return float(self.lengths[~self.work].sum())

    @property
    def told(self) -> str:
        return ""

    @cached_property
    def seconds(self) -> float:
        """How long it takes: moves of one line run on in one another, each line and each travel
        speeds up and slows down; pierces and plunges are added."""
        if not len(self):
            return 0.0
        m, speed = self.machine, self.feed / 60.0
        begins = np.append(True, (self.path[1:] != self.path[:-1]) | ~self.work[:-1])
        time = seconds_of(self.lengths, speed, self.work, begins, m.acceleration).sum()
        time += sum(event.value for event in self.events if event.what == "pierce")
        if m.traits.lowers:
            before = np.append(
                -m.safe_height, np.where(self.work[:-1], self.depth[:-1], -m.safe_height)
            )
            time += (
                np.maximum(self.depth_from - before, 0.0) / np.minimum(m.plunge / 60.0, speed)
            )[self.work].sum()
        return float(time)

    @cached_property
    def box(self) -> tuple[float, float, float, float]:
        """What its working moves run over (all moves of one that works nothing): least x, least y,
        greatest x, greatest y."""
        return box_of(self.beginnings, self.to, self.centre, self.turn, self.work)


def empty_program(machine: Machine) -> Program:
    """A program without moves."""
    none, places, numbers = np.zeros(0), np.zeros((0, 2)), np.zeros(0, dtype=np.int64)
    return Program(
        machine,
        np.zeros(2),
        places,
        places,
        none,
        none > 0,
        none,
        none,
        none,
        none,
        numbers,
        numbers,
        (),
        (),
        (),
    )
