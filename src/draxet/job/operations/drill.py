"""Drilling: at the middles of circles, and at points."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, ClassVar

from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.operations.operation_kind import Depth, Feed, Operation, StopWords, Toolpath
from draxet.job.ranges import Id, OfContour, Size, Text, Within, Words
from draxet.record import record

__all__ = ["Drill"]

_HAIR = 1e-3


@record(frozen=True)
class Drill(Operation):
    """Holes of a `diameter` at the middles of circles, and at the job's points where `at_points`,
    `depth` deep (0: through), in pecks of `peck` mm (0: at once)."""

    rank: ClassVar[int] = 25
    title: ClassVar[str] = "Drill"
    acts: ClassVar[str] = "Drill"
    wants: ClassVar[str] = "circles"
    broad_by: ClassVar[str] = "diameter"

    id: Id = "operation-0"
    name: Words = "Drill"
    contours: tuple[OfContour, ...] = ()
    diameter: Annotated[Size, Asked("Drill diameter", "mm")] = 3.0
    depth: Annotated[Depth, Asked("Depth", "mm", zero="through")] = 0.0
    peck: Annotated[float, Within(0.0, 1000.0), Asked("Peck", "mm")] = 0.0
    at_points: Annotated[bool, Asked("At the points too")] = False
    feed: Annotated[Feed, Asked("Feed", "mm/min")] = 300.0
    back: Annotated[bool, Asked("From the back, mirrored")] = False
    waits: bool = False
    recipe: Annotated[str, Text(100)] = ""
    stop: StopWords = ""

    @property
    def stands(self) -> bool:
        return bool(self.contours) or self.at_points or self.waits

    def paths(self, items: Sequence[tuple[str, Contour]], thickness: float) -> list[Toolpath]:
        depth = self.depth or thickness
        count = max(math.ceil(depth / self.peck - 1e-9), 1) if self.peck else 1
        depths = tuple(depth * (k + 1) / count for k in range(count))
        middles = [(name, contour.circle_shape) for name, contour in items]
        return [
            Toolpath(
                Contour.make([(c[0], c[1]), (c[0] + _HAIR, c[1])], closed=False),
                self.diameter,
                depths,
                (name,),
            )
            for name, c in middles
            if c is not None
        ]

    def drawn(self, items: Sequence[tuple[str, Contour]]) -> list[Contour]:
        """Points as holes of its diameter."""
        known = set(self.contours)
        middles = [(name in known, contour, contour.circle_shape) for name, contour in items]
        return [
            contour if own or c is None else Contour.circle(c[0], c[1], self.diameter / 2)
            for own, contour, c in middles
        ]

    def wrong_with(self, items: Sequence[tuple[str, Contour]]) -> dict[str, list[str]]:
        other = [name for name, contour in items if contour.circle_shape is None]
        return {"is no circle and cannot be drilled": other} if other else {}
