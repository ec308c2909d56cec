"""The tool of live symmetry: what is drawn on one side of a line, or in one sector of a ring, is
drawn in the others as well."""

from __future__ import annotations

import math

from draxet.ui.controls.slip_parts import allow, button
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Mark, Tool
from draxet.ui.stages.gesture import GestureTool
from draxet.ui.stages.mirrored import Symmetry, symmetry
from draxet.ui.stages.slip import Slip
from draxet.ui.stages.want import Gesture, Place, Want, polar

__all__ = ["SymmetrySlip", "SymmetryTool"]


class SymmetryTool(GestureTool):
    """A line through two places, or the middle of a ring; whatever draws keeps to it from then
    on."""

    title = "Symmetry"

    @property
    def settings(self) -> Symmetry:
        return symmetry(self.session)

    def gesture(self) -> Gesture:
        s = self.settings
        if s.by == "ring":
            middle = (
                yield Want(
                    "click the middle of the ring",
                    marks=lambda at: Symmetry("ring", s.sectors, *at, placed=True).marks(),
                )
            ).place
            s.x, s.y, s.placed = *middle, True
        else:
            a = (yield Want("click a place of the line")).place
            b = yield Want(
                "click another place of it, or type its angle",
                ("angle",),
                polar(a),
                lambda at: self._looks(a, at),
                a,
                back=(a,),
            )
            if math.dist(a, b.place) <= 0:
                self.session.messages.refused.emit(
                    "Symmetry: both places are the same; click farther apart."
                )
                return
            s.by, s.x, s.y, s.placed = "line", *a, True
            s.angle = b.numbers.get(
                "angle", math.degrees(math.atan2(b.place[1] - a[1], b.place[0] - a[0]))
            )
        self.session.messages.announced.emit(
            "Symmetry is on: draw on one side"
            if s.by == "line"
            else f"Symmetry is on: draw in one of {s.sectors} sectors"
        )
        self.session.tool_changed.emit()

    @staticmethod
    def _looks(a: Place, at: Place) -> list[Mark]:
        angle = math.degrees(math.atan2(at[1] - a[1], at[0] - a[0]))
        return (
            Symmetry("line", 6, *a, angle=angle, placed=True).marks()
            if math.dist(a, at) > 0
            else []
        )

    def marks(self) -> list[Mark]:
        return [*self.settings.marks(), *super().marks()]


class SymmetrySlip(Slip):
    """By a line or round a middle, and off."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(
            session,
            "Symmetry",
            "What is drawn on one side of a line, or in one sector of a ring, is drawn in the others, and follows it afterwards. A contour that runs from edge to edge becomes one closed contour.",
        )
        self._tool, self.settings = tool, symmetry(session)
        self.asked = self.ask(self.settings, self._set, ("by", "sectors"))
        self.off = button("Switch it off", "plain", lambda: self._set("by", "off", None))
        self.add(self.off)
        self.refresh()

    def _set(self, name: str, value: object, gesture: object) -> None:
        if name == "by" and value != self.settings.by:
            self.settings.placed = False
        setattr(self.settings, name, value)
        if name == "by" and isinstance(self._tool, GestureTool):
            self._tool.forget()  # another gesture
        self.session.tool_changed.emit()
        self.session.marks_changed.emit()
        self.session.messages.canvas_asked.emit()

    def refresh(self) -> None:
        self.asked.show_of(self.settings)
        self.asked.rows["sectors"].setVisible(self.settings.by == "ring")
        allow(self.off, self.settings.on, "it is off already")
