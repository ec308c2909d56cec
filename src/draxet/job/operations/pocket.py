"""Pockets: areas cleared to a depth with a round tool."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Annotated, Any, ClassVar

import numpy as np
import shapely

from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import area_of
from draxet.geometry.spans import CUBIC
from draxet.job.asked import Asked
from draxet.job.operations.engrave import hatched
from draxet.job.operations.operation_kind import Depth, Feed, Operation, StopWords, Toolpath
from draxet.job.ranges import Id, OfContour, OneOf, Size, Text, Within, Words
from draxet.record import record

__all__ = ["Pocket", "clearing", "unreached"]

_MOST_ROUNDS = 2000
_HELICES = (0.45, 0.25)
"""Radii of a helix that are tried, in diameters of the tool."""
_MOST_HELICES = 24
_FINE = 0.01
_LEFT = 0.02
"""Of the tool's diameter: what is left over and narrower than that is a ridge that a finishing pass
would leave as well."""


@record(frozen=True)
class Pocket(Operation):
    """The areas that contours bound, cleared `depth` deep by a tool of a `diameter`, in rounds (or
    lines) that are `stepover` per cent of it apart and passes no deeper than `pass_depth`; `finish`
    mm are left for a last round along the edge. enter : how the tool gets down, at a `slope`."""

    rank: ClassVar[int] = 30
    title: ClassVar[str] = "Pocket"
    acts: ClassVar[str] = "Pocket"
    wants: ClassVar[str] = "closed"
    broad_by: ClassVar[str] = "diameter"
    clears: ClassVar[bool] = True

    id: Id = "operation-0"
    name: Words = "Pocket"
    contours: tuple[OfContour, ...] = ()
    diameter: Annotated[Size, Asked("Tool diameter", "mm")] = 3.0
    stepover: Annotated[float, Within(5.0, 50.0), Asked("Stepover", " %")] = 40.0
    depth: Annotated[Depth, Asked("Depth", "mm")] = 1.5
    pass_depth: Annotated[Size, Asked("Depth a pass", "mm")] = 1.0
    way: Annotated[
        str,
        OneOf(("rounds", "lines")),
        Asked("Cleared", choices=(("rounds", "in rounds"), ("lines", "in lines"))),
    ] = "rounds"
    finish: Annotated[float, Within(0.0, 10.0), Asked("Left to finish", "mm")] = 0.0
    enter: Annotated[
        str,
        OneOf(("plunge", "ramp", "helix")),
        Asked(
            "Gets down by a", choices=(("plunge", "plunge"), ("ramp", "ramp"), ("helix", "helix"))
        ),
    ] = "ramp"
    slope: Annotated[float, Within(0.5, 60.0), Asked("As steep as", "°")] = 5.0
    feed: Annotated[Feed, Asked("Feed", "mm/min")] = 1200.0
    back: Annotated[bool, Asked("From the back, mirrored")] = False
    waits: bool = False
    recipe: Annotated[str, Text(100)] = ""
    stop: StopWords = ""

    def asks(self, setting: str, *, lowered: bool) -> bool:
        return self.enter != "plunge" or setting != "slope"

    def unreached(self, contours: Sequence[Contour]) -> Any:
        return unreached(contours, self.diameter)

    def has_room(self, contours: Sequence[Contour]) -> bool:
        away = self.diameter / 2 + (self.finish if self.way == "rounds" else 0.0)
        return bool(_inset(contours, area_of(contours), away))

    def depths_of(self, thickness: float) -> tuple[float, ...]:
        depth = min(self.depth or thickness, thickness)
        count = max(math.ceil(depth / self.pass_depth - 1e-9), 1)
        return tuple(depth * (k + 1) / count for k in range(count))

    def paths(self, items: Sequence[tuple[str, Contour]], thickness: float) -> list[Toolpath]:
        closed = [(name, contour) for name, contour in items if contour.closed]
        depths = self.depths_of(thickness)
        ids = tuple(name for name, _ in closed)
        some = [contour for _, contour in closed]
        enter = "" if self.enter == "plunge" else self.enter
        lines = (clearing if self.way == "rounds" else clearing_in_lines)(
            some, self.diameter, self.stepover / 100, self.finish
        )
        found = [
            Toolpath(line, self.diameter, depths, ids, enter=enter, slope=self.slope)
            for line in lines
        ]
        return with_helices(found, area_of(some)) if enter == "helix" else found


def clearing(
    contours: Sequence[Contour], diameter: float, stepover: float, finish: float = 0.0
) -> list[Contour]:
    """Rounds that clear the area of closed contours, innermost first, the one along the edge
    last."""
    rounds: list[list[Contour]] = []
    area, away = area_of(contours), diameter / 2 + finish
    for _ in range(_MOST_ROUNDS):
        lines = _inset(contours, area, away)
        if not lines:
            break
        rounds.append(lines)
        away += diameter * stepover
    if not rounds:
        return []
    if finish:
        rounds.insert(0, _inset(contours, area, diameter / 2))
    made = [line for lines in reversed(rounds) for line in lines]
    return [*_leftovers(area, made, diameter), *made]


def clearing_in_lines(
    contours: Sequence[Contour], diameter: float, stepover: float, finish: float = 0.0
) -> list[Contour]:
    """Straight lines there and back that clear the area of closed contours, joined at their ends
    where the tool has room, and a round along the edge last."""
    area = area_of(contours)
    inner = area.buffer(-diameter / 2 - finish)
    room = inner.buffer(_FINE)
    shapely.prepare(room)
    runs: list[list[Points]] = []
    for part in shapely.get_parts(inner):
        for line in hatched(part, diameter * stepover, 0.0, both_ways=True):
            if runs and room.covers(shapely.LineString([runs[-1][-1][1], line[0]])):
                runs[-1].append(line)
            else:
                runs.append([line])
    made = [Contour.make(np.vstack(run), closed=False) for run in runs]
    edges = _inset(contours, area, diameter / 2)
    return [*_leftovers(area, [*made, *edges], diameter), *made, *edges]


def with_helices(paths: Sequence[Toolpath], area: Any) -> list[Toolpath]:
    """Closed lines begun where there is room beside them for a circle of the tool's middle, with
    that circle's middle."""
    found = list[Toolpath]()
    room = area.buffer(-paths[0].width / 2 + _FINE) if paths else area
    shapely.prepare(room)
    for path in paths:
        found.append(
            next(
                (
                    made
                    for radius in _HELICES
                    if (made := _with_helix(path, room, radius * path.width)) is not None
                ),
                path,
            )
        )
    return found


