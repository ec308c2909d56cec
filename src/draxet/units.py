"""Lengths, areas and angles: read, write, convert.

A *length* is a float in millimetres wherever no other unit is named. A *unit* is one of ``UNITS``:
how lengths are shown and what a bare number in a length field means. Changing it never changes a
size.
"""

from __future__ import annotations

import math
import re

from draxet.record import record

__all__ = [
    "SPEEDS",
    "UNITS",
    "Unit",
    "UnitError",
    "format_area",
    "format_length",
    "format_number",
    "format_speed",
    "parse_angle",
    "parse_area",
    "parse_length",
    "parse_speed",
]


class UnitError(ValueError):
    """A typed length, area or angle that cannot be read; the message is one sentence for people."""


@record(frozen=True)
class Unit:
    """A unit of length: ``mm`` millimetres each, shown with ``places`` decimals, or in fractions of
    1/``parts``."""

    name: str
    mm: float
    places: int
    parts: int = 0


UNITS: dict[str, Unit] = {
    "mm": Unit("mm", 1.0, 2),
    "cm": Unit("cm", 10.0, 3),
    "m": Unit("m", 1000.0, 4),
    "in": Unit("in", 25.4, 3, 64),
    "ft-in": Unit("ft-in", 25.4, 3, 64),
}

