"""Columns at sharp corners: stitches turn about the inner corner, or stay across each limb, which are
cut off along the corner's bisector (*mitred*) or of which one runs on to the outer edge and the other
begins beneath it (*capped*)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import shapely

from draxet.geometry.arrays import Floats, Points
from draxet.make.stitching.satin_columns import Column, Meeting

__all__ = ["CORNERS", "cornered"]

CORNERS = ("turned", "mitred", "capped")

_FINE, _NEAR, _CHORD = 0.05, 4, 12
"""mm between rungs; and how many rungs from a corner, and how many on from there, a limb tells its
direction by."""
_CLOSE, _SPAN = 2, 6
"""Likewise, how sharp a corner is."""
_SHARP, _SHARPEST = 40.0, 150.0
"""Degrees that a side turns at a corner."""
_FAR = 3.0
"""Breadths of the column that a corner reaches from its inner to its outer place at the most."""
_OVER, _OUT, _LOST = 0.4, 0.12, 0.01
"""mm that a limb begins beneath the other one, and that a corner may reach over the area's edge; and
which share of what was covered there may not be any more."""


class _Corner(NamedTuple):
    """A corner of a column: between which rungs it lies, on which side (0 left, 1 right) its outer
    place, and the inner one and the outer one; where the limb before it, led straight on from the
    inner place, reaches the outer edge."""

    begin: int
    end: int
    side: int
    inner: Points
    outer: Points
    across: Points


_Limb = tuple[Points, Points, Floats]
"""Rungs from left to right, and of each the number of the one that it comes from."""


def cornered(columns: Sequence[Column], area: shapely.Geometry, corners: str) -> list[Column]:
    """Columns with their sharp corners ``mitred`` or ``capped``, or ``turned`` as they are."""
    if corners == "turned":
        return list(columns)
    near = shapely.buffer(area, _OUT)
    shapely.prepare(near)
    found = [_corners(column, near, corners) for column in columns]
    if corners == "mitred":
        return [_mitred(column, some) for column, some in zip(columns, found, strict=True)]
    return _capped(columns, found)


def _corners(column: Column, area: shapely.Geometry, how: str) -> list[_Corner]:
    """The corners of a column, one after the other and apart from each other."""
    found = list[_Corner]()
    for side, rail in enumerate((column.left, column.right)):
        turns = _turns(rail, closed=column.closed) * (1.0 if side else -1.0)
        for k in np.flatnonzero((turns > _SHARP) & (turns < _SHARPEST)).tolist():
            if turns[k] >= turns[max(k - _NEAR, 0) : k + _NEAR + 1].max():
                corner = _corner(column, side, k)
                if corner is None or any(
                    corner.begin - _NEAR < each.rung < corner.end + _NEAR for each in column.meets
                ):
                    continue  # limbs are parted there already
                if _holds(column, corner, area, how):
                    found.append(corner)
    found.sort(key=lambda each: each.begin)
    apart = list[_Corner]()
    for corner in found:
        if not apart or corner.begin > apart[-1].end + _NEAR:
            apart.append(corner)
    return apart


def _turns(rail: Points, *, closed: bool) -> Floats:
    """By how many degrees a side turns to the left at each of its places; 0 near open ends."""
    pad = _CLOSE + _SPAN
    if len(rail) < 2 * pad + 1:
        return np.zeros(len(rail))
    ring = rail[:-1] if closed else rail
    around = np.take(ring, np.arange(-pad, len(ring) + pad), axis=0, mode="wrap")
    near, far = _CLOSE, _CLOSE + _SPAN
    count = len(ring)
    back = around[pad - near : pad - near + count] - around[pad - far : pad - far + count]
    on = around[pad + far : pad + far + count] - around[pad + near : pad + near + count]
    turned = np.degrees(
        np.arctan2(back[:, 0] * on[:, 1] - back[:, 1] * on[:, 0], (back * on).sum(axis=1))
    )
    long = np.minimum(np.hypot(*back.T), np.hypot(*on.T))
    turned[long < _SPAN * _FINE / 2] = 0.0
    if not closed:
        turned[:pad] = turned[-pad:] = 0.0
        return np.asarray(turned)
    return np.append(turned, 0.0)


def _corner(column: Column, side: int, k: int) -> _Corner | None:
    """The corner about a rung; None where limbs do not meet there as they do at one."""
    outer, inner = (column.right, column.left) if side else (column.left, column.right)
    last, far = len(outer) - 1, _NEAR + _CHORD
    if k < far or k + far > last:
        return None  # of a closed one that begins there
    before, after = (
        (there - here) / max(float(np.hypot(*(there - here))), 1e-9)
        for here, there in (
            (outer[k - far], outer[k - _NEAR]),
            (outer[k + _NEAR], outer[k + far]),
        )
    )
    tip = _met(outer[k - _NEAR], before, outer[k + _NEAR], after)
    if tip is None or float(np.hypot(*(tip - outer[k]))) > 2 * _NEAR * _FINE:
        tip = outer[k]
    root = inner[k]
    breadth = float(np.median(column.breadths[max(k - 60, 0) : k + 60]))
    if not 0.2 < float(np.hypot(*(tip - root))) < _FAR * breadth:
        return None
    back = np.flatnonzero((outer[:k] - root) @ before <= 0)
    on = np.flatnonzero((outer[k:] - root) @ after >= 0)
    if not len(back) or not len(on):
        return None
    begin, end = int(back[-1]), int(k + on[0])
    limb = _FAR * breadth / _FINE
    if begin < 1 or end > last - 1 or end - begin > 2 * limb:
        return None
    across = _met(root, before, tip, after)
    if across is None or float(np.hypot(*(across - root))) > _FAR * breadth:
        return None
    return _Corner(begin, end, side, root, tip, across)


def _met(one: Points, way: Points, other: Points, along: Points) -> Points | None:
    """Where two lines meet; None where they hardly do."""
    cross = float(way[0] * along[1] - way[1] * along[0])
    if abs(cross) < math.sin(math.radians(_SHARP)) / 2:
        return None
    to = other - one
    found: Points = one + way * float(to[0] * along[1] - to[1] * along[0]) / cross
    return found


def _holds(column: Column, corner: _Corner, area: shapely.Geometry, how: str) -> bool:
    """Whether a corner that is mitred or capped covers what it covered, and stays in the area."""
    was = _swept(_whole(column, corner.begin, corner.end + 1))
    one, other = _about(column, corner, how)
    before = _whole(column, corner.begin - 1, corner.begin + 1)
    after = _whole(column, corner.end, corner.end + 2)
    now = shapely.union_all([_swept(_one([before, one])), _swept(_one([other, after]))])
    lost = shapely.area(shapely.difference(was, shapely.buffer(now, _FINE)))
    return bool(shapely.covers(area, now) and lost <= _LOST * shapely.area(was))


def _about(column: Column, corner: _Corner, how: str) -> list[_Limb]:
    """The rungs at a corner: of the limb before it, and of the one after it."""
    rail = column.right if corner.side else column.left
    outer, inner = corner.outer, corner.inner
    if how == "capped":
        return [_ended(column, corner), _begun(column, corner)]
    return [
        _led(corner, rail[corner.begin], outer, inner, outer, corner.begin),
        _led(corner, outer, rail[corner.end], outer, inner, corner.end),
    ]


def _swept(limb: _Limb) -> shapely.Geometry:
    return Column(limb[0], limb[1], False, []).shape


def _mitred(column: Column, corners: Sequence[_Corner]) -> Column:
    """Rungs across each limb up to the bisectors of its corners."""
    pieces, at = list[_Limb](), 0
    for corner in corners:
        pieces += [_whole(column, at, corner.begin + 1), *_about(column, corner, "mitred")]
        at = corner.end
    left, right, was = _one([*pieces, _whole(column, at, len(column.left))])
    return Column(left, right, column.closed, [_moved(each, was) for each in column.meets])


def _capped(columns: Sequence[Column], found: Sequence[Sequence[_Corner]]) -> list[Column]:
    """Columns parted at their corners: a limb runs on to the outer edge, and the next begins
    beneath it."""
    limbs = [_limbs(column, corners) for column, corners in zip(columns, found, strict=True)]
    first = len(columns)
    numbers = list[list[int]]()
    for number, some in enumerate(limbs):
        numbers.append([number, *range(first, first + len(some) - 1)])
        first += len(some) - 1
    made = dict[int, Column]()
    for column, corners, some, names in zip(columns, found, limbs, numbers, strict=True):
        whole = column.closed and not corners
        for name, (left, right, _) in zip(names, some, strict=True):
            made[name] = Column(left, right, whole, [])
        for meeting in column.meets:
            k = min(range(len(some)), key=lambda k: float(np.abs(some[k][2] - meeting.rung).min()))
            other = numbers[meeting.other][meeting.end]
            made[names[k]].meets.append(_moved(meeting, some[k][2])._replace(other=other))
        for name, onward in zip(names, [*names[1:], *names[: column.closed]], strict=False):
            if onward != name:
                away = np.hypot(*(made[name].middle - made[onward].middle[0]).T)
                made[name].meets.append(Meeting(onward, 0, int(away.argmin())))
    return [made[number] for number in sorted(made)]


def _limbs(column: Column, corners: Sequence[_Corner]) -> list[_Limb]:
    """A column's rungs from corner to corner."""
    if not corners:
        return [_whole(column, 0, len(column.left))]
    last = len(column.left) - 1
    begins = [_begun(column, corner) for corner in corners]
    ends = [_ended(column, corner) for corner in corners]
    between = [
        [_whole(column, one.end, other.begin + 1)]
        for one, other in zip(corners, corners[1:], strict=False)
    ]
    head, tail = _whole(column, 0, corners[0].begin + 1), _whole(column, corners[-1].end, last + 1)
    if column.closed:
        limbs = [[begins[-1], tail, head, ends[0]]]
        limbs += [[begins[k], *way, ends[k + 1]] for k, way in enumerate(between)]
    else:
        limbs = [[head, ends[0]]]
        limbs += [[begins[k], *way, ends[k + 1]] for k, way in enumerate(between)]
        limbs.append([begins[-1], tail])
    return [_one(limb) for limb in limbs]


