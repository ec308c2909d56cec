"""The job and what it holds: frozen records with stable ids. Lengths are millimetres in job space.

A *job* is one piece of work: its *sheets* of stock, its *pictures*, the *contours* drawn or traced
on them and the *operations* that cut them. Every edit makes a new job that shares what it did not
touch.
"""

from __future__ import annotations

import math
from dataclasses import field, replace
from enum import StrEnum
from typing import Annotated

from draxet.cached import cached_property
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.shapes import unit_ellipse
from draxet.geometry.spread import Spread
from draxet.job.contour_ties import Fit, Order
from draxet.job.machine import MACHINES, Machine
from draxet.job.operations import AnyOperation, CutThrough, Operation, Side
from draxet.job.ranges import (
    Colour,
    Coordinate,
    Count,
    Each,
    Id,
    Length,
    OneOf,
    PictureId,
    Pixels,
    Share,
    Size,
    Text,
    Within,
    Words,
)
from draxet.job.recipe import RECIPES, Recipe
from draxet.job.steps import Frame, PrepareStep, worked_frame
from draxet.record import record
from draxet.units import UNITS

__all__ = [
    "Bridge",
    "ContourItem",
    "CutThrough",
    "Exactness",
    "Group",
    "Guide",
    "HandedOff",
    "Job",
    "KnownLength",
    "Lettering",
    "Limit",
    "MeasureNote",
    "Picture",
    "Point",
    "Sheet",
    "Side",
    "SquareStep",
]


_POINT = 0.01
"""mm: as what a point is drilled as."""


class Exactness(StrEnum):
    """How exact the work must be; `tolerance` (mm) is what tracing, simplifying and checking go
    by."""

    PLAN = "plan"
    CUT = "cut"
    FIT = "fit"

    @property
    def tolerance(self) -> float:
        return {"plan": 0.5, "cut": 0.1, "fit": 0.03}[self.value]


_Anchor = Annotated[float, OneOf((0.0, 0.5, 1.0))]
_Place = tuple[Coordinate, Coordinate]
_Pixel = tuple[Pixels, Pixels]
_Side = Annotated[int, Within(1, 1_000_000)]


@record(frozen=True)
class Sheet:
    """Stock on the bench.

    x, y : its lower left corner in job space (the first sheet's is 0, 0). origin : where the
    machine counts from, as shares of width and height (0, 0.5 or 1 each). zero : the height it
    counts from, ``top`` of the sheet or the ``bed`` beneath.
    colour : the material's own, #rrggbb, empty for plain. machine : the id of the machine that it
    is worked on.
    """

    id: Id = "sheet-0"
    name: Words = "Sheet 1"
    width: Size = 600.0
    height: Size = 400.0
    thickness: Size = 3.0
    material: Words = "plywood"
    x: Coordinate = 0.0
    y: Coordinate = 0.0
    origin: tuple[_Anchor, _Anchor] = (0.0, 0.0)
    zero: Annotated[str, OneOf(("top", "bed"))] = "top"
    colour: Colour = ""
    machine: Annotated[str, Text(100)] = "plasma-table"

    @property
    def origin_place(self) -> tuple[float, float]:
        """The origin in job space."""
        return self.x + self.origin[0] * self.width, self.y + self.origin[1] * self.height

    @property
    def box(self) -> tuple[float, float, float, float]:
        return self.x, self.y, self.x + self.width, self.y + self.height


@record(frozen=True)
class Limit:
    """What the machine can reach, a hoop or a frame's opening: a closed outline, its lower left on
    the sheet's."""

    name: Words
    outline: Contour


@record(frozen=True)
class MeasureNote:
    """A measurement that is kept: what was measured, its places in job space, and its words."""

    id: Id
    kind: Annotated[str, OneOf(("distance", "angle", "radius", "area", "along"))]
    places: Annotated[tuple[_Place, ...], Count(1, 10_000)]
    words: Words


@record(frozen=True)
class KnownLength:
    """Two places on a picture (in its pixels), the real length between them, and the spread of each
    pick."""

    first: _Pixel
    second: _Pixel
    length: Length
    first_spread: Spread
    second_spread: Spread

    @property
    def pixels(self) -> float:
        """The length between the places in pixels."""
        return math.hypot(self.second[0] - self.first[0], self.second[1] - self.first[1])

    @property
    def deviation(self) -> float:
        """One standard deviation of that length, in pixels."""
        dx, dy = self.second[0] - self.first[0], self.second[1] - self.first[1]
        return math.hypot(self.first_spread.along(dx, dy), self.second_spread.along(dx, dy))


