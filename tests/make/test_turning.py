"""Profiles turned about an axis: sixty that nothing was set by, closed, outward, of the volume that
their integral says; standing and lying; and what cannot be turned."""

from __future__ import annotations

import contextlib
import io
import json
import math
import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np
import shapely
import trimesh

from draxet.cli.commands import run
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.mesh import Mesh, box_of, is_closed, volume_of
from draxet.geometry.spans import ARC, CUBIC, LINE
from draxet.job.contour_edits import add_contours, change_contours, remove_for_good
from draxet.job.copies import place_copies
from draxet.job.entries import set_on
from draxet.job.guide_edits import add_guide, remove_guides
from draxet.job.machine_kinds.printer import LAYER_PRINTER
from draxet.job.operating import add_operation
from draxet.job.operations import Turn
from draxet.job.records import Job
from draxet.job.sheet_edits import add_sheet
from draxet.job.sheet_records import Sheet
from draxet.job.sides import runs_of
from draxet.make.solids.led_bodies import crosses_itself, led
from draxet.make.solids.shaft_bodies import Shaft, shaft, shaft_amiss
from draxet.make.solids.solid_sheet import SolidSheet, solid_sheet
from draxet.make.solids.turned_bodies import Axis, beyond_axis, profile_of, turned
from draxet.progress import Unwatched
from draxet.prove.run_bodies import bodies_amiss
from draxet.ui.model.each_run import job_of_run, looked_at

SHEET = Sheet("sheet-0", "Sheet 1", 200.0, 200.0, 3.0, "plastic", machine="layer-printer")
UPRIGHT = Axis(50.0, 20.0, 90.0)


def profile(seed: int) -> list[Contour]:
    """Steps, tapers, undercuts and tangent arcs right of the axis; open to it, or closed beside it."""
    rng = np.random.default_rng(5000 + seed)
    count = int(rng.integers(4, 12))
    heights = np.cumsum(rng.uniform(0.5, 6.0, count))
    radii = rng.uniform(3.0, 30.0, count)
    places = [(50.0 + r, 20.0 + h) for r, h in zip(radii, heights, strict=True)]
    kinds = rng.choice([LINE, ARC], count + 1)
    bulges = np.where(kinds == ARC, rng.uniform(-0.1, 0.1, count + 1), 0.0)
    kind = seed % 3
    if kind == 0:  # its ends lie on the axis
        nodes = [(50.0, 20.0 + heights[0]), *places, (50.0, 20.0 + heights[-1])]
        return [
            Contour.make(nodes, [LINE, *kinds[1:-1], LINE], [0, *bulges[1:-1], 0], closed=False)
        ]
    if kind == 1:  # its ends are free
        return [Contour.make(places, kinds[: count - 1], bulges[: count - 1], closed=False)]
    inner = [(52.0, 20.0 + heights[-1]), (52.0, 20.0 + heights[0])]
    bore = Contour.circle(50 + 60.0, 40.0, 2.0)
    rim = Contour.circle(50 + 60.0, 40.0, 5.0)
    ring = Contour.make([*places, *inner])
    return [ring] if seed % 2 else [rim, bore]


def integral(area: Any) -> float:
    """The volume of an area (radius, height) turned once round: by the rule of its middle."""
    return 2 * math.pi * float(shapely.centroid(area).x) * float(shapely.area(area))


def sound(test: unittest.TestCase, mesh: Mesh) -> None:
    loaded = trimesh.Trimesh(mesh.places, mesh.triangles)
    test.assertTrue(is_closed(mesh) and loaded.is_watertight and loaded.is_winding_consistent)
    test.assertGreater(volume_of(mesh), 0)


def blended(low: Contour, high: Contour, tall: float) -> float:
    """The volume between two outlines that are stars about their middles, place by place in each
    direction: of three radii that go evenly it is a third of the ends' squares and their product."""
    rays = []
    for each in (low, high):
        ring = shapely.Polygon(each.flattened(1e-4))
        x, y = shapely.get_coordinates(shapely.centroid(ring))[0]
        turns = np.arange(7200) * math.pi / 3600
        ends = np.column_stack([x + 500 * np.cos(turns), y + 500 * np.sin(turns)])
        lines = shapely.linestrings([[(x, y), end] for end in ends])
        met = shapely.intersection(lines, shapely.boundary(ring))
        rays.append(shapely.distance(shapely.Point(x, y), met))
    a, b = rays
    return float((a * a + b * b + a * b).sum()) / 6 * (math.pi / 3600) * tall


