"""Bands: what cuts take away, at their real width and with round ends; and *bodies*, the bands that
hang together, with the areas that they enclose."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

import numpy as np
import scipy
import shapely

from draxet.geometry.arrays import Ints, Points
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.nesting import uncrossed
from draxet.geometry.prepared import prepared
from draxet.job.cut_middles import is_beside, middles_in_steps
from draxet.job.operations import Side
from draxet.record import record

__all__ = [
    "Body",
    "BandedCut",
    "Cut",
    "Meets",
    "Shape",
    "array_of",
    "areas_left",
    "banded",
    "bodies_of",
    "hanging_together",
    "in_which",
    "parted_at",
    "smallest_around",
]

_FLAT = 0.02
_SPECK = 1e-3
_MOST_PAIRS = 1_000_000
"""More bands that are near each other are not looked at two by two."""

Cut = tuple[Contour, Side, float]
"""A contour, the side on which it is cut, and how wide."""


@record(frozen=True, eq=False)
class Shape:
    """A shape that is known as itself: another one of the same places is another one."""

    geometry: Any


Meets = dict[tuple[Shape, Shape], bool]
"""Of two bands that are near each other, whether they meet."""


@record(frozen=True, eq=False)
class Body:
    """Bands that hang together: a place on them, their outline, and the areas that they enclose."""

    place: Any
    outline: Shape
    holes: tuple[Shape, ...]


@record(frozen=True, eq=False)
class BandedCut:
    """Of a contour that is cut: the area inside it where it is closed, its bands, and those wider
    by what is too narrow to hold."""

    ground: Any
    bands: tuple[Shape, ...]
    wider: tuple[Shape, ...]


def array_of(shapes: Iterable[Any]) -> Any:
    """Shapes as an array of them, also of none."""
    found = list(shapes)
    made = np.empty(len(found), dtype=object)
    made[:] = found
    return made


def _lines(contours: Sequence[Contour]) -> list[Points]:
    """Contours as straight steps; a closed one's first place is not repeated."""
    spans, owner = joined_spans(contours)
    if not len(spans):
        return []
    points, counts = spans.flattened(_FLAT)
    first = np.searchsorted(owner, np.arange(len(contours)))
    runs = parted_at(points, np.cumsum(np.add.reduceat(counts, first))[:-1])
    return [
        run if contour.closed else np.vstack([run, contour.nodes[-1:]])
        for contour, run in zip(contours, runs, strict=True)
    ]


def banded(cuts: Sequence[Cut], thread: float) -> list[BandedCut]:
    """The bands of cuts, and those that are `thread` mm wider."""
    contours, widths = [cut[0] for cut in cuts], np.array([cut[2] for cut in cuts])
    lines = _lines(contours)
    runs = [
        (k, np.vstack([way, way[:1]]) if is_closed else way)
        for k, ways in enumerate(_ways(cuts, lines))
        for way, is_closed in ways
        if len(way) > 1
    ]
    of = np.array([k for k, _ in runs], dtype=np.int64)
    middles = (
        shapely.linestrings(
            np.vstack([run for _, run in runs]),
            indices=np.repeat(np.arange(len(runs)), [len(run) for _, run in runs]),
        )
        if runs
        else array_of(())
    )
    bands, wider = (
        _by_owner(shapely.buffer(middles, widths[of] / 2 + more, quad_segs=8), of, len(cuts))
        for more in (0.0, thread / 2)
    )
    return [BandedCut(*each) for each in zip(_grounds(contours, lines), bands, wider, strict=True)]


def _ways(cuts: Sequence[Cut], lines: Sequence[Points]) -> list[list[tuple[Points, bool]]]:
    """Along which lines each cut runs, and whether they are closed."""
    ways = [[(line, cut[0].closed)] for cut, line in zip(cuts, lines, strict=True)]
    beside = [k for k, (contour, side, _) in enumerate(cuts) if is_beside(contour, side)]
    contours, sides, widths = (
        zip(*(cuts[k] for k in beside), strict=True) if beside else ((), (), ())
    )
    for k, some in zip(beside, middles_in_steps(contours, sides, widths), strict=True):
        ways[k] = some
    return ways


def _by_owner(shapes: Any, of: Ints, count: int) -> list[tuple[Shape, ...]]:
    parted = parted_at(shapes, np.searchsorted(of, np.arange(1, count)))
    return [tuple(map(Shape, some)) for some in parted]


