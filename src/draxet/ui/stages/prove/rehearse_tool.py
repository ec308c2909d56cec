"""Rehearse: a program's file, as it was written, is played on a simulated machine and the sheet."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from draxet.geometry.affine import Affine
from draxet.geometry.turning import nearest
from draxet.job.records import Job
from draxet.job.sides import Run, mirror_of, runs_of, side_of
from draxet.leaving.left_text import left_text
from draxet.machines.controller import steps_on
from draxet.machines.rehearsal import rehearse
from draxet.machines.rehearsal_records import Rehearsal
from draxet.make.products import product_of
from draxet.progress import Progress
from draxet.prove.against import Against, against, parts_loose, parts_of
from draxet.prove.program_file import stock_of
from draxet.record import record
from draxet.ui.canvas.played import Played, PlayedPaths, paths_of
from draxet.ui.model.derived import Derived
from draxet.ui.model.session import Session
from draxet.ui.model.tool import ContourMark, Mark, Pointer, Prompt, TagMark, Tool

__all__ = ["Answer", "RehearseTool"]

_GOES_BY = (
    "contours",
    "operations",
    "sheets",
    "sheet_id",
    "machines",
    "bridges",
    "orders",
    "fits",
    "points",
)
"""The fields of a job by which its rehearsal goes."""


@record(frozen=True, eq=False)
class Answer:
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
        self._played = Derived[Answer | None](
            session,
            "rehearsal",
            None,
            "The program could not be rehearsed",
            tool=self,
            told=self._told,
        )
        self.seconds = 0.0
        self.back = False
        self.framed = False
        """Whether the frame of the job is played, in place of its work."""
        self._text = ""

    def begin(self) -> None:
        if session_text := self.session.offered_program:
            self.session.offered_program = None
            self.take(*session_text)
        else:
            self.play_job()

    @property
    def answer(self) -> Answer | None:
        return self._played.value

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
        job, run, text, framed = self.session.layout, self._run, self._text, self.framed
        state = (*(getattr(job, name) for name in _GOES_BY), self.back, text, framed)
        unplayed = job.machine_of(run.sheet).traits.unplayed
        if not text and (unplayed or run not in runs_of(job)):
            self._played.take(state, None)
            return

        def work(report: Progress) -> Answer:
            report(0.1, "rehearsing")
            return _played(job, run, text, framed=framed)

        self._played.ask(state, work)

    def _told(self) -> None:
        self.seconds = 0.0
        self.session.desk.view_changed.emit()
        self.session.marks_changed.emit()

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


def _played(job: Job, run: Run, text: str, *, framed: bool) -> Answer:
    """The rehearsal of a text, or of what a job would write (its frame, where that is meant); for a
    worker."""
    machine = job.machine_of(run.sheet)
    seen = side_of(job, run)
    text = text or left_text(job, run, product_of(seen, run.sheet, machine), framed=framed)
    rehearsal = rehearse(steps_on(text, machine), machine, stock_of(run, seen))
    cut = [
        seen.fitted.get(name, contour)
        for operation in seen.operations
        if operation.through and not framed
        for name, contour in seen.worked_on(operation, run.sheet)
    ]
    if not cut:
        return Answer(rehearsal, paths_of(rehearsal), None)
    parts = parts_of(cut, run.sheet.origin_place)
    loose = parts_loose(rehearsal, parts)
    held = _held_by_tabs(seen, run, parts)
    return Answer(
        rehearsal,
        paths_of(rehearsal),
        against(rehearsal, cut, run.sheet.origin_place),
        tuple(k is not None for k in loose),
        tuple(_spot(parts[k]) for k in loose if k in held and k is not None),
    )


def _held_by_tabs(seen: Job, run: Run, parts: Sequence[shapely.Polygon]) -> set[int]:
    """Numbers of the parts that tabs are to hold."""
    tabbed = [
        contour
        for operation in seen.operations
        if operation.through
        for name, contour in seen.worked_on(operation, run.sheet)
        if contour.closed
        and (
            operation.tabs
            or any(spot.contour == name and spot.what == "tab" for spot in operation.spots)
        )
    ]
    return {
        k
        for contour in tabbed
        for k, part in enumerate(parts)
        if abs(contour.area) > 0
        and abs(abs(contour.area) - shapely.Polygon(part.exterior).area) < 0.01 * abs(contour.area)
    }


def _spot(part: Any) -> tuple[float, float]:
    spot = part.representative_point()
    return float(spot.x), float(spot.y)
