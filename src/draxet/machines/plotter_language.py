"""A plotter's language, read."""

from __future__ import annotations

import re
from collections.abc import Sequence

from draxet.machines.program_steps import StepReading
from draxet.outside import OutsideError, sane

__all__ = ["read_plotter"]

_PLOTTER_STEP = 0.025

_PLOTTER = re.compile(r"\s*([A-Za-z]{2})([^;A-Za-z]*);?")


def read_plotter(lines: Sequence[str], state: StepReading) -> None:
    """The language of pens: up and down, to places in steps, and which pen."""
    state.motion, state.feed, state.power = 0, 0.0, 100.0
    for number, line in enumerate(lines, 1):
        at = 0
        while at < len(line.rstrip()):
            found = _PLOTTER.match(line, at)
            if found is None:
                state.wrong(number, f"{line[at : at + 20]!r} cannot be read")
                break
            at = found.end()
            _plotted(found[1].upper(), found[2], number, state)
    state.ended = True


def _plotted(word: str, rest: str, number: int, state: StepReading) -> None:
    try:
        values = [sane(each, word) for each in rest.replace(",", " ").split()]
    except OutsideError as error:
        state.wrong(number, str(error))
        return
    match word:
        case "IN":
            state.on, state.absolute = False, True
        case "SP":
            state.cutter = int(values[0]) if values else 0
        case "VS":
            state.feed = values[0] * 600.0 if values else 0.0  # given in cm a second
        case "PA" | "PR":
            state.absolute = word == "PA"
        case "NR":
            state.stop(number)
        case "PU" | "PD":
            state.on = word == "PD"
        case _:
            state.wrong(number, f"{word} is not known here")
            return
    if word in ("PA", "PR", "PU", "PD") and values:
        if len(values) % 2:
            state.wrong(number, f"{word} wants places of two numbers each")
            return
        state.motion = 1 if state.on else 0
        for x, y in zip(values[::2], values[1::2], strict=True):
            base = (0.0, 0.0) if state.absolute else state.at
            state.go(number, (x * _PLOTTER_STEP + base[0], y * _PLOTTER_STEP + base[1], 0.0))
