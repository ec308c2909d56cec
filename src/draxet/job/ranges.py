"""What a field of a record may hold, said beside the field: ranges of numbers, lengths of texts,
choices.

``Annotated`` types carry these to ``sound``, which looks whether a record keeps to them. Lengths
are millimetres.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Annotated

from draxet.record import record

__all__ = [
    "Colour",
    "Coordinate",
    "Count",
    "Each",
    "Id",
    "Length",
    "OneOf",
    "Pattern",
    "Percent",
    "OfContour",
    "OfPart",
    "OfPicture",
    "OfSheet",
    "Pixels",
    "Refers",
    "Share",
    "Size",
    "Text",
    "Within",
    "Words",
    "ZeroOr",
]


@record(frozen=True, eq=False)
class Within:
    """A number from `low` to `high`, but not `but`."""

    low: float
    high: float
    but: float | None = None

    def wants(self, value: float) -> str:
        """What is wanted where `value` is not it, else empty."""
        if self.low <= value <= self.high and value != self.but:
            return ""
        return f"from {self.low:g} to {self.high:g}" + (
            f", but not {self.but:g}" if self.but is not None else ""
        )


@record(frozen=True, eq=False)
class ZeroOr(Within):
    """0, for none, or a number in the range."""

    def wants(self, value: float) -> str:
        return Within.wants(self, value) if value else ""


@record(frozen=True, eq=False)
class Text:
    """A text of `least` to `most` letters, without halves of characters."""

    most: int
    least: int = 0

    def wants(self, value: str) -> str:
        if not self.least <= len(value) <= self.most:
            return f"{self.least} to {self.most} letters"
        return (
            ""
            if value.isascii() or not any("\ud800" <= c <= "\udfff" for c in value)
            else "whole letters"
        )


@record(frozen=True, eq=False)
class Pattern:
    """A text like `shape` (a regular expression), which `words` describes."""

    shape: str
    words: str

    def wants(self, value: str) -> str:
        return "" if re.fullmatch(self.shape, value) else self.words


@record(frozen=True, eq=False)
class OneOf:
    """One of a few choices."""

    choices: tuple[object, ...]

    def wants(self, value: object) -> str:
        return (
            ""
            if value in self.choices
            else "one of " + ", ".join(str(choice) for choice in self.choices)
        )


@record(frozen=True, eq=False)
class Count:
    """`least` to `most` entries."""

    least: int
    most: int

    def wants(self, value: Sequence[object]) -> str:
        return (
            "" if self.least <= len(value) <= self.most else f"{self.least} to {self.most} entries"
        )


@record(frozen=True, eq=False)
class Each:
    """Entries, `what` each, that stand for themselves: one that is unsound is left out of a file
    that is read, and said."""

    what: str


@record(frozen=True, eq=False)
class Refers:
    """The id of one of a job's `field` (``contours``, ``groups`` …), or empty for none. `rides` :
    it lies where that lies, and is moved and copied with it. `goes` : where that is removed, so is
    what refers to it; else it refers to none from then on."""

    field: str
    rides: bool = False
    goes: bool = False


Coordinate = Annotated[float, Within(-1e8, 1e8)]
Length = Annotated[float, Within(1e-6, 1e8)]
"""A length measured or typed."""
Size = Annotated[float, Within(0.001, 1e6)]
"""The size of stock, a tool or a feature."""
Pixels = Annotated[float, Within(-1e7, 1e7)]
Share = Annotated[float, Within(0.0, 1.0)]
Percent = Annotated[int, Within(0, 100)]
Id = Annotated[str, Text(100, 1)]
OfContour = Annotated[str, Refers("contours")]
OfPicture = Annotated[str, Text(100), Refers("pictures")]
OfSheet = Annotated[str, Text(100), Refers("sheets")]
OfPart = Annotated[str, Text(100), Refers("parts")]
Words = Annotated[str, Text(1000)]
Colour = Annotated[str, Pattern(r"(#[0-9a-fA-F]{6})?", "#rrggbb")]
