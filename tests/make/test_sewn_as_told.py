"""What is told of sewing holds in the needle points: where it begins and ends, in which order, with
which threads; and what may be wrong with it is found, and not where nothing is."""

from __future__ import annotations

import math
import unittest
from dataclasses import replace

import numpy as np
import shapely

from draxet.geometry.contour import Contour
from draxet.geometry.shapes import ellipse
from draxet.job.contour_edits import add_contours, change_contours
from draxet.job.findings import Finding, Gravity
from draxet.job.make_edits import order_by_hand, put_start
from draxet.job.operating import add_operation, set_machine, set_operation, taken_up
from draxet.job.operations import Stitch
from draxet.job.records import Job
from draxet.job.sewing_threads import THREADS, Thread, apart, nearest_thread
from draxet.job.sheet_records import Sheet
from draxet.job.sides import runs_of
from draxet.make.rows import RowError
from draxet.make.stitching.stitch_fill import Fill
from draxet.make.stitching.stitch_plan import Sewn, sewn
from draxet.make.stitching.stitch_rows import few_rows
from draxet.make.stitching.stitched_sheet import StitchedSheet, stitched_sheet
from draxet.make.thread_lists import read_threads
from draxet.prove.run import findings_of_run
from tests.make.test_stitching import shapes


def plate(x: float, y: float, wide: float, high: float) -> Contour:
    return Contour.make([(x, y), (x + wide, y), (x + wide, y + high), (x, y + high)])


def job_of(*some: tuple[Contour, str], **settings: object) -> Job:
    job = add_contours(
        Job(sheets=(Sheet(machine="bench-stitcher", width=200, height=200),)),
        [contour for contour, _ in some],
        colours=[colour for _, colour in some],
    )
    stitch = Stitch(contours=tuple(item.id for item in job.contours), **settings)  # type: ignore[arg-type]
    return add_operation(job, stitch)


def made_of(job: Job) -> StitchedSheet:
    return stitched_sheet(job, job.sheet, job.machine_of(job.sheet))


def told(job: Job) -> dict[str, Finding]:
    """The findings of a job's stitches by their kinds."""
    (run,) = runs_of(job)
    found = findings_of_run(job, run, made_of(job))
    return {each.kind.removesuffix(f"-{job.sheet.id}"): each for each in found}


class Places(unittest.TestCase):
    def test_sewing_begins_and_ends_where_it_was_told_and_still_covers_all(self) -> None:
        rng = np.random.default_rng(5)
        for name, shape in shapes():
            rim = shape.exterior
            start, end = (
                shapely.get_coordinates(rim.interpolate(rng.uniform(0, rim.length)))[0].tolist()
                for _ in range(2)
            )
            with self.subTest(name):
                plan = sewn([Sewn("it", "#aa2020", shape, Fill(30.0), tuple(start), tuple(end))])
                plan = sewn([Sewn("it", "#aa2020", shape, Fill(), tuple(start), tuple(end))])
                self.assertEqual(plan.trims, 0)
                self.assertLess(math.dist(plan.blocks[0].points[0], start), 0.3)
                self.assertLess(self.ends_from_row(plan.blocks[-1].points[-1], end), 1.0)
                thread = shapely.union_all(
                    [shapely.LineString(b.points).buffer(0.2, quad_segs=2) for b in plan.blocks]
                )
                self.assertGreater(shapely.area(thread & shape) / shape.area, 0.985)

    def ends_from_row(self, last: np.ndarray, end: list[float]) -> float:
        """How far it ends from the row (at 45°) that was told."""
        return abs(float((last - end) @ np.array([-1.0, 1.0])) / math.sqrt(2))

    def test_starts_and_ends_are_put_on_contours_and_go_along_with_them(self) -> None:
        job = job_of((plate(10, 10, 40, 30), "#c02020"))
        job = put_start(put_start(job, "contour-1", 0.0), "contour-1", 0.5, "end")
        points = made_of(job).plan.blocks[0].points
        self.assertLess(math.dist(points[0], (10, 10)), 0.3)
        self.assertLess(math.dist(points[-1], (50, 40)), 3.0)
        moved = change_contours(job, {"contour-1": plate(60, 10, 40, 30)})
        self.assertLess(math.dist(made_of(moved).plan.blocks[0].points[0], (60, 10)), 0.3)
        self.assertEqual(len(put_start(job, "contour-1", 0.2).operations[0].spots), 2)

    def test_what_is_put_in_order_by_hand_is_sewn_so_also_against_what_lies_under(self) -> None:
        some = [(plate(0, 0, 30, 30), "#3c8259"), (plate(10, 10, 8, 8), "#cf4a3c")]
        some += [(plate(50 * k, 60, 20, 20), "#1e3550") for k in range(3)]
        job = job_of(*some)
        ids = [item.id for item in job.contours]
        flat = [name for names in made_of(job).ids for name in names]
        self.assertLess(flat.index(ids[0]), flat.index(ids[1]))
        job = order_by_hand(job, [ids[1], ids[0]])
        flat = [name for names in made_of(job).ids for name in names]
        self.assertLess(flat.index(ids[1]), flat.index(ids[0]))

    def test_threads_are_changed_as_seldom_as_what_lies_on_what_allows(self) -> None:
        red, blue = "#cf4a3c", "#1e3550"
        some = [(plate(0, 0, 20, 20), red), (plate(5, 5, 8, 8), blue)]
        some += [(plate(30, 0, 20, 20), blue), (plate(60, 0, 20, 20), red)]
        operations = [job_of(*some), job_of(*some[::-1])]
        self.assertEqual([len(made_of(job).plan.colours) for job in operations], [2, 2])
        in_between = [
            (plate(0, 0, 9, 9), blue),
            (plate(5, 0, 9, 9), red),
            (plate(10, 0, 9, 9), blue),
        ]
        self.assertEqual(len(made_of(job_of(*in_between)).plan.colours), 3)

    def test_lines_are_run_as_often_and_in_such_stitches_as_told(self) -> None:
        line = Contour.make([(0, 0), (30, 0), (30, 12)], closed=False)
        for times, length in ((1, 2.0), (2, 3.0), (3, 1.5)):
            job = job_of((line, "#000000"), way="run", times=times, line_stitch=length)
            points = made_of(job).plan.blocks[0].points
            with self.subTest(times=times):
                long = np.hypot(*np.diff(points, axis=0).T)
                self.assertLessEqual(long.max(), length + 0.11)
                self.assertAlmostEqual(long.sum(), 42 * times, delta=6)
                ends = [(0, 0), (30, 12)][times != 2]
                self.assertLess(math.dist(points[-1], ends), 0.8)

    def test_few_rows_lie_within_what_they_show(self) -> None:
        for name, shape in shapes():
            rows = few_rows(shape, 30.0, 40)
            lines = shapely.linestrings(np.array(rows).reshape(-1, 2, 2))
            with self.subTest(name):
                self.assertGreater(len(rows), 30)
                beyond = shapely.length(shapely.difference(lines, shapely.buffer(shape, 1e-6)))
                self.assertLess(float(beyond.max()), 1e-6)
        self.assertEqual(few_rows(shapely.Polygon(), 10.0, 40), [])


