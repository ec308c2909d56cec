"""Turning: a profile goes round an axis, or along a path, and becomes a body; or an outline goes up to
another one."""

from __future__ import annotations

from collections.abc import Container, Sequence
from dataclasses import replace
from typing import Annotated, ClassVar

from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.operations.operation_kind import Feed, Operation, Toolpath
from draxet.job.ranges import Id, OfContour, OneOf, Refers, Text, Within, Words, ZeroOr
from draxet.record import record

__all__ = ["Turn"]


@record(frozen=True)
class Turn(Operation):
    """Profiles turned about a guide, their axis, by an `angle` in degrees; or led along a `path`, on
    which that axis stands then. sides : as many flat ones, with
    their corners on the true radius; 0 for as round as can be told. An open profile is closed by its
    ends' ways to the axis. standing : with its axis upright on the plan where the profile's foot is, from
    a `level` upwards, in place of lying as it is drawn with its axis so high.

    how : a ``shaft`` goes up from closed outlines, `height` mm, to the outline `top`, or to the same
    with a mean radius `above`; straight, or by a `curve` that is drawn beside it.
    """

    rank: ClassVar[int] = 13
    title: ClassVar[str] = "Turn"
    adds: ClassVar[bool] = True

    id: Id = "operation-0"
    name: Words = "Turn"
    contours: tuple[OfContour, ...] = ()
    how: Annotated[
        str,
        OneOf(("turned", "shaft")),
        Asked("Becomes", choices=(("turned", "turned or led"), ("shaft", "a shaft"))),
    ] = "turned"
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
    height: Annotated[float, Within(0.01, 10_000.0), Asked("So high", "mm")] = 50.0
    above: Annotated[
        float,
        ZeroOr(0.01, 10_000.0),
        Asked(
            "Radius above",
            "mm",
            tip="Of a circle as large as what is on top; 0 as the curve ends, and as below where there is none",
            zero="as it ends",
        ),
    ] = 0.0
    top: Annotated[str, Text(100), Refers("contours")] = ""
    curve: Annotated[str, Text(100), Refers("contours")] = ""
    level: Annotated[float, Within(-1000.0, 1000.0), Asked("Level", "mm")] = 0.0
    feed: Feed = 1.0
    back: bool = False
    waits: bool = False
    recipe: Annotated[str, Text(100)] = ""
    stop: Annotated[str, Text(120)] = ""

    @property
    def acts(self) -> str:  # type: ignore[override]
        return "Put shafts on" if self.is_shaft else "Lead" if self.path else "Turn"

    @property
    def pace_words(self) -> str:
        if self.is_shaft:
            return f"a shaft of {self.height:g} mm"
        if self.path:
            return "led along a path"
        round_ = f"in {self.sides} sides" if self.sides else "round"
        return f"turned {round_}" if self.angle == 360 else f"turned by {self.angle:g}°, {round_}"

    @property
    def goes_by(self) -> tuple[str, ...]:  # type: ignore[override]
        some = (self.top, self.curve) if self.is_shaft else (self.path,)
        return tuple(name for name in some if name)

    @property
    def is_shaft(self) -> bool:
        return self.how == "shaft"

    def asks(self, setting: str, *, lowered: bool) -> bool:
        if setting in ("height", "above"):
            return self.is_shaft and (setting == "height" or not self.top)
        return not (self.path or self.is_shaft) or setting not in ("angle", "sides", "standing")

    def without(self, gone: Container[str]) -> Turn | None:
        left = super().without(gone)
        if left is None:
            return None
        lost = {
            name: ""
            for name in ("axis", "path", "top", "curve")
            if getattr(left, name) and getattr(left, name) in gone
        }
        return replace(left, **lost) if lost else left  # type: ignore[arg-type]

    def paths(self, items: Sequence[tuple[str, Contour]], thickness: float) -> list[Toolpath]:
        return [Toolpath(contour, 0.0, (0.0,), (name,)) for name, contour in items]
