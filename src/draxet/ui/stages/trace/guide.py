"""Guides: straight lines without ends to draw by. They are caught, and never cut."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Annotated

from draxet.geometry.spans import LINE
from draxet.job.asked import Asked
from draxet.job.find import guide_at, span_at
from draxet.job.findings import count_words
from draxet.job.guide_edits import add_guide, half_turn, move_guide, remove_guides
from draxet.job.ranges import OneOf
from draxet.job.sheet_records import Guide
from draxet.record import record
from draxet.ui.controls.slip_parts import allow, button, fact_row
from draxet.ui.model.session import Session
from draxet.ui.model.tool import LineMark, Mark, Pointer, TagMark, Tool
from draxet.ui.stages.gesture import GestureTool
from draxet.ui.stages.slip import Slip
from draxet.ui.stages.want import Gesture, Place, Want, polar

__all__ = ["GuideSlip", "GuideTool"]

_FAR = 1e5
_REACH = 8.0
_WAYS = (("places", "by places"), ("line", "along a line"), ("beside", "beside one"))


@record
class GuideSettings:
    """way : how a guide comes about."""

    way: Annotated[str, OneOf(tuple(way for way, _ in _WAYS)), Asked("", choices=_WAYS)] = "places"


class GuideTool(GestureTool):
    """Through two places or one at a typed angle, along a line that is drawn, or beside another
    guide; level and upright ones are also pulled from the rulers. One beneath the pointer is
    dragged, or removed."""

    title = "Guide"

    def __init__(self, session: Session) -> None:
        self._held: Guide | None = None
        self._hot: Guide | None = None
        self._to: Place = (0.0, 0.0)
        super().__init__(session)

    @property
    def settings(self) -> GuideSettings:
        return self.session.desk.settings("guide", GuideSettings)

    def gesture(self) -> Gesture:
        way = self.settings.way
        if way == "line":
            self._along((yield Want("click a straight line that is drawn")).place)
        elif way == "beside":
            yield from self._beside()
        else:
            yield from self._by_places()

    def _by_places(self) -> Gesture:
        a = (yield Want("click a place that it goes through, or pull one from a ruler")).place
        b = yield Want(
            "click another place on it",
            ("angle",),
            polar(a),
            lambda at: self._looks(a, at),
            a,
            back=(a,),
        )
        if math.dist(a, b.place) <= 0 and "angle" not in b.numbers:
            self.session.messages.refused.emit(
                "Guide: both places are the same; click farther apart, or type an angle."
            )
            return
        angle = b.numbers.get(
            "angle", math.degrees(math.atan2(b.place[1] - a[1], b.place[0] - a[0]))
        )
        self.session.edit("set a guide", add_guide(self.session.job, *a, half_turn(angle)))

    def _along(self, at: Place) -> None:
        found = span_at(self.session.selection.catchable, *at, _REACH * self._pixel)
        contour = next(
            (
                item.contour
                for item in self.session.selection.catchable
                if found and item.id == found[0]
            ),
            None,
        )
        if contour is None or found is None or contour.kinds[found[1]] != LINE:
            self.session.messages.refused.emit(
                "Guide: there is no straight line under the pointer; click on one."
            )
            return
        (x, y), (u, v) = (
            contour.spans.starts[found[1]].tolist(),
            contour.spans.ends[found[1]].tolist(),
        )
        self.session.edit(
            "set a guide along a line",
            add_guide(self.session.job, x, y, half_turn(math.degrees(math.atan2(v - y, u - x)))),
        )

    def _beside(self) -> Gesture:
        at = (yield Want("click the guide to go beside")).place
        guide = guide_at(self.session.job.guides, at, _REACH * self._pixel)
        if guide is None:
            self.session.messages.refused.emit(
                "Guide: there is no guide under the pointer; click on one."
            )
            return
        turn = math.radians(guide.angle)

        def off(to: Place) -> float:
            return -(to[0] - guide.x) * math.sin(turn) + (to[1] - guide.y) * math.cos(turn)

        def place(numbers: Mapping[str, float], to: Place) -> Place:
            by = math.copysign(numbers["distance"], off(to)) if "distance" in numbers else off(to)
            return guide.x - by * math.sin(turn), guide.y + by * math.cos(turn)

        end = yield Want(
            "click where it goes",
            ("distance",),
            place,
            lambda to: self._beside_looks(guide, place({}, to)),
        )
        x, y = end.place if end.numbers else place({}, end.place)
        self.session.edit(
            "set a guide beside another", add_guide(self.session.job, x, y, guide.angle)
        )

    def _beside_looks(self, guide: Guide, at: Place) -> list[Mark]:
        turn = math.radians(guide.angle)
        far = (at[0] + math.cos(turn), at[1] + math.sin(turn))
        return [*self._looks(at, far), TagMark(*at, self.length(math.dist(at, (guide.x, guide.y))))]

    @property
    def follows(self) -> bool:
        return False

    def press(self, at: Pointer) -> None:
        self._held = (
            guide_at(self.session.job.guides, (at.x, at.y), _REACH * at.pixel)
            if not self._answers and self.settings.way == "places"
            else None
        )
        super().press(at)

    def move(self, at: Pointer) -> None:
        super().move(at)
        self._to = (at.x, at.y)
        self._hot = self._held or guide_at(self.session.job.guides, self._to, _REACH * at.pixel)

    def release(self, at: Pointer) -> None:
        held, self._held = self._held, None
        begun = self._pressed[0] if self._pressed else at
        if held is not None and math.hypot(at.x - begun.x, at.y - begun.y) > 3 * at.pixel:
            self._pressed = None
            self.session.edit("move a guide", move_guide(self.session.job, held.id, at.x, at.y))
            return
        super().release(at)

    def remove(self) -> bool:
        if (
            self._hot is None
            or self._held is not None
            or all(guide.id != self._hot.id for guide in self.session.job.guides)
        ):
            return False
        gone, self._hot = self._hot, None
        self.session.edit("remove a guide", remove_guides(self.session.job, [gone.id]))
        return True

    def forget(self) -> None:
        super().forget()
        self._held = self._hot = None

    def marks(self) -> list[Mark]:
        if self._held is not None:
            turn = math.radians(self._held.angle)
            return self._looks(
                self._to, (self._to[0] + math.cos(turn), self._to[1] + math.sin(turn))
            )
        return super().marks()

    @staticmethod
    def _looks(a: Place, at: Place) -> list[Mark]:
        away = math.dist(a, at)
        if away <= 0:
            return []
        dx, dy = (at[0] - a[0]) / away * _FAR, (at[1] - a[1]) / away * _FAR
        return [LineMark(a[0] - dx, a[1] - dy, a[0] + dx, a[1] + dy, "guide")]


class GuideSlip(Slip):
    """How many guides there are, and all of them gone at once."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(
            session,
            "Guide",
            "Straight lines to draw by: pulled from the rulers, through places, at an angle, along a line or beside another. They are caught, and never cut; drag one, or remove it beneath the pointer.",
        )
        count, self._count = fact_row("Guides")
        self.clear = button(
            "Remove all guides",
            "plain",
            lambda: session.edit("remove all guides", remove_guides(session.job)),
        )
        self._tool, self.settings = tool, session.desk.settings("guide", GuideSettings)
        self.asked = self.ask(self.settings, self._set)
        self.add(count, self.clear)
        self.refresh()

    def _set(self, name: str, value: object, gesture: object) -> None:
        setattr(self.settings, name, value)
        self._tool.forget()  # another gesture
        self.session.tool_changed.emit()
        self.session.messages.canvas_asked.emit()

    def refresh(self) -> None:
        self.asked.show_of(self.settings)
        guides = len(self.session.job.guides)
        self._count.setText(count_words(guides, "guide") if guides else "none")
        allow(self.clear, guides, "there are no guides")
