"""Gestures of sure picks: the ground of levelling, measuring, matching and known lengths."""

from __future__ import annotations

import math
from collections.abc import Callable, Generator
from dataclasses import replace

from draxet.geometry.catching import Caught
from draxet.job.picture_records import Picture
from draxet.record import record
from draxet.trueup.pick import Pick
from draxet.trueup.true import measure
from draxet.ui.model.session import Session
from draxet.ui.model.tool import CrossMark, LineMark, MagnifierMark, Mark, Pointer, Prompt, TagMark
from draxet.ui.stages.gesture import GestureTool
from draxet.ui.stages.sure_places import (
    SurePlace,
    corner_between,
    direction_in_job,
    middle_of_circle,
    straightened_place,
    sure_place,
    sure_words,
)
from draxet.ui.stages.want import Answer, Gesture, Want
from draxet.units import format_length

__all__ = ["PickGesture", "SureWant", "TwoPicks", "sure"]

_HINT = "catches ends, corners, crossings, lines and edges"
_KEYS = (("Ctrl", "edge only"),)
_OTHERS = (("C", "corner of two edges"), ("O", "middle of a circle"))
_PLACES = (("C", "pick places again"),)
_AS_PLACES = (("O", "pick places again"),)
_NO_CIRCLE = "No circle is seen there; pick on the rim of a circle or of a round corner, or press O to pick places again."
_LEAST_PX = 2.0
_FAR_PX = 1500.0


def _picks_anything(place: SurePlace) -> str:
    return ""


@record(frozen=True)
class SureWant(Want):
    """A want for a place that knows how sure it is.

    look : the place beneath the pointer, given also whether only edges count; None where there is
    nothing to pick, which `nothing` says.
    refuses : why a place will not do; empty where it does. shows : the gesture, with a place
    beneath the pointer or without. edge : whether
    an edge is wanted. unfinished : why Enter cannot end the gesture yet; empty where it can.
    """

    look: Callable[[Pointer, bool], SurePlace | None] = lambda at, edge: None
    nothing: str = ""
    refuses: Callable[[SurePlace], str] = _picks_anything
    shows: Callable[[SurePlace | None], list[Mark]] = lambda at: []
    edge: bool = False
    unfinished: Callable[[], str] = lambda: ""
    drag: str = ""
    hint: str = _HINT
    keys: tuple[tuple[str, str], ...] = _KEYS
    keeps: bool = False


def sure(answer: Answer) -> SurePlace:
    """The sure place of an answer to a want for one."""
    assert isinstance(answer.caught, SurePlace)
    return answer.caught


class PickGesture(GestureTool):
    """A gesture of sure picks, each of which may also be the corner of two edges or the middle of a
    circle."""

    def take(self, want: SureWant) -> Generator[Want, Answer, Answer]:
        """A picked place, with C the corner, which need not be drawn, of two picked edges, with O
        the middle of a circle whose rim is picked; or Enter, where the want says what that ends."""
        others = {"C": self._corner, "O": self._middle}
        while True:
            answer = yield replace(want, letters=_OTHERS)
            if answer.key not in others:
                return answer
            place = yield from others[answer.key](want)
            if place is not None:
                return Answer(place.place, caught=place)

    def _corner(self, want: SureWant) -> Generator[Want, Answer, SurePlace | None]:
        one = replace(
            want,
            words="pick one edge of the corner",
            hint="anywhere along it",
            letters=_PLACES,
            edge=True,
            ends="",
            refuses=_no_edge,
        )
        answer = yield one
        if answer.key:
            return None
        first = straightened_place(self.session, sure(answer))

        def met(place: SurePlace) -> SurePlace | None:
            return corner_between(self.session, first, straightened_place(self.session, place))

        def refuses(place: SurePlace) -> str:
            if trouble := _no_edge(place):
                return trouble
            corner = met(place)
            return (
                want.refuses(corner)
                if corner
                else "Both edges run the same way; pick an edge that runs across the first one."
            )

        def shows(place: SurePlace | None) -> list[Mark]:
            return [*want.shows(None), self._drawn_on(first)]

        answer = yield replace(
            one, words="pick the other edge of the corner", refuses=refuses, shows=shows
        )
        return None if answer.key else met(sure(answer))

    def _middle(self, want: SureWant) -> Generator[Want, Answer, SurePlace | None]:
        def look(at: Pointer, edge: bool) -> SurePlace | None:
            place = want.look(at, edge)
            return (middle_of_circle(self.session, place) or place) if place else None

        def refuses(place: SurePlace) -> str:
            return want.refuses(place) if place.word == "centre" else _NO_CIRCLE

        answer = yield replace(
            want,
            words="pick the rim of a circle",
            hint="or of a round corner",
            letters=_AS_PLACES,
            ends="",
            look=look,
            refuses=refuses,
        )
        return None if answer.key else sure(answer)

    def sure_place(
        self,
        at: Pointer,
        *,
        contours: bool = True,
        only: str = "",
        without: str = "",
        edge: bool = False,
    ) -> SurePlace:
        """The sure place beneath the pointer, for which it waits no longer than a move may take."""
        return sure_place(
            self.session,
            at,
            contours=contours,
            only=only,
            without=without,
            edge=edge,
            wait=lambda find: self.seen(at, find, only, without),
        )

    def _drawn_on(self, place: SurePlace) -> Mark:
        angle, far = place.directions[0], _FAR_PX * self._pixel
        dx, dy = far * math.cos(angle), far * math.sin(angle)
        return LineMark(place.x - dx, place.y - dy, place.x + dx, place.y + dy, "note")

    # --- how a sure want is answered

    def _catch(self, at: Pointer, *, at_once: bool = False) -> Caught:
        if not isinstance(self.want, SureWant) or self.want.kind != "place":
            return super()._catch(at, at_once=at_once)
        self._at_once = at_once
        return self.want.look(at, self.want.edge) or Caught(at.x, at.y)

    def _answer_with(self, caught: Caught, pull: tuple[float, float] | None, shift: bool) -> None:
        want = self.want
        if isinstance(want, SureWant):
            trouble = want.refuses(caught) if isinstance(caught, SurePlace) else want.nothing
            if trouble:
                self.session.messages.refused.emit(trouble)
                return
            if isinstance(caught, SurePlace) and caught.picture:
                self.session.selection.choose_picture(caught.picture)
        super()._answer_with(caught, pull, shift)

    def key(self, key: str) -> None:
        if (
            key == "Enter"
            and isinstance(self.want, SureWant)
            and (trouble := self.want.unfinished())
        ):
            self.session.messages.refused.emit(trouble)
            return
        super().key(key)

    def marks(self) -> list[Mark]:
        want, at = self.want, self._at
        if not isinstance(want, SureWant):
            return super().marks()
        under = at if self._seen and want.kind == "place" and isinstance(at, SurePlace) else None
        marks = want.shows(under)
        if under:
            words = sure_words(under.word, under.spread, self.session.job.unit)
            marks += [
                CrossMark(under.x, under.y, under.directions),
                MagnifierMark(under.x, under.y, words, under.directions),
            ]
        return marks


