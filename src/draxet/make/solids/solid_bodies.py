"""Areas raised from a level to another one, and sunk, as bodies that share no place: where areas lie
over each other the later one is there, level by level."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Any

import numpy as np
import shapely

from draxet.geometry.mesh import Mesh
from draxet.make.solids.solid_slopes import profile_of, wedges_along
from draxet.progress import Progress, Unwatched
from draxet.record import record

if TYPE_CHECKING:
    import manifold3d

__all__ = [
    "Made",
    "Raised",
    "as_one",
    "bodies_of",
    "cut_open",
    "base_under",
    "made_of",
    "meshes_of",
]

_GRID = 1e-5
"""mm: what lies nearer than that is one place, so that areas that share an edge share its places."""
_SPECK = 1e-6
"""mm²: what is left of an area and is smaller is nothing."""
_OVER = 1e-3
"""mm by which what is taken away reaches beyond where it opens: else a skin could be left there."""
_ROUND = 32
"""Straight steps for a quarter of a turn at a base's corners."""


@record(frozen=True, eq=False)
class Raised:
    """An area that is filled from one level to another, in mm; one that is `sunk` takes away what
    lies there before, `from_below` or from above. Those of one name and colour are one body.

    draft, upper, edge : how its walls lean and its upper edges are taken off (``profile_of``); of
    what is sunk the rim. fine : how far straight pieces of a rounded edge may be off, in mm.
    """

    name: str
    colour: str
    area: shapely.Geometry
    low: float
    high: float
    sunk: bool = False
    from_below: bool = False
    draft: float = 0.0
    upper: str = "square"
    edge: float = 0.0
    fine: float = 0.01

    @property
    def is_upright(self) -> bool:
        """Whether all of its walls are, up to their tops."""
        return not self.draft and self.upper == "square"

    @property
    def shape(self) -> tuple[object, ...]:
        """What there is to it but its area and its colour."""
        slope = (self.draft, self.upper, self.edge, self.fine)
        return self.low, self.high, self.sunk, self.from_below, *slope


_Slab = tuple[shapely.Geometry, float, float]


@record(frozen=True, eq=False)
class _Piece:
    """What of a body is there, slab by slab; of an area whose walls lean that alone."""

    slabs: tuple[_Slab, ...]
    of: Raised | None = None
    upright: shapely.Geometry | None = None
    """Where its edges are shared, and stay upright."""

    def same(self, other: _Piece) -> bool:
        return (
            _same_slabs(self.slabs, other.slabs)
            and (self.of.shape if self.of else None) == (other.of.shape if other.of else None)
            and _same_area(self.upright, other.upright)
        )


@record(frozen=True, eq=False)
class _Taken:
    """What is taken from a body: an area that is sunk, without those that lie there later."""

    of: Raised
    area: shapely.Geometry
    later: tuple[_Slab, ...]
    through: bool
    """Whether it ends just where what it is sunk into does."""

    def is_near(self, box: shapely.Geometry) -> bool:
        reach = self.of.edge if self.of.upper != "square" else 0.0
        return bool(shapely.dwithin(box, self.area, reach))

    def same(self, other: _Taken) -> bool:
        same = self.of.shape == other.of.shape and self.through == other.through
        same = same and _same_slabs(self.later, other.later)
        return same and _same_area(self.area, other.area)


@record(frozen=True, eq=False)
class Made:
    """A body, and what it was made of."""

    pieces: tuple[_Piece, ...]
    taken: tuple[_Taken, ...]
    mesh: Mesh

    def is_of(self, pieces: Sequence[_Piece], taken: Sequence[_Taken]) -> bool:
        return (
            len(pieces) == len(self.pieces)
            and len(taken) == len(self.taken)
            and all(a.same(b) for a, b in zip(pieces, self.pieces, strict=True))
            and all(a.same(b) for a, b in zip(taken, self.taken, strict=True))
        )


