"""Programs in the open numeric-control language (ISO 6983, RS-274): plain words, counted from the
sheet's origin.

What differs from machine to machine stands in its ``Dialect``. A router goes by depths, a plasma
table by pierces, a laser and a pen by what is on.
"""

from __future__ import annotations

import math
import unicodedata
from collections.abc import Iterator

import numpy as np

from draxet.job.layout_names import called
from draxet.job.program import CUT_WIDTH, Event, Program
from draxet.record import record

__all__ = ["About", "numeric_text"]

_INCH = 25.4
_MOST_NUMBERS = 100_000
"""The language's own bound; numbers begin anew there."""


@record(frozen=True)
class About:
    """What a program is for: the job's and the sheet's name, its material, size (mm), thickness,
    what height counts from (``top`` or ``bed``), where its origin is, the names of the operations by
    their ids, and how broad the cuts of those that cut through are (mm)."""

    job: str
    sheet: str
    material: str
    width: float
    height: float
    thickness: float
    zero: str
    origin: str
    operations: dict[str, str]
    widths: dict[str, float]


def numeric_text(program: Program, about: About) -> str:
    """A program as text, a line for each step."""
    lines = list(_Writer(program, about).lines())
    if program.machine.dialect.numbers:
        lines = [
            f"N{number % _MOST_NUMBERS} {line}" if not line.startswith(("(", ";", "%")) else line
            for number, line in enumerate(lines, 1)
        ]
    return "\n".join(lines) + "\n"


def _plain(value: float, decimals: int) -> str:
    number = f"{value:.{decimals}f}"
    number = number.rstrip("0").rstrip(".") if "." in number else number
    return "0" if number in ("-0", "") else number


