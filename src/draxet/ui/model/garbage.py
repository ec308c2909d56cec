"""Circles of objects are taken apart on the window's thread only: Python's collector else runs on
whichever thread allocates, and widgets among them would be destroyed beside the window that draws
and walks through them."""

from __future__ import annotations

import contextlib
import ctypes
import gc

from PyQt6.QtCore import QObject, QTimer

__all__ = ["Garbage", "MemoryBack", "let_lie", "look_again"]

_EVERY_MS = 250
_AFTER_MS = 1000
"""After a job has ended, by when what it held is let go of."""


class Garbage(QObject):
    """Collects in place of Python's own collector, now and then, where what has come together is
    enough."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        gc.disable()
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.look)
        self._timer.start(_EVERY_MS)

    def look(self) -> None:
        """Collect the oldest generation of which there is enough."""
        young, middle, old = gc.get_threshold()
        counts = gc.get_count()
        if counts[0] <= young:
            return
        generation = 2 if counts[2] > old > 0 else 1 if counts[1] > middle > 0 else 0
        gc.collect(generation)


def let_lie() -> None:
    """What there is now, a great deal that stays, is not gone through any more: to look through it for
    circles would hold up the window. What nothing holds goes all the same, circles alone wait."""
    gc.freeze()


def look_again() -> None:
    """Go through all of it again."""
    gc.unfreeze()


class MemoryBack(QTimer):
    """Some time after it is started, memory that nothing holds any more goes back to the system;
    the C library would else keep what an ended job's pictures took."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.setSingleShot(True)
        self.setInterval(_AFTER_MS)
        self.timeout.connect(self._give)

    def _give(self) -> None:
        with contextlib.suppress(OSError, AttributeError):  # other C libraries have no such call
            ctypes.CDLL(None).malloc_trim(0)
