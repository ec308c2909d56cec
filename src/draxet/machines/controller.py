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
from bisect import bisect_right
from collections.abc import Sequence

import numpy as np

from draxet.cached import cached_property
from draxet.geometry.arrays import Bools, Floats, Ints, Points, norms
from draxet.job.dialect import Dialect
from draxet.outside import OutsideError, sane
from draxet.record import record

__all__ = ["Problem", "Steps", "read_program"]

_INCH = 25.4
_USUAL = frozenset({"M3", "M4", "M5", "M6", "M7", "M8", "M9"})
_PLOTTER_STEP = 0.025
_ARC_FITS = 0.02
"""mm: so far an arc's two radii may differ."""
_MOST_LINES = 5_000_000
_MOST_PROBLEMS = 500
_WORD = re.compile(r"([A-Za-z])\s*([+-]?(?:\d+\.?\d*|\.\d+))")
_LETTERS = "GMNXYZIJRFSTPO"
_PLAIN = re.compile(r"G([01]) X(-?\d+\.?\d*) Y(-?\d+\.?\d*)(?: F(\d+\.?\d*))?$")
_FARTHEST = 1e6
_LONG = 9
"""Letters of a number that is looked at before it is believed."""
_REMARK = re.compile(r"\([^()]*\)|;.*$")
_PLOTTER = re.compile(r"\s*([A-Za-z]{2})([^;A-Za-z]*);?")


@record(frozen=True)
class Problem:
    """What is wrong in a program, and in which line (from 1)."""

    line: int
    words: str


@record(frozen=True, eq=False)
class Steps:
    """m moves as a controller makes them, from the origin on: `to` (m, 3) where each ends in mm,
    `centre` (m, 2) and `turn` (m,) of arcs, `rapid` (m,), `feed` (m,) in mm a minute, `on` (m,)
    whether beam, torch, spindle or pen is, `power` (m,) as it was written, `air` (m,), `tool` (m,),
    `line` (m,) of the text from 1, `inches` (m,) whether lengths were in inches.
    waits : seconds before a move, by its number. remarks : of each comment its line and words.
    lines : the text. problems : what could not be followed."""

    to: Points
    centre: Points
    turn: Floats
    rapid: Bools
    feed: Floats
    on: Bools
    power: Floats
    air: Bools
    tool: Ints
    line: Ints
    inches: Bools
    waits: dict[int, float]
    remarks: tuple[tuple[int, str], ...]
    lines: tuple[str, ...]
    problems: tuple[Problem, ...]

    def __len__(self) -> int:
        return len(self.to)

    @cached_property
    def begins(self) -> Points:
        """Where each begins (m, 3)."""
        return np.vstack([np.zeros((1, 3)), self.to[:-1]]) if len(self.to) else np.zeros((0, 3))

    @cached_property
    def lengths(self) -> Floats:
        """How long each is (m,), in mm, along its arc and its height."""
        begins = self.begins
        level = np.where(
            self.turn != 0,
            norms(begins[:, :2] - self.centre) * np.abs(self.turn),
            norms(self.to[:, :2] - begins[:, :2]),
        )
        found: Floats = np.hypot(level, self.to[:, 2] - begins[:, 2])
        return found

    def remark(self, line: int) -> str:
        """What the file said last, up to a line; "" where it said nothing."""
        k = bisect_right(self.remarks, line, key=lambda remark: remark[0])
        return self.remarks[k - 1][1] if k else ""


