"""Stitch: areas filled with thread; a line dragged over them says at which angle."""

from __future__ import annotations

import math
from collections.abc import Callable

from draxet.job.operations import Stitch
from draxet.ui.model.tool import LineMark, Mark, Pointer, Prompt
from draxet.ui.stages.make.more import thread_facts
from draxet.ui.stages.make.operations import OperationTool
from draxet.ui.stages.slip import Slip

__all__ = ["StitchTool"]

_DRAG_PX = 6.0


class StitchTool(OperationTool):
    """Areas filled with thread, lines run along."""

    kind = Stitch
    _line: tuple[Pointer, Pointer] | None = None
    _gesture: object = None

    def more(self, slip: Slip) -> Callable[[], None]:
        return thread_facts(slip, self)

    def prompt(self) -> Prompt:
        found = super().prompt()
        return Prompt(found.waits, found.hint, (*found.keys, ("Alt", "drag the rows' angle")))

    def press(self, at: Pointer) -> None:
        self._line = (at, at) if at.free else None
        self._gesture = object()
        if self._line is None:
            super().press(at)

    def move(self, at: Pointer) -> None:
        if self._line is None:
            super().move(at)
            return
        begun = self._line[0]
        self._line = begun, at
        if math.hypot(at.x - begun.x, at.y - begun.y) > _DRAG_PX * at.pixel:
            angle = math.degrees(math.atan2(at.y - begun.y, at.x - begun.x)) % 180
            self.change("angle", round(angle, 1), self._gesture)

    def release(self, at: Pointer) -> None:
        line, self._line = self._line, None
        if line is None:
            super().release(at)
        elif math.hypot(at.x - line[0].x, at.y - line[0].y) <= _DRAG_PX * at.pixel:
            super().press(line[0])  # it was a click
            super().release(at)

    def cancel(self) -> bool:
        if self._line is not None:
            self._line = None
            return True
        return super().cancel()

    def marks(self) -> list[Mark]:
        if self._line is None:
            return super().marks()
        a, b = self._line
        return [*super().marks(), LineMark(a.x, a.y, b.x, b.y)]
