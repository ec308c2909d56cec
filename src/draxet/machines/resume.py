"""Going on with a run that was broken off: a program that begins safely at a line of work, and is
the same from there on."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from draxet.machines.rehearsal_records import Rehearsal

__all__ = ["resumed"]

_INCH = 25.4


def resumed(run: Rehearsal, move: int) -> str:
    """The text of a program that goes on from the line of work in which a move lies, or that
    follows it.

    Units, tool, spindle and air are set as they were; it travels to where that line begins, high
    above the sheet; from there on the lines are those that were read.

    Raises
    ------
    ValueError : where nothing is worked from there on.
    """
    steps, machine = run.steps, run.machine
    later = np.flatnonzero(run.work[move:])
    if not len(later):
        raise ValueError("nothing is worked from there on; choose an earlier moment")
    at = move + int(later[0])
    first = int(np.flatnonzero(run.run == run.run[at])[0])
    before = int(steps.line[first - 1]) if first else 0
    while (
        first and steps.line[first] == before
    ):  # several moves in one line of text: that one is run whole
        first -= 1
        before = int(steps.line[first - 1]) if first else 0
    if machine.traits.lowers:  # the straight way down belongs to the line of work
        while first and not steps.rapid[first - 1]:
            first -= 1
        before = int(steps.line[first - 1]) if first else 0
    x, y = machine.to_motors(steps.begins[first : first + 1, :2])[0].tolist()
    if steps.lines and steps.lines[0].strip().upper().startswith("IN"):
        head = [
            "IN;",
            f"SP{int(steps.cutter[first])};",
            f"VS{steps.feed[first] / 600:g};",
            f"PU{round(x / 0.025)},{round(y / 0.025)};",
        ]
    else:
        head = list(_head(run, first, x, y))
    return "\n".join([*head, *steps.lines[before:]]) + "\n"


def _head(run: Rehearsal, first: int, x: float, y: float) -> Iterator[str]:
    steps, machine, dialect = run.steps, run.machine, run.machine.dialect
    inches = bool(steps.inches[first])
    scale = 1 / _INCH if inches else 1.0
    yield f"{'G20' if inches else 'G21'} G90 G17"
    if machine.traits.lowers:
        top = 0.0 if run.stock.zero == "top" else run.stock.thickness
        yield f"G0 Z{(top + machine.safe_height) * scale:.4f}"
    if steps.cutter[first]:
        yield f"T{int(steps.cutter[first])} {dialect.change}"
    if machine.traits.lowers:
        yield (
            f"{dialect.on} S{steps.power[first]:g}" if steps.power[first] > 0 else dialect.on
        )  # S0 would stop a spindle that is set by hand
    if steps.air[first]:
        yield dialect.air_on
    yield f"G0 X{x * scale:.4f} Y{y * scale:.4f}"
    yield f"G1 F{max(float(steps.feed[first]), 1.0) * scale:.4f}"
