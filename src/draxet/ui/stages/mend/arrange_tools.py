"""Chosen contours are mirrored, turned, and repeated in rows and rings."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.contour_moves import map_contours
from draxet.job.copies import place_copies, removed_alone
from draxet.job.findings import count_words
from draxet.mend.arrange import half_with_mirror, mirror_across, ring_places, row_places
from draxet.ui.controls.fields import WordField
from draxet.ui.controls.slip_parts import button, fact_row, field_row, label
from draxet.ui.model.session import Session
from draxet.ui.model.tool import ContourMark, LineMark, Mark, TagMark, Tool
from draxet.ui.stages.gesture import GestureTool
from draxet.ui.stages.mend.arrange_settings import ArrangeSettings, arrange_settings
from draxet.ui.stages.slip import Slip
from draxet.ui.stages.want import Gesture, Place, Want, polar

__all__ = ["ArrangeSlip", "Arranging", "MirrorTool", "MoveTool", "RingTool", "SizeTool", "TurnTool"]

_SHOWN = 200_000
"""Spans of copies that are shown while they are placed."""
_ASKED = {
    "Ring": ("count", "sweep", "linked"),
    "Size": ("one_way", "copies", "linked"),
    "Mirror": ("image", "linked"),
}


class Arranging(GestureTool):
    """Works on the chosen contours, or on all where none is chosen."""

    @property
    def settings(self) -> ArrangeSettings:
        return arrange_settings(self.session)

    def meant(self) -> list[str]:
        return [item.id for item in (self.session.selection.items or self.session.selection.shown)]

    def contours(self) -> list[Contour]:
        by_id = self.session.layout.contour_by_id
        return [by_id[k].contour for k in self.meant()]

    def looks(self, places: list[Affine]) -> list[Mark]:
        """What it would give."""
        contours = tuple(self.contours())
        few = places[: max(1, _SHOWN // max(sum(len(contour.kinds) for contour in contours), 1))]
        return [ContourMark(contours, places=tuple(few))]

    def put(self, words: str, places: list[Affine], *, copies: bool) -> None:
        """Copies at each place, or the contours themselves at the one there is."""
        ids, job = self.meant(), self.session.job
        if not copies:
            self.session.edit_chosen(
                words, lambda now, some: map_contours(now, some, places[0], by_hand=True), ids=ids
            )
            return
        made, new = place_copies(job, ids, places, linked=self.settings.linked)
        self.session.edit(words, made)
        self.session.messages.announced.emit(
            f"{count_words(len(new), 'contour')} more{', which follow the original' if self.settings.linked else ''}"
        )


class MirrorTool(Arranging):
    """Across a line of two places; a drawn half and its mirror become one contour."""

    title = "Mirror"

    def gesture(self) -> Gesture:
        a = (yield Want("click a place of the mirror line")).place
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
                "Mirror: both places are the same; click farther apart."
            )
            return
        halves = (
            {
                k: half_with_mirror(self.session.layout.contour_by_id[k].contour, a, b.place)
                for k in self.meant()
            }
            if self.settings.image
            else {}
        )
        whole = {k: half for k, half in halves.items() if half is not None}
        if whole and len(whole) == len(halves):
            job = add_contours(removed_alone(self.session.job, whole), list(whole.values()))
            self.session.edit("mirror a half and join it", job)
            self.session.messages.announced.emit(
                "The half and its mirror are one closed contour"
                if len(whole) == 1
                else f"{len(whole)} halves are closed contours now"
            )
            return
        self.put("mirror", [mirror_across(a, b.place)], copies=self.settings.image)

    def _looks(self, a: Place, at: Place) -> list[Mark]:
        if math.dist(a, at) <= 0:
            return []
        far = 1e4 / max(math.dist(a, at), 1e-9)
        dx, dy = (at[0] - a[0]) * far, (at[1] - a[1]) * far
        return [
            LineMark(a[0] - dx, a[1] - dy, a[0] + dx, a[1] + dy, "note"),
            *self.looks([mirror_across(a, at)]),
        ]


class TurnTool(Arranging):
    """About a place, from one direction to another or by a typed angle."""

    title = "Turn"

    def gesture(self) -> Gesture:
        centre = (yield Want("click the place to turn about")).place
        start = (
            yield Want(
                "click where it is turned from",
                marks=lambda at: [LineMark(*centre, *at)],
                back=(centre,),
            )
        ).place
        end = yield Want(
            "click where it is turned to",
            ("angle",),
            _turned_by(centre, start),
            lambda at: self._looks(centre, start, at),
            back=(centre,),
        )
        degrees = end.numbers.get("angle", _degrees(centre, start, end.place))
        self.put("turn", [Affine.turned(degrees).about(*centre)], copies=self.settings.copies)

    def _looks(self, centre: Place, start: Place, at: Place) -> list[Mark]:
        degrees = _degrees(centre, start, at)
        return [
            LineMark(*centre, *at),
            TagMark(*at, f"{degrees:.2f}°"),
            *self.looks([Affine.turned(degrees).about(*centre)]),
        ]


class MoveTool(Arranging):
    """From one place to another, by a length and an angle, or so far to the right and up."""

    title = "Move"

    def gesture(self) -> Gesture:
        a = (yield Want("click the place to move from")).place
        b = yield Want(
            "click where it goes",
            ("right", "up"),
            _moved_by(a),
            lambda at: self._looks(a, at),
            a,
            back=(a,),
        )
        self.put(
            "move",
            [Affine.moved(b.place[0] - a[0], b.place[1] - a[1])],
            copies=self.settings.copies,
        )

    def _looks(self, a: Place, at: Place) -> list[Mark]:
        tag = TagMark(*at, f"{self.length(at[0] - a[0])} right, {self.length(at[1] - a[1])} up")
        return [LineMark(*a, *at), tag, *self.looks([Affine.moved(at[0] - a[0], at[1] - a[1])])]


class SizeTool(Arranging):
    """About a place that stays: another place is drawn to where it belongs, or the factor or the
    new length is typed."""

    title = "Size"

    def gesture(self) -> Gesture:
        fixed = (yield Want("click the place that stays")).place
        start = (
            yield Want(
                "click a place to draw by", marks=lambda at: [LineMark(*fixed, *at)], back=(fixed,)
            )
        ).place
        if math.dist(fixed, start) <= 0:
            self.session.messages.refused.emit(
                "Size: both places are the same; click farther apart."
            )
            return
        end = yield Want(
            "click where it belongs",
            ("length",),
            _drawn_out(fixed, start),
            lambda at: self._looks(fixed, start, at),
            back=(fixed, start),
        )
        place = self._place_of(fixed, start, end.place)
        if place is None:
            self.session.messages.refused.emit(
                "Size: that would leave nothing of it; click farther from the place that stays."
            )
            return
        if any(self.session.layout.contour_by_id[k].fixed for k in self.meant()):
            self.session.messages.refused.emit(
                "Some of the contours have a fixed size; free it in True up, Fixed size, to resize."
            )
            return
        self.put("resize", [place], copies=self.settings.copies)

    def _place_of(self, fixed: Place, start: Place, at: Place) -> Affine | None:
        long = math.dist(fixed, start)
        along = (
            (at[0] - fixed[0]) * (start[0] - fixed[0]) + (at[1] - fixed[1]) * (start[1] - fixed[1])
        ) / (long * long)
        factor = along if self.settings.one_way else math.dist(fixed, at) / long
        if not 1e-4 < factor < 1e4:
            return None
        if not self.settings.one_way:
            return Affine.scaled(factor).about(*fixed)
        turn = Affine.turned(math.degrees(math.atan2(start[1] - fixed[1], start[0] - fixed[0])))
        return turn.inverse().then(Affine.scaled(factor, 1.0)).then(turn).about(*fixed)

    def _looks(self, fixed: Place, start: Place, at: Place) -> list[Mark]:
        place = self._place_of(fixed, start, at)
        if place is None:
            return [LineMark(*fixed, *at)]
        to = place.point(*start)
        return [
            LineMark(*fixed, *to),
            TagMark(*to, f"× {math.dist(fixed, to) / math.dist(fixed, start):.4g}"),
            *self.looks([place]),
        ]


class RingTool(Arranging):
    """A ring of copies round a place: how many, over which angle and which places stay empty is on
    the slip; count can be typed."""

    title = "Ring"

    def gesture(self) -> Gesture:
        centre = yield Want(
            "click the middle of the ring",
            ("places",),
            lambda numbers, at: at,
            lambda at: self.looks(self._ring(at, self.settings.count)),
        )
        count = int(centre.numbers.get("places", self.settings.count))
        self.put("a ring of copies", self._ring(centre.place, count), copies=True)

    def _ring(self, centre: Place, count: int) -> list[Affine]:
        return ring_places(centre, count, self.settings.sweep, self.settings.empty)


def _degrees(centre: Place, start: Place, end: Place) -> float:
    one, other = (math.atan2(p[1] - centre[1], p[0] - centre[0]) for p in (start, end))
    return math.degrees((other - one + math.pi) % (2 * math.pi) - math.pi)


def _turned_by(centre: Place, start: Place) -> Callable[[Mapping[str, float], Place], Place]:
    return lambda numbers, at: (
        Affine.turned(numbers["angle"]).about(*centre).point(*start) if "angle" in numbers else at
    )


def _moved_by(a: Place) -> Callable[[Mapping[str, float], Place], Place]:
    return lambda numbers, at: (
        a[0] + numbers.get("right", at[0] - a[0]),
        a[1] + numbers.get("up", at[1] - a[1]),
    )


def _drawn_out(fixed: Place, start: Place) -> Callable[[Mapping[str, float], Place], Place]:
    """The place in the start's direction at a typed length."""

    def place(numbers: Mapping[str, float], at: Place) -> Place:
        if "length" not in numbers:
            return at
        share = numbers["length"] / math.dist(fixed, start)
        return fixed[0] + share * (start[0] - fixed[0]), fixed[1] + share * (start[1] - fixed[1])

    return place


