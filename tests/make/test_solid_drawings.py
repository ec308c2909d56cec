"""Eighty drawings that nothing was set by: silhouettes with holes, wheels, letters, rings, neighbours
that share their edges; raised, sunk, with walls that lean. Each body is closed and looks outwards by two
readers, has its volume, and keeps to its true surface."""

from __future__ import annotations

import itertools
import math
import unittest
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import numpy as np
import shapely
import trimesh

from draxet.formats.meshes import mesh_bytes
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.mesh import Mesh, is_closed, volume_of
from draxet.geometry.spans import ARC, CUBIC, LINE
from draxet.job.contour_edits import add_contours, colour_contours
from draxet.job.machine_kinds.printer import LAYER_PRINTER
from draxet.job.operating import add_operation
from draxet.job.operations import Raise
from draxet.job.records import Job
from draxet.job.sheet_records import Base, Sheet
from draxet.job.solid_base import set_base
from draxet.lettering.faces import shipped_faces
from draxet.lettering.setting import set_rows, set_straight
from draxet.make.solids.solid_sheet import SolidSheet, solid_sheet
from draxet.progress import Unwatched

SHEET = Sheet("sheet-0", "Sheet 1", 200.0, 200.0, 3.0, "plastic", machine="layer-printer")
COLOURS = ("#213153", "#b22d26", "#d8b658", "#3c8259")


def ring_of(rng: Any, x: float, y: float, size: float) -> Contour:
    """A silhouette of lines, arcs and curves round a place, that does not cross itself."""
    found = _some_ring(rng, x, y, size)
    while not shapely.Polygon(found.flattened(1e-3)).is_valid:
        found = _some_ring(rng, x, y, size)
    return found


def _some_ring(rng: Any, x: float, y: float, size: float) -> Contour:
    count = int(rng.integers(5, 14))
    turns = np.sort(
        rng.uniform(0, 2 * math.pi, count) * 0.15 + np.arange(count) * 2 * math.pi / count
    )
    reach = size * rng.uniform(0.75, 1.1, count)
    nodes = np.column_stack([x + reach * np.cos(turns), y + reach * np.sin(turns)])
    ways = np.roll(nodes, -1, axis=0) - nodes
    kinds = rng.choice([LINE, ARC, CUBIC], count)
    off = rng.uniform(-0.12, 0.12, (2, count, 1)) * np.column_stack([-ways[:, 1], ways[:, 0]])
    handles = np.stack([nodes + ways / 3 + off[0], nodes + 2 * ways / 3 + off[1]], axis=1)
    handles[kinds != CUBIC] = 0.0
    bulges = np.where(kinds == ARC, rng.uniform(-0.15, 0.25, count), 0.0)
    return Contour.make(nodes, kinds, bulges, handles)


def wheel(rng: Any) -> list[Contour]:
    """Teeth with round tips, a bore and lightening holes."""
    teeth, outer = int(rng.integers(8, 30)), float(rng.uniform(20, 45))
    inner, step = outer - rng.uniform(3, 5), 2 * math.pi / teeth
    nodes, bulges = list[Any](), list[float]()
    for k in range(teeth):
        for share, reach, bulge in (
            (0.0, inner, 0.0),
            (0.25, outer, 0.2),
            (0.6, outer, 0.0),
            (0.8, inner, 0.0),
        ):
            nodes.append(
                (reach * math.cos((k + share) * step), reach * math.sin((k + share) * step))
            )
            bulges.append(bulge)
    kinds = [ARC if bulge else LINE for bulge in bulges]
    rim = Contour.make(np.array(nodes), kinds, bulges)
    holes = [
        Contour.circle(inner * 0.55 * math.cos(a), inner * 0.55 * math.sin(a), inner * 0.15)
        for a in np.arange(5) * 2 * math.pi / 5
    ]
    return [rim, Contour.circle(0, 0, inner * 0.2), *holes]


def neighbours(rng: Any) -> list[Contour]:
    """Cells that share their edges."""
    seeds = shapely.multipoints(rng.uniform(-40, 40, (12, 2)))
    cells = shapely.voronoi_polygons(seeds, extend_to=shapely.box(-45, -45, 45, 45))
    clipped = shapely.intersection(shapely.get_parts(cells), shapely.box(-45, -45, 45, 45))
    return [Contour.make(shapely.get_coordinates(each)[:-1]) for each in clipped.tolist()]


