"""Scoring: along the line, not through."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, ClassVar

from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.operations.operation_kind import Depth, Feed, Operation, Power, StopWords, Toolpath
from draxet.job.ranges import Id, OfContour, Size, Text, Words
from draxet.record import record

__all__ = ["Score"]


@record(frozen=True)
class Score(Operation):
    """Contours marked along their line, `width` broad and `depth` deep."""

    rank: ClassVar[int] = 20
    title: ClassVar[str] = "Score"
    acts: ClassVar[str] = "Score"

    id: Id = "operation-0"
    name: Words = "Score"
    contours: tuple[OfContour, ...] = ()
    width: Annotated[Size, Asked("Line width", "mm")] = 0.3
    depth: Annotated[Depth, Asked("Depth", "mm")] = 0.3
    feed: Annotated[Feed, Asked("Feed", "mm/min")] = 3000.0
    power: Annotated[Power, Asked("Power", " %")] = 20.0
    air: Annotated[bool, Asked("With air")] = False
    back: Annotated[bool, Asked("From the back, mirrored")] = False
    waits: bool = False
    recipe: Annotated[str, Text(100)] = ""
    stop: StopWords = ""

    def paths(self, items: Sequence[tuple[str, Contour]], thickness: float) -> list[Toolpath]:
        return [Toolpath(contour, self.width, (self.depth,), (name,)) for name, contour in items]
