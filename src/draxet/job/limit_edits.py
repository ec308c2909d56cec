"""The limit: taken from contours, moved, and the room that it leaves."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

import shapely

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import area_of
from draxet.job.records import Job
from draxet.job.sheet_records import Limit

__all__ = [
    "OWN",
    "area_in_hand",
    "limit_from",
    "limit_moved",
    "limit_resized",
    "limit_room",
    "with_hole",
]

OWN = "own outline"
"""What a limit that a contour was taken for is called at first."""
_FINE = 0.02
_HAIR = 0.01
"""mm: as broad is a line that has no breadth of its own."""


def limit_from(job: Job, ids: Iterable[str]) -> Limit | None:
    """The largest of closed contours of the layout as the limit of the sheet in hand, the others
    that lie in it as holes that are kept clear; None where none is closed."""
    items = [job.layout.contour_by_id[name].contour for name in ids]
    closed = sorted((each for each in items if each.closed), key=lambda each: -abs(each.area))
    if not closed:
        return None
    back = Affine.moved(-job.sheet.x, -job.sheet.y)
    outer, *others = [contour.transformed(back) for contour in closed]
    room = area_of([outer])
    return Limit(OWN, outer, tuple(each for each in others if room.covers(area_of([each]))))


def with_hole(limit: Limit, hole: Contour) -> Limit:
    """A limit with one more hole, or without it where it has it; both as the sheet counts."""
    left = tuple(each for each in limit.holes if each != hole)
    return replace(limit, holes=left if len(left) < len(limit.holes) else (*limit.holes, hole))


def limit_resized(limit: Limit, x: float, y: float) -> Limit:
    """A limit so many times as wide and as high; its lower left stays."""
    by = Affine.scaled(x, y).about(*limit.outline.box[:2])
    return replace(
        limit,
        outline=limit.outline.transformed(by),
        holes=tuple(hole.transformed(by) for hole in limit.holes),
    )


def limit_moved(limit: Limit, dx: float, dy: float) -> Limit:
    """A limit elsewhere, by mm."""
    by = Affine.moved(dx, dy)
    return replace(
        limit,
        outline=limit.outline.transformed(by),
        holes=tuple(hole.transformed(by) for hole in limit.holes),
    )


def limit_room(limit: Limit, margin: float = 0.0) -> shapely.Geometry:
    """What a limit leaves, as its sheet counts, so many mm within it and clear of its holes."""
    room = shapely.make_valid(shapely.Polygon(limit.outline.flattened(_FINE)))
    holes = shapely.union_all([area_of([hole]) for hole in limit.holes])
    return shapely.difference(
        shapely.buffer(room, -margin, quad_segs=16), shapely.buffer(holes, margin, quad_segs=16)
    )


def area_in_hand(contours: Sequence[Contour], widths: Sequence[float]) -> shapely.Geometry:
    """What contours cover: closed ones their area by even-odd, all of them their line, as broad as
    that is."""
    closed = area_of([each for each in contours if each.closed])
    lines = [
        shapely.buffer(shapely.LineString(each.flattened(_FINE)), max(width, _HAIR) / 2)
        for each, width in zip(contours, widths, strict=True)
        if not each.closed
    ]
    rims = [
        shapely.buffer(shapely.boundary(area_of([each])), width / 2)
        for each, width in zip(contours, widths, strict=True)
        if each.closed and width > 0
    ]
    return shapely.union_all([closed, *lines, *rims])
