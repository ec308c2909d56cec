"""The history as a list: every step in words; a click goes back or on to it."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QDialog, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from draxet.ui.controls.slip_parts import label
from draxet.ui.look.style import px
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.session import Session

__all__ = ["HistoryPage"]


class HistoryPage(QDialog):
    """Stays open beside the work; what is behind the step in force is set in quiet type."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("History")
        self.resize(px(320), px(420))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._session = session
        self._later = QTimer(self)  # a list is not made anew in the midst of its own click
        self._later.setSingleShot(True)
        self._later.timeout.connect(self._show)
        self.list = QListWidget()
        self.list.setAccessibleName("Steps, the first at the top")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        rows = QVBoxLayout(self)
        rows.addWidget(
            label(
                "Choose a step to go back or on to it. Nothing is lost until you do something else.",
                "quiet",
                wrap=True,
            )
        )
        rows.addWidget(self.list)
        self.list.currentRowChanged.connect(self._go)
        session.document.changed.connect(self._later.start)
        self._show()

    def _show(self) -> None:
        states, at = self._session.document.history.states, self._session.document.history.at
        blocked = self.list.blockSignals(True)
        self.list.clear()
        for number, (words, _) in enumerate(states):
            item = QListWidgetItem(
                f"{number}   {words[:1].upper()}{words[1:]}" if number else "0   As it was opened"
            )
            if number > at:
                item.setText(f"{item.text()}   ·   taken back")
                item.setForeground(QColor(LIGHT.quiet))
            self.list.addItem(item)
        self.list.setCurrentRow(at)
        self.list.blockSignals(blocked)

    def _go(self, number: int) -> None:
        if 0 <= number < len(self._session.document.history.states):
            self._session.go_to_step(number)
