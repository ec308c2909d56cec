"""Contours in a job, and what belongs to them: parts, points, bridges, lettering."""

from __future__ import annotations

from collections.abc import Container, Sequence
from dataclasses import replace
from typing import Annotated, Any, Self

from draxet.cached import cached_property
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour, transformed_all
from draxet.geometry.shapes import unit_ellipse
from draxet.job.place_types import Box, Place
from draxet.job.ranges import (
    Colour,
    Coordinate,
    Count,
    Id,
    OfPart,
    OfPicture,
    OfSheet,
    OneOf,
    Refers,
    Size,
    Text,
    Within,
    Words,
)
from draxet.record import record

__all__ = ["Bridge", "ContourItem", "DropOut", "Lettering", "Part", "Placement", "Point"]


@record(frozen=True)
class ContourItem:
    """A contour of the job and the picture it was traced from (empty where none); one of `fixed`
    size is never resized.

    by_hand : changed by hand since it was traced: tracing anew leaves it alone. colour : #rrggbb
    where it bounds an area of that colour, else empty. traced : what of the picture it follows:
    ``edges``, ``middles`` or ``colours``. sheet : the id of the sheet it belongs to. layer : the
    layer's name in the drawing that it came from. slit : an open one that is meant to be open.
    part : the part that it belongs to, or empty. ellipse : where it is an ellipse, the map from
    the unit circle to it. line : how broad the line is that it stands for, in mm; 0 where it has no
    breadth of its own.
    """

    id: Id
    contour: Contour
    picture: OfPicture = ""
    fixed: bool = False
    by_hand: bool = False
    colour: Colour = ""
    traced: Annotated[str, OneOf(("", "edges", "middles", "colours"))] = ""
    sheet: OfSheet = ""
    layer: Words = ""
    slit: bool = False
    part: OfPart = ""
    ellipse: Affine | None = None
    line: Annotated[float, Within(0.0, 1000.0)] = 0.0

    @property
    def box(self) -> Box:
        return self.contour.box

    def mapped(self, after: Affine) -> ContourItem:
        """It moved, turned or scaled: a circle that is scaled unevenly is an ellipse from then on,
        and an ellipse that becomes round a circle."""
        ellipse, circle = (
            self.ellipse,
            self.contour.circle_shape if not after.is_similarity else None,
        )
        if circle is not None:
            x, y, radius = circle
            ellipse = Affine.scaled(radius).then(Affine.moved(x, y))
        ellipse = ellipse.then(after) if ellipse is not None else None
        contour = (
            unit_ellipse().transformed(ellipse)
            if ellipse is not None
            else self.contour.transformed(after)
        )
        if ellipse is not None and ellipse.is_similarity:
            contour, ellipse = Contour.circle(ellipse.c, ellipse.f, ellipse.scale), None
        return replace(self, contour=contour, ellipse=ellipse)


def mapped_all(
    items: Sequence[ContourItem], after: Affine, *, by_hand: bool = False
) -> list[ContourItem]:
    """Each as ``mapped`` has it, many at once; changed by hand where that is said."""
    plain = [item for item in items if item.ellipse is None] if after.is_similarity else []
    contours = transformed_all([item.contour for item in plain], after)
    known = {item.id: contour for item, contour in zip(plain, contours, strict=True)}
    return [
        _otherwise(item, known[item.id], by_hand or item.by_hand)
        if item.id in known
        else replace(item.mapped(after), by_hand=by_hand or item.by_hand)
        for item in items
    ]


def _otherwise(item: ContourItem, contour: Contour, by_hand: bool) -> ContourItem:
    """As ``replace``, which takes ten times as long."""
    made = object.__new__(ContourItem)
    made.__dict__.update(item.__dict__, contour=contour, by_hand=by_hand)
    return made


@record(frozen=True)
class Part:
    """What belongs together, is chosen and arranged as one, and goes by a name: contours, words,
    points and bridges, drawn once.

    within : the part that it belongs to, or empty. What is `locked` is neither chosen nor moved by
    hand. frame : the map by which it has been moved since it was first placed, as placements lie
    where they are whatever is done to it.
    """

    id: Id
    name: Words
    within: OfPart = ""
    locked: bool = False
    frame: Affine = Affine()

    @property
    def box(self) -> Box:
        """A place that goes along with it; its contours tell how far it reaches."""
        return self.frame.c, self.frame.f, self.frame.c, self.frame.f

    def mapped(self, after: Affine) -> Part:
        return replace(self, frame=self.frame.then(after))


