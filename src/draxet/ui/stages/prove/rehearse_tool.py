"""Rehearse: a program's file, as it was written, is played on a simulated machine and the sheet."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import shapely
from PyQt6.QtCore import QTimer

from draxet.files import plain_words, reason, write_whole
from draxet.geometry.affine import Affine
from draxet.geometry.turning import nearest
from draxet.job.findings import Finding, Gravity, count_words
from draxet.job.operations import CutThrough
from draxet.job.records import Job
from draxet.job.sides import Run, mirror_of, runs_of, side_of
from draxet.machines.controller import read_program
from draxet.machines.rehearsal import Rehearsal, rehearse
from draxet.machines.resume import resumed
from draxet.progress import Progress
from draxet.prove.against import Against, against, parts_loose, parts_of
from draxet.prove.program_file import stock_of
from draxet.record import record
from draxet.ui.canvas.played import PlayedPaths, paths_of
from draxet.ui.canvas.tool import ContourMark, Mark, Played, Pointer, Prompt, TagMark, Tool
from draxet.ui.shell.chooser import FileChooser, ask_where
from draxet.ui.shell.fields import Choice, button, fact_row, label, side_by_side
from draxet.ui.shell.opening import PROGRAM_ENDINGS
from draxet.ui.shell.session import Session
from draxet.ui.stages.findings_list import FindingRows
from draxet.ui.stages.prove.time_line import TimeLine
from draxet.ui.stages.slip import Slip

__all__ = ["RehearseSlip", "RehearseTool"]

_LANE = "rehearsal"
_LARGEST = 200_000_000
_TICK_MS = 40
_SPEEDS = ((1, "1 ×"), (5, "5 ×"), (20, "20 ×"), (200, "200 ×"))
_STEPS = (("move", "a move"), ("line", "a line"), ("part", "a piece"))
_MOST_FOUND = 60


@record(frozen=True, eq=False)
class _Answer:
    run: Rehearsal
    paths: PlayedPaths
    found: Against | None
    parts: tuple[bool, ...] = ()
    held: tuple[tuple[float, float], ...] = ()
    """Middles of parts that come loose though tabs were to hold them."""


class RehearseTool(Tool):
    """Plays what the job would write, or a file that was dropped or chosen."""

    title = "Rehearse"

    def __init__(self, session: Session) -> None:
        self.session = session
        self.file = ""
        """The name of the file that is played, empty for what the job would write."""
        self.answer: _Answer | None = None
        self.seconds = 0.0
        self.back = False
        self.framed = False
        """Whether the frame of the job is played, in place of its work."""
        self._of: tuple[object, ...] = ()
        self._text = ""

    def begin(self) -> None:
        if session_text := self.session.offered_program:
            self.session.offered_program = None
            self.take(*session_text)
        else:
            self.play_job()

    def put_away(self) -> None:
        self.session.workers.cancel(_LANE)

    # --- what is played

    @property
    def _run(self) -> Run:
        return Run(self.session.job.sheet, self.back)

    def play_job(self) -> None:
        """Play what would be written for the sheet in hand."""
        self.file, self._text = "", ""
        self.look()

    def take(self, name: str, text: str) -> None:
        """Play a file's text."""
        self.file, self._text = name, text
        self.look()

    def look(self) -> None:
        """Have it worked out, off the window's thread; what is known stays shown until then."""
        job, run, text, framed = self.session.job, self._run, self._text, self.framed
        self._of = (
            job.contours,
            job.operations,
            job.sheets,
            job.sheet_id,
            job.machines,
            job.bridges,
            job.orders,
            job.fits,
            job.points,
        )
        if not text and run not in runs_of(job):
            self.answer = None
            self.session.tool_changed.emit()
            return

        def work(report: Progress) -> _Answer:
            report(0.1, "rehearsing")
            return _played(job, run, text, framed=framed)

        def done(answer: _Answer) -> None:
            self.answer, self.seconds = answer, 0.0
            self.session.tool_changed.emit()
            self.session.marks_changed.emit()

        self.session.workers.run(
            _LANE,
            work,
            done,
            lambda error: self.session.refused.emit(
                f"The program could not be rehearsed: {reason(error)}."
            ),
        )

    def follow(self) -> None:
        """The job was changed: what it would write is played anew."""
        job = self.session.job
        now = (
            job.contours,
            job.operations,
            job.sheets,
            job.sheet_id,
            job.machines,
            job.bridges,
            job.orders,
            job.fits,
            job.points,
        )
        if any(a is not b and a != b for a, b in zip(now, self._of, strict=True)):
            self.look()

    # --- where it is

    def go(self, seconds: float) -> None:
        """Show it after so many seconds."""
        if self.answer is not None:
            self.seconds = min(max(seconds, 0.0), self.answer.run.seconds)
            self.session.marks_changed.emit()

    @property
    def under_way(self) -> int:
        """The number of the move that is under way."""
        run = self.answer.run if self.answer else None
        return (
            min(int(np.searchsorted(run.ends, self.seconds, side="right")), len(run.ends) - 1)
            if run and len(run.ends)
            else 0
        )

    def step(self, by: int, what: str) -> None:
        """To the end of the next move, line of work or piece that comes loose; or back to the one
        before."""
        if self.answer is None or not len(self.answer.run.ends):
            return
        run = self.answer.run
        stops = run.ends
        if what == "line":
            last = np.append(run.run[1:] != run.run[:-1], True) & run.work
            stops = run.ends[last]
        elif what == "part":
            stops = np.array([run.ends[piece.move] for piece in run.loose] or [run.seconds])
        later, before = stops[stops > self.seconds + 1e-9], stops[stops < self.seconds - 1e-9]
        self.go(
            float(later[0])
            if by > 0 and len(later)
            else run.seconds
            if by > 0
            else float(before[-1])
            if len(before)
            else 0.0
        )

    def to_line(self, line: int) -> None:
        """To where a line of the text begins."""
        if self.answer is not None:
            some = np.flatnonzero(self.answer.run.steps.line >= line)
            k = int(some[0]) if len(some) else 0
            self.go(float(self.answer.run.ends[k - 1]) if k else 0.0)

    # --- the tool

    @property
    def there(self) -> Affine:
        """From the program's millimetres to the job's."""
        sheet = self.session.job.sheet
        there = Affine.moved(*sheet.origin_place)
        return there.then(mirror_of(sheet)) if self.back else there

    @property
    def plays(self) -> Played | None:
        return (
            Played(self.answer.paths, self.seconds, self.there, self.answer.parts)
            if self.answer
            else None
        )

    def prompt(self) -> Prompt:
        if self.answer is None:
            return Prompt(
                "Rehearse: there is nothing to play yet.",
                "give contours an operation, or drop a program on the window",
            )
        return Prompt(
            "Rehearse: play it, step through it, or click where it works.",
            self.file or "as the job would write it",
            (("Enter", "play or pause"),),
        )

    def press(self, at: Pointer) -> None:
        """Go to the moment at which it works nearest to the pointer."""
        if self.answer is None or not self.answer.run.work.any():
            return
        x, y = self.there.inverse().point(at.x, at.y)
        run = self.answer.run
        off, share = nearest(
            run.steps.begins[:, :2],
            run.steps.to[:, :2],
            run.steps.centre,
            run.steps.turn,
            np.array([x, y]),
        )
        k = int(np.where(run.work, off, np.inf).argmin())
        before = float(run.ends[k - 1]) if k else 0.0
        self.go(before + float(share[k]) * (float(run.ends[k]) - before))
        self.session.tool_changed.emit()

    def marks(self) -> list[Mark]:
        if self.answer is None or self.answer.found is None:
            return []
        found, there, marks = self.answer.found, self.there, list[Mark]()
        if self.seconds >= self.answer.run.seconds:
            for words, off, place in (
                ("too much", found.too_much, found.too_much_at),
                ("too little", found.too_little, found.too_little_at),
            ):
                if off > 0.05:
                    marks.append(TagMark(*there.point(*place), f"{words}: {off:.2f} mm", "note"))
        return marks or [ContourMark(())]


