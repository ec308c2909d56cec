"""Says that what is chosen narrows what a tool looks at, and lets it look at all."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QWidget

from draxet.job.findings import count_words
from draxet.job.layout_counts import counted
from draxet.ui.controls.slip_parts import button, label
from draxet.ui.model.session import Session

__all__ = ["NarrowedRow"]


class NarrowedRow(QWidget):
    """There while contours are chosen, but not all of them."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.words = label("", "brass", wrap=True)
        self.all = button("Look at all", "choice", self._look_at_all)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.words, 1)
        row.addWidget(self.all)
        self.refresh()

    def _look_at_all(self) -> None:
        self._session.selection.choose(frozenset())
        self._session.messages.canvas_asked.emit()

    def refresh(self) -> None:
        """Show what is so now."""
        chosen, every = len(self._session.selection.ids), sum(counted(self._session.job))
        self.setVisible(0 < chosen < every)
        self.words.setText(f"Of {count_words(chosen, 'contour')} chosen, of {every}")
