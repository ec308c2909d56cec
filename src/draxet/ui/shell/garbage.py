"""Circles of objects are taken apart on the window's thread only: Python's collector else runs on
whichever thread allocates, and widgets among them would be destroyed beside the window that draws
and walks through them."""

from __future__ import annotations

import gc

from PyQt6.QtCore import QObject, QTimer

__all__ = ["Garbage"]

_EVERY_MS = 250


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
