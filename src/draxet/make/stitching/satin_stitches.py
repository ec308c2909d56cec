"""Columns sewn from side to side in one go: out along a column's middle, past those that meet it,
which are sewn on the way, and back over that from side to side."""

from __future__ import annotations

import math
from bisect import bisect_left
from collections import deque
from collections.abc import Iterator, Sequence

import numpy as np
import shapely
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from draxet.geometry.arrays import Floats, Ints, Points
from draxet.make.stitching.satin_columns import Column, columns_of
from draxet.make.stitching.stitch_fill import Fill, Place, evened
from draxet.record import record

__all__ = ["satin"]

_WALK, _BEND, _FEW, _THIN = 2.0, 0.08, 3, 0.45
"""mm: the stitch of a way along a middle, and by what it may cut a bend short; a leg of no more rungs is none; what is narrower is run along."""
_MET, _BETWEEN = 3.0, 4.0
"""mm that an end which meets a column, or a place between ends, counts farther than a free end."""
_EDGES_FROM, _ZIGZAG_FROM, _ZIGZAG = 1.8, 4.0, 2.0
"""mm: from which breadth on an underlay runs along both edges too, or zigzags at that spacing."""
_TRIES, _EVEN = 4, 0.005
"""So often a spacing is changed for the last needle points to stand at the end, within so many mm a step."""
_BESIDE, _HALVED = 0.04, 8
"""mm by which a spacing on the right side may be off before a needle point there stands elsewhere than
midway, and how often the place is looked for between two others."""
_INSET, _CROWDED, _SHORT = 0.2, 0.5, (0.0, 0.28, 0.14, 0.28)
"""Of a rung: how far an underlay stays away from its ends; and of the spacing: where the inner side
moves on by less, needle points there come short by these shares of it, in turn."""


def satin(
    area: shapely.Geometry,
    fill: Fill,
    start: Place = None,
    end: Place = None,
    columns: Sequence[Column] | None = None,
) -> list[Points]:
    """The stitches (n, 2) in mm that go from side to side of an area's columns: one run for each
    piece of it, from near a place on; the last one ends near `end`, others where they began."""
    found = list[Points]()
    parts = [part for part in shapely.get_parts(area) if shapely.area(part) > 0]
    while parts:
        at = None if start is None else shapely.Point(start)
        part = (
            parts[0]
            if at is None
            else min(parts, key=lambda each: float(shapely.distance(each, at)))
        )
        parts = [each for each in parts if each is not part]
        sewing = _Sewing(columns_of(part) if columns is None else columns, fill)
        for run in sewing.runs(start, None if parts else end):
            found.append(run)
            start = (float(run[-1, 0]), float(run[-1, 1]))
    return found


@record(frozen=True)
class _Leg:
    """A stretch of a column from one rung to another, that may lead round a closed one."""

    column: int
    rungs: Ints


