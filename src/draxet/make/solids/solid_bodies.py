"""Areas raised from a level to another one, and sunk, as bodies that share no place: where areas lie
over each other the later one is there, level by level."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from draxet.geometry.mesh import Mesh
from draxet.progress import Progress, Unwatched
from draxet.record import record

__all__ = [
    "Raised",
    "as_one",
    "bodies_of",
    "base_under",
    "near_places",
    "thin_places",
    "touching_places",
]

_GRID = 1e-5
"""mm: what lies nearer than that is one place, so that areas that share an edge share its places."""
_SPECK = 1e-6
"""mm²: what is left of an area and is smaller is nothing."""
_ROUND = 32
"""Straight steps for a quarter of a turn at a base's corners."""


@record(frozen=True, eq=False)
class Raised:
    """An area that is filled from one level to another, in mm; one that is `sunk` takes away what
    lies there before. Those of one name and colour are one body."""

    name: str
    colour: str
    area: shapely.Geometry
    low: float
    high: float
    sunk: bool = False


def bodies_of(raised: Sequence[Raised], report: Progress = Unwatched()) -> list[Mesh]:
    """The bodies, in order of their first areas; nothing of what is covered or sunk whole.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    areas = [shapely.set_precision(each.area, _GRID) for each in raised]
    levels = sorted({level for each in raised for level in (each.low, each.high)})
    slabs = dict[tuple[str, str], list[tuple[shapely.Geometry, float, float]]]()
    for number, (low, high) in enumerate(zip(levels, levels[1:], strict=False)):
        report(0.6 * number / len(levels), "resolving what lies over each other")
        active = [k for k, each in enumerate(raised) if each.low <= low and each.high >= high]
        for (name, colour), part in _resolved(raised, areas, active).items():
            slabs.setdefault((name, colour), []).append((part, low, high))
    order = dict.fromkeys((each.name, each.colour) for each in raised)
    found = list[Mesh]()
    for number, key in enumerate(key for key in order if key in slabs):
        report(0.6 + 0.4 * number / len(slabs), f"making {key[0]}")
        found.append(_body(_stacked(slabs[key]), *key))
    return [mesh for mesh in found if len(mesh.triangles)]


def _resolved(
    raised: Sequence[Raised], areas: Sequence[shapely.Geometry], active: Sequence[int]
) -> dict[tuple[str, str], shapely.Geometry]:
    """What each body has of a slab: its areas without what lies over them."""
    tree = shapely.STRtree([areas[k] for k in active])
    parts = dict[tuple[str, str], list[shapely.Geometry]]()
    for place, k in enumerate(active):
        if raised[k].sunk:
            continue
        over = [areas[active[j]] for j in tree.query(areas[k], predicate="intersects") if j > place]
        left = shapely.difference(areas[k], shapely.union_all(over)) if over else areas[k]
        parts.setdefault((raised[k].name, raised[k].colour), []).append(left)
    found = dict[tuple[str, str], shapely.Geometry]()
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


_Slab = tuple[shapely.Geometry, float, float]


def _stacked(slabs: Sequence[_Slab]) -> list[_Slab]:
    """Slabs of which those that go on unchanged are one."""
    found = list[_Slab]()
    for area, low, high in slabs:
        if found and found[-1][2] == low and shapely.equals_exact(found[-1][0], area, 0.0):
            found[-1] = (found[-1][0], found[-1][1], high)
        else:
            found.append((area, low, high))
    return found


def as_one(meshes: Sequence[Mesh], name: str = "", colour: str = "") -> Mesh:
    """Bodies that touch each other as one, for files that do not tell them apart."""
    import manifold3d  # slow to load

    pieces = [
        manifold3d.Manifold(
            manifold3d.Mesh64(
                vert_properties=mesh.places, tri_verts=mesh.triangles.astype(np.uint64)
            )
        )
        for mesh in meshes
    ]
    mesh = manifold3d.Manifold.batch_boolean(pieces, manifold3d.OpType.Add).to_mesh64()
    return Mesh(
        np.array(mesh.vert_properties[:, :3], dtype=np.float64),
        np.array(mesh.tri_verts, dtype=np.int64),
        name,
        colour,
    )


def _body(slabs: Sequence[_Slab], name: str, colour: str) -> Mesh:
    pieces = [_upright(*slab, name, colour) for slab in slabs]
    return pieces[0] if len(pieces) == 1 else as_one(pieces, name, colour)


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


def thin_places(area: shapely.Geometry, smallest: float) -> list[tuple[float, float]]:
    """Where walls of an area are thinner than the smallest feature in mm, for at least as long as
    that."""
    return _lost_by_opening(area, smallest)


def near_places(area: shapely.Geometry, smallest: float) -> list[tuple[float, float]]:
    """Where gaps in or between pieces of an area are narrower than the smallest feature, for at least
    as long as that."""
    around = shapely.box(*shapely.bounds(shapely.buffer(area, 2 * smallest)))
    return _lost_by_opening(shapely.difference(around, area), smallest)


def _lost_by_opening(area: shapely.Geometry, smallest: float) -> list[tuple[float, float]]:
    """Places in what a disc that broad does not reach within an area, but for its corners."""
    half = smallest / 2
    reached = shapely.buffer(shapely.buffer(area, -half * (1 - 1e-6)), half * (1 + 1e-3))
    lost = shapely.get_parts(shapely.difference(area, reached))
    narrow = lost[shapely.area(lost) > smallest**2]
    found = shapely.get_coordinates(shapely.point_on_surface(narrow))
    return [(float(x), float(y)) for x, y in found]


def touching_places(area: shapely.Geometry) -> list[tuple[float, float]]:
    """Where pieces of an area, or an opening and its outline, meet in a point alone."""
    parts = shapely.get_parts(area)
    first, second = shapely.STRtree(parts).query(parts, predicate="touches")
    met = shapely.intersection(parts[first[first < second]], parts[second[first < second]])
    rings = [ring for part in parts for ring in part.interiors]
    tree = shapely.STRtree(rings)
    for part in parts:
        near = [rings[k] for k in tree.query(part.exterior, predicate="intersects").tolist()]
        met = np.append(met, shapely.intersection(part.exterior, np.array(near, dtype=object)))
    found = shapely.get_coordinates(shapely.centroid(met[~shapely.is_empty(met)]))
    return [(float(x), float(y)) for x, y in found]
