"""The middle lines of outlines that are lines of some width, and how broad those are.

Places along the outline have a scipy.spatial.Voronoi diagram; of its edges inside, those lie on the middle line
whose two places face each other across the stroke (Ogniewicz & Kübler, 1995, told here by how far
they lie from each other). What is left is strung together, led on to the ends and fitted.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import scipy
import shapely

from draxet.geometry.arrays import Floats, Ints, Points, norms
from draxet.geometry.contour import Contour
from draxet.geometry.fitting.chain import fit_chains, fit_loops
from draxet.geometry.fitting.fit_settings import FitSettings
from draxet.geometry.fitting.loops import resampled, resampled_open
from draxet.geometry.nesting import nesting_depths
from draxet.record import record

__all__ = ["MiddleLine", "middle_lines"]

_ACROSS = 12.0
"""So many places along the outline for each width of the stroke."""
_MOST_PLACES = 60_000
_FACING = 0.9
"""Two places face each other where they are so much of the stroke's width apart."""
_SHORT = 1.2
"""Widths: a branch that ends in the open and is shorter is none."""
_OVER = 1.6
"""Widths: how far an end is led on over the middle of a crossing."""
_BLUNT = 0.06
"""Of the width: an end that is rounder than that is a round end."""
_PX = 12.0
"""The middle line is fitted in a unit of which the stroke's width has so many."""
_BLUR = 2.0
"""A middle line rounds its corners as a picture blurred by so many of those units does."""
_STRAIGHT_ON = math.radians(50.0)


@record(frozen=True, eq=False)
class MiddleLine:
    """contour : the middle line, open or closed. width : of the stroke, in mm, in the median.
    spread : how much it changes along it, in mm."""

    contour: Contour
    width: float
    spread: float


def middle_lines(contours: Sequence[Contour], tolerance: float) -> list[MiddleLine]:
    """The middle lines of closed contours, openings told by nesting, within about `tolerance` mm;
    those of a crossing lead straight on over it."""
    closed = [contour for contour in contours if contour.closed]
    depths = nesting_depths(closed).tolist() if closed else []
    found = list[MiddleLine]()
    for k, depth in enumerate(depths):
        if depth % 2 == 0:
            holes = [
                closed[n]
                for n, other in enumerate(depths)
                if other == depth + 1 and _within(closed[n], closed[k])
            ]
            found += _of_area([closed[k], *holes], tolerance)
    return found


def _within(inner: Contour, outer: Contour) -> bool:
    a, b = inner.box, outer.box
    return a[0] >= b[0] and a[1] >= b[1] and a[2] <= b[2] and a[3] <= b[3]


def _of_area(rings: Sequence[Contour], tolerance: float) -> list[MiddleLine]:
    area = abs(rings[0].area) - sum(abs(ring.area) for ring in rings[1:])
    around = sum(ring.length for ring in rings)
    if area <= 0 or around <= 0:
        return []
    width = 2 * area / around
    step = max(width / _ACROSS, around / _MOST_PLACES)
    lines = [ring.flattened(min(tolerance / 4, width / 200)) for ring in rings]
    places = np.vstack([_evenly(line, step) for line in lines])
    ground = shapely.Polygon(lines[0], [line for line in lines[1:] if len(line) > 2])
    if not ground.is_valid:
        ground = ground.buffer(0)
    shapely.prepare(ground)
    vertices, ends, reach = _middle_ridges(ground, places)
    strung = [vertices[chain] for chain in _strung(vertices, ends, _SHORT * width)]
    broad = {
        tuple(vertex): 2 * far
        for vertex, far in zip(
            vertices[ends].reshape(-1, 2).tolist(), reach[ends].ravel().tolist(), strict=True
        )
    }
    found = []
    for line, closed, led in _over_crossings(strung, width):
        wide = np.array([broad[tuple(place)] for place in line.tolist() if tuple(place) in broad])
        middle = float(np.median(wide)) if len(wide) else width
        for at_end in () if closed else (False, True):
            if led[at_end]:
                continue
            ahead = line if at_end else line[::-1]
            line = (
                _led_on(ground, ahead, middle) if at_end else _led_on(ground, ahead, middle)[::-1]
            )
        contour = _fitted(line, closed, middle, tolerance)
        if contour is not None:
            varies = float(np.ptp(np.percentile(wide, (5, 95)))) if len(wide) else 0.0
            found.append(MiddleLine(contour, middle, varies))
    return found


