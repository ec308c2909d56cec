"""Stitch: areas filled with thread; a line dragged over them says at which angle."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import shapely
from shapely import LineString

from draxet.geometry.arc_length import ArcLength
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import area_of
from draxet.job.make_edits import put_across
from draxet.job.operations import Stitch
from draxet.job.spots import share_near
from draxet.make.stitching.stitch_rows import few_rows
from draxet.ui.model.tool import LineMark, Mark, Pointer, Prompt
from draxet.ui.stages.make.more import thread_facts
from draxet.ui.stages.make.operations import OperationTool
from draxet.ui.stages.slip import Slip

__all__ = ["StitchTool"]

_DRAG_PX, _ROWS, _FINE = 6.0, 40, 0.01


class StitchTool(OperationTool):
    """Areas filled with thread, lines run along."""

    kind = Stitch
    _line: tuple[Pointer, Pointer] | None = None
    _gesture: object = None
    _turned = False
    _area: Any = None

    def more(self, slip: Slip) -> Callable[[], None]:
        return thread_facts(slip, self)

    @property
    def nothing_yet(self) -> str:
        if self._session.job.pictures:
            return "A picture is not sewn as it is: areas of its colours are"
        return super().nothing_yet

    def prompt(self) -> Prompt:
        found = super().prompt()
        settings: Any = self.record
        drags = "drag across, as satin goes" if settings.is_led else "drag the rows' angle"
        return Prompt(found.waits, found.hint, (*found.keys, ("Alt", drags)))

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
        settings: Any = self.record
        if settings.is_led:
            return
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
        else:
            self._lead(line[0], at)

    def cancel(self) -> bool:
        if self._line is not None:
            self._line = None
            return True
        return super().cancel()

    def marks(self) -> list[Mark]:
        settings: Any = self.record
        if self._line is None:
            return [*super().marks(), *self._leads()]
        a, b = self._line
        rows = few_rows(self._area, settings.angle, _ROWS) if self._turned else []
        lines = [LineMark(x0, y0, x1, y1) for x0, y0, x1, y1 in rows]
        return [*super().marks(), *self._leads(), *lines, LineMark(a.x, a.y, b.x, b.y)]

    def _lead(self, begin: Pointer, end: Pointer) -> None:
        """Satin goes along a line from where that enters what is sewn to where it leaves it."""
        settings: Any = self.record
        if not settings.is_led:
            return
        if not self.in_hand:
            self._session.messages.refused.emit("Give the satin first, or choose what has one.")
            return
        operation, line = self.in_hand[0], LineString([(begin.x, begin.y), (end.x, end.y)])
        found = list[tuple[float, str, float]]()
        for name in operation.contours:
            contour = self._session.job.layout.contour_by_id[name].contour
            met = shapely.get_coordinates(shapely.intersection(line, _rim(contour)))
            for x, y in met.tolist():
                along = math.hypot(x - begin.x, y - begin.y)
                found.append((along, name, share_near(contour, x, y)))
        found.sort()
        if len(found) < 2:
            self._session.messages.refused.emit(
                "The line must go across what is sewn, from one side to the other."
            )
            return
        pairs = list(zip(found, found[1:], strict=False))[:: 2 if len(found) % 2 == 0 else 1]
        one, other = max(pairs, key=lambda pair: pair[1][0] - pair[0][0])
        job = put_across(self._session.job, operation, one[1:], other[1:])
        self._session.edit("lead satin across", job)

    def _leads(self) -> list[Mark]:
        """The lines across of the operations in hand."""
        found, contours = list[Mark](), self._session.job.layout.contour_by_id
        for operation in self.in_hand:
            ends = dict[int, list[tuple[float, float]]]()
            for spot in operation.spots:
                if spot.what == "across" and spot.contour in contours:
                    measured = ArcLength(contours[spot.contour].contour)
                    x, y = measured.place(spot.share * measured.length).tolist()
                    ends.setdefault(spot.pair, []).append((x, y))
            found += [LineMark(*two[0], *two[1]) for two in ends.values() if len(two) == 2]
        return found

    def _filled(self) -> Any:
        """What the operation in hand fills, or what is chosen."""
        names = set(self.record.contours or self._session.selection.ids)
        areas = dict[str, list[Contour]]()
        for item in self._session.job.layout.contours:
            if item.id in names and item.contour.closed:
                areas.setdefault(item.colour, []).append(item.contour)
        return shapely.union_all([area_of(some) for some in areas.values()])


def _rim(contour: Contour) -> shapely.Geometry:
    points = contour.flattened(_FINE)
    return shapely.LinearRing(points) if contour.closed else LineString(points)
