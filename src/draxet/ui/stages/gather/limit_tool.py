"""The limit by the pointer: a contour is clicked to be it, or a hole in it; it is dragged; and what
is in hand is fitted into it."""

from __future__ import annotations

from typing import Annotated

import shapely

from draxet.geometry.affine import Affine
from draxet.geometry.largest_within import largest_within
from draxet.job.asked import Asked
from draxet.job.find import contour_at
from draxet.job.limit_edits import area_in_hand, limit_from, limit_moved, limit_room, with_hole
from draxet.job.ranges import Within
from draxet.job.sheet_edits import set_setup
from draxet.job.sheet_records import Limit
from draxet.progress import Progress
from draxet.record import record
from draxet.ui.model.session import Session
from draxet.ui.model.tool import ContourMark, Mark, Pointer, Prompt, Tool
from draxet.ui.stages.in_hand import InHand

__all__ = ["FitInto", "LimitTool"]

_LANE = "fit into"
_REACH = 8.0
_TURN = "turned as well, where it is larger so"


@record
class FitInto:
    """How what is in hand is fitted into the limit; margin in mm."""

    margin: Annotated[float, Within(0.0, 1e4), Asked("Margin", "mm", zero="none")] = 2.0
    turns: Annotated[bool, Asked("Turned too", tip=_TURN)] = False


class LimitTool(Tool):
    """Click a closed contour, drag the limit."""

    title = "Limits"

    def __init__(self, session: Session) -> None:
        self.session, self.what = session, InHand(session)
        self._from: Pointer | None = None
        self._by = (0.0, 0.0)
        self._share = 0.0

    @property
    def settings(self) -> FitInto:
        return self.session.desk.settings("fit into", FitInto)

    @property
    def busy(self) -> bool:
        return self.session.workers.busy(_LANE)

    def look(self) -> None:
        """Nothing is worked out before it is asked for."""

    def prompt(self) -> Prompt:
        if self.busy:
            words = f"Limits: looking for the largest place … {round(100 * self._share)} %"
            return Prompt(words, keys=(("Esc", "stop it"),))
        if self.session.job.limit is None:
            return Prompt("Limits: click a closed contour.", "it is the limit then")
        return Prompt(
            "Limits: drag the limit, or click another contour to be it.",
            "a copy of the contour, as it is now",
            keys=(("Shift", "a hole to keep clear"),),
        )

    # --- the pointer

    def press(self, at: Pointer) -> None:
        self._from, self._by = at, (0.0, 0.0)

    def move(self, at: Pointer) -> None:
        if self._from is not None and self._holds(self._from):
            self._by = at.x - self._from.x, at.y - self._from.y
            self.session.marks_changed.emit()

    def release(self, at: Pointer) -> None:
        begun, self._from = self._from, None
        self._by = (0.0, 0.0)
        if begun is None:
            return
        dx, dy = at.x - begun.x, at.y - begun.y
        if abs(dx) + abs(dy) <= 3 * at.pixel:
            self._click(at)
        elif self._holds(begun) and (limit := self.session.job.limit):
            self.put("move the limit", limit_moved(limit, dx, dy))
        else:
            self.session.messages.refused.emit(
                "There is no limit to drag here; press inside of it."
            )

    def _holds(self, at: Pointer) -> bool:
        limit, sheet = self.session.job.limit, self.session.job.sheet
        if limit is None:
            return False
        return bool(
            shapely.contains_xy(
                limit_room(limit, -_REACH * at.pixel), at.x - sheet.x, at.y - sheet.y
            )
        )

    def _click(self, at: Pointer) -> None:
        session = self.session
        name = contour_at(session.selection.pickable, at.x, at.y, _REACH * at.pixel)
        item = session.layout.contour_by_id.get(name) if name else None
        if item is None or not item.contour.closed:
            session.messages.refused.emit(
                "There is no closed contour here: click on the line of one."
            )
            return
        limit = session.job.limit
        if at.adds and limit is not None:
            back = Affine.moved(-session.job.sheet.x, -session.job.sheet.y)
            self.put("keep a hole clear", with_hole(limit, item.contour.transformed(back)))
        else:
            self.put("take a contour as the limit", limit_from(session.job, [item.id]))

    def put(self, words: str, limit: Limit | None) -> None:
        """Another limit, as one step."""
        self.session.edit(words, set_setup(self.session.job, limit=limit))

    def cancel(self) -> bool:
        begun, self._from = self._from is not None, None
        if self.busy:
            self.session.workers.cancel(_LANE)
            self.session.tool_changed.emit()
            return True
        return begun

    def put_away(self) -> None:
        self.session.workers.cancel(_LANE)

    def marks(self) -> list[Mark]:
        limit, sheet = self.session.job.limit, self.session.job.sheet
        if limit is None or not any(self._by):
            return []
        there = limit_moved(limit, sheet.x + self._by[0], sheet.y + self._by[1])
        return [ContourMark((there.outline, *there.holes), "offer")]

    # --- fitting

    def fit(self) -> None:
        """What is in hand becomes as large as it can be within the limit."""
        session, limit, sheet = self.session, self.session.job.limit, self.session.job.sheet
        if limit is None or not self.what.may_move():
            return
        state = session.job
        items, picture = session.selection.items, session.selection.picture
        margin, turns = self.settings.margin, self.settings.turns

        def work(report: Progress) -> Affine | None:
            room = shapely.transform(limit_room(limit, margin), lambda at: at + (sheet.x, sheet.y))
            if items:
                shape = area_in_hand([i.contour for i in items], [i.line for i in items])
            else:
                shape = shapely.Polygon(_corners(picture)) if picture else shapely.Polygon()
            return largest_within(shape, room, turns=turns, report=report)

        def done(found: Affine | None) -> None:
            session.tool_changed.emit()
            if session.job is not state:
                session.messages.refused.emit("The job was changed meanwhile: fit it once more.")
            elif found is None:
                session.messages.refused.emit(
                    "There is no place for it within the limit: make the margin smaller, or the limit larger."
                )
            else:
                self.what.resize(found, "fit into the limit")

        def stepped(share: float, words: str) -> None:
            self._share = share
            session.tool_changed.emit()

        session.workers.run(_LANE, work, done, self._failed, stepped)
        session.tool_changed.emit()

    def _failed(self, error: Exception) -> None:
        self.session.tool_changed.emit()
        self.session.messages.refused.emit(f"It could not be fitted: {error}")


def _corners(picture: object) -> list[tuple[float, float]]:
    from draxet.job.picture_records import Picture

    assert isinstance(picture, Picture)
    w, h = picture.width, picture.height
    return [picture.to_job.point(x, y) for x, y in ((0, 0), (w, 0), (w, h), (0, h))]
