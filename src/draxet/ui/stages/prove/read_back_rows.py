"""What was read back of each file that left, and whether that is still so."""

from __future__ import annotations

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from draxet.job.findings import Gravity
from draxet.leaving.leaving_kind import LeftTogether
from draxet.ui.controls.slip_parts import emptied, label, set_part
from draxet.ui.model.session import Session

__all__ = ["ReadBackRows"]


class ReadBackRows(QWidget):
    """A line for each file, and one that says what they are worth now."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        self._left = QVBoxLayout()
        self.verdict = label("", "quiet", wrap=True)
        column.addLayout(self._left)
        column.addWidget(self.verdict)
        self._shown: LeftTogether | None = None

    def refresh(self) -> None:
        """Show what was left last."""
        left = self._session.left
        if left is not self._shown:
            self._shown = left
            emptied(self._left)
            for file in left.files if left else ():
                how = "sound" if file.read_back.matches else "fault"
                self._left.addWidget(label(f"{file.file}: {file.read_back.words}", how, wrap=True))
        words, part = self._verdict_of(left)
        self.verdict.setText(words)
        set_part(self.verdict, part=part)

    def _verdict_of(self, left: LeftTogether | None) -> tuple[str, str]:
        job = self._session.job
        if left is None:
            return "Nothing handed off yet.", "quiet"
        if not left.matches:
            return "It did not match the job and was not kept; do not use it.", "fault"
        if left.work != job.work_digest(job.sheet):
            return (
                "The work has changed since, or another sheet is in hand: hand it off again.",
                "brass",
            )
        if any(finding.gravity is Gravity.STOPS for finding in self._session.looked.findings):
            return ("It matches the job, but the job has faults: see above.", "brass")
        return "It matches the job.", "sound"
