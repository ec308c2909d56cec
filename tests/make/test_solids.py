"""Bodies of areas: closed, looking outwards, of the volume that they must have, and sharing no place;
what leaves is read by others."""

from __future__ import annotations

import contextlib
import io
import json
import math
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from typing import Any

import manifold3d
import numpy as np
import shapely
import trimesh
from PIL import Image

from draxet.cli.commands import run
from draxet.formats.layer import FormatError
from draxet.formats.meshes import ENDINGS, TELL_APART, mesh_bytes, read_meshes
from draxet.geometry.contour import Contour
from draxet.geometry.depth import nearest_at_pixels
from draxet.geometry.mesh import Mesh, box_of, is_closed, joined, piece_count, surface_of, volume_of
from draxet.geometry.narrow_places import near_places, thin_places, touching_places
from draxet.geometry.nesting import polygons_of
from draxet.geometry.spans import CUBIC
from draxet.job.contour_edits import add_contours, colour_contours
from draxet.job.file import save_job
from draxet.job.records import Job
from draxet.lettering.faces import face_named
from draxet.lettering.setting import set_rows, set_straight
from draxet.make.solids.solid_bodies import (
    base_under,
    bodies_of,
    made_of,
    whole_of,
)
from draxet.make.solids.solid_levels import Raised
from draxet.make.solids.solid_slopes import profile_of
from draxet.make.solids.solid_view import VIEWS, seen_from

WITHIN = 0.02


def area_of(*contours: Contour) -> Any:
    """What contours bound, every second one a hole, by no code of Draxet's but the flattening."""
    found: Any = shapely.Polygon()
    for each in polygons_of(contours, WITHIN):
        found = shapely.symmetric_difference(found, shapely.make_valid(each))
    return found


def gear(teeth: int, bore: float) -> Any:
    turns = np.linspace(0, 2 * math.pi, 4 * teeth, endpoint=False)
    reach = np.where(np.arange(4 * teeth) % 4 < 2, 20.0, 16.0)
    wheel = Contour.make(np.column_stack([reach * np.cos(turns), reach * np.sin(turns)]))
    return area_of(wheel, Contour.circle(0, 0, bore))


def blob(seed: int) -> Any:
    """An outline of arcs and curves round the origin."""
    rng = np.random.default_rng(seed)
    count = int(rng.integers(4, 9))
    turns = np.linspace(0, 2 * math.pi, count, endpoint=False)
    nodes = np.column_stack([np.cos(turns), np.sin(turns)]) * rng.uniform(8, 14, count)[:, None]
    ends = np.roll(nodes, -1, axis=0)
    kinds = rng.integers(0, 3, count)
    out = np.column_stack([-(ends - nodes)[:, 1], (ends - nodes)[:, 0]]) * -0.2
    handles = np.stack([nodes + (ends - nodes) / 3 + out, ends - (ends - nodes) / 3 + out], axis=1)
    handles[kinds != CUBIC] = 0.0
    bulges = np.where(kinds == 1, rng.uniform(-0.3, 0.4, count), 0.0)
    return area_of(Contour.make(nodes, kinds, bulges, handles), Contour.circle(0, 0, 2))


def letters(words: str, face: str) -> Any:
    return area_of(*set_straight(set_rows(face_named(face), words, 12.0), 1.5))


def shapes() -> list[tuple[str, Any]]:
    rings = area_of(*(Contour.circle(0, 0, r) for r in (20, 17, 12, 9, 4)))
    return [
        *[(f"gear of {n}", gear(n, 1 + n / 8)) for n in (5, 8, 12, 17, 24, 40)],
        *[(f"blob {n}", blob(n)) for n in range(12)],
        *[(f"letters {n}", letters(w, f)) for n, (w, f) in enumerate(WORDS)],
        ("nested rings", rings),
    ]


WORDS = (("BRINDLE", "Bitter Bold"), ("cote & 8", "Oswald Medium"), ("%Bg@", "Pacifico"))


