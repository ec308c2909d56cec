"""Circles of objects are taken apart on the window's thread only: Python's collector else runs on
whichever thread allocates, and widgets among them would be destroyed beside the window that draws
and walks through them."""

from __future__ import annotations

import contextlib
import ctypes
import gc
import time

from PyQt6.QtCore import QObject, QTimer

__all__ = ["Garbage", "MemoryBack"]

_EVERY_MS = 250
_AT_MOST = 60
"""All of a large job is gone through for so small a share of the time."""
_AFTER_MS = 1000
"""After a job has ended, by when what it held is let go of."""


class Garbage(QObject):
    """Collects in place of Python's own collector, now and then, where what has come together is
    enough."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        gc.disable()
        self._not_before = 0.0
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.look)
        self._timer.start(_EVERY_MS)

    def look(self) -> None:
        """Collect the oldest generation of which there is enough."""
        young, middle, old = gc.get_threshold()
        counts = gc.get_count()
        if counts[0] <= young:
            return
        begun = time.monotonic()
        whole = counts[2] > old > 0 and begun >= self._not_before
        generation = 2 if whole else 1 if counts[1] > middle > 0 else 0
        gc.collect(generation)
        if whole:
            now = time.monotonic()
            self._not_before = now + _AT_MOST * (now - begun)


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
