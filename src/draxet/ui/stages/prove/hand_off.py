"""Prove: findings, then the file for the machine, read back and compared."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PyQt6 import sip
from PyQt6.QtWidgets import QCheckBox, QGridLayout, QVBoxLayout

from draxet.files import reason
from draxet.formats.layer import FormatError
from draxet.formats.paper import Backdrop
from draxet.job.findings import Gravity
from draxet.job.program import Program, empty_program
from draxet.job.records import Job
from draxet.job.sheet_edits import hand_off_noted
from draxet.job.sides import Run, only, runs_of, side_of
from draxet.make.operator import operators_list
from draxet.progress import Progress
from draxet.prove.handoff import ReadBack, hand_off
from draxet.prove.leaving import KINDS, LeavingRequest, Left, backdrops_seen, file_for, leave
from draxet.ui.canvas.tool import Tool
from draxet.ui.shell.chooser import ask_where
from draxet.ui.shell.fields import Choice
from draxet.ui.shell.questions import ask
from draxet.ui.shell.session import Session
from draxet.ui.shell.slip_parts import button, emptied, fact_row, label, set_part
from draxet.ui.stages.findings_list import FindingRows
from draxet.ui.stages.picking import PickTool
from draxet.ui.stages.prove.leaving_settings import LeavingSettings, facts, told_of
from draxet.ui.stages.setting_rows import SettingRows
from draxet.ui.stages.slip import Slip

__all__ = ["HandOffSlip", "HandOffTool"]


KINDS_BY_KEY = {key: name for key, name, _ in KINDS}


class HandOffTool(PickTool):
    """Contours can be chosen and looked at."""

    title = "Hand off"


class HandOffSlip(Slip):
    """What to look at first, the kind of file, and what was read back."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(
            session,
            "Hand off",
            "Only contours with an operation leave, in millimetres. Everything is read back before it takes the place of an older file.",
        )
        self._findings = FindingRows(session, "Nothing to look at: ready to leave.")
        self.ticks = {key: QCheckBox(name) for key, name, _ in KINDS}
        for key, box in self.ticks.items():
            box.setChecked(key in self.settings.kinds)
            box.clicked.connect(self._ticked)
        self.asked = self.ask_later()
        self._sheet = label("", "quiet", wrap=True)
        self.side = Choice([("face", "the face"), ("back", "the back")], "Side of the sheet")
        self._side = "face"
        self.side.chosen.connect(self._set_side)
        self.go = button("Hand off …", "main", self._ask)
        self.add(self._findings, label("What leaves", "section"))
        pairs = QGridLayout()
        pairs.setHorizontalSpacing(2)
        for k, box in enumerate(self.ticks.values()):
            pairs.addWidget(box, k // 2, k % 2)
        self.body.addLayout(pairs)
        self.add(self.asked, self._sheet, self.side, self.go)
        self._left = QVBoxLayout()
        self.body.addLayout(self._left)
        self.add(label("The drawing, read back", "section"))
        file, self._file = fact_row("File")
        contours, self._contours = fact_row("Contours, closed")
        worst, self._worst = fact_row("Greatest difference")
        size, self._size = fact_row("Size in the file")
        self._verdict = label("", "quiet", wrap=True)
        self.add(file, contours, worst, size, self._verdict)
        self.refresh()

    def _set_side(self, key: str) -> None:
        self._side = key
        self.refresh()

    def _sides(self) -> list[bool]:
        return [
            run.back for run in runs_of(self.session.job) if run.sheet == self.session.job.sheet
        ]

    @property
    def back(self) -> bool:
        """Whether the back is handed off: where it was chosen, or where nothing is worked from the
        face."""
        sides = self._sides()
        return (
            (self._side == "back") in sides and self._side == "back"
            if len(sides) > 1
            else sides == [True]
        )

    @property
    def settings(self) -> LeavingSettings:
        return self.session.settings("leaving", LeavingSettings)

    def ask_later(self) -> SettingRows:
        """Rows for what else is asked; they are added in their place."""

        def change(name: str, value: object, gesture: object = None) -> None:
            setattr(self.settings, name, value)
            self.refresh()

        return SettingRows(self.session, self.settings, change)

    def _ticked(self) -> None:
        self.settings.kinds = tuple(key for key, box in self.ticks.items() if box.isChecked())
        self.refresh()

    @property
    def _job(self) -> Job:
        """The job, or its work on the chosen contours alone."""
        job, chosen = self.session.job, self.session.selection
        return only(job, chosen) if self.settings.only else job

    @property
    def run(self) -> Run:
        return Run(self.session.job.sheet, self.back)

    def _refused(self) -> bool:
        """Whether nothing can leave as it is asked for; why is said."""
        if self.settings.only and not self.session.selection:
            self.session.refused.emit(
                "Nothing is chosen: choose the contours that are to leave, or untick that only the chosen ones do."
            )
        return self.settings.only and not self.session.selection

    def _ask(self) -> None:
        """Where to, and by what name; what is there already is told by the names that it really
        has."""
        job, kinds = self.session.job, self.settings.kinds
        if self._refused():
            return
        if not kinds:
            self.session.refused.emit("Tick what is to leave first.")
            return
        folder = self.session.path.parent if self.session.path else Path.home()
        name = job.name if len(job.sheets) == 1 else f"{job.name} - {job.sheet.name}"
        name = f"{name} - back" if self.back else name
        first = file_for(self._request(folder, name.replace("/", "-"), kinds[:1], None), kinds[0])
        ending = first.suffix.removeprefix(".")
        path = ask_where(
            self,
            "Hand off",
            folder / f"{name.replace('/', '-')}.{ending}",
            ending,
            "The first of the files" if len(kinds) > 1 else KINDS_BY_KEY[kinds[0]],
        )
        if path is None:
            return
        request = self._request(path.parent, path.stem, kinds, None)
        there = [
            file_for(request, kind).name
            for kind in kinds
            if file_for(request, kind).exists() and file_for(request, kind) != path
        ]
        if not there or ask(
            self,
            "Replace them?",
            f"{', '.join(there[:4])}{' and others' if len(there) > 4 else ''} {'is' if len(there) == 1 else 'are'} there already.",
            "",
            (("replace", "Replace"),),
            "Cancel",
        ):
            self.leave_all(path.parent, path.stem)

    def _request(
        self, folder: Path, name: str, kinds: tuple[str, ...], program: Program | None
    ) -> LeavingRequest:
        job, s = self._job, self.settings
        machine = job.machine_of(job.sheet)
        turned = any(run.back for run in runs_of(job) if run.sheet == job.sheet)
        empty = program or empty_program(machine)
        return LeavingRequest(
            job,
            self.run,
            empty,
            folder,
            name,
            kinds,
            s.frame,
            s.dpi,
            s.pixels,
            s.transparent,
            s.art,
            self.session.looked.findings,
            operators_list(machine, job.sheet, turned=turned),
            counts=s.counts,
        )

    def leave_all(self, folder: Path, name: str) -> None:
        """Write everything that is ticked, each read back; the drawings first."""
        if self._refused():
            return
        kinds, session = self.settings.kinds, self.session
        stops = [finding for finding in session.looked.findings if finding.gravity is Gravity.STOPS]
        if stops and {"program", "frame"} & set(kinds):
            session.refused.emit(
                f"No program leaves beside a fault: {stops[0].words}. Mend it first, or untick the program."
            )
            return
        emptied(self._left)
        rest = tuple(kind for kind in kinds if kind not in ("dxf", "svg"))
        if self._drawings_left(folder, name) and rest:
            self._leave_rest(folder, name, rest)

    def _drawings_left(self, folder: Path, name: str) -> bool:
        """Write the drawings that are ticked; whether each read back as it was meant."""
        for kind in ("dxf", "svg"):
            if kind in self.settings.kinds:
                self.hand_off(folder / f"{name}.{kind}")
                read_back = self.session.read_back
                if read_back is None or not read_back.matches:
                    return False
        return True

    def _leave_rest(self, folder: Path, name: str, rest: tuple[str, ...]) -> None:
        """Write what is no drawing, by a worker."""
        session, job, run, whole = self.session, self._job, self.run, self.session.job
        session.leaving.emit()
        request = self._request(folder, name, rest, None)

        def done(left: list[Left]) -> None:
            if (
                "program" in rest
                and all(each.matches for each in left)
                and session.job.work_digest(run.sheet) == whole.work_digest(run.sheet)
                and job is whole
            ):
                session.edit(
                    "hand off",
                    hand_off_noted(
                        session.job, file_for(request, "program").name, run.sheet.id, back=run.back
                    ),
                )
            session.announced.emit(told_of(left))
            if not sip.isdeleted(self):  # another tool may be in hand by now
                for each in left:
                    how = "sound" if each.matches else "fault"
                    self._left.addWidget(label(f"{each.file}: {each.words}", how, wrap=True))
                self.refresh()

        session.workers.run(
            "leaving",
            self._work(request, job, run, rest),
            done,
            lambda error: session.refused.emit(f"{reason(error)[:1].upper()}{reason(error)[1:]}."),
        )

    def _work(
        self, request: LeavingRequest, job: Job, run: Run, rest: tuple[str, ...]
    ) -> Callable[[Progress], list[Left]]:
        """What a worker does to write files of these kinds."""
        settings, store = replace(self.settings), self.session.pictures
        with_pictures = {"pdf", "pages"} & set(rest)
        pictures = [each for each in job.pictures if each.visible] if with_pictures else []

        def work(report: Progress) -> list[Left]:
            from draxet.make.frame import frame_program  # not needed before
            from draxet.make.program_making import program_of

            report(0.1, "writing what leaves")
            backdrops = [
                Backdrop(store.of(picture, report).levels[0], picture.to_job)
                for picture in pictures
            ]
            program = program_of(side_of(job, run), run.sheet, job.machine_of(run.sheet))
            framed = (
                frame_program(program, settings.around, settings.power) if "frame" in rest else None
            )
            return leave(
                replace(
                    request,
                    program=program,
                    framed=framed,
                    backdrops=backdrops_seen(run, backdrops),
                )
            )

        return work

    def hand_off(self, path: Path) -> None:
        """Write the file, read it back and show what was found."""
        if self._refused():
            return
        self.session.leaving.emit()
        try:
            back = self.session.read_back = hand_off(
                self._job, path, back=self.back, frame=self.settings.frame
            )
        except FormatError as error:
            self.session.refused.emit(str(error))
            return
        if back.matches and self._job is not self.session.job:
            self.session.announced.emit(
                f"{path.name} handed off and read back: it holds what was chosen; the sheet is not signed off by it"
            )
        elif back.matches:
            self.session.edit(
                "hand off",
                hand_off_noted(
                    self.session.job, path.name, self.session.job.sheet.id, back=self.back
                ),
            )
            self.session.announced.emit(f"{path.name} handed off and read back: it matches the job")
        else:
            self.session.refused.emit(
                f"What was written as {path.name} does not match the job; it was not kept, and what was there before is untouched."
            )
        self.refresh()

    def refresh(self) -> None:
        job, back = self.session.job, self.session.read_back
        self._findings.show_findings(self.session.looked.findings)
        self.go.setEnabled(bool(job.operations))
        for name in ("dpi", "pixels", "transparent", "art"):
            self.asked.rows[name].setVisible("png" in self.settings.kinds)
        self.asked.rows["counts"].setVisible(bool({"program", "frame"} & set(self.settings.kinds)))
        self.asked.rows["around"].setVisible("frame" in self.settings.kinds)
        self.asked.rows["power"].setVisible(
            "frame" in self.settings.kinds and job.machine_of(job.sheet).kind == "laser"
        )
        self.asked.rows["frame"].setVisible(bool({"dxf", "svg"} & set(self.settings.kinds)))
        left = [sheet.name for sheet in job.sheets_with_work if not job.is_handed_off(sheet)]
        sides = self._sides()
        self.side.setVisible(len(sides) > 1)
        self.side.set_value(self._side)
        self._sheet.setVisible(len(job.sheets) > 1 or True in sides)
        mirrored = (
            "The back leaves mirrored: turn the sheet over, left to right. " if self.back else ""
        )
        self._sheet.setText(
            f"For {job.sheet.name}. {mirrored}"
            + (f"Not handed off yet: {', '.join(left)}." if left else "All sheets are handed off.")
        )
        for value, words in zip(
            (self._file, self._contours, self._worst, self._size), facts(back), strict=True
        ):
            value.setText(words)
        words, part = self._verdict_of(back)
        self._verdict.setText(words)
        set_part(self._verdict, part=part)

    def _verdict_of(self, back: ReadBack | None) -> tuple[str, str]:
        job = self.session.job
        if back is None:
            return "Nothing handed off yet.", "quiet"
        if not back.matches:
            return "It did not match the job and was not kept; do not use it.", "fault"
        if back.work != job.work_digest(job.sheet):
            return (
                "The work has changed since, or another sheet is in hand: hand it off again.",
                "brass",
            )
        if any(finding.gravity is Gravity.STOPS for finding in self.session.looked.findings):
            return (
                f"It matches the job within {back.allowed:g} mm, but the job has faults: see above.",
                "brass",
            )
        return f"It matches the job within {back.allowed:g} mm.", "sound"
