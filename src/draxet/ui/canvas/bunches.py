"""What is painted of a product: paths in bunches, each with its box."""

from __future__ import annotations

from PyQt6.QtCore import QLineF, QPointF, QRectF
from PyQt6.QtGui import QPainterPath

from draxet.job.product import Product
from draxet.record import record

__all__ = ["Bunch", "ProgramPaths"]


@record(frozen=True, eq=False)
class Bunch:
    """A path, and the box of it (job space); its own `colour` (#rrggbb) and `width` (mm) where it has
    them, and then its lines one by one, which are far quicker to paint broad. beneath : whether it
    is not seen where it is hardly broader than a pixel."""

    path: QPainterPath
    box: QRectF
    colour: str = ""
    width: float = 0.0
    lines: tuple[QLineF, ...] = ()
    beneath: bool = False


@record(frozen=True, eq=False)
class ProgramPaths:
    """What works and what travels of programs, in bunches, and where lines of work begin, as long
    as they are few; `of` is what it was worked out from."""

    of: tuple[Product, ...] = ()
    work: tuple[Bunch, ...] = ()
    travel: tuple[Bunch, ...] = ()
    beginnings: tuple[QPointF, ...] = ()