def _no_edge(place: SurePlace) -> str:
    return (
        ""
        if place.directions
        else "There is no edge under the pointer; pick on an edge, or press C to pick places again."
    )


class TwoPicks(PickGesture):
    """Two places on one picture, each locked to the drawn line beneath it unless Alt is held, and
    what is then wanted of them."""

    def __init__(self, session: Session) -> None:
        self.picture_id = ""
        self.picks: list[Pick] = []
        super().__init__(session)

    @property
    def picture(self) -> Picture | None:
        return self.session.job.picture_by_id.get(self.picture_id) or self.session.selection.picture

    @property
    def done(self) -> bool:
        return len(self.picks) == 2

    def gesture(self) -> Gesture:
        self.picture_id, self.picks = "", []
        for words in ("pick one end of the line", "pick the other end of the line"):
            place = sure((yield from self.take(self._end(words))))
            assert place.pick is not None
            self.picture_id = place.picture
            self.picks = [*self.picks, place.pick]
        yield from self.conclude()

    def conclude(self) -> Gesture:
        """What is wanted once both picks are made, and what it does."""
        raise NotImplementedError

    def after(self, words: str, hint: str, kind: str) -> Want:
        """A want for what the slip says of both picks."""
        return SureWant(words, kind=kind, hint=hint, keys=(), shows=self._marks_under)

    def _end(self, words: str) -> SureWant:
        nothing = "There is no picture under the pointer; pick on the picture."
        return SureWant(
            words, look=self._look, nothing=nothing, refuses=self._too_near, shows=self._marks_under
        )

    def _look(self, at: Pointer, edge: bool) -> SurePlace | None:
        place = self.sure_place(at, contours=False, only=self.picture_id, edge=edge)
        return place if place.pick else None

    def _too_near(self, place: SurePlace) -> str:
        near = (
            self.picks
            and place.pick
            and math.hypot(place.pick.x - self.picks[0].x, place.pick.y - self.picks[0].y)
            < _LEAST_PX
        )
        return "The other end lies on the first one; pick it farther away." if near else ""

    def prompt(self) -> Prompt:
        return (
            super().prompt()
            if self.session.job.pictures
            else Prompt(f"{self.title}: first choose a picture.", "in Gather")
        )

    def _marks_under(self, under: SurePlace | None) -> list[Mark]:
        picture = self.session.job.picture_by_id.get(self.picture_id)
        if picture is None:
            return []
        marks: list[Mark] = []
        for pick in self.picks:
            marks.append(
                CrossMark(
                    *picture.to_job.point(pick.x, pick.y),
                    direction_in_job(picture.to_job, pick.directions),
                )
            )
        ends = [*self.picks, *([under.pick] if under and under.pick and not self.done else [])]
        if len(ends) == 2:
            (ax, ay), (bx, by) = (picture.to_job.point(pick.x, pick.y) for pick in ends)
            marks += [
                LineMark(ax, ay, bx, by),
                TagMark((ax + bx) / 2, (ay + by) / 2, self.tag(picture, ends)),
            ]
        return marks

    def tag(self, picture: Picture, picks: list[Pick]) -> str:
        measured = measure(picture, picks[0], picks[1])
        return format_length(measured.length, self.session.job.unit, places=2)
