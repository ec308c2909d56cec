"""Contours are dragged as a whole: one that is not chosen by itself, those that are chosen by the box
round them."""

from __future__ import annotations

from dataclasses import replace

from draxet.geometry.affine import Affine
from draxet.geometry.catching import Caught
from draxet.geometry.contour import Contour, transformed_all
from draxet.job.contour_moves import map_contours
from draxet.job.copies import place_copies
from draxet.job.find import boxes_of, contour_at, node_at
from draxet.job.layout import items_named
from draxet.job.place_types import Box
from draxet.record import record
from draxet.ui.model.session import Session
from draxet.ui.model.tool import FrameMark, LineMark, Mark, Pointer, Prompt, TagMark
from draxet.ui.stages.caught import catch_settings, caught, caught_marks
from draxet.ui.stages.mend.box_round import (
    BoxHold,
    drawn_out,
    hold_at,
    middle_of,
    shown_holds,
    sized,
    turned,
)
from draxet.ui.stages.mend.chosen_nodes import ChosenNodes
from draxet.ui.stages.picking import REACH
from draxet.ui.stages.want import read_number
from draxet.units import UnitError, format_length

__all__ = ["Grip", "WholeDrag"]

_MOST_SHOWN, _MOST_OWN = 400, 400
_CATCHES = frozenset(("end", "node", "point", "crossing", "middle", "centre", "guide", "on line"))
"""What is dragged catches these."""
_BEGIN = "0123456789.(-"
_MIDDLE = "M"
_WORDS = {"move": "move contours", "size": "resize", "turn": "turn"}


@record(frozen=True)
class Grip:
    """What is held: a ``node``, a ``handle`` (of a span, at its start 0 or end 1), a ``span`` (at
    a parameter) of a contour, it as a ``whole``, or the ``box`` round what is chosen; and the place
    of it that is caught on others."""

    what: str
    contour: str
    number: int
    end: int = 0
    t: float = 0.0
    place: tuple[float, float] | None = None
    hold: BoxHold | None = None

    @property
    def act(self) -> str:
        """What is done to what is dragged whole: ``move``, ``size`` or ``turn``."""
        return self.hold.what if self.hold else "move"