def _ended(column: Column, corner: _Corner) -> _Limb:
    """A limb led straight on through its corner to the outer edge."""
    rail = column.right if corner.side else column.left
    return _led(corner, rail[corner.begin], corner.outer, corner.inner, corner.across, corner.begin)


def _begun(column: Column, corner: _Corner) -> _Limb:
    """A limb that begins beneath the one before: from the line on which that ends, about the inner
    place to where it is crossed straight."""
    rail = column.right if corner.side else column.left
    end, inner = rail[corner.end], corner.inner
    on = rail[min(corner.end + _CHORD, len(rail) - 1)] - end
    on = on / max(float(np.hypot(*on)), 1e-9)
    begin = corner.across if float((end - corner.across) @ on) > _FINE else end
    under = on * _OVER
    pieces = [_led(corner, begin - under, begin, inner - under, inner, corner.end)]
    if begin is not end:
        pieces.append(_led(corner, begin, end, inner, inner, corner.end))
    return _one(pieces)


def _led(corner: _Corner, begin: Points, end: Points, inner: Points, to: Points, was: int) -> _Limb:
    """Rungs that follow each other evenly, from one place to another on the outer side and on the
    inner one."""
    longest = max(float(np.hypot(*(end - begin))), float(np.hypot(*(to - inner))))
    share = np.linspace(0.0, 1.0, max(int(longest / _FINE), 1) + 1)[:, None]
    sides = begin + share * (end - begin), inner + share * (to - inner)
    left, right = sides[::-1] if corner.side else sides
    return left, right, np.full(len(share), float(was))


def _whole(column: Column, begin: int, end: int) -> _Limb:
    return (
        column.left[begin:end],
        column.right[begin:end],
        np.arange(begin, end, dtype=np.float64),
    )


def _one(limbs: Sequence[_Limb]) -> _Limb:
    left, right, was = (np.concatenate(some) for some in zip(*limbs, strict=True))
    return left, right, was


def _moved(meeting: Meeting, was: Floats) -> Meeting:
    return meeting._replace(rung=int(np.abs(was - meeting.rung).argmin()))
