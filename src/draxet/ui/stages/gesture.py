"""Gestures: a tool as one generator that reads from top to bottom and yields what it wants next.

Each want is a place, with the numbers that can be typed in its stead, or a number or a choice that
the slip has the field for. What was answered is kept, so that a step back plays the gesture again
without the last answer: a gesture changes nothing before its end.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from draxet.geometry.catching import Caught
from draxet.ui.model.session import Session
from draxet.ui.model.tool import BoxMark, LineMark, Mark, Pointer, Prompt, TagMark, Tool
from draxet.ui.stages.caught import catch_settings, caught, caught_marks
from draxet.ui.stages.seen_in_pictures import SeenInPictures
from draxet.ui.stages.sure_places import FindsPlace, SurePlace, place_on_picture
from draxet.ui.stages.want import Answer, Gesture, Place, read_number
from draxet.units import UnitError, format_length

__all__ = ["GestureTool"]

_DRAGGED = 5.0
_BEGIN = "0123456789.(-"
_NEXT = ";"
_HOLD = "H"
_HELD = {0.0: "level", 90.0: "upright"}
_UNDRAWN = ("free", "level", "sheet edge")
"""Caught on nothing that is drawn."""
_SEEN_AS_ONE = 3.0
"""Screen pixels between a picture's line and what is drawn along it."""
_AT_REST = 2.0
"""Screen pixels from where one comes, within which the pointer has no direction."""