def bodies_of(raised: Sequence[Raised], report: Progress = Unwatched()) -> list[Mesh]:
    """The bodies, in order of their first areas; nothing of what is covered or sunk whole.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    return meshes_of(made_of(raised, report))


def meshes_of(made: Mapping[tuple[str, str], Made]) -> list[Mesh]:
    return [each.mesh for each in made.values() if len(each.mesh.triangles)]


def made_of(
    raised: Sequence[Raised],
    report: Progress = Unwatched(),
    before: Mapping[tuple[str, str], Made] | None = None,
) -> dict[tuple[str, str], Made]:
    """The same with what they are made of, by their names and colours; of those that were made
    `before` what did not change is not made anew."""
    areas = [shapely.set_precision(each.area, _GRID) for each in raised]
    slabs = _slabs(raised, areas, report)
    taken = _taken(raised, areas)
    order = dict.fromkeys((each.name, each.colour) for each in raised)
    found = dict[tuple[str, str], Made]()
    for number, key in enumerate(order):
        mine = {k: each for k, each in slabs.items() if k[:2] == key}
        if mine:
            report(0.5 + 0.5 * number / len(order), f"making {key[0]}")
            first = min(k for k, each in enumerate(raised) if (each.name, each.colour) == key)
            pieces = tuple(_piece(raised, areas, k, each) for k, each in mine.items())
            around = shapely.box(*shapely.total_bounds([s[0] for p in pieces for s in p.slabs]))
            away = tuple(each for k, each in taken if k > first and each.is_near(around))
            old = (before or {}).get(key)
            found[key] = (
                old
                if old is not None and old.is_of(pieces, away)
                else Made(pieces, away, _body(pieces, away, *key, report))
            )
    return found


_Key = tuple[str, str, int]
"""A body's name and colour, and the number of the area whose walls lean; -1 for all others of it."""


def _slabs(
    raised: Sequence[Raised], areas: Sequence[shapely.Geometry], report: Progress
) -> dict[_Key, list[_Slab]]:
    """What there is from level to level; those that are sunk with leaning walls are taken away
    later."""
    flat = [k for k, each in enumerate(raised) if each.is_upright or not each.sunk]
    levels = sorted({level for k in flat for level in (raised[k].low, raised[k].high)})
    found = dict[_Key, list[_Slab]]()
    for number, (low, high) in enumerate(zip(levels, levels[1:], strict=False)):
        report(0.5 * number / len(levels), "resolving what lies over each other")
        active = [k for k in flat if raised[k].low <= low and raised[k].high >= high]
        for key, part in _resolved(raised, areas, active).items():
            found.setdefault(key, []).append((part, low, high))
    return found


def _resolved(
    raised: Sequence[Raised], areas: Sequence[shapely.Geometry], active: Sequence[int]
) -> dict[_Key, shapely.Geometry]:
    """What each body has of a slab: its areas without what lies over them."""
    tree = shapely.STRtree([areas[k] for k in active])
    parts = dict[_Key, list[shapely.Geometry]]()
    for place, k in enumerate(active):
        if raised[k].sunk:
            continue
        over = [areas[active[j]] for j in tree.query(areas[k], predicate="intersects") if j > place]
        left = shapely.difference(areas[k], shapely.union_all(over)) if over else areas[k]
        own = -1 if raised[k].is_upright else k
        parts.setdefault((raised[k].name, raised[k].colour, own), []).append(left)
    found = dict[_Key, shapely.Geometry]()
    for key, some in parts.items():
        whole = shapely.set_precision(shapely.union_all(some), _GRID)
        pieces = [
            each
            for each in shapely.get_parts(whole)
            if isinstance(each, shapely.Polygon) and shapely.area(each) > _SPECK
        ]
        if pieces:
            found[key] = shapely.multipolygons(pieces)
    return found


def _taken(raised: Sequence[Raised], areas: Sequence[shapely.Geometry]) -> list[tuple[int, _Taken]]:
    """What is sunk with leaning walls or a rim, with the number of its area."""
    found = list[tuple[int, _Taken]]()
    for k, each in enumerate(raised):
        if each.sunk and not each.is_upright:
            reach = shapely.buffer(areas[k], each.edge if each.upper != "square" else 0.0)
            later = tuple(
                (areas[j], raised[j].low, raised[j].high)
                for j in range(k + 1, len(raised))
                if not raised[j].sunk and shapely.intersects(areas[j], reach)
            )
            ends = {o.high if each.from_below else o.low for o in raised[:k] if not o.sunk}
            through = (each.high if each.from_below else each.low) in ends
            found.append((k, _Taken(each, areas[k], later, through)))
    return found


