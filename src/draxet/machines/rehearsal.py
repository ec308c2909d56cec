"""A rehearsal: the steps that a controller read, on a simulated machine and a sheet; what they
take, what comes loose, and what goes wrong only when it runs.

A router goes as deep as it is led, a torch goes through, a pen marks, and a laser burns as deep as
its power over its feed has it, pass after pass.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from draxet.cached import cached_property
from draxet.geometry.arrays import Bools, Floats, Ints, norms
from draxet.geometry.nesting import as_polygon
from draxet.geometry.turning import box_of, boxes, way_points
from draxet.job.machine import Machine
from draxet.machines.controller import Steps
from draxet.record import record

__all__ = ["Loose", "Rehearsal", "Stock", "Trouble", "rehearse", "swept"]

_FINE = 0.003
_DOWN = 1e-6
_BELOW = 0.5
"""mm: a tool may go so much deeper than the sheet is thick, into what lies beneath it."""
_BED = 5.0
"""mm under a cut: nobody minds."""
_SPECK = 0.05
"""mm²: a smaller piece is dust."""
_THROUGH = 0.02
"""mm: what is left thinner than that is through."""
_INSIDE = 0.1
"""mm: a line so far inside a piece that came loose works on it."""
_MOST = 300


@record(frozen=True)
class Stock:
    """The sheet: its size and thickness in mm, where its lower left lies as the program counts,
    whether heights count from its ``top`` or the ``bed``, and how broad a cut is in it (0: as the
    machine's usual one)."""

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
    def tools(self) -> tuple[int, ...]:
        """The tools in the order in which they are wanted."""
        return tuple(dict.fromkeys(self.steps.tool[self.work].tolist()))

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
            (part for part in shapely.get_parts(sheet.difference(taken)) if part.area > _SPECK),
            key=lambda part: -part.area,
        )


def rehearse(steps: Steps, machine: Machine, stock: Stock) -> Rehearsal:
    """Run the steps of a program on a machine and a sheet."""
    begins = steps.begins
    top = 0.0 if stock.zero == "top" else stock.thickness
    below = np.maximum(top - steps.to[:, 2], 0.0)
    below_from = np.maximum(top - begins[:, 2], 0.0)
    lengths = steps.lengths
    if machine.kind == "router":
        down = (below > _DOWN) | (below_from > _DOWN)
        work = down & ~steps.rapid
        depth = np.minimum(below, below_from)  # what is surely taken away all along it
    else:
        down = steps.on
        work = steps.on & ~steps.rapid & (lengths > 0)
        depth = (
            _burnt(steps, machine, stock, work)
            if machine.kind == "laser"
            else np.where(work, stock.thickness if machine.kind == "plasma" else 0.0, 0.0)
        )
    width = np.full(len(steps), stock.cut or machine.cut_width)
    for number, tool in enumerate(machine.tools, 1):
        width[steps.tool == number] = tool.diameter
    run = _runs(work, steps)
    first = Rehearsal(
        steps,
        machine,
        stock,
        _ends(steps, machine, work, lengths),
        work,
        np.where(work, depth, 0.0),
        width,
        run,
        (),
        (),
    )
    cuts = swept(first, first.through)
    every = cuts if bool((first.through == work).all()) else swept(first, work) if cuts else []
    loose = _loosened(cuts)
    troubles = (
        *_told(steps),
        *_moved_wrongly(first, down, below),
        *_into_areas(first),
        *_on_loose_pieces(first, every, loose),
    )
    return Rehearsal(
        steps,
        machine,
        stock,
        first.ends,
        work,
        first.depth,
        width,
        run,
        loose,
        tuple(sorted(troubles, key=lambda trouble: trouble.line)),
    )


def _burnt(steps: Steps, machine: Machine, stock: Stock, work: Bools) -> Floats:
    """How deep a laser has got at each move, from all passes along the same place."""
    percent = 100 * steps.power / machine.power_scale
    each = np.where(
        work & (steps.feed > 0), machine.burn * percent / np.maximum(steps.feed, 1e-9), 0.0
    )
    begins, to, turn = (
        np.round(steps.begins[:, :2], 2),
        np.round(steps.to[:, :2], 2),
        np.round(steps.turn, 3),
    )
    back = (begins[:, 0] > to[:, 0]) | (
        (begins[:, 0] == to[:, 0]) & (begins[:, 1] > to[:, 1])
    )  # the same way may be run from either end
    places = np.hstack(
        [
            np.where(back[:, None], to, begins),
            np.where(back[:, None], begins, to),
            np.where(back, -turn, turn)[:, None],
        ]
    )
    done, some = dict[tuple[float, ...], float](), np.flatnonzero(work)
    keys = list(map(tuple, places[some].tolist()))
    for key, burnt in zip(keys, each[some].tolist(), strict=True):
        done[key] = done.get(key, 0.0) + burnt
    depth = np.zeros(len(steps))
    depth[some] = [done[key] for key in keys]
    return depth