def _played(job: Job, run: Run, text: str, *, framed: bool) -> _Answer:
    """The rehearsal of a text, or of what a job would write (its frame, where that is meant); for a
    worker."""
    from draxet.make.frame import frame_program
    from draxet.make.program_making import program_of  # not needed before
    from draxet.prove.program_file import program_text

    machine = job.machine_of(run.sheet)
    seen = side_of(job, run)
    if not text:
        program = program_of(seen, run.sheet, machine)
        text = program_text(job, run, frame_program(program) if framed else program)
    rehearsal = rehearse(read_program(text, machine.dialect), machine, stock_of(run, seen))
    cut = (
        []
        if framed
        else [
            seen.fitted.get(name, contour)
            for operation in seen.operations
            if operation.through
            for name, contour in seen.worked_on(operation, run.sheet)
        ]
    )
    if not cut:
        return _Answer(rehearsal, paths_of(rehearsal), None)
    parts = parts_of(cut, run.sheet.origin_place)
    loose = parts_loose(rehearsal, parts)
    tabbed = [
        contour
        for operation in seen.operations
        if isinstance(operation, CutThrough)
        for name, contour in seen.worked_on(operation, run.sheet)
        if contour.closed
        and (
            operation.tabs
            or any(spot.contour == name and spot.what == "tab" for spot in operation.spots)
        )
    ]
    held = {
        k
        for contour in tabbed
        for k, part in enumerate(parts)
        if abs(contour.area) > 0
        and abs(abs(contour.area) - shapely.Polygon(part.exterior).area) < 0.01 * abs(contour.area)
    }
    fallen = tuple(_spot(parts[k]) for k in loose if k in held and k is not None)
    return _Answer(
        rehearsal,
        paths_of(rehearsal),
        against(rehearsal, cut, run.sheet.origin_place),
        tuple(k is not None for k in loose),
        fallen,
    )


