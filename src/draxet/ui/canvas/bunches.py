"""What is painted of a product: paths in bunches, each with its box."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainterPath

from draxet.geometry.arrays import Floats
from draxet.job.product import Product
from draxet.record import record

__all__ = ["Bunch", "ProgramPaths"]


@record(frozen=True, eq=False)
class Bunch:
    """A path, and the box of it (job space); its own `colour` (#rrggbb) and `width` (mm) where it has
    them, and then its lines one by one (n, 4) with no path, as those are far quicker to paint.
    beneath : how broad what lies beneath it makes it (mm), whose own width is that: it is left out
    where that is hardly more than a pixel, and what lies on it becomes as broad."""

    path: QPainterPath
    box: QRectF
    colour: str = ""
    width: float = 0.0
    lines: Floats | None = None
    beneath: float = 0.0


@record(frozen=True, eq=False)
class ProgramPaths:
    """What works and what travels of programs, in bunches, and where lines of work begin, as long
    as they are few; `of` is what it was worked out from."""

    of: tuple[Product, ...] = ()
    work: tuple[Bunch, ...] = ()
    travel: tuple[Bunch, ...] = ()
    beginnings: tuple[QPointF, ...] = ()
