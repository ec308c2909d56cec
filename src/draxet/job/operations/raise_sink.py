"""Raising and sinking: the areas that contours bound become bodies, or are taken out of them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, ClassVar

from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.operations.operation_kind import Feed, Operation, Toolpath
from draxet.job.ranges import Id, OfContour, OneOf, Text, Within, Words
from draxet.record import record

__all__ = ["Raise"]


@record(frozen=True)
class Raise(Operation):
    """The areas that closed contours bound filled for a `height` from a level upwards, or, where
    they are `sunk`, taken away from that level downwards, from the underside upwards.

    counts : from where: the base's ``top`` or ``underside`` (0 where there is no base), or a typed
    `level` above the underside. draft : degrees by which walls lean, so that what is raised becomes narrower
    upwards, and what is sunk downwards. upper : upper edges ``square``, or taken off by `edge` mm,
    ``chamfered`` or ``rounded``. takes : whether it works what closes next.
    """

    rank: ClassVar[int] = 12
    title: ClassVar[str] = "Raise or sink"
    wants: ClassVar[str] = "closed"
    adds: ClassVar[bool] = True

    id: Id = "operation-0"
    name: Words = "Raise"
    contours: tuple[OfContour, ...] = ()
    sunk: Annotated[bool, Asked("Areas are", choices=((False, "raised"), (True, "sunk")))] = False
    height: Annotated[float, Within(0.01, 1000.0), Asked("By", "mm")] = 2.0
    counts: Annotated[
        str,
        OneOf(("top", "underside", "level")),
        Asked(
            "From",
            choices=(("top", "top"), ("underside", "underside"), ("level", "a level")),
            tip="The top or the underside of the base, which is 0 where there is none; or a level above its underside",
        ),
    ] = "top"
    level: Annotated[float, Within(-1000.0, 1000.0), Asked("Level", "mm")] = 0.0
    draft: Annotated[
        float,
        Within(0.0, 60.0),
        Asked(
            "Walls lean",
            "°",
            tip="What is raised becomes narrower upwards, what is sunk downwards; an edge that two areas of one level share stays upright",
            zero="upright",
        ),
    ] = 0.0
    upper: Annotated[
        str,
        OneOf(("square", "chamfered", "rounded")),
        Asked(
            "Upper edges",
            choices=(("square", "square"), ("chamfered", "bevel"), ("rounded", "round")),
        ),
    ] = "square"
    edge: Annotated[float, Within(0.01, 100.0), Asked("Taken off", "mm")] = 0.5
    takes: Annotated[
        bool,
        Asked(
            "What closes next too",
            tip="each area that is closed from now on, by hand or by tracing, is raised as it closes",
        ),
    ] = False
    feed: Feed = 1.0
    back: bool = False
    waits: bool = False
    recipe: Annotated[str, Text(100)] = ""
    stop: Annotated[str, Text(120)] = ""

    @property
    def acts(self) -> str:  # type: ignore[override]
        return "Sink" if self.sunk else "Raise"

    @property
    def pace_words(self) -> str:
        return f"{'sunk' if self.sunk else 'raised'} {self.height:g} mm"

    def asks(self, setting: str, *, lowered: bool) -> bool:
        return {"level": self.counts == "level", "edge": self.upper != "square"}.get(setting, True)

    def displaces(self, other: Operation) -> bool:
        """What is sunk into an area leaves that as it is."""
        return isinstance(other, Raise) and self.sunk == other.sunk

    @property
    def from_below(self) -> bool:
        """Whether it is sunk upwards."""
        return self.sunk and self.counts == "underside"

    def levels(self, top: float) -> tuple[float, float]:
        """From where to where it goes, in mm above the underside of a base whose top is there."""
        begin = {"top": top, "underside": 0.0}.get(self.counts, self.level)
        downwards = self.sunk and not self.from_below
        return (begin - self.height, begin) if downwards else (begin, begin + self.height)

    def paths(self, items: Sequence[tuple[str, Contour]], thickness: float) -> list[Toolpath]:
        return [Toolpath(contour, 0.0, (0.0,), (name,)) for name, contour in items]