@record(frozen=True)
class Placement:
    """Where a part lies once more, and follows it: whatever is done to the part is seen there.

    placed : from the part's frame to job space; it may turn it over. sheet : the one that it lies
    on. within : the part that it belongs to itself. beneath : the contour that lies right before
    it; empty for before all. by_itself : it is worked by itself: operations, starts, tabs, orders
    and bridges name what it lays, and not what its part holds. symmetric : it moves as its part
    does, in its own half or sector.
    """

    id: Id
    part: Annotated[str, Text(100), Refers("parts", goes=True)]
    placed: Affine = Affine()
    sheet: OfSheet = ""
    within: OfPart = ""
    beneath: Annotated[str, Text(100), Refers("contours")] = ""
    by_itself: bool = False
    symmetric: bool = False

    @property
    def box(self) -> Box:
        """A place that goes along with it; the layout tells how far it reaches."""
        return self.placed.c, self.placed.f, self.placed.c, self.placed.f

    @property
    def turned_over(self) -> bool:
        return self.placed.determinant < 0

    def mapped(self, after: Affine) -> Placement:
        return replace(self, placed=self.placed.then(after))

    @cached_property
    def kept(self) -> dict[str, Any]:
        """What was worked out of it."""
        return {}

    def __getstate__(self) -> dict[str, Any]:
        """It without that, for a process apart."""
        return {name: value for name, value in dict(vars(self)).items() if name != "kept"}


@record(frozen=True)
class Point:
    """A place to drill, to mark or to draw by, of a part or of none."""

    id: Id
    x: Coordinate
    y: Coordinate
    part: Annotated[str, Text(100), Refers("parts", rides=True)] = ""

    @property
    def box(self) -> Box:
        return self.x, self.y, self.x, self.y

    def mapped(self, after: Affine) -> Self:
        x, y = after.point(self.x, self.y)
        return replace(self, x=x, y=y)


@record(frozen=True)
class DropOut(Point):
    """A place in a piece that is meant to fall out."""


@record(frozen=True)
class Bridge:
    """Where a shape is held: a place on a contour, and the `width` in mm that is left there after
    the cut. One that leads `across` goes at an `angle` (degrees) to the next contour; else the cut
    of its own is interrupted."""

    id: Id
    x: Coordinate
    y: Coordinate
    width: Size
    contour: Annotated[str, Text(100), Refers("contours", rides=True)] = ""
    across: bool = False
    angle: Annotated[float, Within(-360.0, 360.0)] = 0.0

    @property
    def box(self) -> Box:
        return self.x, self.y, self.x, self.y

    def mapped(self, after: Affine) -> Bridge:
        """It gone along with its contour, as broad as it was."""
        x, y = after.point(self.x, self.y)
        return replace(self, x=x, y=y, angle=after.angle_of(self.angle))


@record(frozen=True)
class Lettering:
    """Words that were set and can still be changed as words; the contours of them are those of
    their `part`.

    face : its name. height : of capitals, in mm. spacing : mm that letters stand farther apart than
    the face has them. leading : from one
    row to the next, as a share of the height. placed : from the rows (mm, the first one's baseline
    being y = 0) to job space. along : the contour along which they run, or empty; then `near` is
    where on it x = 0 lies, `away` mm from it, on its `other_side` or not. again : maps under which
    symmetry sets them once more. waiting : operations that have nothing of these words to work, by
    their ids, and whether outlines (else openings) are what they wait for. adrift : whether what
    they ran along is gone.
    """

    id: Id
    part: Annotated[str, Text(100), Refers("parts", rides=True, goes=True)]
    words: Annotated[str, Text(2000)]
    face: Words
    height: Size = 20.0
    spacing: Annotated[float, Within(-1000.0, 1000.0)] = 0.0
    leading: Annotated[float, Within(0.1, 20.0)] = 1.6
    align: Annotated[str, OneOf(("left", "middle", "right"))] = "left"
    placed: Affine = Affine()
    along: Annotated[str, Text(100), Refers("contours")] = ""
    near: Place = (0.0, 0.0)
    away: Coordinate = 0.0
    other_side: bool = False
    again: Annotated[tuple[Affine, ...], Count(0, 199)] = ()
    waiting: Annotated[tuple[tuple[Id, bool], ...], Count(0, 1000)] = ()
    adrift: bool = False

    @property
    def box(self) -> Box:
        """About the place that it hangs on; its letters tell how far it reaches."""
        x, y = self.near if self.along else self.placed.point(0.0, 0.0)
        return x, y, x, y

    def without(self, gone: Container[str]) -> Lettering | None:
        """It where some things are gone: without its letters nothing; without what it ran along
        straight, where it was, and that can be told."""
        if self.part in gone:
            return None
        found = self
        if self.along and self.along in gone:
            found = replace(found, along="", placed=Affine.moved(*self.near), adrift=True)
        if any(name in gone for name, _ in self.waiting):
            left = tuple(each for each in self.waiting if each[0] not in gone)
            found = replace(found, waiting=left)
        return found

    def mapped(self, after: Affine) -> Lettering:
        """It moved, turned or scaled: a size that stays in proportion is the height's."""
        near, placed = after.point(*self.near), self.placed.then(after)
        again = tuple(after.inverse().then(place).then(after) for place in self.again)
        if not after.is_similarity or after.determinant < 0:
            return replace(self, near=near, placed=placed, again=again)
        size = after.scale
        return replace(
            self,
            near=near,
            placed=Affine.scaled(1 / size).then(placed),
            again=again,
            height=self.height * size,
            spacing=self.spacing * size,
            away=self.away * size,
        )
