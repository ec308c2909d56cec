"""Turning: a profile goes round an axis and becomes a body."""

from __future__ import annotations

from collections.abc import Container, Sequence
from dataclasses import replace
from typing import Annotated, ClassVar

from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.operations.operation_kind import Feed, Operation, Toolpath
from draxet.job.ranges import Id, OfContour, Refers, Text, Within, Words, ZeroOr
from draxet.record import record

__all__ = ["Turn"]


@record(frozen=True)
class Turn(Operation):
    """Profiles turned about a guide, their axis, by an `angle` in degrees; or led along a `path`, on
    which that axis stands then. sides : as many flat ones, with
    their corners on the true radius; 0 for as round as can be told. An open profile is closed by its
    ends' ways to the axis. standing : with its axis upright on the plan where the profile's foot is, from
    a `level` upwards, in place of lying as it is drawn with its axis so high.
    """

    rank: ClassVar[int] = 13
    title: ClassVar[str] = "Turn"
    acts: ClassVar[str] = "Turn"
    adds: ClassVar[bool] = True

    id: Id = "operation-0"
    name: Words = "Turn"
    contours: tuple[OfContour, ...] = ()
    axis: Annotated[str, Text(100), Refers("guides")] = ""
    path: Annotated[str, Text(100), Refers("contours")] = ""
    angle: Annotated[float, Within(1.0, 360.0), Asked("By an angle", "°")] = 360.0
    sides: Annotated[
        int,
        ZeroOr(12, 360),
        Asked("Sides", tip="so many flat ones; their corners lie on the true radius", zero="round"),
    ] = 0
    standing: Annotated[
        bool, Asked("The body", choices=((True, "stands"), (False, "lies as drawn")))
    ] = True
    level: Annotated[float, Within(-1000.0, 1000.0), Asked("Level", "mm")] = 0.0
    feed: Feed = 1.0
    back: bool = False
    waits: bool = False
    recipe: Annotated[str, Text(100)] = ""
    stop: Annotated[str, Text(120)] = ""

    @property
    def pace_words(self) -> str:
        if self.path:
            return "led along a path"
        round_ = f"in {self.sides} sides" if self.sides else "round"
        return f"turned {round_}" if self.angle == 360 else f"turned by {self.angle:g}°, {round_}"

    def asks(self, setting: str, *, lowered: bool) -> bool:
        return not self.path or setting not in ("angle", "sides", "standing")

    def without(self, gone: Container[str]) -> Turn | None:
        left = super().without(gone)
        if left is None:
            return None
        axis = "" if left.axis in gone else left.axis
        path = "" if left.path in gone else left.path
        same = (axis, path) == (left.axis, left.path)
        return left if same else replace(left, axis=axis, path=path)

    def paths(self, items: Sequence[tuple[str, Contour]], thickness: float) -> list[Toolpath]:
        return [Toolpath(contour, 0.0, (0.0,), (name,)) for name, contour in items]
