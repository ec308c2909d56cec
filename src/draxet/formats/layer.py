"""What leaves for a machine: layers of contours on a page, in millimetres, y up; and what a kind of
file must be able to do."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from draxet.geometry.contour import Contour
from draxet.record import record

__all__ = ["Format", "FormatError", "Layer", "Page"]


class FormatError(ValueError):
    """A file that cannot be written or read; the message is one sentence for people."""


@record(frozen=True)
class Layer:
    """Contours for one operation (or of one colour, #rrggbb) under one name."""

    name: str
    contours: tuple[Contour, ...]
    colour: str = ""


@record(frozen=True)
class Page:
    """What contours lie on, from (0, 0): its size in mm; how far arcs may lie from the cubics that
    they stand for, in mm; and whether areas are filled with their colours."""

    width: float
    height: float
    tolerance: float = 0.01
    filled: bool = False


@record(frozen=True)
class Format:
    """A kind of file.

    curves : whether cubics leave as cubics, and not as arcs within the page's tolerance.
    from_origin : whether it counts from the sheet's origin, and not from its lower left corner.
    write : layers on a page as bytes; read : what a file holds, for comparing, read by a library
    that shares no code with `write`.
    """

    name: str
    ending: str
    curves: bool
    from_origin: bool
    write: Callable[[Sequence[Layer], Page], bytes]
    read: Callable[[Path], list[Layer]]
