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
from draxet.geometry.prepared import prepared
from draxet.job.bridges import cuts_held, cuts_of
from draxet.job.contour_records import ContourItem
from draxet.job.cut_bands import (
    BandedCut,
    Body,
    Cut,
    Meets,
    Shape,
    areas_left,
    array_of,
    banded,
    bodies_of,
    hanging_together,
    in_which,
    parted_at,
    smallest_around,
)
from draxet.job.fallout import Fallout, Piece, Wall
from draxet.job.records import Job
from draxet.progress import Progress, Unwatched
from draxet.record import record

__all__ = ["Falls"]

_SPECK = 1e-3
"""mm²: a smaller piece is dust."""
_SLIVER = 0.05
"""mm: what is narrower in the mean is no piece but a difference between two flattened lines."""
_WIDEST = 20.0
"""mm: what is broader than that is no thread and no thin wall, whatever is wanted."""
_WORDS = "what falls"

_Threads = tuple[tuple[float, float], ...]


@record(frozen=True, eq=False)
class _Parts:
    """Pieces, the largest first: their areas, a place in each, their sizes, what they are made of,
    and the outermost contour that each lies in."""

    areas: Any
    spots: Any
    sizes: Any
    made_of: list[tuple[Shape, ...]]
    ground: Ints


class Falls:
    """Looks at a job again and again; what the last look worked out and no edit touched is not
    worked out again."""

    def __init__(self) -> None:
        self._one_at_a_time = Lock()
        self._thread = 0.0
        self._known: dict[Cut, BandedCut] = {}
        self._meets: Meets = {}
        self._bodies: dict[tuple[Shape, ...], tuple[Body, ...]] = {}
        self._threads: dict[tuple[Shape, ...], _Threads] = {}
        self._rings: dict[Shape, Any] = {}
        """Of what bounds a piece, the ring."""
        self._walls: dict[frozenset[Shape], Wall] = {}

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
        whole, held = _outlines_cut(job, items, width)
        grounds_of, known = self._learn(dict.fromkeys(whole), dict.fromkeys(held), thread)
        report(0.2, _WORDS)
        bands, wide_bands = [b for k in known for b in k.bands], [b for k in known for b in k.wider]
        bodies, wider = self._hung_together([bands, wide_bands])
        report(0.5, _WORDS)
        closed = array_of(k.ground for k in grounds_of if k.ground is not None)
        grounds = _outermost(closed)
        hung = _hung(grounds, bodies) if job.bridges else []
        parts = _in_turn(grounds, bodies, hung)
        report(0.6, _WORDS)
        depths = np.bincount(in_which(closed, parts.spots)[1], minlength=len(parts.areas))
        tied = {k for k, part in enumerate(parts.areas) if any(part is each for each in hung)}
        stays = _staying(parts, depths, kept, tied)
        report(0.7, _WORDS)
        threads = self._thread_places(parts, stays, areas_left(wider)[0])
        report(0.8, _WORDS)
        walls = self._thin_walls(stays, parts.made_of, thread)
        report(0.9, _WORDS)
        meant = array_of(shapely.Point(each.x, each.y) for each in job.drop_outs)
        wanted = set(in_which(parts.areas, meant)[0].tolist()) - stays
        pieces = [
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
                zip(_rings(parts.areas), parts.sizes.tolist(), parts.spots, strict=True)
            )
        ]
        return Fallout(tuple(pieces))

    def _learn(
        self, whole: Iterable[Cut], held: Iterable[Cut], thread: float
    ) -> tuple[list[BandedCut], list[BandedCut]]:
        """What is known of each cut as a whole and as bridges leave it, and only that is
        remembered."""
        if thread != self._thread:
            self._thread = thread
            self._known, self._threads, self._rings, self._walls = {}, {}, {}, {}
        old, cuts = self._known, dict.fromkeys((*whole, *held))
        new = [cut for cut in cuts if cut not in old]
        fresh = dict(zip(new, banded(new, thread) if new else (), strict=True))
        self._known = {cut: old.get(cut) or fresh[cut] for cut in cuts}
        return [self._known[cut] for cut in whole], [self._known[cut] for cut in held]

    def _hung_together(self, layers: Sequence[list[Shape]]) -> list[list[Body]]:
        """The bodies of each layer of bands. What is known of the same bands is taken over."""
        old, met = self._bodies, self._meets
        self._bodies, self._meets = {}, {}
        found = []
        for bands in layers:
            groups, meets = hanging_together(bands, met)
            self._meets |= meets
            keys = [tuple(group) for group in groups]
            self._bodies |= {key: old.get(key) or bodies_of(key) for key in keys}
            found.append([body for key in keys for body in self._bodies[key]])
        return found

    def _thread_places(self, parts: _Parts, stays: set[int], narrowed: Any) -> dict[int, _Threads]:
        """The threads of each piece that stays: only a piece that falls apart when it is narrowed
        has any."""
        old, self._threads = self._threads, {}
        around = array_of(made[0].geometry for made in parts.made_of)
        inside = smallest_around(around, shapely.get_point(shapely.get_exterior_ring(narrowed), 0))
        counts = np.bincount(inside[inside >= 0], minlength=len(parts.areas))
        found = {}
        for number in np.flatnonzero(counts > 1).tolist():
            if number in stays:
                key = parts.made_of[number]
                known = old.get(key)
                self._threads[key] = (
                    _threads(parts.areas[number], self._thread) if known is None else known
                )
                found[number] = self._threads[key]
        return found

    def _thin_walls(
        self, stays: set[int], made_of: Sequence[tuple[Shape, ...]], thread: float
    ) -> dict[int, tuple[Wall, ...]]:
        """For each piece that stays where two of its edges, as two holes or a hole and the rim, are
        nearer to each other than they should be. Only edges that were not there at the last look
        are looked at."""
        piece_of = {edge: number for number in sorted(stays) for edge in made_of[number]}
        edges, known = list(piece_of), self._rings
        self._rings = {edge: known.get(edge) or _ring(edge) for edge in edges}
        self._walls = {
            pair: wall for pair, wall in self._walls.items() if pair <= self._rings.keys()
        }
        new = [k for k, edge in enumerate(edges) if edge not in known]
        if new:
            rings = array_of(self._rings.values())
            self._walls |= _walls_between(edges, rings, np.array(new), thread)
        found: dict[int, list[Wall]] = {}
        for pair, wall in self._walls.items():
            one, other = (piece_of[edge] for edge in pair)
            if one == other:
                found.setdefault(one, []).append(wall)
        return {number: tuple(walls) for number, walls in found.items()}