def sound(test: unittest.TestCase, mesh: Mesh) -> Any:
    """The mesh as another library has it, after both found it closed and outward."""
    test.assertTrue(is_closed(mesh))
    other = trimesh.Trimesh(mesh.places, mesh.triangles, process=False)
    test.assertTrue(other.is_watertight and other.is_winding_consistent)
    test.assertGreater(other.volume, 0)
    taken = manifold3d.Mesh64(
        vert_properties=mesh.places, tri_verts=mesh.triangles.astype(np.uint64)
    )
    test.assertEqual(manifold3d.Manifold(taken).status(), manifold3d.Error.NoError)
    return other


class Bodies(unittest.TestCase):
    def test_each_is_closed_outward_and_of_its_area_times_its_height(self) -> None:
        for name, area in shapes():
            for height in (0.3, 6.0):
                with self.subTest(name, height=height):
                    (mesh,) = bodies_of([Raised(name, "#336699", area, 1.0, 1.0 + height)])
                    other = sound(self, mesh)
                    self.assertAlmostEqual(
                        volume_of(mesh) / (area.area * height), 1, delta=1e-4, msg=name
                    )
                    self.assertAlmostEqual(other.volume, volume_of(mesh), delta=1e-6 * other.volume)
                    self.assertAlmostEqual(other.area, surface_of(mesh), delta=1e-6 * other.area)
                    wanted = 2 * area.area + height * area.length
                    self.assertAlmostEqual(surface_of(mesh) / wanted, 1, delta=1e-4)
                    self.assertEqual(piece_count(mesh), len(shapely.get_parts(area)))
                    self.assertEqual((mesh.name, mesh.colour), (name, "#336699"))
                    low, high = box_of([mesh])
                    np.testing.assert_allclose(low[:2], area.bounds[:2], atol=1e-4)
                    self.assertEqual((low[2], high[2]), (1.0, 1.0 + height))

    def test_where_areas_lie_over_each_other_the_later_one_is_there_and_nothing_twice(self) -> None:
        rng = np.random.default_rng(3)
        for turn in range(12):
            some = []
            for k in range(6):
                x, y, low = rng.uniform(-8, 8), rng.uniform(-8, 8), float(rng.integers(0, 3))
                area = shapely.affinity.translate(blob(int(rng.integers(30))), x, y)
                sunk = k == 4
                some.append(Raised(f"{k % 5}", "", area, low, low + rng.integers(1, 4), sunk))
            meshes = bodies_of(some)
            for mesh in meshes:
                sound(self, mesh)
            levels = np.arange(0, 6) + 0.5
            taken = [shapely.Polygon()] * len(levels)
            wanted = 0.0
            for each in reversed(some):
                for k, level in enumerate(levels):
                    if each.low < level < each.high:
                        if not each.sunk:
                            wanted += shapely.area(shapely.difference(each.area, taken[k]))
                        taken[k] = shapely.union(taken[k], each.area)
            found = sum(map(volume_of, meshes))
            self.assertAlmostEqual(found / wanted, 1, delta=1e-3, msg=str(turn))
            one = whole_of(some)
            sound(self, one)
            self.assertAlmostEqual(volume_of(one) / found, 1, delta=1e-6)

    def test_areas_that_share_an_edge_have_neither_gap_nor_overlap(self) -> None:
        wave = [[(0, 0), (7, 3), (13, -3)], [(20, 0), (13, -3), (7, 3)]]
        handles = np.zeros((4, 2, 2))
        handles[0] = [(7, 3), (13, -3)]
        above = Contour.make([(0, 0), (20, 0), (20, 10), (0, 10)], [CUBIC, 0, 0, 0], None, handles)
        below = Contour.make(
            [(20, 0), (0, 0), (0, -10), (20, -10)],
            [CUBIC, 0, 0, 0],
            None,
            [np.array(wave[1][1:]), *np.zeros((3, 2, 2))],
        )
        some = [
            Raised("above", "", area_of(above), 0, 2),
            Raised("below", "", area_of(below), 0, 3),
        ]
        meshes, one = bodies_of(some), whole_of(some)
        sound(self, one)
        self.assertEqual(piece_count(one), 1)
        self.assertAlmostEqual(volume_of(one), sum(map(volume_of, meshes)), 6)
        cut = trimesh.Trimesh(one.places, one.triangles, process=False).section(
            plane_origin=(0, 0, 1), plane_normal=(0, 0, 1)
        )
        self.assertEqual(len(cut.to_2D()[0].polygons_full), 1)

    def test_what_is_covered_or_sunk_whole_is_no_body_and_a_base_is_as_told(self) -> None:
        disc = shapely.Point(0, 0).buffer(5, quad_segs=32)
        some = [Raised("under", "", disc, 0, 1), Raised("over", "", disc.buffer(1), 0, 2)]
        self.assertEqual([mesh.name for mesh in bodies_of(some)], ["over"])
        self.assertEqual(bodies_of([some[0], Raised("", "", disc.buffer(1), -1, 3, True)]), [])
        self.assertEqual(base_under(disc, 2, 0).bounds, (-7, -7, 7, 7))
        self.assertAlmostEqual(base_under(disc, 2, 3).area, 14**2 - (4 - math.pi) * 9, delta=0.05)
        self.assertAlmostEqual(base_under(disc, 2, 7).area, math.pi * 49, delta=0.1)
        with self.assertRaisesRegex(ValueError, "at most 7 mm.* got 8 mm"):
            base_under(disc, 2, 8)
        corners = shapely.multipolygons([shapely.box(0, 0, 5, 5), shapely.box(5, 5, 9, 9)])
        self.assertEqual(touching_places(corners), [(5, 5)])
        self.assertEqual(touching_places(gear(9, 2)), [])
        (mesh,) = bodies_of([Raised("", "", corners, 0, 1)])
        sound(self, mesh)


