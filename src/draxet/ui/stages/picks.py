"""Two picks on a picture: the ground of levelling, measuring and known lengths."""

from __future__ import annotations

import math

from draxet.job.records import Picture
from draxet.trueup.pick import Pick, free_pick, lock_pick
from draxet.trueup.true import measure
from draxet.ui.canvas.tool import CrossMark, LineMark, MagnifierMark, Mark, Pointer, Prompt, TagMark, Tool
from draxet.ui.shell.session import Session
from draxet.ui.stages.gather import picture_at
from draxet.units import format_length

__all__ = ["TwoPicks"]

_REACH_PX = 14.0


class TwoPicks(Tool):
    """Two places on one picture, each locked to the drawn line beneath it unless Alt is held."""

    title = ""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.picture_id = ""
        self.picks: list[Pick] = []
        self.hover: Pick | None = None
        self._hover_at: tuple[float, float] | None = None

    @property
    def picture(self) -> Picture | None:
        return self.session.job.picture_by_id.get(self.picture_id)

    @property
    def done(self) -> bool:
        return len(self.picks) == 2

    def prompt(self) -> Prompt:
        hint = "Locks to the middle of the drawn line · hold Alt to pick freely · Esc to stop"
        if not self.session.job.pictures:
            return Prompt(f"{self.title}: first choose a picture.", "in Gather")
        return Prompt(f"{self.title}: pick {('one end', 'the other end')[len(self.picks)]} of the line.", hint) if not self.done else self.after()

    def after(self) -> Prompt:
        """What the tool waits for once both picks are made."""
        return Prompt(f"{self.title}: click again for another line.")

    def press(self, at: Pointer) -> None:
        if self.done:
            self.picks = []
        picture = self.picture if self.picks else picture_at(self.session, at.x, at.y)
        if picture is None:
            self.session.refused.emit("There is no picture under the pointer; pick on the picture.")
            return
        self.picture_id = picture.id
        self.session.choose_picture(picture.id)
        pick = self._pick(picture, at)
        if self.picks and math.hypot(pick.x - self.picks[0].x, pick.y - self.picks[0].y) < 2:
            self.session.refused.emit("The other end lies on the first one; pick it farther away.")
            return
        self.picks.append(pick)
        self.session.tool_changed.emit()

    def move(self, at: Pointer) -> None:
        self._hover_at = (at.x, at.y)
        picture = self.picture if len(self.picks) == 1 else picture_at(self.session, at.x, at.y)
        self.hover = self._pick(picture, at) if picture and not self.done else None
        if picture and not self.picks:
            self.picture_id = picture.id

    def _pick(self, picture: Picture, at: Pointer) -> Pick:
        x, y = picture.to_job.inverse().point(at.x, at.y)
        if at.free:
            return free_pick(x, y)
        reach = min(max(_REACH_PX * at.pixel / picture.pixel_size, 4.0), 40.0)
        return lock_pick(self.session.pictures.of(picture).grey, x, y, reach)

    def cancel(self) -> bool:
        begun, self.picks = bool(self.picks), self.picks[:-1]
        if begun:
            self.session.tool_changed.emit()
        return begun

    def marks(self) -> list[Mark]:
        picture = self.picture
        if picture is None:
            return []
        marks: list[Mark] = []
        shown = [*self.picks, *([self.hover] if self.hover and not self.done else [])]
        places = [picture.to_job.point(pick.x, pick.y) for pick in shown]
        if len(places) == 2:
            marks += [LineMark(*places[0], *places[1]), TagMark((places[0][0] + places[1][0]) / 2, (places[0][1] + places[1][1]) / 2, self.tag(picture, shown))]
        marks += [CrossMark(*place, _in_job(picture, pick.directions)) for place, pick in zip(places, shown, strict=True)]
        if self.hover and not self.done:
            marks.append(MagnifierMark(*places[-1], self._lens_words(picture), _in_job(picture, self.hover.directions)))
        return marks

    def _lens_words(self, picture: Picture) -> str:
        assert self.hover is not None
        if not self.hover.locked:
            return "free: no line here"
        width = self.hover.width * picture.pixel_size
        return f"line {format_length(width, self.session.job.unit, places=2)} wide"

    def tag(self, picture: Picture, picks: list[Pick]) -> str:
        measured = measure(picture, picks[0], picks[1])
        return format_length(measured.length, self.session.job.unit, places=2)


def _in_job(picture: Picture, directions: tuple[float, ...]) -> tuple[float, ...]:
    m = picture.to_job
    return tuple(math.atan2(m.d * math.cos(a) + m.e * math.sin(a), m.a * math.cos(a) + m.b * math.sin(a)) for a in directions)
