"""Areas raised from a level to another one, and sunk, as bodies that share no place: where areas lie
over each other the later one is there, level by level."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Any

import numpy as np
import scipy
import shapely

from draxet.geometry.mesh import Mesh, is_closed, welded
from draxet.make.solids.solid_levels import (
    Raised,
    Slab,
    Slope,
    Taken,
    knitted,
    levels_of,
    same_slabs,
    slabs_of,
    slopes_of,
    taken_from,
)
from draxet.make.solids.solid_slopes import profile_of, wedges_along
from draxet.progress import Progress, Unwatched
from draxet.record import record

if TYPE_CHECKING:
    import manifold3d

__all__ = [
    "Made",
    "as_one",
    "bodies_of",
    "cut_open",
    "base_under",
    "lighter",
    "made_of",
    "meshes_of",
    "pieces_of",
    "whole_of",
]

_WELD = 1e-4
"""mm: places of a body that are nearer to each other are one, as they are in files of small numbers."""
_SIMPLER = (1e-4, 3e-4, 1e-3)
"""mm by which a body may be made simpler where places that are one leave it open."""
_OVER = 3e-3
"""mm by which what is taken away reaches beyond where it opens: else a skin could be left there."""
_ROUND = 32
"""Straight steps for a quarter of a turn at a base's corners."""


@record(frozen=True, eq=False)
class Made:
    """A body, and what it was made of."""

    slabs: tuple[Slab, ...]
    slopes: tuple[Slope, ...]
    taken: tuple[Taken, ...]
    mesh: Mesh

    def is_of(self, slabs: Sequence[Slab], slopes: Sequence[Slope], taken: Sequence[Taken]) -> bool:
        return (
            same_slabs(slabs, self.slabs)
            and len(slopes) == len(self.slopes)
            and len(taken) == len(self.taken)
            and all(a.same(b) for a, b in zip(slopes, self.slopes, strict=True))
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


def whole_of(raised: Sequence[Raised], report: Progress = Unwatched()) -> Mesh:
    """All of it as one body, for files that do not tell bodies apart; without triangles where there is
    none."""
    one = [replace(each, name="", colour="") for each in raised]
    return next(iter(bodies_of(one, report)), Mesh(np.zeros((0, 3)), np.zeros((0, 3), np.int64)))


def made_of(
    raised: Sequence[Raised],
    report: Progress = Unwatched(),
    before: Mapping[tuple[str, str], Made] | None = None,
) -> dict[tuple[str, str], Made]:
    """The same with what they are made of, by their names and colours; of those that were made
    `before` what did not change is not made anew."""
    areas = knitted([each.area for each in raised])
    levels = levels_of(raised, areas, report)
    taken = taken_from(raised, areas)
    order = dict.fromkeys((each.name, each.colour) for each in raised)
    found = dict[tuple[str, str], Made]()
    for number, key in enumerate(order):
        own = {k for k, each in enumerate(raised) if (each.name, each.colour) == key}
        slabs = slabs_of(levels, own)
        if slabs:
            report(0.5 + 0.5 * number / len(order), f"making {key[0]}")
            slopes = tuple(slopes_of(raised, levels, own))
            around = shapely.box(*shapely.total_bounds([area for area, _, _ in slabs]))
            away = tuple(each for k, each in taken if k > min(own) and each.is_near(around))
            old = (before or {}).get(key)
            found[key] = (
                old
                if old is not None and old.is_of(slabs, slopes, away)
                else Made(slabs, slopes, away, _body(slabs, slopes, away, *key, report))
            )
    return found


def pieces_of(made: Mapping[tuple[str, str], Made]) -> int:
    """How many pieces bodies come to that neither lie on each other nor stand beside each other; walls
    that lean count as if they stood upright."""
    slabs = [slab for each in made.values() for slab in each.slabs]
    if not slabs:
        return 0
    parts = [shapely.get_parts(area) for area, _, _ in slabs]
    owner = np.repeat(np.arange(len(slabs)), [len(some) for some in parts])
    every, ends = np.concatenate(parts), np.array([slab[1:] for slab in slabs])[owner]
    one, other = shapely.STRtree(every).query(every, predicate="intersects")
    one, other = one[one < other], other[one < other]
    reach = np.minimum(ends[one, 1], ends[other, 1]) - np.maximum(ends[one, 0], ends[other, 0])
    one, other, reach = one[reach >= 0], other[reach >= 0], reach[reach >= 0]
    common = shapely.intersection(every[one], every[other])
    joined = np.where(reach > 0, shapely.length(common), shapely.area(common)) > 0
    ties = scipy.sparse.coo_array(
        (np.ones(int(joined.sum())), (one[joined], other[joined])), shape=(len(every),) * 2
    )
    return int(scipy.sparse.csgraph.connected_components(ties, directed=False)[0])


def as_one(meshes: Sequence[Mesh]) -> Mesh:
    """Bodies that may lie in each other as one."""
    return _mesh(_together([_solid(each) for each in meshes if len(each.triangles)]), "", "")


def lighter(mesh: Mesh, off: float) -> Mesh:
    """A body of fewer triangles, of which none is farther off than so many mm."""
    simple = _solid(mesh).simplify(off).to_mesh64()
    places = np.array(simple.vert_properties[:, :3], dtype=np.float64)
    return replace(mesh, places=places, triangles=np.array(simple.tri_verts, dtype=np.int64))


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
    """Places that lie on each other are one, as most that reads files takes them for one."""
    found = list[Mesh]()
    for simpler in (0.0, *_SIMPLER):
        mesh = (solid.simplify(simpler) if simpler else solid).to_mesh64()
        places = np.array(mesh.vert_properties[:, :3], dtype=np.float64)
        triangles = np.array(mesh.tri_verts, dtype=np.int64)
        found.append(welded(Mesh(places, triangles, name, colour), _WELD))
        if not len(triangles) or is_closed(found[-1]):
            return found[-1]
    return found[0]


def _body(
    slabs: Sequence[Slab],
    slopes: Sequence[Slope],
    taken: Sequence[Taken],
    name: str,
    colour: str,
    report: Progress,
) -> Mesh:
    upright = [_upright(*slab, name, colour) for slab in slabs]
    if len(upright) == 1 and not slopes and not taken:
        return upright[0]
    whole = _together([_solid(mesh) for mesh in upright])
    for each in slopes:
        report(0.75, f"sloping {name}")
        whole = _without(whole, _off(each))
    for away in taken:
        report(0.9, f"sinking into {name}")
        whole = whole - _cutter(away)
    return _mesh(whole, name, colour)


def _together(solids: Sequence[manifold3d.Manifold]) -> manifold3d.Manifold:
    import manifold3d  # slow to load

    return manifold3d.Manifold.batch_boolean(list(solids), manifold3d.OpType.Add)


def _without(
    whole: manifold3d.Manifold, away: Sequence[manifold3d.Manifold]
) -> manifold3d.Manifold:
    import manifold3d  # slow to load

    return manifold3d.Manifold.batch_boolean([whole, *away], manifold3d.OpType.Subtract)


def _off(slope: Slope) -> list[manifold3d.Manifold]:
    """What is taken off along the edges of leaning areas."""
    this = slope.of
    profile = profile_of(this.high - this.low, this.draft, this.upper, this.edge, this.fine)
    return wedges_along(slope.area, profile, this.low, slope.beside)


def _cutter(taken: Taken) -> manifold3d.Manifold:
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