def _with_helix(path: Toolpath, room: Any, radius: float) -> Toolpath | None:
    line = path.line
    if not line.closed:
        return None
    count = len(line.kinds)
    which = np.arange(0, count, max(count // _MOST_HELICES, 1))
    places = line.spans.at(which, np.full(len(which), 0.5))
    ahead = line.spans.at(which, np.full(len(which), 0.51)) - places
    aside = (
        np.column_stack([-ahead[:, 1], ahead[:, 0]])
        / np.maximum(np.hypot(*ahead.T), 1e-12)[:, None]
    )
    middles = np.concatenate([places + radius * aside, places - radius * aside])
    fits = np.flatnonzero(
        shapely.contains(room, shapely.buffer(shapely.points(middles), radius, quad_segs=4))
    )
    if not len(fits):
        return None
    (x, y), (cx, cy) = places[fits[0] % len(places)].tolist(), middles[fits[0]].tolist()
    return replace(path, begin=(x, y), helix=(cx, cy))


def _inset(contours: Sequence[Contour], area: Any, away: float) -> list[Contour]:
    """The lines at a distance inside the edge of an area; of curves in straight steps within 0.01
    mm."""
    from draxet.geometry.offset import offset_area  # not needed to show a window

    if not any((contour.kinds == CUBIC).any() for contour in contours):
        return offset_area(contours, -away, "sharp")
    inner = shapely.buffer(  # part by part: they shrink away from each other
        shapely.get_parts(area), -away, join_style="mitre", mitre_limit=4.0
    )
    rings: Any = shapely.get_rings(shapely.get_parts(shapely.simplify(inner, _FINE / 2)))
    places, of = shapely.get_coordinates(rings, return_index=True)
    ends = np.searchsorted(of, np.arange(len(rings) + 1)).tolist()
    return [Contour.make(places[a : b - 1]) for a, b in zip(ends[:-1], ends[1:], strict=True)]


def _leftovers(area: Any, made: Sequence[Contour], diameter: float) -> list[Contour]:
    """Short lines over what rounds leave between each other, where a tool can get to."""
    parts = shapely.get_parts(area)
    room = shapely.buffer(parts, -diameter / 2)
    reach = shapely.buffer(room, diameter / 2, quad_segs=16)
    left = shapely.get_parts(shapely.difference(reach, _cleared(parts, made, diameter)))
    left = left[shapely.area(left) > (_LEFT * diameter) ** 2]
    rooms = shapely.get_parts(room)
    about = shapely.buffer(left, _LEFT * diameter)
    near, part = shapely.STRtree(rooms).query(about)
    found = []
    for piece in shapely.get_parts(shapely.intersection(rooms[part], about[near])):
        if not piece.is_empty and piece.geom_type == "Polygon":
            found.append(Contour.make(_longest(piece), closed=False))
    return found


def _cleared(parts: Any, made: Sequence[Contour], diameter: float) -> Any:
    """What lines clear of each part, as an array of areas."""
    swept = shapely.buffer(_drawn(made), diameter / 2, quad_segs=16)
    of, line = shapely.STRtree(swept).query(parts)
    ends = np.searchsorted(of, np.arange(len(parts) + 1)).tolist()
    found = np.empty(len(parts), dtype=object)
    for k, (first, last) in enumerate(zip(ends[:-1], ends[1:], strict=True)):
        found[k] = shapely.union_all(swept[line[first:last]])
    return found


def _longest(shape: Any) -> Points:
    """The two places of a shape's rim that lie farthest from each other."""
    places = np.asarray(shapely.get_coordinates(shape.convex_hull))
    apart = np.hypot(*(places[:, None] - places[None]).transpose(2, 0, 1))
    a, b = np.unravel_index(int(apart.argmax()), apart.shape)
    ends: Points = (
        places[[a, b]] if apart[a, b] > 1e-6 else np.vstack([places[:1], places[:1] + 1e-3])
    )
    return ends


def _drawn(lines: Sequence[Contour]) -> Any:
    """Lines in straight steps within 0.01 mm, as an array of them."""
    runs = [
        np.vstack([points, points[:1]]) if line.closed else points
        for line in lines
        for points in (line.flattened(0.01),)
    ]
    if not runs:
        return np.zeros(0, dtype=object)
    of = np.repeat(np.arange(len(runs)), [len(run) for run in runs])
    return np.atleast_1d(np.asarray(shapely.linestrings(np.vstack(runs), indices=of)))


def unreached(contours: Sequence[Contour], diameter: float) -> Any:
    """What of an area a tool of a diameter cannot get to."""
    area = area_of(contours)
    return area.difference(
        area.buffer(-diameter / 2, quad_segs=32).buffer(diameter / 2, quad_segs=32)
    )
