"""Live symmetry: what is drawn on one side of a line, or in one sector of a ring, is drawn in the
others as well."""

from __future__ import annotations

import math
from typing import Annotated

from draxet.geometry.affine import Affine
from draxet.geometry.constructions import mirrored_by
from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.ranges import Coordinate, OneOf, Within
from draxet.mend.arrange import half_with_mirror, ring_of_sectors
from draxet.mend.nodes import deviation_between
from draxet.record import record
from draxet.ui.controls.slip_parts import button
from draxet.ui.model.session import Session
from draxet.ui.model.tool import ContourMark, LineMark, Mark, Tool
from draxet.ui.stages.gesture import Gesture, GestureTool, Place, Want, polar
from draxet.ui.stages.slip import Slip

__all__ = ["Symmetry", "SymmetrySlip", "SymmetryTool", "symmetry"]

_FAR = 1e4
_SAME = 1e-6
_MOST_SHOWN = 60


@record
class Symmetry:
    """What is drawn again, kept with the job. x, y : a place of the line, or the middle of the
    ring; angle : the line's, in degrees.
    sectors : how many a ring has."""

    by: Annotated[
        str,
        OneOf(("off", "line", "ring")),
        Asked("", choices=(("off", "off"), ("line", "line"), ("ring", "ring"))),
    ] = "off"
    sectors: Annotated[int, Within(2, 200), Asked("Sectors", slider=(2, 24))] = 6
    x: Coordinate = 0.0
    y: Coordinate = 0.0
    angle: Annotated[float, Within(-360.0, 360.0)] = 90.0
    placed: bool = False

    @property
    def on(self) -> bool:
        return self.by != "off" and self.placed

    def places(self) -> list[Affine]:
        """The maps under which all that is drawn is drawn again."""
        if not self.on:
            return []
        if self.by == "line":
            return [mirrored_by(self.x, self.y, math.radians(self.angle))]
        return [
            Affine.turned(360.0 * k / self.sectors).about(self.x, self.y)
            for k in range(1, self.sectors)
        ]

    def copies(self, contour: Contour) -> list[Affine]:
        """The places at which a contour is drawn again: none where it would lie on itself."""
        return [place for place in self.places() if not _same(contour, contour.transformed(place))]

    def joined(self, contour: Contour) -> Contour | None:
        """One closed contour of an open one that runs from edge to edge of its half or sector, and
        of its copies; None where it does not."""
        if not self.on or contour.closed:
            return None
        if self.by == "line":
            turn = math.radians(self.angle)
            return half_with_mirror(
                contour, (self.x, self.y), (self.x + math.cos(turn), self.y + math.sin(turn))
            )
        return ring_of_sectors(contour, (self.x, self.y), self.sectors)

    def marks(self) -> list[Mark]:
        """The line, or the rays between the sectors."""
        if not self.on:
            return []
        if self.by == "line":
            dx, dy = (
                _FAR * math.cos(math.radians(self.angle)),
                _FAR * math.sin(math.radians(self.angle)),
            )
            return [LineMark(self.x - dx, self.y - dy, self.x + dx, self.y + dy, "guide")]
        rays = (
            math.radians(self.angle) + 2 * math.pi * k / self.sectors for k in range(self.sectors)
        )
        return [
            LineMark(
                self.x,
                self.y,
                self.x + _FAR * math.cos(ray),
                self.y + _FAR * math.sin(ray),
                "guide",
            )
            for ray in rays
        ]

    def echoed(self, marks: list[Mark]) -> list[Mark]:
        """Marks of what is being drawn, in the other half or sectors too."""
        if not self.on:
            return marks
        drawn = [
            contour
            for mark in marks
            if isinstance(mark, ContourMark) and mark.manner == "hand"
            for contour in mark.contours
        ]
        again = tuple(
            contour.transformed(place) for place in self.places()[:_MOST_SHOWN] for contour in drawn
        )
        return [*self.marks(), *([ContourMark(again, "offer")] if again else []), *marks]


def _same(one: Contour, other: Contour) -> bool:
    if (
        max(abs(a - b) for a, b in zip(one.box, other.box, strict=True)) > _SAME
        or abs(one.length - other.length) > _SAME
    ):
        return False
    return deviation_between(one, other) <= _SAME


def symmetry(session: Session) -> Symmetry:
    """The session's symmetry."""
    return session.desk.settings("symmetry", Symmetry)


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
        self.off.setEnabled(self.settings.on)
