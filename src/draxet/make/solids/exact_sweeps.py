"""Profiles turned and led along as exact solids: a profile at one station after the other, with a step
from each to the next."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

import numpy as np

from draxet.geometry.arrays import Floats, Points
from draxet.geometry.contour import Contour
from draxet.geometry.exact_solids import (
    Cone,
    Curve,
    Cylinder,
    Edge,
    ExactSolid,
    Face,
    Free,
    Loop,
    Plane,
    Round,
    Sphere,
    Straight,
    Surface,
    Torus,
)
from draxet.geometry.rational import free_span, led_round, led_straight
from draxet.geometry.spans import ARC, LINE
from draxet.record import record

__all__ = ["Station", "Step", "swept"]

_UP = np.array([0.0, 0.0, 1.0])
_LEVEL = 1e-7
"""mm: what rises or widens by less does not."""


@record(frozen=True, eq=False)
class Station:
    """Where a profile stands: its foot, and which way its x goes, for each mm so far; y is up."""

    foot: Floats
    right: Floats

    def at(self, places: Points) -> Floats:
        """Places (n, 2) of the profile, (n, 3)."""
        found: Floats = self.foot + places[:, :1] * self.right + places[:, 1:] * _UP
        return found

    def way(self, flat: Points) -> Floats:
        found: Floats = flat[0] * self.right + flat[1] * _UP
        return found

    @property
    def plain(self) -> bool:
        """Whether the profile keeps its shape there."""
        return abs(float(self.right @ self.right) - 1.0) < 1e-9


@record(frozen=True, eq=False)
class Step:
    """To the next station: ``straight`` along a path, as a ``chord`` of a turn, or ``round`` an upright
    axis through `centre` by so many radians."""

    how: Literal["straight", "chord", "round"]
    centre: Points
    sweep: float = 0.0


class _Making:
    """Vertices and edges, made as they are asked for."""

    def __init__(
        self, rings: Sequence[Contour], stations: Sequence[Station], *, turned: bool, closed: bool
    ) -> None:
        self.rings, self.stations, self.closed = rings, stations, closed
        self.spans = [ring.spans for ring in rings]
        self.free = [[free_span(of, k) for k in range(len(of))] for of in self.spans]
        self.on_axis = [turned & (np.abs(ring.nodes[:, 0]) < _LEVEL) for ring in rings]
        self.vertices, self.edges = list[Floats](), list[Edge]()
        self._numbers = dict[tuple[object, ...], int]()

    def following(self, ring: int, node: int) -> int:
        return (node + 1) % len(self.rings[ring].nodes)

    def station(self, number: int) -> int:
        return number % len(self.stations) if self.closed else number

    def on_the_axis(self, ring: int, span: int) -> bool:
        """Whether a span lies on the axis, where it makes no face."""
        ends = self.on_axis[ring][[span, self.following(ring, span)]]
        return bool(ends.all()) and int(self.spans[ring].kinds[span]) == LINE

    def vertex(self, ring: int, node: int, at: int) -> int:
        at = 0 if self.on_axis[ring][node] else self.station(at)
        key = ("vertex", ring, node, at)
        if key not in self._numbers:
            self._numbers[key] = len(self.vertices)
            place = self.stations[at].at(self.rings[ring].nodes[node : node + 1])[0]
            self.vertices.append(place)
        return self._numbers[key]

    def profile(self, ring: int, span: int, at: int) -> int:
        """The edge of a span at a station."""
        at = 0 if self.on_the_axis(ring, span) else self.station(at)
        key = ("profile", ring, span, at)
        if key not in self._numbers:
            begin = self.vertex(ring, span, at)
            end = self.vertex(ring, self.following(ring, span), at)
            self._numbers[key] = len(self.edges)
            self.edges.append(Edge(self._profile_curve(ring, span, at), begin, end))
        return self._numbers[key]

    def _profile_curve(self, ring: int, span: int, at: int) -> Curve:
        spans, station = self.spans[ring], self.stations[at]
        kind = int(spans.kinds[span])
        if kind == LINE:
            return Straight()
        if kind == ARC and station.plain:
            centre, radius = circle_of(self.rings[ring], span)
            x = (spans.starts[span] - centre) / radius
            left = np.array([-x[1], x[0]])
            y = left if spans.bulges[span] > 0 else -left
            middle = station.at(centre[None])[0]
            return Round(middle, station.way(x), station.way(y), radius)
        free = self.free[ring][span]
        return Free(station.at(free.poles), free.weights, free.degree, free.knots)

    def way(self, ring: int, node: int, at: int, step: Step) -> int | None:
        """The edge along which a node goes in a step; None of one on the axis."""
        if self.on_axis[ring][node]:
            return None
        key = ("way", ring, node, at)
        if key not in self._numbers:
            begin, end = self.vertex(ring, node, at), self.vertex(ring, node, at + 1)
            self._numbers[key] = len(self.edges)
            self.edges.append(Edge(self._way_curve(self.vertices[begin], step), begin, end))
        return self._numbers[key]

    @staticmethod
    def _way_curve(begin: Floats, step: Step) -> Curve:
        if step.how != "round":
            return Straight()
        centre = np.append(step.centre, begin[2])
        radius = float(np.hypot(*(begin - centre)[:2]))
        x = (begin - centre) / radius
        return Round(centre, x, math.copysign(1.0, step.sweep) * np.cross(_UP, x), radius)


def circle_of(ring: Contour, span: int) -> tuple[Points, float]:
    """Centre and radius of a span that is an arc."""
    shape = ring.spans.take(slice(span, span + 1)).arc_shapes()
    return shape.centres[0], float(shape.radii[0])


def swept(
    rings: Sequence[Contour],
    stations: Sequence[Station],
    steps: Sequence[Step],
    name: str,
    colour: str,
    *,
    turned: bool = False,
) -> ExactSolid:
    """The solid of an outline (anticlockwise) and its openings (clockwise) on its way through
    stations; it is closed round where there are as many steps. turned : whether x counts from the axis
    of every step."""
    closed = len(steps) == len(stations)
    making = _Making(rings, stations, turned=turned, closed=closed)
    shells = [
        tuple(
            face
            for at, step in enumerate(steps)
            for span in range(len(ring.kinds))
            if not making.on_the_axis(number, span)
            for face in (_side(making, number, span, at, step),)
        )
        for number, ring in enumerate(rings)
    ]
    if not closed:
        every = [face for shell in shells for face in shell]
        shells = [(*every, *_caps(making, steps))]
    return ExactSolid(name, colour, np.array(making.vertices), tuple(making.edges), tuple(shells))


def _side(making: _Making, ring: int, span: int, at: int, step: Step) -> Face:
    onward = making.following(ring, span)
    first, last = making.way(ring, span, at, step), making.way(ring, onward, at, step)
    loop: list[tuple[int, bool]] = []
    if first is not None:
        loop.append((first, True))
    loop.append((making.profile(ring, span, at + 1), True))
    if last is not None:
        loop.append((last, False))
    loop.append((making.profile(ring, span, at), False))
    surface, outward = _surface(making, ring, span, at, step)
    return Face(surface, (tuple(loop),), outward)


def _surface(making: _Making, ring: int, span: int, at: int, step: Step) -> tuple[Surface, bool]:
    """What a span goes over in a step, and whether its normal leads outwards."""
    station, kind = making.stations[at], int(making.spans[ring].kinds[span])
    if step.how == "round":
        return _round_surface(making, ring, span, at, step)
    there = making.stations[making.station(at + 1)]
    if kind == LINE:
        here = station.at(making.rings[ring].nodes[[span, making.following(ring, span)]])
        onward = there.at(making.rings[ring].nodes[[span, making.following(ring, span)]])
        way = (onward - here).sum(axis=0)
        normal = -np.cross(here[1] - here[0], way)
        return Plane(here[0], normal / np.linalg.norm(normal)), True
    if kind == ARC and step.how == "straight":
        way = there.foot - station.foot
        way = way / np.linalg.norm(way)
        right = np.cross(way, _UP)
        centre, radius = circle_of(making.rings[ring], span)
        middle = Station(station.foot, right).at(centre[None])[0]
        return Cylinder(middle, way, right, radius), bool(making.spans[ring].bulges[span] > 0)
    free = making.free[ring][span]
    return led_straight(free, station.at(free.poles), there.at(free.poles)), False


def _round_surface(
    making: _Making, ring: int, span: int, at: int, step: Step
) -> tuple[Surface, bool]:
    station, spans = making.stations[at], making.spans[ring]
    kind, free = int(spans.kinds[span]), making.free[ring][span]
    axis = np.append(step.centre, station.foot[2])
    spoke = station.foot - axis
    far = float(np.linalg.norm(spoke))
    away = station.right if far < _LEVEL else spoke / far
    sign = math.copysign(1.0, float(away @ station.right))
    if kind == LINE:
        return _of_line(spans.starts[span], spans.ends[span], far, sign, axis, away)
    if kind == ARC:
        centre, radius = circle_of(making.rings[ring], span)
        off = far + sign * float(centre[0])
        middle = axis + centre[1] * _UP
        outward = bool(spans.bulges[span] > 0)
        if abs(off) < _LEVEL:
            return Sphere(middle, _UP, away, radius), outward
        if off > radius + _LEVEL:
            return Torus(middle, _UP, away, off, radius), outward
    return led_round(free, station.at(free.poles), step.centre, step.sweep), False


def _of_line(
    start: Points, end: Points, far: float, sign: float, axis: Floats, away: Floats
) -> tuple[Surface, bool]:
    (x0, y0), (x1, y1) = start.tolist(), end.tolist()
    one, other = far + sign * x0, far + sign * x1
    if abs(y1 - y0) < _LEVEL:
        return Plane(axis + y0 * _UP, _UP if sign * (other - one) < 0 else -_UP), True
    outward = sign * (y1 - y0) > 0
    if abs(other - one) < _LEVEL:
        return Cylinder(axis + y0 * _UP, _UP, away, one), outward
    least, foot = min((one, y0), (other, y1))
    upwards = (other > one) == (y1 > y0)
    angle = math.atan2(abs(other - one), abs(y1 - y0))
    return (
        Cone(axis + foot * _UP, _UP if upwards else -_UP, away, max(least, 0.0), angle),
        outward,
    )


def _caps(making: _Making, steps: Sequence[Step]) -> list[Face]:
    """The profile itself at both ends."""
    found = []
    for at, along in ((0, True), (len(making.stations) - 1, False)):
        loops = list[Loop]()
        for number, ring in enumerate(making.rings):
            edges = [(making.profile(number, k, at), along) for k in range(len(ring.kinds))]
            loops.append(tuple(edges if along else reversed(edges)))
        station = making.stations[at]
        normal = np.cross(station.right, _UP)
        normal = normal / np.linalg.norm(normal)
        found.append(Face(Plane(station.foot, normal if along else -normal), tuple(loops)))
    return found
