"""How many moves a second a program asks of its machine."""

from __future__ import annotations

import math
from dataclasses import replace
from functools import partial

import numpy as np

from draxet.geometry.arrays import Floats, Ints
from draxet.job.findings import Finding, Gravity
from draxet.job.machine_kinds import RunMachine
from draxet.job.operating import choose_machine, set_machine
from draxet.job.program import Program
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet

__all__ = ["moves_a_second", "moves_too_quick"]

_WITHIN_S = 0.2
"""So long a controller goes by what it has read before."""


def moves_a_second(program: Program) -> tuple[float, int]:
    """The most moves a second that its work asks for, over a fifth of a second, and the number of
    the move at which that begins. Each line speeds up from rest and slows down, as far as the
    machine can."""
    if not program.work.any():
        return 0.0, 0
    some = np.flatnonzero(program.work)
    ends = np.cumsum(_seconds(program, some))
    starts = np.append(0.0, ends[:-1])
    until = np.searchsorted(ends, starts + _WITHIN_S, side="right")
    counts = until - np.arange(len(some))
    k = int(counts.argmax())
    return float(counts[k]) / _WITHIN_S, int(some[k])


def _seconds(program: Program, some: Ints) -> Floats:
    """What each move at work takes (n,), as it comes to speed along its line."""
    long, speed = program.lengths[some], program.feed[some] / 60.0
    path = program.path[some]
    along = np.cumsum(long)
    begins = np.append(True, path[1:] != path[:-1])
    first = np.maximum.accumulate(np.where(begins, np.arange(len(some)), 0))
    last = np.append(np.flatnonzero(begins)[1:] - 1, len(some) - 1)[np.cumsum(begins) - 1]
    gone = along - long / 2 - (along[first] - long[first])
    left = along[last] - along + long / 2
    reached = np.sqrt(2 * program.machine.acceleration * np.minimum(gone, left))
    return np.asarray(long / np.maximum(np.minimum(speed, reached), 1e-9))


def moves_too_quick(job: Job, sheet: Sheet, program: Program) -> list[Finding]:
    """A program that asks for more moves a second than its machine takes: it would stutter, and
    burn where it waits."""
    machine = program.machine
    most, at = moves_a_second(program)
    if not isinstance(machine, RunMachine) or most <= machine.most_moves:
        return []
    feed = float(program.feed[at])
    step = math.ceil(100 * max(feed / 60.0 / machine.most_moves, machine.least_step * 1.25)) / 100
    x, y = (program.beginnings[at] + sheet.origin_place).tolist()
    path = int(program.path[at])
    words = f"The program asks for {most:.0f} moves a second, the {machine.name.lower()} takes {machine.most_moves:g}: it would stutter"
    return [
        Finding(
            f"moves-{sheet.id}",
            words,
            Gravity.WARNS,
            "make",
            program.ids[path] if path >= 0 else (),
            ((x, y),),
            partial(_with_step, sheet_id=sheet.id, machine=machine, step=step),
            f"Least step {step:g} mm",
        )
    ]


def _with_step(job: Job, sheet_id: str, machine: RunMachine, step: float) -> Job:
    job = set_machine(job, replace(machine, least_step=step))
    return choose_machine(job, sheet_id, machine.id)