class Shafts(unittest.TestCase):
    circle = Contour.circle(40.0, 45.0, 12.0)
    square = Contour.make([(30, 35), (50, 35), (50, 55), (30, 55)])
    ell = Contour.make([(0, 0), (20, 0), (20, 5), (5, 5), (5, 20), (0, 20)])

    def test_their_volumes_are_known(self) -> None:
        square, circle = self.square, self.circle
        half = math.sqrt(100 / math.pi)
        bore = Contour.circle(40.0, 45.0, 5.0)
        cone = math.pi / 3 * (144 + 36 + 72)
        straight = Contour.make([(90, 0), (84, 10)], closed=False)
        bulged = Contour.make([(90, 0), (90, 10)], [ARC], [0.2], closed=False)
        radius = 5 / math.sin(2 * math.atan(0.2))
        heights = (np.arange(20000) + 0.5) / 2000 - 5
        out = np.sqrt(radius**2 - heights**2) - radius * math.cos(2 * math.atan(0.2))
        for told, volume in (
            (Shaft(circle, (), 50.0, 0.0), circle.area * 50),
            (Shaft(circle, (), 50.0, 2.0, above=6.0), cone * 50),
            (Shaft(circle, (), 10.0, 2.0, curve=straight), cone * 10),
            (Shaft(circle, (bore,), 50.0, 0.0, above=6.0), cone * 50 * (1 - 25 / 144)),
            (Shaft(square, (), 50.0, 0.0, above=half), 50 / 3 * (400 + 100 + 200)),
            (Shaft(square, (), 50.0, 0.0, top=circle), blended(square, circle, 50.0)),
            (Shaft(self.ell, (), 9.0, 0.0), self.ell.area * 9),
            (
                Shaft(circle, (), 10.0, 0.0, curve=bulged),
                float((math.pi * (12 + out) ** 2).sum()) / 2000,
            ),
        ):
            with self.subTest(volume=volume):
                self.assertIsNone(shaft_amiss(told))
                body = shaft(told)
                sound(self, body)
                self.assertAlmostEqual(volume_of(body) / volume, 1, delta=1e-3)
                low, high = box_of([body])
                np.testing.assert_allclose(
                    (low[2], high[2]), (told.level, told.level + told.height)
                )

    def test_sixty_between_outlines_of_all_kinds_are_closed(self) -> None:
        curve = Contour.make(
            [(80, 10), (82, 40), (78, 75)],
            [CUBIC, CUBIC],
            [0, 0],
            [[(83, 20), (84, 30)], [(81, 50), (79, 65)]],
            closed=False,
        )
        for seed in range(60):
            rng = np.random.default_rng(8800 + seed)
            low = _outline(rng, 40.0, 40.0)
            top = _outline(rng, 44.0, 37.0) if seed % 3 else None
            told = Shaft(
                low,
                (),
                float(rng.uniform(2, 90)),
                0.0,
                float(rng.uniform(3, 30)) if seed % 2 else 0.0,
                top,
                curve if seed % 4 == 1 else None,
            )
            with self.subTest(seed):
                self.assertIsNone(shaft_amiss(told))
                sound(self, shaft(told))

    def test_a_curve_that_falls_or_leaves_nothing_is_told_at_its_place(self) -> None:
        falls = Contour.make([(80, 0), (82, 8), (81, 6), (80, 20)], closed=False)
        x, y = shaft_amiss(Shaft(self.circle, (), 20.0, 0.0, curve=falls)) or (0.0, 0.0)
        self.assertEqual((x, y), (82.0, 8.0))
        gone = Contour.make([(80, 0), (60, 10), (80, 20)], closed=False)
        self.assertIsNotNone(shaft_amiss(Shaft(self.circle, (), 20.0, 0.0, curve=gone)))
        job = add_contours(Job(sheets=(SHEET,)), [self.circle, falls])
        round_, curve = (item.id for item in job.contours)
        job = add_operation(job, Turn(contours=(round_,), how="shaft", curve=curve))
        solid = solid_sheet(job.layout, SHEET, LAYER_PRINTER)
        self.assertEqual(solid.meshes, [])
        (found,) = bodies_amiss(job, SHEET, solid)
        self.assertIn("no shaft: the curve must rise", found.words)
        gone_with = remove_for_good(job, [curve])
        self.assertEqual(getattr(gone_with.operations[0], "curve", None), "")


