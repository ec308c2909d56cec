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
from draxet.job.contour_moves import map_contours
from draxet.job.contour_records import Lettering
from draxet.job.lettering import add_lettering
from draxet.job.make_edits import put_across
from draxet.job.operating import add_operation, set_operation
from draxet.job.operations import Stitch
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.job.spots import share_near
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

    def test_it_begins_and_ends_where_it_is_told_beneath_what_comes_later(self) -> None:
        for name, shape in strokes():
            x0, y0, x1, y1 = shapely.bounds(shape)
            for start, end in (((x0, y0), (x1, y1)), ((x1, y0), (x0, (y0 + y1) / 2))):
                with self.subTest(name, start=start):
                    columns = [c for part in shapely.get_parts(shape) for c in columns_of(part)]
                    runs = satin(shape, Fill(), start, end)
                    self.assertEqual(len(runs), len(satin(shape, Fill())))
                    middles = np.vstack([column.middle for column in columns])
                    least = [np.hypot(*(middles - place).T).min() for place in (start, end)]
                    self.assertLess(math.dist(runs[0][0], start), least[0] + 0.5)
                    self.assertLess(math.dist(runs[-1][-1], end), least[1] + 4.5)
                    self.assertGreater(
                        shape.intersection(thread(runs)).area, 0.985 * shapely.area(shape)
                    )
                    self.assertTrue(shapely.MultiLineString(runs).within(shape.buffer(0.6)))

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
        self.assertEqual(kinds, [True, True, True, False])
        runs = sewn_area(hub, SUITED, None, None)
        gaps = [math.dist(a[-1], b[0]) for a, b in zip(runs, runs[1:], strict=False)]
        self.assertLess(max(gaps), 0.1)  # from limb to limb beneath the rows
        self.assertTrue(shapely.MultiLineString(runs).within(hub.buffer(0.6)))
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


class Led(unittest.TestCase):
    def direction_at(self, job: Job, x: float) -> float:
        """At which angle satin goes across a bar that lies level, about a place."""
        runs = [block.points for block in made_of(job).plan.blocks]
        ends = [(a, b) for run in runs for a, b in zip(run, run[1:], strict=False)]
        some = [b - a for a, b in ends if abs((a[0] + b[0]) / 2 - x) < 2 and abs(b[1] - a[1]) > 2]
        return float(np.median(np.degrees([math.atan2(*way[::-1]) for way in some]) % 180))

    def test_satin_goes_along_a_line_across_turns_evenly_to_it_and_moves_with_its_contour(
        self,
    ) -> None:
        bar = plate(20, 20, 80, 4)
        job = job_of((bar, "#1e3550"), way="satin", underlay=False)
        (item,), (operation,) = job.contours, job.operations
        self.assertAlmostEqual(self.direction_at(job, 60), 90, delta=5)
        ends = [(item.id, share_near(bar, *at)) for at in ((58, 20), (62, 24))]
        led = put_across(job, operation, ends[0], ends[1])
        at_line, half_way = self.direction_at(led, 60), self.direction_at(led, 40)
        self.assertAlmostEqual(at_line, 45, delta=5)
        self.assertTrue(50 < half_way < 85, half_way)
        moved = map_contours(led, [item.id], Affine.moved(40, 70))
        self.assertAlmostEqual(self.direction_at(moved, 100), 45, delta=5)

    def test_a_line_across_leads_its_own_column_alone_round_closed_ones_too(self) -> None:
        ring = Contour.circle(60, 60, 20), Contour.circle(60, 60, 16)
        job = job_of((ring[0], "#1e3550"), (ring[1], "#1e3550"), (plate(120, 20, 60, 4), "#1e3550"))
        (operation,) = job.operations
        outer, inner, _ = job.contours
        ends = (outer.id, share_near(ring[0], 80, 60)), (inner.id, share_near(ring[1], 70, 72))
        led = put_across(job, operation, *ends)
        self.assertAlmostEqual(self.direction_at(led, 150), 90, delta=5)
        plan, before = made_of(led).plan, made_of(job).plan
        same = [
            np.array_equal(a.points, b.points)
            for a, b in zip(plan.blocks, before.blocks, strict=True)
        ]
        self.assertEqual(sorted(same), [False, True])
        area = shapely.difference(disc(20), disc(16))
        runs = [b.points - (60, 60) for b in plan.blocks if b.points[:, 0].max() < 100]
        self.assertGreater(area.intersection(thread(runs)).area, 0.985 * area.area)

    def test_satin_between_two_lines_covers_what_lies_between_and_one_left_over_is_run(
        self,
    ) -> None:
        one = Contour.make([(10, 10), (60, 15), (100, 10)], closed=False)
        other = Contour.make([(100, 16), (60, 22), (10, 14)], closed=False)  # drawn the other way
        third = Contour.make([(10, 40), (100, 40)], closed=False)
        job = job_of((one, "#1e3550"), (other, "#1e3550"), (third, "#1e3550"), way="between")
        between, line = sorted(made_of(job).plan.things, key=lambda thing: not thing.is_area)
        self.assertFalse(line.is_area)
        area = shapely.Polygon([(10, 10), (60, 15), (100, 10), (100, 16), (60, 22), (10, 14)])
        self.assertLess(shapely.area(shapely.symmetric_difference(area, between.shape)), 1.0)
        runs = [block.points for block in made_of(job).plan.blocks]
        self.assertGreater(area.intersection(thread(runs)).area, 0.985 * area.area)
        rings = [(Contour.circle(50, 50, r), "#1e3550") for r in (20, 15)]
        (between,) = made_of(job_of(*rings, way="between")).plan.things
        self.assertAlmostEqual(shapely.area(between.shape), math.pi * (400 - 225), delta=4)

    def test_corners_of_borders_are_mitred_or_rounded(self) -> None:
        areas = [
            shapely.area(
                made_of(job_of((plate(20, 20, 40, 30), "#1e3550"), way="border", mitred=m))
                .plan.things[0]
                .shape
            )
            for m in (True, False)
        ]
        self.assertAlmostEqual(areas[0] - areas[1], (4 - math.pi) * 1.5**2, delta=0.1)


