"""What a layer printer makes of a sheet: the bodies of what is raised and sunk there."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import shapely

from draxet.cached import cached_property
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.mesh import Mesh, box_of, piece_count, volume_of
from draxet.geometry.nesting import polygons_of
from draxet.job.colour_words import colour_word
from draxet.job.coloured_areas import outlines_with_holes
from draxet.job.machine_kinds import Machine
from draxet.job.operations import Raise, Turn
from draxet.job.product import Product
from draxet.job.records import Job
from draxet.job.sheet_records import Base, Sheet
from draxet.job.solid_base import base_of, thickness_of
from draxet.make.solids.solid_bodies import (
    Made,
    as_one,
    base_under,
    made_of,
    meshes_of,
    pieces_of,
    whole_of,
)
from draxet.make.solids.solid_levels import BASE_COLOUR, PLAIN, Raised
from draxet.make.solids.turned_sheet import turned_on, waits
from draxet.progress import Progress, Unwatched
from draxet.record import record

__all__ = ["BASE", "SolidSheet", "raised_on", "solid_sheet"]

BASE = "base"
_FINE, _SHARE = (0.01, 0.005, 0.0025, 0.0012, 6e-4, 3e-4), 6e-4
"""mm that straight pieces of a curve may be off: the first by which areas are off by no more than that
share."""


@record(frozen=True, eq=False)
class SolidSheet:
    """Bodies that count from the sheet's origin and the underside of its base, what they are made
    of, and of each area that is raised or sunk the ids of its contours. corner : where files count
    from."""

    on: Machine
    raised: tuple[Raised, ...]
    ids: tuple[tuple[str, ...], ...]
    turned: tuple[Mesh, ...]
    crossed: tuple[tuple[str, tuple[float, float]], ...]
    """Profiles that reach over their axis: their ids, and where."""
    waiting: int
    """How many operations have no axis yet."""
    made: Mapping[tuple[str, str], Made]
    thickness: float
    corner: tuple[float, float]

    product = "bodies"

    @cached_property
    def meshes(self) -> list[Mesh]:
        return [*meshes_of(self.made), *self.turned]

    @property
    def placed_meshes(self) -> list[Mesh]:
        """The same as files have them: from the base's corner or middle."""
        return [self._placed(each) for each in self.meshes]

    @property
    def placed_whole(self) -> Mesh:
        """Likewise all of them as one."""
        return self._placed(self.whole)

    def _placed(self, mesh: Mesh) -> Mesh:
        found: Mesh = replace(mesh, places=mesh.places - np.array([*self.corner, 0.0]))
        return found

    @cached_property
    def work(self) -> shapely.Geometry:
        """What is raised or sunk, in the plane."""
        return shapely.union_all([each.area for each in self.raised if each.name != BASE])

    @cached_property
    def whole(self) -> Mesh:
        """All of them as one body."""
        whole = whole_of(self.raised)
        return as_one([whole, *self.turned]) if self.turned else whole

    @cached_property
    def pieces(self) -> int:
        """How many pieces there are that nothing joins."""
        return piece_count(self.whole) if self.turned else pieces_of(self.made)

    def __len__(self) -> int:
        return len(self.raised) + len(self.turned) + len(self.crossed) + self.waiting

    @property
    def machine(self) -> Machine:
        return self.on

    @property
    def size(self) -> tuple[float, ...]:
        """Right, back and up, in mm; of no body none."""
        if not self.meshes:
            return (0.0, 0.0, 0.0)
        low, high = box_of(self.meshes)
        return tuple(b - a for a, b in zip(low, high, strict=True))

    @property
    def box(self) -> tuple[float, float, float, float]:
        if not self.meshes:
            return (0.0, 0.0, 0.0, 0.0)
        low, high = box_of(self.meshes)
        return low[0], low[1], high[0], high[1]

    @property
    def cut_mm(self) -> float:
        """Of outlines that are raised or sunk."""
        return float(sum(shapely.length(each.area) for each in self.raised if each.name != BASE))

    @property
    def travel_mm(self) -> float:
        return 0.0

    @property
    def volume(self) -> float:
        """In mm³."""
        return sum(map(volume_of, self.meshes))

    @property
    def told(self) -> str:
        if not self.meshes:
            return ""
        count = len(self.meshes)
        size = " × ".join(f"{each:.4g}" for each in self.size)
        return f"{'1 body' if count == 1 else f'{count} bodies'} · {size} mm · {self.volume / 1000:.3g} cm³"

    @property
    def seconds(self) -> float:
        machine: Any = self.on
        return self.volume / machine.flow if machine.has("flow") else 0.0


