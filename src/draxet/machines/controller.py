"""A simulated controller: reads a program as it was written, line by line, and knows nothing of the
job that it came from.

The open numeric-control language (ISO 6983, RS-274): straight moves and arcs in the level plane,
absolute or relative, mm or inches, dwell, spindle or beam, air, tools and comments. The plotter
language of pens (PU, PD, PA, PR, SP, in steps of 0.025 mm) is read as well. What cannot be read is
told with its line.
"""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from draxet.job.dialect import Dialect
from draxet.job.machine_kinds import Machine
from draxet.machines.plotter_language import read_plotter
from draxet.machines.program_steps import StepReading, Steps
from draxet.outside import OutsideError, sane

__all__ = ["read_program", "steps_on"]

_INCH = 25.4

_ARC_FITS = 0.02
"""mm: so far an arc's two radii may differ."""

_MOST_LINES = 5_000_000

_WORD = re.compile(r"([A-Za-z])\s*([+-]?(?:\d+\.?\d*|\.\d+))")

_LETTERS = "GMNXYZIJRFSTPO"

_PLAIN = re.compile(r"G([01]) X(-?\d+\.?\d*) Y(-?\d+\.?\d*)(?: F(\d+\.?\d*))?$")

_FARTHEST = 1e6

_LONG = 9
"""Letters of a number that is looked at before it is believed."""

_REMARK = re.compile(r"\([^()]*\)|;.*$")


def read_program(text: str, dialect: Dialect | None = None) -> Steps:
    """The moves of a program's text, in either language; `dialect` has the words that its machine
    alone knows."""
    lines = text.splitlines()
    reading = StepReading(dialect or Dialect())
    if len(lines) > _MOST_LINES:
        reading.wrong(_MOST_LINES, f"the program has over {_MOST_LINES:,} lines")
        lines = lines[:_MOST_LINES]
    if re.match(r"\s*(IN|PU|PD|SP|PA)[;\d ,]", text[:200]):
        read_plotter(lines, reading)
        return reading.steps(lines)
    for number, line in enumerate(lines, 1):
        if not line or line.isspace():
            continue
        if (plain := _PLAIN.match(line)) is not None and reading.absolute and not reading.ended:
            _go_plainly(plain, number, reading)
            continue
        if reading.ended and line.strip() != "%":
            reading.wrong(number, "there is more after the end of the program")
            break
        _read_line(line, number, reading)
    if not reading.ended:
        reading.wrong(len(lines), "the program has no end (M2 or M30)")
    return reading.steps(lines)


def steps_on(text: str, machine: Machine) -> Steps:
    """The moves of a program's text where a machine makes them on the sheet: what its motors are
    told, as places."""
    steps = read_program(text, machine.dialect)
    places = machine.from_motors(steps.to[:, :2])
    return replace(steps, to=np.column_stack([places, steps.to[:, 2]]))


def _go_plainly(plain: re.Match[str], number: int, state: StepReading) -> None:
    """The straight move of which most lines consist, without further ado."""
    kind, x, y, feed = plain.groups()
    if feed and len(feed) > _LONG:
        _read_line(plain[0], number, state)
        return
    to = float(x) * state.scale, float(y) * state.scale
    if abs(to[0]) > _FARTHEST or abs(to[1]) > _FARTHEST:
        state.wrong(number, "the move leads farther than a kilometre")
        return
    state.motion = 0 if kind == "0" else 1
    if feed:
        state.feed = float(feed) * state.scale
    state.go(number, (*to, state.at[2]))


def _read_line(line: str, number: int, state: StepReading) -> None:
    for found in _REMARK.finditer(line):
        state.remark(number, found[0].strip("();").strip())
    rest = _without_own_words(_REMARK.sub(" ", line), number, state).strip()
    if not rest or rest in ("%", "/"):
        return
    try:
        found_words = ((letter.upper(), value) for letter, value in _WORD.findall(rest))
        words = [(letter, sane(value, letter)) for letter, value in found_words]
    except OutsideError as error:
        state.wrong(number, str(error))
        return
    if left := _WORD.sub("", rest).strip():
        state.wrong(number, f"{left[:20]!r} cannot be read")
        return
    if strange := next((letter for letter, _ in words if letter not in _LETTERS), ""):
        state.wrong(number, f"the word {strange} is not known here")
        return
    values = {letter: value for letter, value in words if letter not in "GMN"}
    dwell = False
    for letter, value in words:
        if letter == "G":
            dwell |= value == 4
            _prepared(value, number, state)
    if "F" in values:
        state.feed = values["F"] * state.scale
    if "S" in values:
        state.power = values["S"]
    if "T" in values:
        state.cutter = int(values["T"])
    for letter, value in words:
        if letter == "M":
            _switched(value, number, state)
    if dwell:
        waited = state.waits.get(len(state.rows), 0.0)
        state.waits[len(state.rows)] = waited + max(values.get("P", 0.0), 0.0)
    elif any(axis in values for axis in "XYZ") or (
        state.motion in (2, 3) and any(axis in values for axis in "IJR")
    ):
        _moved(values, number, state)


