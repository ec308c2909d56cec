"""Colours in plain words."""

from __future__ import annotations

import colorsys

__all__ = ["PLAIN", "colour_word", "named_colour"]

PLAIN = {
    "black": "#000000",
    "white": "#ffffff",
    "navy": "#1e3550",
    "red": "#cf4a3c",
    "green": "#3c8259",
    "ochre": "#b9812b",
}
"""Colours that are at hand whatever a job holds."""

_GREYS = ((0.08, "black"), (0.35, "dark grey"), (0.65, "grey"), (0.93, "light grey"))
_HUES = ((14, "red"), (40, "orange"), (68, "yellow"), (165, "green"), (195, "teal"), (255, "blue"), (290, "violet"), (345, "pink"))  # fmt: skip
_GREY, _DARK, _LIGHT = 0.1, 0.3, 0.75
_BROWN = 0.42
"""Under this lightness orange is called brown, and yellow olive."""


def colour_word(colour: str) -> str:
    """What a colour (#rrggbb) is called; empty for none."""
    if not colour:
        return ""
    if plain := next((name for name, each in PLAIN.items() if each == colour.lower()), ""):
        return plain
    r, g, b = (int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5))
    hue, light, _ = colorsys.rgb_to_hls(r, g, b)
    if max(r, g, b) - min(r, g, b) < _GREY:
        return next((name for most, name in _GREYS if light < most), "white")
    name = next((name for most, name in _HUES if 360 * hue < most), "red")
    if light < _BROWN and name in ("orange", "yellow"):
        name = {"orange": "brown", "yellow": "olive"}[name]
    return f"{'dark ' if light < _DARK else 'light ' if light > _LIGHT else ''}{name}"


def named_colour(text: str) -> str:
    """A colour from what was typed: a plain name or #rrggbb (also #rgb).

    Raises
    ------
    ValueError : with one sentence where it is none.
    """
    said = text.strip().lower()
    digits = said.removeprefix("#")
    if len(digits) == 3:
        digits = "".join(2 * digit for digit in digits)
    if said in PLAIN:
        return PLAIN[said]
    if len(digits) == 6 and all(digit in "0123456789abcdef" for digit in digits):
        return f"#{digits}"
    raise ValueError(
        f"a colour must be like #cf4a3c or one of {', '.join(PLAIN)}, got {text[:40]!r}"
    )
