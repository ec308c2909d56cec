"""The one offset: areas grown or shrunk by a true distance, and thick lines as areas.

Each span goes aside by the distance: a line as a line, an arc as an arc about the same centre. At a
corner that opens, an arc (or the sides led on to a point) joins what went aside; at one that
closes, the way leads back over the corner itself. Of the areas between what this gives, those are
kept that it goes round anticlockwise more often than clockwise (Chen & McMains, 2005): loops that
turned over are gone, areas that met are one, areas that were cut through are two. Cubics are lines
and arcs first.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely

from draxet.geometry.arrangement import arrangement_of
from draxet.geometry.arrays import Points, columns, crosses, dots
from draxet.geometry.biarcs import all_as_lines_and_arcs, as_lines_and_arcs
from draxet.geometry.contour import Contour, areas_of
from draxet.geometry.nesting import nesting_depths
from draxet.geometry.spans import ARC, LINE

__all__ = ["CORNERS", "offset_area", "thick_line"]

CORNERS = ("round", "sharp")
_WITHIN = 0.002
"""mm: how near lines and arcs lie to the cubics whose place they take."""
_STRAIGHT_ON = 1e-6
"""Radians: a smaller turn is no corner."""
_SHARPEST = 8.0
"""A sharp corner reaches no farther than so many distances; a sharper one is round."""
_NOTHING = 1e-9

_Place = tuple[float, float]


def offset_area(
    contours: Sequence[Contour], distance: float, corners: str = "round"
) -> list[Contour]:
    """The area that closed contours bound, grown by a distance (shrunk where it is under 0).

    Parameters
    ----------
    contours : outlines and openings, told apart by nesting, whichever way they run. corners : see
    ``CORNERS``; of those that open.

    Returns
    -------
    outlines anticlockwise, openings clockwise; none where nothing is left.
    """
    closed = [contour for contour in contours if contour.closed]
    if not closed or not distance:
        return [contour for contour in closed]
    if len(closed) == 1 and (circle := closed[0].circle_shape):
        return _grown_circle(closed[0], circle, distance)
    depths = nesting_depths(closed).tolist() if len(closed) > 1 else [0]
    ahead = [
        contour if (area > 0) == (depth % 2 == 0) else contour.reversed()
        for contour, depth, area in zip(closed, depths, areas_of(closed).tolist(), strict=True)
    ]
    aside = [_aside(each, distance, corners) for each in all_as_lines_and_arcs(ahead, _WITHIN)]
    return _kept([each for each in aside if each is not None])


def _grown_circle(
    contour: Contour, circle: tuple[float, float, float], distance: float
) -> list[Contour]:
    x, y, radius = circle
    if radius + distance <= _NOTHING:
        return []
    ahead = contour if contour.bulges[0] > 0 else contour.reversed()
    middle = np.array([x, y])
    return [
        Contour.make(
            middle + (ahead.nodes - middle) * (radius + distance) / radius,
            ahead.kinds,
            ahead.bulges,
        )
    ]


def thick_line(contour: Contour, width: float, *, round_ends: bool = True) -> list[Contour]:
    """The area of a line `width` mm broad along a contour: an open one with round or blunt ends, a
    closed one as a ring."""
    plain, half = as_lines_and_arcs(contour, _WITHIN), width / 2
    if contour.closed:
        ahead = plain if plain.area > 0 else plain.reversed()
        both = (_aside(ahead, half, "round"), _aside(ahead.reversed(), half, "round"))
        return _kept([each for each in both if each is not None])
    return _kept([_round_about(plain, half, round_ends)])


def _kept(raw: Sequence[Contour]) -> list[Contour]:
    if not raw:
        return []
    if (
        len(raw) == 1
        and raw[0].area > 0
        and shapely.LinearRing(raw[0].flattened(_WITHIN / 2)).is_simple
    ):
        return [raw[0]]  # nothing turned over and nothing met
    found = arrangement_of(raw)
    return found.outline_of(k for k, region in enumerate(found.regions) if region.winding > 0)


class _Way:
    """Nodes and spans that are put one after the other."""

    def __init__(self) -> None:
        self.nodes: list[_Place] = []
        self.kinds: list[int] = []
        self.bulges: list[float] = []

    def go(self, start: _Place, end: _Place, bulge: float = 0.0) -> None:
        """A span from where the last one ended, or a line to where this one begins first."""
        if self.nodes and math.dist(self.nodes[-1], start) > _NOTHING:
            self.kinds.append(LINE)
            self.bulges.append(0.0)
            self.nodes.append(start)
        elif not self.nodes:
            self.nodes.append(start)
        if math.dist(start, end) > _NOTHING:
            self.nodes.append(end)
            self.kinds.append(ARC if bulge else LINE)
            self.bulges.append(bulge)

    def closed(self) -> Contour:
        nodes, kinds, bulges = self.nodes, self.kinds, self.bulges
        if math.dist(nodes[0], nodes[-1]) <= _NOTHING:
            nodes = nodes[:-1]
        else:
            kinds, bulges = [*kinds, LINE], [*bulges, 0.0]
        return Contour.make(np.array(nodes), kinds, bulges)


def _aside(contour: Contour, distance: float, corners: str) -> Contour | None:
    """A closed contour of lines and arcs gone aside to its right; None where that is a single
    place."""
    way = _Way()
    _walk(way, contour, distance, corners)
    return way.closed() if len(way.nodes) > 1 else None


def _walk(way: _Way, contour: Contour, distance: float, corners: str) -> None:
    """Put the spans of a contour, gone aside to its right, and the corner after each but an open
    contour's last."""
    spans = contour.spans
    leave, reach = spans.tangents()
    begins, ends = spans.starts + distance * _right(leave), spans.ends + distance * _right(reach)
    chords = spans.ends - spans.starts
    over = np.flatnonzero((spans.bulges != 0) & (dots(ends - begins, chords) < 0))
    centres = dict(
        zip(over.tolist(), _places(spans.take(over).arc_shapes().centres), strict=True)
        if over.size
        else ()
    )  # past its centre: nothing is left of it
    out = np.roll(leave, -1, axis=0)
    turns = np.arctan2(crosses(reach, out), dots(reach, out)).tolist()
    middles = _right(reach) + _right(out)
    count, places, bulges = len(spans), _places(spans.ends), spans.bulges.tolist()
    first, last = _places(begins), _places(ends)
    for k in range(count):
        if k in centres:
            way.go(first[k], centres[k])
            way.go(centres[k], last[k])
        else:
            way.go(first[k], last[k], bulges[k])
        following = (k + 1) % count
        if contour.closed or following:
            _corner(
                way, places[k], last[k], first[following], turns[k], middles[k], distance, corners
            )