class _Sewing:
    def __init__(self, columns: Sequence[Column], fill: Fill) -> None:
        self._columns, self._fill = columns, fill
        self._done = set[int]()
        self._host = {
            (meeting.other, meeting.end): (number, meeting.rung)
            for number, column in enumerate(columns)
            for meeting in column.meets
        }

    def runs(self, start: Place, end: Place) -> list[Points]:
        found, left = list[Points](), self._groups()
        while left:
            if start is not None:
                at = start
                left.sort(key=lambda each: self._nearest(each, at)[0])
            group = left.pop(0)
            root = self._root(group, start if left or end is None else end)
            way = list[Points]()
            if start is not None:
                _, number, rung = self._nearest(group, start)
                way = [self._way((number, rung), root)]
            run = evened(np.vstack([*way, *self._sewn(*root)]), self._fill.split)
            if len(run) > 1:
                found.append(run)
                start = (float(run[-1, 0]), float(run[-1, 1]))
        return found

    def _groups(self) -> list[list[int]]:
        """The columns that hang together."""
        ties = [(other, host) for (other, _), (host, _) in self._host.items()]
        one, other = np.array(ties, dtype=np.int64).reshape(-1, 2).T
        count = len(self._columns)
        tied = coo_array((np.ones(len(one)), (one, other)), shape=(count, count))
        label = connected_components(tied, directed=False)[1]
        return [np.flatnonzero(label == each).tolist() for each in range(int(label.max()) + 1)]

    def _nearest(self, group: Sequence[int], place: tuple[float, float]) -> tuple[float, int, int]:
        """How far it is to the middles of columns, to which, and to which of its rungs."""
        found = []
        for number in group:
            away = np.hypot(*(self._columns[number].middle - place).T)
            found.append((float(away.min()), number, int(away.argmin())))
        return min(found)

    def _root(self, group: Sequence[int], place: Place) -> tuple[int, int]:
        """Where a run ends, near a place: rather at the free end of a column, or at one where it meets
        another, than between."""
        found = list[tuple[float, int, int]]()
        for number in group:
            column = self._columns[number]
            middle = column.middle
            away = np.zeros(len(middle)) if place is None else np.hypot(*(middle - place).T)
            ends = np.full(len(middle), 0.0 if column.closed else _BETWEEN)
            for end in (0, -1):
                ends[end] = _MET if (number, end) in self._host else 0.0
            cost = away + ends
            found.append((float(cost.min()), number, int(cost.argmin())))
        _, number, rung = min(found)
        return number, rung

    def _way(self, begin: tuple[int, int], end: tuple[int, int]) -> Points:
        """From one rung to another along the middles of columns, beneath what is sewn later."""
        reached: dict[int, list[tuple[int, int]]] = {begin[0]: [begin]}
        queue = deque([begin[0]])
        while end[0] not in reached:
            number = queue.popleft()
            for on, there in self._ties(number):
                if there[0] not in reached:
                    reached[there[0]] = [*reached[number], (number, on), there]
                    queue.append(there[0])
        stops = [*reached[end[0]], end]
        pairs = zip(stops[::2], stops[1::2], strict=True)
        return _stitched(
            np.vstack([_along(self._columns[number], a, b) for (number, a), (_, b) in pairs])
        )

    def _ties(self, number: int) -> Iterator[tuple[int, tuple[int, int]]]:
        """At which rungs a column is tied to others, and at which of theirs."""
        for (other, at), (host, rung) in self._host.items():
            last = len(self._columns[other].left) - 1 if at else 0
            if other == number:
                yield last, (host, rung)
            elif host == number:
                yield rung, (other, last)

    def _sewn(self, number: int, rung: int) -> list[Points]:
        """A column, with all that hangs on it, from a rung and back to it."""
        self._done.add(number)
        column, last = self._columns[number], len(self._columns[number].left) - 1
        if column.closed:
            legs = [(rung + np.arange(last + 1)) % last]
        else:
            legs = [np.arange(rung, -1, -1), np.arange(rung, last + 1)]
        found = list[Points]()
        for rungs in legs:
            if len(rungs) > _FEW:
                leg = _Leg(number, rungs)
                found += [*self._out(leg), self._across(leg)]
        return found or [column.middle[[rung]]]

    def _out(self, leg: _Leg) -> list[Points]:
        """Along the middle of a leg, with the columns that meet it on the way, over its underlay."""
        column, n = self._columns[leg.column], len(self._columns[leg.column].left)
        stops = [(m.rung, m.other, m.end) for m in column.meets]
        for end, rung in ((0, 0), (-1, n - 1)):
            if (leg.column, end) in self._host:
                other, there = self._host[leg.column, end]
                stops.append((rung, other, there))
        order = {int(rung): k for k, rung in enumerate(leg.rungs)}
        found, here = self._underlay(leg) if self._fill.underlay else [], 0
        for rung, other, there in sorted(stops, key=lambda each: order.get(each[0], -1)):
            if rung in order and other not in self._done:
                found.append(self._walk(leg, here, order[rung]))
                here = order[rung]
                theirs = len(self._columns[other].left)
                found += self._sewn(other, there % theirs)
        return [*found, self._walk(leg, here, len(leg.rungs) - 1)]

    def _walk(self, leg: _Leg, begin: int, end: int) -> Points:
        return _stitched(self._columns[leg.column].middle[leg.rungs[begin : end + 1]])

    def _underlay(self, leg: _Leg) -> list[Points]:
        """What is sewn first of a leg, from its beginning out and back to it."""
        column = self._columns[leg.column]
        broad = float(np.median(column.breadths[leg.rungs]))
        if broad < _EDGES_FROM:
            return []
        left, right = column.left[leg.rungs], column.right[leg.rungs]
        one, other = left + _INSET * (right - left), right + _INSET * (left - right)
        if broad < _ZIGZAG_FROM:
            return [_stitched(one), _stitched(other[::-1])]
        steps = np.unique(np.linspace(0, len(one) - 1, max(len(one) // 40, 2)).astype(int))
        zigzag = np.where((np.arange(len(steps)) % 2 == 0)[:, None], one[steps], other[steps])
        zagzig = np.where((np.arange(len(steps)) % 2 == 1)[:, None], one[steps], other[steps])
        return [zigzag, zagzig[::-1]]

    def _across(self, leg: _Leg) -> Points:
        """From side to side, from the end of a leg back to its beginning."""
        column, fill = self._columns[leg.column], self._fill
        if float(np.quantile(column.breadths[leg.rungs], 0.9)) < _THIN:
            return self._walk(leg, 0, len(leg.rungs) - 1)[::-1]
        left, right = column.left[leg.rungs[::-1]], column.right[leg.rungs[::-1]]
        at = _spaced(left, right, fill.satin)
        rungs = np.arange(len(left))
        l_at, r_at = (
            np.column_stack([np.interp(at, rungs, axis) for axis in side.T])
            for side in (left, right)
        )
        way = r_at - l_at
        long = np.hypot(*way.T)
        unit = way / np.maximum(long, 1e-9)[:, None]
        short = _come_short(l_at, r_at)
        l_at = l_at + unit * (short[0] * long - fill.pull)[:, None]
        r_at = r_at - unit * (short[1] * long - fill.pull)[:, None]
        needles = np.where((np.arange(len(at)) % 2 == 0)[:, None], l_at, r_at)
        return _split(needles, fill.split)


def _along(column: Column, begin: int, end: int) -> Points:
    """The middle of a column from one rung to another, the shorter way round where it is closed."""
    last, onward = len(column.left) - 1, end - begin
    if column.closed and abs(onward) > last / 2:
        onward -= int(math.copysign(last, onward))
    rungs = begin + np.arange(abs(onward) + 1) * (1 if onward > 0 else -1)
    return column.middle[rungs % last if column.closed else rungs]


def _spaced(left: Points, right: Points, spacing: float) -> Floats:
    """At which rungs, in parts of them, needle points stand: every second one so far from the one two
    before as is set, on the side that moves on farther, as evenly as it goes up to the end; the others
    between."""
    on = np.stack([np.hypot(*np.diff(side, axis=0).T) for side in (left, right)]).max(axis=0)
    ahead = [0.0, *np.cumsum(on).tolist()]
    ways = np.hstack([left, right]).tolist()
    places, over = _walked(ways, ahead, spacing)
    for _ in range(_TRIES):
        count = len(places) - 1 + over
        if count < 1 or abs(over - round(over)) * spacing < _EVEN * count:
            break
        spacing *= count / round(count)
        places, over = _walked(ways, ahead, spacing)
    if over < 0.5 and len(places) > 1:
        places.pop()
    places.append(len(ways) - 1.0)
    found: Floats = np.interp(
        np.arange(2 * len(places) - 1) / 2, np.arange(len(places)), np.array(places)
    )
    found[1::2] = _between(ways, found, spacing)
    return found


def _between(ways: list[list[float]], places: Floats, spacing: float) -> list[float]:
    """The odd ones of places, where needle points of the right side stand: midway between the others,
    but so that they move on by a spacing where that is the outer side."""
    found: list[float] = places[1::2].tolist()
    whole = [_rung(ways, place) for place in places[::2].tolist()]
    here = _rung(ways, found[0])
    for k in range(1, len(found)):
        there = _rung(ways, found[k])
        gone, low, high = math.dist(here[2:], there[2:]), places[2 * k], places[2 * k + 2]
        off = gone - spacing
        if abs(off) > _BESIDE and gone > math.dist(whole[k][:2], whole[k + 1][:2]):
            wanted = spacing + math.copysign(_BESIDE, off)
            low, high = low + (high - low) / 5, high - (high - low) / 5
            for _ in range(_HALVED):
                found[k] = (low + high) / 2
                there = _rung(ways, found[k])
                if math.dist(here[2:], there[2:]) < wanted:
                    low = found[k]
                else:
                    high = found[k]
        here = there
    return found


def _rung(ways: list[list[float]], place: float) -> list[float]:
    """A rung between others: left x, y, right x, y."""
    k = min(int(place), len(ways) - 2)
    share = place - k
    return [a + share * (b - a) for a, b in zip(ways[k], ways[k + 1], strict=True)]


def _walked(
    ways: list[list[float]], ahead: list[float], spacing: float
) -> tuple[list[float], float]:
    """Places from the first rung on, each so far from the one before on the side that moves on farther;
    and which share of such a step is left over at the end."""
    places, k, here = [0.0], 1, ways[0]
    while True:
        k = max(
            k, bisect_left(ahead, ahead[k - 1] + spacing) - 1
        )  # no sooner, as a way is no shorter
        before, at, there = 0.0, places[-1], here
        while k < len(ways) and (gone := _farther(here, ways[k])) < spacing:
            before, at, there = gone, float(k), ways[k]
            k += 1
        if k >= len(ways):
            return places, before / spacing
        share = (spacing - before) / (gone - before)
        here = [a + share * (b - a) for a, b in zip(there, ways[k], strict=True)]
        places.append(at + share * (k - at))


def _farther(here: list[float], there: list[float]) -> float:
    """How far it is from one rung to another on the side where that is more."""
    return max(
        math.hypot(there[0] - here[0], there[1] - here[1]),
        math.hypot(there[2] - here[2], there[3] - here[3]),
    )


def _come_short(left: Points, right: Points) -> Floats:
    """By which share of its rung each needle point stays away from the left and from the right side,
    where that is the inner one of a bend and crowded."""
    found = np.zeros((2, len(left)))
    if len(left) < 3:
        return found
    moved = np.stack([np.hypot(*(side[2:] - side[:-2]).T) for side in (left, right)])
    moved = np.pad(moved, ((0, 0), (1, 1)), mode="edge")
    share = moved / np.maximum(moved.max(axis=0), 1e-9)
    turn = np.array(_SHORT)[(np.arange(len(left)) // 2) % len(_SHORT)]
    return np.where(share < _CROWDED, turn * (1 - share / _CROWDED), found)


def _split(needles: Points, longest: float) -> Points:
    """With needle points between where a stitch would be too long, not beside those of the one
    before."""
    found = [needles[:1]]
    for k, (a, b) in enumerate(zip(needles, needles[1:], strict=False)):
        count = math.ceil(float(np.hypot(*(b - a))) / longest - 1e-9)
        shift = (0.0, 0.33, -0.33)[k % 3] if count > 1 else 0.0
        shares = (np.arange(1, count) + shift * 0.5) / max(count, 1)
        found.append(a + (b - a) * np.append(shares, 1.0)[:, None])
    return np.vstack(found)


def _stitched(line: Points) -> Points:
    """Places along a line, a stitch apart."""
    if len(line) < 2:
        return line
    plain = shapely.get_coordinates(shapely.simplify(shapely.LineString(line), _BEND))
    return evened(plain, _WALK)
