"""Falls or stays: what of the material hangs together once every cut has run, what drops out, and what hangs by a thread."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from draxet.geometry.arrays import Points
from draxet.geometry.contour import joined_spans
from draxet.job.records import ContourItem, Job, Side
from draxet.job.work import cut_centre_lines

__all__ = ["Fallout", "Piece", "fallout_of"]

_FLAT = 0.02
_SPECK = 1e-3
"""mm²: a smaller piece is dust."""


@dataclass(frozen=True, eq=False)
class Piece:
    """What hangs together. rings : its outline and its holes, (n, 2) each; area in mm²; place : one inside it; falls : whether it drops out,
    wanted : whether that is meant; threads : places at which it is narrower than it should be."""

    rings: tuple[Points, ...]
    area: float
    place: tuple[float, float]
    falls: bool
    wanted: bool = False
    threads: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True, eq=False)
class Fallout:
    """All pieces, the largest first."""

    pieces: tuple[Piece, ...]

    @property
    def unwanted(self) -> list[Piece]:
        return [piece for piece in self.pieces if piece.falls and not piece.wanted]


def fallout_of(job: Job, items: Sequence[ContourItem], width: float, thread: float, kept: Sequence[tuple[float, float]] = ()) -> Fallout:
    """What stays and what falls, of the area inside the outermost contours.

    Parameters
    ----------
    items : the contours that are cut. width : of a cut that no operation says, in mm. thread : what is narrower hangs by a thread. kept :
    places of what stays in the hand; without any the largest piece in each outermost contour.
    """
    lines = _lines(items)
    rings = [line for item, line in zip(items, lines, strict=True) if item.contour.closed and len(line) > 2]
    if not rings:
        return Fallout(())
    grounds = np.array([shapely.Polygon(ring) for ring in rings])
    crossed = ~shapely.is_valid(grounds)
    grounds[crossed] = shapely.buffer(grounds[crossed], 0)
    whole = shapely.union_all(_outermost(grounds))
    cuts = shapely.union_all(_cuts(job, items, lines, width))
    parts = [part for part in shapely.get_parts(shapely.difference(whole, cuts)) if part.area > _SPECK]
    parts.sort(key=lambda part: -part.area)
    stays = _staying(parts, list(shapely.get_parts(whole)), kept)
    wanted = [shapely.Point(*place) for place in job.drop_outs]
    pieces = []
    for number, part in enumerate(parts):
        spot = shapely.point_on_surface(part)
        falls = number not in stays
        meant = falls and any(part.contains(place) for place in wanted)
        pieces.append(Piece(_rings(part), part.area, (spot.x, spot.y), falls, meant, () if falls else _threads(part, thread)))
    return Fallout(tuple(pieces))


def _outermost(grounds: Any) -> Any:
    """Those of the polygons that lie in no other one."""
    shapely.prepare(grounds)
    outer, inner = shapely.STRtree(grounds).query(grounds, predicate="contains_properly")
    return np.delete(grounds, np.unique(inner)) if len(outer) else grounds


def _lines(items: Sequence[ContourItem]) -> list[Points]:
    """Contours as straight steps; a closed one's first place is not repeated."""
    spans, owner = joined_spans([item.contour for item in items])
    if not len(spans):
        return []
    points, counts = spans.flattened(_FLAT)
    first = np.searchsorted(owner, np.arange(len(items)))
    ends = np.cumsum(np.add.reduceat(counts, first))
    runs = np.split(points, ends[:-1])
    return [run if item.contour.closed else np.vstack([run, item.contour.nodes[-1:]]) for item, run in zip(items, runs, strict=True)]


def _cuts(job: Job, items: Sequence[ContourItem], lines: Sequence[Points], width: float) -> Any:
    """All cuts at their real width, with round ends."""
    ways, halves = [], []
    for item, line in zip(items, lines, strict=True):
        operation = job.operation_of.get(item.id)
        wide = operation.width if operation else width
        on = operation is None or operation.side is Side.ON or not item.contour.closed
        for points, is_closed in [(line, item.contour.closed)] if on or operation is None else cut_centre_lines(item.contour, operation.side, wide):
            if len(points) > 1:
                ways.append(shapely.LineString(np.vstack([points, points[:1]]) if is_closed else points))
                halves.append(wide / 2)
    return shapely.buffer(np.array(ways), np.array(halves), quad_segs=8)


def _staying(parts: Sequence[Any], grounds: Sequence[Any], kept: Sequence[tuple[float, float]]) -> set[int]:
    if kept:
        places = [shapely.Point(*place) for place in kept]
        pointed = {k for k, part in enumerate(parts) if any(part.contains(place) for place in places)}
        if pointed:
            return pointed
    stays = set()
    for ground in grounds:
        inside = [k for k, part in enumerate(parts) if ground.contains(shapely.point_on_surface(part))]
        if inside:
            stays.add(inside[0])
    return stays


def _threads(part: Any, thread: float) -> tuple[tuple[float, float], ...]:
    """Where a piece is so narrow that it would part if it lost so much: what an opening of its shape leaves over between two of its parts."""
    opened = part.buffer(-thread / 2).buffer(thread / 2 * 1.02)
    if len(shapely.get_parts(opened)) < 2:
        return ()
    left = [each for each in shapely.get_parts(shapely.difference(part, opened)) if each.area > _SPECK]
    solid = shapely.get_parts(opened)
    return tuple((each.centroid.x, each.centroid.y) for each in left if sum(each.distance(one) < thread * 0.1 for one in solid) > 1)


def _rings(part: Any) -> tuple[Points, ...]:
    return tuple(np.asarray(ring.coords)[:-1] for ring in (part.exterior, *part.interiors))
