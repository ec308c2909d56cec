"""Two picks on a picture: the ground of levelling, measuring and known lengths."""

from __future__ import annotations

import math
from typing import Generic, TypeVar

from draxet.geometry.affine import Affine
from draxet.geometry.spread import Spread
from draxet.job.records import Picture
from draxet.trueup.pick import Pick, corner_of, free_pick, lock_pick, straightened
from draxet.trueup.true import measure
from draxet.ui.canvas.tool import CrossMark, LineMark, MagnifierMark, Mark, Pointer, Prompt, TagMark, Tool
from draxet.ui.shell.session import Session
from draxet.ui.stages.held import picture_at
from draxet.units import format_length

__all__ = ["HINT", "KEYS", "CornerFinder", "PickMaker", "TwoPicks", "in_job", "sure_words", "turned_by"]

_REACH_PX = 14.0
_CLICK_PX = 1.0
"""One standard deviation of a click, in pixels of the screen."""
HINT = "catches ends, corners, crossings, lines and edges"
KEYS = (("Shift", "edge only"), ("Alt", "free"), ("C", "corner of two edges"))


Found = TypeVar("Found")


class CornerFinder(Generic[Found]):
    """Whether a corner that is not drawn is being found, and the edges picked for it so far."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.corner: list[Found] | None = None
        """What was picked on the edges that are to meet in a corner; None while picks stand for themselves."""

    def toggle_corner(self) -> None:
        self.corner = None if self.corner is not None else []
        self.session.tool_changed.emit()

    def cancel(self) -> bool:
        begun, self.corner = self.corner is not None, None
        return begun

    def prompt(self, title: str) -> Prompt | None:
        """What is waited for while a corner is being found."""
        if self.corner is None:
            return None
        return Prompt(f"{title}: pick {('one edge', 'the other edge')[len(self.corner)]} of the corner.", "anywhere along it", (("Esc", "pick places again"),))


class PickMaker(CornerFinder[Pick]):
    """Makes picks on pictures: locked, free, or a corner from two edges, which takes two of them."""

    def look(self, picture: Picture, at: Pointer) -> Pick:
        """The pick beneath the pointer."""
        x, y = picture.to_job.inverse().point(at.x, at.y)
        shown, exact = self.session.pictures.shown(picture)
        click = _CLICK_PX * at.pixel / picture.pixel_size
        if at.free or not exact:
            return free_pick(x, y, click)
        reach = min(max(_REACH_PX * at.pixel / picture.pixel_size, 4.0), 40.0)
        return lock_pick(shown.grey, x, y, reach, edge=at.adds, click=click)

    def take(self, picture: Picture, at: Pointer) -> Pick | None:
        """A click's pick; None while the second edge of a corner is still waited for, or where that is refused."""
        pick = self.look(picture, at)
        if self.corner is None:
            return pick
        if not pick.locked:
            self.session.refused.emit("There is no edge under the pointer; pick on an edge, or press C to pick places again.")
            return None
        self.corner.append(straightened(self.session.pictures.of(picture).grey, pick))
        if len(self.corner) < 2:
            return None
        corner = corner_of(*self.corner)
        self.corner = None if corner else self.corner[:1]
        if corner is None:
            self.session.refused.emit("Both edges run the same way; pick an edge that runs across the first one.")
        return corner

    def marks(self, picture: Picture) -> list[Mark]:
        marks: list[Mark] = []
        for pick in self.corner or []:
            (angle,) = in_job(picture, pick.directions[:1])
            x, y = picture.to_job.point(pick.x, pick.y)
            far = 2000 * picture.pixel_size
            marks.append(LineMark(x - far * math.cos(angle), y - far * math.sin(angle), x + far * math.cos(angle), y + far * math.sin(angle), "note"))
        return marks


class TwoPicks(Tool):
    """Two places on one picture, each locked to the drawn line beneath it unless Alt is held."""

    title = ""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.picture_id = ""
        self.maker = PickMaker(session)
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
        if not self.session.job.pictures:
            return Prompt(f"{self.title}: first choose a picture.", "in Gather")
        if self.done:
            return self.after()
        return self.maker.prompt(self.title) or Prompt(f"{self.title}: pick {('one end', 'the other end')[len(self.picks)]} of the line.", HINT, KEYS)

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
        pick = self.maker.take(picture, at)
        if pick is None:
            self.session.tool_changed.emit()
            return
        if self.picks and math.hypot(pick.x - self.picks[0].x, pick.y - self.picks[0].y) < 2:
            self.session.refused.emit("The other end lies on the first one; pick it farther away.")
            return
        self.picks.append(pick)
        self.session.tool_changed.emit()

    def move(self, at: Pointer) -> None:
        self._hover_at = (at.x, at.y)
        picture = self.picture if len(self.picks) == 1 else picture_at(self.session, at.x, at.y)
        self.hover = self.maker.look(picture, at) if picture and not self.done else None
        if picture and not self.picks:
            self.picture_id = picture.id

    def letter(self, key: str) -> bool:
        if key == "C":
            self.maker.toggle_corner()
        return key == "C"

    def cancel(self) -> bool:
        if self.maker.cancel():
            self.session.tool_changed.emit()
            return True
        begun, self.picks = bool(self.picks), self.picks[:-1]
        if begun:
            self.session.tool_changed.emit()
        return begun

    def forget(self) -> None:
        self.picks, self.hover = [], None
        self.maker.cancel()
        self.session.tool_changed.emit()

    def marks(self) -> list[Mark]:
        picture = self.picture
        if picture is None:
            return []
        marks = self.maker.marks(picture)
        shown = [*self.picks, *([self.hover] if self.hover and not self.done else [])]
        places = [picture.to_job.point(pick.x, pick.y) for pick in shown]
        if len(places) == 2:
            marks += [LineMark(*places[0], *places[1]), TagMark((places[0][0] + places[1][0]) / 2, (places[0][1] + places[1][1]) / 2, self.tag(picture, shown))]
        marks += [CrossMark(*place, in_job(picture, pick.directions)) for place, pick in zip(places, shown, strict=True)]
        if self.hover and not self.done:
            marks.append(MagnifierMark(*places[-1], self._lens_words(picture), in_job(picture, self.hover.directions)))
        return marks

    def _lens_words(self, picture: Picture) -> str:
        assert self.hover is not None
        return sure_words(self.hover.kind, self.hover.spread.mapped(picture.to_job), self.session.job.unit)

    def tag(self, picture: Picture, picks: list[Pick]) -> str:
        measured = measure(picture, picks[0], picks[1])
        return format_length(measured.length, self.session.job.unit, places=2)


def sure_words(kind: str, spread: Spread, unit: str) -> str:
    """What a pick locked to, and how sure it is: across a line and along it, or every way."""
    least, greatest = 2 * spread.least, 2 * spread.greatest
    if greatest < 1e-9:
        return kind
    if greatest <= 1.5 * least:
        return f"{kind} ± {format_length(greatest, unit, places=2)}"
    return f"{kind} ± {format_length(least, unit, places=2, with_unit=False)} across, {format_length(greatest, unit, places=2)} along"


def in_job(picture: Picture, directions: tuple[float, ...]) -> tuple[float, ...]:
    """Directions on a picture as they lie in job space."""
    return turned_by(picture.to_job, directions)


def turned_by(m: Affine, directions: tuple[float, ...]) -> tuple[float, ...]:
    """Directions (radians) after a map."""
    return tuple(math.atan2(m.d * math.cos(a) + m.e * math.sin(a), m.a * math.cos(a) + m.b * math.sin(a)) for a in directions)
