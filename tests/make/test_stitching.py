"""Areas filled with thread, judged on the written file: read by the library, seen as thread 0.4 mm
broad, over shapes and angles that nothing was tuned by."""

from __future__ import annotations

import contextlib
import io
import json
import math
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np
import pyembroidery
import shapely

from draxet.cli.commands import run
from draxet.formats.embroidery import ENDINGS, embroidery_bytes, read_embroidery
from draxet.formats.layer import FormatError
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import area_of
from draxet.job.contour_edits import add_contours, colour_contours
from draxet.job.file import save_job
from draxet.job.findings import Gravity
from draxet.job.operating import add_operation, set_machine, set_operation
from draxet.job.operations import Stitch
from draxet.job.records import Job
from draxet.job.sewing_threads import THREADS, nearest_thread
from draxet.job.sheet_records import Sheet
from draxet.job.sides import runs_of
from draxet.lettering.faces import shipped_faces
from draxet.lettering.setting import set_rows, set_straight
from draxet.make.stitching.stitch_fill import Fill, filled
from draxet.make.stitching.stitch_plan import Sewn, StitchPlan, sewn
from draxet.make.stitching.stitched_sheet import stitched_sheet
from draxet.prove.run import findings_of_run

Shape = shapely.Geometry


def letters() -> list[tuple[str, Shape]]:
    found = []
    for number, face in enumerate(shipped_faces()[:6]):
        word, height = "BRig&8"[number], (8, 14, 20, 27, 33, 40)[number]
        contours = set_straight(set_rows(face, word, height), 1.5)
        found.append((f"{face.name} {word}", area_of(contours)))
    return found


def shapes() -> list[tuple[str, Shape]]:
    rng = np.random.default_rng(21)
    turns = np.linspace(0, 2 * math.pi, 60, endpoint=False)
    blob = shapely.Polygon(
        [
            (r * math.cos(t), r * math.sin(t))
            for t, r in zip(turns, 20 + 6 * np.sin(3 * turns) + rng.normal(0, 0.4, 60), strict=True)
        ]
    )
    disc = shapely.Point(0, 0).buffer(18, quad_segs=32)
    crescent = disc.difference(shapely.Point(9, 3).buffer(15, quad_segs=32))
    ring = disc.difference(shapely.Point(4, -3).buffer(9, quad_segs=32))
    comb = shapely.union_all(
        [shapely.box(0, 0, 70, 7), *(shapely.box(x, 0, x + 6, 30) for x in range(0, 70, 11))]
    )
    t = np.linspace(0, 14, 300)
    spiral = shapely.LineString(
        np.column_stack([(3 + 1.6 * t) * np.cos(t), (3 + 1.6 * t) * np.sin(t)])
    ).buffer(2.5)
    board = shapely.box(0, 0, 120, 60)
    for x, y in rng.uniform((8, 8), (112, 52), (9, 2)):
        board = board.difference(shapely.Point(x, y).buffer(5, quad_segs=8))
    return [
        ("blob", blob.difference(shapely.Point(2, 1).buffer(6))),
        ("crescent", crescent),
        ("ring", ring),
        ("comb", comb),
        ("spiral", spiral),
        ("board", board),
    ]


def plan_of(shape: Shape, angle: float) -> StitchPlan:
    return sewn([Sewn("it", "#aa2020", shape, Fill(angle=angle))])


def read_back(plan: StitchPlan, ending: str) -> list[np.ndarray]:
    """Runs as the library reads them, laid where they were planned."""
    runs = [(block.colour, block.points) for block in plan.blocks]
    pattern = pyembroidery.EmbPattern()
    reader = {"dst": pyembroidery.DstReader, "pes": pyembroidery.PesReader}[ending]
    reader.read(io.BytesIO(embroidery_bytes(runs, ending)), pattern)
    found, now = list[np.ndarray](), list[tuple[float, float]]()
    for x, y, command in pattern.stitches:
        if command & pyembroidery.COMMAND_MASK == pyembroidery.STITCH:
            now.append((x / 10, -y / 10))
        elif now:
            found.append(np.array(now))
            now = []
    off = plan.blocks[0].points[0] - found[0][0]
    return [each + off for each in found]