class ArrangeSlip(Slip):
    """What is arranged, whether the original stays, and rows and columns by number."""

    def __init__(self, session: Session, tool: Tool) -> None:
        about = {
            "Mirror": "The chosen contours, or all. A half whose ends lie on the line becomes one closed contour with its mirror.",
            "Turn": "The chosen contours, or all, about a place.",
            "Ring": "Copies of the chosen contours, or of all, round a place.",
            "Move": "The chosen contours, or all, from one place to another or by typed numbers.",
            "Size": "The chosen contours, or all, about a place; along one direction alone where that is chosen.",
        }
        super().__init__(session, tool.title, about[tool.title])
        self._tool, self.settings = tool, arrange_settings(session)
        self.settings.way = tool.title.lower()
        self.way = self.ask(
            self.settings,
            lambda name, value, gesture: self.session.messages.tool_asked.emit(value),
            ("way",),
        )
        meant, self._meant = fact_row("Arranged")
        self.add(meant)
        ring = tool.title == "Ring"
        self.asked = self.ask(
            self.settings, self._set, _ASKED.get(tool.title, ("copies", "linked"))
        )
        self.empty = WordField("Places left empty")
        self.empty.entered.connect(self._set_empty)
        if ring:
            self.add(field_row("Places left empty", self.empty, 110))
        self.add(label("In rows and columns", "section"))
        self.grid = self.ask(self.settings, self._set, ("columns", "rows", "right", "up"))
        self.add(button("Repeat", "plain", self._repeat))
        self.refresh()

    def _set(self, name: str, value: object, gesture: object = None) -> None:
        setattr(self.settings, name, value)
        self.session.tool_changed.emit()

    def _set_empty(self, words: str) -> None:
        try:
            self._set(
                "empty", tuple(sorted({int(part) for part in words.replace(",", " ").split()}))
            )
        except ValueError:
            self.session.messages.refused.emit(
                f"Places left empty must be whole numbers like 3, 5, got {words[:30]!r}"
            )
            self.refresh()

    def _repeat(self) -> None:
        s = self.settings
        try:
            places = row_places(s.columns, s.rows, s.right, s.up)
        except ValueError as error:
            self.session.messages.refused.emit(f"Rows and columns: {error}")
            return
        if isinstance(self._tool, Arranging):
            self._tool.put("repeat in rows", places, copies=True)

    def refresh(self) -> None:
        s, chosen = self.settings, len(self.session.selection.ids)
        self._meant.setText(count_words(chosen, "contour") if chosen else "all contours")
        self.empty.set_value(", ".join(map(str, s.empty)))
        self.way.show_of(s)
        self.asked.show_of(s)
        self.grid.show_of(s)