def solid_sheet(
    job: Job,
    sheet: Sheet,
    machine: Machine,
    report: Progress = Unwatched(),
    before: Product | None = None,
) -> SolidSheet:
    """The bodies of a sheet; those that did not change are as they were `before`.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    base, found = base_of(job, sheet), raised_on(job, sheet)
    raised, ids = [each for each, _ in found], [names for _, names in found]
    known = before.made if isinstance(before, SolidSheet) else None
    made = made_of(raised, report, known)
    bodies, crossed = turned_on(job, sheet, report)
    flat = [shapely.box(*_plan_of(each)) for each in bodies]
    corner = _corner(base, [*(each.area for each in raised), *flat])
    return SolidSheet(
        machine,
        tuple(raised),
        tuple(ids),
        tuple(bodies),
        tuple(crossed),
        sum(isinstance(each, Turn) and waits(job, each) for each in job.operations),
        made,
        thickness_of(base, sheet),
        corner,
    )


def _plan_of(mesh: Mesh) -> tuple[float, float, float, float]:
    low, high = box_of([mesh])
    return low[0], low[1], high[0], high[1]


def raised_on(job: Job, sheet: Sheet) -> list[tuple[Raised, tuple[str, ...]]]:
    """What is raised and sunk on a sheet, counted from its origin, the base first, then in order of
    operations; with the ids of contours."""
    base = base_of(job, sheet)
    top, fine = thickness_of(base, sheet), _fine_for(job, sheet)
    found = [
        each
        for operation in job.operations
        if isinstance(operation, Raise)
        for each in _of_operation(job, operation, sheet, top, fine)
    ]
    area = _base_area(job, base, sheet, [each.area for each, _ in found], fine) if top else None
    if area is None or shapely.is_empty(area):
        return found
    colour = base.colour or sheet.colour or BASE_COLOUR
    ids = (base.contour,) if base.shape == "contour" else ()
    return [(Raised(BASE, colour, area, 0.0, top), ids), *found]


def _of_operation(
    job: Job, operation: Raise, sheet: Sheet, top: float, fine: float
) -> list[tuple[Raised, tuple[str, ...]]]:
    """The areas of an operation: outlines with the holes of their colours."""
    some = [(name, each) for name, each in job.worked_on(operation, sheet) if each.closed]
    items = [job.layout.contour_by_id[name] for name, _ in some]
    contours = [each for _, each in some]
    shapes = _shapes(contours, sheet, fine)
    low, high = operation.levels(top)
    found = list[tuple[Raised, tuple[str, ...]]]()
    for group in outlines_with_holes(contours, [item.colour for item in items]):
        item = items[group[0]]
        name = item.layer or colour_word(item.colour) or operation.name or "area"
        outline, *holes = (shapes[k].exterior for k in group)
        area = shapely.make_valid(shapely.Polygon(outline, holes))
        raised = Raised(
            name,
            item.colour or PLAIN,
            area,
            low,
            high,
            operation.sunk,
            operation.from_below,
            operation.draft,
            operation.upper,
            operation.edge,
            fine,
        )
        found.append((raised, tuple(items[k].id for k in group)))
    return found


def _fine_for(job: Job, sheet: Sheet) -> float:
    """How far straight pieces of a curve may be off, in mm: the same for all that is raised, as edges
    that areas share are to be the same; so little that what has one colour keeps its area."""
    colours = dict[str, list[Contour]]()
    for operation in job.operations:
        if isinstance(operation, Raise):
            for name, contour in job.worked_on(operation, sheet):
                if contour.closed:
                    colour = job.layout.contour_by_id[name].colour
                    colours.setdefault(colour, []).append(contour)
    for fine in _FINE[:-1]:
        if all(_off_by(some, fine) <= _SHARE for some in colours.values()):
            return fine
    return _FINE[-1]


def _off_by(contours: Sequence[Contour], fine: float) -> float:
    """The share by which the areas of contours together are off where they are that fine."""
    exact = np.array([abs(each.area) for each in contours])
    found = shapely.area(polygons_of(contours, fine))
    return float(np.abs(found - exact).sum() / max(float(exact.sum()), 1e-300))


def _shapes(contours: Sequence[Contour], sheet: Sheet, fine: float) -> Any:
    """What closed contours bound, from the sheet's origin, as polygons."""
    x, y = sheet.origin_place
    placed = [each.transformed(Affine.moved(-x, -y)) for each in contours]
    if not placed:
        return []
    return polygons_of(placed, fine)


def _base_area(
    job: Job, base: Base, sheet: Sheet, areas: Sequence[shapely.Geometry], fine: float
) -> shapely.Geometry | None:
    x, y = sheet.origin_place
    if base.shape == "sheet":
        x0, y0, x1, y1 = sheet.box
        return shapely.box(x0 - x, y0 - y, x1 - x, y1 - y)
    if base.shape == "contour":
        item = job.layout.contour_by_id.get(base.contour)
        closed = item is not None and item.contour.closed and item.sheet == sheet.id
        return (
            shapely.make_valid(_shapes([item.contour], sheet, fine)[0]) if item and closed else None
        )
    if not areas:
        return None
    if base.shape == "outline":
        whole = shapely.union_all(areas)
        steps = math.ceil(math.pi / 4 / math.acos(1 - fine / max(base.margin, 2 * fine)))
        found: shapely.Geometry = shapely.buffer(whole, base.margin, quad_segs=steps)
        return shapely.multipolygons(
            [shapely.Polygon(p.exterior) for p in shapely.get_parts(found)]
        )
    x0, y0, x1, y1 = shapely.total_bounds(np.array(areas, dtype=object)).tolist()
    most = min(x1 - x0, y1 - y0) / 2 + base.margin
    return base_under(shapely.box(x0, y0, x1, y1), base.margin, min(base.corner, most))


def _corner(base: Base, areas: Sequence[shapely.Geometry]) -> tuple[float, float]:
    """Where files count from, from the sheet's origin: the lower left or the middle of the base, of
    all areas where there is none."""
    if not areas:
        return (0.0, 0.0)
    of = areas[:1] if base.shape != "none" else areas
    x0, y0, x1, y1 = shapely.total_bounds(np.array(of, dtype=object)).tolist()
    return ((x0 + x1) / 2, (y0 + y1) / 2) if base.origin == "middle" else (x0, y0)
