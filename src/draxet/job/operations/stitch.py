"""Sewing: areas filled with rows of thread, or lines run along."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, ClassVar

from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.operations.operation_kind import Feed, Operation, Spot, Toolpath
from draxet.job.ranges import Each, Id, OfContour, OneOf, Size, Text, Within, Words
from draxet.record import record

__all__ = ["Stitch"]

_LEAK, _LEAK_SHARE = 10.0, 0.25
"""mm between ends, and which share of a contour's length, that are taken for a leak."""
_AREAS, _LED = ("suited", "fill", "satin"), ("satin", "border", "between")
_OF = {
    "spacing": ("suited", "fill"),
    "angle": ("suited", "fill"),
    "length": ("suited", "fill"),
    "satin": ("suited", *_LED),
    "border": ("border",),
    "mitred": ("border",),
    "corners": ("suited", *_LED),
    "pull": ("suited", "fill", *_LED),
    "overlap": _AREAS,
    "underlay": ("suited", "fill", *_LED),
    "takes": (*_AREAS, "border"),
}
"""In which ways a setting counts; others always do."""


@record(frozen=True)
class Stitch(Operation):
    """The areas that contours bound sewn as suits them (narrow ones in satin, from side to side, others filled),
    or all filled, or all in satin; or a satin `border` mm broad along their lines, its outline `mitred` or rounded; or satin between two lines each; with needle points of satin `satin` mm apart, whose stitches at `corners` turn, or are mitred or capped. Filled with rows `spacing` mm apart at an `angle` in stitches of
    `length` mm, each row longer by `pull` mm at both ends, the areas
    `overlap` mm broader all round, over an `underlay` or not; or their lines
    run along, open ones always, in stitches of `line_stitch` mm, once, there and back (2 times) or each
    stitch three times. takes : whether it fills what closes next. spots : where sewing begins and ends,
    where that was said."""

    rank: ClassVar[int] = 15
    title: ClassVar[str] = "Stitch"
    acts: ClassVar[str] = "Stitch"
    broad_by: ClassVar[str] = "spacing"
    begins: ClassVar[bool] = True
    ends: ClassVar[bool] = True

    id: Id = "operation-0"
    name: Words = "Stitch"
    contours: tuple[OfContour, ...] = ()
    way: Annotated[
        str,
        OneOf(("suited", "fill", "satin", "border", "between", "run")),
        Asked(
            "Areas",
            choices=(
                ("suited", "as suits"),
                ("fill", "filled"),
                ("satin", "satin"),
                ("border", "border"),
                ("between", "between"),
                ("run", "run round"),
            ),
        ),
    ] = "suited"
    spacing: Annotated[float, Within(0.1, 5.0), Asked("Rows apart", "mm")] = 0.35
    angle: Annotated[float, Within(-360.0, 360.0), Asked("At an angle", "°")] = 45.0
    length: Annotated[float, Within(1.0, 12.0), Asked("Stitch length", "mm")] = 4.0
    satin: Annotated[
        float,
        Within(0.1, 5.0),
        Asked("Satin apart", "mm", tip="from needle point to needle point of a side"),
    ] = 0.4
    border: Annotated[Size, Asked("Border broad", "mm")] = 3.0
    mitred: Annotated[bool, Asked("Border with sharp corners")] = True
    corners: Annotated[
        str,
        OneOf(("turned", "mitred", "capped")),
        Asked(
            "Stitches at corners",
            choices=(("turned", "turn"), ("mitred", "mitred"), ("capped", "capped")),
            tip="mitred: each limb up to the line between the corners; capped: one limb runs on, the other begins beneath it",
        ),
    ] = "turned"
    pull: Annotated[
        float,
        Within(0.0, 2.0),
        Asked(
            "Longer by",
            "mm",
            tip="at both ends, as thread pulls the cloth together",
            zero="none",
        ),
    ] = 0.2
    overlap: Annotated[
        float,
        Within(0.0, 2.0),
        Asked(
            "Broader by",
            "mm",
            tip="all round, so that no cloth shows between neighbours",
            zero="none",
        ),
    ] = 0.1
    underlay: Annotated[bool, Asked("Underlay")] = True
    line_stitch: Annotated[float, Within(1.0, 12.0), Asked("Stitch of lines", "mm")] = 2.5
    times: Annotated[
        int,
        Within(1, 3),
        Asked(
            "Lines run",
            choices=((1, "once"), (2, "and back"), (3, "three-fold")),
        ),
    ] = 1
    takes: Annotated[
        bool,
        Asked(
            "What closes next too",
            tip="each area that is closed from now on, by hand or by tracing, is filled as it closes",
        ),
    ] = False
    spots: Annotated[tuple[Spot, ...], Each("spot")] = ()
    feed: Feed = 1.0
    back: bool = False
    waits: bool = False
    recipe: Annotated[str, Text(100)] = ""
    stop: Annotated[str, Text(120)] = ""

    @property
    def pace_words(self) -> str:
        return {
            "run": "run along",
            "satin": f"satin, {self.satin:g} mm apart",
            "border": f"border, {self.border:g} mm broad",
            "between": f"satin between lines, {self.satin:g} mm apart",
        }.get(self.way, f"rows {self.spacing:g} mm apart")

    def asks(self, setting: str, *, lowered: bool) -> bool:
        return self.way in _OF.get(setting, (self.way,))

    def displaces(self, other: Operation) -> bool:
        """A border lies over what is sewn within it."""
        return isinstance(other, Stitch) and (self.way == "border") == (other.way == "border")

    @property
    def is_led(self) -> bool:
        """Whether a line across says how satin goes."""
        return self.way in _LED

    @property
    def sews_areas(self) -> bool:
        """Whether what contours bound is sewn, and not their lines."""
        return self.way in _AREAS

    def is_leak(self, contour: Contour) -> bool:
        """Whether a contour that is to be filled is open though its ends nearly meet: then it is run
        along, which nobody meant."""
        if not self.sews_areas or contour.closed:
            return False
        gap = math.dist(contour.nodes[0], contour.nodes[-1])
        return gap <= _LEAK and gap <= _LEAK_SHARE * contour.length

    def paths(self, items: Sequence[tuple[str, Contour]], thickness: float) -> list[Toolpath]:
        return [Toolpath(contour, self.spacing, (0.0,), (name,)) for name, contour in items]
