"""Stitch: areas filled with thread; a line dragged over them says at which angle."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import shapely

from draxet.geometry.contour import Contour
from draxet.geometry.nesting import area_of
from draxet.job.operations import Stitch
from draxet.make.stitching.stitch_rows import few_rows
from draxet.ui.model.tool import LineMark, Mark, Pointer, Prompt
from draxet.ui.stages.make.more import thread_facts
from draxet.ui.stages.make.operations import OperationTool
from draxet.ui.stages.slip import Slip

__all__ = ["StitchTool"]

_DRAG_PX, _ROWS = 6.0, 40


class StitchTool(OperationTool):
    """Areas filled with thread, lines run along."""

    kind = Stitch
    _line: tuple[Pointer, Pointer] | None = None
    _gesture: object = None
    _turned = False
    _area: Any = None

    def more(self, slip: Slip) -> Callable[[], None]:
        return thread_facts(slip, self)

    def prompt(self) -> Prompt:
        found = super().prompt()
        return Prompt(found.waits, found.hint, (*found.keys, ("Alt", "drag the rows' angle")))

    def press(self, at: Pointer) -> None:
        self._line = (at, at) if at.free else None
        self._gesture, self._turned = object(), False
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
            if not self._turned:
                self._area, self._turned = self._filled(), True
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
        settings: Any = self.record
        rows = few_rows(self._area, settings.angle, _ROWS) if self._turned else []
        lines = [LineMark(x0, y0, x1, y1) for x0, y0, x1, y1 in rows]
        return [*super().marks(), *lines, LineMark(a.x, a.y, b.x, b.y)]

    def _filled(self) -> Any:
        """What the operation in hand fills, or what is chosen."""
        names = set(self.record.contours or self._session.selection.ids)
        areas = dict[str, list[Contour]]()
        for item in self._session.job.layout.contours:
            if item.id in names and item.contour.closed:
                areas.setdefault(item.colour, []).append(item.contour)
        return shapely.union_all([area_of(some) for some in areas.values()])