class Filled(unittest.TestCase):
    def test_every_shape_is_covered_at_every_angle_in_one_go_and_nothing_lies_outside(self) -> None:
        covered = []
        for number, (name, shape) in enumerate([*shapes(), *letters()]):
            for angle in (0.0, 25.0 + 5 * number, 90.0, 120.0 + 5 * (number % 11)):
                plan = plan_of(shape, angle)
                runs = read_back(plan, ("dst", "pes")[number % 2])
                with self.subTest(name, angle=angle):
                    thread = shapely.union_all(
                        [shapely.LineString(each).buffer(0.2, quad_segs=2) for each in runs]
                    )
                    share = shapely.area(shapely.intersection(thread, shape)) / shape.area
                    covered.append(share)
                    self.assertGreaterEqual(share, 0.985)
                    beyond = shapely.difference(thread, shapely.buffer(shape, 0.2 + 0.3 + 0.2))
                    self.assertLess(shapely.area(beyond) / shape.area, 0.003)
                    self.assert_no_stripe(shape, thread)
                    lengths = np.concatenate([np.hypot(*np.diff(each, axis=0).T) for each in runs])
                    self.assertLessEqual(lengths.max(), 4.75)
                    pieces = len(shapely.get_parts(shapely.buffer(shape, -0.25)))
                    self.assertLessEqual(plan.trims, 2 * max(pieces, len(shapely.get_parts(shape))))
        self.assertGreaterEqual(float(np.median(covered)), 0.993)

    def assert_no_stripe(self, shape: Shape, thread: Shape) -> None:
        """What is bare is nowhere broader than 0.5 mm."""
        bare = shapely.difference(shape, thread)
        self.assertTrue(shapely.is_empty(shapely.buffer(bare, -0.25)), "a bare stripe")

    def test_shapes_that_hang_together_broadly_are_sewn_without_a_trim(self) -> None:
        for name, shape in shapes():
            for angle in range(0, 180, 15):
                with self.subTest(name, angle=angle):
                    self.assertEqual(plan_of(shape, float(angle)).trims, 0)

    def test_ways_run_inside_and_under_rows_that_come_later(self) -> None:
        """Of each stitch that follows no row, what comes after it covers all but its ends."""
        for name, shape in shapes():
            with self.subTest(name):
                (points,) = filled(shape, Fill(angle=20.0, underlay=False))
                c, s = math.cos(math.radians(20)), math.sin(math.radians(20))
                way = np.diff(points, axis=0)
                across = np.abs(way @ np.array([-s, c]))
                ways = np.flatnonzero(
                    across > 0.8
                )  # rows and the turn from one to the next are not
                lines = shapely.linestrings(np.stack([points[ways], points[ways + 1]], axis=1))
                beyond = shapely.length(shapely.difference(lines, shapely.buffer(shape, 0.45)))
                self.assertLess(float(beyond.max(initial=0.0)), 0.05)
                for k, line in zip(ways.tolist(), lines, strict=True):
                    later = shapely.LineString(points[k + 1 :]).buffer(0.6)
                    self.assertLess(line.difference(later).length, 0.9)

    def test_whatever_is_drawn_is_sewn_within_the_stitch_s_length(self) -> None:
        """Scraps, slivers, pieces that touch in a point, from a tenth of a millimetre to 100."""
        rng = np.random.default_rng(5)
        for number in range(250):
            scale = 10 ** rng.uniform(-1, 2)
            shape = shapely.make_valid(
                shapely.Polygon(rng.uniform(0, scale, (rng.integers(3, 14), 2)))
            )
            parts = [g for g in shapely.get_parts(shape) if shapely.area(g) > 0]
            fill = Fill(
                float(rng.choice([0.2, 0.35, 2.0])),
                float(rng.uniform(-360, 360)),
                float(rng.choice([1.0, 4.0, 12.0])),
                float(rng.choice([0.0, 0.2, 1.0])),
                bool(rng.random() < 0.5),
            )
            for block in sewn([Sewn("it", "#000000", shapely.union_all(parts), fill)]).blocks:
                long = float(np.hypot(*np.diff(block.points, axis=0).T).max())
                self.assertTrue(0 < long <= fill.length + 0.75, (number, long, fill))

    def test_starts_near_the_place_it_comes_from(self) -> None:
        name, comb = shapes()[3]
        for place in ((0.0, 30.0), (70.0, 30.0)):
            run_ = filled(comb, Fill(angle=0.0, underlay=False), place)[0]
            self.assertLess(math.dist(run_[0], place), 36, name)


