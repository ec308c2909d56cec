"""How card, canvas and slip share the width of the window: where words are large or the window is
narrow the card folds to its keys, and then the slip lies over the canvas while it is wanted."""

from __future__ import annotations

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QLayout, QPushButton, QVBoxLayout, QWidget

from draxet.ui.controls.slip_parts import button
from draxet.ui.look.style import px
from draxet.ui.shell.facts import FactsStrip
from draxet.ui.shell.route_card import RouteCard
from draxet.ui.shell.slip_panel import SlipPanel

__all__ = ["Room"]

_CANVAS = 380
"""Pixels that the canvas is to be wide at the least."""
_LEAST = (420, 300)


class Room(QWidget):
    """Holds all that stands in the window below its menus."""

    def __init__(self, card: RouteCard, work: QLayout, slips: SlipPanel, facts: FactsStrip) -> None:
        super().__init__()
        self.card, self.slips = card, slips
        self._is_over = False
        self.opens: QPushButton = button("‹", "plain", self._turn)
        self.opens.setFixedWidth(px(28))
        self.opens.setSizePolicy(
            self.opens.sizePolicy().horizontalPolicy(), self.opens.sizePolicy().Policy.Expanding
        )
        self.opens.hide()
        self._across = QHBoxLayout()
        self._across.setSpacing(0)
        self._across.addWidget(card)
        self._across.addLayout(work, 1)
        self._across.addWidget(self.opens)
        self._across.addWidget(slips)
        whole = QVBoxLayout(self)
        whole.setSpacing(0)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSizeConstraint(QLayout.SizeConstraint.SetNoConstraint)
        whole.addLayout(self._across, 1)
        whole.addWidget(facts)

    def minimumSizeHint(self) -> QSize:
        """What is left once the card is folded and the slip lies over the canvas."""
        return QSize(*_LEAST)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        wide, slip = self.width(), self.slips.width()
        self.card.fold(wide < self.card.whole_width + slip + _CANVAS)
        self._lay(over=wide < self.card.width() + slip + _CANVAS)

    def _lay(self, *, over: bool) -> None:
        """Beside the canvas, or over it."""
        if over != self._is_over:
            self._is_over = over
            self.opens.setVisible(over)
            if over:
                self._across.removeWidget(self.slips)
                self.slips.hide()
            else:
                self._across.addWidget(self.slips)
                self.slips.show()
        self._place()

    def _place(self) -> None:
        words = "Hide the slip" if self.slips.isVisible() else "Show the slip"
        self.opens.setText("\n".join(("›" if self.slips.isVisible() else "‹", *"Slip")))
        self.opens.setAccessibleName(words)
        self.opens.setToolTip(f"{words} (F6)")
        if self._is_over:
            wide = min(self.slips.width(), self.width() - self.opens.width())
            self.slips.setGeometry(
                self.width() - self.opens.width() - wide,
                0,
                self.slips.width(),
                self._across.geometry().height(),
            )
            self.slips.raise_()

    def open_slip(self) -> None:
        """Where it lies over the canvas: show it."""
        if self._is_over and not self.slips.isVisible():
            self.slips.show()
            self._place()

    def shut_slip(self) -> None:
        """Where it lies over the canvas: hide it."""
        if self._is_over and self.slips.isVisible():
            self.slips.hide()
            self._place()

    def _turn(self) -> None:
        if self.slips.isVisible():
            self.shut_slip()
        else:
            self.open_slip()
            self.slips.enter()

    def watch_focus(self, before: QWidget | None, now: QWidget | None) -> None:
        """Whoever goes on at the canvas or the card wants to see them."""
        if now is not None and self._is_over and self.slips.isVisible():
            if now is self.opens or self.slips.isAncestorOf(now) or not self.isAncestorOf(now):
                return
            self.shut_slip()
