"""What leaves for a machine: layers of contours, in millimetres, y up."""

from __future__ import annotations

from dataclasses import dataclass

from draxet.geometry.contour import Contour

__all__ = ["FormatError", "Layer"]


class FormatError(ValueError):
    """A file that cannot be written or read; the message is one sentence for people."""


@dataclass(frozen=True)
class Layer:
    """Contours for one operation (or of one colour, #rrggbb) under one name."""

    name: str
    contours: tuple[Contour, ...]
    colour: str = ""