def _outlines_cut(
    job: Job, items: Sequence[ContourItem], width: float
) -> tuple[list[Cut], list[Cut]]:
    """What of some contours is cut: as a whole, and as bridges leave it."""
    cut = [item for item in items if item.id in job.cut_of or item.id not in job.worked]
    cuts = cuts_of(job, cut, width)
    whole, held = (
        [(each.contour, each.side, each.width) for each in some]
        for some in (cuts, cuts_held(cuts, job.bridges).cuts)
    )
    return whole, held


def _ring(edge: Shape) -> Any:
    shape = edge.geometry
    return shape.exterior if shape.geom_type == "Polygon" else shape


def _walls_between(
    edges: Sequence[Shape], rings: Any, new: Ints, thread: float
) -> dict[frozenset[Shape], Wall]:
    """What is left between each of some new edges and another one, where that is too little."""
    row, other = shapely.STRtree(rings).query(rings[new], predicate="dwithin", distance=thread)
    one = new[row]
    apart = one != other
    one, other = one[apart], other[apart]
    ends = shapely.get_coordinates(shapely.shortest_line(rings[one], rings[other]))
    ends = ends.reshape(-1, 2, 2)
    wide = np.hypot(*(ends[:, 1] - ends[:, 0]).T).tolist()
    return {
        frozenset((edges[a], edges[b])): Wall(x, y, left)
        for a, b, (x, y), left in zip(
            one.tolist(), other.tolist(), ends.mean(axis=1).tolist(), wide, strict=True
        )
    }


def _in_turn(grounds: Any, bodies: Sequence[Body], hung: Sequence[Any]) -> _Parts:
    """The pieces that bodies leave, and those that are hung to what is around them, the largest
    first; only what lies in an outermost contour."""
    areas, made_of = areas_left(bodies)
    areas = np.concatenate([areas, array_of(hung)])
    made_of += [
        (Shape(shapely.Polygon(each.exterior)), *map(Shape, each.interiors)) for each in hung
    ]
    spots, sizes = shapely.point_on_surface(areas), shapely.area(areas)
    ground = np.full(len(areas), -1)
    shape, spot = in_which(grounds, spots)
    ground[spot] = shape
    order = [k for k in np.argsort(-sizes, kind="stable").tolist() if ground[k] >= 0]
    made = [made_of[k] for k in order]
    return _Parts(areas[order], spots[order], sizes[order], made, ground[order])


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
    ready = prepared(grounds)
    some = np.flatnonzero(widest >= 0)
    free = np.ones(len(grounds), dtype=bool)
    free[some] = ~shapely.contains_properly(ready[widest[some]], grounds[some])
    rest = np.flatnonzero(free[inner] & (area[around] > area[inner]))
    free[inner[rest[shapely.contains_properly(ready[around[rest]], grounds[inner[rest]])]]] = False
    groups = hanging_together([Shape(each) for each in grounds[free]], {})[0]
    return shapely.get_parts(
        array_of(
            shapely.union_all([each.geometry for each in some])
            if len(some) > 1
            else some[0].geometry
            for some in groups
        )
    )


def _hung(grounds: Any, bodies: Sequence[Body]) -> list[Any]:
    """What bridges in its outline tie to the material around it: of each area what no body
    encloses."""
    found: list[Any] = []
    tree = shapely.STRtree(array_of(shapely.Polygon(body.outline.geometry) for body in bodies))
    for ground in grounds:
        filled = shapely.union_all(tree.geometries[tree.query(ground, predicate="intersects")])
        found += [
            part
            for part in shapely.get_parts(ground.difference(filled))
            if part.area > max(_SPECK, _SLIVER * part.length)
        ]
    return found


def _staying(
    parts: _Parts, depths: Ints, kept: Iterable[tuple[float, float]], hung: set[int]
) -> set[int]:
    """The numbers of the pieces that stay: those that are `hung` to what is around them, else in
    each outermost contour the largest that lies in no opening of it (a ring may be smaller than
    what falls out of it)."""
    places = array_of(shapely.Point(*place) for place in kept)
    pointed = set(in_which(parts.areas, places)[0].tolist())
    held = {int(parts.ground[k]) for k in hung}
    order = np.argsort(depths != 1, kind="stable")
    best = order[np.unique(parts.ground[order], return_index=True)[1]]
    return pointed or hung | {k for k in best.tolist() if int(parts.ground[k]) not in held}


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
    runs = [run[:-1] for run in parted_at(points, np.flatnonzero(np.diff(of)) + 1)]
    ends = np.searchsorted(owner, np.arange(len(parts) + 1)).tolist()
    return [tuple(runs[a:b]) for a, b in zip(ends[:-1], ends[1:], strict=True)]
