"""Engraving areas: hatched by lines at a spacing."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, Any, ClassVar

import numpy as np
import scipy
import shapely

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import area_of
from draxet.job.asked import Asked
from draxet.job.operations.operation_kind import Depth, Feed, Operation, Power, StopWords, Toolpath
from draxet.job.ranges import Id, OfContour, OneOf, Size, Text, Within, Words
from draxet.record import record

__all__ = ["Engrave", "hatched"]

_FINE = 0.01
_NEAR = 4.0
"""mm: areas nearer to each other than that, and twice the overrun, are hatched as one."""
_MOST_LINES = 200_000


@record(frozen=True)
class Engrave(Operation):
    """The areas that contours bound, every second of nested ones left out, engraved in lines
    `spacing` apart: in straight ones at an `angle`, `both_ways` or always the same way, each begun
    and ended `overrun` mm outside, without power; or in rounds along the outline."""

    rank: ClassVar[int] = 10
    title: ClassVar[str] = "Engrave"
    acts: ClassVar[str] = "Engrave"
    wants: ClassVar[str] = "closed"
    broad_by: ClassVar[str] = "spacing"
    runs_up: ClassVar[bool] = True

    id: Id = "operation-0"
    name: Words = "Engrave"
    contours: tuple[OfContour, ...] = ()
    way: Annotated[
        str,
        OneOf(("lines", "rounds")),
        Asked("Engraved", choices=(("lines", "in lines"), ("rounds", "along the outline"))),
    ] = "lines"
    spacing: Annotated[Size, Asked("Lines apart", "mm")] = 0.2
    angle: Annotated[float, Within(-360.0, 360.0), Asked("At an angle", "°")] = 0.0
    both_ways: Annotated[bool, Asked("There and back")] = True
    overrun: Annotated[float, Within(0.0, 100.0), Asked("Overrun", "mm")] = 1.0
    depth: Annotated[Depth, Asked("Depth", "mm")] = 0.2
    feed: Annotated[Feed, Asked("Feed", "mm/min")] = 6000.0
    power: Annotated[Power, Asked("Power", " %")] = 30.0
    air: Annotated[bool, Asked("With air")] = False
    back: Annotated[bool, Asked("From the back, mirrored")] = False
    waits: bool = False
    recipe: Annotated[str, Text(100)] = ""
    stop: StopWords = ""

    def asks(self, setting: str, *, lowered: bool) -> bool:
        return self.way == "lines" or setting not in ("angle", "both_ways", "overrun")

    def paths(self, items: Sequence[tuple[str, Contour]], thickness: float) -> list[Toolpath]:
        closed = [(name, contour) for name, contour in items if contour.closed]
        area = area_of([contour for _, contour in closed])
        ids = tuple(name for name, _ in closed)
        if self.way == "rounds":
            return [
                Toolpath(line, self.spacing, (self.depth,), ids)
                for line in _rounds(area, self.spacing)
            ]
        fields = _fields(area, _NEAR + 2 * self.overrun)
        batches = [
            hatched(field, self.spacing, self.angle, both_ways=self.both_ways) for field in fields
        ]
        return [
            Toolpath(
                Contour.make(line, closed=False),
                self.spacing,
                (self.depth,),
                ids,
                overrun=self.overrun,
                batch=number,
            )
            for number, lines in enumerate(batches, 1)
            for line in lines
        ]


def _fields(area: Any, near: float) -> list[Any]:
    """An area parted into fields that are farther from each other than that: each is hatched by
    itself, and nobody travels between them line by line."""
    parts = shapely.get_parts(area)
    if len(parts) < 2:
        return [area]
    tree = shapely.STRtree(parts)
    first, second = tree.query(parts, predicate="dwithin", distance=near)
    graph = scipy.sparse.coo_matrix(
        (np.ones(len(first)), (first, second)), shape=(len(parts), len(parts))
    )
    count, number = scipy.sparse.csgraph.connected_components(graph, directed=False)
    return [shapely.multipolygons(parts[number == k]) for k in range(count)]


def _rounds(area: Any, spacing: float) -> list[Contour]:
    """Closed lines along the edge of an area, the outermost first, half of their distance inside
    it.

    Raises
    ------
    ValueError : where they would be too many.
    """
    found, inner = list[Contour](), area.buffer(-spacing / 2)
    while not inner.is_empty:
        rings = [
            ring
            for part in shapely.get_parts(inner.simplify(_FINE / 4))
            for ring in (part.exterior, *part.interiors)
        ]
        found += [Contour.make(np.asarray(ring.coords)[:-1]) for ring in rings]
        if len(found) > _MOST_LINES:
            raise ValueError(
                f"rounds {spacing:g} mm apart would be more than {_MOST_LINES:,}; choose a greater distance"
            )
        inner = inner.buffer(-spacing)
    return found


def hatched(area: Any, spacing: float, angle: float, *, both_ways: bool) -> list[Points]:
    """Straight lines (2, 2) over an area, `spacing` mm apart, in order; every second one led back
    where they go both ways.

    Raises
    ------
    ValueError : where they would be too many.
    """
    if area.is_empty:
        return []
    turn = Affine.turned(-angle)
    level: Any = shapely.transform(area, turn.apply)
    x0, y0, x1, y1 = level.bounds
    count = max(int(math.floor((y1 - y0) / spacing)), 1)
    if count > _MOST_LINES:
        raise ValueError(
            f"lines {spacing:g} mm apart would be {count:,}, more than {_MOST_LINES:,}; choose a greater distance"
        )
    heights = y0 + (np.arange(count) + 0.5) * (y1 - y0) / count
    rows: Any = shapely.linestrings(
        np.stack(
            [
                np.column_stack([np.full(count, x0 - 1), heights]),
                np.column_stack([np.full(count, x1 + 1), heights]),
            ],
            axis=1,
        )
    )
    parts = shapely.get_parts(level)
    row, part = shapely.STRtree(parts).query(rows)
    pieces, of = shapely.get_parts(shapely.intersection(rows[row], parts[part]), return_index=True)
    real = (shapely.get_type_id(pieces) == 1) & (shapely.length(pieces) > 1e-6)
    pieces, of = pieces[real], row[of[real]]
    lines = np.stack(
        [
            shapely.get_coordinates(shapely.get_point(pieces, 0)),
            shapely.get_coordinates(shapely.get_point(pieces, -1)),
        ],
        axis=1,
    ).reshape(-1, 2, 2)
    lines = np.where((lines[:, 0, 0] > lines[:, 1, 0])[:, None, None], lines[:, ::-1], lines)
    back_way = (of % 2 == 1) & both_ways
    lines = np.where(back_way[:, None, None], lines[:, ::-1], lines)
    order = np.lexsort((np.where(back_way, -lines[:, 0, 0], lines[:, 0, 0]), of))
    back = turn.inverse()
    found = [back.apply(line) for line in lines[order]]
    return found
