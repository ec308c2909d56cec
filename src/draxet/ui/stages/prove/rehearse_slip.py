"""The slip of rehearsing: what is played, where it stands, what it tells."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QTimer

from draxet.files import plain_words, reason, write_whole
from draxet.geometry.affine import Affine
from draxet.job.dialect import PROGRAM_ENDINGS
from draxet.job.findings import Finding, Gravity, count_words
from draxet.job.sides import runs_of
from draxet.machines.controller import steps_on
from draxet.machines.rehearsal import rehearse
from draxet.machines.resume import resumed
from draxet.ui.controls.chooser import FileChooser, ask_where
from draxet.ui.controls.fields import Choice
from draxet.ui.controls.slip_parts import allow, button, fact_row, label, side_by_side
from draxet.ui.model.session import Session
from draxet.ui.stages.findings_list import FindingRows
from draxet.ui.stages.prove.rehearse_tool import Answer, RehearseTool
from draxet.ui.stages.prove.stop_rows import StopRows
from draxet.ui.stages.prove.time_line import TimeLine
from draxet.ui.stages.slip import Slip

__all__ = ["RehearseSlip"]

_LARGEST = 200_000_000

_TICK_MS = 40

_SPEEDS = ((1, "1 ×"), (5, "5 ×"), (20, "20 ×"), (200, "200 ×"))

_STEPS = (("move", "a move"), ("line", "a line"), ("part", "a piece"))

_MOST_FOUND = 60


class RehearseSlip(Slip):
    """Play, pause, step, scrub; what is under way, what it takes, and what goes wrong."""

    def __init__(self, session: Session, tool: RehearseTool) -> None:
        super().__init__(
            session,
            tool.title,
            "The file as it is written, on a machine that knows nothing of the job.",
        )
        self._tool = tool
        self._clock = QTimer(self)
        self._clock.setInterval(_TICK_MS)
        self._clock.timeout.connect(self._tick)
        self._speed, self._what = 20, "line"
        self._shown: object = None
        self._waited: float | None = None
        """The moment of the stop at which it waits."""
        self._add_playing()
        self._add_facts()
        self._add_findings()
        self.refresh()

    def _add_playing(self) -> None:
        """What is played, and where it stands."""
        self.play = button("Play", "main", self.apply)
        self.earlier = button("◂ back", "plain", lambda: self._step(-1))
        self.later = button("on ▸", "plain", lambda: self._step(1))
        self.time = TimeLine()
        self.time.moved.connect(self._scrubbed)
        self.speed = Choice([(str(factor), words) for factor, words in _SPEEDS], "Speed")
        self.speed.set_value(str(self._speed))
        self.speed.chosen.connect(self._set_speed)
        self.by = Choice(list(_STEPS), "Steps by")
        self.by.set_value(self._what)
        self.by.chosen.connect(lambda key: setattr(self, "_what", key))
        self.side = Choice([("face", "the face"), ("back", "the back")], "Side of the sheet")
        self.side.chosen.connect(self._set_side)
        self.what = Choice([("work", "the work"), ("frame", "the frame")], "What is played")
        self.what.chosen.connect(self._set_what)
        self.add(
            self.what,
            self.side,
            self.time,
            self.speed,
            side_by_side(self.earlier, self.later),
            self.by,
        )
        self.foot.add(self.play)
        rows = [fact_row(words) for words in ("Now", "Line", "Depth, power")]
        (_, self._now), (_, self._line), (_, self._depth) = rows
        self.add(*(row for row, _ in rows))
        self._text = label("", "value", wrap=True)
        self.add(self._text)

    def _add_facts(self) -> None:
        facts = [
            fact_row(words)
            for words in (
                "Takes",
                "At work, travelling",
                "Beginnings, tools",
                "Pieces come loose",
                "Too much at most",
                "Too little at most",
            )
        ]
        self._facts = [value for _, value in facts]
        self.much, self.little = (
            button("Where too much", "plain", lambda: self._jump(much=True)),
            button("Where too little", "plain", lambda: self._jump(much=False)),
        )
        self.stops = StopRows(self._scrubbed)
        self.add(*(row for row, _ in facts), side_by_side(self.much, self.little), self.stops)

    def _add_findings(self) -> None:
        """What goes wrong, and what else can be played."""
        self.findings = FindingRows(self.session, "Nothing: it can run.")
        self.add(
            label("What goes wrong", "section"),
            self.findings,
            side_by_side(
                button("A file …", "plain", self._choose),
                button("What the job writes", "plain", self._tool.play_job),
            ),
            button("A program from here on …", "plain", self._ask_resumed),
        )

    def leave(self) -> None:
        self._clock.stop()

    # --- playing

    def apply(self) -> None:
        """Play or pause; from the beginning where it is at its end."""
        if self._clock.isActive():
            self._clock.stop()
        elif self._tool.answer is not None:
            if self._tool.seconds >= self._tool.answer.run.seconds:
                self._tool.go(0.0)
            self._clock.start()
        self._show_moment()

    def _tick(self) -> None:
        tool = self._tool
        if tool.answer is None:
            self._clock.stop()
            return
        then = tool.seconds + self._speed * _TICK_MS / 1000
        ahead = (at for at in tool.answer.run.stops if tool.seconds <= at[0] <= then)
        stop = next((each for each in ahead if each[0] != self._waited), None)
        tool.go(stop[0] if stop else then)
        self._waited = stop[0] if stop else None
        if stop:
            self._clock.stop()
            self.session.messages.announced.emit(
                f"The machine waits: {stop[1] or 'a stop'} · Play goes on"
            )
        if tool.seconds >= tool.answer.run.seconds:
            self._clock.stop()
        self._show_moment()

    def _step(self, by: int) -> None:
        self._clock.stop()
        self._tool.step(by, self._what)
        self._show_moment()

    def _scrubbed(self, seconds: float) -> None:
        self._clock.stop()
        self._tool.go(seconds)
        self._show_moment()

    def _set_speed(self, key: str) -> None:
        self._speed = int(key)
        self.speed.set_value(key)

    def _set_what(self, key: str) -> None:
        self._tool.framed = key == "frame"
        self._tool.play_job()

    def _set_side(self, key: str) -> None:
        self._tool.back = key == "back"
        self._tool.play_job()

    def _choose(self) -> None:
        chooser = FileChooser(
            "A program to rehearse",
            [f"Programs ({' '.join(f'*.{each}' for each in PROGRAM_ENDINGS)})", "All files (*)"],
            self,
        )
        chooser.setFileMode(FileChooser.FileMode.ExistingFile)
        chooser.dress()
        if chooser.exec() and chooser.selectedFiles():
            self.open_file(Path(chooser.selectedFiles()[0]))

    def open_file(self, path: Path) -> None:
        """Play a file, whoever wrote it."""
        try:
            if path.stat().st_size > _LARGEST:
                self.session.messages.refused.emit(
                    f"{plain_words(path.name)} is larger than {_LARGEST // 1_000_000} MB; rehearse a part of it."
                )
                return
            text = path.read_text("utf-8-sig", "replace")
        except OSError as error:
            self.session.messages.refused.emit(
                f"{plain_words(path.name)} could not be read: {reason(error)}."
            )
            return
        self._tool.take(plain_words(path.name), text)

    def _ask_resumed(self) -> None:
        job = self.session.job
        folder = self.session.document.path.parent if self.session.document.path else Path.home()
        ending = (
            "plt"
            if self._tool.answer and self._tool.answer.run.steps.lines[:1] == ("IN;",)
            else "nc"
        )
        path = ask_where(
            self,
            "A program from here on",
            folder / f"{job.name.replace('/', '-')} - from line.{ending}",
            ending,
            "Program",
        )
        if path is not None:
            self.write_resumed(path)

    def write_resumed(self, path: Path) -> None:
        """Write what is left to run, from the line of work that is under way; it is rehearsed
        before it is kept."""
        answer, tool = self._tool.answer, self._tool
        if answer is None:
            return
        try:
            text = resumed(answer.run, tool.under_way)
            rest = rehearse(
                steps_on(text, answer.run.machine), answer.run.machine, answer.run.stock
            )
            wanted = (
                answer.run.run[answer.run.work][-1]
                - answer.run.run[
                    np.flatnonzero(
                        answer.run.work & (np.arange(len(answer.run.work)) >= tool.under_way)
                    )[0]
                ]
                + 1
            )
            if rest.pierces != wanted:
                raise ValueError(
                    "what is left could not be told from what has run; begin at an earlier line"
                )
            write_whole(path, text.encode("ascii", "replace"))
        except (ValueError, OSError) as error:
            self.session.messages.refused.emit(f"{reason(error)[:1].upper()}{reason(error)[1:]}.")
            return
        self.session.messages.announced.emit(
            f"{path.name}: {count_words(int(wanted), 'line')} of work left, {_clock(rest.seconds)}"
        )

    def _jump(self, *, much: bool) -> None:
        """To the end of the run, and to where what is left is farthest from its part."""
        answer, tool = self._tool.answer, self._tool
        if answer is not None and answer.found is not None:
            tool.go(answer.run.seconds)
            self.session.messages.place_asked.emit(
                *tool.there.point(
                    *(answer.found.too_much_at if much else answer.found.too_little_at)
                )
            )
            self._show_moment()

    # --- what is shown

    def refresh(self) -> None:
        tool, job = self._tool, self.session.job
        if not tool.file:
            tool.look()
        sides = [run.back for run in runs_of(job) if run.sheet == job.sheet]
        has_frame = job.machine_of(job.sheet).runs_program
        self.what.setVisible(has_frame and not tool.file)
        self.what.set_value("frame" if tool.framed else "work")
        self.side.setVisible(len(sides) > 1)
        self.side.set_value("back" if tool.back else "face")
        answer = tool.answer
        for widget in (self.earlier, self.later, self.time):
            allow(widget, answer, "there is no run yet")
        for widget in (self.much, self.little):
            widget.setVisible(answer is not None and answer.found is not None)
        if self._shown is not answer or answer is None:
            self._shown = answer
            self._show_facts(answer)
            self.time.show_run(answer.run if answer else None)
        self.foot.offer(
            self.play,
            f"{_clock(answer.run.seconds)} of {answer.run.machine.name}" if answer else "",
            ""
            if answer
            else "The program is being worked out …"
            if tool.file or (job.operations and not job.machine_of(job.sheet).traits.unplayed)
            else job.machine_of(job.sheet).traits.unplayed
            if job.operations
            else "Nothing is worked yet: give contours an operation in Make, or take a file",
        )
        self._show_moment()

    def _show_facts(self, answer: Answer | None) -> None:
        self.stops.show_stops(answer.run.stops if answer else ())
        self.findings.setVisible(answer is not None)
        if answer is None:
            for value in self._facts:
                value.setText("–")
            return
        run, found = answer.run, answer.found
        words = (
            _clock(run.seconds),
            f"{run.cut_mm / 1000:.2f} m, {run.travel_mm / 1000:.2f} m",
            f"{run.pierces}, {max(len(run.cutters), 1)}",
            str(len(run.loose)),
            (
                "held by tabs"
                if found.held and found.held + len(found.uncut) == found.parts
                else f"{found.too_much:.2f} mm"
            )
            if found
            else "–",
            f"{found.too_little:.2f} mm" if found else "–",
        )
        for value, text in zip(self._facts, words, strict=True):
            value.setText(text)
        self.findings.show_findings(_wrong(answer, self._tool.there))

    def _show_moment(self) -> None:
        tool, answer = self._tool, self._tool.answer
        self.play.setText("Pause" if self._clock.isActive() else "Play")
        if answer is None or not len(answer.run.ends):
            for value in (self._now, self._line, self._depth, self._text):
                value.setText("–" if value is not self._text else "")
            return
        run, k = answer.run, tool.under_way
        self.time.go(tool.seconds)
        number = int(run.steps.line[k])
        self._now.setText(f"{_clock(tool.seconds)} of {_clock(run.seconds)}")
        self._line.setText(f"{number} of {len(run.steps.lines)}")
        depth = (
            f"{run.depth[k]:.2f} mm"
            if run.work[k]
            else "up"
            if run.machine.traits.lowers
            else "off"
        )
        self._depth.setText(
            f"{depth}, S{run.steps.power[k]:g}" if run.machine.traits.has_power else depth
        )
        self._text.setText(
            f"{run.steps.lines[number - 1][:60]}\n{run.steps.remark(number)[:60]}".strip()
        )


def _clock(seconds: float) -> str:
    minutes, rest = divmod(seconds, 60)
    return f"{int(minutes)} min {rest:04.1f} s" if minutes else f"{rest:.1f} s"


def _wrong(answer: Answer, there: Affine) -> list[Finding]:
    """What goes wrong in a rehearsal, with its places in the job."""

    def stops(kind: str, words: str, places: Iterable[tuple[float, float]]) -> Finding:
        at = tuple(there.point(*place) for place in places)
        return Finding(kind, words, Gravity.STOPS, "prove", (), at)

    found, rows = answer.found, list[Finding]()
    for trouble in answer.run.troubles[:_MOST_FOUND]:
        row = stops(trouble.kind, trouble.words, [trouble.place])
        rows.append(row if trouble.stops else replace(row, gravity=Gravity.WARNS))
    if found is not None and found.missing:
        words = f"Nothing is left of {len(found.missing)} of {found.parts} parts"
        rows.append(stops("missing", words, found.missing))
    if found is not None and found.uncut:
        count = len(found.uncut)
        words = f"{count_words(count, 'part')} of {found.parts} {'is' if count == 1 else 'are'} not cut out of the sheet"
        rows.append(stops("uncut", words, found.uncut))
    if answer.held:
        count = len(answer.held)
        words = f"{count_words(count, 'part')} come{'s' if count == 1 else ''} loose though tabs were to hold {'it' if count == 1 else 'them'}"
        rows.append(stops("tabs-cut", words, answer.held))
    return rows