def _middle_ridges(ground: shapely.Polygon, places: Points) -> tuple[Points, Ints, Floats]:
    """The middle of a ground between places (n, 2) on its outline that face each other: vertices
    (m, 2), the numbers (k, 2) of those that its pieces lead between, and how far each vertex lies
    from the outline."""
    diagram = scipy.spatial.Voronoi(places)
    ends, facing = np.array(diagram.ridge_vertices), np.array(diagram.ridge_points)
    fine = (ends >= 0).all(axis=1)
    ends, facing = ends[fine], facing[fine]
    inside = shapely.contains_xy(ground, diagram.vertices)
    apart = norms(places[facing[:, 0]] - places[facing[:, 1]])
    clear = norms(diagram.vertices[ends] - places[facing[:, :1]]).max(axis=1)
    keep = inside[ends].all(axis=1) & (apart >= 2 * _FACING * clear)
    ends = ends[keep]
    reach = np.zeros(len(diagram.vertices))
    reach[ends] = norms(diagram.vertices[ends] - places[facing[keep][:, :1]])
    return np.asarray(diagram.vertices), ends, reach


def _over_crossings(
    lines: list[Points], width: float
) -> list[tuple[Points, bool, tuple[bool, bool]]]:
    """Lines led straight on over the middles of crossings, where nothing faces anything: to another
    line's end, which is one line with it then, or up to another line. With each whether it is
    closed, and whether its start and its end were led on to something."""
    closed = [line for line in lines if len(line) > 3 and np.array_equal(line[0], line[-1])]
    opened = [line for line in lines if not (len(line) > 3 and np.array_equal(line[0], line[-1]))]
    while (pair := _best_pair(opened, width)) is not None:
        one, one_end, other, other_end = pair
        into = opened[one] if one_end else opened[one][::-1]
        out = opened[other][::-1] if other_end else opened[other]
        opened = [line for k, line in enumerate(opened) if k not in (one, other)]
        if one == other:
            closed.append(np.vstack([into, into[:1]]))
        else:
            opened.append(np.vstack([into, out]))
    found = [(line, True, (True, True)) for line in closed]
    for k, line in enumerate(opened):
        others = [other for n, other in enumerate(opened) if n != k] + closed
        start, end = (_onto(ahead, others, width) for ahead in (line[::-1], line))
        found.append(
            (
                np.vstack(
                    [
                        *([start] if start is not None else []),
                        line,
                        *([end] if end is not None else []),
                    ]
                ),
                False,
                (start is not None, end is not None),
            )
        )
    return found


def _way_of(line: Points, width: float) -> Points:
    """The direction in which a line ends, its last bit left out."""
    away = norms(line - line[-1])
    part = line[(away > width / 4) & (away < 1.5 * width)]
    way = line[-1] - line[0] if len(part) < 2 else part[-1] - part[0]
    size = float(np.hypot(*way))
    found: Points = way / size if size else way
    return found


def _best_pair(lines: Sequence[Points], width: float) -> tuple[int, bool, int, bool] | None:
    """Two ends that look at each other over a crossing, those that do so straightest."""
    ends = [
        (k, at_end, line[-1] if at_end else line[0], _way_of(line if at_end else line[::-1], width))
        for k, line in enumerate(lines)
        if len(line) > 1
        for at_end in (False, True)
    ]
    best: tuple[float, tuple[int, bool, int, bool]] | None = None
    for i, (k, at_end, place, way) in enumerate(ends):
        for n, other_end, other, other_way in ends[i + 1 :]:
            gap = other - place
            far = float(np.hypot(*gap))
            if far > _OVER * width or (k == n and far < 1e-9) or (k == n and len(lines[k]) < 12):
                continue
            bend = math.acos(max(-1.0, min(1.0, float(way @ -other_way))))
            off = abs(float(gap[0] * way[1] - gap[1] * way[0]))
            if (
                bend < _STRAIGHT_ON
                and float(gap @ way) >= -0.3 * width
                and off < 0.3 * width
                and (best is None or bend < best[0])
            ):
                best = bend, (k, at_end, n, other_end)
    return best[1] if best else None


