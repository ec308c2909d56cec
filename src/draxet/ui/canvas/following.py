"""The view goes along where the pointer rests near its edge while a contour is open; and the views
before can be had again."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QElapsedTimer, QObject, QTimer

from draxet.ui.canvas.view_camera import Camera

__all__ = ["EdgeFollower", "ViewsBefore"]

_MARGIN = 28.0
_TICK_MS = 40
_REST_TICKS = 5
_STILL_PX = 6.0
_STEP_PX = 9.0
_ONE_MOVE_MS = 700
_MOST_VIEWS = 50


class EdgeFollower(QObject):
    """Pans while the pointer rests in the margin; a pointer on its way out, to a button, does not
    rest there."""

    def __init__(self, parent: QObject, pan: Callable[[float, float], None]) -> None:
        super().__init__(parent)
        self._pan = pan
        self._timer = QTimer(self)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self.tick)
        self._at, self._last, self._size = (0.0, 0.0), (0.0, 0.0), (1.0, 1.0)
        self._rested = 0

    def look(self, at: tuple[float, float] | None, size: tuple[float, float]) -> None:
        """The pointer is there (None where it is not wanted to follow); the view is so large."""
        self._size = size
        if at is None or self._push(at) == (0.0, 0.0):
            self._timer.stop()
            self._rested = 0
            return
        self._at = at
        if not self._timer.isActive():
            self._last, self._rested = at, 0
            self._timer.start()

    def _push(self, at: tuple[float, float]) -> tuple[float, float]:
        """Which way the view goes, 0 or ±1 each."""
        ways = [
            (1.0 if v < _MARGIN else -1.0 if v > long - _MARGIN else 0.0)
            for v, long in zip(at, self._size, strict=True)
        ]
        return ways[0], ways[1]

    def tick(self) -> None:
        """A moment has gone by."""
        still = abs(self._at[0] - self._last[0]) + abs(self._at[1] - self._last[1]) <= _STILL_PX
        self._rested = self._rested + 1 if still else 0
        self._last = self._at
        if self._rested >= _REST_TICKS:
            dx, dy = self._push(self._at)
            self._pan(_STEP_PX * dx, _STEP_PX * dy)


class ViewsBefore:
    """Views that were left; what follows in one move (a turn of the wheel, a pan) is one."""

    def __init__(self) -> None:
        self._views: list[Camera] = []
        self._since = QElapsedTimer()

    def __bool__(self) -> bool:
        return bool(self._views)

    def leave(self, camera: Camera) -> None:
        """A view gives way to another one."""
        again = self._since.isValid() and self._since.elapsed() < _ONE_MOVE_MS
        self._since.start()
        if not again:
            self._views = [*self._views[1 - _MOST_VIEWS :], camera]

    def take(self) -> Camera | None:
        """The last one that was left."""
        self._since.invalidate()
        return self._views.pop() if self._views else None

    def forget(self) -> None:
        self._views = []
