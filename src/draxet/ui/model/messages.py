"""What is said and asked across the window: by whom anything happens, to whom it may concern."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from draxet.geometry.contour import Contour

__all__ = ["Messages"]


class Messages(QObject):
    """Sentences for the top line, and requests that whoever can fulfils."""

    announced = pyqtSignal(str)
    refused = pyqtSignal(str)
    lost = pyqtSignal(str)
    """What could not be had, said until one goes on."""
    offered = pyqtSignal(str, str)
    """What could be done next, and what the button says that does it."""
    reading = pyqtSignal(str, float)
    flashed = pyqtSignal(object)
    number_typed = pyqtSignal(str)
    text_asked = pyqtSignal()
    coupon_asked = pyqtSignal(object)
    """A job that is to take the place of the one in hand, once that may go."""
    fit_asked = pyqtSignal()
    view_asked = pyqtSignal(float, float, float)
    place_asked = pyqtSignal(float, float)
    canvas_asked = pyqtSignal()
    tool_asked = pyqtSignal(str)
    enter_pressed = pyqtSignal()
    leaving = pyqtSignal()
    stop_asked = pyqtSignal()
    preparing_changed = pyqtSignal()
    stop_preparing_asked = pyqtSignal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.is_reading = False
        self._offer: Callable[[], object] | None = None

    def offer(self, words: str, label: str, act: Callable[[], object]) -> None:
        """Say something and offer an act, until something else is said."""
        self.offered.emit(words, label)  # which ends what was offered before
        self._offer = act

    @property
    def offers(self) -> bool:
        """Whether an act is offered now."""
        return self._offer is not None

    def drop_offer(self) -> None:
        """Nothing is offered any more."""
        self._offer = None

    def take_offer(self) -> None:
        """Do what is offered."""
        act, self._offer = self._offer, None
        if act is not None:
            act()

    def say_reading(self, words: str, share: float) -> None:
        """How far the file is that is being read; no words where none is."""
        self.is_reading = bool(words)
        self.reading.emit(words, share)

    def flash(self, contours: list[Contour]) -> None:
        """Show for a moment what has gone."""
        self.flashed.emit(tuple(contours))
