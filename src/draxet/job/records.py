"""The job and what it holds: frozen records with stable ids. Lengths are millimetres in job space.

A *job* is one piece of work: its *sheets* of stock, its *pictures*, the *contours* drawn or traced
on them and the *operations* that cut them. Every edit makes a new job that shares what it did not
touch.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Annotated, Any

from draxet.cached import cached_property
from draxet.geometry.contour import Contour
from draxet.job.contour_records import (
    Bridge,
    ContourItem,
    DropOut,
    Lettering,
    Part,
    Placement,
    Point,
)
from draxet.job.contour_ties import Fit, Order
from draxet.job.machine_kinds import MACHINES, AnyMachine, Machine
from draxet.job.machine_kinds.earlier_machines import machine_told, told_before
from draxet.job.materials import machine_for
from draxet.job.operations import AnyOperation, Operation
from draxet.job.picture_records import Exactness, Picture
from draxet.job.ranges import Each, Id, OneOf, Size, Within, Words
from draxet.job.recipe import RECIPES, Recipe
from draxet.job.sewing_threads import THREADS, Thread
from draxet.job.sheet_records import Base, Guide, HandedOff, Limit, MeasureNote, Sheet
from draxet.record import record
from draxet.units import UNITS

__all__ = ["LAYING", "PURPOSES", "Job", "begun_job"]

PURPOSES = ("", "work", "drawing", "picture")
"""What a job can be for: nobody said, work by a machine or by hand, a drawing to scale, or a picture
of no size of its own."""

LAYING: dict[str, Callable[[Job], Any]] = {}
"""What ``layout`` works out of a job; it puts it here itself, as it knows of jobs."""

_POINT = 0.01
"""mm: as what a point is drilled as."""


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
    parts: Annotated[tuple[Part, ...], Each("part")] = ()
    placements: Annotated[tuple[Placement, ...], Each("placement")] = ()
    """Where parts lie once more; the hindmost first."""
    drop_outs: Annotated[tuple[DropOut, ...], Each("drop-out")] = ()
    bridges: Annotated[tuple[Bridge, ...], Each("bridge")] = ()
    machines: Annotated[tuple[AnyMachine, ...], Each("machine")] = ()
    """Those that were made for this job, beside the ones that ship."""
    recipes: Annotated[tuple[Recipe, ...], Each("recipe")] = ()
    """Own recipes, beside those that ship."""
    threads: Annotated[tuple[Thread, ...], Each("thread")] = ()
    """Those that are at hand to sew with; none for the list that ships."""
    orders: Annotated[tuple[Order, ...], Each("order")] = ()
    fits: Annotated[tuple[Fit, ...], Each("fit")] = ()
    letterings: Annotated[tuple[Lettering, ...], Each("lettering")] = ()
    bases: Annotated[tuple[Base, ...], Each("base")] = ()
    """What areas are raised on, sheet by sheet."""
    helpers: Annotated[tuple[ContourItem, ...], Each("helper contour")] = ()
    """Contours to draw by: locked, shown behind the others, and never sent anywhere."""
    purpose: Annotated[str, OneOf(PURPOSES)] = ""
    """What it is for; empty as long as nobody said."""
    next_id: Annotated[int, Within(1, 1_000_000_000)] = 1

    @property
    def is_worked(self) -> bool:
        """Whether a machine or a hand works what leaves; else all that is drawn leaves."""
        return self.purpose in ("", "work")

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
    def every_thread(self) -> tuple[Thread, ...]:
        """The threads that are sewn with."""
        return self.threads or THREADS

    @property
    def every_recipe(self) -> tuple[Recipe, ...]:
        """Own recipes, and those that ship."""
        return (*self.recipes, *RECIPES)

    def machine_of(self, sheet: Sheet) -> Machine:
        """The machine that a sheet is worked on: its own, else the one that goes by its material,
        else the first."""
        every = self.every_machine
        found = next((machine for machine in every if machine.id == sheet.machine), None)
        if found is None and not sheet.machine:
            found = machine_for(every, sheet.material, sheet.thickness)
        return found or every[0]

    @cached_property
    def layout(self) -> Job:
        """The job as it lies on its sheets, with all that placements lay; itself where nothing is
        placed. What is made of a job, shown or looked at is made of this."""
        found: Job = LAYING["out"](self)
        return found

    @cached_property
    def contour_by_id(self) -> dict[str, ContourItem]:
        return {item.id: item for item in self.contours}

    @cached_property
    def part_by_id(self) -> dict[str, Part]:
        return {part.id: part for part in self.parts}

    @cached_property
    def placement_by_id(self) -> dict[str, Placement]:
        return {placement.id: placement for placement in self.placements}

    @cached_property
    def numbers_in(self) -> dict[str, list[int]]:
        """Part id to where in the list its own contours stand, but for those of parts within."""
        found: dict[str, list[int]] = {}
        for number, item in enumerate(self.contours):
            if item.part:
                found.setdefault(item.part, []).append(number)
        return found

    @cached_property
    def members(self) -> dict[str, tuple[ContourItem, ...]]:
        """Part id to its contours, of those that were asked for (``layout.members_of``)."""
        return {}

    @cached_property
    def parts_in(self) -> dict[str, list[str]]:
        """Part id to the ids of the parts that belong to it."""
        found: dict[str, list[str]] = {}
        for part in self.parts:
            found.setdefault(part.within, []).append(part.id)
        return found

    @cached_property
    def times_laid(self) -> dict[str, int]:
        """Part id to how often it stands in the layout."""
        found: dict[str, int] = LAYING["times"](self)
        return found

    @cached_property
    def part_within(self) -> dict[str, str]:
        """Part id to the id of the part that it belongs to."""
        return {part.id: part.within for part in self.parts}

    @cached_property
    def picture_by_id(self) -> dict[str, Picture]:
        return {picture.id: picture for picture in self.pictures}

    @cached_property
    def cut_of(self) -> dict[str, Operation]:
        """Contour id to the operation that cuts it through."""
        return {
            contour: operation
            for operation in self.layout.operations
            if operation.through
            for contour in operation.contours
        }

    @cached_property
    def begun_by(self) -> dict[str, Operation]:
        """Contour id to the operation that can be told where to begin on it."""
        return {
            contour: operation
            for operation in self.layout.operations
            if operation.begins
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
                    if operation.through and operation.contours
                }
            )
        )

    @cached_property
    def opened(self) -> tuple[ContourItem, ...]:
        """Drawn contours that are open and not meant to be: neither as slits, nor as what is scored
        or drawn with a pen, nor in a job of which nothing is worked."""
        items = [each for each in self.contours if not each.contour.closed and not each.slit]
        if not items or not self.is_worked:
            return ()
        every = self.layout.operations
        parting = [each for each in every if each.through or each.wants == "closed"]
        faulty = {name for each in parting for name in each.contours}
        return tuple(i for i in items if i.id in faulty or i.id not in self.worked)

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

        by_id, fits = self.layout.contour_by_id, self.layout.fits
        shapes = {fit.opening: by_id[fit.opening].contour for fit in fits if fit.opening in by_id}
        grown = {
            fit.opening: offset_area([shapes[fit.opening]], fit.clearance, "sharp")
            for fit in fits
            if fit.opening in shapes
        }
        return {name: found[0] for name, found in grown.items() if len(found) == 1}

    @cached_property
    def worked(self) -> frozenset[str]:
        """Ids of all contours that have an operation, or by which one goes."""
        every, there = self.layout.operations, self.layout.contour_by_id
        others = (name for each in every for name in each.goes_by if name in there)
        return frozenset((*(name for each in every for name in each.contours), *others))

    def worked_on(self, operation: Operation, sheet: Sheet) -> list[tuple[str, Contour]]:
        """What an operation works on a sheet: contours, and as small circles the points of one that
        drills them, with their ids."""
        by_id = self.layout.contour_by_id
        items = [
            (name, by_id[name].contour)
            for name in self.laid_operation(operation).contours
            if by_id[name].sheet == sheet.id
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
        by_id = self.layout.contour_by_id
        return any(
            by_id[name].sheet == sheet.id for name in self.laid_operation(operation).contours
        ) or bool(self.drilled_points(operation, sheet))

    def laid_operation(self, operation: Operation) -> Operation:
        """An operation that works all that follows its contours as well."""
        if not self.placements:
            return operation
        for own, laid in zip(self.operations, self.layout.operations, strict=True):
            if operation is own or operation is laid:
                return laid
        return replace(self, operations=(operation,)).layout.operations[0]

    def drilled_points(self, operation: Operation, sheet: Sheet) -> list[Point]:
        """The points of a sheet that an operation drills; those on no sheet belong to the first
        one."""
        if not operation.at_points:
            return []
        return [point for point in self.layout.points if self.sheet_of_point(point) == sheet.id]

    def sheet_of_point(self, point: Point) -> str:
        """The id of the sheet that a point lies on; of one that lies on none, the first one's."""
        return self.sheet_under((point.x, point.y, point.x, point.y)) or self.sheets[0].id

    def shape_of(self, name: str) -> Contour:
        """The contour of that id, or a small circle about the point of that id."""
        found = self.layout.contour_by_id.get(name)
        if found is not None:
            return found.contour
        point = next(point for point in self.layout.points if point.id == name)
        return Contour.circle(point.x, point.y, _POINT)

    def sheet_under(self, box: tuple[float, float, float, float]) -> str:
        """The id of the sheet on which the middle of a box lies; empty where it lies on none."""
        x, y = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
        return next(
            (s.id for s in self.sheets if s.x <= x <= s.x + s.width and s.y <= y <= s.y + s.height),
            "",
        )

    @cached_property
    def sheets_that_leave(self) -> tuple[Sheet, ...]:
        """The sheets on which something is worked, or drawn where that is what the job is for."""
        if self.is_worked:
            return self.sheets_with_work
        used = {item.sheet for item in self.layout.contours}
        return tuple(sheet for sheet in self.sheets if sheet.id in used)

    @cached_property
    def sheets_with_work(self) -> tuple[Sheet, ...]:
        """The sheets on which something has an operation."""
        if not self.operations:
            return ()
        by_id = self.layout.contour_by_id
        used = {by_id[name].sheet for each in self.layout.operations for name in each.contours}
        return tuple(
            sheet
            for sheet in self.sheets
            if sheet.id in used
            or any(self.drilled_points(operation, sheet) for operation in self.operations)
        )

    def work_digest(self, sheet: Sheet) -> str:
        """Tells whether what would be handed off for a sheet has changed."""
        if sheet not in self._digests:
            self._digests[sheet] = self.layout._digest_of(sheet)
        return self._digests[sheet]

    @cached_property
    def _digests(self) -> dict[Sheet, str]:
        return {}

    def _colours_on(self, sheet: Sheet) -> list[str]:
        return [item.colour for item in self.contours if item.sheet == sheet.id]

    def _digest_of(self, sheet: Sheet) -> str:
        import hashlib  # slow to load

        place = sheet.width, sheet.height, sheet.x, sheet.y
        state = hashlib.sha256(
            repr((sheet.id, *place, sheet.origin, sheet.zero, sheet.thickness)).encode()
        )
        bridges = [(each.x, each.y, each.width, each.across, each.angle) for each in self.bridges]
        state.update(repr(bridges).encode() if bridges else b"")
        if not self.is_worked:
            drawn = [item for item in self.contours if item.sheet == sheet.id]
            state.update(repr([(item.colour, item.line) for item in drawn]).encode())
            state.update(b"".join(item.contour.as_bytes for item in drawn))
            return state.hexdigest()
        machine = self.machine_of(sheet)
        state.update(machine_told(machine).encode())
        state.update(repr((self.orders, self.fits)).encode() if self.orders or self.fits else b"")
        bases = [base for base in self.bases if base.sheet == sheet.id]
        state.update(repr((bases, self._colours_on(sheet))).encode() if bases else b"")
        for operation in self.operations:
            told = repr((operation.with_contours(()), operation.spots))
            state.update(told_before(told).encode())
            if operation.axis or operation.goes_by:
                state.update(repr([g for g in self.guides if g.id == operation.axis]).encode())
                others = map(self.contour_by_id.get, operation.goes_by)
                state.update(b"".join(item.contour.as_bytes for item in others if item))
            drilled = [(point.x, point.y) for point in self.drilled_points(operation, sheet)]
            state.update(repr(drilled).encode() if self.points else b"")
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
        return bool(left) and (
            not self.is_worked
            or left >= {each.back for each in self.operations if self.has_work(each, sheet)}
        )


def begun_job() -> Job:
    """A job as it begins in the window: its sheet's machine goes by the material until it is chosen
    or something is worked."""
    return Job(sheets=(Sheet(machine=""),))