_MM = {
    "mm": 1.0,
    "millimetre": 1.0,
    "millimetres": 1.0,
    "millimeter": 1.0,
    "millimeters": 1.0,
    "cm": 10.0,
    "centimetre": 10.0,
    "centimetres": 10.0,
    "centimeter": 10.0,
    "centimeters": 10.0,
    "m": 1000.0,
    "metre": 1000.0,
    "metres": 1000.0,
    "meter": 1000.0,
    "meters": 1000.0,
    "in": 25.4,
    '"': 25.4,
    "inch": 25.4,
    "inches": 25.4,
    "ft": 304.8,
    "'": 304.8,
    "foot": 304.8,
    "feet": 304.8,
    "thou": 0.0254,
    "pt": 25.4 / 72,
}
SPEEDS = {"mm/min": 1.0, "mm/s": 60.0, "in/min": 25.4, "m/min": 1000.0}
"""mm a minute of each unit of speed."""
_LIKENESSES = str.maketrans(
    {
        "″": '"',
        "”": '"',
        "“": '"',
        "′": "'",
        "’": "'",
        "‘": "'",
        "−": "-",
        "–": "-",
        "×": "*",
        "·": "*",
        "÷": "/",
    }
)
_VULGAR = {"½": "1/2", "¼": "1/4", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8"}
_NOUGHT = 0.001
"""mm under which a length is shown as 0."""
_LONGEST = 400
_FRACTION_WITHIN = 0.0005
"""Inches by which a length may differ from the fraction that it is shown as."""
_DEEPEST = 40
_LARGEST_AREA = 1e10
_MOST_DEGREES = 36_000.0
_NUMBER = r"(?:\d+(?:[.,]\d*)?|[.,]\d+)"
_TOKEN = re.compile(
    rf"\s*(?:(?P<mixed>\d+\s+\d+\s*/\s*\d+|\d+\s*/\s*\d+(?![.,\d]))|(?P<number>{_NUMBER})|(?P<unit>[A-Za-z]+|['\"])|(?P<sign>[-+*/()]))"
)
_WANTED = "a length such as 240, 9 7/16 in, 2' 0 1/8\" or 3.4 cm"


def parse_length(
    text: str, unit: str = "mm", *, positive: bool = False, what: str = "length"
) -> float:
    """Read a typed length in any unit, with fractions and simple sums, as millimetres.

    Parameters
    ----------
    text : what was typed; a number without a unit is in `unit`.
    unit : a key of ``UNITS``; for ``ft-in`` a bare number is inches.
    positive : refuse zero and less.
    what : the field's name, for the message.

    Raises
    ------
    UnitError : where it is no length; one sentence says what was wanted and what came.
    """
    return _Reader(text, UNITS[unit], what).read(positive)


class _Reader:
    """A sum of products of lengths and plain numbers; each value is (number, power of length: 0 or
    1)."""

    def __init__(self, text: str, unit: Unit, what: str) -> None:
        self.shown, self.unit, self.what = text.strip(), unit, what
        for sign, fraction in _VULGAR.items():
            text = text.replace(sign, f" {fraction}")
        text = re.sub(
            r"(['\"]|ft|feet)-(?=\d)", r"\1 ", text.translate(_LIKENESSES).strip()
        )  # 2'-6" is joined, not taken away
        self.tokens: list[tuple[str, str]] = []
        self.depth = 0
        at = 0
        if len(text) > _LONGEST:
            raise self.refusal()
        while at < len(text):
            found = _TOKEN.match(text, at)
            if found is None or not found.lastgroup:
                raise self.refusal()
            self.tokens.append((found.lastgroup, found.group(found.lastgroup)))
            at = found.end()
        self.at = 0

    def refusal(self, came: str = "") -> UnitError:
        shown = self.shown if len(self.shown) <= 40 else self.shown[:39] + "…"
        return UnitError(
            f"{self.what} must be {_WANTED}, got {came or (repr(shown) if shown else 'nothing')}"
        )

    def read(self, positive: bool) -> float:
        if not self.tokens:
            raise self.refusal()
        number, power = self.total()
        if self.at < len(self.tokens):
            raise self.refusal()
        value = number if power else number * self.unit.mm
        if not math.isfinite(value) or abs(value) > 1e9:
            raise UnitError(f"{self.what} must be under 1000 km, got {self.shown[:40]!r}")
        if positive and value <= 0:
            raise UnitError(f"{self.what} must be over 0, got {self.shown[:40]!r}")
        return value

    def peek(self) -> tuple[str, str]:
        return self.tokens[self.at] if self.at < len(self.tokens) else ("", "")

    def take(self, *signs: str) -> str:
        kind, word = self.peek()
        if kind == "sign" and word in signs:
            self.at += 1
            return word
        return ""

    def total(self) -> tuple[float, int]:
        value, power = self.product()
        while sign := self.take("+", "-"):
            other, other_power = self.product()
            if power != other_power:
                value, power, other = (
                    value * (1 if power else self.unit.mm),
                    1,
                    other * (1 if other_power else self.unit.mm),
                )
            value += other if sign == "+" else -other
        return value, power

    def product(self) -> tuple[float, int]:
        value, power = self.factor()
        while sign := self.take("*", "/"):
            other, other_power = self.factor()
            power += other_power if sign == "*" else -other_power
            if power not in (0, 1):
                raise self.refusal("lengths multiplied with lengths")
            if sign == "/" and other == 0:
                raise self.refusal("a division by 0")
            value = value * other if sign == "*" else value / other
        return value, power

    def factor(self) -> tuple[float, int]:
        self.depth += 1
        if self.depth > _DEEPEST:
            raise self.refusal("brackets and signs within one another")
        try:
            return self.one_factor()
        finally:
            self.depth -= 1

    def one_factor(self) -> tuple[float, int]:
        if sign := self.take("-", "+"):
            value, power = self.factor()
            return (-value if sign == "-" else value), power
        if self.take("("):
            value, power = self.total()
            if not self.take(")"):
                raise self.refusal()
        else:
            value, power = self.number(), 0
        if self.peek()[0] != "unit":
            return value, power
        mm = self.unit_mm()
        if power:
            raise self.refusal("a length with two units")
        value *= mm
        if mm == _MM["ft"] and self.peek()[0] in ("mixed", "number"):  # feet, then inches
            inches = self.number()
            if self.peek()[0] == "unit" and self.unit_mm() != _MM["in"]:
                raise self.refusal()
            value += inches * _MM["in"]
        return value, 1

    def number(self) -> float:
        kind, word = self.peek()
        self.at += 1
        if kind == "mixed":
            *whole, fraction = re.sub(r"\s*/\s*", "/", word).split()
            over, under = (float(part) for part in fraction.split("/"))
            if not under:
                raise self.refusal("a division by 0")
            return (float(whole[0]) if whole else 0.0) + over / under
        if kind != "number":
            raise self.refusal()
        if re.fullmatch(r"\d{1,3},\d{3}", word):
            raise self.refusal(
                f"{word!r}, which can be read two ways: write {word.replace(',', '')} or {word.replace(',', '.')}"
            )
        return float(word.replace(",", "."))

    def unit_mm(self) -> float:
        word = self.peek()[1].lower()
        if word not in _MM:
            raise self.refusal(f"the unit {self.peek()[1]!r}")
        self.at += 1
        return _MM[word]


def parse_area(text: str, unit: str = "mm", *, what: str = "area") -> float:
    """Read an area (``2``, ``2 mm2``, ``0.1 sq in``, ``3 cm²``) as square millimetres, 0 or more.

    Raises
    ------
    UnitError : where it is no area.
    """
    found = re.fullmatch(
        rf"\s*({_NUMBER})\s*(?:(?:sq\s*)?(mm|cm|m|in|ft)(?:2|²|\^2)?)?\s*", text.lower()
    )
    if not found:
        raise UnitError(
            f"{what} must be an area such as 2, 2 mm2 or 0.1 in2, got {text.strip()[:40]!r}"
        )
    scale = _MM[found[2]] if found[2] else UNITS[unit].mm
    value = float(found[1].replace(",", ".")) * scale**2
    if value > _LARGEST_AREA:
        raise UnitError(
            f"{what} must be under {_LARGEST_AREA / 1e6:g} m², got {text.strip()[:40]!r}"
        )
    return value


def parse_angle(text: str, *, what: str = "angle") -> float:
    """Read an angle in degrees (``12.5``, ``12.5°``, ``-3 deg``).

    Raises
    ------
    UnitError : where it is no angle.
    """
    found = re.fullmatch(
        rf"\s*([-+]?)\s*({_NUMBER})\s*(?:°|deg|degrees)?\s*", text.translate(_LIKENESSES).lower()
    )
    if not found:
        raise UnitError(f"{what} must be degrees such as 12.5, got {text.strip()[:40]!r}")
    value = float(found[1] + found[2].replace(",", "."))
    if abs(value) > _MOST_DEGREES:
        raise UnitError(f"{what} must be under {_MOST_DEGREES:g}°, got {text.strip()[:40]!r}")
    return value


def parse_speed(text: str, unit: str = "mm/min", *, what: str = "speed") -> float:
    """A speed in mm a minute; a bare number is in `unit`.

    Raises
    ------
    UnitError : where it is none.
    """
    words = text.strip().lower().replace(" ", "")
    own = next((each for each in SPEEDS if words.endswith(each.replace(" ", ""))), None)
    try:
        return (
            float((words.removesuffix(own) if own else words).replace(",", "."))
            * SPEEDS[own or unit]
        )
    except ValueError:
        raise UnitError(
            f"{what} must be a speed such as 2400, 40 mm/s or 60 in/min, got {text.strip()[:40]!r}"
        ) from None


def format_speed(mm_min: float, unit: str = "mm/min") -> str:
    """A speed in a unit, with the unit."""
    return f"{format_number(mm_min / SPEEDS[unit], 3 if SPEEDS[unit] > 1 else 1)} {unit}"


def format_number(value: float, places: int) -> str:
    """A number with at most `places` decimals, without trailing zeros and without a minus before
    0."""
    text = f"{value:.{places}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def format_length(
    mm: float, unit: str = "mm", *, places: int | None = None, with_unit: bool = True
) -> str:
    """A length in `unit` for people to read; inches in ft-in as fractions where 1/64 in holds them.

    Parameters
    ----------
    mm : the length.
    places : decimals at the most; by default the unit's own, more for a small length, and in ft-in
    a fraction only where one
        holds it. Where given, ft-in is rounded to fractions.
    with_unit : whether the unit's sign follows.
    """
    shown = UNITS[unit]
    if unit == "ft-in":
        return _feet_and_inches(mm, shown, exact=places is None)
    number = format_number(mm / shown.mm, _places_for(mm, shown) if places is None else places)
    return f"{number} {shown.name}" if with_unit else number


