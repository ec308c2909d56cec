"""Turn about an axis: profiles become bodies; the axis is a guide, clicked or put through two places,
along an edge, or upright at one place. Shafts go up from outlines."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial

from PyQt6.QtGui import QAction

from draxet.geometry.catching import KINDS
from draxet.geometry.spans import LINE
from draxet.job.contour_records import ContourItem
from draxet.job.find import guide_at, span_at
from draxet.job.guide_edits import add_guide
from draxet.job.operations import Turn
from draxet.job.records import Job
from draxet.job.sheet_records import Guide
from draxet.make.solids.turned_bodies import Axis, beyond_axis
from draxet.ui.controls.slip_parts import allow, button, label, menu_button, side_by_side
from draxet.ui.model.session import Session
from draxet.ui.model.tool import ContourMark, CrossMark, LineMark, Mark, Pointer, Prompt, SignMark
from draxet.ui.stages.caught import caught
from draxet.ui.stages.make.more import machine_offer
from draxet.ui.stages.make.operations import OperationTool
from draxet.ui.stages.picking import REACH
from draxet.ui.stages.slip import Slip
from draxet.units import format_length

__all__ = ["TurnTool"]

_FAR = 1e5
_WAYS = {"two": "Put an axis by two places", "edge": "Along an edge", "one": "By one place"}
_TAKES = {
    "path": (
        "Lead along the chosen contour",
        "Turn about the axis again",
        "The profile goes along it in place of round the axis: the axis stands on the path, what is right of it lies outside",
    ),
    "top": (
        "Up to the chosen outline",
        "Up to the same outline again",
        "The shaft goes over into it, from direction to direction",
    ),
    "curve": (
        "By the chosen curve",
        "Straight up again",
        "Drawn upright beside the outline: where it goes away from that, the shaft becomes larger",
    ),
}
"""What else may be chosen: words that take it, words that leave it, and what it does."""
_IS = {
    "path": "the path, and then that it is led along that.",
    "top": "that on top, and then that it goes up to that.",
    "curve": "an open one beside it, and then that it goes by that.",
}


class TurnTool(OperationTool):
    """Profiles turned about a guide or led along a path, and shafts."""

    kind = Turn

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.places: list[tuple[float, float]] | None = None
        """Those of an axis that is being put; none where none is."""
        self.way = ""
        """By what it is put: ``two`` places, an ``edge``, or ``one`` place, upright."""
        self._at: tuple[float, float] | None = None
        self._over: tuple[float, float] | None = None
        """Where what was to be turned reached over its axis."""

    def more(self, slip: Slip) -> Callable[[], None]:
        axis = menu_button("Axis", [])
        ways = {
            way: button(words, "plain", partial(self.begin_axis, way))
            for way, words in _WAYS.items()
        }
        ways["one"].setToolTip(
            "An upright axis there: where a profile that is led stands on its path"
        )
        takes = {name: button("", "plain", partial(self.take_chosen, name)) for name in _TAKES}
        for name, (_, _, tip) in _TAKES.items():
            takes[name].setToolTip(tip)
        see = button(
            "See the bodies", "plain", lambda: self._session.messages.tool_asked.emit("bodies")
        )
        heading = label("Axis")
        slip.add(heading, axis, ways["two"], side_by_side(ways["edge"], ways["one"]))
        slip.add(*takes.values(), see)
        offer = machine_offer(slip, self, "Take the layer printer")

        def show() -> None:
            job, record = self._session.job, self.record
            shaft = getattr(record, "is_shaft", False)
            guides = {guide.id: guide for guide in job.guides}
            held = getattr(record, "axis", "")
            axis.setText(_named(guides[held], job) if held in guides else "none yet")
            allow(axis, guides, "there is no guide yet; click two places of the axis")
            for each in (heading, axis, *ways.values()):
                each.setVisible(not shaft)
            for name, (take, leave, _) in _TAKES.items():
                takes[name].setVisible(shaft != (name == "path"))
                takes[name].setText(leave if getattr(record, name) else take)
            menu = axis.menu()
            if menu is not None:
                menu.clear()
                for guide in job.guides:
                    action = QAction(_named(guide, job), menu)
                    action.triggered.connect(partial(self.change, "axis", guide.id))
                    menu.addAction(action)
            offer()

        return show

    def begin_axis(self, way: str = "two") -> None:
        """The next clicks say where an axis is."""
        self.places, self.way = [], way
        self._session.tool_changed.emit()
        self._session.messages.canvas_asked.emit()

    def take_chosen(self, name: str) -> None:
        """Go along (`path`), up to (`top`) or by (`curve`) the one contour that is chosen; or by none
        again."""
        if getattr(self.record, name):
            self.change(name, "")
            return
        session = self._session
        held = {
            name
            for each in session.job.operations
            for name in each.contours
            if each.id in self._taken[0]
        }
        chosen = session.selection.ids - held
        if len(chosen) != 1:
            session.messages.refused.emit(f"{self.title}: choose one contour, {_IS[name]}")
            return
        (found,) = chosen
        closed = session.layout.contour_by_id[found].contour.closed
        if (name == "top" and not closed) or (name == "curve" and closed):
            session.messages.refused.emit(
                f"{self.title}: {'the outline on top must be closed' if name == 'top' else 'the curve must be open'}; choose another."
            )
            return
        session.selection.choose(frozenset())
        self._hold(self._taken[0])  # what was given last is meant, though another one was chosen
        self.change(name, found)

    @property
    def is_shaft(self) -> bool:
        return bool(getattr(self.record, "is_shaft", False))

    @property
    def axis(self) -> Guide | None:
        held = getattr(self.record, "axis", "")
        return next((guide for guide in self._session.job.guides if guide.id == held), None)

    def prompt(self) -> Prompt:
        if self.places is not None:
            which = {"edge": "an edge that is the axis", "one": "where it stands upright"}.get(
                self.way, "another place of the axis" if self.places else "a place of the axis"
            )
            return Prompt(f"{self.title}: click {which}.", "", (("Esc", "none"),))
        if self.is_shaft:
            return Prompt(
                f"{self.title}: choose closed outlines and press the brass button.",
                "then say how high, and up to what",
            )
        if self.axis is None:
            return Prompt(
                f"{self.title}: put an axis by two places, or click a guide.",
                "then choose what lies on one side of it",
            )
        return super().prompt()

    def press(self, at: Pointer) -> None:
        if self.places is not None:
            wrong = self._add_place(at)
            self._session.tool_changed.emit()
            if wrong:
                self._session.messages.refused.emit(wrong)
            return
        wanted = self.axis is None and not self.is_shaft
        guides = self._session.job.guides if wanted else ()
        guide = guide_at(guides, (at.x, at.y), REACH * at.pixel)
        if guide is not None:
            self.change("axis", guide.id)
        else:
            super().press(at)

    def _add_place(self, at: Pointer) -> str:
        """A click says where an axis is; the sentence why it does not, or none."""
        if self.way == "edge":
            return self._take_edge(at)
        found = caught(self._session, at, frozenset() if at.free else frozenset(KINDS))
        place = (found.x, found.y)
        assert self.places is not None
        if self.way == "one":
            return self._put_axis(*place, 90.0)
        if not self.places:
            self.places = [place]
            return ""
        (x, y) = self.places[0]
        if math.hypot(place[0] - x, place[1] - y) < 1e-6:
            self.places = None
            return "An axis goes through two places; both clicks were at the same one."
        return self._put_axis(x, y, math.degrees(math.atan2(place[1] - y, place[0] - x)) % 180.0)

    def _take_edge(self, at: Pointer) -> str:
        """The straight line under the pointer is the axis."""
        reach, items = REACH * at.pixel, self._session.selection.catchable
        found = span_at(items, at.x, at.y, reach)
        item = next((each for each in items if found and each.id == found[0]), None)
        if found is None or item is None or item.contour.kinds[found[1]] != LINE:
            return f"{self.title}: there is no straight line here; click one, or Esc."
        spans = item.contour.spans
        (x, y), (x1, y1) = spans.starts[found[1]].tolist(), spans.ends[found[1]].tolist()
        return self._put_axis(x, y, math.degrees(math.atan2(y1 - y, x1 - x)) % 180.0)

    def _put_axis(self, x: float, y: float, angle: float) -> str:
        self.places = None
        self._session.edit("put an axis", add_guide(self._session.job, x, y, angle))
        self.change("axis", self._session.job.guides[-1].id)
        return ""

    def move(self, at: Pointer) -> None:
        self._at = (at.x, at.y)
        super().move(at)

    def give(self) -> None:
        session, guide, record = self._session, self.axis, self.record
        if guide is None and not self.is_shaft:
            session.messages.refused.emit(
                f"{self.title}: choose a guide as the axis first, or put one by two places."
            )
            return
        chosen = session.selection.ids
        others = {getattr(record, name) for name in _TAKES}
        items = [i for i in session.layout.contours if not chosen or i.id in chosen]
        items = [item for item in items if item.id not in others]
        if self.is_shaft:
            self._give_shaft(items)
            return
        assert guide is not None
        axis = Axis(guide.x, guide.y, guide.angle)
        over = (
            []
            if record.path
            else [(i.id, at) for i in items if (at := beyond_axis([i.contour], axis))]
        )
        if over:
            self._over = over[0][1]
            session.selection.choose(frozenset(name for name, _ in over))
            session.messages.place_asked.emit(*self._over)
            session.messages.refused.emit(
                f"{self.title}: a profile reaches over its axis here; what is turned lies on one side of it."
            )
            return
        self._over = None
        if record.path:
            session.selection.choose(frozenset(item.id for item in items))
        super().give()

    def _give_shaft(self, items: list[ContourItem]) -> None:
        """A shaft goes up from closed outlines; an open one is refused where it is open."""
        session = self._session
        opened = [item for item in items if not item.contour.closed]
        if session.selection.ids and opened:
            x, y = opened[0].contour.nodes[-1].tolist()
            session.selection.choose(frozenset(item.id for item in opened))
            session.messages.place_asked.emit(x, y)
            session.messages.refused.emit(
                f"{self.title}: an outline is open here; a shaft goes up from closed ones."
            )
            return
        session.selection.choose(frozenset(i.id for i in items if i.contour.closed))
        super().give()

    def cancel(self) -> bool:
        begun = self.places is not None or self._over is not None
        self.places = self._over = None
        if begun:
            self._session.tool_changed.emit()
        return begun or super().cancel()

    def forget(self) -> None:
        self.places = self._over = None
        super().forget()

    def marks(self) -> list[Mark]:
        found = super().marks()
        if (guide := self.axis) and not self.is_shaft:
            radians = math.radians(guide.angle)
            dx, dy = _FAR * math.cos(radians), _FAR * math.sin(radians)
            found.append(LineMark(guide.x - dx, guide.y - dy, guide.x + dx, guide.y + dy))
        by_id = self._session.layout.contour_by_id
        for name in _TAKES:
            other = by_id.get(getattr(self.record, name))
            if other is not None and self.is_shaft == (name != "path"):
                found.append(ContourMark((other.contour,), "offer"))
        if self.places:
            x, y = self.places[0]
            found.append(CrossMark(x, y))
            if self._at is not None:
                found.append(LineMark(x, y, *self._at))
        if self._over is not None:
            found.append(SignMark(*self._over, "thin", hot=True))
        return found


def _named(guide: Guide, job: Job) -> str:
    """A guide in words."""
    angle = guide.angle % 180.0
    if abs(angle - 90.0) < 1e-6:
        return f"upright at x {format_length(guide.x, job.unit, places=1)}"
    if min(angle, 180.0 - angle) < 1e-6:
        return f"level at y {format_length(guide.y, job.unit, places=1)}"
    return f"at {angle:.3g}° through {guide.x:.4g}, {guide.y:.4g}"
