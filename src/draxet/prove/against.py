"""What a program leaves of a sheet, held against the parts that contours bound: what is too much,
and what is missing."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from draxet.geometry.contour import Contour
from draxet.geometry.nesting import nesting_depths, polygons_of, uncrossed
from draxet.machines.rehearsal_records import Rehearsal
from draxet.record import record

__all__ = ["Against", "against", "parts_loose", "parts_of"]

_LIKE = 0.1
"""Of its area: so much a piece may differ from the part that it is."""
_ON_RIM = 0.01
_FINE = 0.005
_MOST_OF = 0.4
"""Of a part: what is left of it is that part still."""
_EVERY = 0.25
"""mm: so near to each other are the places at which edges are compared."""


@record(frozen=True, eq=False)
class Against:
    """too_much, too_little : how far what is left stands over the edge of its part, and how far it
    lies within it, at most, in mm, and where; missing : middles of
    parts of which nothing is left. parts : how many were compared; held : how many of them still
    hang on the sheet by tabs, of which too much is not told; uncut : middles of those that were not
    parted from the sheet at all."""

    too_much: float = 0.0
    too_much_at: tuple[float, float] = (0.0, 0.0)
    too_little: float = 0.0
    too_little_at: tuple[float, float] = (0.0, 0.0)
    missing: tuple[tuple[float, float], ...] = ()
    parts: int = 0
    held: int = 0
    uncut: tuple[tuple[float, float], ...] = ()


def against(
    run: Rehearsal, contours: Sequence[Contour], away: tuple[float, float] = (0.0, 0.0)
) -> Against:
    """Compare the pieces that a run leaves with the parts of closed contours, every second of
    nested ones an opening.

    Parameters
    ----------
    away : where the program's origin lies, as the contours count.
    """
    wanted = parts_of(contours, away)
    pieces = run.left
    if not wanted or not pieces:
        return Against(missing=tuple(_middle(part) for part in wanted), parts=len(wanted))
    middles = [_middle(part) for part in wanted]
    piece_at, part_in = shapely.STRtree(shapely.points(middles)).query(pieces, predicate="contains")
    of_part = dict(zip(part_in.tolist(), piece_at.tolist(), strict=True))
    tree = shapely.STRtree(pieces)
    for number in set(range(len(wanted))) - of_part.keys():  # a slit may run through its middle
        shares = {
            k: wanted[number].intersection(pieces[k]).area
            for k in tree.query(wanted[number], predicate="intersects").tolist()
        }
        best = max(shares, key=lambda k: shares[k], default=-1)
        if best >= 0 and shares[best] > _MOST_OF * wanted[number].area:
            of_part[number] = best
    stock = run.stock
    rim = shapely.box(stock.x, stock.y, stock.x + stock.width, stock.y + stock.height).exterior
    on_rim = [bool(piece.distance(rim) < _ON_RIM) for piece in pieces]
    much, little = (0.0, (0.0, 0.0)), (0.0, (0.0, 0.0))
    missing, uncut, held = [], [], 0
    for number, part in enumerate(wanted):
        if number not in of_part:
            missing.append(middles[number])
            continue
        piece = pieces[of_part[number]]
        if not on_rim[of_part[number]]:
            much, little = (
                max(much, _beyond(piece, part), key=lambda each: each[0]),
                max(little, _beyond(part, piece), key=lambda each: each[0]),
            )
        elif _hangs(piece, part, run):
            held, little = held + 1, max(little, _beyond(part, piece), key=lambda each: each[0])
        else:
            uncut.append(middles[number])
    return Against(
        much[0], much[1], little[0], little[1], tuple(missing), len(wanted), held, tuple(uncut)
    )


def _hangs(piece: Any, part: Any, run: Rehearsal) -> bool:
    """Whether a part is cut nearly all round, and hangs on what is round it by tabs: then nobody
    can say what of that is too much."""
    beside = part.buffer(float(run.width[run.work].max(initial=0.0)) / 2).exterior
    return bool(beside.difference(piece).length > 0.6 * beside.length)


def parts_of(contours: Sequence[Contour], away: tuple[float, float] = (0.0, 0.0)) -> list[Any]:
    """The areas that closed contours bound, every second of nested ones an opening, as a program
    counts whose origin lies `away`."""
    closed = [contour for contour in contours if contour.closed]
    if not closed:
        return []
    shapes, depths = uncrossed(polygons_of(closed, _FINE)), nesting_depths(closed)
    found = []
    openings = np.flatnonzero(depths % 2 == 1)
    tree = shapely.STRtree(shapes[openings])
    for k in np.flatnonzero(depths % 2 == 0).tolist():
        inside = [
            n
            for n in openings[tree.query(shapes[k], predicate="intersects")].tolist()
            if depths[n] == depths[k] + 1
        ]
        found += [
            part
            for part in shapely.get_parts(
                shapes[k].difference(shapely.union_all(shapes[inside])) if inside else shapes[k]
            )
            if not part.is_empty
        ]
    return list(
        shapely.transform(np.array(found, dtype=object), lambda points: points - np.array(away))
    )


def parts_loose(run: Rehearsal, parts: Sequence[Any]) -> list[int | None]:
    """For each piece that comes loose the number of the part that it is; None where it is waste."""
    found: list[int | None] = []
    tree = shapely.STRtree(list(parts))
    for piece in run.loose:
        near = [
            k
            for k in tree.query(piece.shape, predicate="intersects").tolist()
            if abs(shapely.Polygon(parts[k].exterior).area - piece.area) < _LIKE * piece.area
        ]
        best = max(near, key=lambda k: float(parts[k].intersection(piece.shape).area), default=None)
        found.append(
            best
            if best is not None
            and parts[best].intersection(piece.shape).area > (1 - _LIKE) * parts[best].area
            else None
        )
    return found


def _beyond(shape: Any, other: Any) -> tuple[float, tuple[float, float]]:
    """How far the edge of a shape lies outside another one at most, and where."""
    edge = shapely.get_coordinates(shapely.segmentize(shape.boundary, _EVERY))
    off = shapely.distance(shapely.points(edge), other)
    k = int(off.argmax())
    return float(off[k]), (float(edge[k, 0]), float(edge[k, 1]))


def _middle(part: Any) -> tuple[float, float]:
    spot = part.representative_point()
    return float(spot.x), float(spot.y)