class GestureTool(Tool):
    """Drives a gesture with plain events: clicks, press-drag-release, typed numbers, letters, steps
    back."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self._answers: list[Answer] = []
        self._typed: list[str] = []
        self._at: Caught = Caught(0.0, 0.0)
        self._pixel = 1.0
        self._seen = False
        self._pressed: tuple[Pointer, Caught] | None = None
        self._pull: Place | None = None
        self._pointer_at: Pointer | None = None
        self._at_once = False
        self._held_way: float | None = None
        self._in_pictures = SeenInPictures(session, self, self._look_again)
        self._run: Gesture = self.gesture()
        self.want = next(self._run)

    def gesture(self) -> Gesture:
        """The gesture, from its first want to its end, at which alone it changes the job."""
        raise NotImplementedError

    # --- answers

    def answer(self, answer: Answer) -> None:
        """What was wanted, from the pointer, the keys or the slip."""
        self._answers.append(answer)
        self._typed, self._held_way = [], None
        try:
            self.want = self._run.send(answer)
        except StopIteration:
            self._begin_anew()
            self.session.marks_changed.emit()  # what the gesture said at its end stands for a while
            return
        self._told()

    def _begin_anew(self) -> None:
        self._answers, self._held_way = [], None
        self._run = self.gesture()
        self.want = next(self._run)

    def step_back(self) -> bool:
        if self.typing:  # what is being typed is the last thing that was done
            self._typed = []
            self._told()
            return True
        return not self.want.rests and self._back()

    def _back(self) -> bool:
        """Without the last answer; whether there was one."""
        if not self._answers:
            return False
        self.play(self._answers[:-1])
        return True

    def play(self, answers: Sequence[Answer]) -> None:
        """The gesture anew with answers that it was given before; what was typed for another want
        is no answer to this one."""
        self._typed = []
        self._begin_anew()
        for answer in answers:
            self._answers.append(answer)
            self.want = self._run.send(answer)
        self._told()

    def _told(self) -> None:
        self.session.tool_changed.emit()
        self.session.marks_changed.emit()

    # --- the pointer

    @property
    def holds(self) -> bool:
        return self._pressed is not None

    def press(self, at: Pointer) -> None:
        self._pixel = at.pixel
        if self.want.kind != "place":
            self._begin_anew()
        self._pressed = (at, self._catch(at, at_once=True))

    def move(self, at: Pointer) -> None:
        self._pixel, self._seen, self._pointer_at = at.pixel, True, at
        if self._pressed is not None and self.want.drag in ("pull", "box"):
            dx, dy = at.x - self._pressed[1].x, at.y - self._pressed[1].y
            far = (
                min(abs(dx), abs(dy)) if self.want.drag == "box" else math.hypot(dx, dy)
            ) > _DRAGGED * at.pixel
            self._pull = (dx, dy) if far else None
        else:
            self._at = self._catch(at)

    def release(self, at: Pointer) -> None:
        if self._pressed is None:
            return
        (begun, caught), self._pressed = self._pressed, None
        pull, self._pull = self._pull, None
        dragged = math.hypot(at.x - begun.x, at.y - begun.y) > _DRAGGED * at.pixel
        self._answer_with(caught, pull, begun.adds)
        if dragged and pull is None and self.want.drag == "next" and self._answers:
            self._at = self._catch(at, at_once=True)
            self._answer_with(self._at, None, at.adds)

    def _answer_with(self, caught: Caught, pull: Place | None, shift: bool) -> None:
        numbers = self._numbers()
        if numbers is None:
            return
        self.answer(Answer(self._place(numbers, caught.place), pull, shift, "", numbers, caught))

    def _place(self, numbers: Mapping[str, float], at: Place) -> Place:
        start = self.want.start
        if self._held_way is not None and start is not None and numbers and "angle" not in numbers:
            way = math.radians(self._held_way)
            back = (at[0] - start[0]) * math.cos(way) + (at[1] - start[1]) * math.sin(way) < 0
            numbers = {**numbers, "angle": self._held_way + 180.0 * back}
        return self.want.place_of(numbers, at) if numbers and self.want.place_of else at

    def _catch(self, at: Pointer, *, at_once: bool = False) -> Caught:
        """What a pointer catches: where a direction is held, the place on that line beside it."""
        found, start = self._caught(at, at_once=at_once), self.want.start
        if self._held_way is None or start is None:
            return found
        way = math.radians(self._held_way)
        along = (found.x - start[0]) * math.cos(way) + (found.y - start[1]) * math.sin(way)
        x, y = start[0] + along * math.cos(way), start[1] + along * math.sin(way)
        return Caught(x, y, "held", way)

    def _hold(self) -> None:
        """Hold the direction that is nearest to where the pointer is: level, upright, aslant by 45°, or
        that of the line before; or let it go."""
        start, earlier = self.want.start, self.want.back
        if self._held_way is not None or start is None:
            self._held_way = None
        else:
            dx, dy = self._at.x - start[0], self._at.y - start[1]
            ways = [0.0, 90.0, 45.0, 135.0]
            if len(earlier) > 1 and earlier[-1] != earlier[-2]:
                (x0, y0), (x1, y1) = earlier[-2:]
                ways.append(math.degrees(math.atan2(y1 - y0, x1 - x0)) % 180.0)
            now = math.degrees(math.atan2(dy, dx))
            self._held_way = min(ways, key=lambda way: abs((now - way + 90.0) % 180.0 - 90.0))
        if self._pointer_at is not None:
            self._at = self._catch(self._pointer_at)
        self._told()

    def _caught(self, at: Pointer, *, at_once: bool) -> Caught:
        """What a pointer catches; what takes long to be seen in a picture comes once it rests, or
        at once."""
        self._at_once = at_once
        kinds = catch_settings(self.session).kinds
        if at.free or not kinds or self.want.kind != "place" or not self.want.catches:
            return Caught(at.x, at.y)
        found = caught(self.session, at, kinds, self.want.back, self.want.start)
        if found.word in _UNDRAWN and "picture" in kinds and self.session.job.pictures:
            place = self.seen(at, place_on_picture(self.session, at))
            if (
                place is not None
                and place.word not in ("free", "")
                and not self._is_nearer(found, place, at)
            ):
                there = Pointer(place.x, place.y, at.pixel)
                drawn = caught(self.session, there, kinds, (), self.want.start)
                if drawn.word in _UNDRAWN or (
                    math.dist(drawn.place, place.place) > _SEEN_AS_ONE * at.pixel
                ):
                    return Caught(place.x, place.y, f"picture {place.word}", place.direction)
                return drawn  # what was drawn along a picture's line is meant, not that
        return found

    @staticmethod
    def _is_nearer(found: Caught, place: SurePlace, at: Pointer) -> bool:
        """Whether what is level with a place before lies as near as a picture's line: it is meant."""
        away, beside = (math.dist(each.place, (at.x, at.y)) for each in (found, place))
        return found.word == "level" and away <= beside + at.pixel

    def seen(self, at: Pointer, find: FindsPlace, *of: str) -> SurePlace | None:
        """What a picture shows where the pointer is (``SeenInPictures``)."""
        return self._in_pictures.at(at, find, *of, at_once=self._at_once)

    def _look_again(self) -> None:
        """A picture's place is known where the pointer rests."""
        if self._pointer_at is not None and self._pressed is None:
            self._at = self._catch(self._pointer_at)
            self.session.marks_changed.emit()

    # --- typed

    @property
    def follows(self) -> bool:
        return bool(self._answers) and self.want.start is not None

    @property
    def wants_number(self) -> bool:
        return self.want.kind == "number"

    @property
    def typing(self) -> bool:
        return bool(self._typed)

    def wants_key(self, key: str) -> bool:
        if self.typing:
            return len(key) == 1 or key in ("Backspace", "Tab", "Enter", "Escape")
        if key == "Backspace":
            return bool(self._answers)
        if key == "Enter":
            return bool(self.want.ends)
        if key.upper() == _HOLD and self.want.start is not None:
            return True
        return self._begins_number(key) or any(
            key.upper() == letter for letter, _ in self.want.letters
        )

    def _begins_number(self, key: str) -> bool:
        """Whether typing begins with it; a semicolon passes the first of several numbers over."""
        return len(key) == 1 and (
            (bool(self.want.numbers) and key in _BEGIN)
            or (len(self.want.numbers) > 1 and key == _NEXT)
        )

    def key(self, key: str) -> None:
        if self.typing or self._begins_number(key):
            self._type(key)
        elif key == "Backspace":
            self._back()
        elif key.upper() == _HOLD and self.want.start is not None:
            self._hold()
        else:
            self.answer(Answer(self._at.place, key="end" if key == "Enter" else key.upper()))

    def _type(self, key: str) -> None:
        typed = self._typed or [""]
        if key == "Escape":
            typed = []
        elif key == "Enter":
            self._enter_typed()
            return
        elif key in ("Tab", _NEXT):
            typed = [*typed, ""] if len(typed) < len(self.want.numbers) else typed
        elif key == "Backspace":
            typed = [*typed[:-1], typed[-1][:-1]] if typed[-1] else typed[:-1]
        else:
            typed = [*typed[:-1], typed[-1] + key]
        self._typed = typed
        self._told()

    def _enter_typed(self) -> None:
        numbers, start = self._numbers(), self.want.start
        if (
            numbers
            and numbers.keys() == {"angle"}
            and start is not None
            and "length" in self.want.numbers
            and math.dist(start, self._at.place) <= _AT_REST * self._pixel
        ):
            self._typed, self._held_way = [], numbers["angle"]
            self._told()
        elif numbers:
            self.answer(Answer(self._place(numbers, self._at.place), numbers=numbers))

    def _numbers(self) -> dict[str, float] | None:
        """What was typed, by name; None after saying what is wrong with it."""
        found: dict[str, float] = {}
        try:
            for name, text in zip(self.want.numbers, self._typed, strict=False):
                if text.strip():
                    found[name] = read_number(name, text, self.session.job.unit)
        except UnitError as error:
            self.session.messages.refused.emit(str(error))
            return None
        return found

    # --- what it says and shows

    title = ""

    def prompt(self) -> Prompt:
        if self.typing:
            parts = [
                f"{name} {text}" for name, text in zip(self.want.numbers, self._typed, strict=False)
            ]
            last = len(self._typed) >= len(self.want.numbers)
            keys = (
                ("Enter", "take it"),
                *((("Tab", self.want.numbers[len(self._typed)]),) if not last else ()),
                ("Esc", "type again"),
            )
            return Prompt(f"{self.title}: {' · '.join(parts)}▏", keys=keys)
        hint = self.want.hint or (
            f"or type {' and '.join(self.want.numbers)}" if self.want.numbers else ""
        )
        ends, back = (
            ((("Enter", self.want.ends),) if self.want.ends else ()),
            ((("Backspace", "one back"),) if self._answers else ()),
        )
        keys = (
            *ends,
            *self.want.keys,
            *self._hold_words(),
            *back,
            *self.want.letters,  # mostly a choice on the slip too: they give way first
            *((("Alt", "free"),) if self.want.kind == "place" and self.want.catches else ()),
        )
        return Prompt(f"{self.title}: {self.want.words}", hint, keys)

    def _hold_words(self) -> tuple[tuple[str, str], ...]:
        if self.want.start is None:
            return ()
        if self._held_way is None:
            return ((_HOLD, "hold the way"),)
        way = _HELD.get(self._held_way, f"{self._held_way:.4g}°")
        return ((_HOLD, f"let go of {way}"),)

    def cancel(self) -> bool:
        self._pressed = self._pull = None
        if self._held_way is not None and not self.typing:
            self._hold()
            return True
        if self.typing:
            self._typed = []
            return True
        if self._answers and self.want.ends and self.want.keeps:
            self.answer(Answer(self._at.place, key="end"))  # what is drawn is kept
            return True
        return self._back()

    def forget(self) -> None:
        self._typed, self._pressed, self._pull = [], None, None
        self._begin_anew()

    def marks(self) -> list[Mark]:
        if not self._seen:  # as long as no pointer was there it rests where one comes from
            if self.want.start is None:
                return []
            self._at = Caught(*self.want.start)
        numbers = {}
        if self.typing:
            try:
                numbers = {
                    name: read_number(name, text, self.session.job.unit)
                    for name, text in zip(self.want.numbers, self._typed, strict=False)
                    if text.strip()
                }
            except UnitError:
                numbers = {}
        at = self._place(numbers, self._at.place)
        marks = self.want.marks(at)
        if self._pull is not None and self._pressed is not None:
            (x, y), (dx, dy) = self._pressed[1].place, self._pull
            marks += (
                self._pulled_box(x, y, dx, dy)
                if self.want.drag == "box"
                else [LineMark(x - dx, y - dy, x + dx, y + dy)]
            )
        if not numbers:
            marks += caught_marks(self._at)
        return marks

    def _pulled_box(self, x: float, y: float, dx: float, dy: float) -> list[Mark]:
        return [
            BoxMark(x, y, x + dx, y + dy),
            TagMark(x + dx / 2, min(y, y + dy), f"{self.length(abs(dx))} × {self.length(abs(dy))}"),
        ]

    def length(self, mm: float) -> str:
        return format_length(mm, self.session.job.unit, places=2)
