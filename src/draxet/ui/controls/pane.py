"""Panes beside the canvas: Tab goes round within one, Esc goes back to the canvas."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPoint, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QApplication, QScrollArea, QWidget

from draxet.ui.controls.fields import TAKEN, Field, WordField

__all__ = ["Pane"]

_ROW = 12


class Pane(QWidget):
    """A column of controls that is gone through by keys, from top to bottom and from left to
    right."""

    left = pyqtSignal()
    """Esc, or Enter in a field: the canvas is wanted."""

    def __init__(self) -> None:
        super().__init__()
        self._last: QWidget | None = None
        self._gone_at = (0, 0)
        self._gone = QTimer(self)
        self._gone.setSingleShot(True)
        self._gone.timeout.connect(self._go_on)

    def enter(self) -> bool:
        """Give the keys to the control that had them last, else to the first; whether there is one."""
        stops = self._stops()
        if stops:
            (self._last if self._last in stops else self.first(stops)).setFocus(
                Qt.FocusReason.TabFocusReason
            )
        return bool(stops)

    def first(self, stops: list[QWidget]) -> QWidget:
        """Where one enters at the first time."""
        return stops[0]

    def focusNextPrevChild(self, forward: bool) -> bool:
        """By Tab; where Qt asks as what has the keys is disabled or hidden, they go on once that is
        over: to walk through widgets within it has crashed."""
        at = QApplication.focusWidget()
        if at is not None and not (QWidget.isEnabled(at) and at.isVisible()):
            middle = at.mapTo(self, QPoint(0, at.height() // 2))
            self._gone.start(0)
            self._gone_at = (middle.y() // _ROW, middle.x())
            return False
        stops = self._stops()
        if stops:
            way = 1 if forward else -1
            self._give(stops[(stops.index(at) + way) % len(stops) if at in stops else 0], forward)
        return bool(stops)

    def _go_on(self) -> None:
        """The keys go to what comes after where they were lost, unless they are elsewhere now."""
        window = self.window()
        at = window.focusWidget() if window else None
        if at is not None and QWidget.isEnabled(at) and at.isVisible():
            return
        stops = self._stops()
        later = [at for at in stops if _place_in(self, at) >= self._gone_at]
        if stops:
            self._give((later or stops)[0], True)

    def _give(self, stop: QWidget, forward: bool) -> None:
        """Give the keys to a control, and bring it into sight."""
        stop.setFocus(
            Qt.FocusReason.TabFocusReason if forward else Qt.FocusReason.BacktabFocusReason
        )
        self._last = stop
        around = stop.parentWidget()
        while around is not None and around is not self:
            if isinstance(around, QScrollArea):
                around.ensureWidgetVisible(stop, 0, 16)
            around = around.parentWidget()

    def _stops(self) -> list[QWidget]:
        """Not by Qt's chain of focus: that leads through the whole window, also past what is being
        taken apart, and has crashed there."""
        children = (
            at
            for at in self.findChildren(QWidget)
            if at.focusPolicy() & Qt.FocusPolicy.TabFocus and not isinstance(at, QScrollArea)
        )
        found = [
            at for at in children if at.isVisibleTo(self) and QWidget.isEnabled(at)
        ]  # also what says why it cannot be pressed
        return sorted(found, key=lambda at: _place_in(self, at))

    def event(self, event: QEvent | None) -> bool:
        """A field took what was typed: keys belong to the canvas again, digits too."""
        if event is not None and event.type() == TAKEN:
            self._leave(QApplication.focusWidget())
            event.accept()
            return True
        return super().event(event)

    def _leave(self, at: QWidget | None) -> None:
        self._last = at if at is not None and self.isAncestorOf(at) else None
        self.left.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            at = QApplication.focusWidget()
            if isinstance(at, (Field, WordField)):
                at.give_up()
            self._leave(at)
        else:
            super().keyPressEvent(event)


def _place_in(pane: QWidget, at: QWidget) -> tuple[int, int]:
    """The row and the place in it where a control stands."""
    place = at.mapTo(pane, QPoint(0, at.height() // 2))
    return place.y() // _ROW, place.x()