def _piece(
    raised: Sequence[Raised],
    areas: Sequence[shapely.Geometry],
    key: _Key,
    slabs: Sequence[_Slab],
) -> _Piece:
    number = key[2]
    if number < 0:
        return _Piece(tuple(_stacked(slabs)))
    this = raised[number]
    beside = [
        areas[k]
        for k, each in enumerate(raised)
        if k != number
        and not each.sunk
        and each.low < this.high <= each.high
        and shapely.intersects(areas[k], areas[number])
    ]
    upright = shapely.boundary(shapely.union_all(beside)) if beside else None
    return _Piece(tuple(_stacked(slabs)), replace(this, area=areas[number]), upright)


def _stacked(slabs: Sequence[_Slab]) -> list[_Slab]:
    """Slabs of which those that go on unchanged are one."""
    found = list[_Slab]()
    for area, low, high in slabs:
        if found and found[-1][2] == low and shapely.equals_exact(found[-1][0], area, 0.0):
            found[-1] = (found[-1][0], found[-1][1], high)
        else:
            found.append((area, low, high))
    return found


def _same_slabs(one: Sequence[_Slab], other: Sequence[_Slab]) -> bool:
    return len(one) == len(other) and all(
        a[1:] == b[1:] and _same_area(a[0], b[0]) for a, b in zip(one, other, strict=True)
    )


def _same_area(one: shapely.Geometry | None, other: shapely.Geometry | None) -> bool:
    if one is None or other is None:
        return one is other
    return bool(shapely.equals_exact(one, other, 0.0))


def as_one(meshes: Sequence[Mesh], name: str = "", colour: str = "") -> Mesh:
    """Bodies that touch each other as one, for files that do not tell them apart."""
    import manifold3d  # slow to load

    pieces = [_solid(mesh) for mesh in meshes]
    return _mesh(manifold3d.Manifold.batch_boolean(pieces, manifold3d.OpType.Add), name, colour)


def cut_open(meshes: Sequence[Mesh], axis: int, level: float) -> list[Mesh]:
    """What of bodies lies behind a plane across an axis (x, y or z) at a level in mm: of x and z what
    is less, of y what is more, so that one who stands in front, at the right or above looks into them."""
    way = [0.0, 0.0, 0.0]
    way[axis] = 1.0 if axis == 1 else -1.0
    cut = ((_solid(each).trim_by_plane(tuple(way), way[axis] * level), each) for each in meshes)
    found = [_mesh(solid, each.name, each.colour) for solid, each in cut]
    return [each for each in found if len(each.triangles)]


def _solid(mesh: Mesh) -> manifold3d.Manifold:
    import manifold3d  # slow to load

    return manifold3d.Manifold(
        manifold3d.Mesh64(vert_properties=mesh.places, tri_verts=mesh.triangles.astype(np.uint64))
    )


def _mesh(solid: manifold3d.Manifold, name: str, colour: str) -> Mesh:
    mesh = solid.to_mesh64()
    return Mesh(
        np.array(mesh.vert_properties[:, :3], dtype=np.float64),
        np.array(mesh.tri_verts, dtype=np.int64),
        name,
        colour,
    )


def _body(
    pieces: Sequence[_Piece], taken: Sequence[_Taken], name: str, colour: str, report: Progress
) -> Mesh:
    parts = [
        [_upright(*slab, name, colour) for slab in piece.slabs]
        for piece in pieces
        if piece.of is None
    ]
    flat = [mesh for some in parts for mesh in some]
    if len(flat) == 1 and len(pieces) == 1 and not taken:
        return flat[0]
    solids = [_solid(mesh) for mesh in flat]
    for piece in pieces:
        if piece.of is not None:
            report(0.75, f"sloping {name}")
            solids.append(_sloped(piece, name, colour))
    whole = _together(solids)
    for each in taken:
        report(0.9, f"sinking into {name}")
        whole = whole - _cutter(each)
    return _mesh(whole, name, colour)


