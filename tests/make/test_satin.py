"""Satin holds what is told of it in the needle points: it covers its column and no more, evenly, in
one go; narrow areas, words, borders and broad lines come to it by themselves, and no others."""

from __future__ import annotations

import math
import unittest
from dataclasses import replace
from typing import Any

import numpy as np
import shapely
import shapely.affinity

from draxet.formats.embroidery import embroidery_bytes, read_embroidery, same_needle_points
from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import area_of
from draxet.job.contour_records import Lettering
from draxet.job.lettering import add_lettering
from draxet.job.operating import add_operation, set_operation
from draxet.job.operations import Stitch
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.lettering.faces import face_named
from draxet.lettering.setting import set_rows, set_straight
from draxet.make.stitching.satin_columns import columns_of
from draxet.make.stitching.satin_stitches import satin
from draxet.make.stitching.stitch_fill import Fill
from draxet.make.stitching.stitch_manner import portions, sewn_area
from draxet.make.stitching.stitch_plan import Sewn, sewn
from tests.make.test_sewn_as_told import job_of, made_of, plate, told

SUITED = Fill(manner="suited")


def disc(radius: float, x: float = 0.0) -> Any:
    return shapely.Point(x, 0).buffer(radius, quad_segs=32)


def letter(words: str, height: float, face: str = "Bitter Bold") -> Any:
    return area_of(set_straight(set_rows(face_named(face), words, height), 1.5))


def strokes() -> list[tuple[str, Any]]:
    """Narrow areas of many kinds."""
    t = np.linspace(0, 14, 300)
    spiral = np.column_stack([(4 + 1.2 * t) * np.cos(t), (4 + 1.2 * t) * np.sin(t)])
    fork = shapely.MultiLineString([[(0, -20), (0, 0), (9, 18)], [(0, 0), (-9, 18)]])
    cross = shapely.MultiLineString([[(-15, 0), (15, 0)], [(3, -15), (-3, 15)]])
    return [
        *[(f"{each} of 14 mm", letter(each, 14)) for each in "S&8REgKx"],
        ("ring", disc(14).difference(disc(10.5))),
        ("ring off its middle", disc(12).difference(disc(9, 1.5))),
        ("crescent", disc(12).difference(disc(12, 4))),
        ("spiral", shapely.LineString(spiral).buffer(1.3)),
        ("fork", fork.buffer(1.8, cap_style="flat")),
        ("cross", cross.buffer(1.5)),
        ("bar", shapely.box(0, 0, 30, 4)),
        ("wedge", shapely.Polygon([(0, 0), (30, 2), (0, 5)])),
        ("dot", disc(2.5)),
    ]


def thread(runs: list[Points]) -> Any:
    return shapely.union_all([shapely.LineString(run).buffer(0.2, quad_segs=3) for run in runs])