def ray_cast(corners: Any, x: float, y: float) -> float:
    """The greatest nearness of triangles at a place, by the areas of three parts of each."""
    a, b, c = np.moveaxis(corners, 1, 0)
    at = np.array([x, y])

    def area(one: Any, other: Any, third: Any) -> Any:
        u, v = other[..., :2] - one[..., :2], third[..., :2] - one[..., :2]
        return u[..., 0] * v[..., 1] - u[..., 1] * v[..., 0]

    whole = area(a, b, c)
    some = np.abs(whole) > 1e-9
    a, b, c, whole = a[some], b[some], c[some], whole[some]
    parts = np.stack([area(at, b, c), area(at, c, a), area(at, a, b)]) / whole
    met = (parts >= 0).all(axis=0)
    heights = (parts * np.stack([a[:, 2], b[:, 2], c[:, 2]])).sum(axis=0)
    return float(heights[met].max(initial=-math.inf))


class Seen(unittest.TestCase):
    def test_the_nearest_is_what_a_ray_meets_first_at_any_pixel(self) -> None:
        rng = np.random.default_rng(7)
        plate = shapely.box(-60, -10, 60, 30)
        thin = bodies_of(
            [
                Raised("", "", plate, 0, 3),
                Raised("", "#123456", letters("BRI8", "Pacifico"), 3, 3.2),
            ]
        )
        cases = [(joined(thin).corners, turn) for turn in (0.1, 1.2, 1.565)]
        cases.append((rng.uniform(-40, 40, (300, 3, 3)), 0.7))  # triangles through each other
        compared = 0
        for corners, turn in cases:
            tilt = np.array(
                [
                    [1, 0, 0],
                    [0, math.cos(turn), math.sin(turn)],
                    [0, -math.sin(turn), math.cos(turn)],
                ]
            )
            seen = corners @ tilt.T * 2.3 + (160.3, 100.2, 0)
            near, which = nearest_at_pixels(seen, 320, 200)
            self.assertEqual((near.shape, which.shape), ((200, 320), (200, 320)))
            np.testing.assert_array_equal(which < 0, np.isneginf(near))
            for x, y in rng.integers(0, (320, 200), (400, 2)).tolist():
                wanted = ray_cast(seen, x + 0.5, y + 0.5)
                compared += math.isfinite(wanted)
                if math.isinf(wanted):
                    self.assertLess(near[y, x], math.inf)
                    self.assertTrue(which[y, x] < 0)
                else:
                    self.assertAlmostEqual(near[y, x], wanted, delta=1e-6)
        self.assertGreater(compared, 400)

    def test_nothing_and_what_lies_outside_or_on_edge_is_not_seen(self) -> None:
        triangles = np.array(
            [
                [(-50, -50, 0), (-40, -50, 0), (-50, -40, 0)],
                [(2, 2, 0), (8, 8, 5), (4, 4, 9)],  # from its edge
                [(100, 3, 0), (100, 9, 0), (160, 3, 0)],
            ],
            dtype=float,
        )
        near, which = nearest_at_pixels(triangles, 20, 10)
        self.assertTrue((which == -1).all() and np.isneginf(near).all())
        self.assertTrue((nearest_at_pixels(np.zeros((0, 3, 3)), 4, 4)[1] == -1).all())
        whole = np.array([[(-9, -9, 1), (99, -9, 1), (-9, 99, 1)]], dtype=float)
        near, which = nearest_at_pixels(whole, 20, 10)
        self.assertTrue((which == 0).all() and (near == 1).all())

    def test_a_picture_shows_each_body_in_its_colour_where_it_lies(self) -> None:
        some = [
            Raised("base", "#888888", shapely.box(0, 0, 40, 20), 0, 2),
            Raised("left", "#d02020", shapely.box(4, 4, 16, 16), 2, 12),
            Raised("right", "#2020d0", shapely.box(24, 4, 36, 16), 2, 4),
        ]
        meshes = bodies_of(some)
        plan = seen_from(meshes, *VIEWS["plan"], 400, 240).astype(int)
        self.assertGreater(plan[120, 120, 0], plan[120, 120, 2] + 80)  # red on the left
        self.assertGreater(plan[120, 280, 2], plan[120, 280, 0] + 80)
        self.assertLess(np.ptp(plan[120, 200]), 12)  # grey between them
        self.assertGreater(plan[3, 3].min(), 200)  # the ground
        front = seen_from(meshes, *VIEWS["front"], 400, 240).astype(int)
        left, right = ((front[..., c] > front[..., 2 - c] + 50).any(axis=1).sum() for c in (0, 2))
        self.assertAlmostEqual(left / right, 5.0, delta=0.7)  # 10 mm high, and 2
        self.assertFalse(np.array_equal(front, seen_from(meshes, *VIEWS["side"], 400, 240)))


