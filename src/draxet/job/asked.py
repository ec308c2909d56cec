"""How a setting of a record is asked for, said beside its field; the controls of slips are made
from it."""

from __future__ import annotations

import math
from collections.abc import Sequence

from draxet.job.ranges import Within
from draxet.record import record
from draxet.units import (
    UnitError,
    format_area,
    format_length,
    format_number,
    format_speed,
    parse_angle,
    parse_area,
    parse_length,
    parse_speed,
)

__all__ = ["SPEED", "Asked"]

SPEED = "mm/min"

_FAR = 1e6
"""A range that reaches so far is no bound that people need to be told of."""


@record(frozen=True, eq=False)
class Asked:
    """A setting's words, and how it is typed or chosen.

    words : what it is called. unit : ``mm`` and ``mm²`` are typed in any unit and shown in the
    job's, ``mm/min`` likewise in the machine's, ``°`` is an angle; anything else
    stands after the number. slider : from where to where one goes; without it there is a field.
    choices : values and their words. zero : what 0 means, shown and typed in its place.
    tip : what more there is to say.
    """

    words: str
    unit: str = ""
    slider: tuple[int, int] | None = None
    choices: tuple[tuple[object, str], ...] = ()
    tip: str = ""
    zero: str = ""

    def read(self, text: str, unit: str, notes: Sequence[object], *, whole: bool) -> float:
        """A typed value; `unit` is the job's (of a speed the machine's), `notes` are those of the
        field, `whole` asks for a whole number.

        Raises
        ------
        UnitError : where it is none, or none that the field may hold.
        """
        if self.zero and text.strip().casefold() == self.zero:
            return 0.0
        value = self._parsed(text, unit)
        outside = not math.isfinite(value) or any(
            isinstance(note, Within) and note.wants(value) for note in notes
        )
        if outside or (whole and value != int(value)):
            bounds = next((note for note in notes if isinstance(note, Within)), Within(-_FAR, _FAR))
            raise UnitError(
                f"{self.words} must be {'a whole number ' if whole else ''}{self._between(bounds, unit)}, got {text.strip()[:40]!r}"
            )
        return value

    def _parsed(self, text: str, unit: str) -> float:
        if self.unit == "mm":
            return parse_length(text, unit, what=self.words)
        if self.unit == "mm²":
            return parse_area(text, unit, what=self.words)
        if self.unit == "°":
            return parse_angle(text, what=self.words)
        if self.unit == SPEED:
            return parse_speed(text, unit, what=self.words)
        words = text.strip().lower().removesuffix(self.unit.strip().lower()).strip()
        try:
            return float(words.replace(",", "."))
        except ValueError:
            raise UnitError(
                f"{self.words} must be a number such as 12{self.unit}, got {text.strip()[:40]!r}"
            ) from None

    def _between(self, bounds: Within, unit: str) -> str:
        low, high = self.in_words(bounds.low, unit), self.in_words(bounds.high, unit)
        but = f", but not {self.in_words(bounds.but, unit)}" if bounds.but is not None else ""
        return (f"at least {low}" if bounds.high >= _FAR else f"from {low} to {high}") + but

    def in_words(self, value: float, unit: str) -> str:
        """A value as it stands in its field."""
        if self.zero and not value:
            return self.zero
        if self.unit == "mm":
            return format_length(value, unit)
        if self.unit == "mm²":
            return format_area(value, unit)
        if self.unit == SPEED:
            return format_speed(value, unit)
        return f"{format_number(value, 3)}{self.unit}"
