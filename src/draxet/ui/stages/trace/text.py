"""Text: words set as contours with a click, straight or along a contour; changed as words until
they are turned into contours."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from draxet.geometry.affine import Affine
from draxet.geometry.contour import boxes_of
from draxet.job.contour_moves import map_contours
from draxet.job.contour_records import Lettering
from draxet.job.find import contour_at
from draxet.job.lettering import (
    add_lettering,
    lettering_with,
    letters_of,
    set_again,
    turned_into_contours,
)
from draxet.lettering.faces import FaceError
from draxet.ui.model.session import Session
from draxet.ui.model.tool import (
    BoxMark,
    ContourMark,
    CrossMark,
    Mark,
    Pointer,
    Prompt,
    TagMark,
    Tool,
)
from draxet.ui.stages.caught import catch_settings, caught
from draxet.ui.stages.mirrored import symmetry
from draxet.ui.stages.picking import REACH
from draxet.ui.stages.trace.text_settings import TextSettings
from draxet.units import format_length

__all__ = ["TextTool"]

_DRAGGED = 4.0

_SHARED = ("face", "height", "spacing", "leading", "align", "away", "other_side")


class TextTool(Tool):
    """Sets words where one clicks, takes words in hand that are there, and moves them."""

    title = "Text"

    def __init__(self, session: Session) -> None:
        self.session = session
        self.id = ""
        self.place: tuple[float, float] | None = None
        """Where words that are not typed yet are to begin."""
        self.onto = ""
        self._pressed: Pointer | None = None
        self._at: Pointer | None = None
        self._typing = object()

    @property
    def settings(self) -> TextSettings:
        return self.session.desk.settings("text", TextSettings)

    @property
    def lettering(self) -> Lettering | None:
        """The words in hand."""
        return next((each for each in self.session.job.letterings if each.id == self.id), None)

    @property
    def words(self) -> str:
        found = self.lettering
        return found.words if found else self.settings.words

    def settings_in_hand(self) -> TextSettings:
        """The settings of the words in hand, or of the next ones."""
        found = self.lettering
        if found is None:
            return self.settings
        same: dict[str, Any] = {name: getattr(found, name) for name in _SHARED}
        return replace(
            self.settings, words=found.words, way="along" if found.along else "straight", **same
        )

    def prompt(self) -> Prompt:
        if self.lettering:
            return Prompt(
                "Text: change the words on the right, or drag them.",
                "",
                (("Del", "remove them"), ("Esc", "let go")),
            )
        if self.place:
            return Prompt("Text: type the words on the right.", "they begin where you clicked")
        if self.settings.way == "along":
            return Prompt(
                "Text: click a contour for the words to run along.", "or words that are there"
            )
        return Prompt("Text: click where the words begin.", "or words that are there")

    # --- the pointer

    def press(self, at: Pointer) -> None:
        self._pressed = self._at = at
        found = self._words_at(at)
        if found is not None and found.id != self.id:
            self._take(found.id)
        elif found is None:
            self._take("")

    def move(self, at: Pointer) -> None:
        self._at = at

    def release(self, at: Pointer) -> None:
        begun, self._pressed = self._pressed, None
        found = self.lettering
        if begun is None:
            return
        far = max(abs(at.x - begun.x), abs(at.y - begun.y)) > _DRAGGED * at.pixel
        if found is None:
            self._begin(at)
        elif far and found.along:
            self._set(replace(found, near=(at.x, at.y)), "move text along")
        elif far:
            self._move(found, Affine.moved(at.x - begun.x, at.y - begun.y))

    def _move(self, found: Lettering, move: Affine) -> None:
        """Words moved, those that symmetry sets again in their own halves or sectors."""
        if found.again:
            self._set(replace(found.mapped(move), again=found.again), "move text")
        else:
            self.session.edit(
                "move text",
                map_contours(self.session.job, letters_of(self.session.job, found), move),
            )

    def _words_at(self, at: Pointer) -> Lettering | None:
        job = self.session.job
        groups = {each.part for each in job.letterings}
        items = [item for item in self.session.selection.pickable if item.part in groups]
        name = contour_at(items, at.x, at.y, REACH * at.pixel) if items else None
        if name is None:  # between the strokes of a letter as well
            boxes = [(item.contour.box, item) for item in items]
            name = next(
                (
                    item.id
                    for (x0, y0, x1, y1), item in boxes
                    if x0 <= at.x <= x1 and y0 <= at.y <= y1
                ),
                None,
            )
        return lettering_with(job, name) if name else None

    def _begin(self, at: Pointer) -> None:
        """Words begin here, once there are any."""
        self.onto = ""
        if self.settings.way == "along":
            self.onto = (
                contour_at(self.session.selection.pickable, at.x, at.y, REACH * at.pixel) or ""
            )
            if not self.onto:
                self.session.messages.refused.emit(
                    "There is no contour here; click the one that the words are to run along."
                )
                return
        found = (
            caught(self.session, at, catch_settings(self.session).kinds) if not at.free else None
        )
        self.place = (at.x, at.y) if found is None or self.onto else found.place
        if self.settings.words.strip():
            self._make(self.settings.words)
        else:
            self.session.tool_changed.emit()
            self.session.messages.text_asked.emit()

    def _make(self, words: str, gesture: object = None) -> None:
        s, session = self.settings, self.session
        assert self.place is not None
        x, y = self.place
        made = Lettering(
            "lettering-0",
            "",
            words,
            s.face,
            s.height,
            s.spacing,
            s.leading,
            s.align,
            Affine.moved(x, y),
            self.onto,
            (x, y),
            s.away,
            s.other_side,
            tuple(symmetry(session).places()),
        )
        try:
            job, name = add_lettering(session.job, made)
        except FaceError as error:
            self._refuse(error)
            return
        self.place, self.id = None, name
        session.edit("set text", job, gesture)
        self._told()

    def _take(self, name: str) -> None:
        self.id, self.place, self._typing = name, None, object()
        found = self.lettering
        if found is not None:
            for each in _SHARED:
                setattr(self.settings, each, getattr(found, each))
        self._told()

    def _told(self) -> None:
        self.session.tool_changed.emit()
        self.session.marks_changed.emit()

    def _refuse(self, error: Exception) -> None:
        words = str(error)
        self.session.messages.refused.emit(f"Text: {words}.")

    # --- what is changed

    def type(self, words: str) -> None:
        """Other words; those typed in one go are one step."""
        found = self.lettering
        if words == self.words and not (self.place and words.strip()):
            return
        self.settings.words = words
        if found is not None:
            if words.strip():
                self._set(replace(found, words=words), "change text", self._typing)
            else:
                self.session.messages.refused.emit(
                    "Text: with no words nothing would be left; Del removes it."
                )
        elif self.place is not None and words.strip():
            self._make(words, self._typing)

    def change(self, name: str, value: object, gesture: object = None) -> None:
        """Another setting, of the words in hand and of the next ones."""
        found = self.lettering
        if name in _SHARED and found is not None:
            changed: dict[str, Any] = {name: value}
            if not self._set(replace(found, **changed), "change text", gesture):
                self.session.tool_changed.emit()
                return
        setattr(self.settings, name, value)
        self._told()

    def _set(self, lettering: Lettering, words: str, gesture: object = None) -> bool:
        session = self.session
        try:
            job = set_again(session.job, lettering)
        except FaceError as error:
            self._refuse(error)
            return False
        session.edit(words, job, gesture)
        return True

    def turn_into_contours(self) -> None:
        """The words in hand are contours from then on."""
        found, session = self.lettering, self.session
        if found is None:
            session.messages.refused.emit("Text: click the words first.")
            return
        ids = letters_of(session.job, found)
        session.edit("turn text into contours", turned_into_contours(session.job, found.id))
        self._take("")
        session.selection.choose(ids)
        session.messages.announced.emit(
            "The words are contours now; they can be picked and changed in Mend"
        )

    def remove(self) -> bool:
        from draxet.job.contour_edits import remove_contours

        found, session = self.lettering, self.session
        if found is None:
            return False
        session.edit("remove text", remove_contours(session.job, letters_of(session.job, found)))
        self._take("")
        return True

    def cancel(self) -> bool:
        begun = bool(self.id or self.place or self._pressed)
        self._pressed = None
        self._take("")
        return begun

    def forget(self) -> None:
        self._pressed, self.place = None, None
        if self.lettering is None:
            self.id = ""

    def marks(self) -> list[Mark]:
        marks: list[Mark] = [
            *symmetry(self.session).marks(),
            *([CrossMark(*self.place)] if self.place else []),
        ]
        found = self.lettering
        if found is None:
            return marks
        letters = letters_of(self.session.job, found)
        contours = [item.contour for item in self.session.layout.contours if item.id in letters]
        if not contours:
            return marks
        marks.append(ContourMark(tuple(contours)))
        if self._pressed is not None and self._at is not None and not found.along:
            move = Affine.moved(self._at.x - self._pressed.x, self._at.y - self._pressed.y)
            once = -(-len(contours) // (1 + len(found.again)))  # what is set again lies behind
            marks.append(
                ContourMark(
                    tuple(contours[:once]),
                    "preview",
                    (move, *(move.then(place) for place in found.again)),
                )
            )
        else:
            unit, boxes = self.session.job.unit, boxes_of(contours)
            x0, y0 = boxes[:, :2].min(axis=0).tolist()
            x1, y1 = boxes[:, 2:].max(axis=0).tolist()
            marks += [
                BoxMark(x0, y0, x1, y1),
                TagMark(
                    (x0 + x1) / 2,
                    y0,
                    f"{format_length(x1 - x0, unit, places=1)} × {format_length(y1 - y0, unit, places=1)}",
                    "note",
                ),
            ]
        return marks