class WholeDrag(ChosenNodes):
    """Drag contours as they are, size and turn them by the box round them; a number typed meanwhile
    says how wide, how high, or by how much."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._grip: Grip | None = None
        self._moved: dict[str, Contour] = {}
        self._caught = Caught(0.0, 0.0)
        self._goes: Affine | None = None
        self._whole = frozenset[str]()
        self._box: Box = (0.0, 0.0, 0.0, 0.0)
        """That of what is chosen as it was taken hold of."""
        self._typed, self._tag = "", ""
        self._about_middle = self._waits = False
        """Whether the middle stays; whether a handle that was clicked waits for its number."""
        self._hot_hold: BoxHold | None = None

    @property
    def _holds(self) -> bool:
        return self._grip is not None

    @property
    def holds(self) -> bool:
        return self._grip is not None or super().holds

    def let_go(self) -> None:
        """Nothing is held any more, and all is as it was."""
        self._grip, self._moved, self._from = None, {}, None
        self._typed, self._tag, self._goes = "", "", None
        self._waits = self._about_middle = False

    # --- what is taken hold of

    def chosen_box(self) -> Box | None:
        """The box round what is chosen, where it can be held."""
        if self.nodes or self.lasso or not self._session.selection.ids:
            return None
        boxes = boxes_of(self._session.selection.items)
        if not len(boxes):
            return None
        (x0, y0), (x1, y1) = boxes[:, :2].min(axis=0).tolist(), boxes[:, 2:].max(axis=0).tolist()
        return x0, y0, x1, y1

    def _hold_of_box(self, at: Pointer, *, rim: bool) -> Grip | None:
        box = self.chosen_box()
        hold = hold_at(box, at, rim=rim) if box and not at.adds else None
        if box is None or hold is None:
            return None
        place = {"move": (hold.x, hold.y), "size": hold.corner(box)}.get(hold.what)
        return Grip("box", "", 0, place=place, hold=hold)

    def _whole_at(self, at: Pointer) -> Grip | None:
        """A contour that is not chosen, to be dragged whole by its nearest node, or where it is held."""
        items, reach = self._session.selection.pickable, REACH * at.pixel
        name = contour_at(items, at.x, at.y, reach)
        if name is None:
            return None
        item = self._session.layout.contour_by_id[name]
        node = node_at((item,), at.x, at.y, reach)
        return Grip("whole", name, 0, place=self._place_of(*node) if node else (at.x, at.y))

    def _place_of(self, contour: str, node: int) -> tuple[float, float]:
        x, y = self._session.layout.contour_by_id[contour].contour.nodes[node].tolist()
        return x, y

    def _may_hold(self, grip: Grip) -> bool:
        """Says why not, where what is chosen has a fixed size."""
        if grip.act != "size" or not any(item.fixed for item in self._session.selection.items):
            return True
        self._session.messages.refused.emit(
            "Some of the contours have a fixed size; free it in True up, Fixed size, to resize."
        )
        return False

    # --- where it is dragged

    @staticmethod
    def _has_moved(begun: Pointer, at: Pointer) -> bool:
        return abs(at.x - begun.x) + abs(at.y - begun.y) > 3 * at.pixel

    def _dragged_by(self, grip: Grip, begun: Pointer, at: Pointer) -> tuple[float, float]:
        """How far what is held has come: to the pointer, or to what its place catches there."""
        self._caught, kinds = Caught(at.x, at.y), catch_settings(self._session).kinds & _CATCHES
        if grip.place is None or at.free or not kinds or not self._has_moved(begun, at):
            return at.x - begun.x, at.y - begun.y
        moved = {name for name, _ in self.nodes} if grip.what == "node" else self._whole
        aim = replace(at, x=grip.place[0] + at.x - begun.x, y=grip.place[1] + at.y - begun.y)
        found = caught(
            self._session, aim, kinds, without=frozenset(moved), more=self._own_places(grip)
        )
        if found.word == "free":
            return at.x - begun.x, at.y - begun.y
        self._caught = found
        return found.x - grip.place[0], found.y - grip.place[1]

    def _own_places(self, grip: Grip) -> tuple[tuple[float, float], ...]:
        """Of a contour whose nodes are dragged, where its other ones stay."""
        if grip.what != "node":
            return ()
        nodes = self._session.layout.contour_by_id[grip.contour].contour.nodes.tolist()
        return tuple(
            (x, y)
            for k, (x, y) in enumerate(nodes[:_MOST_OWN])
            if (grip.contour, k) not in self.nodes
        )

    def _drag_whole(self, grip: Grip, begun: Pointer, at: Pointer) -> None:
        """What is dragged whole is chosen, and shown where it would be."""
        if not self._moved:
            if not self._has_moved(begun, at) and not self._typed:
                return
            if grip.what == "whole":
                self.take({grip.contour}, False, alone=begun.free)
            self._whole, self._box = self._session.selection.ids, self.chosen_box() or self._box
        self._goes = self._map(grip, begun, at) or self._goes
        if self._goes is None:
            return
        items = items_named(self._session.job, self._whole)[:_MOST_SHOWN]
        shapes = transformed_all([item.contour for item in items], self._goes)
        self._moved = {item.id: shape for item, shape in zip(items, shapes, strict=True)}

    def _map(self, grip: Grip, begun: Pointer, at: Pointer) -> Affine | None:
        """Where what is dragged whole goes; None where nothing would be left of it."""
        hold, box, middle = grip.hold, self._box, self._about_middle
        number = self._number(hold) if hold and self._typed else None
        if hold is None or hold.what == "move":
            dx, dy = self._dragged_by(grip, begun, at)
            self._tag = f"{self._length(dx)} right, {self._length(dy)} up" if hold else ""
            return Affine.moved(dx, dy)
        if hold.what == "turn":
            way = turned(box, (begun.x, begun.y), (at.x, at.y), free=at.free)
            degrees = way if number is None else number
            self._tag = f"{degrees:.2f}°"
            return Affine.turned(degrees).about(*middle_of(box))
        side = box[2] - box[0] if hold.across else box[3] - box[1]
        if number is not None:
            by: float | None = number / side
        else:
            dx, dy = self._dragged_by(grip, begun, at)
            corner = hold.corner(box)
            by = drawn_out(hold, box, (corner[0] + dx, corner[1] + dy), about_middle=middle)
        if by is None:
            return None
        to = sized(hold, box, by, about_middle=middle)
        x0, y0, x1, y1 = _mapped(box, to)
        self._tag = f"{self._length(x1 - x0)} × {self._length(y1 - y0)}"
        return to

    def _number(self, hold: BoxHold) -> float | None:
        """What was typed so far; None where it is no number yet."""
        try:
            return read_number(hold.number, self._typed, self._session.job.unit)
        except UnitError:
            return None

    def _length(self, mm: float) -> str:
        return format_length(mm, self._session.job.unit)

    # --- where it is let go

    def _let_go_whole(self, grip: Grip, to: Affine, *, copy: bool) -> None:
        session, words = self._session, _WORDS[grip.act]
        if not copy:
            session.edit_chosen(
                words, lambda job, ids: map_contours(job, ids, to, by_hand=True), ids=self._whole
            )
            return
        job, new = place_copies(session.job, self._whole, [to])
        session.edit("copy contours", job)
        session.selection.choose(new & session.layout.contour_by_id.keys())

    def typed_fault(self) -> bool:
        """Whether what was typed for the box is no number, which is said then."""
        hold = self._grip.hold if self._grip else None
        if hold is None or not self._typed:
            return False
        try:
            read_number(hold.number, self._typed, self._session.job.unit)
        except UnitError as error:
            self._session.messages.refused.emit(str(error))
            return True
        return False

    def _put_typed(self) -> None:
        """What was typed for the box's handle is done."""
        grip, at = self._grip, self._pointer
        assert grip is not None and grip.hold is not None and at is not None
        if self.typed_fault():
            return
        self._drag_whole(grip, self._from or at, at)
        to = self._goes
        self.let_go()
        if to is not None:
            self._let_go_whole(grip, to, copy=False)
        self._session.tool_changed.emit()

    # --- keys

    def wants_key(self, key: str) -> bool:
        grip = self._grip
        if grip is None or grip.hold is None or not grip.hold.number:
            return super().wants_key(key)
        if self._typed:
            return len(key) == 1 or key in ("Backspace", "Enter", "Escape")
        return (len(key) == 1 and key in _BEGIN) or key.upper() == _MIDDLE

    def key(self, key: str) -> None:
        grip = self._grip
        if grip is None or grip.hold is None:
            super().key(key)
            return
        if key == "Enter":
            self._put_typed()
            return
        if key.upper() == _MIDDLE and not self._typed:
            self._about_middle = not self._about_middle
        elif key in ("Backspace", "Escape"):
            self._typed = "" if key == "Escape" else self._typed[:-1]
        else:
            self._typed += key
        if self._pointer is not None:
            if self._typed or self._moved:
                self._drag_whole(grip, self._from or self._pointer, self._pointer)
            if not self._typed and self._waits:
                self._moved, self._goes = {}, None
        self._session.tool_changed.emit()

    # --- what it says and shows

    def held_prompt(self) -> Prompt:
        """While something is held."""
        grip = self._grip
        assert grip is not None
        hold = grip.hold
        if hold is not None and hold.number:
            waits = f"{hold.number} {self._typed}" if self._typed else f"type the {hold.number}"
            middle = (
                (
                    (
                        _MIDDLE,
                        "its middle stays" if not self._about_middle else "its other side stays",
                    ),
                )
                if hold.what == "size"
                else ()
            )
            keys = (("Enter", "so"),) if self._typed else middle
            return Prompt(
                f"{self.title}: {waits}{'.' if self._typed or self._waits else ', or let it go where it belongs.'}",
                keys=(
                    *keys,
                    *(() if self._waits else (("Ctrl", "leave a copy"), ("Alt", "free"))),
                    ("Esc", "leave it as it was"),
                ),
            )
        leaves = (("Ctrl", "leave a copy"),) if grip.what in ("whole", "box") else ()
        return Prompt(
            f"{self.title}: let it go where it belongs.",
            keys=(*leaves, ("Alt", "free"), ("Esc", "leave it where it was")),
        )

    def box_marks(self) -> list[Mark]:
        """The box round what is chosen, or where it would be."""
        grip, at = self._grip, self._pointer
        if grip is not None and grip.what != "box":
            return []
        box = self.chosen_box()
        if box is None or (grip is None and self._from is not None):
            return []
        hold = grip.hold if grip else self._hot_hold
        pixel = at.pixel if at else 0.0
        holds = tuple((each.across, each.up) for each in shown_holds(box, pixel)) if pixel else ()
        hot = (hold.across, hold.up) if hold and hold.what != "move" else None
        if grip is None or self._goes is None or not self._moved:
            tag = hold.number if grip and hold and self._waits else ""
            tags: list[Mark] = (
                [TagMark(hold.x, hold.y, f"{tag} {self._typed or '…'}")] if tag and hold else []
            )
            return [FrameMark(box, holds, hot), *tags]
        marks: list[Mark] = (
            [LineMark(*middle_of(self._box), *self._goes.point(hold.x, hold.y))]
            if hold and hold.what == "turn"
            else [FrameMark(_mapped(self._box, self._goes))]
        )
        words = f"{hold.number} {self._typed}: {self._tag}" if self._typed and hold else self._tag
        return [*marks, *([TagMark(at.x, at.y, words)] if at else [])]

    def caught_marks(self) -> list[Mark]:
        """What was caught by what is dragged."""
        return caught_marks(self._caught) if self._moved else []


def _mapped(box: Box, to: Affine) -> Box:
    (x0, y0), (x1, y1) = to.point(*box[:2]), to.point(*box[2:])
    return x0, y0, x1, y1
