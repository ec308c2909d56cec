"""What is said and asked across the window: by whom anything happens, to whom it may concern."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from draxet.geometry.contour import Contour

__all__ = ["Messages"]


class Messages(QObject):
    """Sentences for the top line, and requests that whoever can fulfils."""

    announced = pyqtSignal(str)
    refused = pyqtSignal(str)
    lost = pyqtSignal(str)
    """What could not be had, said until one goes on."""
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

    def say_reading(self, words: str, share: float) -> None:
        """How far the file is that is being read; no words where none is."""
        self.is_reading = bool(words)
        self.reading.emit(words, share)

    def flash(self, contours: list[Contour]) -> None:
        """Show for a moment what has gone."""
        self.flashed.emit(tuple(contours))