class Sheets(unittest.TestCase):
    def test_what_lies_under_comes_first_then_light_and_large(self) -> None:
        def plate(x: float, y: float, wide: float, high: float) -> Contour:
            return Contour.make([(x, y), (x + wide, y), (x + wide, y + high), (x, y + high)])

        wanted = [
            (plate(0, 0, 20, 20), "#101050"),  # dark, beneath the next one
            (plate(5, 5, 6, 6), "#f0f0a0"),
            (plate(20, 0, 30, 20), "#c02020"),  # beside the first, lighter and larger
            (plate(60, 0, 8, 8), "#f0e0e0"),
            (Contour.make([(0, 30), (40, 30)], closed=False), "#ffffff"),
        ]
        job = add_contours(
            Job(sheets=(Sheet(machine="bench-stitcher"),)),
            [contour for contour, _ in wanted],
            colours=[colour for _, colour in wanted],
        )
        job = add_operation(job, Stitch(contours=tuple(item.id for item in job.contours)))
        machine = job.machine_of(job.sheet)
        made = stitched_sheet(job, job.sheet, machine)
        in_turn = ["#f0e0e0", "#c02020", "#101050", "#f0f0a0", "#ffffff"]
        nearest = [nearest_thread(THREADS, colour).colour for colour in in_turn]
        self.assertEqual(made.plan.colours, nearest)
        self.assertEqual(made.ids[0], ("contour-4",))
        again = stitched_sheet(job, job.sheet, machine)
        self.assertEqual(len(made), len(again))
        self.assertGreater(made.seconds, len(made) / 700 * 60)

    def test_between_neighbours_no_cloth_shows(self) -> None:
        wave = [(20 + 3 * math.sin(t), 2 * t) for t in np.linspace(0, 12, 80)]
        left = Contour.make([(0, 0), *wave, (0, 24)])
        right = Contour.make([(40, 24), *wave[::-1], (40, 0)])
        for angle in (0.0, 45.0, 90.0):
            job = add_contours(
                Job(sheets=(Sheet(machine="bench-stitcher"),)),
                [left, right],
                colours=["#aa2020", "#2020aa"],
            )
            stitch = Stitch(contours=("contour-1", "contour-2"), angle=angle)
            job = add_operation(job, stitch)
            made = stitched_sheet(job, job.sheet, job.machine_of(job.sheet))
            thread = shapely.union_all(
                [
                    shapely.LineString(each.points).buffer(0.2, quad_segs=2)
                    for each in made.plan.blocks
                ]
            )
            whole = area_of([left, right])
            bare = shapely.difference(shapely.buffer(whole, -0.3), thread)
            self.assertTrue(shapely.is_empty(shapely.buffer(bare, -0.12)), angle)

    def test_what_is_too_long_for_the_machine_stops_and_what_is_too_small_is_told(self) -> None:
        scrap = Contour.make([(50, 50), (50.05, 50), (50.05, 50.05)])
        job = add_contours(
            Job(sheets=(Sheet(machine="bench-stitcher"),)), [Contour.circle(30, 30, 20), scrap]
        )
        job = add_operation(job, Stitch(contours=("contour-1",), length=9.0))
        job = add_operation(job, Stitch(contours=("contour-2",)))
        (run_of,) = runs_of(job)
        made = stitched_sheet(job, job.sheet, job.machine_of(job.sheet))
        found = {each.kind: each for each in findings_of_run(job, run_of, made)}
        self.assertEqual(found["stitches-long-sheet-0"].gravity, Gravity.STOPS)
        self.assertEqual(found["stitches-unsewn-sheet-0"].ids, ("contour-2",))
        short = set_operation(job, job.operations[0].changed(length=4.0))
        made = stitched_sheet(short, short.sheet, short.machine_of(short.sheet))
        kinds = {each.kind for each in findings_of_run(short, runs_of(short)[0], made)}
        self.assertEqual(kinds, {"stitches-unsewn-sheet-0"})
        dense = set_operation(short, short.operations[0].changed(spacing=0.1, length=1.0))
        frail = replace(dense.machine_of(dense.sheet), densest=10.0)
        dense = set_machine(dense, frail)
        made = stitched_sheet(dense, dense.sheet, dense.machine_of(dense.sheet))
        kinds = {each.kind for each in findings_of_run(dense, runs_of(dense)[0], made)}
        self.assertIn("stitches-dense-sheet-0", kinds)


