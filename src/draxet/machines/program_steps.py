"""The steps of a program as a value, and their reading as it goes on."""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Sequence

import numpy as np

from draxet.cached import cached_property
from draxet.geometry.arrays import Bools, Floats, Ints, Points, norms
from draxet.job.dialect import Dialect
from draxet.job.program import CUT_WIDTH
from draxet.record import record

__all__ = ["Problem", "StepReading", "Steps"]

_USUAL = frozenset({"M0", "M00", "M1", "M01", "M3", "M4", "M5", "M6", "M7", "M8", "M9"})

_MOST_PROBLEMS = 500
_MOST_WIDTH = 1000.0
_WIDTH = re.compile(rf"{CUT_WIDTH}: (\d{{1,6}}(?:\.\d{{1,6}})?) mm$")


@record(frozen=True)
class Problem:
    """What is wrong in a program, and in which line (from 1)."""

    line: int
    words: str


@record(frozen=True, eq=False)
class Steps:
    """m moves as a controller makes them, from the origin on: `to` (m, 3) where each ends in mm,
    `centre` (m, 2) and `turn` (m,) of arcs, `rapid` (m,), `feed` (m,) in mm a minute, `on` (m,)
    whether beam, torch, spindle or pen is, `power` (m,) as it was written, `air` (m,), `cutter` (m,),
    `width` (m,) in mm of a cut as the file says it (0 where it says nothing), `line` (m,) of the text from 1, `inches` (m,) whether lengths were in inches.
    waits : seconds before a move, by its number. stops : of each the number of the move before
    which it waits for somebody, and what the file says there. remarks : of each comment its line and words.
    lines : the text. problems : what could not be followed."""

    to: Points
    centre: Points
    turn: Floats
    rapid: Bools
    feed: Floats
    on: Bools
    power: Floats
    air: Bools
    cutter: Ints
    width: Floats
    line: Ints
    inches: Bools
    waits: dict[int, float]
    stops: tuple[tuple[int, str], ...]
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


class StepReading:
    """The modal state of a controller, and the moves that it made."""

    def __init__(self, dialect: Dialect) -> None:
        words = (
            (dialect.on, "on"),
            (dialect.off, "off"),
            (dialect.air_on, "air on"),
            (dialect.air_off, "air off"),
            (dialect.change, "change"),
            (dialect.stop, "stop"),
        )
        self.own = [
            (_own_word(word), what)
            for word, what in words
            if word.strip() and word.strip().upper() not in _USUAL
        ]
        """The words that only this machine has, and what they do."""
        self.at = [0.0, 0.0, 0.0]
        self.scale, self.absolute, self.motion = 1.0, True, 0
        self.feed, self.power, self.on, self.air, self.cutter = 0.0, 0.0, False, False, 0
        self.width = 0.0
        self.rows: list[tuple[float, ...]] = []
        self.waits: dict[int, float] = {}
        self.stops: list[tuple[int, str]] = []
        self.remarks: list[tuple[int, str]] = []
        self.problems: list[Problem] = []
        self.ended = False

    def wrong(self, line: int, words: str) -> None:
        if len(self.problems) < _MOST_PROBLEMS:
            self.problems.append(Problem(line, words))

    def remark(self, line: int, words: str) -> None:
        """What a file says; of a cut, how broad it is."""
        self.remarks.append((line, words))
        if said := _WIDTH.match(words):
            self.width = min(float(said[1]), _MOST_WIDTH)

    def stop(self, line: int) -> None:
        """It waits for somebody, who reads what stands there or in the line before."""
        at, words = self.remarks[-1] if self.remarks else (0, "")
        said = words.removeprefix("stop:").strip() if at >= line - 1 else ""
        self.stops.append((len(self.rows), said))

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
                self.cutter,
                self.width,
                line,
                self.scale != 1.0,
            )
        )
        self.at = list(to)

    def steps(self, lines: Sequence[str]) -> Steps:
        rows = np.array(self.rows, dtype=np.float64).reshape(-1, 15)
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
            rows[:, 12],
            rows[:, 13].astype(np.int64),
            rows[:, 14] > 0,
            self.waits,
            tuple(self.stops),
            tuple(self.remarks),
            tuple(lines),
            tuple(self.problems),
        )


def _own_word(word: str) -> re.Pattern[str]:
    return re.compile(rf"(?<![A-Z0-9.]){re.escape(word.strip())}(?![0-9.])", re.IGNORECASE)