class Narrow(unittest.TestCase):
    def test_walls_and_gaps_that_are_too_narrow_are_told_and_corners_are_not(self) -> None:
        plate = shapely.box(0, 0, 40, 20)
        for wall in (0.6, 0.95):
            cut = plate.difference(shapely.box(wall, 4, 10, 16))
            ((x, y),) = thin_places(cut, 1.0)
            self.assertTrue(0 < x < wall and 4 < y < 16)
            self.assertEqual(near_places(cut, 1.0), [])
            apart = shapely.union(plate, shapely.box(40 + wall, 5, 60, 15))
            ((x, y),) = near_places(apart, 1.0)
            self.assertTrue(40 < x < 40 + wall and 5 < y < 15)
            self.assertEqual(thin_places(apart, 1.0), [])
        for wall in (1.0, 1.4):
            cut = plate.difference(shapely.box(wall, 4, 10, 16))
            self.assertEqual(thin_places(cut, 1.0), [])
        sharp = shapely.Polygon([(0, 0), (30, 0), (15, 25)])
        for shape in (sharp, gear(17, 4), shapely.Point(0, 0).buffer(3), plate):
            self.assertEqual((thin_places(shape, 1.0), near_places(shape, 1.0)), ([], []))


class Slopes(unittest.TestCase):
    """Walls that lean and edges that are taken off, against what geometry says."""

    def volume(self, *some: Raised) -> float:
        whole = whole_of(some)
        sound(self, whole)
        return volume_of(whole)

    def by_layers(self, area: Any, some: Raised, corners: Any) -> float:
        """What is left of an area, layer by layer, with sharp or round corners."""
        profile = profile_of(some.high - some.low, some.draft, some.upper, some.edge, 1e-4)
        heights = (np.arange(2000) + 0.5) / 2000 * (some.high - some.low)
        inwards = np.interp(heights, profile[:, 1], profile[:, 0], left=0.0)
        layers = [
            shapely.area(shapely.buffer(area, -d, join_style=corners, mitre_limit=5.0))
            for d in inwards
        ]
        return float(np.mean(layers) * (some.high - some.low))

    def test_they_are_as_high_as_their_profile_is_that_far_from_the_edge(self) -> None:
        bay = shapely.Polygon([(0, 0), (20, 0), (20, 6), (8, 6), (8, 18), (0, 18)])
        shapes = (
            bay,
            shapely.box(0, 0, 30, 10),
            gear(9, 5),
            blob(3),
            letters("R8&", "Bitter Bold"),
        )
        for area in shapes:
            for slope in (
                {"draft": 12.0},
                {"upper": "chamfered", "edge": 0.3},
                {"upper": "rounded", "edge": 0.3, "fine": 1e-3},
                {"draft": 5.0, "upper": "rounded", "edge": 0.2, "fine": 1e-3},
            ):
                some = Raised("", "", area, 1.0, 3.0, **slope)
                with self.subTest(slope=slope, area=shapely.area(area)):
                    found = self.volume(some)  # corners inwards are sharp up to a right angle
                    least, most = (self.by_layers(area, some, each) for each in ("mitre", "round"))
                    self.assertTrue(0.999 * least < found < 1.001 * most, (least, found, most))
                    self.assertLess(most / least, 1.01)

    def test_what_is_narrow_comes_to_a_ridge_and_what_is_small_to_a_point(self) -> None:
        bar = Raised("", "", shapely.box(0, 0, 20, 1), 0, 3, draft=45.0)
        self.assertAlmostEqual(self.volume(bar), 0.25 * 19 + 1 / 6, delta=0.03)  # a hipped roof
        disc = shapely.Point(0, 0).buffer(2, quad_segs=64)
        cone = Raised("", "", disc, 0, 30, draft=30.0)
        high = 2 / math.tan(math.radians(30))
        self.assertAlmostEqual(self.volume(cone) / (math.pi * 4 * high / 3), 1, delta=2e-3)

    def test_an_edge_that_two_of_one_level_share_stays_upright(self) -> None:
        one, other = shapely.box(0, 0, 10, 10), shapely.box(10, 0, 20, 10)
        both = [
            Raised("a", "", one, 0, 4, draft=10.0),
            Raised("b", "", other, 0, 4, upper="chamfered", edge=1.0),
        ]
        meshes = bodies_of(both)
        for mesh in meshes:
            sound(self, mesh)
            wall = mesh.places[np.abs(mesh.places[:, 0] - 10) < 1e-6]
            self.assertEqual((wall[:, 2].min(), wall[:, 2].max()), (0.0, 4.0))
        self.assertAlmostEqual(self.volume(*both), sum(map(volume_of, meshes)), delta=1e-3)
        alone = self.volume(Raised("a", "", one, 0, 4, draft=10.0))
        self.assertLess(alone, volume_of(meshes[0]) - 5)

    def test_what_is_sunk_narrows_as_it_goes_deep_and_its_rim_is_taken_off(self) -> None:
        plate, hole = shapely.box(-20, -20, 20, 20), shapely.Point(0, 0).buffer(8, quad_segs=64)
        base = Raised("base", "", plate, 0, 5)
        lean = math.tan(math.radians(20))
        for below in (False, True):
            for deep in (3.0, 5.0):
                low, high = (0.0, deep) if below else (5.0 - deep, 5.0)
                sunk = Raised("", "", hole, low, high, True, below, draft=20.0)
                end = 8 - deep * lean
                taken = math.pi * deep / 3 * (64 + 8 * end + end**2)
                self.assertAlmostEqual(
                    (8000 - self.volume(base, sunk)) / taken, 1, delta=3e-3, msg=f"{below} {deep}"
                )
                rim = replace(sunk, draft=0.0, upper="chamfered", edge=1.0)
                more = math.pi * (81 + 72 + 64) / 3 - math.pi * 64
                self.assertAlmostEqual(
                    8000 - self.volume(base, rim) - math.pi * 64 * deep, more, delta=0.02 * more
                )
        island = Raised("island", "", shapely.Point(0, 0).buffer(2), 0, 5)
        sunk = Raised("", "", hole, 2, 5, True, draft=20.0)
        self.assertEqual(len(bodies_of([base, sunk, island])), 2)
        stays = trimesh.Trimesh(
            *(lambda m: (m.places, m.triangles))(bodies_of([base, sunk, island])[1])
        )
        self.assertAlmostEqual(stays.volume, shapely.area(island.area) * 5, delta=1e-2)

    def test_what_did_not_change_is_not_made_anew(self) -> None:
        some = [
            Raised("base", "", shapely.box(0, 0, 60, 30), 0, 3),
            Raised("a", "", shapely.box(5, 5, 15, 15), 3, 5, draft=5.0),
            Raised("b", "", shapely.box(30, 5, 45, 15), 3, 5, upper="rounded", edge=0.5),
        ]
        before = made_of(some)
        after = made_of([*some[:2], replace(some[2], high=6.0)], before=before)
        self.assertEqual([after[key] is before[key] for key in before], [True, True, False])


