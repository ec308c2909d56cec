"""Points: places to drill, to mark or to draw by; and small constructions that give them."""

from __future__ import annotations

import math
from typing import Annotated

import numpy as np

from draxet.geometry.arrays import Points
from draxet.geometry.constructions import (
    circle_at,
    common_tangents,
    divided_span,
    evenly_between,
    mirror_line,
)
from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.contour_edits import add_contours
from draxet.job.contour_records import Point
from draxet.job.find import contour_at, span_at
from draxet.job.findings import count_words
from draxet.job.guide_edits import add_guide, half_turn
from draxet.job.point_edits import add_point, move_point, remove_points
from draxet.job.ranges import OneOf, Within
from draxet.record import record
from draxet.ui.controls.slip_parts import allow, button, fact_row
from draxet.ui.model.session import Session
from draxet.ui.model.tool import LineMark, Mark, Pointer, SignMark, Tool
from draxet.ui.stages.gesture import GestureTool
from draxet.ui.stages.mirrored import symmetry
from draxet.ui.stages.slip import Slip
from draxet.ui.stages.want import Gesture, Place, Want, polar

__all__ = ["ConstructSlip", "ConstructTool", "PointSlip", "PointTool"]

_REACH = 9.0
_WAYS = (
    ("middle", "middle"),
    ("centre", "centre"),
    ("division", "division"),
    ("gap", "gap"),
    ("tangents", "tangents"),
    ("mirror", "mirror line"),
)


def _put_points(session: Session, words: str, places: list[Place] | Points) -> None:
    job, again = session.job, symmetry(session).places()
    for x, y in places:
        job = add_point(job, float(x), float(y))
        for place in again:
            job = add_point(job, *place.point(float(x), float(y)))
    session.edit(words, job)


class PointTool(GestureTool):
    """Click where a point is to be; drag one that is there, or remove it."""

    title = "Point"

    def __init__(self, session: Session) -> None:
        self._held: Point | None = None
        self._hot: Point | None = None
        self._to: Place = (0.0, 0.0)
        super().__init__(session)

    def gesture(self) -> Gesture:
        before = (
            (self.session.layout.points[-1].x, self.session.layout.points[-1].y)
            if self.session.layout.points
            else None
        )
        numbers = ("length", "angle") if before else ()
        at = yield Want(
            "click where a point is to be, or drag one",
            numbers,
            polar(before) if before else None,
            start=before,
        )
        _put_points(self.session, "set a point", [at.place])

    def _at_point(self, at: Pointer) -> Point | None:
        near = [
            (math.hypot(p.x - at.x, p.y - at.y), k)
            for k, p in enumerate(self.session.layout.points)
        ]
        away, k = min(near, default=(math.inf, 0))
        return self.session.layout.points[k] if away <= _REACH * at.pixel else None

    @property
    def follows(self) -> bool:
        return False

    def press(self, at: Pointer) -> None:
        self._held = self._at_point(at)
        if self._held is None:
            super().press(at)

    def move(self, at: Pointer) -> None:
        super().move(at)
        self._hot, self._to = self._held or self._at_point(at), self._at.place

    def release(self, at: Pointer) -> None:
        held, self._held = self._held, None
        if held is None:
            super().release(at)
        elif math.hypot(at.x - held.x, at.y - held.y) > 3 * at.pixel:
            self.session.edit("move a point", move_point(self.session.job, held.id, *self._to))

    def remove(self) -> bool:
        if self._held is not None:
            self.session.messages.refused.emit("Let go of what is held first.")
            return True
        if self._hot is None or all(p.id != self._hot.id for p in self.session.layout.points):
            return False
        gone, self._hot = self._hot, None
        self.session.edit("remove a point", remove_points(self.session.job, [gone.id]))
        return True

    def cancel(self) -> bool:
        held, self._held = self._held, None
        return held is not None or super().cancel()

    def forget(self) -> None:
        super().forget()
        self._held = self._hot = None

    def marks(self) -> list[Mark]:
        if self._held is not None:
            return [
                SignMark(*self._to, "point", hot=True),
                LineMark(self._held.x, self._held.y, *self._to, "note"),
            ]
        hot = [SignMark(self._hot.x, self._hot.y, "point", hot=True)] if self._hot else []
        return [*symmetry(self.session).marks(), *super().marks(), *hot]


