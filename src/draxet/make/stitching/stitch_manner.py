"""How an area is sewn: in rows, from side to side, along its rim, or as suits it: from side to side
where it is narrow for most of its length, in rows where it is not, and both where only a limb is
narrow."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache
from typing import Literal

import numpy as np
import shapely

from draxet.geometry.arrays import Points
from draxet.make.stitching.satin_columns import Column, columns_of, led_across
from draxet.make.stitching.satin_corners import cornered
from draxet.make.stitching.satin_stitches import satin
from draxet.make.stitching.stitch_fill import Fill, Place, filled, way_inside
from draxet.record import record

__all__ = ["Portion", "broadest_column", "portions", "rim_of", "sewn_area"]

_MOST = 0.8
"""Of a column's length so much must be narrow."""
_LOST, _LOST_AS_TOLD = 0.015, 0.04
"""Of an area so much may lie outside of what its columns sweep over, or the other way round; more where satin
was asked for."""
_LIMB, _ONE, _EVEN, _ROOT, _LEAST, _SEAM = 1.5, 0.6, 1.35, 0.75, 4.0, 0.6
"""A limb is so many times as long as broad, that share of it one column, hardly anywhere so many times as broad as in the middle, at its root no broader than
that share of the longest stitch, has so many mm², and reaches so many mm over what it hangs on."""


@record(frozen=True, eq=False)
class Portion:
    """A part of an area and whether it is sewn from side to side, along `columns` then."""

    shape: shapely.Geometry
    columns: tuple[Column, ...] = ()


def sewn_area(
    area: shapely.Geometry,
    fill: Fill,
    start: Place,
    end: Place,
    leads: Sequence[tuple[Points, Points]] = (),
) -> list[Points]:
    """The runs (n, 2) that sew an area, in mm, from a place on and to another one; satin is led
    across between pairs of places."""
    found, left = list[Points](), portions(area, fill)
    rows = next((each.shape for each in left if not each.columns), None)
    while left:
        across = [each for each in left if each.columns]
        portion = min(across or left, key=lambda each: _away(each.shape, start))
        left = [each for each in left if each is not portion]
        if portion.columns:
            columns = cornered(portion.columns, portion.shape, fill.corners)
            columns = [led_across(column, leads) for column in columns]
            runs = satin(portion.shape, fill, start, None if left else end, columns)
            if found and runs and rows is not None:
                runs[0] = np.vstack([_between(rows, fill, found[-1][-1], runs[0][0]), runs[0]])
        else:
            runs = filled(portion.shape, fill, start, end)
        found += runs
        if found:
            start = (float(found[-1][-1, 0]), float(found[-1][-1, 1]))
    return found


def _away(shape: shapely.Geometry, place: Place) -> float:
    return 0.0 if place is None else float(shapely.distance(shape, shapely.Point(place)))


def _between(rows: shapely.Geometry, fill: Fill, begin: Points, end: Points) -> Points:
    """A way from one limb to another under the rows that they both hang on; nothing where they hang
    on none."""
    two = shapely.points([begin, end])
    for part in shapely.get_parts(rows):
        if float(shapely.distance(two, part).max()) < _SEAM:
            return way_inside(part, fill, begin, end)
    return np.zeros((0, 2))


def portions(area: shapely.Geometry, fill: Fill) -> list[Portion]:
    """What of an area is sewn in which manner: satin first, as ways from one limb to another lead
    under rows that come later."""
    if fill.manner == "fill":
        return [Portion(area)]
    rows, across = list[shapely.Geometry](), list[Portion]()
    for part in shapely.get_parts(area):
        columns = _narrow(part, fill) if _may_be_narrow(part, fill) else ()
        if columns:
            across.append(Portion(part, columns))
        elif fill.manner == "satin":
            rows.append(part)
        else:
            body, limbs = _without_limbs(part, fill)
            rows += [each for each in shapely.get_parts(body) if shapely.area(each) > 0]
            across += limbs
    return [*across, *([Portion(shapely.GeometryCollection(rows))] if rows else [])]


def broadest_column(area: shapely.Geometry) -> float:
    """How broad the columns of an area are where most of their length is no broader, in mm."""
    parts = shapely.get_parts(area)
    found = [column.breadths for part in parts for column in _columns(shapely.to_wkb(part))]
    return float(np.quantile(np.concatenate(found), _MOST)) if found else math.inf


@lru_cache(maxsize=500)
def _columns(outline: bytes) -> tuple[Column, ...]:
    """The columns of a polygon (WKB), kept as other settings are mostly tried on the same ones."""
    return tuple(columns_of(shapely.from_wkb(outline)))


def rim_of(line: shapely.Geometry, width: float, *, mitred: bool = True) -> shapely.Geometry:
    """What a border along lines covers, in mm: half of its width on each side, its corners mitred or
    rounded."""
    join: Literal["mitre", "round"] = "mitre" if mitred else "round"
    return shapely.buffer(line, width / 2, cap_style="flat", join_style=join, mitre_limit=2.5)


def _may_be_narrow(part: shapely.Geometry, fill: Fill) -> bool:
    """Whether it can be worth looking: told at once of what is plainly broad."""
    if fill.manner == "satin":
        return True
    left = shapely.area(shapely.buffer(part, -fill.split / 2 * 1.02, quad_segs=4))
    return bool(left <= (1 - _MOST) * shapely.area(part))


def _narrow(part: shapely.Geometry, fill: Fill) -> tuple[Column, ...]:
    """The columns of a part where they are much the same as it, and most of their length is narrow or
    that does not matter."""
    columns = _columns(shapely.to_wkb(part))
    if not columns:
        return ()
    if fill.manner != "satin":
        breadths = np.concatenate([column.breadths for column in columns])
        if float((breadths <= fill.split).mean()) < _MOST:
            return ()
    swept = shapely.union_all([column.shape for column in columns])
    lost = shapely.area(shapely.symmetric_difference(swept, part)) / shapely.area(part)
    return columns if lost <= (_LOST_AS_TOLD if fill.manner == "satin" else _LOST) else ()


def _is_long(columns: Sequence[Column]) -> bool:
    """Whether most of some columns is one that is longer than broad, and broad alike."""
    lengths = [float(np.hypot(*np.diff(each.middle, axis=0).T).sum()) for each in columns]
    half, most = np.quantile(np.concatenate([each.breadths for each in columns]), (0.5, 0.9))
    return bool(max(lengths) > max(_LIMB * half, _ONE * sum(lengths)) and most < _EVEN * half)


def _without_limbs(part: shapely.Geometry, fill: Fill) -> tuple[shapely.Geometry, list[Portion]]:
    """What is left of a part without its narrow limbs, and these."""
    radius = fill.split / 2
    broad = shapely.buffer(shapely.buffer(part, -radius, quad_segs=8), radius * 1.05, quad_segs=8)
    limbs = list[Portion]()
    for limb in shapely.get_parts(shapely.difference(part, broad)):
        if shapely.area(limb) < _LEAST:
            continue
        root = shapely.length(shapely.intersection(limb, shapely.buffer(broad, 1e-3)))
        mouths = len(shapely.get_parts(shapely.intersection(shapely.buffer(limb, 1e-3), broad)))
        if root / max(mouths, 1) > 2 * _ROOT * fill.split:
            continue
        with_seam = shapely.intersection(part, shapely.buffer(limb, _SEAM, join_style="mitre"))
        columns = _narrow(with_seam, fill) if isinstance(with_seam, shapely.Polygon) else ()
        if columns and _is_long(columns):
            limbs.append(Portion(with_seam, columns))
            part = shapely.difference(part, limb)
    return part, limbs