def _outline(rng: np.random.Generator, x: float, y: float) -> Contour:
    """A polygon, a circle, or a blade that is no star about its middle."""
    how = int(rng.integers(0, 3))
    if how == 0:
        return Contour.circle(x, y, float(rng.uniform(2, 30)))
    if how == 1:
        turns = np.sort(rng.uniform(0, 2 * math.pi, 9)) + np.arange(9) * 0.01
        radii = rng.uniform(8, 25, 9)
        places = np.column_stack([x + radii * np.cos(turns), y + radii * np.sin(turns)])
        return Contour.make(places[::-1] if rng.random() < 0.5 else places)
    wide, thin = rng.uniform(10, 30), rng.uniform(1, 6)
    corners = [(0, 0), (wide, 0), (wide, thin), (thin, thin), (thin, wide), (0, wide)]
    return Contour.make([(x + a, y + b) for a, b in corners])


class Turning(unittest.TestCase):
    def test_each_is_closed_and_of_the_volume_of_its_integral(self) -> None:
        for seed in range(60):
            contours = profile(seed)
            with self.subTest(seed=seed):
                self.assertIsNone(beyond_axis(contours, UPRIGHT))
                seen = profile_of(contours, UPRIGHT)
                if not shapely.is_valid(seen.area):
                    continue
                wanted = integral(seen.area)
                sides = int(np.random.default_rng(seed).integers(12, 360))
                flat = turned(seen, sides=sides)
                sound(self, flat)
                share = sides / (2 * math.pi) * math.sin(2 * math.pi / sides)
                self.assertAlmostEqual(volume_of(flat) / (wanted * share), 1, delta=1e-6)
                fine = turned(seen)
                sound(self, fine)
                self.assertAlmostEqual(volume_of(fine) / wanted, 1, delta=1e-3)
                foot = (50.0, min(float(each.flattened(0.01)[:, 1].min()) for each in contours))
                radius = float(shapely.bounds(seen.area)[2])
                reach = np.hypot(*(fine.places[:, :2] - foot).T)
                self.assertAlmostEqual(float(reach.max()), radius, delta=0.01)

    def test_it_stands_on_its_foot_as_drawn_or_lies_about_its_axis(self) -> None:
        knob = Contour.make([(50, 20), (60, 20), (60, 25), (53, 30), (50, 30)], closed=False)
        for angle in (90.0, 270.0):
            seen = profile_of([knob], Axis(50, 0, angle))
            stands = turned(seen, level=3.0)
            low, high = box_of([stands])
            np.testing.assert_allclose((low[2], high[2]), (3.0, 13.0), atol=1e-6)
            foot = stands.places[stands.places[:, 2] < 7.9]
            self.assertAlmostEqual(
                float(np.hypot(*(foot[:, :2] - foot[:, :2].mean(axis=0)).T).max()), 10, 1
            )
            head = stands.places[stands.places[:, 2] > 12.9]
            self.assertLess(float(np.ptp(head[:, 0])), 6.1)
            lies = turned(seen, standing=False, level=2.0)
            low, high = box_of([lies])
            np.testing.assert_allclose((low[1], high[1]), (20, 30), atol=1e-6)
            np.testing.assert_allclose((low[2], high[2]), (-8, 12), atol=1e-2)
            self.assertAlmostEqual(volume_of(lies), volume_of(stands), 6)
        half = turned(profile_of([knob], UPRIGHT), 180.0, standing=False)
        sound(self, half)
        self.assertAlmostEqual(float(half.places[:, 2].min()), 0.0, 6)  # upwards from the sheet

    def job(self, *contours: Contour, x: float = 50.0) -> Job:
        job = add_guide(add_contours(Job(sheets=(SHEET,)), contours), x, 0.0, 90.0)
        ids = tuple(item.id for item in job.contours)
        return add_operation(job, Turn(contours=ids, axis=job.guides[0].id))

    def made(self, job: Job) -> SolidSheet:
        return solid_sheet(job.layout, SHEET, LAYER_PRINTER)

    def test_what_crosses_its_axis_or_has_none_is_told_and_goes_with_neither(self) -> None:
        knob = Contour.make([(50, 20), (60, 20), (60, 25), (50, 30)], closed=False)
        job = self.job(knob)
        solid = self.made(job)
        self.assertEqual((len(solid.meshes), bodies_amiss(job, SHEET, solid)), (1, []))
        over = self.made(self.job(knob, x=53.0))
        (words,) = [each.words for each in bodies_amiss(job, SHEET, over)]
        self.assertIn("reaches over the axis", words)
        self.assertEqual(over.meshes, [])
        bare = remove_guides(job)
        (turn,) = bare.operations
        self.assertEqual(getattr(turn, "axis", None), "")
        (found,) = bodies_amiss(bare, SHEET, self.made(bare))
        self.assertIn("no axis to turn about", found.words)
        gone = remove_for_good(job, [job.contours[0].id])
        self.assertEqual((gone.operations, len(gone.guides)), ((), 1))

    def test_what_follows_a_profile_stands_where_it_lies_and_changes_with_it(self) -> None:
        column = Contour.make([(100, 40), (104, 40), (103, 60), (100, 60)], closed=False)
        job = self.job(column, x=100.0)
        ring = [Affine.turned(30.0 * k).about(100, 100) for k in range(1, 12) if k not in (3, 7)]
        mirror = Affine(-1.0, 0.0, 60.0, 0.0, 1.0, 0.0)
        job, _ = place_copies(job, [job.contours[0].id], [*ring, mirror], linked=True)
        solid = self.made(job.layout)
        self.assertEqual(len(solid.meshes), 11)
        volumes = [volume_of(mesh) for mesh in solid.meshes]
        self.assertLess(max(volumes) - min(volumes), 1e-6 * max(volumes))
        for mesh, there in zip(solid.meshes[1:], [*ring, mirror], strict=True):
            sound(self, mesh)
            low, high = box_of([mesh])
            np.testing.assert_allclose((low[2], high[2]), (0.0, 20.0), atol=1e-6)
            middle = ((low[0] + high[0]) / 2, (low[1] + high[1]) / 2)
            np.testing.assert_allclose(middle, there.point(100.0, 40.0), atol=0.02)
        other = Contour.make([(100, 40), (106, 40), (102, 70), (100, 70)], closed=False)
        changed = change_contours(job, {job.contours[0].id: other})
        tall = [box_of([mesh])[1][2] for mesh in self.made(changed.layout).meshes]
        np.testing.assert_allclose(tall, [30.0] * 11, atol=1e-6)

    def test_led_along_a_path_its_section_is_the_profile_at_every_place(self) -> None:
        shape = [(50, 10), (53, 10), (51.5, 12), (51, 14), (49, 14), (49, 12)]
        refused = 0
        for seed in range(40):
            rng = np.random.default_rng(700 + seed)
            path = _path(rng, closed=seed % 2 == 0)
            with self.subTest(seed=seed):
                angle = 90.0 if seed % 3 else 270.0
                seen = profile_of([Contour.make(shape)], Axis(50.0, 0.0, angle), crosses=True)
                area, across = float(shapely.area(seen.area)), float(shapely.centroid(seen.area).x)
                if crosses_itself(seen, path):  # an arc that ends at a sharp corner
                    refused += 1
                    continue
                body = led(seen, path, 2.0)
                sound(self, body)
                low, high = box_of([body])
                np.testing.assert_allclose((low[2], high[2]), (2.0, 6.0), atol=1e-5)
                line = path.flattened(0.005)
                line = line if not path.closed or path.area > 0 else line[::-1]
                ring = np.vstack([line, line[:1]]) if path.closed else line
                ways = np.diff(ring, axis=0)
                turns = np.vstack([ways, ways[:1]]) if path.closed else ways
                bend = np.arctan2(
                    _cross(turns[:-1], turns[1:]), (turns[:-1] * turns[1:]).sum(axis=1)
                )
                long = float(np.hypot(*ways.T).sum() + 2 * across * np.tan(bend / 2).sum())
                self.assertAlmostEqual(volume_of(body) / (area * long), 1, delta=1e-4)
                loaded = trimesh.Trimesh(body.places, body.triangles)
                straight = np.argsort(-np.hypot(*ways.T))[:2]
                for k in straight.tolist():
                    middle = (ring[k] + ring[k + 1]) / 2
                    cut = loaded.section(plane_origin=(*middle, 3.0), plane_normal=(*ways[k], 0.0))
                    parts = cut.to_2D()[0].polygons_closed
                    self.assertTrue(any(abs(part.area - area) < 1e-4 * area for part in parts))
        self.assertLess(refused, 4)

    def test_what_would_run_into_itself_in_a_tight_bend_is_told(self) -> None:
        wide = Contour.make([(30, 10), (52, 10), (52, 14)])
        job = add_contours(Job(sheets=(SHEET,)), [wide, Contour.circle(120, 120, 15)])
        ids = [item.id for item in job.contours]
        job = add_guide(job, 50.0, 0.0, 90.0)
        job = add_operation(job, Turn(contours=(ids[0],), axis=job.guides[0].id, path=ids[1]))
        solid = self.made(job)
        (found,) = bodies_amiss(job, SHEET, solid)
        self.assertIn("into itself in a tight bend", found.words)
        self.assertEqual(solid.meshes, [])
        round_it = change_contours(job, {ids[1]: Contour.circle(120, 120, 40)})
        solid = self.made(round_it)
        self.assertEqual((len(solid.meshes), bodies_amiss(round_it, SHEET, solid)), (1, []))
        self.assertNotEqual(job.work_digest(SHEET), round_it.work_digest(SHEET))
        self.assertIn(ids[1], job.worked)
        far, other = add_sheet(round_it)
        far = set_on(far, "contours", (ids[1],), sheet=other)  # its path lies on another sheet
        (run_here,) = runs_of(far)
        looked = looked_at(Unwatched(), job_of_run(far.layout, run_here), run_here)
        self.assertIn("a path that is not on Sheet 1", looked.findings[0].words)
        gone = remove_for_good(job, [ids[1]])
        self.assertEqual([each.path for each in gone.operations], [""])

    def test_without_a_window(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path, out = Path(folder) / "knob.svg", Path(folder) / "knob.stl"
            path.write_text(
                '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="100mm" viewBox="0 0 100 100"><path d="M30 80H45V75L35 60H30" fill="none" stroke="black"/></svg>'
            )

            def told(*arguments: str) -> tuple[int, dict[str, Any]]:
                said = io.StringIO()
                with contextlib.redirect_stdout(said), contextlib.redirect_stderr(said):
                    status = run(["solid", str(path), *arguments, "--json"])
                return status, json.loads(said.getvalue()) if said.getvalue()[:1] == "{" else {
                    "words": said.getvalue()
                }

            status, facts = told("--turn", "X=30mm", "--sides", "24", "-o", str(out))
            flat = 225 * 5 + 15 * (225 + 75 + 25) / 3
            share = 24 / 2 * math.sin(2 * math.pi / 24)
            self.assertEqual((status, facts["closed"]), (0, True))
            self.assertAlmostEqual(facts["volume_mm3"], flat * share, delta=0.5)
            loaded: Any = trimesh.load(out)
            self.assertTrue(loaded.is_watertight)
            status, facts = told("--turn", "X=40mm")
            self.assertEqual(status, 1)
            self.assertIn("reaches over the axis", facts["findings"][0])
            for wrong in (("--turn", "Z=3"), ("--sides", "24"), ("--turn", "X=0", "--sides", "5")):
                status, facts = told(*wrong)
                self.assertNotEqual(status, 0)
                self.assertIn("--", facts["words"])


def _path(rng: Any, *, closed: bool) -> Contour:
    """A way of lines and arcs without tight bends."""
    count = int(rng.integers(4, 9))
    if closed:
        turns = np.sort(np.arange(count) + rng.uniform(-0.2, 0.2, count)) * 2 * math.pi / count
        reach = rng.uniform(30, 45, count)
        nodes = np.column_stack([reach * np.cos(turns), reach * np.sin(turns)])
        nodes = nodes if rng.random() < 0.5 else nodes[::-1]
    else:
        nodes = np.column_stack([np.cumsum(rng.uniform(15, 30, count)), rng.uniform(-8, 8, count)])
    kinds = rng.choice([LINE, ARC], len(nodes) - (not closed))
    bulges = np.where(kinds == ARC, rng.uniform(-0.15, 0.15, len(kinds)), 0.0)
    return Contour.make(nodes, kinds, bulges, closed=closed)


def _cross(one: Any, other: Any) -> Any:
    return one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0]
