"""The moves of a program, drawn line by line."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from draxet.geometry.arrays import Floats, Points, norms
from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, CUBIC
from draxet.job.machine_kinds import Machine
from draxet.job.operations import Operation, Toolpath
from draxet.job.program import Event, Program
from draxet.make.entry import Way, entered, flat
from draxet.make.thinning import thinned
from draxet.make.work_blocks import EVERY, FINE, WorkBlock
from draxet.progress import Progress

__all__ = ["moves_along"]


class _Pen:
    """Moves as they are put down, run by run."""

    def __init__(self) -> None:
        self.count = 0
        self.at: tuple[float, float] | None = None
        self.runs: list[tuple[Points, Points, Floats, Floats, Floats, tuple[float, ...]]] = []
        self.events: list[Event] = []
        self.now: dict[str, float] = {}
        self.left_out: list[tuple[int, float]] = []

    def go(self, way: Way, *same: float) -> None:
        """The moves of a way, and what is the same for all of them: work, feed, power, operation,
        path."""
        self.runs.append((way.to, way.centre, way.turn, way.depth_from, way.depth, same))
        self.count += len(way.to)
        self.at = float(way.to[-1, 0]), float(way.to[-1, 1])

    def travel(self, to: Points, feed: float, operation: int) -> None:
        """One straight move without work."""
        self.go(flat(to[None], np.zeros((1, 2)), np.zeros(1), 0.0), False, feed, 0.0, operation, -1)

    def event(self, what: str, value: float = 0.0, words: str = "") -> None:
        self.events.append(Event(self.count, what, value, words))

    def ready(self, what: str, value: float) -> None:
        """An event where something is to be otherwise than it is; nothing is so at first."""
        if self.now.get(what, 0.0) != value:
            self.now[what] = value
            self.event(what, value)

    def program(
        self, machine: Machine, operations: Sequence[Operation], ids: Sequence[tuple[str, ...]]
    ) -> Program:
        to, centre, turn, depth_from, depth = (
            np.concatenate([run[k] for run in self.runs])
            if self.runs
            else np.zeros((0, 2) if k < 2 else 0)
            for k in range(5)
        )
        sizes = [len(run[0]) for run in self.runs]
        work, feed, power, operation, path = (
            np.repeat([run[5][k] for run in self.runs], sizes) for k in range(5)
        )
        return Program(
            machine,
            np.zeros(2),
            to,
            centre,
            turn,
            work.astype(bool),
            feed.astype(np.float64),
            power.astype(np.float64),
            depth_from,
            depth,
            operation.astype(np.int64),
            path.astype(np.int64),
            tuple(self.events),
            tuple(each.id for each in operations),
            tuple(ids),
            (
                sum(count for count, _ in self.left_out),
                max((off for _, off in self.left_out), default=0.0),
            ),
        )


def moves_along(
    order: Sequence[WorkBlock],
    operations: Sequence[Operation],
    machine: Machine,
    origin: Points,
    report: Progress,
) -> Program:
    """What is worked, in its order, as the moves of a machine."""
    pen, ids = _Pen(), list[tuple[str, ...]]()
    for done, block in enumerate(order):
        if done % EVERY == 0:
            report(0.8 + 0.2 * done / len(order), "writing it down")
        operation = operations[block.operation]
        power = operation.power
        pierce = operation.pierce or machine.pierce
        air = machine.has_air and operation.air
        if block.stop:
            pen.event("stop", words=block.stop)
        for line in block.lines:
            feed = min(line.feed or operation.feed, machine.most_feed)
            number = len(ids)
            ids.append(line.ids)
            ways = _ways(line, machine, origin, pen.left_out)
            to = ways[-1].to
            begin = line.line.nodes[0] - origin
            if machine.traits.lowers:
                pen.ready("cutter", line.width)
            pen.ready("air", float(air))
            if line.pen:
                pen.ready("pen", line.pen)
            runs_up = _runs_up(line, operation, machine)
            along = (line.line.nodes[-1] - line.line.nodes[0]) / max(line.line.length, 1e-12)
            if runs_up:
                begin = begin - line.overrun * along
            for n, way in enumerate(ways):
                if pen.at is None or math.dist(pen.at, begin) > 1e-9:
                    pen.travel(begin, machine.travel, block.operation)
                if runs_up:
                    pen.travel(begin + line.overrun * along, feed, block.operation)
                pen.event("on", power)
                if operation.through and pierce and n == 0:
                    pen.event("pierce", pierce)
                pen.go(way, True, feed, power, block.operation, number)
                pen.event("off")
                if runs_up:
                    pen.travel(to[-1] + line.overrun * along, feed, block.operation)
    return pen.program(machine, operations, ids)


def _ways(
    path: Toolpath, machine: Machine, origin: Points, left_out: list[tuple[int, float]]
) -> list[Way]:
    """The way of each pass."""
    to, centre, turn = _runs(path.line, machine, origin)
    begin = path.line.nodes[0] - origin
    if not machine.straight:
        to = _in_steps(np.vstack([begin, to]), machine)
        centre, turn = np.zeros((len(to), 2)), np.zeros(len(to))
    if machine.least_step:
        kept, off = thinned(begin, to, turn, machine.least_step)
        to, centre, turn = to[kept], centre[kept], turn[kept]
        left_out.append((int((~kept).sum()), off))
    helix = np.array(path.helix) - origin if path.helix else None
    found, above = list[Way](), 0.0
    for depth in path.depths:
        down = (
            entered(flat(to, centre, turn, depth), begin, above, path, helix, arcs=machine.arcs)
            if path.enter and depth > above
            else None
        )
        found.append(down or flat(to, centre, turn, depth))
        above = depth
    return found


def _in_steps(places: Points, machine: Machine) -> Points:
    """Straight ways from each place (n, 2) to the next one, in steps so short that straight steps of
    the machine's motors stay within 0.01 mm of them; where each step ends (k, 2)."""
    begins, ends = places[:-1], places[1:]
    motors = machine.to_motors(places)
    off = np.zeros(len(ends))
    for share in (0.25, 0.5, 0.75):
        led = machine.from_motors((1 - share) * motors[:-1] + share * motors[1:])
        off = np.maximum(off, norms(led - (1 - share) * begins - share * ends))
    counts = np.ceil(np.sqrt(2 * off / FINE)).astype(int).clip(1)
    owner = np.repeat(np.arange(len(counts)), counts)
    first = np.cumsum(counts) - counts
    share = ((np.arange(len(owner)) - first[owner] + 1) / counts[owner])[:, None]
    return np.asarray((1 - share) * begins[owner] + share * ends[owner])