@record(frozen=True)
class SquareStep:
    """A photo squared to a plan: four `corners` found on it, the `real` width and height between
    them in mm, the lens `curve`, the map from the plan's pixels to the photo's (`matrix`, nine
    numbers row by row), and the `plan`'s size in pixels."""

    corners: Annotated[tuple[_Pixel, ...], Count(4, 4)]
    real: tuple[Length, Length]
    curve: Annotated[float, Within(-1.0, 1.0)]
    matrix: Annotated[tuple[float, ...], Count(9, 9)]
    plan: tuple[_Side, _Side]
    residual: Annotated[float, Within(0.0, 1e6)] = 0.0


@record(frozen=True)
class Picture:
    """A picture: its file as it came (`source`), its size in base pixels, its prepare steps, and
    its map to job space.

    file_size : width and height of the file's picture. to_job : from the pixels that are worked
    with (after `square` and `steps`) to job space. A `locked` one is not moved by hand; `strength`
    0..1 is its own, beside each stage's; `came_from` and `may_be_used` are notes of where it is
    from and what it may be used for.
    """

    id: Id
    name: Words
    source: bytes = field(repr=False)
    file_size: tuple[_Side, _Side]
    to_job: Affine
    dpi: Annotated[float, Within(1.0, 1e6)] | None = None
    visible: bool = True
    known_lengths: Annotated[tuple[KnownLength, ...], Each("known length")] = ()
    unstretched: bool = False
    square: SquareStep | None = None
    page: Annotated[int, Within(0, 1_000_000)] = 0
    steps: Annotated[tuple[PrepareStep, ...], Each("prepare step")] = ()
    locked: bool = False
    strength: Share = 1.0
    came_from: Words = ""
    may_be_used: Words = ""

    @cached_property
    def digest(self) -> str:
        """SHA-256 of the file."""
        import hashlib  # slow to load

        return hashlib.sha256(self.source).hexdigest()

    @property
    def base_size(self) -> tuple[int, int]:
        """Width and height in base pixels: the plan's where it is squared, else the file's."""
        return self.square.plan if self.square else self.file_size

    @cached_property
    def _frame(self) -> Frame:
        return worked_frame(self.base_size, self.steps)

    @property
    def width(self) -> int:
        """Width in the pixels that are worked with."""
        return self._frame.size[0]

    @property
    def height(self) -> int:
        """Height in the pixels that are worked with."""
        return self._frame.size[1]

    @property
    def to_base(self) -> Affine:
        """From the pixels that are worked with to base pixels."""
        return self._frame.to_base

    @property
    def middle(self) -> tuple[float, float]:
        """Its middle in job space."""
        return self.to_job.point(self.width / 2, self.height / 2)

    @property
    def box(self) -> tuple[float, float, float, float]:
        """Its extent in job space."""
        corners = [self.to_job.point(x, y) for x in (0, self.width) for y in (0, self.height)]
        return (
            min(x for x, _ in corners),
            min(y for _, y in corners),
            max(x for x, _ in corners),
            max(y for _, y in corners),
        )

    @property
    def distortion(self) -> float:
        """How much longer its most stretched direction lies than its least stretched one, as a
        share."""
        m = self.to_job
        a, b = m.a * m.a + m.d * m.d + m.b * m.b + m.e * m.e, abs(m.determinant)
        big = math.sqrt((a + math.sqrt(max(a * a - 4 * b * b, 0.0))) / 2)
        return big * big / b - 1 if b else math.inf

    @property
    def pixel_size(self) -> float:
        """Millimetres a pixel."""
        return self.to_job.scale


