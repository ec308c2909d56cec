"""Cutting through: contours are cut right through, on one side of them or on the line."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Annotated, ClassVar

import numpy as np

from draxet.geometry.arc_length import ArcLength
from draxet.geometry.arrays import Bools, Floats, crosses, norms
from draxet.geometry.contour import Contour
from draxet.geometry.pieces import position_near
from draxet.job.asked import Asked
from draxet.job.cut_middles import middles_of
from draxet.job.operations.operation_kind import (
    Feed,
    Operation,
    Power,
    Side,
    Spot,
    StopWords,
    Toolpath,
)
from draxet.job.ranges import Each, Id, OfContour, OneOf, Size, Text, Within, Words
from draxet.record import record

__all__ = ["CutThrough", "even_tabs", "with_tabs"]

_FINE = 0.01
_HAIR = 1e-3
_LOOKED_AT = 720
"""Places along a line that are thought of for tabs."""
_WIDE = 3.0
"""Gaps of a tab: a run bent to no less than that radius is as good as a straight one."""


@record(frozen=True)
class CutThrough(Operation):
    """Contours cut right through, the cut `width` wide and lying on one `side` of them, in so many
    `passes`, or as many as `pass_depth` mm each want; `feed` in mm/min. tabs : how many hold each
    closed contour, `tab` mm of it left after the cut. lead : how far outside the part a closed cut
    begins and ends, by a way of that shape. direction : ``climb``, with the part on the right of
    the way, or ``against``. tab_height : what a tab leaves of the thickness, 0 for all of it.
    small : openings that are no wider than that are cut `slower`, at `small_feed` per cent of the
    feed, or only ``marked`` at their middle; 0 for none. spots : where cuts begin and tabs hold,
    where that was said."""

    rank: ClassVar[int] = 50
    title: ClassVar[str] = "Cut through"
    acts: ClassVar[str] = "Cut"
    through: ClassVar[bool] = True
    as_broad_as_machine: ClassVar[bool] = True
    begins: ClassVar[bool] = True

    id: Id = "operation-0"
    name: Words = "Cut through"
    contours: tuple[OfContour, ...] = ()
    side: Side = Side.ON
    width: Annotated[Size, Asked("Cut width", "mm")] = 1.5
    feed: Annotated[Feed, Asked("Feed", "mm/min")] = 2400.0
    power: Annotated[Power, Asked("Power", " %")] = 100.0
    passes: Annotated[int, Within(1, 100), Asked("Passes")] = 1
    pass_depth: Annotated[
        float,
        Within(0.0, 1000.0),
        Asked("Depth a pass", "mm", tip="0 goes by the number of passes", zero="by passes"),
    ] = 0.0
    pierce: Annotated[
        float,
        Within(0.0, 60.0),
        Asked("Pierce", " s", tip="0 is as the machine has it", zero="as the machine"),
    ] = 0.0
    air: Annotated[bool, Asked("With air")] = False
    tabs: Annotated[int, Within(0, 100), Asked("Tabs on each")] = 0
    tab: Annotated[Size, Asked("Tab width", "mm")] = 3.0
    tab_height: Annotated[
        float,
        Within(0.0, 1000.0),
        Asked("Tab height", "mm", tip="0 leaves all of the thickness", zero="full"),
    ] = 0.0
    lead: Annotated[float, Within(0.0, 100.0), Asked("Lead-in, lead-out", "mm", zero="none")] = 0.0
    lead_shape: Annotated[
        str,
        OneOf(("straight", "arc")),
        Asked("Leads", choices=(("straight", "straight"), ("arc", "arc"))),
    ] = "straight"
    overrun: Annotated[float, Within(0.0, 100.0), Asked("Overrun", "mm", zero="none")] = 0.0
    direction: Annotated[
        str,
        OneOf(("any", "climb", "against")),
        Asked("Direction", choices=(("any", "any"), ("climb", "climb"), ("against", "against"))),
    ] = "any"
    small: Annotated[
        float,
        Within(0.0, 1000.0),
        Asked("Small holes up to", "mm", tip="Openings that are no wider; 0 for none", zero="none"),
    ] = 0.0
    small_holes: Annotated[
        str,
        OneOf(("slower", "marked")),
        Asked("Small holes are", choices=(("slower", "cut slower"), ("marked", "only marked"))),
    ] = "slower"
    small_feed: Annotated[float, Within(1.0, 100.0), Asked("Their feed", " %")] = 60.0
    spots: Annotated[tuple[Spot, ...], Each("spot")] = ()
    back: Annotated[bool, Asked("From the back, mirrored")] = False
    waits: bool = False
    recipe: Annotated[str, Text(100)] = ""
    stop: StopWords = ""

    def paths(self, items: Sequence[tuple[str, Contour]], thickness: float) -> list[Toolpath]:
        return [
            path
            for name, contour in items
            for path in self.along(contour, self.side, (name,), thickness)
        ]

    def asks(self, setting: str, *, lowered: bool) -> bool:
        without = {
            "tab": self.tabs or self.spots,
            "tab_height": self.tabs or self.spots,
            "lead_shape": self.lead,
            "small_holes": self.small,
            "small_feed": self.small and self.small_holes == "slower",
            "passes": not self.pass_depth or not lowered,
        }
        return bool(without.get(setting, True))

    def along(
        self,
        contour: Contour,
        side: Side,
        ids: tuple[str, ...],
        thickness: float,
        middles: Sequence[Contour] | None = None,
    ) -> list[Toolpath]:
        """The lines that cut a contour on a side, its tabs left out; `middles` where they are known
        already."""
        small = (
            side is Side.INSIDE
            and contour.closed
            and min(contour.box[2] - contour.box[0], contour.box[3] - contour.box[1]) <= self.small
        )
        if small and self.small_holes == "marked":
            return [_mark(contour, self.width, ids)]
        spots = [spot for spot in self.spots if spot.contour in ids]
        begin = next((_place(contour, spot) for spot in spots if spot.what == "start"), None)
        path = Toolpath(
            contour,
            self.width,
            self.depths_of(thickness),
            ids,
            self.lead,
            self.lead_shape,
            0,
            self.overrun,
            feed=self.feed * self.small_feed / 100 if small else 0.0,
            begin=begin,
        )
        found = []
        for middle in middles_of(contour, side, self.width) if middles is None else middles:
            line = _turned(middle, side, self.direction)
            path = replace(path, line=line, waste=_waste(line, side))
            held = self.tabs_on(contour, line, ids)
            under = thickness - self.tab_height if self.tab_height else 0.0
            found += _parted_by_tabs(path, held, self.tab + self.width, under) if held else [path]
        return found

    def depths_of(self, thickness: float) -> tuple[float, ...]:
        """How deep each pass goes, in mm."""
        count = (
            max(math.ceil(thickness / self.pass_depth - 1e-9), 1)
            if self.pass_depth
            else self.passes
        )
        return tuple(thickness * (k + 1) / count for k in range(count))

    def tabs_on(self, contour: Contour, line: Contour, ids: Sequence[str]) -> list[float]:
        """How far along a line that cuts a contour its tabs are, in mm: where they were put, else
        evenly along it and clear of corners."""
        if not line.closed:
            return []
        put = [
            _place(contour, spot)
            for spot in self.spots
            if spot.what == "tab" and spot.contour in ids
        ]
        if not put:
            return even_tabs(line, self.tabs, self.tab, self.width, contour)
        measured = ArcLength(line)
        return [measured.length_at(position_near(line, *place)) for place in put]


def _waste(line: Contour, side: Side) -> int:
    """On which side of a closed line what is not the part lies: 1 for the left, -1 for the right, 0
    where it is not known."""
    return (
        0
        if side is Side.ON or not line.closed
        else 1
        if (side is Side.INSIDE) == (line.area > 0)
        else -1
    )


def _turned(line: Contour, side: Side, direction: str) -> Contour:
    """A closed line run so that the part lies on its right (``climb``) or on its left
    (``against``)."""
    waste = _waste(line, side)
    return (
        line.reversed()
        if waste and direction != "any" and (waste == 1) != (direction == "climb")
        else line
    )


def _place(contour: Contour, spot: Spot) -> tuple[float, float]:
    measured = ArcLength(contour)
    x, y = measured.place(spot.share * measured.length).tolist()
    return float(x), float(y)


def _mark(contour: Contour, width: float, ids: tuple[str, ...]) -> Toolpath:
    """A dot at the middle of an opening."""
    x0, y0, x1, y1 = contour.box
    x, y = float(x0 + x1) / 2, float(y0 + y1) / 2
    return Toolpath(Contour.make([(x, y), (x + _HAIR, y)], closed=False), width, (0.0,), ids)


def even_tabs(
    line: Contour, count: int, tab: float, width: float, contour: Contour | None = None
) -> list[float]:
    """How far along a closed line so many tabs are, evenly along it; a line too short for them has
    none.

    Parameters
    ----------
    tab, width : what is left of a tab, and how broad the cut is, in mm. contour : what the line
    cuts, whose corners they are clear of, by the tab's width and
        the tool's radius, on straight or wide runs, as far as there is room for that.
    """
    wide = tab + width
    if not count:
        return []
    measured = ArcLength(line)
    if measured.length < 2 * count * wide:
        return []
    along = measured.length * np.arange(_LOOKED_AT) / _LOOKED_AT
    clear = wide / 2 + tab + width / 2
    room = _clear_of_corners(measured, contour or line, along)
    tight = _radii(measured, along, wide / 8) < _WIDE * wide
    straight = _from_these(along, along[tight], measured.length)
    for good in (
        (room >= clear) & (straight >= clear),
        (room >= clear) & (straight >= wide / 2),
        room >= clear,
        room >= wide / 2,
    ):
        if (found := _evenly(good, room, count, wide * _LOOKED_AT / measured.length)) is not None:
            return sorted(float(along[k]) for k in found)
    return [measured.length * (k + 0.5) / count for k in range(count)]


def _clear_of_corners(measured: ArcLength, contour: Contour, along: Floats) -> Floats:
    """How far each place (n,) along a line is from the next corner of a contour that it runs
    beside, along it in mm."""
    corners = contour.nodes[contour.corners()]
    return _from_these(
        along,
        np.array(
            [measured.length_at(position_near(measured.contour, x, y)) for x, y in corners.tolist()]
        ),
        measured.length,
    )


def _from_these(along: Floats, some: Floats, length: float) -> Floats:
    """How far places (n,) along a closed line are from the nearest of some others, along it."""
    if not len(some):
        return np.full(len(along), length)
    away = np.abs(along[:, None] - some) % length
    found: Floats = np.minimum(away, length - away).min(axis=1)
    return found


def _radii(measured: ArcLength, along: Floats, reach: float) -> Floats:
    """The radius of the circle through each place (n,) and those so far before and after it;
    infinite where that is straight."""
    places = [measured.places(along + off) for off in (-reach, 0.0, reach)]
    a, b, c = (
        norms(places[1] - places[0]),
        norms(places[2] - places[1]),
        norms(places[2] - places[0]),
    )
    double = np.abs(crosses(places[1] - places[0], places[2] - places[0]))
    with np.errstate(divide="ignore"):
        found: Floats = np.where(
            double > 1e-6 * np.maximum(a * b, 1e-12), a * b * c / (2 * double), np.inf
        )
    return found


def _evenly(good: Bools, room: Floats, count: int, least: float) -> list[int] | None:
    """The places, of those that are good, that come nearest to even ones, no two nearer than
    `least`; None where there are none."""
    some, size = np.flatnonzero(good), len(good)
    if not len(some):
        return None
    around = np.concatenate([some - size, some, some + size])
    nearest = (
        around[np.abs(np.arange(size)[:, None] - around).argmin(axis=1)]
        if size * len(around) < 4_000_000
        else around[np.searchsorted(around, np.arange(size))]
    )
    off = np.abs(nearest - np.arange(size))
    first = np.arange(max(size // count, 1))
    wanted = (first[:, None] + np.round(np.arange(count) * size / count).astype(np.int64)) % size
    cost = (off[wanted] ** 2).sum(axis=1) - 1e-3 * np.minimum(
        room[nearest[wanted] % size].min(axis=1), size
    )
    for k in np.argsort(cost, kind="stable").tolist():
        places = np.unique(nearest[wanted[k]] % size)
        gaps = np.diff(np.append(places, places[0] + size))
        if len(places) == count and gaps.min() >= least:
            return [int(each) for each in places]
    return None


def _parted_by_tabs(
    path: Toolpath, tabs: Sequence[float], wide: float, over: float
) -> list[Toolpath]:
    """A closed line of which tabs are left out; where they are lower than the thickness it first
    runs round whole, down to `over`, where they begin."""
    parts = [
        replace(path, line=line, begin=None, whole=path.line)
        for line in with_tabs(path.line, tabs, wide)
    ]
    if not 0 < over < path.depths[-1]:
        return parts
    whole = replace(path, depths=(*(depth for depth in path.depths if depth < over - 1e-9), over))
    return [
        whole,
        *(
            replace(part, depths=tuple(depth for depth in path.depths if depth > over), step=1)
            for part in parts
        ),
    ]


def with_tabs(line: Contour, tabs: Sequence[float], wide: float) -> list[Contour]:
    """What is left of a closed line with tabs of a width, given how far along it they are."""
    measured = ArcLength(line)
    left, bounds = list[Contour](), sorted(tabs)
    for k, at in enumerate(bounds):
        start, stop = at + wide / 2, bounds[(k + 1) % len(bounds)] - wide / 2
        if k == len(bounds) - 1:
            stop += measured.length
        part = measured.without(start, stop)[0] if stop > start else None
        if part is not None:
            left.append(part)
    return left
