"""Exact solids: sixty that nothing was set by, opened by a geometry kernel: valid, closed, of the volume
that formulas say, with as many faces as said; and what cannot be one, by its name."""

from __future__ import annotations

import contextlib
import io
import math
import tempfile
import unittest
from collections import Counter
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np
import shapely
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepGProp import BRepGProp
from OCP.GProp import GProp_GProps
from OCP.STEPControl import STEPControl_Reader
from OCP.TopAbs import TopAbs_FACE, TopAbs_SOLID
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS

from draxet.cli.commands import run
from draxet.formats.layer import FormatError
from draxet.formats.step import step_bytes
from draxet.formats.step_in import read_step
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.exact_solids import ExactSolid, Pose
from draxet.geometry.mesh import box_of, volume_of
from draxet.geometry.spans import ARC, CUBIC, LINE
from draxet.job.contour_edits import add_contours
from draxet.job.copies import place_copies
from draxet.job.guide_edits import add_guide
from draxet.job.machine_kinds.printer import LAYER_PRINTER
from draxet.job.operating import add_operation
from draxet.job.operations import Raise, Turn
from draxet.job.records import Job
from draxet.job.sheet_records import Base
from draxet.leaving.body_files import same_solids
from draxet.make.solids.exact_cells import NotExact, Standing
from draxet.make.solids.exact_sheet import exact_on, rounded_box
from draxet.make.solids.exact_turns import exact_profile, led_exactly, shaft_exactly, turned_exactly
from draxet.make.solids.exact_walls import walls_of
from draxet.make.solids.shaft_bodies import Shaft, shaft
from draxet.make.solids.solid_levels import Raised
from draxet.make.solids.solid_sheet import solid_sheet
from draxet.make.solids.turned_bodies import Axis
from draxet.progress import Unwatched
from tests.make.test_turning import SHEET, profile

Opened = tuple[bool, float, Counter[str]]
"""Whether the kernel finds a solid valid, its volume, and its faces by kind."""


def opened(data: bytes) -> list[Opened]:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder, "solids.step")
        path.write_bytes(data)
        reader = STEPControl_Reader()
        reader.ReadFile(str(path))
        reader.TransferRoots()
    found, solids = list[Opened](), TopExp_Explorer(reader.OneShape(), TopAbs_SOLID)
    while solids.More():
        solid, kinds, sums = solids.Current(), Counter[str](), GProp_GProps()
        BRepGProp.VolumeProperties_s(solid, sums, 1e-9, True, False)
        faces = TopExp_Explorer(solid, TopAbs_FACE)
        while faces.More():
            kind = BRepAdaptor_Surface(TopoDS.Face(faces.Current())).GetType()
            kinds[str(kind).rpartition("_")[2].strip(">: 0123456789")] += 1
            faces.Next()
        found.append((BRepCheck_Analyzer(solid).IsValid(), sums.Mass(), kinds))
        solids.Next()
    return found


def blob(rng: np.random.Generator, x: float, y: float, reach: float) -> Contour:
    """A closed contour of lines, arcs and curves within a circle."""
    count = int(rng.integers(4, 8))
    angles = 2 * math.pi * (np.arange(count) + rng.uniform(-0.2, 0.2, count)) / count
    radii = reach * rng.uniform(0.5, 0.7, count)
    nodes = np.column_stack([x + radii * np.cos(angles), y + radii * np.sin(angles)])
    kinds = rng.choice([LINE, ARC, CUBIC], count)
    onward = np.roll(nodes, -1, axis=0) - nodes
    out = np.column_stack([onward[:, 1], -onward[:, 0]]) * rng.uniform(-0.05, 0.15, (count, 1))
    handles = np.stack([nodes + onward / 3 + out, nodes + onward * 2 / 3 + out], axis=1)
    handles[kinds != CUBIC] = 0.0
    bulges = np.where(kinds == ARC, rng.uniform(-0.15, 0.15, count), 0.0)
    return Contour.make(nodes, kinds, bulges, handles)


def standing(
    name: str, low: float, high: float, *contours: Contour, sunk: bool = False
) -> Standing:
    outline, *holes = (each.flattened(0.002) for each in contours)
    area = shapely.Polygon(outline, holes)
    return Standing(Raised(name, "#aa3311", area, low, high, sunk), contours)