class _Reading:
    """The modal state of a controller, and the moves that it made."""

    def __init__(self, dialect: Dialect) -> None:
        words = (
            (dialect.on, "on"),
            (dialect.off, "off"),
            (dialect.air_on, "air on"),
            (dialect.air_off, "air off"),
            (dialect.change, "change"),
        )
        self.own = [
            (_own_word(word), what)
            for word, what in words
            if word.strip() and word.strip().upper() not in _USUAL
        ]
        """The words that only this machine has, and what they do."""
        self.at = [0.0, 0.0, 0.0]
        self.scale, self.absolute, self.motion = 1.0, True, 0
        self.feed, self.power, self.on, self.air, self.tool = 0.0, 0.0, False, False, 0
        self.rows: list[tuple[float, ...]] = []
        self.waits: dict[int, float] = {}
        self.remarks: list[tuple[int, str]] = []
        self.problems: list[Problem] = []
        self.ended = False

    def wrong(self, line: int, words: str) -> None:
        if len(self.problems) < _MOST_PROBLEMS:
            self.problems.append(Problem(line, words))

    def go(
        self,
        line: int,
        to: Sequence[float],
        centre: Sequence[float] = (0.0, 0.0),
        turn: float = 0.0,
    ) -> None:
        rapid = self.motion == 0
        self.rows.append(
            (
                *to,
                *centre,
                turn,
                rapid,
                self.feed,
                self.on,
                self.power,
                self.air,
                self.tool,
                line,
                self.scale != 1.0,
            )
        )
        self.at = list(to)

    def steps(self, lines: Sequence[str]) -> Steps:
        rows = np.array(self.rows, dtype=np.float64).reshape(-1, 14)
        return Steps(
            rows[:, :3],
            rows[:, 3:5],
            rows[:, 5],
            rows[:, 6] > 0,
            rows[:, 7],
            rows[:, 8] > 0,
            rows[:, 9],
            rows[:, 10] > 0,
            rows[:, 11].astype(np.int64),
            rows[:, 12].astype(np.int64),
            rows[:, 13] > 0,
            self.waits,
            tuple(self.remarks),
            tuple(lines),
            tuple(self.problems),
        )


def _own_word(word: str) -> re.Pattern[str]:
    return re.compile(rf"(?<![A-Z0-9.]){re.escape(word.strip())}(?![0-9.])", re.IGNORECASE)


def read_program(text: str, dialect: Dialect | None = None) -> Steps:
    """The moves of a program's text, in either language; `dialect` has the words that its machine
    alone knows."""
    lines = text.splitlines()
    reading = _Reading(dialect or Dialect())
    if len(lines) > _MOST_LINES:
        reading.wrong(_MOST_LINES, f"the program has over {_MOST_LINES:,} lines")
        lines = lines[:_MOST_LINES]
    if re.match(r"\s*(IN|PU|PD|SP|PA)[;\d ,]", text[:200]):
        _read_plotter(lines, reading)
        return reading.steps(lines)
    for number, line in enumerate(lines, 1):
        if (plain := _PLAIN.match(line)) is not None and reading.absolute and not reading.ended:
            _go_plainly(plain, number, reading)
            continue
        if reading.ended and line.strip() and line.strip() != "%":
            reading.wrong(number, "there is more after the end of the program")
            break
        _read_line(line, number, reading)
    if not reading.ended:
        reading.wrong(len(lines), "the program has no end (M2 or M30)")
    return reading.steps(lines)


def _go_plainly(plain: re.Match[str], number: int, state: _Reading) -> None:
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


def _read_line(line: str, number: int, state: _Reading) -> None:
    for found in _REMARK.finditer(line):
        state.remarks.append((number, found[0].strip("();").strip()))
    rest = _without_own_words(_REMARK.sub(" ", line), state).strip()
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
        state.tool = int(values["T"])
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


def _without_own_words(line: str, state: _Reading) -> str:
    """What else stands in a line, once the words that only this machine has are done."""
    for word, what in state.own:
        line, found = word.subn(" ", line)
        if found and what != "change":
            on = what in ("on", "air on")
            state.on, state.air = (on, state.air) if what in ("on", "off") else (state.on, on)
    return line


def _prepared(value: float, number: int, state: _Reading) -> None:
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


def _switched(value: float, number: int, state: _Reading) -> None:
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
        case 0 | 1 | 6:
            pass
        case _:
            state.wrong(number, f"M{value:g} is not known here")


def _moved(values: dict[str, float], number: int, state: _Reading) -> None:
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
    values: dict[str, float], to: Sequence[float], number: int, state: _Reading
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


def _read_plotter(lines: Sequence[str], state: _Reading) -> None:
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


def _plotted(word: str, rest: str, number: int, state: _Reading) -> None:
    try:
        values = [sane(each, word) for each in rest.replace(",", " ").split()]
    except OutsideError as error:
        state.wrong(number, str(error))
        return
    match word:
        case "IN":
            state.on, state.absolute = False, True
        case "SP":
            state.tool = int(values[0]) if values else 0
        case "VS":
            state.feed = values[0] * 600.0 if values else 0.0  # given in cm a second
        case "PA" | "PR":
            state.absolute = word == "PA"
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
