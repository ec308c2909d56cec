"""Findings in a slip: what is wrong, a jump to it, and its mend."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from draxet.job.findings import Finding, Gravity
from draxet.ui.controls.slip_parts import button, emptied, label
from draxet.ui.look.icons import pixmap
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.session import Session

__all__ = ["FindingRows", "jump_to", "words_of_finding"]

_LOOKS = {
    Gravity.STOPS: ("fault", LIGHT.coral, "fault"),
    Gravity.WARNS: ("warn", LIGHT.brass, "brass"),
    Gravity.INFORMS: ("note", LIGHT.quiet, "quiet"),
}
_GRAVE = {Gravity.STOPS: "stops", Gravity.WARNS: "look", Gravity.INFORMS: "note"}


_FEW = 3
"""So many are listed at first, and all that stop the sign-off."""


def words_of_finding(finding: Finding) -> str:
    """How grave it is, and what."""
    return f"{_GRAVE[finding.gravity]}: {finding.words}"


def jump_to(session: Session, finding: Finding, number: int = 0) -> None:
    """Choose what is meant, and go to one of its places."""
    by_id = session.layout.contour_by_id
    session.selection.choose({one for one in finding.ids if one in by_id})
    if finding.places:
        session.messages.place_asked.emit(*finding.places[number % len(finding.places)])


class FindingRows(QWidget):
    """A row for each finding; where there is none, a sentence. Of many the gravest are listed, and
    the others once they are asked for."""

    def __init__(self, session: Session, none: str) -> None:
        super().__init__()
        self._session, self._none = session, none
        self._rows = QVBoxLayout(self)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setSpacing(8)
        self.shown: tuple[Finding, ...] | None = None
        self._next: dict[str, int] = {}
        self._all = False

    def show_findings(self, findings: Sequence[Finding]) -> None:
        """Show these, made anew only where they are other ones."""
        if tuple(findings) == self.shown:
            return
        self.shown = tuple(findings)
        self._list()

    def _list(self) -> None:
        findings = self.shown or ()
        emptied(self._rows)
        few = max(_FEW, sum(finding.gravity is Gravity.STOPS for finding in findings))
        few = len(findings) if self._all or len(findings) == few + 1 else few
        for finding in findings[:few]:
            self._rows.addWidget(self._row(finding))
        if len(findings) > _FEW + 1 and (self._all or len(findings) > few):
            self._rows.addWidget(
                button(
                    "List fewer" if self._all else f"List {len(findings) - few} more",
                    "plain",
                    self._turn,
                )
            )
        if not findings and self._none:
            self._rows.addWidget(label(self._none, "sound", wrap=True))

    def _turn(self) -> None:
        self._all = not self._all
        self._list()

    def _row(self, finding: Finding) -> QWidget:
        sign, colour, part = _LOOKS[finding.gravity]
        made = QWidget()
        made.setAccessibleName(words_of_finding(finding))
        row = QHBoxLayout(made)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        mark = QLabel()
        mark.setPixmap(pixmap(sign, colour, 16))
        mark.setToolTip(
            {
                Gravity.STOPS: "stops the sign-off",
                Gravity.WARNS: "look at it first",
                Gravity.INFORMS: "good to know",
            }[finding.gravity]
        )
        row.addWidget(mark, 0, Qt.AlignmentFlag.AlignTop)
        row.addWidget(label(finding.words, part, wrap=True), 1)
        acts = QVBoxLayout()
        acts.setSpacing(4)
        if finding.ids or finding.places:
            show = button("Show", "choice", lambda: self._jump(finding))
            show.setAccessibleName(f"Show: {finding.words}")
            acts.addWidget(show)
        acts.addStretch(1)
        row.addLayout(acts)
        if finding.mend is None:
            return made
        whole = QWidget()
        rows = QVBoxLayout(whole)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(4)
        rows.addWidget(made)
        mend = button(finding.mend_words, "plain", lambda: self._mend(finding))
        mend.setAccessibleName(f"{finding.mend_words}: {finding.words}")
        rows.addWidget(mend)
        return whole

    def _jump(self, finding: Finding) -> None:
        """Go to its places one after the other."""
        k = self._next.get(finding.kind, 0)
        self._next[finding.kind] = k + 1
        jump_to(self._session, finding, k)

    def _mend(self, finding: Finding) -> None:
        if finding.mend is not None:
            self._session.edit(finding.mend_words.lower(), finding.mend(self._session.job))