def _places(points: Points) -> list[_Place]:
    return [(x, y) for x, y in points.tolist()]


def _right(ways: Points) -> Points:
    return columns(ways[:, 1], -ways[:, 0])


def _corner(
    way: _Way,
    at: _Place,
    start: _Place,
    end: _Place,
    turn: float,
    middle: Points,
    distance: float,
    corners: str,
) -> None:
    """Lead on from the end of what went aside before a corner to the beginning of what goes aside
    after it; `middle` points between the two."""
    if abs(turn) <= _STRAIGHT_ON:
        way.go(start, end)
    elif turn * distance > 0:  # it opens
        reach = abs(distance) / math.cos(turn / 2) if abs(turn) < math.pi - 1e-6 else math.inf
        if corners == "sharp" and reach <= _SHARPEST * abs(distance):
            x, y = middle / np.hypot(*middle) * math.copysign(reach, distance)
            tip = (at[0] + float(x), at[1] + float(y))
            way.go(start, tip)
            way.go(tip, end)
        else:
            way.go(start, end, math.tan(turn / 4))
    else:
        way.go(start, at)
        way.go(at, end)


def _round_about(contour: Contour, half: float, round_ends: bool) -> Contour:
    """There and back beside an open contour."""
    way, back = _Way(), contour.reversed()
    for one in (contour, back):
        _walk(way, one, half, "round")
        aside = half * _right(one.spans.tangents()[1][-1:])
        start, end = _places(np.vstack([one.nodes[-1] + aside, one.nodes[-1] - aside]))
        way.go(start, end, 1.0 if round_ends else 0.0)
    return way.closed()