def _grounds(contours: Sequence[Contour], lines: Sequence[Points]) -> Any:
    """The area inside each contour, None of open ones."""
    found = np.full(len(contours), None, dtype=object)
    closed = [k for k, contour in enumerate(contours) if contour.closed and len(lines[k]) > 2]
    if closed:
        rings = shapely.linearrings(
            np.vstack([lines[k] for k in closed]),
            indices=np.repeat(np.arange(len(closed)), [len(lines[k]) for k in closed]),
        )
        found[closed] = uncrossed(np.atleast_1d(np.asarray(shapely.polygons(rings))))
    return found


def in_which(shapes: Any, points: Any) -> tuple[Ints, Ints]:
    """Which of the points lie in which of the shapes: the number of the shape and that of the
    point."""
    shape, point = shapely.STRtree(points).query(prepared(shapes), predicate="contains")
    return shape, point


def smallest_around(shapes: Any, points: Any) -> Ints:
    """Of each point the number of the smallest shape in which it lies; -1 where it lies in none."""
    shape, point = in_which(shapes, points)
    order = np.argsort(-shapely.area(shapes)[shape], kind="stable")
    found = np.full(len(points), -1)
    found[point[order]] = shape[order]  # the last one, the smallest, counts
    return found


def parted_at(values: Any, places: Ints) -> list[Any]:
    """An array parted before some of its places."""
    ends = places.tolist()
    return [values[a:b] for a, b in zip([0, *ends], [*ends, len(values)], strict=True)]


def hanging_together(bands: Sequence[Shape], known: Meets) -> tuple[list[list[Shape]], Meets]:
    """Those that hang together, for each such group; and of each two that are near each other
    whether they meet. `known` holds what is known of that."""
    if not bands:
        return [], {}
    areas = array_of(band.geometry for band in bands)
    first, second = shapely.STRtree(areas).query(areas)
    first, second = first[first < second], second[first < second]
    if len(first) > _MOST_PAIRS:  # nearly all are near each other: to take all together is as right
        return [list(bands)], {}
    pairs = [(bands[a], bands[b]) for a, b in zip(first.tolist(), second.tolist(), strict=True)]
    meets = [known.get(pair) for pair in pairs]
    new = np.array([k for k, met in enumerate(meets) if met is None], dtype=np.int64)
    now = np.array([bool(met) for met in meets], dtype=bool)
    asked, which = np.unique(first[new], return_inverse=True)
    now[new] = shapely.intersects(prepared(areas[asked])[which.reshape(-1)], areas[second[new]])
    tied = scipy.sparse.coo_array(
        (now[now], (first[now], second[now])), shape=(len(areas), len(areas))
    )
    label = scipy.sparse.csgraph.connected_components(tied, directed=False)[1]
    order = np.argsort(label, kind="stable")
    groups = parted_at(order, np.flatnonzero(np.diff(label[order])) + 1)
    return [[bands[k] for k in group.tolist()] for group in groups], dict(
        zip(pairs, now.tolist(), strict=True)
    )


def bodies_of(bands: Sequence[Shape]) -> tuple[Body, ...]:
    """The bodies that some bands make."""
    made = []
    for body in shapely.get_parts(shapely.union_all(array_of(band.geometry for band in bands))):
        holes = tuple(Shape(shapely.Polygon(ring)) for ring in body.interiors)
        made.append(Body(shapely.point_on_surface(body), Shape(body.exterior), holes))
    return tuple(made)


def areas_left(bodies: Sequence[Body]) -> tuple[Any, list[tuple[Shape, ...]]]:
    """What the bodies leave: each of their holes, less the bodies that lie in it and in no hole
    within; and what each is made of."""
    shapes = [hole for body in bodies for hole in body.holes]
    holes = array_of(hole.geometry for hole in shapes)
    within: list[list[Shape]] = [[] for _ in shapes]
    places = array_of(body.place for body in bodies)
    for body, hole in zip(bodies, smallest_around(holes, places).tolist(), strict=True):
        if hole >= 0:
            within[hole].append(body.outline)
    areas = array_of(
        shapely.Polygon(each.exterior, [ring.geometry for ring in rings]) if rings else each
        for each, rings in zip(holes, within, strict=True)
    )
    solid = np.flatnonzero(shapely.area(areas) > _SPECK)
    return areas[solid], [(shapes[k], *within[k]) for k in solid]