def _runs(work: Bools, steps: Steps) -> Ints:
    """The number of the unbroken line of work that each move belongs to."""
    number, found = -1, np.full(len(work), -1)
    for k, works in enumerate(work.tolist()):
        if works:
            if k == 0 or not work[k - 1]:
                number += 1
            found[k] = number
    return found


def _ends(steps: Steps, machine: Machine, work: Bools, lengths: Floats) -> Floats:
    """When each move has ended: moves of one line run on in one another, each line and each travel
    speeds up and slows down."""
    speed = (
        np.where(
            steps.rapid,
            machine.travel,
            np.minimum(np.where(steps.feed > 0, steps.feed, machine.travel), machine.most_feed),
        )
        / 60.0
    )
    short = speed**2 / machine.acceleration
    alone = np.where(
        lengths < short,
        2 * np.sqrt(lengths / machine.acceleration),
        lengths / speed + speed / machine.acceleration,
    )
    fresh = np.append(True, (work[1:] != work[:-1])) if len(work) else work
    going = lengths / speed + np.where(fresh, speed / machine.acceleration, 0.0)
    took = np.where(work, going, np.where(lengths > 0, alone, 0.0))
    for at, seconds in steps.waits.items():
        if at < len(took):
            took[at] += seconds
    return np.asarray(np.cumsum(took))


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
        line = _line(run.steps, part)
        if line is not None:
            found.append((int(part[-1]), line.buffer(float(run.width[part[0]]) / 2, quad_segs=16)))
    return found


def _line(steps: Steps, part: Ints) -> Any:
    begins = steps.begins[part, :2]
    points, _ = way_points(begins, steps.to[part, :2], steps.centre[part], steps.turn[part], _FINE)
    every = np.vstack([begins[:1], points])
    return (
        shapely.LineString(every)
        if norms(np.diff(every, axis=0)).sum() > 1e-9
        else shapely.Point(every[0])
    )


def _loosened(cuts: Sequence[tuple[int, Any]]) -> tuple[Loose, ...]:
    """The pieces that come loose, each after the move that closes the cut round it; `cuts` are what
    lines of work take away, in their order."""
    if not cuts:
        return ()
    shapes = np.array([shape for _, shape in cuts], dtype=object)
    first, second = shapely.STRtree(shapes).query(shapes, predicate="intersects")
    touching: list[list[int]] = [[] for _ in cuts]
    for a, b in zip(first.tolist(), second.tolist(), strict=True):
        if b < a:
            touching[a].append(b)
    body_of: dict[int, int] = {}
    bodies: dict[int, Any] = {}
    holes: dict[int, list[Any]] = {}
    found = []
    for k, (move, shape) in enumerate(cuts):
        met = {body_of[_root(body_of, other)] for other in touching[k]}
        known = [hole for body in met for hole in holes[body]]
        bodies[k] = shapely.union_all([shape, *(bodies.pop(body) for body in met)])
        for body in met:
            body_of[body] = k
            holes.pop(body)
        body_of[k] = k
        holes[k] = [
            shapely.Polygon(ring)
            for part in shapely.get_parts(bodies[k])
            if part.geom_type == "Polygon"
            for ring in part.interiors
        ]
        for hole in holes[k]:
            if hole.area > _SPECK and not any(
                hole.symmetric_difference(old).area < _SPECK for old in known
            ):
                found.append(Loose(move, hole, float(hole.area)))
    return tuple(found)


def _root(body_of: dict[int, int], number: int) -> int:
    while body_of[number] != number:
        number = body_of[number]
    return number


# --- what goes wrong


def _told(steps: Steps) -> list[Trouble]:
    return [
        Trouble("unreadable", f"Line {problem.line}: {problem.words}", problem.line, (0.0, 0.0))
        for problem in steps.problems
    ]


def _moved_wrongly(run: Rehearsal, down: Bools, below: Floats) -> list[Trouble]:
    steps, machine, stock = run.steps, run.machine, run.stock
    far = _out_of_reach(run)
    router = machine.kind == "router"
    level = norms(steps.to[:, :2] - steps.begins[:, :2]) > 1e-6
    plunged = router & down & ~level & (steps.to[:, 2] < steps.begins[:, 2] - 1e-6)
    checks: tuple[tuple[str, str, Bools], ...] = (
        (
            "out-of-reach",
            f"leads out of the reach of the {machine.name.lower()}",
            far & (run.work | (norms(steps.to[:, :2]) > 1e-6)),
        ),
        (
            "travel-down",
            "travels with the tool down"
            if router
            else "travels with the beam on"
            if machine.kind != "pen"
            else "travels with the pen down",
            steps.rapid & down & level,
        ),
        (
            "plunge-too-fast",
            f"plunges faster than {machine.plunge:g} mm/min",
            plunged & (steps.rapid | (steps.feed > machine.plunge * 1.001)),
        ),
        ("no-feed", "works with no feed", run.work & (steps.feed <= 0) & (machine.kind != "pen")),
        (
            "no-power",
            "is in the material with the spindle off" if router else "cuts with no power",
            run.work & (~steps.on if router else (steps.power <= 0) & (machine.kind == "laser")),
        ),
        (
            "too-deep",
            f"goes deeper than the sheet, {stock.thickness:g} mm, and {_BELOW:g} mm beyond",
            run.work & (below > stock.thickness + _BELOW) & router,
        ),
        (
            "too-fast",
            f"wants a feed over {machine.most_feed:g} mm/min",
            run.work & (steps.feed > machine.most_feed * 1.001),
        ),
    )
    found = []
    for kind, words, wrong in checks:
        some = np.flatnonzero(wrong)
        lines, at = np.unique(steps.line[some], return_index=True)
        for number, k in list(zip(lines.tolist(), some[at].tolist(), strict=True))[:_MOST]:
            found.append(
                Trouble(
                    kind,
                    f"Line {number} {words}",
                    number,
                    (float(steps.to[k, 0]), float(steps.to[k, 1])),
                    kind not in ("too-fast", "plunge-too-fast"),
                )
            )
    return found