class Closing(unittest.TestCase):
    def test_what_closes_is_filled_and_nothing_else(self) -> None:
        before = job_of((plate(0, 0, 20, 20), "#c02020"), takes=True)
        line = Contour.make([(50, 0), (60, 0), (60, 9)], closed=False)
        job = taken_up(before, add_contours(before, [line]))
        self.assertEqual(len(job.operations[0].contours), 1)
        closed = change_contours(job, {job.contours[-1].id: plate(50, 0, 10, 10)})
        done = taken_up(job, closed)
        self.assertEqual(done.operations[0].contours[-1], job.contours[-1].id)
        self.assertIs(taken_up(done, done), done)
        elsewhere = replace(before, sheets=(replace(before.sheet, machine="plasma-table"),))
        self.assertEqual(
            taken_up(elsewhere, add_contours(elsewhere, [plate(0, 50, 9, 9)])).operations,
            elsewhere.operations,
        )
        untold = job_of((plate(0, 0, 20, 20), "#c02020"))
        more = add_contours(untold, [plate(0, 50, 9, 9)])
        self.assertIs(taken_up(untold, more), more)


class Findings(unittest.TestCase):
    def test_a_leak_is_told_at_its_place_and_closed_and_a_line_is_none(self) -> None:
        heart = [(0, 0), (12, 14), (6, 20), (0, 16), (-6, 20), (-12, 14), (-1.5, 1.2)]
        line = Contour.make([(40, 0), (80, 30), (120, 0)], closed=False)
        job = job_of((Contour.make(np.array(heart) + 30, closed=False), "#c02020"), (line, ""))
        leak = told(job)["stitches-leak"]
        self.assertEqual((leak.ids, leak.gravity), (("contour-1",), Gravity.STOPS))
        self.assertLess(math.dist(leak.places[0], (29.25, 30.6)), 0.01)
        assert leak.mend is not None
        mended = leak.mend(job)
        self.assertNotIn("stitches-leak", told(mended))
        self.assertTrue(any(thing.is_area for thing in made_of(mended).plan.things))

    def test_cloth_between_neighbours_is_told_and_mended_and_far_or_touching_ones_are_not(
        self,
    ) -> None:
        def beside(gap: float) -> Job:
            pair = [(plate(0, 0, 20, 20), "#c02020"), (plate(20 + gap, 0, 20, 20), "#1e3550")]
            return job_of(*pair)

        for gap in (0.0, 0.05, 5.0):
            self.assertNotIn("stitches-bare", told(beside(gap)), gap)
        for gap in (0.5, 0.8):
            found = told(beside(gap))["stitches-bare"]
            self.assertLess(abs(found.places[0][0] - 20 - gap / 2), 0.1)
            assert found.mend is not None
            self.assertNotIn("stitches-bare", told(found.mend(beside(gap))))

    def test_a_hoop_elsewhere_is_put_over_it_and_one_too_small_is_told(self) -> None:
        job = job_of((ellipse(150, 150, 40, 30), "#c02020"))
        machine = job.machine_of(job.sheet)
        for is_round in (False, True):
            with self.subTest(is_round=is_round):
                own = replace(machine, is_round=is_round, at_x=0.0, at_y=0.0)
                here = set_machine(job, own)
                found = told(here)["stitches-beyond"]
                assert found.mend is not None
                self.assertNotIn("stitches-beyond", told(found.mend(here)))
                small = set_machine(job, replace(own, hoop_x=60.0, hoop_y=60.0))
                found = told(small)["stitches-beyond"]
                self.assertIsNone(found.mend)
                self.assertIn("too large", found.words)
        inner = set_machine(
            job_of((plate(10, 10, 100, 100), "#c02020")),
            replace(machine, hoop_x=120.0, hoop_y=120.0, is_round=True),
        )
        self.assertIn("stitches-beyond", told(inner))  # a square's corners, beyond a circle
        square = set_machine(inner, replace(inner.machine_of(inner.sheet), is_round=False))
        self.assertNotIn("stitches-beyond", told(square))

    def test_stitches_too_long_are_told_and_mended_and_what_is_by_hand_is_said(self) -> None:
        job = job_of((plate(0, 0, 50, 30), "#c02020"), length=9.0)
        found = told(job)["stitches-long"]
        assert found.mend is not None
        self.assertNotIn("stitches-long", told(found.mend(job)))
        three = [
            (plate(40 * k, 0, 20, 20), c) for k, c in enumerate(("#cf4a3c", "#1e3550", "#3c8259"))
        ]
        job = job_of(*three, (plate(0, 60, 9, 9), "#3c8259"))
        self.assertNotIn("stitches-hand", told(job))
        own = replace(job.machine_of(job.sheet), needles=2, trims_itself=False)
        words = told(set_machine(job, own))["stitches-hand"].words
        self.assertIn("3 threads for 2 needles", words)
        self.assertIn("cut by hand", words)