class _Writer:
    def __init__(self, program: Program, about: About) -> None:
        self.program, self.about, self.machine, self.dialect = (
            program,
            about,
            program.machine,
            program.machine.dialect,
        )
        self.scale = 1 / _INCH if self.dialect.inches else 1.0
        self.feed, self.depth, self.up, self.turns = -1.0, 0.0, False, False
        self.place: list[str] = []

    def lines(self) -> Iterator[str]:
        yield from self._head()
        events: dict[int, list[Event]] = {}
        for event in self.program.events:
            events.setdefault(event.at, []).append(event)
        p = self.program
        path, width = -1, 0.0
        to = self.machine.to_motors(p.to).tolist()
        centre, begins = p.centre.tolist(), p.beginnings.tolist()
        for k, (turn, work) in enumerate(zip(p.turn.tolist(), p.work.tolist(), strict=True)):
            for event in events.get(k, ()):
                if event.what == "off":
                    yield from self._event(event)
            if work and p.path[k] != path:
                path, operation = int(p.path[k]), p.operations[p.operation[k]]
                if (wide := self.about.widths.get(operation, width)) != width:
                    width = wide
                    yield from self._remark(f"{CUT_WIDTH}: {width:g} mm")
                yield from self._remark(
                    f"{path + 1} {self.about.operations.get(operation, operation)}: {' '.join(map(called, p.ids[path][:4]))}"
                )
            for event in events.get(k, ()):
                if event.what != "off":
                    yield from self._event(event)
            if not work:
                yield from self._raised()
                yield self._move(
                    "G0" if p.feed[k] >= self.machine.travel else "G1",
                    to[k],
                    None if p.feed[k] >= self.machine.travel else float(p.feed[k]),
                )
                continue
            yield from self._lowered(float(p.depth_from[k]), float(p.feed[k]))
            z = float(p.depth[k]) if p.depth[k] != p.depth_from[k] else None
            word = "G1" if not turn else "G3" if turn > 0 else "G2"
            yield self._move(
                word, to[k], float(p.feed[k]), z, (centre[k], begins[k]) if turn else None
            )
        for event in events.get(len(p), ()):
            yield from self._event(event)
        yield from self._foot()

    # --- before and after

    def _head(self) -> Iterator[str]:
        a, m = self.about, self.machine
        low, high = self.program.box[:2], self.program.box[2:]
        for words in (
            f"{a.job} - {a.sheet}",
            f"machine: {m.name}",
            f"material: {a.material}, {a.thickness:g} mm, sheet {a.width:g} x {a.height:g} mm",
            f"zero: {a.origin}, height from the {a.zero}",
            f"work: {low[0]:.2f} {low[1]:.2f} to {high[0]:.2f} {high[1]:.2f} mm",
            f"time: {self.program.seconds / 60:.1f} min",
            f"units: {'inch' if self.dialect.inches else 'mm'}",
        ):
            yield from self._remark(words)
        yield from (line for line in self.dialect.start.splitlines() if line.strip())
        yield f"{'G20' if self.dialect.inches else 'G21'} G90 G17"

    def _foot(self) -> Iterator[str]:
        yield from self._raised()
        if self.machine.traits.lowers:
            yield self.dialect.off
        x, y = self.machine.to_motors(np.zeros((1, 2)))[0].tolist()
        yield f"G0 X{self._number(x)} Y{self._number(y)}"
        yield from (line for line in self.dialect.end.splitlines() if line.strip())

    # --- in between

    def _event(self, event: Event) -> Iterator[str]:
        what, value, router = event.what, event.value, self.machine.traits.lowers
        if what == "on" and not router:
            yield (
                f"{self.dialect.on} S{_plain(value / 100 * self.machine.power_scale, 1)}"
                if self.machine.traits.has_power
                else self.dialect.on
            )
        elif what == "off" and not router:
            yield self.dialect.off
        elif what == "stop":
            yield from self._stop(event.words)
        elif what == "pierce":
            yield f"G4 P{value:g}"
        elif what == "air":
            yield self.dialect.air_on if value else self.dialect.air_off
        elif what == "cutter":
            yield from self._raised()
            yield self.dialect.off
            number = next(
                (
                    n
                    for n, cutter in enumerate(self.machine.cutters, 1)
                    if abs(cutter.diameter - value) <= 0.01
                ),
                0,
            ) or 100 + round(value)
            yield from self._remark(f"tool {number}: {value:g} mm")
            yield f"T{number} {self.dialect.change}"
            yield from self._turning()
        elif what == "pen":
            yield f"T{int(value)} {self.dialect.change}"

    def _stop(self, words: str) -> Iterator[str]:
        """Everything is off, and it waits; a tool that turned does so again."""
        yield from self._raised()
        if self.turns:
            yield self.dialect.off
        yield from self._remark(f"stop: {words}")
        if self.dialect.stop:
            yield self.dialect.stop
        if self.turns:
            yield from self._turning()

    def _turning(self) -> Iterator[str]:
        self.turns = True
        yield (
            f"{self.dialect.on} S{_plain(self.machine.spindle, 0)}"
            if self.machine.spindle
            else self.dialect.on
        )

    def _raised(self) -> Iterator[str]:
        if self.machine.traits.lowers and not self.up:
            self.up = True
            yield f"G0 Z{self._number(self._height(-self.machine.safe_height))}"

    def _lowered(self, depth: float, feed: float) -> Iterator[str]:
        """Straight down to where a move of a feed begins, no faster than that or than the machine
        plunges; also from the end of one pass to the next one."""
        if self.machine.traits.lowers and (self.up or depth != self.depth):
            down = min(self.machine.plunge, feed)
            words = f" F{self._number(down)}" if self.up or self.feed != down else ""
            self.up, self.feed, self.depth = False, down, depth
            yield f"G1 Z{self._number(self._height(depth))}{words}"

    def _height(self, depth: float) -> float:
        """Where a depth lies, counted from what heights count from."""
        return -depth if self.about.zero == "top" else self.about.thickness - depth

    def _move(
        self,
        word: str,
        to: list[float],
        feed: float | None,
        depth: float | None = None,
        arc: tuple[list[float], list[float]] | None = None,
    ) -> str:
        place = [f"X{self._number(to[0])}", f"Y{self._number(to[1])}"]
        if (
            arc is not None and place == self.place and math.dist(to, arc[1]) < math.dist(*arc)
        ):  # so short that it would read as a whole circle
            word, arc = "G1", None
        self.place = place
        parts = [word, *place]
        if depth is not None and self.machine.traits.lowers:
            parts.append(f"Z{self._number(self._height(depth))}")
            self.depth = depth
        if arc is not None:
            (cx, cy), (x, y) = arc
            parts += [f"I{self._number(cx - x)}", f"J{self._number(cy - y)}"]
        if feed is not None and feed != self.feed:
            self.feed = feed
            parts.append(f"F{self._number(feed)}")
        return " ".join(parts)

    def _number(self, value: float) -> str:
        """A length or a speed."""
        return _plain(value * self.scale, self.dialect.decimals)

    def _remark(self, words: str) -> Iterator[str]:
        plain = (
            unicodedata.normalize("NFKD", words)
            .encode("ascii", "ignore")
            .decode()
            .replace("(", "[")
            .replace(")", "]")
            .replace(";", ",")
        )
        plain = " ".join(plain.split())
        if self.dialect.remarks == "(…)":
            yield f"({plain})"
        elif self.dialect.remarks == "; …":
            yield f"; {plain}"