class Files(unittest.TestCase):
    def raised(self) -> list[Raised]:
        base = base_under(gear(12, 3), 4, 3)
        red = Raised("a red one", "#cc2222", gear(12, 3), 2, 4)
        return [Raised("base", "#b7b2a7", base, 0, 2), red]

    def meshes(self) -> list[Mesh]:
        return bodies_of(self.raised())

    def test_every_kind_is_read_back_by_others_as_it_was(self) -> None:
        meshes = self.meshes()
        self.assertEqual(set(ENDINGS), {"stl", "3mf", "obj"})
        for ending in ENDINGS:
            written = meshes if ending in TELL_APART else [whole_of(self.raised())]
            data = mesh_bytes(written, ending)
            back = read_meshes(data, ending)
            with self.subTest(ending):
                self.assertEqual(len(back), len(written))
                for one, other in zip(back, written, strict=True):
                    self.assertTrue(is_closed(one))
                    self.assertAlmostEqual(volume_of(one) / volume_of(other), 1, 5)
                    np.testing.assert_allclose(box_of([one]), box_of([other]), atol=1e-4)
                if ending == "3mf":
                    named = [("base", "#b7b2a7"), ("a red one", "#cc2222")]
                    self.assertEqual([(mesh.name, mesh.colour) for mesh in back], named)
                    continue
                read: Any = trimesh.load(
                    io.BytesIO(data), file_type=ending, force="mesh", merge_norm=True
                )
                self.assertAlmostEqual(read.volume / volume_of(joined(written)), 1, 4)
                self.assertEqual(len(read.faces), sum(len(mesh.triangles) for mesh in written))

    def test_what_is_cut_short_or_otherwise_damaged_is_refused(self) -> None:
        for ending in ENDINGS:
            data = mesh_bytes([self.meshes()[0]], ending)
            with self.subTest(ending), self.assertRaises(FormatError):
                read_meshes(data[:-7] if ending != "obj" else data + b"f 1 2 99999999\n", ending)