class Files(unittest.TestCase):
    def plan(self) -> StitchPlan:
        things = [
            Sewn("a", "#cc2020", shapely.Point(0, 0).buffer(15)),
            Sewn("b", "#2020cc", shapely.Point(50, 0).buffer(9)),
            Sewn("c", "#2020cc", shapely.LineString([(0, 30), (40, 30), (40, 45)])),
            Sewn("d", "#cc2020", shapely.box(-50, -9, -35, 9)),
        ]
        return sewn(things)

    def test_needle_points_threads_and_trims_come_back_from_every_kind(self) -> None:
        plan = self.plan()
        self.assertEqual(plan.colours, ["#cc2020", "#2020cc", "#cc2020"])
        for ending in ENDINGS:
            found = read_embroidery(
                embroidery_bytes([(b.colour, b.points) for b in plan.blocks], ending), ending
            )
            with self.subTest(ending):
                self.assertTrue(found.has_end)
                self.assertEqual([thread for thread, _ in found.runs], [0, 1, 1, 2])
                off = found.runs[0][1][0] - plan.blocks[0].points[0]
                for (_, points), block in zip(found.runs, plan.blocks, strict=True):
                    np.testing.assert_allclose(points - off, block.points, atol=0.02)
                if ending in ("pes", "vp3"):
                    self.assertEqual(list(found.colours), plan.colours)

    def test_damaged_and_foreign_files_are_refused_or_told_in_a_sentence(self) -> None:
        plan = self.plan()
        whole = embroidery_bytes([(b.colour, b.points) for b in plan.blocks], "dst")
        self.assertFalse(read_embroidery(whole[: len(whole) // 2], "dst").has_end)
        rng = np.random.default_rng(2)
        for ending in ENDINGS:
            good = embroidery_bytes([(b.colour, b.points) for b in plan.blocks], ending)
            for data in (b"", b"x", good[:40], rng.bytes(3000), bytes(600)):
                with self.subTest(ending, size=len(data)), contextlib.suppress(FormatError):
                    read_embroidery(data, ending)
        with self.assertRaisesRegex(FormatError, "must end in one of"):
            read_embroidery(whole, "xyz")


class Command(unittest.TestCase):
    def said(self, *arguments: str) -> tuple[int, str]:
        out = io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(out):
            status = run(["stitch", *arguments])
        return status, out.getvalue()

    def test_a_drawing_is_sewn_in_its_colours_and_order(self) -> None:
        drawing = """<svg xmlns="http://www.w3.org/2000/svg" width="80mm" height="60mm"
          viewBox="0 0 80 60"><path fill="#c22" d="M5 5h30v30h-30z M12 12h10v10h-10z"/>
          <circle cx="60" cy="20" r="12" style="fill: navy"/>
          <path d="M5 50 C 20 40, 40 60, 75 48" fill="none" stroke="green"/></svg>"""
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            (folder / "a.svg").write_text(drawing)
            path = str(folder / "a.svg")
            status, out = self.said(path, "-o", str(folder / "a.dst"), "--json")
            found = json.loads(out)
            self.assertEqual((status, found["colours"]), (0, ["#cc2222", "#000080", "#008000"]))
            self.assertEqual([each["kind"] for each in found["areas"]], ["fill", "fill", "run"])
            self.assertTrue(all(each["covered"] > 0.985 for each in found["areas"][:2]))
            self.assertEqual(found["trims"], 0)
            self.assertEqual(found["files"], ["a.dst", "a - threads.txt"])
            self.assertIn("3  #008000", (folder / "a - threads.txt").read_text())
            x0, y0, x1, y1 = found["box_mm"]
            self.assertAlmostEqual(x1 - x0, 70, delta=0.7)
            self.assertAlmostEqual(y0, 60 - 52, delta=1.0)
            hoop = ("--hoop", "60mmx60mm")
            status, out = self.said(path, "-o", str(folder / "b.pes"), *hoop)
            self.assertEqual((status, (folder / "b.pes").exists()), (1, False))
            self.assertIn("does not go into a hoop of 60 × 60 mm", out)
            for wrong in (("-o", "a.xyz"), ("--spacing", "20mm"), ("--hoop", "big"), ("-o", path)):
                status, out = self.said(path, *wrong)
                self.assertEqual(status, 2)
                self.assertIn("got", out)

    def test_a_line_is_sewn_as_broad_as_the_drawing_says(self) -> None:
        lines = (
            ("", "run", 0.0),
            ('stroke-width="2.4"', "satin", 2.4),
            ('style="stroke-width: .3"', "run", 0.0),
            ('stroke-width="1.2" transform="scale(2)"', "satin", 2.4),
            ('stroke-width="broad"', "run", 0.0),
            ('stroke-width="-4"', "run", 0.0),
            ('stroke-width="3%"', "satin", 3.0),
            ('class="thick"', "satin", 1.5),
            ('stroke-width="30"', "fill", 30.0),
        )
        for looks, kind, broad in lines:
            drawing = f"""<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="100mm"
              viewBox="0 0 100 100"><style>.thick {{ stroke-width: 1.5 }}</style>
              <path d="M5 20 H45" fill="none" stroke="green" {looks}/></svg>"""
            with self.subTest(looks), tempfile.TemporaryDirectory() as name:
                path = Path(name) / "a.svg"
                path.write_text(drawing)
                status, out = self.said(str(path), "--json")
                found = json.loads(out)
                self.assertEqual((status, found["areas"][0]["kind"]), (0, kind))
                _, y0, _, y1 = found["box_mm"]
                self.assertAlmostEqual(y1 - y0, broad, delta=0.5)

    def test_a_job_s_areas_are_sewn_by_their_colours(self) -> None:
        plates = [shapely.box(0, 0, 20, 20), shapely.box(5, 5, 9, 9), shapely.box(30, 0, 45, 20)]
        contours = [Contour.make(shapely.get_coordinates(each)[:-1]) for each in plates]
        job = add_contours(Job(), [*contours, Contour.make([(0, 30), (40, 30)], closed=False)])
        job = colour_contours(job, ["contour-1", "contour-2"], "#3c8259")
        with tempfile.TemporaryDirectory() as folder:
            save_job(job, Path(folder) / "a.draxet")
            status, out = self.said(str(Path(folder) / "a.draxet"), "--json")
        found = json.loads(out)
        self.assertEqual((status, found["files"]), (0, []))
        self.assertEqual(
            [each["name"] for each in found["areas"]], ["green area", "black area", "black line"]
        )

    def test_a_job_s_own_stitches_are_sewn_as_it_has_them_and_what_stops_is_said(self) -> None:
        plate = Contour.make([(10, 10), (60, 10), (60, 40), (10, 40)])
        job = add_contours(Job(sheets=(Sheet(machine="bench-stitcher"),)), [plate])
        job = add_operation(job, Stitch(contours=("contour-1",), spacing=0.7, angle=0.0))
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            save_job(job, folder / "a.draxet")
            status, out = self.said(str(folder / "a.draxet"), "--json")
            found = json.loads(out)
            self.assertEqual((status, found["findings"]), (0, []))
            machine = job.machine_of(job.sheet)
            self.assertEqual(found["stitches"], len(stitched_sheet(job, job.sheet, machine)))
            status, out = self.said(str(folder / "a.draxet"), "--json", "--spacing", "0.35mm")
            self.assertGreater(json.loads(out)["stitches"], 1.6 * found["stitches"])
            beyond = set_operation(job, job.operations[0].changed(length=9.0))
            save_job(beyond, folder / "b.draxet")
            output = folder / "b.dst"
            status, out = self.said(str(folder / "b.draxet"), "-o", str(output))
            self.assertEqual((status, output.exists()), (1, False))
            self.assertIn("stops: 1 area with stitches longer than the 7 mm", out)