@record(frozen=True)
class ContourItem:
    """A contour of the job and the picture it was traced from (empty where none); one of `fixed`
    size is never resized.

    by_hand : changed by hand since it was traced: tracing anew leaves it alone. colour : #rrggbb
    where it bounds an area of that
    colour, else empty. traced : what of the picture it follows: ``edges``, ``middles`` or
    ``colours``. sheet : the id of the sheet
    it belongs to. layer : the layer's name in the drawing that it came from. slit : an open one
    that is meant to be open. group : the
    group that it stands in, or empty. ellipse : where it is an ellipse, the map from the unit
    circle to it. link : contours of the same link have one shape, laid by each one's `placed`;
    empty for one of its own. symmetric : moved by hand, those of its link that are so too move
    likewise,
    each in its own half or sector. line : how broad the line is that it stands for, in mm; 0 where
    it has no breadth of its own.
    """

    id: Id
    contour: Contour
    picture: PictureId = ""
    fixed: bool = False
    by_hand: bool = False
    colour: Colour = ""
    traced: Annotated[str, OneOf(("", "edges", "middles", "colours"))] = ""
    sheet: PictureId = ""
    layer: Words = ""
    slit: bool = False
    group: PictureId = ""
    ellipse: Affine | None = None
    link: PictureId = ""
    placed: Affine = Affine()
    symmetric: bool = False
    line: Annotated[float, Within(0.0, 1000.0)] = 0.0

    def mapped(self, after: Affine) -> ContourItem:
        """It moved, turned or scaled: a circle that is scaled unevenly is an ellipse from then on,
        an ellipse that becomes round a circle, and one of several linked ones lies otherwise."""
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
        return replace(
            self,
            contour=contour,
            ellipse=ellipse,
            placed=self.placed.then(after) if self.link else self.placed,
        )


@record(frozen=True)
class Group:
    """Contours that are chosen and arranged as one, and go by a name: a part. within : the group
    that it stands in, or empty. What is `locked` is neither chosen nor moved by hand."""

    id: Id
    name: Words
    within: PictureId = ""
    locked: bool = False


@record(frozen=True)
class Point:
    """A place to drill, to mark or to draw by."""

    id: Id
    x: Coordinate
    y: Coordinate


@record(frozen=True)
class Bridge:
    """Where a shape is held: a place on a contour, and the `width` in mm that is left there after
    the cut. One that leads `across` goes at an `angle` (degrees) to the next contour; else the cut
    of its own is interrupted."""

    id: Id
    x: Coordinate
    y: Coordinate
    width: Size
    contour: PictureId = ""
    across: bool = False
    angle: Annotated[float, Within(-360.0, 360.0)] = 0.0

    def mapped(self, after: Affine) -> Bridge:
        """It gone along with its contour, as broad as it was."""
        (x, y), way = after.point(self.x, self.y), math.radians(self.angle)
        dx, dy = (
            after.a * math.cos(way) + after.b * math.sin(way),
            after.d * math.cos(way) + after.e * math.sin(way),
        )
        return replace(self, x=x, y=y, angle=math.degrees(math.atan2(dy, dx)))


@record(frozen=True)
class Lettering:
    """Words that were set and can still be changed as words; the contours of them are those of
    their `group`.

    face : its name. height : of capitals, in mm. spacing : mm that letters stand farther apart than
    the face has them. leading : from one
    row to the next, as a share of the height. placed : from the rows (mm, the first one's baseline
    being y = 0) to job space. along : the contour along which they run, or empty; then `near` is
    where on it x = 0 lies, `away` mm from it, on its `other_side` or not. again : maps under which
    symmetry sets them once more. waiting : operations that have nothing of these words to work, by
    their ids, and whether outlines (else openings) are what they wait for.
    """

    id: Id
    group: PictureId
    words: Annotated[str, Text(2000)]
    face: Words
    height: Size = 20.0
    spacing: Annotated[float, Within(-1000.0, 1000.0)] = 0.0
    leading: Annotated[float, Within(0.1, 20.0)] = 1.6
    align: Annotated[str, OneOf(("left", "middle", "right"))] = "left"
    placed: Affine = Affine()
    along: PictureId = ""
    near: _Place = (0.0, 0.0)
    away: Coordinate = 0.0
    other_side: bool = False
    again: Annotated[tuple[Affine, ...], Count(0, 199)] = ()
    waiting: Annotated[tuple[tuple[Id, bool], ...], Count(0, 1000)] = ()

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


@record(frozen=True)
class Guide:
    """A straight line without ends to draw by, through (x, y) at `angle` degrees; it is caught and
    never cut."""

    id: Id
    x: Coordinate
    y: Coordinate
    angle: Annotated[float, Within(-360.0, 360.0)] = 0.0


@record(frozen=True)
class HandedOff:
    """A file that left, the state of the work it held, and the sheet that it was for."""

    file: Words
    work: Annotated[str, Text(200)]
    sheet: PictureId = ""
    back: bool = False