class Command(unittest.TestCase):
    def said(self, *arguments: str) -> tuple[int, str]:
        out = io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(out):
            status = run(["solid", *arguments])
        return status, out.getvalue()

    def drawing(self, folder: str, inner: str) -> str:
        path = Path(folder) / "a.svg"
        path.write_text(
            f'<svg xmlns="http://www.w3.org/2000/svg" width="80mm" height="60mm" viewBox="0 0 80 60">{inner}</svg>'
        )
        return str(path)

    def test_a_filled_drawing_is_raised_by_its_colours_on_a_base_and_sunk_into_it(self) -> None:
        inner = """<path fill="#c22" d="M5 5h30v30h-30z M12 12h10v10h-10z"/>
            <rect x="45" y="10" width="20" height="20" fill="navy"/>
            <path d="M5 50H75" fill="none" stroke="green"/>"""
        with tempfile.TemporaryDirectory() as folder:
            path = self.drawing(folder, inner)
            status, out = self.said(path, "--height", "3mm", "--heights", "#000080=1in", "--json")
            found = json.loads(out)
            self.assertEqual((status, found["closed"]), (0, True))
            volumes = {each["colour"]: each["volume_mm3"] for each in found["bodies"]}
            self.assertAlmostEqual(volumes["#cc2222"], 800 * 3, 2)
            self.assertAlmostEqual(volumes["#000080"], 400 * 25.4, 2)
            self.assertEqual(found["box_mm"], [60, 30, 25.4])
            self.assertEqual(
                found["findings"],
                [
                    "1 open line left out: lines are no areas",
                    "they are 2 pieces that nothing joins",
                ],
            )
            output = str(Path(folder) / "b.stl")
            base = ("--base", "4mm", "--margin", "2mm", "--sink", "--heights", "red=1mm,#000080=9")
            status, out = self.said(path, "-o", output, *base, "--json")
            found = json.loads(out)
            self.assertEqual((status, found["files"]), (0, ["b.stl"]))
            self.assertAlmostEqual(found["volume_mm3"], 64 * 34 * 4 - 800 - 1600, 2)
            self.assertIn("sunk by 9 mm, deeper than the base of 4 mm", found["findings"][1])
            read: Any = trimesh.load(output, force="mesh")
            self.assertAlmostEqual(read.volume, found["volume_mm3"], delta=0.5)
            self.assertTrue(read.is_watertight)

    def test_a_picture_of_the_bodies_leaves_at_the_size_that_is_told(self) -> None:
        inner = '<rect x="5" y="5" width="20" height="10" fill="#c22"/>'
        with tempfile.TemporaryDirectory() as folder:
            path, output = self.drawing(folder, inner), Path(folder) / "b.png"
            for view in ("plan", "angled"):
                status, out = self.said(
                    path, "-o", str(output), "--view", view, "--size", "320x200"
                )
                self.assertEqual(status, 0, out)
                with Image.open(output) as picture:
                    self.assertEqual((picture.size, picture.format), ((320, 200), "PNG"))
                    red, _, blue = picture.convert("RGB").getpixel((160, 100))
                    self.assertGreater(red, blue + 60)

    def test_what_is_open_or_crosses_itself_stops_it_at_the_place(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            output = Path(folder) / "b.obj"
            for inner, words in (
                ('<path d="M5 5h30v30" fill="#c22"/>', "open at (35, 25) mm"),
                ('<path d="M5 5L35 35V5L5 35z" fill="#c22"/>', "crosses itself at (20, 40) mm"),
            ):
                path = self.drawing(folder, inner)
                status, out = self.said(path, "-o", str(output))
                self.assertEqual((status, output.exists()), (1, False), out)
                self.assertIn(words, out)

    def test_wrong_calls_are_told_in_a_sentence_and_write_nothing(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = self.drawing(folder, '<rect x="5" y="5" width="20" height="20" fill="#c22"/>')
            for wrong, words in (
                (("-o", "a.iges"), "must end in one of stl, 3mf, obj, step, png"),
                (("-o", path), "must end in one of"),
                (("--height", "0"), "must be from 0.01"),
                (("--heights", "red"), "must be like red=3mm"),
                (("--heights", "pink=3mm"), "layers or colours that are there"),
                (("--sink",), "want a base"),
                (("--base", "3mm", "--corner", "20mm"), "at most 15 mm"),
                (("--tolerance", "soft"), "got 'soft'"),
                (("--view", "plan"), "let the output end in .png"),
                (("-o", "a.png", "--size", "9x9"), "from 16x16"),
                (("-o", "a.png", "--size", "big"), "got 'big'"),
                (("-o", "a.png", "--view", "below"), "invalid choice"),
            ):
                status, out = self.said(path, *wrong)
                self.assertEqual(status, 2, wrong)
                self.assertIn(words, out)
                self.assertEqual(len(out.strip().splitlines()), 1)
            missing = str(Path(folder) / "none.svg")
            self.assertEqual(self.said(missing)[0], 2)

    def test_a_job_s_areas_are_raised_by_their_colours_or_layers(self) -> None:
        contours = [Contour.circle(0, 0, 10), Contour.circle(0, 0, 4), Contour.circle(30, 0, 5)]
        contours.append(Contour.make([(40, 0), (40.5, 0), (40.5, 30), (40, 30)]))
        job = colour_contours(add_contours(Job(), contours), ["contour-3"], "#3c8259")
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "a.draxet"
            save_job(job, path)
            status, out = self.said(str(path), "--heights", "green=5mm", "--json")
        found = json.loads(out)
        volumes = {each["name"]: each["volume_mm3"] for each in found["bodies"]}
        self.assertEqual((status, set(volumes)), (0, {"area", "green"}))
        self.assertAlmostEqual(volumes["area"] / ((math.pi * 84 + 15) * 2), 1, 3)
        self.assertIn("a wall is under 1 mm at (40.25, 15) mm", found["findings"])
        self.assertAlmostEqual(volumes["green"] / (math.pi * 25 * 5), 1, 2)


if __name__ == "__main__":
    unittest.main()
