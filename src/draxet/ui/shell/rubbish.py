"""Rubbish collection on the window's thread only.

Python collects what refers to itself in circles on whichever thread happens to allocate next. A
widget that is taken apart on a worker's thread leaves Qt in ruins, so collection runs from a timer
on the window's own thread instead.
"""

from __future__ import annotations

import gc

from PyQt6.QtCore import QObject, QTimer

__all__ = ["collect_on_this_thread"]

_EVERY = 400
"""Milliseconds between looks."""


def collect_on_this_thread(owner: QObject) -> None:
    """From now on rubbish is collected by this thread's event loop, for as long as `owner`
    lives."""
    gc.disable()
    timer = QTimer(owner)
    timer.timeout.connect(_collect)
    timer.start(_EVERY)


def _collect() -> None:
    due = [
        count > threshold
        for count, threshold in zip(gc.get_count(), gc.get_threshold(), strict=True)
    ]
    if due[0]:
        gc.collect(2 if due[1] and due[2] else 1 if due[1] else 0)
