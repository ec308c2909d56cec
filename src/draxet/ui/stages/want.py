"""What gestures want and are answered: plain records, and what is typed for them."""

from __future__ import annotations

import math
from collections.abc import Callable, Generator, Mapping
from dataclasses import field

from draxet.geometry.catching import Caught
from draxet.record import record
from draxet.ui.model.tool import Mark
from draxet.units import UnitError, parse_angle, parse_length

__all__ = ["Answer", "Gesture", "Place", "Want", "polar", "read_number"]

_ANGLES = frozenset(("angle",))
_ANY_WAY = frozenset(("right", "up"))
"""Numbers that may be 0 and less."""
_COUNTS = {"sides": (3, 200), "places": (2, 1000), "parts": (2, 1000)}
Place = tuple[float, float]


@record(frozen=True)
class Want:
    """What a gesture wants next: a `kind` of answer, ``place``, ``number`` or ``choice``; the last
    two the slip gives, and a click begins anew.

    words : what the next click does. numbers : names of numbers that can be typed (lengths, angles
    in degrees, counts). place_of : the
    place for typed numbers and the pointer. marks : what the gesture looks like with the pointer
    there. start : where one comes from.
    drag : whether a drag pulls a handle (``pull``), draws a ``box`` or answers the next want as
    well with its end (``next``). ends : what Enter does, in a
    word, or empty. back : places set before, to be level with. letters, keys : letters that are
    answers, and what other keys do. hint : more
    about what is waited for. keeps : whether Esc keeps what is there.
    rests : whether nothing more is needed, so that undo goes to the job. catches : whether the
    pointer catches anything.
    """

    words: str
    numbers: tuple[str, ...] = ()
    place_of: Callable[[Mapping[str, float], Place], Place] | None = None
    marks: Callable[[Place], list[Mark]] = lambda at: []
    start: Place | None = None
    drag: str = "next"
    ends: str = ""
    back: tuple[Place, ...] = ()
    letters: tuple[tuple[str, str], ...] = ()
    kind: str = "place"
    keys: tuple[tuple[str, str], ...] = ()
    hint: str = ""
    keeps: bool = True
    rests: bool = False
    catches: bool = True


@record(frozen=True)
class Answer:
    """A place, the handle or the box pulled from it (relative, or None), whether Shift was held; or
    a `key`: ``end`` for Enter, a letter, or a choice. `numbers` are those that were typed for it,
    `caught` is what the place was caught on."""

    place: Place = (0.0, 0.0)
    pull: Place | None = None
    shift: bool = False
    key: str = ""
    numbers: Mapping[str, float] = field(default_factory=dict)
    caught: Caught = Caught(0.0, 0.0)


Gesture = Generator[Want, Answer, None]


def polar(start: Place) -> Callable[[Mapping[str, float], Place], Place]:
    """Typed length and angle from a place; what was not typed is as the pointer has it."""

    def place(numbers: Mapping[str, float], at: Place) -> Place:
        dx, dy = at[0] - start[0], at[1] - start[1]
        length = numbers.get("length", math.hypot(dx, dy) or 1.0)  # an angle alone is a way to go
        angle = math.radians(numbers["angle"]) if "angle" in numbers else math.atan2(dy, dx)
        return start[0] + length * math.cos(angle), start[1] + length * math.sin(angle)

    return place


def read_number(name: str, text: str, unit: str) -> float:
    """A number of a gesture by its name: an angle in degrees, a count, or a length in mm.

    Raises
    ------
    UnitError : where the words are none, saying what was wanted.
    """
    if name in _ANGLES:
        return parse_angle(text, what=name)
    if name in _COUNTS:
        low, high = _COUNTS[name]
        if not text.strip().isdigit() or not low <= int(text) <= high:
            raise UnitError(
                f"{name} must be a whole number from {low} to {high}, got {text.strip()!r}"
            )
        return float(text)
    return parse_length(text, unit, positive=name not in _ANY_WAY, what=name)
