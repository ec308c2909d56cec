"""Prove: checks, then the file for the machine, read back and compared."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from draxet.formats.layer import FormatError
from draxet.job.edits import hand_off_noted
from draxet.prove.checks import Check, checks_of
from draxet.prove.handoff import hand_off
from draxet.ui.look.icons import pixmap
from draxet.ui.look.tokens import LIGHT
from draxet.ui.shell.fields import Choice, button, emptied, fact_row, label
from draxet.ui.shell.session import Session
from draxet.ui.stages.slip import Slip

__all__ = ["HandOffSlip"]


class HandOffSlip(Slip):
    """What to look at first, the kind of file, and what was read back."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, "Hand off", "Only contours with an operation leave, in millimetres, one layer for each operation. Lines stand for the part's edge; the layer names say side and cut width.")
        self._checks = QVBoxLayout()
        self._checks.setSpacing(4)
        self.body.addLayout(self._checks)
        self.kind = Choice((("dxf", "DXF"), ("svg", "SVG")), "Kind of file")
        self.kind.set_value("dxf")
        self.kind.chosen.connect(lambda key: setattr(self, "_kind", key))
        self._kind = "dxf"
        self.go = button("Hand off …", "main", self._ask)
        self.add(label("Kind of file"), self.kind, self.go, label("Read back", "section"))
        file, self._file = fact_row("File")
        contours, self._contours = fact_row("Contours, closed")
        worst, self._worst = fact_row("Greatest difference")
        size, self._size = fact_row("Size in the file")
        self._verdict = label("Nothing handed off yet.", "quiet", wrap=True)
        self.add(file, contours, worst, size, self._verdict)
        self._shown: list[Check] | None = None
        self.refresh()

    def _check_row(self, check: Check) -> QWidget:
        made = QWidget()
        row = QHBoxLayout(made)
        row.setContentsMargins(0, 0, 0, 0)
        sign = QLabel()
        sign.setPixmap(pixmap("fault", LIGHT.coral, 16))
        row.addWidget(sign, 0, Qt.AlignmentFlag.AlignTop)
        row.addWidget(label(check.words, "fault", wrap=True), 1)
        if check.contours:
            row.addWidget(button("Show", "choice", lambda: self.session.select(set(check.contours))), 0, Qt.AlignmentFlag.AlignTop)
        return made

    def _ask(self) -> None:
        folder = self.session.path.parent if self.session.path else Path.home()
        name = str(folder / f"{self.session.job.name}.{self._kind}")
        chosen, _ = QFileDialog.getSaveFileName(self, "Hand off", name, f"{self._kind.upper()} (*.{self._kind})")
        if chosen:
            path = Path(chosen)
            self.hand_off(path if path.suffix else path.with_suffix(f".{self._kind}"))

    def hand_off(self, path: Path) -> None:
        """Write the file, read it back and show what was found."""
        try:
            self.session.read_back = hand_off(self.session.job, path)
        except FormatError as error:
            self.session.refused.emit(str(error))
            return
        if self.session.read_back.matches:
            self.session.edit("hand off", hand_off_noted(self.session.job, path.name))
            self.session.said.emit(f"{path.name} handed off and read back: it matches the job")
        else:
            self.session.refused.emit(f"{path.name} does not match the job; do not use it")
        self.refresh()

    def refresh(self) -> None:
        found = checks_of(self.session.job)
        if found != self._shown:
            self._shown = found
            emptied(self._checks)
            for check in found:
                self._checks.addWidget(self._check_row(check))
            if not found:
                self._checks.addWidget(label("Nothing to look at: ready to leave.", "sound", wrap=True))
        back = self.session.read_back
        self.go.setEnabled(bool(self.session.job.operations))
        if back is None:
            return
        self._file.setText(back.file)
        self._contours.setText(f"{back.contours} of {back.wanted}, {back.closed} of {back.closed_wanted}")
        self._worst.setText(f"{back.worst:.4f} mm")
        self._size.setText(f"{back.size[0]:.2f} × {back.size[1]:.2f} mm")
        if back.matches:
            self._verdict.setText(f"It matches the job within {back.allowed:g} mm.")
            self._verdict.setProperty("part", "sound")
        else:
            self._verdict.setText("It does not match the job; do not use it.")
            self._verdict.setProperty("part", "fault")
        if style := self._verdict.style():
            style.polish(self._verdict)
