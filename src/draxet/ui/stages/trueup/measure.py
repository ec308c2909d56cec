"""Measure: distance, angle, radius, area and length along, each with how far it can be trusted;
kept as a note or not."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtWidgets import QVBoxLayout

from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.job.find import contour_at
from draxet.job.guide_edits import add_note, remove_note
from draxet.trueup.measures import Reading, angle_at, area_of, circle_through, length_along, read
from draxet.trueup.true import trust_of
from draxet.ui.controls.fields import Choice
from draxet.ui.controls.slip_parts import (
    allow,
    button,
    emptied,
    fact_row,
    icon_button,
    label,
    side_by_side,
)
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.session import Session
from draxet.ui.model.tool import ContourMark, CrossMark, LineMark, Mark, Pointer, TagMark
from draxet.ui.stages.picks import PickGesture, SureWant, sure
from draxet.ui.stages.slip import Slip
from draxet.ui.stages.sure_places import SurePlace
from draxet.ui.stages.want import Answer, Gesture
from draxet.units import format_area, format_length, format_number

__all__ = ["MeasureSlip", "MeasureTool"]

KINDS = {"distance": 2, "angle": 3, "radius": 3, "area": 0, "along": 0}
_WORDS = {
    "distance": ("one end", "the other end"),
    "angle": ("a place on one side", "the angle's corner", "a place on the other side"),
    "radius": ("a place on the arc", "a second place on the arc", "a third place on the arc"),
}
_REACH_PX = 9.0
_WHOLE, _START = "contour", "start"


class MeasureTool(PickGesture):
    """Takes places; zooming and panning between them changes nothing."""

    title = "Measure"

    def __init__(self, session: Session) -> None:
        self.kind = "distance"
        self.places: list[SurePlace] = []
        self.contour, self.done = "", False
        super().__init__(session)

    def set_kind(self, kind: str) -> None:
        self.kind = kind
        self.play(())

    def gesture(self) -> Gesture:
        self.places, self.contour, self.done = [], "", False
        while len(self.places) < (KINDS[self.kind] or math.inf):
            answer = yield from self.take(self._next())
            if answer.key or answer.caught.word == _START:
                break
            if answer.caught.word == _WHOLE:
                self.contour = answer.caught.contour
                break
            self.places.append(sure(answer))
        self.done = True
        yield SureWant(
            "click to measure again",
            kind="choice",
            rests=True,
            hint="keep it as a note on the right, or not",
            keys=(),
            shows=self._marks_under,
        )
        words = self.words()
        if words:
            places = [(p.x, p.y) for p in self.places] or [
                (x, y) for x, y in self._outline().tolist()
            ]
            self.session.edit(
                "keep a measurement", add_note(self.session.job, self.kind, places, words)
            )

    def _next(self) -> SureWant:
        count, row = len(self.places), self.kind not in _WORDS
        if not row:
            return SureWant(
                f"pick {_WORDS[self.kind][count]}", look=self._look, shows=self._marks_under
            )
        ends = "end it" if count >= (3 if self.kind == "area" else 2) else ""
        words = (
            "pick the next place"
            if count
            else "click a contour, or pick places one after the other"
        )
        return SureWant(
            words,
            hint="" if count else "Enter ends the row of places",
            ends=ends,
            look=self._look,
            shows=self._marks_under,
        )

    def _look(self, at: Pointer, edge: bool) -> SurePlace:
        row, reach = self.kind not in _WORDS, _REACH_PX * at.pixel
        if (
            row
            and not edge
            and not self.places
            and not at.free
            and (contour := contour_at(self.session.selection.shown, at.x, at.y, reach))
        ):
            return SurePlace(at.x, at.y, _WHOLE, contour=contour)
        if (
            self.kind == "area"
            and not edge
            and len(self.places) > 2
            and math.hypot(at.x - self.places[0].x, at.y - self.places[0].y) < reach
        ):
            return SurePlace(self.places[0].x, self.places[0].y, _START)
        return self.sure_place(at, edge=edge)

    def reading(self) -> Reading | None:
        """What was measured; None while places are missing or lie so that nothing can be said."""
        if self.contour:
            item = self.session.layout.contour_by_id.get(self.contour)
            if item is None:
                return None
            share = self._share(item.picture)
            value, power = (
                (abs(item.contour.area), 2) if self.kind == "area" else (item.contour.length, 1)
            )
            return Reading(value, 2 * power * share * value)
        if not self.done:
            return None
        points = np.array([(p.x, p.y) for p in self.places])
        measured = {
            "distance": length_along,
            "along": length_along,
            "angle": angle_at,
            "area": area_of,
            "radius": _radius,
        }[self.kind]
        power = {"angle": 0, "area": 2}.get(self.kind, 1)
        pictures = {p.picture for p in self.places if p.picture}
        share = max((self._share(picture) for picture in pictures), default=0.0)
        found = read(measured, points, [p.spread for p in self.places], share, power)
        return found if math.isfinite(found.value) else None

    def _share(self, picture_id: str) -> float:
        picture = self.session.job.picture_by_id.get(picture_id)
        points = [p for p in self.places if p.picture == picture_id]
        if picture is None or not picture.known_lengths:
            return 0.0
        ends = [p.pick for p in points if p.pick]
        way = (ends[1].x - ends[0].x, ends[1].y - ends[0].y) if len(ends) == 2 else (1.0, 1.0)
        return (trust_of(picture, 1.0, *(way if any(way) else (1.0, 0.0))) or 0.0) / 2

    @property
    def unsized(self) -> bool:
        """Whether something was picked on a picture whose size is not known."""
        ids = {p.picture for p in self.places if p.picture}
        return any(
            not picture.known_lengths for picture in self.session.job.pictures if picture.id in ids
        )

    def words(self) -> str:
        found = self.reading()
        if found is None:
            return ""
        return ("R " if self.kind == "radius" else "") + self.in_unit(found.value, 2)

    def in_unit(self, value: float, places: int) -> str:
        unit = self.session.job.unit
        if self.kind == "angle":
            return f"{format_number(value, places)}°"
        return (
            format_area(value, unit)
            if self.kind == "area"
            else format_length(value, unit, places=places)
        )

    def keep(self) -> None:
        """Keep what was measured on the drawing."""
        if self.words():
            self.answer(Answer(key="keep"))
        else:
            self.session.messages.refused.emit("Measure something first; then it can be kept.")

    def _outline(self) -> Points:
        contour = self.session.layout.contour_by_id[self.contour].contour
        points = contour.flattened(contour.length / 500)
        return points[:: max(1, len(points) // 60)]

    def _marks_under(self, under: SurePlace | None) -> list[Mark]:
        item = self.session.layout.contour_by_id.get(self.contour)
        if item:
            x0, y0, x1, y1 = item.contour.box
            return [
                ContourMark((item.contour,)),
                TagMark((x0 + x1) / 2, (y0 + y1) / 2, self.words()),
            ]
        shown = [*self.places, *([under] if under else [])]
        marks: list[Mark] = [
            LineMark(a.x, a.y, b.x, b.y)
            for a, b in zip(shown, shown[1:], strict=False)
            if self.kind != "radius"
        ]
        marks += [CrossMark(p.x, p.y, p.directions) for p in self.places]
        if not self.done or not shown:
            return marks
        if self.kind == "area":
            marks.append(LineMark(shown[-1].x, shown[-1].y, shown[0].x, shown[0].y))
        if self.kind == "radius" and (circle := self._circle()):
            marks += [ContourMark((Contour.circle(*circle),)), CrossMark(circle[0], circle[1])]
        if words := self.words():
            marks.append(
                TagMark(
                    sum(p.x for p in shown) / len(shown),
                    sum(p.y for p in shown) / len(shown),
                    words,
                )
            )
        return marks

    def _circle(self) -> tuple[float, float, float] | None:
        try:
            return circle_through(np.array([(p.x, p.y) for p in self.places]))
        except ValueError:
            return None


def _radius(points: Points) -> float:
    try:
        return circle_through(points)[2]
    except ValueError:
        return math.nan


class MeasureSlip(Slip):
    """What is measured, and what was kept."""

    def __init__(self, session: Session, tool: MeasureTool) -> None:
        super().__init__(
            session,
            "Measure",
            "On pictures and on contours. Zoom and pan between the places as you like.",
        )
        self._tool = tool
        self.kind = Choice(
            (("distance", "distance"), ("angle", "angle"), ("radius", "radius")), "What to measure"
        )
        self.more = Choice((("area", "area"), ("along", "length along")), "What to measure")
        for choice in (self.kind, self.more):
            choice.chosen.connect(tool.set_kind)
        value, self._value = fact_row("Measured")
        trust, self._trust = fact_row("Trust")
        wide, self._wide = fact_row("Right · up")
        self._note = label("", "brass", wrap=True)
        self.keep = button("Keep it as a note", "plain", tool.keep)
        self.add(
            self.kind,
            self.more,
            value,
            trust,
            wide,
            self._note,
            self.keep,
            label("Kept", "section"),
        )
        self._list = QVBoxLayout()
        self._list.setSpacing(0)
        self.body.addLayout(self._list)
        self._shown: object = None
        self.refresh()

    def refresh(self) -> None:
        tool = self._tool
        for choice, kinds in (
            (self.kind, ("distance", "angle", "radius")),
            (self.more, ("area", "along")),
        ):
            choice.set_value(tool.kind if tool.kind in kinds else "")
        found = tool.reading()
        self._value.setText(tool.in_unit(found.value, 2) if found else "–")
        self._trust.setText(f"± {tool.in_unit(found.trust, 2)}" if found else "–")
        two = tool.places if found and tool.kind == "distance" else []
        self._wide.setText(
            f"{self.length(abs(two[1].x - two[0].x), 2)} · {self.length(abs(two[1].y - two[0].y), 2)}"
            if two
            else "–"
        )
        allow(self.keep, found, "measure something first")
        unsized = bool(found) and tool.unsized
        self._note.setText(
            "The picture is not to scale yet: this is its size on the sheet, not the real one."
            if unsized
            else ""
        )
        self._note.setVisible(unsized)
        notes = self.session.job.notes
        if notes != self._shown:
            self._shown = notes
            emptied(self._list)
            for note in notes:
                away = icon_button(
                    "remove",
                    LIGHT.quiet,
                    f"Remove the note {note.words}",
                    lambda note=note: self._remove(note.id),  # type: ignore[misc]
                )
                self._list.addWidget(side_by_side(label(f"{note.kind}: {note.words}"), away))
            if not notes:
                self._list.addWidget(label("Nothing kept.", "quiet"))

    def _remove(self, note_id: str) -> None:
        self.session.edit("remove a measurement", remove_note(self.session.job, note_id))
