"""Drawing with a pen: along the line."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, ClassVar

from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.operations.operation_kind import Feed, Operation, StopWords, Toolpath
from draxet.job.ranges import Id, OfContour, Size, Text, Within, Words
from draxet.record import record

__all__ = ["Draw"]


@record(frozen=True)
class Draw(Operation):
    """Contours drawn by a pen whose line is `width` broad; `pen` is its number."""

    rank: ClassVar[int] = 5
    title: ClassVar[str] = "Draw with a pen"
    acts: ClassVar[str] = "Draw"
    as_broad_as_machine: ClassVar[bool] = True

    id: Id = "operation-0"
    name: Words = "Draw with a pen"
    contours: tuple[OfContour, ...] = ()
    width: Annotated[Size, Asked("Line width", "mm")] = 0.5
    pen: Annotated[int, Within(1, 99), Asked("Pen")] = 1
    feed: Annotated[Feed, Asked("Feed", "mm/min")] = 3000.0
    back: Annotated[bool, Asked("From the back, mirrored")] = False
    waits: bool = False
    recipe: Annotated[str, Text(100)] = ""
    stop: StopWords = ""

    def paths(self, items: Sequence[tuple[str, Contour]], thickness: float) -> list[Toolpath]:
        return [
            Toolpath(contour, self.width, (0.0,), (name,), pen=self.pen) for name, contour in items
        ]
