"""A run's program as a file: written in a machine's language, read back by the simulated
controller, and compared with the program that it came from."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np

from draxet.formats.layer import FormatError
from draxet.formats.numeric import About, numeric_text
from draxet.formats.plotter import plotter_text
from draxet.geometry.arrays import Bools, Floats, Ints, norms
from draxet.job.dialect import Dialect
from draxet.job.program import Program
from draxet.job.records import Job
from draxet.job.sides import Run
from draxet.machines.controller import steps_on
from draxet.machines.program_steps import Steps
from draxet.machines.rehearsal import rehearse
from draxet.machines.rehearsal_records import Rehearsal, Stock
from draxet.record import record

__all__ = [
    "ENDINGS",
    "Written",
    "allowed_off",
    "compared",
    "ending_of",
    "program_text",
    "rehearsed",
    "stock_of",
]

ENDINGS = ("nc", "plt")
_PLOTTER_WITHIN = 0.02
"""mm: half a plotter's step each way."""
_POWER_WITHIN = 0.06
_LAST = 6.0
"""Of the last place behind the point: so far rounding may carry an arc's end and its centre."""
_ORIGIN = {
    (0.0, 0.0): "lower left",
    (0.5, 0.0): "middle of the lower edge",
    (1.0, 0.0): "lower right",
    (0.0, 0.5): "middle of the left edge",
    (0.5, 0.5): "middle",
    (1.0, 0.5): "middle of the right edge",
    (0.0, 1.0): "upper left",
    (0.5, 1.0): "middle of the upper edge",
    (1.0, 1.0): "upper right",
}


@record(frozen=True)
class Written:
    """What was found in a program's file: moves at work there and wanted, the greatest distance of
    its path from where it should run (mm), how many moves have another feed, power, tool or air (or
    no spindle), and whether it is as it should be."""

    file: str
    moves: int
    wanted: int
    worst: float
    allowed: float
    otherwise: int = 0

    @property
    def matches(self) -> bool:
        return self.moves == self.wanted and self.worst <= self.allowed and not self.otherwise


def stock_of(run: Run, job: Job | None = None) -> Stock:
    """The sheet of a run, as its program counts; of a `job` all of whose cuts are equally broad,
    with that breadth, as its recipe has it for the material."""
    sheet = run.sheet
    x, y = sheet.origin_place
    widths = (
        {
            operation.width
            for operation in job.operations
            if operation.through and job.worked_on(operation, sheet)
        }
        if job
        else set()
    )
    return Stock(
        sheet.width,
        sheet.height,
        sheet.thickness,
        sheet.x - x,
        sheet.y - y,
        sheet.zero,
        widths.pop() if len(widths) == 1 else 0.0,
    )


def program_text(job: Job, run: Run, program: Program, ending: str = "nc", zero: str = "") -> str:
    """A run's program in the numeric-control language, or in that of plotters (``plt``); `zero`
    says where it counts from, where that is not the sheet's origin.

    Raises
    ------
    FormatError : where nothing is worked, or the machine does not speak that language.
    """
    if not program.machine.runs_program:
        raise FormatError(
            f"the {program.machine.name.lower()} runs no program; hand off what it goes by"
        )
    if not len(program):
        raise FormatError(
            "nothing would run: no contour on this side of the sheet has an operation yet; give one in Make"
        )
    if ending == "plt":
        if not program.machine.traits.plots:
            raise FormatError(
                f"the {program.machine.name.lower()} does not speak the plotter language; write .nc"
            )
        return plotter_text(program)
    sheet = run.sheet
    names = {operation.id: operation.name for operation in job.operations}
    widths = {
        operation.id: operation.width
        for operation in job.operations
        if operation.through and not program.machine.traits.lowers  # there its tool says it
    }
    origin = _ORIGIN.get(
        (sheet.origin[0], sheet.origin[1]), f"{sheet.origin[0]:g} {sheet.origin[1]:g} of the sheet"
    )
    side = f"{sheet.name}, from the back, mirrored" if run.back else sheet.name
    return numeric_text(
        program,
        About(
            job.name,
            side,
            sheet.material,
            sheet.width,
            sheet.height,
            sheet.thickness,
            sheet.zero,
            zero or origin,
            names,
            widths,
        ),
    )


def rehearsed(text: str, run: Run, job: Job) -> Rehearsal:
    """A program's text played on the machine and the sheet of a run."""
    machine = job.machine_of(run.sheet)
    return rehearse(steps_on(text, machine), machine, stock_of(run, job))


def allowed_off(name: str, dialect: Dialect) -> float:
    """How far in mm what is read back of a file may lie off, by the places behind its points."""
    if name.endswith(".plt"):
        return _PLOTTER_WITHIN
    return _LAST * (25.4 if dialect.inches else 1.0) * 10.0**-dialect.decimals


