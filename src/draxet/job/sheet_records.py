"""Sheets of stock in a job, and what lies on them beside contours."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Self

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.place_types import Anchor, Box, Place
from draxet.job.ranges import (
    Colour,
    Coordinate,
    Count,
    Each,
    Id,
    OneOf,
    Refers,
    Size,
    Text,
    Within,
    Words,
)
from draxet.record import record

__all__ = ["Base", "Guide", "HandedOff", "Limit", "MeasureNote", "Sheet"]


@record(frozen=True)
class Sheet:
    """Stock on the bench.

    x, y : its lower left corner in job space (the first sheet's is 0, 0). origin : where the
    machine counts from, as shares of width and height (0, 0.5 or 1 each). zero : the height it
    counts from, ``top`` of the sheet or the ``bed`` beneath.
    colour : the material's own, #rrggbb, empty for plain. machine : the id of the machine that it
    is worked on, empty for the one that goes by its material.
    """

    id: Id = "sheet-0"
    name: Words = "Sheet 1"
    width: Size = 600.0
    height: Size = 400.0
    thickness: Size = 3.0
    material: Words = "steel"
    x: Coordinate = 0.0
    y: Coordinate = 0.0
    origin: tuple[Anchor, Anchor] = (0.0, 0.0)
    zero: Annotated[str, OneOf(("top", "bed"))] = "top"
    colour: Colour = ""
    machine: Annotated[str, Text(100)] = "plasma-table"

    @property
    def origin_place(self) -> tuple[float, float]:
        """The origin in job space."""
        return self.x + self.origin[0] * self.width, self.y + self.origin[1] * self.height

    @property
    def box(self) -> Box:
        return self.x, self.y, self.x + self.width, self.y + self.height


@record(frozen=True)
class Base:
    """What the areas of a sheet are raised on and sunk into.

    Parameters
    ----------
    shape : ``none``; the ``sheet``, as thick as that is; a ``box`` round the work; the work's
        ``outline``, so much larger; or a chosen `contour`.
    thickness : in mm, but for the sheet's own. margin, corner : how far it reaches beyond the work,
        and the radius of a box's corners, in mm.
    origin : from where files count: the base's lower left ``corner`` or its ``middle``; its underside
        is 0 high.
    """

    sheet: Annotated[str, Text(100), Refers("sheets", goes=True)]
    shape: Annotated[
        str,
        OneOf(("none", "sheet", "box", "outline", "contour")),
        Asked(
            "Base",
            choices=(
                ("none", "none"),
                ("sheet", "the sheet"),
                ("box", "box"),
                ("outline", "outline"),
                ("contour", "chosen"),
            ),
            tip="box and outline: round all that is raised and sunk; chosen: the contour that is chosen as you take this",
        ),
    ] = "none"
    thickness: Annotated[Size, Asked("Thick", "mm")] = 3.0
    margin: Annotated[float, Within(0.0, 1000.0), Asked("Margin", "mm")] = 5.0
    corner: Annotated[float, Within(0.0, 1000.0), Asked("Corner radius", "mm", zero="square")] = 0.0
    origin: Annotated[
        str,
        OneOf(("corner", "middle")),
        Asked("Files count from its", choices=(("corner", "corner"), ("middle", "middle"))),
    ] = "corner"
    colour: Colour = ""
    contour: Annotated[str, Text(100), Refers("contours")] = ""


@record(frozen=True)
class Limit:
    """What the machine can reach, a hoop or a frame's opening: a closed outline, its lower left on
    that of whatever sheet is worked, whichever side is up. holes : closed contours in it that are kept
    clear."""

    name: Words
    outline: Contour
    holes: Annotated[tuple[Contour, ...], Each("hole")] = ()


@record(frozen=True)
class MeasureNote:
    """A measurement that is kept: what was measured, its places in job space, and its words."""

    id: Id
    kind: Annotated[str, OneOf(("distance", "angle", "radius", "area", "along"))]
    places: Annotated[tuple[Place, ...], Count(1, 10_000)]
    words: Words

    @property
    def box(self) -> Box:
        across, up = zip(*self.places, strict=True)
        return min(across), min(up), max(across), max(up)

    def mapped(self, after: Affine) -> Self:
        """Its words stay: they say what was measured."""
        return replace(self, places=tuple(after.point(x, y) for x, y in self.places))


@record(frozen=True)
class Guide:
    """A straight line without ends to draw by, through (x, y) at `angle` degrees; it is caught and
    never cut."""

    id: Id
    x: Coordinate
    y: Coordinate
    angle: Annotated[float, Within(-360.0, 360.0)] = 0.0

    @property
    def box(self) -> Box:
        """The place that it goes through."""
        return self.x, self.y, self.x, self.y

    def mapped(self, after: Affine) -> Self:
        (x, y), angle = after.point(self.x, self.y), after.angle_of(self.angle)
        return replace(self, x=x, y=y, angle=angle)


@record(frozen=True)
class HandedOff:
    """A file that left, the state of the work it held, and the sheet that it was for."""

    file: Words
    work: Annotated[str, Text(200)]
    sheet: Annotated[str, Text(100), Refers("sheets", goes=True)] = ""
    back: bool = False