class Corners(unittest.TestCase):
    """A limb from (0, 0) up to (0, 20), and on to (16, 20): 3 mm broad."""

    SHAPES = (
        shapely.LineString([(0, 0), (0, 20), (16, 20)]).buffer(
            1.5, cap_style="flat", join_style="mitre"
        ),
        shapely.box(-1.5, -1.5, 20, 20).difference(shapely.box(1.5, 1.5, 17, 17)),
    )

    def needles(self, shape: Any, corners: str) -> list[Points]:
        fill = Fill(manner="satin", corners=corners, pull=0.0, underlay=False)
        return sewn_area(shape, fill, None, None)

    def askew(self, runs: list[Points]) -> Any:
        """The long stitches that go neither along x nor along y, within 20 degrees."""
        ways = np.vstack([np.diff(run, axis=0) for run in runs])
        ways = ways[np.hypot(*ways.T) > 1.4]
        turned = np.degrees(np.arctan2(ways[:, 1], ways[:, 0])) % 90
        return ways[(turned > 20) & (turned < 70)]

    def test_mitred_and_capped_stitches_stay_across_their_limbs_and_turned_ones_do_not(
        self,
    ) -> None:
        for shape, corners in zip(self.SHAPES, (1, 4), strict=True):
            ways = {how: self.needles(shape, how) for how in ("turned", "mitred", "capped")}
            self.assertGreater(len(self.askew(ways["turned"])), 8 * corners)
            for how in ("mitred", "capped"):
                with self.subTest(how, shape=shape.wkt[:30]):
                    runs = ways[how]
                    self.assertEqual(len(runs), 1)
                    walks = 4 if how == "mitred" else 1  # out to the corner and back
                    self.assertLessEqual(len(self.askew(runs)), walks * corners)
                    sewn_over = thread(runs)
                    self.assertGreater(shape.intersection(sewn_over).area, 0.99 * shape.area)
                    self.assertLess(sewn_over.difference(shape.buffer(0.3)).area, 0.05)

    def test_at_a_capped_corner_one_limb_alone_is_sewn(self) -> None:
        shape = self.SHAPES[0]
        tip = shapely.box(-1.3, 18.8, 1.0, 21.4)

        def ways(how: str) -> set[str]:
            found = set[str]()
            for run in self.needles(shape, how):
                for a, b in zip(run, run[1:], strict=False):
                    if (
                        tip.contains(shapely.Point((a + b) / 2)) and math.dist(a, b) > 2.4
                    ):  # no walk
                        found.add("x" if abs(b[0] - a[0]) > abs(b[1] - a[1]) else "y")
            return found

        self.assertEqual(len(ways("capped")), 1)
        self.assertEqual(len(ways("turned")), 2)

    def test_bends_without_a_corner_and_what_met_there_before_stay_as_they_were(self) -> None:
        bend = shapely.LineString([(0, 0), (0, 20), (16, 20)]).buffer(1.5, cap_style="flat")
        fork = shapely.MultiLineString([[(0, -20), (0, 0), (9, 18)], [(0, 0), (-9, 18)]]).buffer(
            1.5
        )
        for shape in (bend, fork, disc(14).difference(disc(10.5))):
            plain = self.needles(shape, "turned")
            for how in ("mitred", "capped"):
                for one, other in zip(plain, self.needles(shape, how), strict=True):
                    np.testing.assert_array_equal(one, other)

    def test_what_ends_at_a_cornered_column_still_does(self) -> None:
        comb = shapely.union_all(
            [self.SHAPES[0], shapely.box(1.0, 5, 10, 8), shapely.box(6, 9, 9, 19.5)]
        )
        for how in ("mitred", "capped"):
            runs = self.needles(comb, how)
            self.assertEqual(len(runs), 1, how)
            self.assertGreater(comb.intersection(thread(runs)).area, 0.985 * comb.area)


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