def _without_own_words(line: str, number: int, state: StepReading) -> str:
    """What else stands in a line, once the words that only this machine has are done."""
    for word, what in state.own:
        line, found = word.subn(" ", line)
        if found and what == "stop":
            state.stop(number)
        elif found and what != "change":
            on = what in ("on", "air on")
            state.on, state.air = (on, state.air) if what in ("on", "off") else (state.on, on)
    return line


def _prepared(value: float, number: int, state: StepReading) -> None:
    """A word G."""
    match value:
        case 0 | 1 | 2 | 3:
            state.motion = int(value)
        case 20 | 21:
            state.scale = _INCH if value == 20 else 1.0
        case 90 | 91:
            state.absolute = value == 90
        case 4 | 17 | 40 | 49 | 54 | 61 | 64 | 80 | 94:
            pass
        case _:
            state.wrong(number, f"G{value:g} is not known here")


def _switched(value: float, number: int, state: StepReading) -> None:
    """A word M."""
    match value:
        case 3 | 4:
            state.on = True
        case 5:
            state.on = False
        case 7 | 8 | 9:
            state.air = value != 9
        case 2 | 30:
            state.on, state.ended = False, True
        case 0 | 1:
            state.stop(number)
        case 6:
            pass
        case _:
            state.wrong(number, f"M{value:g} is not known here")


def _moved(values: dict[str, float], number: int, state: StepReading) -> None:
    to = [
        (values[axis] * state.scale + (0.0 if state.absolute else state.at[k]))
        if axis in values
        else state.at[k]
        for k, axis in enumerate("XYZ")
    ]
    if any(abs(value) > _FARTHEST for value in to):
        state.wrong(number, "the move leads farther than a kilometre")
        return
    if state.motion < 2:
        state.go(number, to)
        return
    found = _arc(values, to, number, state)
    if found is None:
        state.go(number, to)
        return
    centre, turn = found
    state.go(number, to, centre, turn)


def _arc(
    values: dict[str, float], to: Sequence[float], number: int, state: StepReading
) -> tuple[tuple[float, float], float] | None:
    """The centre of an arc and the angle that it turns through; told where its ends do not fit."""
    x, y = state.at[:2]
    way = 1.0 if state.motion == 3 else -1.0
    if "R" in values:
        radius, apart = values["R"] * state.scale, math.dist((x, y), to[:2])
        if apart == 0 or apart > 2 * abs(radius) + _ARC_FITS:
            state.wrong(
                number, f"an arc of radius {abs(radius):g} mm does not reach from end to end"
            )
            return None
        lift = (
            math.sqrt(max(radius * radius - apart * apart / 4, 0.0))
            * way
            * (1 if radius > 0 else -1)
        )
        centre = (
            (x + to[0]) / 2 - lift * (to[1] - y) / apart,
            (y + to[1]) / 2 + lift * (to[0] - x) / apart,
        )
    elif "I" in values or "J" in values:
        centre = (x + values.get("I", 0.0) * state.scale, y + values.get("J", 0.0) * state.scale)
    else:
        state.wrong(number, "an arc has neither I, J nor R")
        return None
    first, last = math.dist(centre, (x, y)), math.dist(centre, to[:2])
    if abs(first - last) > _ARC_FITS:
        state.wrong(
            number, f"the ends of an arc do not fit: its radii are {first:.3f} and {last:.3f} mm"
        )
    turn = (
        (
            math.atan2(to[1] - centre[1], to[0] - centre[0])
            - math.atan2(y - centre[1], x - centre[0])
        )
        * way
        % (2 * math.pi)
    )
    if turn < 1e-9 or (math.dist((x, y), to[:2]) < 1e-9 and first > 0):
        turn = 2 * math.pi
    return centre, way * turn
