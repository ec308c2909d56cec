"""Falls or stays: what of the material hangs together once every cut has run, what drops out, and
what hangs by a thread.

Every cut is a *band*, at its real width and with round ends. Bands that meet make a *body*.
Material lies in the holes of the bodies, less what lies in them in turn, so nothing but the bodies
has to be worked out; those that an edit does not touch are kept from one look to the next.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from threading import Lock
from typing import Any

import numpy as np
import shapely

from draxet.geometry.arrays import Ints, Points
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.nesting import uncrossed
from draxet.job.bridges import cuts_held, cuts_of
from draxet.job.contour_records import ContourItem
from draxet.job.operations import Side
from draxet.job.records import Job
from draxet.job.work import cut_centre_lines
from draxet.progress import Progress, Unwatched
from draxet.record import record

__all__ = ["Fallout", "Falls", "Piece"]

_FLAT = 0.02
_SPECK = 1e-3
"""mm²: a smaller piece is dust."""
_MOST_PAIRS = 1_000_000
"""More bands that are near each other are not looked at two by two."""
_SLIVER = 0.05
"""mm: what is narrower in the mean is no piece but a difference between two flattened lines."""
_WIDEST = 20.0
"""mm: what is broader than that is no thread and no thin wall, whatever is wanted."""

_Cut = tuple[Contour, Side, float]
"""A contour, the side on which it is cut, and how wide."""
_Meets = dict[tuple[int, int], bool]


@record(frozen=True, eq=False)
class Piece:
    """What hangs together. rings : its outline and its holes, (n, 2) each; area in mm²; place : one
    inside it; falls : whether it drops out,
    wanted : whether that is meant; depth : how many closed contours it lies in; threads : places at
    which it would part if it were narrowed; walls : where too little is left between two of its
    edges."""

    rings: tuple[Points, ...]
    area: float
    place: tuple[float, float]
    falls: bool
    wanted: bool = False
    depth: int = 0
    threads: tuple[tuple[float, float], ...] = ()
    walls: tuple[Wall, ...] = ()


@record(frozen=True)
class Wall:
    """The middle of what is left between two edges, and its width in mm."""

    x: float
    y: float
    left: float


@record(frozen=True, eq=False)
class Fallout:
    """All pieces, the largest first."""

    pieces: tuple[Piece, ...]

    @property
    def islands(self) -> list[Piece]:
        """Those that fall though they are no waste: what stands inside an opening and goes with
        it."""
        return [piece for piece in self.unwanted if piece.depth >= 3 and piece.depth % 2]

    @property
    def unwanted(self) -> list[Piece]:
        return [piece for piece in self.pieces if piece.falls and not piece.wanted]


@record(frozen=True, eq=False)
class _Body:
    """Bands that hang together: a place on them, their outline, and the areas that they enclose."""

    place: Any
    outline: Any
    holes: tuple[Any, ...]


@record(frozen=True, eq=False)
class _Known:
    """Of a contour that is cut: the area inside it where it is closed, its bands, and those wider
    by what is too narrow to hold."""

    ground: Any
    bands: tuple[Any, ...]
    wider: tuple[Any, ...]


class Falls:
    """Looks at a job again and again; what the last look worked out and no edit touched is not
    worked out again."""

    def __init__(self) -> None:
        self._one_at_a_time = Lock()
        self._thread = 0.0
        self._known: dict[_Cut, _Known] = {}
        self._meets: _Meets = {}
        self._bodies: dict[tuple[int, ...], tuple[tuple[Any, ...], tuple[_Body, ...]]] = {}
        self._threads: dict[
            tuple[int, ...], tuple[tuple[Any, ...], tuple[tuple[float, float], ...]]
        ] = {}
        self._edges: dict[int, tuple[Any, Any]] = {}
        """By its id: what bounds a piece, and the ring of it."""
        self._walls: dict[tuple[int, int], Wall] = {}

    def of(
        self,
        job: Job,
        items: Sequence[ContourItem],
        width: float,
        thread: float,
        kept: Sequence[tuple[float, float]] = (),
        report: Progress = Unwatched(),
    ) -> Fallout:
        """What stays and what falls, of the area inside the outermost contours.

        Parameters
        ----------
        items : the contours that are cut; those that are only worked otherwise part nothing.
        width : of a cut that no operation says, in mm. thread : what is narrower hangs by a
        thread, at most 20 mm. kept : places of what stays in the hand; without any the largest
        piece in each outermost contour that is in no opening of it.
        """
        with self._one_at_a_time:
            return self._of(job, items, width, min(thread, _WIDEST), kept, report)

    def _of(
        self,
        job: Job,
        items: Sequence[ContourItem],
        width: float,
        thread: float,
        kept: Sequence[tuple[float, float]],
        report: Progress,
    ) -> Fallout:
        cuts = cuts_of(
            job,
            [item for item in items if item.id in job.cut_of or item.id not in job.worked],
            width,
        )
        whole, held = (
            [(cut.contour, cut.side, cut.width) for cut in some]
            for some in (cuts, cuts_held(cuts, job.bridges).cuts)
        )
        grounds_of, known = self._learn(dict.fromkeys(whole), dict.fromkeys(held), thread)
        report(0.2, "what falls")
        bodies, wider = self._hung_together(
            [
                _array(all_bands)
                for all_bands in (
                    (b for k in known for b in k.bands),
                    (b for k in known for b in k.wider),
                )
            ]
        )
        report(0.5, "what falls")
        grounds = _outermost(_array(k.ground for k in grounds_of if k.ground is not None))
        parts, made_of = _parts(bodies)
        hung = _hung(grounds, bodies) if job.bridges else _array(())
        parts, made_of = (
            np.concatenate([parts, hung]),
            [*made_of, *((shapely.Polygon(each.exterior), *each.interiors) for each in hung)],
        )
        report(0.6, "what falls")
        spots = shapely.point_on_surface(parts)
        ground = np.full(len(parts), -1)
        shape, spot = _pairs(grounds, spots)
        ground[spot] = shape
        area = shapely.area(parts)
        order = [k for k in np.argsort(-area, kind="stable").tolist() if ground[k] >= 0]
        parts, spots, area, made_of = (
            parts[order],
            spots[order],
            area[order],
            [made_of[k] for k in order],
        )
        depths = np.bincount(
            _pairs(_array(k.ground for k in grounds_of if k.ground is not None), spots)[1],
            minlength=len(parts),
        )
        stays = _staying(
            parts,
            ground[order],
            depths,
            kept,
            {k for k, part in enumerate(parts) if any(part is each for each in hung)},
        )
        report(0.7, "what falls")
        threads = self._thread_places(parts, stays, made_of, _parts(wider)[0])
        report(0.8, "what falls")
        walls = self._thin_walls(stays, made_of, thread)
        report(0.9, "what falls")
        wanted = (
            set(
                _pairs(parts, _array(shapely.Point(each.x, each.y) for each in job.drop_outs))[
                    0
                ].tolist()
            )
            - stays
        )
        return Fallout(
            tuple(
                Piece(
                    rings,
                    size,
                    (spot.x, spot.y),
                    k not in stays,
                    k in wanted,
                    int(depths[k]),
                    threads.get(k, ()),
                    walls.get(k, ()),
                )
                for k, (rings, size, spot) in enumerate(
                    zip(_rings(parts), area.tolist(), spots, strict=True)
                )
            )
        )

    def _learn(
        self, whole: Iterable[_Cut], held: Iterable[_Cut], thread: float
    ) -> tuple[list[_Known], list[_Known]]:
        """What is known of each cut as a whole and as bridges leave it, and only that is
        remembered."""
        if thread != self._thread:
            self._thread, self._known, self._threads, self._edges, self._walls = (
                thread,
                {},
                {},
                {},
                {},
            )
        old, cuts = self._known, dict.fromkeys((*whole, *held))
        new = [cut for cut in cuts if cut not in old]
        fresh = dict(zip(new, _learned(new, thread) if new else (), strict=True))
        self._known = {cut: old.get(cut) or fresh[cut] for cut in cuts}
        return [self._known[cut] for cut in whole], [self._known[cut] for cut in held]

    def _hung_together(self, layers: Sequence[Any]) -> list[list[_Body]]:
        """The bodies of each layer of bands. What is known of the same bands is taken over: the
        last look holds them, so that their ids are theirs."""
        old, met = self._bodies, self._meets
        self._bodies, self._meets = {}, {}
        found = []
        for bands in layers:
            groups, meets = _meeting(bands, met)
            self._meets |= meets
            keys = [tuple(id(bands[k]) for k in together) for together in groups]
            self._bodies |= {
                key: old.get(key) or (tuple(bands[some]), _bodies(bands[some]))
                for key, some in zip(keys, groups, strict=True)
            }
            found.append([body for key in keys for body in self._bodies[key][1]])
        return found

    def _thread_places(
        self, parts: Any, stays: set[int], made_of: Sequence[tuple[Any, ...]], narrowed: Any
    ) -> dict[int, tuple[tuple[float, float], ...]]:
        """The threads of each piece that stays: only a piece that falls apart when it is narrowed
        has any."""
        old, self._threads = self._threads, {}
        around = _array(made[0] for made in made_of)
        inside = _narrowest(around, shapely.get_point(shapely.get_exterior_ring(narrowed), 0))
        found = {}
        for number in np.flatnonzero(
            np.bincount(inside[inside >= 0], minlength=len(parts)) > 1
        ).tolist():
            if number in stays:
                key = tuple(id(each) for each in made_of[number])
                self._threads[key] = old.get(key) or (
                    made_of[number],
                    _threads(parts[number], self._thread),
                )
                found[number] = self._threads[key][1]
        return found

    def _thin_walls(
        self, stays: set[int], made_of: Sequence[tuple[Any, ...]], thread: float
    ) -> dict[int, tuple[Wall, ...]]:
        """For each piece that stays where two of its edges, as two holes or a hole and the rim, are
        nearer to each other than they should be. Only edges that were not there at the last look
        are looked at."""
        bounds = [(number, each) for number in sorted(stays) for each in made_of[number]]
        known = self._edges
        self._edges = {
            id(each): known.get(id(each))
            or (each, each if each.geom_type != "Polygon" else each.exterior)
            for _, each in bounds
        }
        rings = _array(self._edges[id(each)][1] for _, each in bounds)
        new = np.array(
            [k for k, (_, each) in enumerate(bounds) if id(each) not in known], dtype=np.int64
        )
        self._walls = {
            pair: wall
            for pair, wall in self._walls.items()
            if pair[0] in self._edges and pair[1] in self._edges
        }
        if len(new):
            row, other = shapely.STRtree(rings).query(
                rings[new], predicate="dwithin", distance=thread
            )
            one = new[row]
            apart = one != other
            one, other = one[apart], other[apart]
            ends = shapely.get_coordinates(shapely.shortest_line(rings[one], rings[other])).reshape(
                -1, 2, 2
            )
            for a, b, (x, y), wide in zip(
                one.tolist(),
                other.tolist(),
                ends.mean(axis=1).tolist(),
                np.hypot(*(ends[:, 1] - ends[:, 0]).T).tolist(),
                strict=True,
            ):
                low, high = sorted((id(bounds[a][1]), id(bounds[b][1])))
                self._walls[low, high] = Wall(x, y, wide)
        piece_of = {id(each): number for number, each in bounds}
        found: dict[int, list[Wall]] = {}
        for (low, high), wall in self._walls.items():
            if piece_of[low] == piece_of[high]:
                found.setdefault(piece_of[low], []).append(wall)
        return {number: tuple(walls) for number, walls in found.items()}


def _array(shapes: Iterable[Any]) -> Any:
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
    runs = _parted(points, np.cumsum(np.add.reduceat(counts, first))[:-1])
    return [
        run if contour.closed else np.vstack([run, contour.nodes[-1:]])
        for contour, run in zip(contours, runs, strict=True)
    ]


def _learned(cuts: Sequence[_Cut], thread: float) -> list[_Known]:
    contours, sides, widths = (
        [cut[0] for cut in cuts],
        [cut[1] for cut in cuts],
        [cut[2] for cut in cuts],
    )
    lines = _lines(contours)
    beside = [k for k, contour in enumerate(contours) if contour.closed and sides[k] is not Side.ON]
    ways = [[(line, contour.closed)] for contour, line in zip(contours, lines, strict=True)]
    for k, some in zip(
        beside,
        cut_centre_lines(
            [contours[k] for k in beside], [sides[k] for k in beside], [widths[k] for k in beside]
        ),
        strict=True,
    ):
        ways[k] = some
    runs = [
        (k, np.vstack([way, way[:1]]) if is_closed else way)
        for k, some in enumerate(ways)
        for way, is_closed in some
        if len(way) > 1
    ]
    of = np.array([k for k, _ in runs], dtype=np.int64)
    middles = (
        shapely.linestrings(
            np.vstack([run for _, run in runs]),
            indices=np.repeat(np.arange(len(runs)), [len(run) for _, run in runs]),
        )
        if runs
        else _array(())
    )
    half = np.array(widths)[of] / 2
    bands, wider = (
        _by_owner(shapely.buffer(middles, half + more, quad_segs=8), of, len(cuts))
        for more in (0.0, thread / 2)
    )
    return [_Known(*known) for known in zip(_grounds(contours, lines), bands, wider, strict=True)]


def _by_owner(shapes: Any, of: Ints, count: int) -> list[tuple[Any, ...]]:
    return [tuple(some) for some in _parted(shapes, np.searchsorted(of, np.arange(1, count)))]


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


def _pairs(shapes: Any, points: Any) -> tuple[Ints, Ints]:
    """Which of the points lie in which of the shapes: the number of the shape and that of the
    point."""
    shapely.prepare(shapes)
    shape, point = shapely.STRtree(points).query(shapes, predicate="contains")
    return shape, point


def _narrowest(shapes: Any, points: Any) -> Ints:
    """Of each point the number of the smallest shape in which it lies; -1 where it lies in none."""
    shape, point = _pairs(shapes, points)
    order = np.argsort(-shapely.area(shapes)[shape], kind="stable")
    found = np.full(len(points), -1)
    found[point[order]] = shape[order]  # the last one, the smallest, counts
    return found


def _parted(values: Any, places: Ints) -> list[Any]:
    """An array parted before some of its places."""
    ends = places.tolist()
    return [values[a:b] for a, b in zip([0, *ends], [*ends, len(values)], strict=True)]


def _meeting(areas: Any, known: _Meets) -> tuple[list[Ints], _Meets]:
    """The numbers of those that hang together, for each such group; and of each two that are near
    each other, by their ids, whether they meet. `known` holds what is known of that."""
    if not len(areas):
        return [], {}
    first, second = shapely.STRtree(areas).query(areas)
    first, second = first[first < second], second[first < second]
    if len(first) > _MOST_PAIRS:
        return [
            np.arange(len(areas))
        ], {}  # nearly all are near each other, and to take them together is as right
    name = [id(area) for area in areas]
    pairs = [(name[a], name[b]) for a, b in zip(first.tolist(), second.tolist(), strict=True)]
    meets = [known.get(pair) for pair in pairs]
    new = np.array([k for k, met in enumerate(meets) if met is None], dtype=np.int64)
    now = np.array([bool(met) for met in meets], dtype=bool)
    shapely.prepare(areas[first[new]])
    now[new] = shapely.intersects(areas[first[new]], areas[second[new]])
    root = list(range(len(areas)))

    def root_of(k: int) -> int:
        while root[k] != k:
            root[k] = k = root[root[k]]
        return k

    for a, b in zip(first[now].tolist(), second[now].tolist(), strict=True):
        root[root_of(b)] = root_of(a)
    label = np.array([root_of(k) for k in range(len(areas))])
    order = np.argsort(label, kind="stable")
    return _parted(order, np.flatnonzero(np.diff(label[order])) + 1), dict(
        zip(pairs, now.tolist(), strict=True)
    )


def _bodies(bands: Any) -> tuple[_Body, ...]:
    made = []
    for body in shapely.get_parts(shapely.union_all(bands)):
        holes = tuple(shapely.Polygon(ring) for ring in body.interiors)
        made.append(_Body(shapely.point_on_surface(body), body.exterior, holes))
    return tuple(made)


def _parts(bodies: Sequence[_Body]) -> tuple[Any, list[tuple[Any, ...]]]:
    """What the bodies leave: each of their holes, less the bodies that lie in it and in no hole
    within; and what each is made of."""
    holes = _array(hole for body in bodies for hole in body.holes)
    within: list[list[Any]] = [[] for _ in holes]
    for body, hole in zip(
        bodies, _narrowest(holes, _array(body.place for body in bodies)).tolist(), strict=True
    ):
        if hole >= 0:
            within[hole].append(body.outline)
    parts = _array(
        shapely.Polygon(each.exterior, rings) if rings else each
        for each, rings in zip(holes, within, strict=True)
    )
    solid = np.flatnonzero(shapely.area(parts) > _SPECK)
    return parts[solid], [(holes[k], *within[k]) for k in solid]


def _outermost(grounds: Any) -> Any:
    """What the areas that lie in no other one make together."""
    inner, around = shapely.STRtree(grounds).query(grounds)
    inner, around = inner[inner != around], around[inner != around]
    area = shapely.area(grounds)
    widest = np.full(len(grounds), -1)
    order = np.argsort(area[around], kind="stable")
    widest[inner[order]] = around[
        order
    ]  # the last one, the largest near, counts: mostly it holds what lies in any
    shapely.prepare(grounds)
    some = np.flatnonzero(widest >= 0)
    free = np.ones(len(grounds), dtype=bool)
    free[some] = ~shapely.contains_properly(grounds[widest[some]], grounds[some])
    rest = np.flatnonzero(free[inner] & (area[around] > area[inner]))
    free[inner[rest[shapely.contains_properly(grounds[around[rest]], grounds[inner[rest]])]]] = (
        False
    )
    outer = grounds[free]
    return shapely.get_parts(
        _array(
            shapely.union_all(outer[some]) if len(some) > 1 else outer[some[0]]
            for some in _meeting(outer, {})[0]
        )
    )


def _hung(grounds: Any, bodies: Sequence[_Body]) -> Any:
    """What bridges in its outline tie to the material around it: of each area what no body
    encloses."""
    found = []
    tree = shapely.STRtree(_array(shapely.Polygon(body.outline) for body in bodies))
    for ground in grounds:
        filled = shapely.union_all(tree.geometries[tree.query(ground, predicate="intersects")])
        found += [
            part
            for part in shapely.get_parts(ground.difference(filled))
            if part.area > max(_SPECK, _SLIVER * part.length)
        ]
    return _array(found)


def _staying(
    parts: Any, ground: Ints, depths: Ints, kept: Iterable[tuple[float, float]], hung: set[int]
) -> set[int]:
    """The numbers of the pieces that stay, of pieces the largest first: those that are `hung` to
    what is around them, else in each outermost contour the largest that lies in no opening of it (a
    ring may be smaller than what falls out of it)."""
    pointed = set(_pairs(parts, _array(shapely.Point(*place) for place in kept))[0].tolist())
    held = {int(ground[k]) for k in hung}
    order = np.argsort(depths != 1, kind="stable")
    best = order[np.unique(ground[order], return_index=True)[1]]
    return pointed or hung | {k for k in best.tolist() if int(ground[k]) not in held}


def _threads(part: Any, thread: float) -> tuple[tuple[float, float], ...]:
    """Where a piece is so narrow that it would part if it lost so much: what an opening of its
    shape leaves over between two of its parts."""
    opened = part.buffer(-thread / 2).buffer(thread / 2 * 1.02)
    solid = shapely.get_parts(opened)
    if len(solid) < 2:
        return ()
    left = [
        each for each in shapely.get_parts(shapely.difference(part, opened)) if each.area > _SPECK
    ]
    tree = shapely.STRtree(solid)
    return tuple(
        (each.centroid.x, each.centroid.y)
        for each in left
        if len(tree.query(each, predicate="dwithin", distance=thread * 0.1)) > 1
    )


def _rings(parts: Any) -> list[tuple[Points, ...]]:
    """The outline of each part and its holes, without the first place once more."""
    rings, owner = shapely.get_rings(parts, return_index=True)
    points, of = shapely.get_coordinates(rings, return_index=True)
    runs = [run[:-1] for run in _parted(points, np.flatnonzero(np.diff(of)) + 1)]
    ends = np.searchsorted(owner, np.arange(len(parts) + 1)).tolist()
    return [tuple(runs[a:b]) for a, b in zip(ends[:-1], ends[1:], strict=True)]
