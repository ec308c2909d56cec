"""Circles of objects are taken apart on the window's thread only: Python's collector else runs on
whichever thread allocates, and widgets among them would be destroyed beside the window that draws
and walks through them."""

from __future__ import annotations

import contextlib
import ctypes
import gc

from PyQt6.QtCore import QObject, Qt, QTimer
from PyQt6.QtGui import QCursor
from PyQt6.QtWidgets import QApplication

__all__ = ["Garbage", "MemoryBack"]

_EVERY_MS = 250
_MANY = 20_000
"""More objects than these are gone through only while the hand rests: they take longer than a
hand that is at work would wait."""
_RESTS = 4
"""Looks in a row with a pointer that lies still and little that is made, and the hand rests."""
_WAITS = 1200
"""After so many looks they are gone through whether it rests or not."""
_AFTER_MS = 1000
"""After a job has ended, by when what it held is let go of."""


class Garbage(QObject):
    """Collects in place of Python's own collector, now and then, where what has come together is
    enough: a few objects at once, a great many and all there are while the hand rests. What all
    of them have left is set aside until a job ends."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        gc.disable()
        self._rested = self._waited = self._counted = self._middle = 0
        self._pointer = QCursor.pos()
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.look)
        self._timer.start(_EVERY_MS)

    def look(self) -> None:
        """Collect the oldest generation of which there is enough."""
        young, middle, old = gc.get_threshold()
        counts = gc.get_count()
        still = counts[0] - self._counted <= young and not self.at_work()
        self._rested, self._counted = self._rested + 1 if still else 0, counts[0]
        if counts[0] <= young:
            return
        generation = 2 if counts[2] > old > 0 else 1 if counts[1] > middle > 0 else 0
        many = generation == 2 or counts[0] + generation * self._middle > _MANY
        if many and self._rested < _RESTS and self._waited < _WAITS:
            self._waited += 1
            return
        gc.collect(generation)
        if generation == 2:
            gc.freeze()  # what a job holds is gone through once, not again and again
        self._middle = 0 if generation else self._middle + counts[0]
        self._counted = 0
        if many:
            self._waited = 0

    def at_work(self) -> bool:
        """Whether the pointer has moved since the last look, or a button is held."""
        before, self._pointer = self._pointer, QCursor.pos()
        return before != self._pointer or QApplication.mouseButtons() != Qt.MouseButton.NoButton


class MemoryBack(QTimer):
    """Some time after it is started, what was set aside counts as other objects do, and memory that
    nothing holds any more goes back to the system; the C library would else keep what an ended
    job's pictures took."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.setSingleShot(True)
        self.setInterval(_AFTER_MS)
        self.timeout.connect(self._give)

    def _give(self) -> None:
        gc.unfreeze()
        with contextlib.suppress(OSError, AttributeError):  # other C libraries have no such call
            ctypes.CDLL(None).malloc_trim(0)