def drawing(seed: int) -> tuple[list[Standing], list[tuple[float, int]]]:
    """Areas on a grid raised on a base and sunk into it, islands in some; and of each solid the volume
    and the number of its faces."""
    rng = np.random.default_rng(9100 + seed)
    outline = rounded_box((0.0, 0.0, 120.0, 90.0), float(rng.choice([0.0, 4.0])))
    found = [standing("base", 0.0, 4.0, outline)]
    volume, faces = 4.0 * outline.area, len(outline.kinds) + 2
    others = list[tuple[float, int]]()
    for k in range(int(rng.integers(2, 7))):
        x, y, high = 20.0 + 40 * (k % 3), 22.0 + 45 * (k // 3), float(rng.uniform(0.5, 3.5))
        round_ = rng.random() < 0.4
        shape = Contour.circle(x, y, rng.uniform(6, 16)) if round_ else blob(rng, x, y, 17.0)
        area, spans = abs(shape.area), len(shape.kinds)
        inner = Contour.circle(x, y, 1.5)
        how = int(rng.integers(0, 4))
        if how == 0:
            found.append(standing(f"up {k}", 4.0, 4.0 + high, shape))
            others.append((high * area, spans + 2))
        elif how == 1:
            found.append(standing(f"ring {k}", 4.0, 4.0 + high, shape, inner))
            others.append((high * (area - inner.area), spans + 2 + 2))
        elif how == 2:  # a pocket with an island in it
            found.append(standing(f"down {k}", 4.0 - high, 4.0, shape, sunk=True))
            found.append(standing(f"island {k}", 4.0 - high, 5.0, inner))
            volume, faces = volume - high * area, faces + spans + 1
            others.append((inner.area * (1.0 + high), 4))
        else:
            found.append(standing(f"through {k}", 0.0, 4.0, shape, sunk=True))
            volume, faces = volume - 4.0 * area, faces + spans
    return found, [(volume, faces), *others]


def moments(rings: Sequence[Contour]) -> tuple[float, float]:
    """The area within rings, and its moment about x = 0."""
    area = moment = 0.0
    for ring in rings:
        x, y = ring.flattened(2e-8).T
        onward_x, onward_y = np.roll(x, -1), np.roll(y, -1)
        crossed = x * onward_y - onward_x * y
        area += float(crossed.sum()) / 2
        moment += float(((x + onward_x) * crossed).sum()) / 6
    return area, moment


def path(seed: int) -> tuple[Contour, float]:
    """A path of lines and arcs that run on from each other, some with mitred corners, closed or open;
    and by how much of a profile's moment its volume is more than area times length."""
    rng = np.random.default_rng(9300 + seed)
    if seed % 4 == 3:
        return Contour.circle(0.0, 0.0, 60.0), 2 * math.pi
    place, way, nodes, bulges = np.zeros(2), rng.uniform(0, 6.28), [np.zeros(2)], list[float]()
    more, sharp = 0.0, False
    for k in range(int(rng.integers(3, 8))):
        if k % 2 == 0 or sharp:  # straight on
            place = place + rng.uniform(60, 90) * np.array([math.cos(way), math.sin(way)])
            bulges.append(0.0)
            sharp = rng.random() < 0.3
            if sharp:
                turn = float(rng.uniform(-0.8, 0.8))
                way += turn
                more += 2 * math.tan(turn / 2)
        else:
            sweep, radius = float(rng.uniform(-1.2, 1.2)), float(rng.uniform(40, 80))
            chord = 2 * radius * math.sin(abs(sweep) / 2)
            middle = way + sweep / 2
            place = place + chord * np.array([math.cos(middle), math.sin(middle)])
            bulges.append(math.tan(sweep / 4))
            way, more = way + sweep, more + sweep
        nodes.append(place)
    if sharp:
        more -= 2 * math.tan(turn / 2)
    kinds = [ARC if bulge else LINE for bulge in bulges]
    return Contour.make(nodes, kinds, bulges, closed=False), more


class ExactSolids(unittest.TestCase):
    def check(self, solids: list[ExactSolid], wanted: list[tuple[float, int]]) -> list[Opened]:
        data = step_bytes(solids)
        found = opened(data)
        self.assertEqual(len(wanted), len(found))
        for (valid, volume, kinds), (exact, faces) in zip(found, wanted, strict=True):
            self.assertTrue(valid)
            self.assertLess(abs(volume - exact), 1e-6 * exact)
            self.assertEqual(faces, kinds.total())
        self.assertTrue(same_solids(solids, read_step(data)))
        return found

    def test_areas_raised_and_sunk_are_what_their_formulas_say(self) -> None:
        for seed in range(20):
            with self.subTest(seed):
                areas, wanted = drawing(seed)
                self.check(walls_of(areas), wanted)

    def test_profiles_turned_round_by_an_angle_and_in_sides(self) -> None:
        for seed in range(20):
            contours = profile(400 + seed)
            angle, sides = ((360.0, 0), (250.0, 0), (360.0, 24), (90.0, 12))[seed % 4]
            with self.subTest(seed, angle=angle, sides=sides):
                told = exact_profile(contours, Axis(50.0, 20.0, 90.0), "it")
                solid = turned_exactly(
                    told,
                    angle,
                    sides,
                    standing=bool(seed % 3),
                    level=3.0,
                    name="it",
                    colour="#223344",
                )
                _, moment = moments(told.rings)
                steps = math.ceil(sides * angle / 360) if sides else 1 + (angle > 180)
                turn = (
                    math.radians(angle)
                    if not sides
                    else steps * math.sin(math.radians(angle) / steps)
                )
                on_axis = sum(
                    abs(x0) + abs(x1) == 0.0 and kind == LINE
                    for ring in told.rings
                    for x0, x1, kind in zip(
                        ring.nodes[:, 0], np.roll(ring.nodes[:, 0], -1), ring.kinds, strict=True
                    )
                )
                spans = sum(len(ring.kinds) for ring in told.rings) - on_axis
                self.check([solid], [(turn * moment, spans * steps + 2 * (angle < 360))])

    def test_profiles_led_along_paths_of_lines_and_arcs(self) -> None:
        tube = [Contour.circle(3.0, 6.0, 3.0), Contour.circle(3.0, 6.0, 1.0)]
        for seed in range(20):
            rng = np.random.default_rng(9200 + seed)
            contours = tube if seed % 3 == 2 else [blob(rng, 4.0, 6.0, 8.0)]
            with self.subTest(seed):
                told = exact_profile(contours, Axis(0.0, 0.0, 90.0), "it", crosses=True)
                line, more = path(seed)
                solid = led_exactly(told, line, 2.0, "it", "#223344")
                area, moment = moments(told.rings)
                spans = sum(len(ring.kinds) for ring in told.rings)
                faces = spans * len(line.kinds) + 2 * (not line.closed)
                self.check([solid], [(area * line.length + more * moment, faces)])

    def test_circles_are_cylinders_and_what_is_turned_is_named_as_what_it_is(self) -> None:
        washer = walls_of(
            [standing("washer", 0.0, 2.0, Contour.circle(0, 0, 8), Contour.circle(0, 0, 4))]
        )
        self.assertEqual({"Cylinder": 4, "Plane": 2}, opened(step_bytes(washer))[0][2])
        knob = Contour.make(
            [(0, 0), (9, 0), (9, 5), (6, 9), (6, 20), (0, 26)],
            [LINE, LINE, LINE, ARC, ARC],
            [0, 0, 0, -0.2, math.tan(math.pi / 8)],
            closed=False,
        )
        told = exact_profile([knob], Axis(0, 0, 90), "knob")
        solid = turned_exactly(told, 360, 0, standing=True, level=0, name="knob", colour="#223344")
        kinds = opened(step_bytes([solid]))[0][2]
        self.assertEqual({"Plane": 2, "Cylinder": 2, "Cone": 2, "Torus": 2, "Sphere": 2}, kinds)

    def test_a_shaft_between_two_radii_is_turned_and_one_between_outlines_refused(self) -> None:
        circle = Contour.circle(30.0, 20.0, 8.0)
        arc = Contour.make([(60, 0), (58, 40)], [ARC], [-0.1], closed=False)
        cone = math.pi * 40 / 3 * (64 + 16 + 32)
        for told, volume, kind in (
            (Shaft(circle, (), 40.0, 3.0, above=4.0), cone, "Cone"),
            (Shaft(circle, (), 40.0, 3.0), 40 * circle.area, "Cylinder"),
            (Shaft(circle, (), 40.0, 3.0, curve=arc), 0.0, "Torus"),
        ):
            solid = shaft_exactly(told, "column", "#223344")
            ((valid, found, kinds),) = opened(step_bytes([solid]))
            self.assertTrue(valid)
            self.assertEqual({"Plane": 4, kind: 2}, kinds)
            wanted = volume or volume_of(shaft(told))
            self.assertAlmostEqual(found / wanted, 1, delta=1e-7 if volume else 1e-3)
            self.assertEqual((3.0, 43.0), (solid.vertices[:, 2].min(), solid.vertices[:, 2].max()))
        for wrong, words in (
            (Shaft(circle, (), 40.0, 3.0, top=Contour.circle(30, 20, 4)), "between outlines"),
            (Shaft(circle, (), 40.0, 3.0, above=3.0, curve=arc), "is stretched"),
        ):
            with self.assertRaisesRegex(NotExact, words):
                shaft_exactly(wrong, "column", "#223344")

    def test_a_mirrored_and_a_larger_copy_are_as_valid(self) -> None:
        areas, wanted = drawing(3)
        mirrored = Pose(np.diag([-2.0, 2.0, 2.0]), np.array([5.0, 0.0, 1.0]))
        solids = [each.posed(mirrored) for each in walls_of(areas)]
        self.check(solids, [(8 * volume, faces) for volume, faces in wanted])

    def test_a_hollow_within(self) -> None:
        box, ball = rounded_box((0, 0, 40, 30), 0.0), Contour.circle(20, 15, 5)
        areas = [standing("box", 0.0, 9.0, box), standing("hollow", 3.0, 6.0, ball, sunk=True)]
        (solid,) = walls_of(areas)
        self.assertEqual(2, len(solid.shells))
        self.check([solid], [(9.0 * 1200 - 3.0 * ball.area, 10)])

    def test_what_cannot_be_exact_is_refused_by_its_name(self) -> None:
        box = rounded_box((0, 0, 40, 30), 0.0)
        base = standing("base", 0.0, 3.0, box)
        over = standing("over", 1.0, 3.0, Contour.circle(40, 15, 5), sunk=True)
        twins = [
            standing(name, 1.0, 3.0, Contour.circle(x, 15, 5), sunk=True)
            for name, x in (("a", 15), ("b", 20))
        ]
        lean = replace(base, raised=replace(base.raised, draft=5.0))
        edge = [base, standing("step", 0.0, 2.0, Contour.circle(20, 15, 5), sunk=True)]
        curve = Contour.make(
            [(0, 0), (50, 0)], [CUBIC], [0.0], [[(10, 20), (40, 20)]], closed=False
        )
        corner = Contour.make([(0, 0), (50, 0), (50, 40)], [LINE, ARC], [0.0, 0.4], closed=False)
        tight = Contour.make(
            [(0, 0), (50, 0), (56, 6)], [LINE, ARC], [0.0, math.tan(math.pi / 8)], closed=False
        )
        told = exact_profile([rounded_box((-8, 0, 8, 9), 0.0)], Axis(0, 0, 90), "it", crosses=True)
        for made, words in (
            (lambda: walls_of([lean]), "base has walls that lean"),
            (lambda: walls_of([base, over]), "over lies over an edge of base"),
            (lambda: walls_of([base, *twins]), "areas over base cross or touch at"),
            (lambda: led_exactly(told, curve, 0, "it", ""), "free curves"),
            (lambda: led_exactly(told, corner, 0, "it", ""), "begins at a corner at (50, 0)"),
            (lambda: led_exactly(told, tight, 0, "it", ""), "broader than its path bends"),
        ):
            with self.subTest(words), self.assertRaises(NotExact) as caught:
                made()
            self.assertIn(words, str(caught.exception))
        self.assertEqual(1, len(walls_of(edge)))

    def test_what_was_spoilt_does_not_read_back(self) -> None:
        data = step_bytes(walls_of(drawing(1)[0]))
        for one, other, words in (
            (b"ADVANCED_FACE('',(", b"ADVANCED_FACE('',", "wanted"),
            (b",.T.);\n", b",.F.);\n", "against"),
            (b"CYLINDRICAL_SURFACE('',#", b"CYLINDRICAL_SURFACE('',#1", "is no"),
            (b"CIRCLE('',#", b"CIRCLE('',$,#", "damaged"),
            (b"FACE_OUTER_BOUND('',#", b"FACE_OUTER_BOUND('',#1", "."),
            (b"VERTEX_POINT('',#", b"VERTEX_POINT('',#9", "."),
        ):
            with self.subTest(one), self.assertRaisesRegex(FormatError, words):
                read_step(data.replace(one, other, 1))
        with self.assertRaisesRegex(FormatError, "no STEP file"):
            read_step(b"solid knob")


class OfJobs(unittest.TestCase):
    def test_a_job_s_bodies_are_those_of_its_mesh_in_the_same_places(self) -> None:
        column = Contour.make(
            [(100, 40), (104, 40), (103, 60), (100, 60)], [0, 1, 0], [0, 0.1, 0], closed=False
        )
        plate = [rounded_box((20, 20, 60, 50), 5.0), Contour.circle(40, 35, 6)]
        job = add_guide(add_contours(Job(sheets=(SHEET,)), [column, *plate]), 100.0, 0.0, 90.0)
        first, *others = (item.id for item in job.contours)
        turn = Turn(contours=(first,), axis=job.guides[0].id, level=3.0)
        job = add_operation(add_operation(job, turn), Raise(contours=tuple(others), height=2.0))
        there = [Affine.turned(60.0 * k).about(100, 100) for k in (1, 2)]
        there.append(Affine(-1.0, 0.0, 60.0, 0.0, 1.0, 0.0))
        job, _ = place_copies(job, [first], there, linked=True)
        for base in (Base(SHEET.id), Base(SHEET.id, "box", 3.0, 4.0, 6.0), Base(SHEET.id, "sheet")):
            based = replace(job, bases=(base,)).layout
            solid = solid_sheet(based, SHEET, LAYER_PRINTER)
            exact = exact_on(based, SHEET, solid, Unwatched())
            with self.subTest(base.shape):
                self.assertEqual(
                    Counter(m.name for m in solid.meshes), Counter(e.name for e in exact)
                )
                for valid, volume, _ in (found := opened(step_bytes(exact))):
                    self.assertTrue(valid and volume > 0)
                self.assertAlmostEqual(sum(v for _, v, _ in found) / solid.volume, 1, 2)
                low, high = box_of(solid.placed_meshes)
                ends = np.vstack([e.vertices for e in exact])
                self.assertLess(np.abs(ends.min(axis=0)[2] - low[2]), 1e-6)
                self.assertTrue(
                    (ends > np.array(low) - 0.01).all() and (ends < np.array(high) + 0.01).all()
                )

    def test_it_leaves_from_the_job_and_from_a_drawing(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            drawing, out = Path(folder, "in.svg"), Path(folder, "out.step")
            drawing.write_text(
                '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="80mm" viewBox="0 0 100 80">'
                '<g id="profile"><path d="M0 60 L4 60 L4 57 C3 55 2 54 0 52 Z" fill="none" stroke="#c00"/></g>'
                '<g id="way"><rect x="20" y="20" width="60" height="30" rx="8" fill="none" stroke="#00c"/></g></svg>'
            )
            for options, count in (
                (["--along", "way"], 1),
                (["--turn", "X=-5mm", "--sides", "24"], 2),
                (["--base", "3mm", "--corner", "4mm"], 3),
            ):
                with self.subTest(options), contextlib.redirect_stdout(io.StringIO()):
                    self.assertEqual(0, run(["solid", str(drawing), *options, "-o", str(out)]))
                self.assertEqual(
                    [True] * count, [valid for valid, _, _ in opened(out.read_bytes())]
                )
            said = io.StringIO()
            with contextlib.redirect_stderr(said):
                wrong = run(["solid", str(drawing), "--along", "path", "-o", str(out)])
            self.assertEqual(2, wrong)
            self.assertIn(
                "--along must name a layer or a colour that is there (profile, way)",
                said.getvalue(),
            )