class Threads(unittest.TestCase):
    def test_the_nearest_thread_is_taken_and_told_where_none_is_near(self) -> None:
        for thread in THREADS:
            self.assertEqual(nearest_thread(THREADS, thread.colour), thread)
        job = job_of((plate(0, 0, 20, 20), "#00ff00"))
        self.assertNotIn("stitches-colours", told(job_of((plate(0, 0, 20, 20), "#c3432f"))))
        found = told(job)["stitches-colours"]
        self.assertIn("#00ff00", found.words)
        own = replace(job, threads=(Thread("glow", "#00ff00"), Thread("dark", "#101010")))
        self.assertNotIn("stitches-colours", told(own))
        self.assertEqual(made_of(own).plan.thread_names, ["glow"])

    def test_colours_are_as_far_apart_as_another_library_finds_them(self) -> None:
        from skimage.color import rgb2lab

        rng = np.random.default_rng(4)
        for a, b in rng.integers(0, 256, (200, 2, 3)):
            one, other = ("#{:02x}{:02x}{:02x}".format(*each) for each in (a, b))
            wanted = float(np.linalg.norm(rgb2lab(a / 255.0) - rgb2lab(b / 255.0)))
            self.assertAlmostEqual(apart(one, other), wanted, delta=0.3)

    def test_lists_come_from_csv_of_several_kinds_and_nonsense_is_refused_in_a_sentence(
        self,
    ) -> None:
        wanted = [("Deep red", "#c80a14"), ("Sea", "#0000ff")]
        for text in (
            "name,colour\nDeep red,#C80A14\nSea,#0000ff\n",
            "Deep red;200;10;20\nSea;0;0;255",
            "Deep red\tc80a14\nSea\t0000ff\n\n",
        ):
            found = read_threads(text, "a.csv")
            self.assertEqual([(each.name, each.colour) for each in found], wanted)
        (numbered,) = read_threads("12,Deep red,200,10,20", "a.csv")
        self.assertEqual(numbered, Thread("12 Deep red", "#c80a14"))
        for text in ("", "a,b\nc,d", "Red,#12\n", "\x00", "name,colour\n", "x\n" * 9):
            with self.assertRaisesRegex(RowError, "colour"):
                read_threads(text, "a.csv")

    def test_settings_of_operations_reach_the_needle(self) -> None:
        job = job_of((plate(0, 0, 40, 30), "#c02020"))
        before = made_of(job).plan
        for name, value in {
            "spacing": 0.6,
            "angle": 10.0,
            "length": 2.5,
            "pull": 0.6,
            "overlap": 0.5,
            "underlay": False,
            "way": "run",
        }.items():
            changed = made_of(set_operation(job, job.operations[0].changed(**{name: value}))).plan
            with self.subTest(name):
                self.assertNotEqual(
                    [b.points.tobytes() for b in before.blocks],
                    [b.points.tobytes() for b in changed.blocks],
                )
