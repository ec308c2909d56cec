"""How each kind of operation looks on the canvas: a letter on a tag, a hue that colour-blind eyes
tell apart, and a pattern of its line. One line for each."""

from __future__ import annotations

from draxet.record import record

__all__ = ["LOOKS", "Look", "look_of"]


@record(frozen=True)
class Look:
    """tag : the letter. hue : #rrggbb. dashes : on and off in widths of the line; none for a whole
    line. band : how strongly its real width shows."""

    tag: str
    hue: str
    dashes: tuple[float, ...] = ()
    band: float = 0.35


LOOKS = {
    "CutThrough": Look("C", "#1E3550"),
    "Score": Look("S", "#8C4A8F", (6.0, 3.0)),
    "Engrave": Look("E", "#A85A16", (), 0.8),
    "Pocket": Look("P", "#1F7383", (), 0.28),
    "Drill": Look("D", "#4F5596", (), 0.6),
    "Draw": Look("W", "#3A3C40", (2.0, 2.0)),
    "Stitch": Look("N", "#9A3B5A", (3.0, 1.5), 0.5),
    "Turn": Look("T", "#2F6E62", (4.0, 2.0, 1.0, 2.0), 0.4),
    "Raise": Look("H", "#5E6B1E", (8.0, 2.0), 0.4),
}


def look_of(operation: object) -> Look:
    """The look of an operation's kind."""
    return LOOKS[type(operation).__name__]