def compared(name: str, text: str, run: Run, program: Program) -> Written:
    """What a text holds, held against the program of a run that it was written from."""
    steps = steps_on(text, program.machine)
    mine, theirs = np.flatnonzero(program.work), _worked(steps, program)
    allowed = allowed_off(name, program.machine.dialect)
    if len(mine) != len(theirs):
        return Written(name, len(theirs), len(mine), math.inf, allowed)
    off = norms(steps.to[theirs, :2] - program.to[mine]).max(initial=0.0)
    begun = norms(steps.begins[theirs, :2] - program.beginnings[mine]).max(initial=0.0)
    # an arc shorter than the last place behind the point is written straight
    arcs = (program.turn[mine] != 0) & (steps.turn[theirs] != 0)
    middle = norms(steps.centre[theirs][arcs] - program.centre[mine][arcs]).max(initial=0.0)
    turned = (
        np.abs(steps.turn[theirs] - program.turn[mine])[arcs]
        * norms(program.beginnings[mine][arcs] - program.centre[mine][arcs])
    ).max(initial=0.0)
    top = 0.0 if run.sheet.zero == "top" else run.sheet.thickness
    deep = (
        np.abs(top - steps.to[theirs, 2] - program.depth[mine]).max(initial=0.0)
        if program.machine.traits.lowers
        else 0.0
    )
    otherwise = int(_stops_otherwise(steps, program, theirs, mine))
    otherwise += int(_set_otherwise(steps, program, theirs, mine, allowed).sum())
    if program.machine.traits.lowers:
        plunges = _straight_down(steps) & ~steps.rapid
        otherwise += int((plunges & (steps.feed > program.machine.plunge + allowed)).sum())
    return Written(
        name,
        len(theirs),
        len(mine),
        float(max(off, begun, middle, turned, deep)),
        allowed,
        otherwise,
    )


def _set_otherwise(
    steps: Steps, program: Program, theirs: Ints, mine: Ints, within: float
) -> Bools:
    """Which moves at work (k,) run with another feed (mm a minute), power, tool or air than the
    program has for them."""
    machine = program.machine
    wrong: Bools = (
        np.abs(steps.feed[theirs] - program.feed[mine]) > within + 1e-5 * program.feed[mine]
    )
    if machine.traits.has_power:
        wrong |= (
            np.abs(steps.power[theirs] - program.power[mine] / 100 * machine.power_scale)
            > _POWER_WITHIN
        )
    if machine.dialect.air_on.strip() and machine.dialect.air_off.strip():  # else nobody can tell
        wrong |= steps.air[theirs] != (_in_force(program, "air")[mine] > 0)
    if machine.traits.draws:
        wrong |= steps.cutter[theirs] != _in_force(program, "pen")[mine]
    if machine.traits.lowers:
        sizes = np.array([0.0, *(cutter.diameter for cutter in machine.cutters)])
        known = (steps.cutter[theirs] > 0) & (steps.cutter[theirs] < len(sizes))
        found = np.where(
            known, sizes[np.where(known, steps.cutter[theirs], 0)], steps.cutter[theirs] - 100
        )
        wrong |= np.abs(found - _in_force(program, "cutter")[mine]) > np.where(known, 0.01, 0.51)
        wrong |= ~steps.on[theirs]
    return wrong


def _stops_otherwise(steps: Steps, program: Program, theirs: Ints, mine: Ints) -> int:
    """How many stops of a program are not where it has them, or are more than it has."""
    if not program.machine.dialect.stop.strip():
        return 0
    wanted = np.searchsorted(mine, [event.at for event in program.events if event.what == "stop"])
    found = np.searchsorted(theirs, [at for at, _ in steps.stops])
    return len(set(wanted.tolist()) ^ set(found.tolist())) + abs(len(wanted) - len(found))


def _in_force(program: Program, what: str) -> Floats:
    """(m,) the value of the last event of a kind before each move; 0 before the first."""
    values = np.zeros(len(program))
    for event in program.events:
        if event.what == what:
            values[event.at :] = event.value
    return values


def _worked(steps: Steps, program: Program) -> Ints:
    """The moves at work; a router's straight ways down are none."""
    if not program.machine.traits.lowers:
        return np.flatnonzero(steps.on & ~steps.rapid)
    return np.flatnonzero(~steps.rapid & ~_straight_down(steps))


def _straight_down(steps: Steps) -> Bools:
    """Which moves lead down, or up, and nowhere else (m,)."""
    away: Bools = (
        (steps.turn == 0)
        & (norms(steps.to[:, :2] - steps.begins[:, :2]) == 0)
        & (steps.to[:, 2] != steps.begins[:, 2])
    )
    return away


def ending_of(path: Path) -> str:
    """Which language a program's file name asks for.

    Raises
    ------
    FormatError : where that is none.
    """
    ending = path.suffix.lower().removeprefix(".")
    if ending not in ENDINGS:
        raise FormatError(
            f"a program's file name must end in {' or '.join(f'.{each}' for each in ENDINGS)}, got {path.name!r}"
        )
    return ending