def drawings() -> Iterator[tuple[str, list[Contour], list[str]]]:
    """Name, contours round the origin, and their colours."""
    faces = list(shipped_faces())
    for seed in range(80):
        rng = np.random.default_rng(9000 + seed)
        kind = seed % 5
        if kind == 0:
            some = [ring_of(rng, *at) for at in ((0, 0, 40), (-8, 4, 9), (14, -6, 6))]
        elif kind == 1:
            some = wheel(rng)
        elif kind == 2:
            words = "".join(rng.choice(list("ABDGQRWSegakpx&8%"), 4))
            some = set_straight(
                set_rows(faces[seed % len(faces)], words, float(rng.uniform(8, 30))), 1.4
            )
            x0, y0, x1, y1 = shapely.total_bounds(
                [shapely.box(*each.box) for each in some]
            ).tolist()
            middle = Affine.moved(-(x0 + x1) / 2, -(y0 + y1) / 2)
            some = [each.transformed(middle) for each in some]
        elif kind == 3:
            some = [Contour.circle(0, 0, r) for r in np.arange(1, 9) * float(rng.uniform(2, 5))]
        else:
            some = neighbours(rng)
        colours = (
            [COLOURS[int(k)] for k in rng.integers(0, 4, len(some))]
            if kind == 4
            else [COLOURS[0]] * len(some)
        )
        yield f"{seed}: {('silhouette', 'wheel', 'letters', 'rings', 'cells')[kind]}", some, colours


def job_of(contours: list[Contour], colours: list[str], raising: Raise, shape: str) -> Job:
    placed = [each.transformed(Affine.moved(100, 100)) for each in contours]
    job = add_contours(Job(sheets=(SHEET,)), placed, "")
    for item, colour in zip(job.contours, colours, strict=True):
        job = colour_contours(job, [item.id], colour)
    job = set_base(job, Base("sheet-0", shape, 3.0, 5.0, 4.0))
    return add_operation(job, replace(raising, contours=tuple(i.id for i in job.contours)))


def made(job: Job) -> SolidSheet:
    return solid_sheet(job.layout, SHEET, LAYER_PRINTER, Unwatched())


def exact_area(contours: list[Contour], colours: list[str]) -> float:
    """What they bound, every second of nested ones of a colour a hole: outlines are nested at most
    here, so that signs alternate with depth."""
    found = 0.0
    for colour in dict.fromkeys(colours):
        own = [c for c, each in zip(contours, colours, strict=True) if each == colour]
        shapes = [shapely.Polygon(each.flattened(0.01)) for each in own]
        for k, each in enumerate(own):
            inside = shapely.Point(each.nodes[0])
            depth = sum(
                j != k and shapely.area(s) > shapely.area(shapes[k]) and s.contains(inside)
                for j, s in enumerate(shapes)
            )
            found += (-1) ** depth * abs(each.area)
    return found


def judged(mesh: Mesh) -> Any:
    """A body by the other reader; closed and outward by both."""
    loaded: Any = trimesh.load_mesh(
        trimesh.util.wrap_as_stream(mesh_bytes([mesh], "obj")), file_type="obj"
    )
    assert is_closed(mesh) and loaded.is_watertight and loaded.is_winding_consistent, mesh.name
    assert loaded.volume > 0 and abs(loaded.volume - volume_of(mesh)) < 1e-5 * loaded.volume
    return loaded


def outlines_of(contours: list[Contour]) -> Any:
    """Where they lie on the sheet, very finely."""
    placed = [each.transformed(Affine.moved(100, 100)).flattened(1e-5) for each in contours]
    return shapely.union_all([shapely.linearrings(each) for each in placed])


def feet_of(mesh: Mesh) -> Any:
    """The edges (n, 2 ends, 2) on which the walls of an upright body stand."""
    ways = mesh.triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
    upright = np.ptp(mesh.corners[:, :, 2], axis=1) > 1e-9
    low = mesh.places[:, 2].min()
    feet = np.repeat(upright, 3) & (mesh.places[ways][:, :, 2] < low + 1e-9).all(axis=1)
    return mesh.places[ways[feet]][:, :, :2]


class Drawings(unittest.TestCase):
    def test_raised_they_have_their_volume_and_keep_to_their_outlines(self) -> None:
        for name, contours, colours in drawings():
            with self.subTest(name):
                solid = made(job_of(contours, colours, Raise(height=2.5), "none"))
                loaded = [judged(mesh) for mesh in solid.meshes]
                volume = sum(each.volume for each in loaded)
                wanted = 2.5 * exact_area(contours, colours)
                self.assertLess(abs(volume - wanted), 1e-3 * wanted)
                outlines = outlines_of(contours)
                for mesh in solid.meshes:
                    ends = feet_of(mesh) + np.array(SHEET.origin_place)
                    for there in (ends[:, 0], ends.mean(axis=1)):
                        away = shapely.distance(outlines, shapely.points(there))
                        self.assertLess(float(away.max()), 0.0101)

    def test_sunk_into_a_base_with_walls_that_lean_they_are_closed(self) -> None:
        for number, (name, contours, colours) in enumerate(itertools.islice(drawings(), 25)):
            ways = (
                Raise(height=2.0, draft=8.0),
                Raise(height=2.0, sunk=True, draft=8.0),
                Raise(height=2.0, upper="chamfered", edge=0.4),
                Raise(height=3.0, sunk=True, upper="rounded", edge=0.3),
                Raise(height=1.5, sunk=True, counts="underside", draft=15.0),
            )
            raising = ways[number // 5 % len(ways)]
            with self.subTest(name, way=raising):
                solid = made(job_of(contours, colours, raising, "box"))
                for mesh in solid.meshes:
                    judged(mesh)
                judged(solid.whole)