def _spot(part: Any) -> tuple[float, float]:
    spot = part.representative_point()
    return float(spot.x), float(spot.y)


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
            self.play,
            self.time,
            self.speed,
            side_by_side(self.earlier, self.later),
            self.by,
        )
        rows = [fact_row(words) for words in ("Now", "Line", "Depth, power")]
        (_, self._now), (_, self._line), (_, self._depth) = rows
        self.add(*(row for row, _ in rows))
        self._text = label("", "value", wrap=True)
        self.add(self._text)
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
        self.add(
            *(row for row, _ in facts),
            side_by_side(self.much, self.little),
            label("What goes wrong", "section"),
        )
        self.findings = FindingRows(session, "Nothing: it can run.")
        self.add(
            self.findings,
            side_by_side(
                button("A file …", "plain", self._choose),
                button("What the job writes", "plain", tool.play_job),
            ),
            button("A program from here on …", "plain", self._ask_resumed),
        )
        self._shown: object = None
        self.refresh()

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
        tool.go(tool.seconds + self._speed * _TICK_MS / 1000)
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
                self.session.refused.emit(
                    f"{plain_words(path.name)} is larger than {_LARGEST // 1_000_000} MB; rehearse a part of it."
                )
                return
            text = path.read_text("utf-8-sig", "replace")
        except OSError as error:
            self.session.refused.emit(
                f"{plain_words(path.name)} could not be read: {reason(error)}."
            )
            return
        self._tool.take(plain_words(path.name), text)

    def _ask_resumed(self) -> None:
        job = self.session.job
        folder = self.session.path.parent if self.session.path else Path.home()
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
                read_program(text, answer.run.machine.dialect), answer.run.machine, answer.run.stock
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
            self.session.refused.emit(f"{reason(error)[:1].upper()}{reason(error)[1:]}.")
            return
        self.session.said.emit(
            f"{path.name}: {count_words(int(wanted), 'line')} of work left, {_clock(rest.seconds)}"
        )

    def _jump(self, *, much: bool) -> None:
        """To the end of the run, and to where what is left is farthest from its part."""
        answer, tool = self._tool.answer, self._tool
        if answer is not None and answer.found is not None:
            tool.go(answer.run.seconds)
            self.session.place_asked.emit(
                *tool.there.point(
                    *(answer.found.too_much_at if much else answer.found.too_little_at)
                )
            )
            self._show_moment()

    # --- what is shown

    def refresh(self) -> None:
        tool, job = self._tool, self.session.job
        if not tool.file:
            tool.follow()
        sides = [run.back for run in runs_of(job) if run.sheet == job.sheet]
        self.what.setVisible(not tool.file)
        self.what.set_value("frame" if tool.framed else "work")
        self.side.setVisible(len(sides) > 1)
        self.side.set_value("back" if tool.back else "face")
        answer = tool.answer
        for widget in (self.play, self.earlier, self.later, self.time):
            widget.setEnabled(answer is not None)
        for widget in (self.much, self.little):
            widget.setVisible(answer is not None and answer.found is not None)
        if self._shown is not answer or answer is None:
            self._shown = answer
            self._show_facts(answer)
            self.time.show_run(answer.run if answer else None)
        self._show_moment()

    def _show_facts(self, answer: _Answer | None) -> None:
        if answer is None:
            for value in self._facts:
                value.setText("–")
            self.findings.show_findings(())
            return
        run, found = answer.run, answer.found
        words = (
            _clock(run.seconds),
            f"{run.cut_mm / 1000:.2f} m, {run.travel_mm / 1000:.2f} m",
            f"{run.pierces}, {max(len(run.tools), 1)}",
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
        there = self._tool.there
        rows = [
            Finding(
                trouble.kind,
                trouble.words,
                Gravity.STOPS if trouble.stops else Gravity.WARNS,
                "prove",
                (),
                (there.point(*trouble.place),),
            )
            for trouble in run.troubles[:_MOST_FOUND]
        ]
        if found is not None and found.missing:
            rows.append(
                Finding(
                    "missing",
                    f"Nothing is left of {len(found.missing)} of {found.parts} parts",
                    Gravity.STOPS,
                    "prove",
                    (),
                    tuple(there.point(*place) for place in found.missing),
                )
            )
        if found is not None and found.uncut:
            rows.append(
                Finding(
                    "uncut",
                    f"{count_words(len(found.uncut), 'part')} of {found.parts} {'is' if len(found.uncut) == 1 else 'are'} not cut out of the sheet",
                    Gravity.STOPS,
                    "prove",
                    (),
                    tuple(there.point(*place) for place in found.uncut),
                )
            )
        if answer.held:
            lost = f"{count_words(len(answer.held), 'part')} come{'s' if len(answer.held) == 1 else ''} loose though tabs were to hold {'it' if len(answer.held) == 1 else 'them'}"
            rows.append(
                Finding(
                    "tabs-cut",
                    lost,
                    Gravity.STOPS,
                    "prove",
                    (),
                    tuple(there.point(*place) for place in answer.held),
                )
            )
        self.findings.show_findings(rows)

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
            if run.machine.kind == "router"
            else "off"
        )
        self._depth.setText(
            f"{depth}, S{run.steps.power[k]:g}" if run.machine.kind == "laser" else depth
        )
        self._text.setText(
            f"{run.steps.lines[number - 1][:60]}\n{run.steps.remark(number)[:60]}".strip()
        )


def _clock(seconds: float) -> str:
    minutes, rest = divmod(seconds, 60)
    return f"{int(minutes)} min {rest:04.1f} s" if minutes else f"{rest:.1f} s"