class PointSlip(Slip):
    """How many points there are, and all of them gone at once."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(
            session,
            "Point",
            "Places to drill, to mark or to draw by. They are caught, and never cut by themselves. Length and angle count from the point before.",
        )
        count, self._count = fact_row("Points")
        self.clear = button(
            "Remove all points",
            "plain",
            lambda: session.edit(
                "remove all points", remove_points(session.job, [p.id for p in session.job.points])
            ),
        )
        self.add(count, self.clear)
        self.refresh()

    def refresh(self) -> None:
        points = len(self.session.layout.points)
        self._count.setText(str(points) if points else "none")
        allow(self.clear, points, "there are no points")


@record
class ConstructSettings:
    """What is constructed, and into how many parts something is divided."""

    way: Annotated[str, OneOf(tuple(way for way, _ in _WAYS)), Asked("", choices=_WAYS)] = "middle"
    parts: Annotated[int, Within(2, 1000), Asked("Parts")] = 2


class ConstructTool(GestureTool):
    """Middles, centres, equal divisions, tangents and mirror lines, by a click or two."""

    title = "Construct"

    @property
    def settings(self) -> ConstructSettings:
        return self.session.desk.settings("construct", ConstructSettings)

    def gesture(self) -> Gesture:
        way = self.settings.way
        if way in ("middle", "gap"):
            yield from self._between(
                2 if way == "middle" else self.settings.parts, typed=way == "gap"
            )
        elif way == "tangents":
            yield from self._tangents()
        else:
            words = {
                "centre": "click an arc or a circle",
                "division": "click the span to divide",
                "mirror": "click a contour",
            }[way]
            at = yield Want(words, ("parts",) if way == "division" else (), lambda numbers, to: to)
            {"centre": self._centre, "division": self._divide, "mirror": self._mirror}[way](
                at.place, int(at.numbers.get("parts", self.settings.parts))
            )

    def _between(self, parts: int, *, typed: bool) -> Gesture:
        a = (yield Want("click the first place")).place
        b = yield Want(
            "click the second place",
            ("parts",) if typed else (),
            lambda numbers, at: at,
            lambda at: self._looks(a, at, parts),
            a,
            back=(a,),
        )
        _put_points(
            self.session,
            "divide a gap" if typed else "set the middle",
            evenly_between(a, b.place, int(b.numbers.get("parts", parts))),
        )

    @staticmethod
    def _looks(a: Place, at: Place, parts: int) -> list[Mark]:
        return [
            LineMark(*a, *at, "note"),
            *(SignMark(x, y, "point", hot=True) for x, y in evenly_between(a, at, parts)[:200]),
        ]

    def _span(self, at: Place) -> tuple[Contour, int] | None:
        found = span_at(self.session.selection.catchable, *at, _REACH * self._pixel)
        if found is None:
            self.session.messages.refused.emit(
                f"{self.title}: there is no contour under the pointer; click on one."
            )
            return None
        return next(
            item.contour for item in self.session.selection.catchable if item.id == found[0]
        ), found[1]

    def _centre(self, at: Place, parts: int) -> None:
        found = self._span(at)
        circle = circle_at(found[0].spans, found[1]) if found else None
        if circle:
            _put_points(self.session, "set a centre", [circle[:2]])
        elif found:
            self.session.messages.refused.emit(
                "Construct: this span is no arc and has no centre; click an arc or a circle."
            )

    def _divide(self, at: Place, parts: int) -> None:
        found = self._span(at)
        if found:
            contour, span = found
            whole = contour.circle_shape
            if whole is not None:  # a circle is divided all round, from its first node
                start = contour.nodes[0] - np.array(whole[:2])
                turns = math.atan2(start[1], start[0]) + 2 * math.pi * np.arange(parts) / parts
                _put_points(
                    self.session,
                    "divide a circle",
                    np.column_stack(
                        [whole[0] + whole[2] * np.cos(turns), whole[1] + whole[2] * np.sin(turns)]
                    ),
                )
            else:
                _put_points(self.session, "divide a span", divided_span(contour.spans, span, parts))

    def _mirror(self, at: Place, parts: int) -> None:
        name = contour_at(self.session.selection.catchable, *at, _REACH * self._pixel)
        item = next((each for each in self.session.selection.catchable if each.id == name), None)
        if item is None:
            self.session.messages.refused.emit(
                "Construct: there is no contour under the pointer; click on one."
            )
            return
        line = mirror_line(item.contour, self.session.job.exactness.tolerance)
        if line is None:
            self.session.messages.refused.emit(
                "Construct: this contour is not symmetrical within what the work must hold."
            )
        else:
            x, y, angle = line
            self.session.edit(
                "set a mirror line",
                add_guide(self.session.job, x, y, half_turn(math.degrees(angle))),
            )

    def _tangents(self) -> Gesture:
        a = (yield Want("click a circle, or a place")).place
        b = (
            yield Want(
                "click the circle to touch", marks=lambda at: [LineMark(*a, *at, "note")], back=(a,)
            )
        ).place
        one, other = self._circle(a), self._circle(b)
        lines = common_tangents(one, other) if max(one[2], other[2]) > 0 else []
        if not lines:
            self.session.messages.refused.emit(
                "Construct: there is no line that touches both; click circles that do not lie within each other."
            )
            return
        made = [Contour.make([p, q], closed=False) for p, q in lines if math.dist(p, q) > 1e-9]
        self.session.edit("draw tangents", add_contours(self.session.job, made))
        self.session.messages.announced.emit(
            f"{count_words(len(made), 'tangent')}; remove those that are not wanted"
        )

    def _circle(self, at: Place) -> tuple[float, float, float]:
        """The circle under a place, else the place itself."""
        found = span_at(self.session.selection.catchable, *at, _REACH * self._pixel)
        if found is not None:
            contour = next(
                item.contour for item in self.session.selection.catchable if item.id == found[0]
            )
            if circle := circle_at(contour.spans, found[1]):
                return circle
        return (*at, 0.0)


class ConstructSlip(Slip):
    """What is constructed."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(
            session,
            "Construct",
            "Points in the middle, at a centre or evenly along; tangents from a place or a circle to a circle; the line by which a shape is symmetrical, as a guide.",
        )
        self._tool, self.settings = tool, session.desk.settings("construct", ConstructSettings)
        self.asked = self.ask(self.settings, self._set)
        self.refresh()

    def _set(self, name: str, value: object, gesture: object) -> None:
        setattr(self.settings, name, value)
        if isinstance(self._tool, GestureTool):
            self._tool.forget()  # another gesture
        self.session.tool_changed.emit()
        self.session.messages.canvas_asked.emit()

    def refresh(self) -> None:
        self.asked.show_of(self.settings)
        self.asked.rows["parts"].setVisible(self.settings.way in ("division", "gap"))