def _together(solids: Sequence[manifold3d.Manifold]) -> manifold3d.Manifold:
    import manifold3d  # slow to load

    return manifold3d.Manifold.batch_boolean(list(solids), manifold3d.OpType.Add)


def _without(
    whole: manifold3d.Manifold, away: Sequence[manifold3d.Manifold]
) -> manifold3d.Manifold:
    import manifold3d  # slow to load

    return manifold3d.Manifold.batch_boolean([whole, *away], manifold3d.OpType.Subtract)


def _sloped(piece: _Piece, name: str, colour: str) -> manifold3d.Manifold:
    """An area as far as it is there, with walls that lean."""
    this = piece.of
    assert this is not None
    whole = _together([_solid(_upright(*slab, name, colour)) for slab in piece.slabs])
    profile = profile_of(this.high - this.low, this.draft, this.upper, this.edge, this.fine)
    return _without(whole, wedges_along(this.area, profile, this.low, piece.upright))


def _cutter(taken: _Taken) -> manifold3d.Manifold:
    """What is taken away by an area that is sunk: narrower where it is deeper, wider at its rim."""
    this, height = taken.of, taken.of.high - taken.of.low
    lean = profile_of(height, this.draft, "square", 0.0, this.fine)
    deep = height + (_OVER if taken.through else 0.0)
    body = _solid(_upright(taken.area, -_OVER, deep, "", ""))
    body = _without(body, wedges_along(taken.area, lean, 0.0) if this.draft else [])
    rims = list[Any]()
    if this.upper != "square":
        rim = profile_of(height, 0.0, this.upper, this.edge, this.fine)
        rims = wedges_along(taken.area, rim, 0.0, outside=True)
    if this.from_below:
        rims = [_turned_over(each, height) for each in rims]
    else:
        body = _turned_over(body, height)
    found = _together([body, *rims]).translate((0.0, 0.0, this.low))
    later = [_solid(_upright(*slab, "", "")) for slab in taken.later]
    return _without(found, later)


def _turned_over(solid: manifold3d.Manifold, height: float) -> manifold3d.Manifold:
    return solid.mirror((0.0, 0.0, 1.0)).translate((0.0, 0.0, height))


def _upright(area: shapely.Geometry, low: float, high: float, name: str, colour: str) -> Mesh:
    """An area from one level to another: its triangles above and beneath, and walls between."""
    import manifold3d  # slow to load

    rings = [
        shapely.get_coordinates(ring)[:-1]
        for ring in shapely.get_rings(shapely.get_parts(shapely.orient_polygons(area))).tolist()
    ]
    flat = np.vstack(rings)
    count = len(flat)
    above = np.asarray(manifold3d.triangulate(rings), dtype=np.int64)
    here = np.arange(count)
    onward = here + 1
    ends = np.cumsum([len(ring) for ring in rings])
    onward[ends - 1] = np.append(0, ends[:-1])
    walls = np.vstack(
        [
            np.column_stack([here, onward, onward + count]),
            np.column_stack([here, onward + count, here + count]),
        ]
    )
    places = np.vstack([np.column_stack([flat, np.full(count, each)]) for each in (low, high)])
    return Mesh(places, np.vstack([above[:, ::-1], above + count, walls]), name, colour)


def base_under(area: shapely.Geometry, margin: float, corner: float) -> shapely.Geometry:
    """A box round an area with a margin, its corners rounded by a radius; in mm.

    Raises
    ------
    ValueError : where the radius is over half of the shorter side.
    """
    x0, y0, x1, y1 = shapely.bounds(area).tolist()
    most = min(x1 - x0, y1 - y0) / 2 + margin
    if corner > most + 1e-9:
        raise ValueError(
            f"the corners of the base must be rounded by at most {most:.4g} mm, half of its shorter side, got {corner:g} mm"
        )
    away = margin - corner
    middles = [(x, y) for x in (x0 - away, x1 + away) for y in (y0 - away, y1 + away)]
    inner = shapely.convex_hull(shapely.multipoints(middles))
    found: shapely.Geometry = shapely.buffer(inner, corner, quad_segs=_ROUND) if corner else inner
    return found
