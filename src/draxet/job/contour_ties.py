"""What ties contours to each other when they are made: an order by hand, and the clearance of parts
that go into one another."""

from __future__ import annotations

from collections.abc import Container
from dataclasses import replace
from typing import Annotated

from draxet.job.ranges import Count, Id, OfContour, Refers, Within
from draxet.record import record

__all__ = ["Fit", "Order"]


@record(frozen=True)
class Order:
    """Contours that are worked one right after the other, in this order."""

    id: Id
    contours: Annotated[tuple[OfContour, ...], Count(2, 10_000)]

    def without(self, gone: Container[str]) -> Order | None:
        """It without what is gone; None where nothing is left to order."""
        left = tuple(name for name in self.contours if name not in gone)
        if len(left) == len(self.contours):
            return self
        return replace(self, contours=left) if len(left) > 1 else None


@record(frozen=True)
class Fit:
    """A part that goes into an opening with so much clearance all round (mm; under 0 for a press
    fit): the opening is cut so much wider."""

    id: Id
    part: Annotated[Id, Refers("contours", goes=True)]
    opening: Annotated[Id, Refers("contours", goes=True)]
    clearance: Annotated[float, Within(-5.0, 20.0)]
