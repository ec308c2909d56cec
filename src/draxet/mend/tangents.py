"""Loose ends that belong together at a tangent place: an edge drawn past the start of its fillet,
an arc that stops short of its edge."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np
import scipy

from draxet.geometry.arrays import Floats, Points
from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, LINE
from draxet.mend.flaws import Flaw
from draxet.record import record

__all__ = ["tangent_ends"]

_OFF = 0.05
"""mm by which two spans may miss being tangent."""
_SMOOTH = math.cos(math.radians(6))
_JOINED = 1e-6
_LEAST = 0.02
"""mm: ends so near to their tangent place are joined as they are."""


@record(frozen=True, eq=False)
class _End:
    """An end of an open contour, the contour turned so that it is its last, and of its last span
    the centre and signed radius (mm; positive where it turns left, none for a straight one)."""

    k: int
    at_end: bool
    run: Contour
    centre: Points | None
    radius: float

    @property
    def place(self) -> Points:
        place: Points = self.run.nodes[-1]
        return place

    def way_at(self, place: Points) -> Points:
        """The direction in which it goes on there."""
        if self.centre is None:
            way = self.place - self.run.nodes[-2 if len(self.run.nodes) > 1 else 0]
        else:
            out = place - self.centre
            way = np.array([-out[1], out[0]]) * math.copysign(1.0, self.radius)
        return np.asarray(way / max(float(np.hypot(*way)), 1e-300))

    def past(self, place: Points) -> float:
        """How far it goes past a place on its own line, in mm; less than 0 where it stops short of
        it."""
        if self.centre is None:
            return float((self.place - place) @ self.way_at(place))
        one, other = (math.atan2(*(p - self.centre)[::-1]) for p in (place, self.place))
        return ((other - one + math.pi) % (2 * math.pi) - math.pi) * self.radius

    def ended_at(self, place: Points) -> Contour | None:
        """The contour ended there; None where its last span begins after it."""
        run = self.run
        nodes, bulges = run.nodes.copy(), run.bulges.copy()
        before = float(run.spans.lengths()[-1])
        if self.past(place) >= before - _LEAST:
            return None
        nodes[-1] = place
        if self.centre is not None:
            turn = 4 * math.atan(float(run.bulges[-1])) - self.past(place) / self.radius
            if not 0 < turn * math.copysign(1.0, self.radius) < 2 * math.pi:
                return None
            bulges[-1] = math.tan(turn / 4)
        made = Contour.make(nodes, run.kinds, bulges, run.handles, closed=False)
        return made if self.at_end else made.reversed()


def tangent_ends(
    contours: Sequence[Contour], overshoot: float, gap: float, without: frozenset[int] = frozenset()
) -> list[Flaw]:
    """Pairs of loose ends whose lines and arcs are tangent to each other near them, and which go
    past that place by `overshoot` mm, or stop short of it by `gap` mm, at the most: each is ended
    there. `without` : numbers of contours that are left alone."""
    ends = _loose_ends(contours, without)
    if len(ends) < 2:
        return []
    pairs = scipy.spatial.cKDTree(np.array([end.place for end in ends])).query_pairs(
        2 * max(overshoot, gap) + _OFF, output_type="ndarray"
    )
    found = []
    for i, j in pairs.tolist():
        one, other = ends[i], ends[j]
        if one.k == other.k or (one.centre is None and other.centre is None):
            continue
        place = _tangent_place(one, other)
        if place is None or float(one.way_at(place) @ -other.way_at(place)) < _SMOOTH:
            continue
        past = one.past(place), other.past(place)
        if (
            all(-gap - _LEAST <= p <= overshoot + _LEAST for p in past)
            and max(map(abs, past)) > _LEAST
        ):
            found.append((max(map(abs, past)), i, j, place))
    taken: set[int] = set()
    flaws = []
    for size, i, j, place in sorted(found, key=lambda f: f[0]):
        if i in taken or j in taken:
            continue
        becomes = {
            end.k: (made,)
            for end in (ends[i], ends[j])
            if (made := end.ended_at(place)) is not None
        }
        if len(becomes) == 2:
            taken |= {i, j}
            flaws.append(_flaw(becomes, [ends[i], ends[j]], place, size))
    return flaws


def _flaw(
    becomes: Mapping[int, tuple[Contour, ...]], ends: Sequence[_End], place: Points, size: float
) -> Flaw:
    kind = "overshoot" if max(end.past(place) for end in ends) >= size else "gap"
    lines = tuple(
        Contour.make([place, end.place], closed=False)
        for end in ends
        if abs(end.past(place)) > _JOINED
    )
    return Flaw(
        kind,
        size,
        (float(place[0]), float(place[1])),
        frozenset(becomes),
        lambda: (becomes, "ended where it is tangent"),
        lambda: lines,
    )


def _loose_ends(contours: Sequence[Contour], without: frozenset[int]) -> list[_End]:
    """Ends of open contours, of lines and arcs, that meet no other end."""
    some = [
        (k, at_end)
        for k, contour in enumerate(contours)
        if not contour.closed and k not in without
        for at_end in (False, True)
    ]
    if not some:
        return []
    places: Floats = np.array([contours[k].nodes[-1 if at_end else 0] for k, at_end in some])
    met = {
        n
        for pair in scipy.spatial.cKDTree(places)
        .query_pairs(_JOINED, output_type="ndarray")
        .tolist()
        for n in pair
    }
    return [
        end
        for n, (k, at_end) in enumerate(some)
        if n not in met and (end := _end(contours[k], k, at_end))
    ]


def _end(contour: Contour, k: int, at_end: bool) -> _End | None:
    run = contour if at_end else contour.reversed()
    if run.kinds[-1] == LINE or (run.kinds[-1] == ARC and not run.bulges[-1]):
        return _End(k, at_end, run, None, 0.0)
    if run.kinds[-1] != ARC:
        return None
    shape = run.spans.take(np.array([len(run.kinds) - 1])).arc_shapes()
    return _End(
        k,
        at_end,
        run,
        shape.centres[0],
        math.copysign(float(shape.radii[0]), float(run.bulges[-1])),
    )


def _tangent_place(one: _End, other: _End) -> Points | None:
    """Where the lines or circles of two ends touch; None where they miss or cross each other."""
    if one.centre is not None and other.centre is not None:
        apart = other.centre - one.centre
        far = float(np.hypot(*apart))
        same_way = (one.radius > 0) != (
            other.radius > 0
        )  # both run out to the place: one circle lies in the other where they turn alike
        wanted = (
            abs(abs(one.radius) - abs(other.radius))
            if same_way
            else abs(one.radius) + abs(other.radius)
        )
        if far < _JOINED or abs(far - wanted) > _OFF or wanted < _OFF:
            return None
        side = -1.0 if same_way and abs(one.radius) < abs(other.radius) else 1.0
        return np.asarray(one.centre + apart / far * abs(one.radius) * side)
    line, arc = (one, other) if one.centre is None else (other, one)
    assert arc.centre is not None
    way = line.way_at(line.place)
    foot = line.place + way * float((arc.centre - line.place) @ way)
    return (
        np.asarray(foot)
        if abs(float(np.hypot(*(foot - arc.centre))) - abs(arc.radius)) <= _OFF
        else None
    )