class Columns(unittest.TestCase):
    def test_strokes_of_every_kind_are_covered_in_one_go_and_no_stitch_leaves_them(self) -> None:
        for name, shape in strokes():
            with self.subTest(name):
                (portion,) = portions(shape, SUITED)
                self.assertTrue(portion.columns)
                runs = sewn_area(shape, SUITED, (0.0, 0.0), None)
                self.assertEqual(len(runs), 1)
                self.assertGreater(shape.intersection(thread(runs)).area, 0.985 * shape.area)
                allowed = shape.buffer(SUITED.pull + 0.06)
                self.assertTrue(shapely.LineString(runs[0]).within(allowed.buffer(0.05)))
                self.assertLessEqual(
                    np.hypot(*np.diff(runs[0], axis=0).T).max(), SUITED.split + 1e-6
                )

    def test_needle_points_of_the_outer_side_are_as_far_apart_as_told(self) -> None:
        for spacing in (0.3, 0.4, 0.8):
            ring = disc(15).difference(disc(11))
            (run,) = satin(ring, Fill(satin=spacing, underlay=False, pull=0.0))
            out = run[np.hypot(*run.T) > 14.9]
            steps = np.hypot(*np.diff(out, axis=0).T)
            tens = steps[: len(steps) // 10 * 10].reshape(-1, 10).mean(axis=1)
            self.assertGreater(len(tens), 5)
            self.assertLess(np.abs(tens / spacing - 1).max(), 0.1)
            self.assertLess(np.abs(steps - spacing).max(), 0.1)

    def test_directions_turn_little_by_little_along_a_bend(self) -> None:
        ring = disc(8).difference(disc(5))
        (run,) = satin(ring, Fill(underlay=False))
        way = np.diff(run, axis=0)
        angle = np.degrees(np.arctan2(way[:, 1], way[:, 0]))
        across = np.hypot(*way.T) > 2.9
        both = np.flatnonzero(across[:-2] & across[2:])
        turn = np.abs((angle[both + 2] - angle[both] + 180) % 360 - 180)
        self.assertGreater(len(turn), 100)
        self.assertLess(turn.max(), 15)

    def test_the_inner_side_of_a_tight_bend_does_not_crowd(self) -> None:
        ring = disc(5).difference(disc(0.6))
        (run,) = satin(ring, Fill(underlay=False, pull=0.0))
        inner = np.hypot(*run.T) < 0.7
        self.assertLess(inner.sum(), 0.4 * (np.hypot(*run.T) > 4.9).sum())

    def test_broad_columns_are_split_and_not_along_a_line(self) -> None:
        fill = Fill(manner="satin", underlay=False, pull=0.0)
        (run,) = sewn_area(shapely.box(0, 0, 60, 12), fill, None, None)
        self.assertLessEqual(np.hypot(*np.diff(run, axis=0).T).max(), fill.split + 1e-6)
        within = run[(run[:, 1] > 0.5) & (run[:, 1] < 11.5) & (run[:, 0] > 3) & (run[:, 0] < 57)]
        _, counts = np.unique(np.round(within[:, 1], 1), return_counts=True)
        self.assertGreater(len(within), 100)
        self.assertLess(counts.max(), 0.5 * len(within))

    def test_underlay_goes_by_the_breadth_and_lies_within(self) -> None:
        more = []
        for broad in (1.2, 3.0, 6.0):
            bar = shapely.box(0, 0, 40, broad)
            (plain,), (whole,) = (
                satin(bar, Fill(pull=0.0, underlay=under)) for under in (False, True)
            )
            more.append(len(whole) - len(plain))
            self.assertTrue(shapely.LineString(whole).within(bar.buffer(0.01)))
        self.assertEqual(more[0], 0)
        self.assertGreater(more[1], 20)
        self.assertGreater(more[2], 20)

    def test_whatever_is_drawn_is_sewn_and_covered(self) -> None:
        rng = np.random.default_rng(8)
        for k in range(60):
            line = shapely.LineString(np.cumsum(rng.normal(0, 4, (rng.integers(2, 8), 2)), axis=0))
            scraps = shapely.MultiPoint(rng.uniform(0, 30, (5, 2))).buffer(rng.uniform(0.2, 6))
            for shape in (
                line.buffer(rng.uniform(0.3, 3)),
                shapely.Polygon(rng.uniform(0, 20, (3, 2))),
                scraps.difference(shapely.MultiPoint(rng.uniform(0, 30, (4, 2))).buffer(1.5)),
            ):
                runs = sewn_area(shape, SUITED, None, None)
                long = [np.hypot(*np.diff(run, axis=0).T).max(initial=0) for run in runs]
                self.assertLessEqual(max(long, default=0), SUITED.split + 1e-6)
                if shape.area > 8:
                    covered = shape.intersection(thread([r for r in runs if len(r) > 1])).area
                    self.assertGreater(covered, 0.97 * shape.area, (k, shape.wkt[:80]))

    def test_what_is_too_small_has_no_columns(self) -> None:
        self.assertEqual(columns_of(shapely.Polygon([(0, 0), (1e-9, 0), (0, 1e-9)])), [])


class BySuit(unittest.TestCase):
    def test_broad_areas_are_filled_and_narrow_limbs_of_them_are_satin(self) -> None:
        for shape in (disc(10), shapely.box(0, 0, 30, 20), disc(25).difference(disc(9))):
            (portion,) = portions(shape, SUITED)
            self.assertEqual(portion.columns, ())
        hub = shapely.union_all(
            [
                disc(9),
                *[
                    shapely.affinity.rotate(shapely.box(0, -1, 30, 1), a, (0, 0))
                    for a in (0, 120, 240)
                ],
            ]
        )
        kinds = [bool(each.columns) for each in portions(hub, SUITED)]
        self.assertEqual(kinds, [False, True, True, True])
        runs = sewn_area(hub, SUITED, None, None)
        self.assertGreater(hub.intersection(thread(runs)).area, 0.985 * hub.area)

    def test_tapering_tips_are_no_limbs(self) -> None:
        turns = np.linspace(0, 2 * np.pi, 10, endpoint=False)
        r = np.where(np.arange(10) % 2, 12, 30)
        star = shapely.Polygon(np.column_stack([r * np.cos(turns), r * np.sin(turns)]))
        self.assertEqual([each.columns for each in portions(star, SUITED)], [()])

    def test_a_word_is_satin_letter_by_letter_as_it_is_read_with_few_trims_in_every_file(
        self,
    ) -> None:
        sheet = Sheet(machine="bench-stitcher", width=200, height=200)
        words = Lettering(
            "lettering-0", "part-0", "BRINDLECOTE", "Bitter Bold", 12.0, placed=Affine.moved(10, 60)
        )
        job, _ = add_lettering(Job(sheets=(sheet,)), words)
        job = add_operation(job, Stitch(contours=tuple(item.id for item in job.contours)))
        made = made_of(job)
        things = made.plan.things
        self.assertEqual(len(things), 11)
        for thing in things:
            self.assertTrue(all(each.columns for each in portions(thing.shape, thing.fill)))
        lefts = [shapely.bounds(thing.shape)[0] for thing in things]
        self.assertEqual(lefts, sorted(lefts))
        self.assertLessEqual(made.plan.trims, 10)
        runs = [(block.colour, block.points) for block in made.plan.blocks]
        for ending in ("dst", "pes", "vp3"):
            back = read_embroidery(embroidery_bytes(runs, ending), ending, "word")
            self.assertTrue(same_needle_points(runs, back), ending)
        self.assertNotIn("stitches-bare", told(job))  # letters stand apart
        self.assertFalse([each for each in told(job).values() if each.gravity.name == "STOPS"])

    def test_broad_lines_are_satin_as_broad_and_hairlines_are_run(self) -> None:
        line = Contour.make([(20, 20), (60, 30), (90, 20)], closed=False)
        for broad, is_area in ((0.0, False), (0.4, False), (2.0, True)):
            job = job_of((line, "#1e3550"))
            (item,) = job.contours
            job = replace(job, contours=(replace(item, line=broad),))
            (thing,) = made_of(job).plan.things
            self.assertEqual(thing.is_area, is_area)
        self.assertAlmostEqual(
            shapely.area(thing.shape) / shapely.length(shapely.LineString(line.nodes)), 2.0, 1
        )


class Borders(unittest.TestCase):
    def test_a_border_lies_over_the_edge_of_what_it_goes_round_and_takes_nothing_from_it(
        self,
    ) -> None:
        job = job_of((plate(30, 30, 60, 40), "#1e3550"))
        ids = job.operations[0].contours
        job = add_operation(job, Stitch(contours=ids, way="border", border=4.0))
        self.assertEqual([each.contours for each in job.operations], [ids, ids])
        fill, border = made_of(job).plan.things
        self.assertAlmostEqual(shapely.area(fill.shape), 2400, 3)
        self.assertAlmostEqual(shapely.area(border.shape), 64 * 44 - 56 * 36, 0)
        (portion,) = portions(border.shape, border.fill)
        self.assertTrue(all(column.closed for column in portion.columns))
        again = add_operation(job, Stitch(contours=ids, way="border", border=2.0))
        self.assertEqual(len(again.operations), 2)  # the border before gave way
        filled = add_operation(again, Stitch(contours=ids, way="fill"))
        self.assertEqual([each.acts for each in filled.operations], ["Stitch", "Stitch"])

    def test_satin_told_of_something_too_broad_is_told_and_mended_and_of_narrow_not(self) -> None:
        bar, block = plate(20, 20, 60, 5), plate(20, 40, 60, 40)
        self.assertNotIn("stitches-broad", told(job_of((bar, "#1e3550"), way="satin")))
        job = job_of((block, "#1e3550"), way="satin")
        found = told(job)["stitches-broad"]
        assert found.mend is not None
        self.assertNotIn("stitches-broad", told(found.mend(job)))
        self.assertNotIn("stitches-broad", told(job_of((block, "#1e3550"))))

    def test_settings_of_satin_reach_the_needle(self) -> None:
        job = job_of((plate(20, 20, 60, 5), "#1e3550"))
        (stitch,) = job.operations
        plain = len(made_of(job))
        close = len(made_of(set_operation(job, stitch.changed(satin=0.2))))
        self.assertGreater(close, 1.6 * plain)
        wide = sewn([Sewn("it", "#aa2020", shapely.box(0, 0, 40, 5), replace(SUITED, pull=0.6))])
        (x0, y0, x1, y1) = wide.box
        self.assertTrue(math.isclose(y1 - y0, 6.2, abs_tol=0.15), (y0, y1))


if __name__ == "__main__":
    unittest.main()