def _onto(line: Points, others: Sequence[Points], width: float) -> Points | None:
    """Where an end that is led straight on meets another line, (1, 2); None where it meets none
    soon."""
    if not others or len(line) < 2:
        return None
    way = shapely.LineString([line[-1], line[-1] + _way_of(line, width) * _OVER * width])
    met = [
        found
        for other in others
        if len(other) > 1 and not (found := way.intersection(shapely.LineString(other))).is_empty
    ]
    if not met:
        return None
    near = min(
        (shapely.Point(place) for found in met for place in shapely.get_coordinates(found)),
        key=lambda place: place.distance(shapely.Point(line[-1])),
    )
    return np.array([[near.x, near.y]])


def _evenly(line: Points, step: float) -> Points:
    whole = np.vstack([line, line[:1]])
    along = np.concatenate([[0.0], np.cumsum(norms(np.diff(whole, axis=0)))])
    at = np.linspace(0.0, along[-1], max(int(along[-1] / step), 8), endpoint=False)
    return np.column_stack([np.interp(at, along, whole[:, k]) for k in (0, 1)])


def _strung(vertices: Points, edges: Ints, short: float) -> list[Ints]:
    """Chains of vertices between those at which edges end or meet; short ones that end in the open
    are left out, and at a meeting those that lead on straightest are one."""
    beside: dict[int, list[int]] = {}
    for a, b in edges.tolist():
        beside.setdefault(a, []).append(b)
        beside.setdefault(b, []).append(a)
    chains = _chains(beside)
    while True:
        ends = [end for chain in chains for end in (chain[0], chain[-1])]
        open_ended = [
            chain
            for chain in chains
            if chain[0] != chain[-1]
            and _length(vertices, chain) < short
            and (ends.count(chain[0]) == 1) != (ends.count(chain[-1]) == 1)
        ]
        if not open_ended:
            break
        worst = min(open_ended, key=lambda chain: _length(vertices, chain))
        chains = _joined_straight(vertices, [chain for chain in chains if chain is not worst])
    return [
        np.array(chain, dtype=np.int64)
        for chain in _joined_straight(vertices, chains)
        if _length(vertices, chain) > short / 4
    ]


def _chains(beside: dict[int, list[int]]) -> list[list[int]]:
    used: set[tuple[int, int]] = set()
    chains = []

    def run(start: int, following: int) -> list[int]:
        chain = [start, following]
        used.add((start, following))
        used.add((following, start))
        while len(beside[chain[-1]]) == 2 and chain[-1] != start:
            ahead = next(n for n in beside[chain[-1]] if n != chain[-2])
            used.add((chain[-1], ahead))
            used.add((ahead, chain[-1]))
            chain.append(ahead)
        return chain

    for node, others in beside.items():
        if len(others) != 2:
            chains += [run(node, other) for other in others if (node, other) not in used]
    for node, others in beside.items():
        chains += [run(node, other) for other in others if (node, other) not in used]
    return chains


def _length(vertices: Points, chain: Sequence[int]) -> float:
    return float(norms(np.diff(vertices[list(chain)], axis=0)).sum())