def _places_for(mm: float, unit: Unit) -> int:
    """Decimals for a length: the unit's own, and more where it would come out as 0 or with fewer
    than three figures."""
    value, places = mm / unit.mm, unit.places
    if not (abs(mm) >= _NOUGHT and abs(value) < 10.0 ** (2 - places)):
        return places
    return min(places + 6, 2 - math.floor(math.log10(abs(value))))


def _feet_and_inches(mm: float, unit: Unit, *, exact: bool) -> str:
    inches = abs(mm) / unit.mm
    sixty_fourths = round(inches * unit.parts)
    if (
        exact
        and abs(mm) >= _NOUGHT
        and (not sixty_fourths or abs(inches - sixty_fourths / unit.parts) > _FRACTION_WITHIN)
    ):  # no fraction holds it
        over, rest_inches = divmod(round(inches, 8), 12)
        decimals = format_number(rest_inches, max(_places_for(rest_inches * unit.mm, unit), 4))
        return ("-" if mm < 0 else "") + (f"{over:.0f}' " if over else "") + f'{decimals}"'
    feet, rest = divmod(sixty_fourths, 12 * unit.parts)
    whole, part = divmod(rest, unit.parts)
    words = [str(whole)] if whole or feet or not part else []
    shown = " ".join(words + [_fraction(part, unit.parts)] * bool(part)) + '"'
    return ("-" if mm < 0 and sixty_fourths else "") + (f"{feet}' " if feet else "") + shown


def format_area(mm2: float, unit: str = "mm") -> str:
    """An area in the square of `unit` for people to read."""
    shown = UNITS["in" if unit == "ft-in" else unit]
    return f"{format_number(mm2 / shown.mm**2, 3)} {shown.name}²"


def _fraction(part: int, parts: int) -> str:
    """A fraction in its lowest terms."""
    common = math.gcd(part, parts)
    return f"{part // common}/{parts // common}"
