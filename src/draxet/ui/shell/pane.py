"""Panes beside the canvas: Tab goes round within one, Esc goes back to the canvas."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QApplication, QScrollArea, QWidget

from draxet.ui.shell.fields import Field, WordField

__all__ = ["Pane"]

_ROW = 12


class Pane(QWidget):
    """A column of controls that is gone through by keys, from top to bottom and from left to
    right."""

    left = pyqtSignal()
    """Esc: the canvas is wanted."""

    def __init__(self) -> None:
        super().__init__()
        self._last: QWidget | None = None

    def enter(self) -> None:
        """Give the keys to the control that had them last, else to the first."""
        stops = self._stops()
        if stops:
            (self._last if self._last in stops else self.first(stops)).setFocus(
                Qt.FocusReason.TabFocusReason
            )

    def first(self, stops: list[QWidget]) -> QWidget:
        """Where one enters at the first time."""
        return stops[0]

    def focusNextPrevChild(self, forward: bool) -> bool:
        stops, at = self._stops(), QApplication.focusWidget()
        if not stops:
            return False
        number = (stops.index(at) + (1 if forward else -1)) % len(stops) if at in stops else 0
        stops[number].setFocus(
            Qt.FocusReason.TabFocusReason if forward else Qt.FocusReason.BacktabFocusReason
        )
        self._last = stops[number]
        around = stops[number].parentWidget()
        while around is not None and around is not self:
            if isinstance(around, QScrollArea):
                around.ensureWidgetVisible(stops[number], 0, 16)
            around = around.parentWidget()
        return True

    def _stops(self) -> list[QWidget]:
        """Not by Qt's chain of focus: that leads through the whole window, also past what is being
        taken apart, and has crashed there."""
        children = (
            at
            for at in self.findChildren(QWidget)
            if at.focusPolicy() & Qt.FocusPolicy.TabFocus and not isinstance(at, QScrollArea)
        )
        found = [at for at in children if at.isVisibleTo(self) and at.isEnabled()]
        places = {w: w.mapTo(self, QPoint(0, w.height() // 2)) for w in found}
        return sorted(places, key=lambda w: (places[w].y() // _ROW, places[w].x()))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            at = QApplication.focusWidget()
            if isinstance(at, (Field, WordField)):
                at.give_up()
            self._last = at if at is not None and self.isAncestorOf(at) else None
            self.left.emit()
        else:
            super().keyPressEvent(event)