@record(frozen=True)
class Job:
    """Everything of one piece of work, as a value."""

    name: Words = "Untitled job"
    unit: Annotated[str, OneOf(tuple(UNITS))] = "mm"
    sheets: Annotated[tuple[Sheet, ...], Each("sheet")] = (Sheet(),)
    sheet_id: Id = "sheet-0"
    limit: Limit | None = None
    exactness: Exactness = Exactness.CUT
    smallest_feature: Size = 1.0
    pictures: Annotated[tuple[Picture, ...], Each("picture")] = ()
    contours: Annotated[tuple[ContourItem, ...], Each("contour")] = ()
    operations: Annotated[tuple[AnyOperation, ...], Each("operation")] = ()
    notes: Annotated[tuple[MeasureNote, ...], Each("note")] = ()
    handed_off: Annotated[tuple[HandedOff, ...], Each("hand-off")] = ()
    guides: Annotated[tuple[Guide, ...], Each("guide")] = ()
    points: Annotated[tuple[Point, ...], Each("point")] = ()
    groups: Annotated[tuple[Group, ...], Each("group")] = ()
    drop_outs: Annotated[tuple[_Place, ...], Count(0, 10_000)] = ()
    """Places of pieces that are meant to fall out."""
    bridges: Annotated[tuple[Bridge, ...], Each("bridge")] = ()
    machines: Annotated[tuple[Machine, ...], Each("machine")] = ()
    """Those that were made for this job, beside the ones that ship."""
    recipes: Annotated[tuple[Recipe, ...], Each("recipe")] = ()
    """Own recipes, beside those that ship."""
    orders: Annotated[tuple[Order, ...], Each("order")] = ()
    fits: Annotated[tuple[Fit, ...], Each("fit")] = ()
    letterings: Annotated[tuple[Lettering, ...], Each("lettering")] = ()
    helpers: Annotated[tuple[ContourItem, ...], Each("helper contour")] = ()
    """Contours to draw by: locked, shown behind the others, and never sent anywhere."""
    next_id: Annotated[int, Within(1, 1_000_000_000)] = 1

    @property
    def sheet(self) -> Sheet:
        """The sheet in hand."""
        return next((sheet for sheet in self.sheets if sheet.id == self.sheet_id), self.sheets[0])

    @property
    def every_machine(self) -> tuple[Machine, ...]:
        """Own machines, and those that ship but for ones that own ones take the place of."""
        own = {machine.id for machine in self.machines}
        return (*self.machines, *(machine for machine in MACHINES if machine.id not in own))

    @property
    def every_recipe(self) -> tuple[Recipe, ...]:
        """Own recipes, and those that ship."""
        return (*self.recipes, *RECIPES)

    def machine_of(self, sheet: Sheet) -> Machine:
        """The machine that a sheet is worked on; where its own is not there, the first."""
        return next(
            (machine for machine in self.every_machine if machine.id == sheet.machine),
            self.every_machine[0],
        )

    @cached_property
    def contour_by_id(self) -> dict[str, ContourItem]:
        return {item.id: item for item in self.contours}

    @cached_property
    def group_within(self) -> dict[str, str]:
        """Group id to the id of the group that it stands in."""
        return {group.id: group.within for group in self.groups}

    @cached_property
    def picture_by_id(self) -> dict[str, Picture]:
        return {picture.id: picture for picture in self.pictures}

    @cached_property
    def cut_of(self) -> dict[str, CutThrough]:
        """Contour id to the operation that cuts it through."""
        return {
            contour: operation
            for operation in self.operations
            if isinstance(operation, CutThrough)
            for contour in operation.contours
        }

    @cached_property
    def widths_cut(self) -> tuple[float, ...]:
        """The widths in mm of all that is cut through, the least first."""
        return tuple(
            sorted(
                {
                    operation.width
                    for operation in self.operations
                    if isinstance(operation, CutThrough) and operation.contours
                }
            )
        )

    @cached_property
    def opened(self) -> tuple[ContourItem, ...]:
        """Open contours that are not meant to be open."""
        return tuple(item for item in self.contours if not item.contour.closed and not item.slit)

    @cached_property
    def open_ends(self) -> tuple[tuple[str, float, float], ...]:
        """Every end of those: its contour's id and its place."""
        return tuple(
            (item.id, *item.contour.nodes[end].tolist()) for item in self.opened for end in (0, -1)
        )

    @cached_property
    def fitted(self) -> dict[str, Contour]:
        """Openings that take a part, as they are cut: wider by their clearance."""
        from draxet.geometry.offset import offset_area  # not needed to show a window

        shapes = {
            fit.opening: self.contour_by_id[fit.opening].contour
            for fit in self.fits
            if fit.opening in self.contour_by_id
        }
        grown = {
            fit.opening: offset_area([shapes[fit.opening]], fit.clearance, "sharp")
            for fit in self.fits
            if fit.opening in shapes
        }
        return {name: found[0] for name, found in grown.items() if len(found) == 1}

    @cached_property
    def worked(self) -> frozenset[str]:
        """Ids of all contours that have an operation."""
        return frozenset(contour for operation in self.operations for contour in operation.contours)

    def worked_on(self, operation: Operation, sheet: Sheet) -> list[tuple[str, Contour]]:
        """What an operation works on a sheet: contours, and as small circles the points of one that
        drills them, with their ids."""
        items = [
            (name, self.contour_by_id[name].contour)
            for name in operation.contours
            if self.contour_by_id[name].sheet == sheet.id
        ]
        return [
            *items,
            *(
                (point.id, self.shape_of(point.id))
                for point in self.drilled_points(operation, sheet)
            ),
        ]

    def has_work(self, operation: Operation, sheet: Sheet) -> bool:
        """Whether an operation works on a sheet at all."""
        return any(
            self.contour_by_id[name].sheet == sheet.id for name in operation.contours
        ) or bool(self.drilled_points(operation, sheet))

    def drilled_points(self, operation: Operation, sheet: Sheet) -> list[Point]:
        """The points of a sheet that an operation drills; those on no sheet belong to the first
        one."""
        if not getattr(operation, "at_points", False):
            return []
        return [point for point in self.points if self.sheet_of_point(point) == sheet.id]

    def sheet_of_point(self, point: Point) -> str:
        """The id of the sheet that a point lies on; of one that lies on none, the first one's."""
        return self.sheet_under((point.x, point.y, point.x, point.y)) or self.sheets[0].id

    def shape_of(self, name: str) -> Contour:
        """The contour of that id, or a small circle about the point of that id."""
        if name in self.contour_by_id:
            return self.contour_by_id[name].contour
        point = next(point for point in self.points if point.id == name)
        return Contour.circle(point.x, point.y, _POINT)

    def sheet_under(self, box: tuple[float, float, float, float]) -> str:
        """The id of the sheet on which the middle of a box lies; empty where it lies on none."""
        x, y = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
        return next(
            (s.id for s in self.sheets if s.x <= x <= s.x + s.width and s.y <= y <= s.y + s.height),
            "",
        )

    @cached_property
    def sheets_with_work(self) -> tuple[Sheet, ...]:
        """The sheets on which something has an operation."""
        used = {self.contour_by_id[contour].sheet for contour in self.worked}
        return tuple(
            sheet
            for sheet in self.sheets
            if sheet.id in used
            or any(self.drilled_points(operation, sheet) for operation in self.operations)
        )

    def work_digest(self, sheet: Sheet) -> str:
        """Tells whether what would be handed off for a sheet has changed."""
        if sheet not in self._digests:
            self._digests[sheet] = self._digest_of(sheet)
        return self._digests[sheet]

    @cached_property
    def _digests(self) -> dict[Sheet, str]:
        return {}

    def _digest_of(self, sheet: Sheet) -> str:
        import hashlib  # slow to load

        state = hashlib.sha256(
            repr(
                (
                    sheet.id,
                    sheet.width,
                    sheet.height,
                    sheet.x,
                    sheet.y,
                    sheet.origin,
                    sheet.zero,
                    sheet.thickness,
                )
            ).encode()
        )
        state.update(
            repr(
                [
                    (bridge.x, bridge.y, bridge.width, bridge.across, bridge.angle)
                    for bridge in self.bridges
                ]
            ).encode()
            if self.bridges
            else b""
        )
        machine = self.machine_of(sheet)
        state.update(repr(replace(machine, outline=None, keep_clear=(), name="")).encode())
        state.update(repr((self.orders, self.fits)).encode() if self.orders or self.fits else b"")
        for operation in self.operations:
            state.update(
                repr((operation.with_contours(()), getattr(operation, "spots", ()))).encode()
            )
            state.update(
                repr(
                    [(point.x, point.y) for point in self.drilled_points(operation, sheet)]
                ).encode()
                if self.points
                else b""
            )
            for contour_id in operation.contours:
                item = self.contour_by_id[contour_id]
                if item.sheet == sheet.id:
                    state.update(item.contour.as_bytes)
        return state.hexdigest()

    def is_handed_off(self, sheet: Sheet) -> bool:
        """Whether the sheet's work left as it is now, from each side that is worked."""
        before = [each for each in self.handed_off if each.sheet == sheet.id]
        work = self.work_digest(sheet) if before else ""
        left = {each.back for each in before if each.work == work}
        return bool(left) and left >= {
            operation.back for operation in self.operations if self.has_work(operation, sheet)
        }
