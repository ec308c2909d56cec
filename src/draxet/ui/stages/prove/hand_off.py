"""Prove: findings, then the file for the machine, read back and compared."""

from __future__ import annotations

from pathlib import Path

from draxet.formats.layer import FormatError
from draxet.formats.leaving import FORMATS
from draxet.job.edits import hand_off_noted
from draxet.job.findings import Gravity
from draxet.job.sides import runs_of
from draxet.prove.handoff import ReadBack, hand_off
from draxet.ui.canvas.tool import Tool
from draxet.ui.shell.chooser import ask_where
from draxet.ui.shell.fields import Choice, button, fact_row, label, set_part
from draxet.ui.shell.session import Session
from draxet.ui.stages.findings import FindingRows
from draxet.ui.stages.picking import PickTool
from draxet.ui.stages.slip import Slip

__all__ = ["HandOffSlip", "HandOffTool"]


class HandOffTool(PickTool):
    """Contours can be chosen and looked at."""

    title = "Hand off"


class HandOffSlip(Slip):
    """What to look at first, the kind of file, and what was read back."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(session, "Hand off", "Only contours with an operation leave, in millimetres, one layer for each operation. Lines stand for the part's edge; the layer names say side and cut width.")
        self._findings = FindingRows(session, "Nothing to look at: ready to leave.")
        self.kind = Choice([(each.ending, each.name) for each in FORMATS], "Kind of file")
        self._kind = FORMATS[0].ending
        self.kind.set_value(self._kind)
        self.kind.chosen.connect(lambda key: setattr(self, "_kind", key))
        self._sheet = label("", "quiet", wrap=True)
        self.side = Choice([("face", "the face"), ("back", "the back")], "Side of the sheet")
        self._side = "face"
        self.side.chosen.connect(self._set_side)
        self.go = button("Hand off …", "main", self._ask)
        self.add(self._findings, label("Kind of file"), self.kind, self._sheet, self.side, self.go, label("Read back", "section"))
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
        return [run.back for run in runs_of(self.session.job) if run.sheet == self.session.job.sheet]

    @property
    def back(self) -> bool:
        """Whether the back is handed off: where it was chosen, or where nothing is worked from the face."""
        sides = self._sides()
        return (self._side == "back") in sides and self._side == "back" if len(sides) > 1 else sides == [True]

    def _ask(self) -> None:
        job = self.session.job
        folder = self.session.path.parent if self.session.path else Path.home()
        name = job.name if len(job.sheets) == 1 else f"{job.name} - {job.sheet.name}"
        name = f"{name} - back" if self.back else name
        path = ask_where(self, "Hand off", folder / f"{name.replace('/', '-')}.{self._kind}", self._kind, self._kind.upper())
        if path is not None:
            self.hand_off(path)

    def hand_off(self, path: Path) -> None:
        """Write the file, read it back and show what was found."""
        self.session.leaving.emit()
        try:
            back = self.session.read_back = hand_off(self.session.job, path, back=self.back)
        except FormatError as error:
            self.session.refused.emit(str(error))
            return
        if back.matches:
            self.session.edit("hand off", hand_off_noted(self.session.job, path.name, back=self.back))
            self.session.said.emit(f"{path.name} handed off and read back: it matches the job")
        else:
            self.session.refused.emit(f"What was written as {path.name} does not match the job; it was not kept, and what was there before is untouched.")
        self.refresh()

    def refresh(self) -> None:
        job, back = self.session.job, self.session.read_back
        self._findings.show_findings(self.session.looked.findings)
        self.go.setEnabled(bool(job.operations))
        left = [sheet.name for sheet in job.sheets_with_work if not job.is_handed_off(sheet)]
        sides = self._sides()
        self.side.setVisible(len(sides) > 1)
        self.side.set_value(self._side)
        self._sheet.setVisible(len(job.sheets) > 1 or True in sides)
        mirrored = "The back leaves mirrored: turn the sheet over, left to right. " if self.back else ""
        self._sheet.setText(f"For {job.sheet.name}. {mirrored}" + (f"Not handed off yet: {', '.join(left)}." if left else "All sheets are handed off."))
        for value, words in zip((self._file, self._contours, self._worst, self._size), _facts(back), strict=True):
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
            return "The work has changed since, or another sheet is in hand: hand it off again.", "brass"
        if any(finding.gravity is Gravity.STOPS for finding in self.session.looked.findings):
            return f"It matches the job within {back.allowed:g} mm, but the job has faults: see above.", "brass"
        return f"It matches the job within {back.allowed:g} mm.", "sound"


def _facts(back: ReadBack | None) -> tuple[str, str, str, str]:
    if back is None:
        return "–", "–", "–", "–"
    name = back.file if len(back.file) <= 26 else f"{back.file[:17]}…{back.file[-8:]}"
    return name, f"{back.contours} of {back.wanted}, {back.closed} of {back.closed_wanted}", f"{back.worst:.4f} mm", f"{back.size[0]:.2f} × {back.size[1]:.2f} mm"
