"""How small contours can be made before a wall, a gap or a tip of them no longer survives."""

from __future__ import annotations

import math

import numpy as np
import shapely

from draxet.geometry.arrays import Floats
from draxet.geometry.contour import Contour
from draxet.job.limit_edits import area_in_hand
from draxet.progress import Progress, Unwatched
from draxet.record import record

__all__ = ["HowSmall", "how_small", "smallest_of"]

_FIRST, _WIDER, _STEPS = 1e-3, 1.3, 15
"""Discs are tried from that share of the shorter side on, each so many times as broad; between the
last that gets everywhere and the first that does not, so often in halves."""
_TIP = 0.05
"""A tip survives where no more of it is lost than that share of the shape's shorter side."""
_BLUNT = 0.5
"""Of the disc: a corner of which no more is lost, of 60° and more, is no tip."""
_PLAIN = 2e-4
"""Of that side: so exactly the shape is looked at."""
_JUST = 1.02
_ROUND = 8
"""Spans of a quarter of a circle."""


@record(frozen=True)
class HowSmall:
    """scale : times its size now, at the least. what : decides that, a ``wall``, a ``gap`` or a
    ``tip``; x, y : where."""

    scale: float
    what: str
    x: float
    y: float


def how_small(
    shape: shapely.Geometry, cut: float, feature: float, report: Progress = Unwatched()
) -> HowSmall | None:
    """How small a shape can be made so that every wall of it stays as broad as a feature, every gap
    and opening takes the cut, and no tip is lost; None of what has no area.

    Parameters
    ----------
    shape : what stays, in mm. cut : as broad as that is what goes along it, in mm; feature : the
    least that holds, in mm.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    if shapely.area(shape) <= 0:
        return None
    x0, y0, x1, y1 = shapely.bounds(shape).tolist()
    side = min(x1 - x0, y1 - y0)
    plain = shapely.make_valid(shapely.simplify(shape, _PLAIN * side))
    middle, reach = shapely.Point((x0 + x1) / 2, (y0 + y1) / 2), math.hypot(x1 - x0, y1 - y0)
    waste = shapely.difference(shapely.buffer(middle, 3 * reach, quad_segs=32), plain)
    found = []
    for number, (of, need, word) in enumerate(((plain, feature, "wall"), (waste, cut, "gap"))):
        least, what, place = _narrowest(
            of, side, word, lambda s, n=number: report((n + s) / 2, "looking how small it can be")
        )
        found.append(HowSmall(need / least, what, place.x, place.y))
    return max(found, key=lambda each: each.scale)


def _narrowest(
    shape: shapely.Geometry, side: float, word: str, report: object
) -> tuple[float, str, shapely.Point]:
    """How broad a disc can be that gets everywhere in a shape, what stops a broader one, and
    where."""
    assert callable(report)
    low, high = 0.0, _FIRST * side
    while _stopped(shape, high, side) is None:  # what stops one need not stop a far broader one
        low, high = high, high * _WIDER
        report(0.5 * min(math.log(high / _FIRST / side) / -math.log(_FIRST), 1.0))
        if low > side:
            return math.inf, word, shapely.point_on_surface(shape)
    for step in range(_STEPS):
        report(0.5 + 0.5 * step / _STEPS)
        middle = (low + high) / 2
        if _stopped(shape, middle, side) is None:
            low = middle
        else:
            high = middle
    least = low or high
    stopped = _stopped(shape, max(high, least) * _JUST, side)
    if stopped is None:
        return least, word, shapely.point_on_surface(shape)
    lost, is_tip = stopped
    part = lost[int(_share_new(lost, _lost(shape, least / _JUST)[0]).argmax())]
    return least, "tip" if is_tip and word == "wall" else word, shapely.point_on_surface(part)


def _stopped(
    shape: shapely.Geometry, broad: float, side: float
) -> tuple[list[shapely.Geometry], bool] | None:
    """The parts of a shape that a disc of a diameter does not get to, and whether they are tips
    alone, where these are more than rounded corners; None where there are none."""
    lost, inner, opened = _lost(shape, broad)
    parts, left = shapely.get_parts(shape), shapely.get_parts(inner)
    if not lost:
        return None
    if shapely.is_empty(inner) or len(left) != len(parts) or _openings(inner) != _openings(shape):
        return lost, False
    most = max(_TIP * side, _BLUNT * broad)
    tips = _reaching(lost, opened, most)
    return (tips, True) if tips else None


def _lost(
    shape: shapely.Geometry, broad: float
) -> tuple[list[shapely.Geometry], shapely.Geometry, shapely.Geometry]:
    """What a disc of a diameter does not get to, where its middle gets, and what it gets to."""
    inner = shapely.buffer(shape, -broad / 2, quad_segs=_ROUND)
    opened = shapely.buffer(inner, broad / 2 * 1.001, quad_segs=_ROUND)
    lost = shapely.get_parts(shapely.difference(shape, opened))
    return [part for part in lost if shapely.area(part) > 1e-4 * broad * broad], inner, opened


def _openings(shape: shapely.Geometry) -> int:
    return sum(shapely.get_num_interior_rings(part) for part in shapely.get_parts(shape))


def _reaching(
    lost: list[shapely.Geometry], opened: shapely.Geometry, most: float
) -> list[shapely.Geometry]:
    """Those parts that reach farther than that from what the disc gets to."""
    corners, of = shapely.get_coordinates(lost, return_index=True)
    shapely.prepare(opened)
    far = ~shapely.dwithin(opened, shapely.points(corners), most)
    return [lost[k] for k in np.unique(of[far])]


def _share_new(lost: list[shapely.Geometry], before: list[shapely.Geometry]) -> Floats:
    """Of each part, how much of it does not lie in any of those before."""
    parts = np.array(lost, dtype=object)
    one, other = shapely.STRtree(before).query(parts, predicate="intersects")
    old = np.zeros(len(parts))
    for k in np.unique(one):
        there = shapely.union_all([before[j] for j in other[one == k]])
        old[k] = shapely.area(shapely.intersection(parts[k], there))
    shares: Floats = 1.0 - old / shapely.area(parts)
    return shares


def smallest_of(
    report: Progress,
    contours: tuple[Contour, ...],
    widths: tuple[float, ...],
    cut: float,
    feature: float,
) -> HowSmall | None:
    """The same of contours, of which open ones are as broad as their line."""
    return how_small(area_in_hand(contours, widths), cut, feature, report)
