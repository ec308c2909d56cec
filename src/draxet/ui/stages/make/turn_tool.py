"""Turn about an axis: profiles become bodies; the axis is a guide, clicked or put through two
places."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial

from PyQt6.QtGui import QAction

from draxet.geometry.catching import KINDS
from draxet.job.find import guide_at
from draxet.job.guide_edits import add_guide
from draxet.job.operations import Turn
from draxet.job.records import Job
from draxet.job.sheet_records import Guide
from draxet.make.solids.turned_bodies import Axis, beyond_axis
from draxet.ui.controls.slip_parts import button, label, menu_button
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


class TurnTool(OperationTool):
    """Profiles turned about a guide."""

    kind = Turn

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.places: list[tuple[float, float]] | None = None
        """Those of an axis that is being put; none where none is."""
        self._at: tuple[float, float] | None = None
        self._over: tuple[float, float] | None = None
        """Where what was to be turned reached over its axis."""

    def more(self, slip: Slip) -> Callable[[], None]:
        axis = menu_button("Axis", [])
        put = button("Put an axis by two places", "plain", self.begin_axis)
        see = button(
            "See the bodies", "plain", lambda: self._session.messages.tool_asked.emit("bodies")
        )
        lead = button("Lead along the chosen contour", "plain", self.take_path)
        lead.setToolTip(
            "The profile goes along it in place of round the axis: the axis stands on the path, what is right of it lies outside"
        )
        slip.add(label("Axis"), axis, put, lead, see)
        offer = machine_offer(slip, self, "Take the layer printer")

        def show() -> None:
            job, record = self._session.job, self.record
            guides = {guide.id: guide for guide in job.guides}
            held = getattr(record, "axis", "")
            axis.setText(_named(guides[held], job) if held in guides else "none yet")
            axis.setEnabled(bool(guides))
            lead.setText(
                "Turn about the axis again" if record.path else "Lead along the chosen contour"
            )
            menu = axis.menu()
            if menu is not None:
                menu.clear()
                for guide in job.guides:
                    action = QAction(_named(guide, job), menu)
                    action.triggered.connect(partial(self.change, "axis", guide.id))
                    menu.addAction(action)
            offer()

        return show

    def begin_axis(self) -> None:
        """The next two clicks are places of an axis."""
        self.places = []
        self._session.tool_changed.emit()
        self._session.messages.canvas_asked.emit()

    def take_path(self) -> None:
        """Lead along the one contour that is chosen; or turn about the axis again."""
        if self.record.path:
            self.change("path", "")
            return
        chosen = self._session.selection.ids - frozenset(self.record.contours)
        if len(chosen) != 1:
            self._session.messages.refused.emit(
                f"{self.title}: choose one contour, the path, and then that it is led along that."
            )
            return
        (path,), held = chosen, [each.id for each in self.in_hand]
        self.change("path", path)
        self._session.selection.choose(frozenset())
        self._hold(held)
        self._session.tool_changed.emit()

    @property
    def axis(self) -> Guide | None:
        held = getattr(self.record, "axis", "")
        return next((guide for guide in self._session.job.guides if guide.id == held), None)

    def prompt(self) -> Prompt:
        if self.places is not None:
            which = "a place" if not self.places else "another place"
            return Prompt(f"{self.title}: click {which} of the axis.", "", (("Esc", "none"),))
        if self.axis is None:
            return Prompt(
                f"{self.title}: put an axis by two places, or click a guide.",
                "then choose what lies on one side of it",
            )
        return super().prompt()

    def press(self, at: Pointer) -> None:
        if self.places is not None:
            self._add_place(at)
            self._session.tool_changed.emit()
            return
        guides = self._session.job.guides if self.axis is None else ()
        guide = guide_at(guides, (at.x, at.y), REACH * at.pixel)
        if guide is not None:
            self.change("axis", guide.id)
        else:
            super().press(at)

    def _add_place(self, at: Pointer) -> None:
        found = caught(self._session, at, frozenset() if at.free else frozenset(KINDS))
        place = (found.x, found.y)
        assert self.places is not None
        if not self.places:
            self.places = [place]
            return
        (x, y), self.places = self.places[0], None
        if math.hypot(place[0] - x, place[1] - y) < 1e-6:
            self._session.messages.refused.emit(
                "An axis goes through two places; both clicks were at the same one."
            )
            return
        job = self._session.job
        angle = math.degrees(math.atan2(place[1] - y, place[0] - x)) % 180.0
        self._session.edit("put an axis", add_guide(job, x, y, angle))
        self.change("axis", self._session.job.guides[-1].id)

    def move(self, at: Pointer) -> None:
        self._at = (at.x, at.y)
        super().move(at)

    def give(self) -> None:
        session, guide = self._session, self.axis
        if guide is None:
            session.messages.refused.emit(
                f"{self.title}: choose a guide as the axis first, or put one by two places."
            )
            return
        chosen = session.selection.ids
        path = self.record.path
        items = [i for i in session.layout.contours if not chosen or i.id in chosen]
        items = [item for item in items if item.id != path]
        axis = Axis(guide.x, guide.y, guide.angle)
        over = [] if path else [(i.id, at) for i in items if (at := beyond_axis([i.contour], axis))]
        if over:
            self._over = over[0][1]
            session.selection.choose(frozenset(name for name, _ in over))
            session.messages.place_asked.emit(*self._over)
            session.messages.refused.emit(
                f"{self.title}: a profile reaches over its axis here; what is turned lies on one side of it."
            )
            return
        self._over = None
        if path:
            session.selection.choose(frozenset(item.id for item in items))
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
        if guide := self.axis:
            radians = math.radians(guide.angle)
            dx, dy = _FAR * math.cos(radians), _FAR * math.sin(radians)
            found.append(LineMark(guide.x - dx, guide.y - dy, guide.x + dx, guide.y + dy))
        path = self._session.layout.contour_by_id.get(self.record.path)
        if path is not None:
            found.append(ContourMark((path.contour,), "offer"))
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