def _runs(line: Contour, machine: Machine, origin: Points) -> tuple[Points, Points, Floats]:
    """The moves along a line, from the place where it begins: where each ends (k, 2), and of arcs
    the centre (k, 2) and the turn (k,). Curves, and arcs on a machine that runs none, are straight
    steps within 0.01 mm."""
    stepped = (line.kinds == CUBIC) | (
        (line.kinds == ARC) & (not (machine.arcs and machine.straight))
    )
    arcs = np.flatnonzero((line.kinds == ARC) & (line.bulges != 0))
    centres = np.zeros((len(line.kinds), 2))
    if len(arcs):
        centres[arcs] = line.spans.take(arcs).arc_shapes().centres - origin
    turns = np.where(line.kinds == ARC, 4 * np.arctan(line.bulges), 0.0)
    if not stepped.any():
        return line.spans.ends - origin, centres, turns
    points, counts = line.spans.flattened(FINE)
    first = np.cumsum(counts) - counts
    ends = np.vstack([points[1:], line.spans.ends[-1:]])  # where each little step ends
    owner = np.repeat(np.arange(len(counts)), counts)
    last = np.zeros(len(ends), dtype=bool)
    last[first + counts - 1] = True
    ends[last] = line.spans.ends
    keep = stepped[owner] | last
    whole = keep & last & ~stepped[owner]
    return (
        ends[keep] - origin,
        np.where(whole[keep, None], centres[owner[keep]], 0.0),
        np.where(whole[keep], turns[owner[keep]], 0.0),
    )


def _runs_up(line: Toolpath, operation: Operation, machine: Machine) -> bool:
    """Whether the tool comes to speed before a line, and slows down after it."""
    engraves = operation.runs_up and machine.traits.has_power
    return line.overrun > 0 and not line.line.closed and engraves