def _joined_straight(vertices: Points, chains: Sequence[list[int]]) -> list[list[int]]:
    """Chains that meet and lead on straight in each other are one, the straightest first."""
    left = [list(chain) for chain in chains]
    while True:
        best: tuple[float, int, int, list[int]] | None = None
        at: dict[int, list[tuple[int, bool]]] = {}
        for k, chain in enumerate(left):
            if chain[0] != chain[-1]:
                at.setdefault(chain[0], []).append((k, True))
                at.setdefault(chain[-1], []).append((k, False))
        for meeting in at.values():
            for i, (k, first) in enumerate(meeting):
                for other, other_first in meeting[i + 1 :]:
                    if other == k:
                        continue
                    into = left[k][::-1] if first else left[k]
                    out = left[other] if other_first else left[other][::-1]
                    bend = _bend(vertices, into, out) if len(meeting) > 2 else 0.0
                    if bend < _STRAIGHT_ON and (best is None or bend < best[0]):
                        best = bend, k, other, [*into, *out[1:]]
        if best is None:
            return left
        left = [chain for n, chain in enumerate(left) if n not in best[1:3]] + [best[3]]


def _bend(vertices: Points, into: Sequence[int], out: Sequence[int]) -> float:
    a = vertices[into[-1]] - vertices[into[-min(len(into), 12)]]
    b = vertices[out[min(len(out), 12) - 1]] - vertices[out[0]]
    return abs(math.atan2(float(a[0] * b[1] - a[1] * b[0]), float(a @ b)))


def _led_on(ground: shapely.Polygon, line: Points, width: float) -> Points:
    """A line led on at its end to where a stroke of that width begins there: to a blunt end, or to
    the middle of a round one."""
    back = line[norms(line - line[-1]) > width / 3]
    if not len(back):
        return line
    trusted = line[: len(line) - max(int((norms(line - line[-1]) <= width / 4).sum()) - 1, 0)]
    way = (
        trusted[-1] - back[-1]
        if norms((trusted[-1] - back[-1])[None])[0] > 1e-9
        else line[-1] - back[-1]
    )
    way = way / max(float(np.hypot(*way)), 1e-12)
    aside = np.array([-way[1], way[0]]) * 0.35 * width
    far = [_until(ground, trusted[-1] + aside * side, way, 4 * width) for side in (0.0, -1.0, 1.0)]
    if far[0] is None:
        return line
    drop = min(
        (far[0] - other for other in far[1:] if other is not None), default=0.0
    )  # a blunt end that is met askew is farther on one side
    to = far[0] if drop < _BLUNT * width else far[0] - width / 2
    return np.vstack([trusted, trusted[-1] + way * to]) if to > 1e-6 else trusted


def _until(ground: shapely.Polygon, place: Points, way: Points, most: float) -> float | None:
    met = ground.boundary.intersection(shapely.LineString([place, place + way * most]))
    return None if met.is_empty else float(shapely.Point(place).distance(met))


def _smoothed(line: Points, closed: bool) -> Points:
    """A line without the little steps to either side that places along the outline give it."""
    if len(line) < 5:
        return line
    around = (line[-1:], line[:1]) if closed else (line[:0], line[:0])
    whole = np.vstack([around[0], line, around[1]])
    mean = (whole[:-2] + 2 * whole[1:-1] + whole[2:]) / 4
    return mean if closed else np.vstack([line[:1], mean, line[-1:]])


def _fitted(line: Points, closed: bool, width: float, tolerance: float) -> Contour | None:
    keep = np.append(True, norms(np.diff(line, axis=0)) > 1e-9)
    line = line[keep]
    if closed and len(line) > 3:
        line = line[:-1] if norms((line[0] - line[-1])[None])[0] < 1e-9 else line
    if len(line) < 2:
        return None
    scale = _PX / width
    settings = FitSettings.exact_to(max(tolerance * scale, 0.1), blur=_BLUR)
    points = _smoothed(line, closed) * scale
    counts = np.array([len(points)])
    if closed and len(line) > 3:
        made = fit_loops(resampled(points, np.array([0]), counts, 1.0), settings)[0]
    else:
        made = fit_chains(resampled_open(points, np.array([0]), counts, 1.0), settings)[0]
    return Contour.make(
        made.nodes / scale, made.kinds, made.bulges, made.handles / scale, closed=made.closed
    )