def _out_of_reach(run: Rehearsal) -> Bools:
    """Which moves end out of the machine's reach, or leave it on their way."""
    steps, machine, corner = run.steps, run.machine, (run.stock.x, run.stock.y)
    place = steps.to[:, :2] - corner
    if machine.outline is not None:
        room = as_polygon(machine.outline, _FINE).buffer(1e-3 + _FINE)
        far: Bools = ~shapely.contains_xy(room, place[:, 0], place[:, 1])
        far[run.work] |= ~shapely.covers(
            shapely.transform(room, lambda points: points + corner),
            _ways(steps, np.flatnonzero(run.work)),
        )
        return far
    low, high = boxes(steps.begins[:, :2], steps.to[:, :2], steps.centre, steps.turn)
    low[steps.turn == 0] = high[steps.turn == 0] = steps.to[steps.turn == 0, :2]
    beyond: Bools = np.any(
        np.hstack(
            [low - corner < -1e-3, high - corner > (machine.reach_x + 1e-3, machine.reach_y + 1e-3)]
        ),
        axis=1,
    )
    return beyond


def _ways(steps: Steps, some: Ints) -> Any:
    """The level way of some moves, arcs as arcs."""
    begins = steps.begins[some, :2]
    points, owner = way_points(
        begins, steps.to[some, :2], steps.centre[some], steps.turn[some], _FINE
    )
    places, owner = np.vstack([begins, points]), np.append(np.arange(len(some)), owner)
    order = np.argsort(owner, kind="stable")
    return shapely.linestrings(places[order], indices=owner[order])


def _into_areas(run: Rehearsal) -> list[Trouble]:
    """Moves into what the machine keeps clear of: at work, or travelling lower than that stands
    high."""
    steps, machine, found = run.steps, run.machine, list[Trouble]()
    begins = steps.begins
    if not machine.keep_clear:
        return []
    lines = _ways(steps, np.arange(len(steps)))
    high = (
        np.minimum(steps.to[:, 2], begins[:, 2])
        - (0.0 if run.stock.zero == "top" else run.stock.thickness)
        if machine.kind == "router"
        else np.full(len(steps), machine.safe_height)
    )
    for number, area in enumerate(machine.keep_clear, 1):
        shape = shapely.transform(
            as_polygon(area.outline, _FINE).buffer(0),
            lambda points: points + (run.stock.x, run.stock.y),
        )
        near = shapely.distance(lines, shape) < np.where(run.work, run.width / 2, _FINE)
        some = np.flatnonzero(near & (run.work | (high < area.height)))
        for k in some[:1].tolist():
            found.append(
                Trouble(
                    "keep-clear",
                    f"Line {int(steps.line[k])} runs into area {number} that is to be kept clear",
                    int(steps.line[k]),
                    (float(steps.to[k, 0]), float(steps.to[k, 1])),
                )
            )
    return found


def _on_loose_pieces(
    run: Rehearsal, every: Sequence[tuple[int, Any]], loose: Sequence[Loose]
) -> list[Trouble]:
    """Work on a piece that has come loose before; `every` is what each line of work takes away."""
    if not loose:
        return []
    begins = [int(np.flatnonzero(run.run == run.run[move])[0]) for move, _ in every]
    tree = shapely.STRtree([shape for _, shape in every])
    found = []
    for piece in loose:
        inner = piece.shape.buffer(-_INSIDE)
        later = sorted(
            k for k in tree.query(inner, predicate="intersects").tolist() if begins[k] > piece.move
        )
        if later and not inner.is_empty:
            k = begins[later[0]]
            words = f"Line {int(run.steps.line[k])} works on a piece of {piece.area:.0f} mm² that came loose in line {int(run.steps.line[piece.move])}"
            found.append(
                Trouble(
                    "loose",
                    words,
                    int(run.steps.line[k]),
                    (float(run.steps.to[k, 0]), float(run.steps.to[k, 1])),
                )
            )
    return found
