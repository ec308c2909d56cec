"""Bridges: what is left of them, what they hold, and that they stay where they are."""

from __future__ import annotations

import math
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np
import shapely

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.shapes import unit_ellipse
from draxet.job.bridge_cuts import Cut, HeldCuts
from draxet.job.bridge_edits import add_bridges
from draxet.job.bridges import cuts_held, cuts_of
from draxet.job.contour_edits import add_contours, remove_contours, replace_contours
from draxet.job.contour_moves import map_contours
from draxet.job.contour_records import Bridge
from draxet.job.copies import place_copies
from draxet.job.cut_middles import middles_in_steps, middles_of
from draxet.job.falls import Falls
from draxet.job.file import read_job, save_job
from draxet.job.operations import Side
from draxet.job.records import Job
from draxet.job.work import cut_work
from draxet.make.cutting_through import give_cut
from draxet.mend.islands import island_bridges, islands_of
from draxet.prove.looking import findings_of
from tests.shapes import mixed_contour

PLATE = Contour.make([(0, 0), (200, 0), (200, 100), (0, 100)])
WIDTH = 1.5


def job_of(*contours: Contour, cut: bool = True) -> Job:
    job = add_contours(Job(), contours)
    return give_cut(job, [item.id for item in job.contours], WIDTH, 1000) if cut else job


def across(island: str, x: float, y: float, angle: float, width: float = 3.0) -> Bridge:
    return Bridge("", x, y, width, island, True, angle)


def taken(cuts: HeldCuts) -> shapely.Geometry:
    """What all cuts take away."""
    ways = [
        (way, closed, cut.width)
        for cut in cuts.cuts
        for way, closed in middles_in_steps([cut.contour], [cut.side], [cut.width])[0]
    ]
    return shapely.union_all(
        [
            shapely.LineString(np.vstack([way, way[:1]]) if closed else way).buffer(
                wide / 2, quad_segs=32
            )
            for way, closed, wide in ways
        ]
    )


def left_at(cuts: HeldCuts, x: float, y: float, angle: float) -> float:
    """How much is left between two cuts on a line square to an angle through a place."""
    dx, dy = -20 * math.sin(math.radians(angle)), 20 * math.cos(math.radians(angle))
    line = shapely.LineString([(x - dx, y - dy), (x + dx, y + dy)]).difference(taken(cuts))
    return float(
        next(
            part for part in shapely.get_parts(line) if part.distance(shapely.Point(x, y)) < 1e-6
        ).length
    )


class Across(unittest.TestCase):
    def setUp(self) -> None:
        self.job = job_of(PLATE, Contour.circle(50, 50, 30), Contour.circle(50, 50, 15))
        self.island = self.job.contours[2].id

    def fallen(self, job: Job) -> list[int]:
        return [
            round(piece.area)
            for piece in Falls().of(job, job.contours, WIDTH, 1.0).pieces
            if piece.falls
        ]

    def test_an_island_that_would_fall_stays_and_the_rest_falls(self) -> None:
        self.assertEqual(len(self.fallen(self.job)), 2)
        self.assertTrue(any(finding.kind == "island" for finding in findings_of(self.job)))
        held = add_bridges(
            self.job, [across(self.island, 65, 50, 0), across(self.island, 35, 50, 180)]
        )
        self.assertEqual(len(self.fallen(held)), 2)
        self.assertLess(max(self.fallen(held)), 0.5 * math.pi * (30**2 - 15**2))
        self.assertFalse(any(finding.kind == "island" for finding in findings_of(held)))
        cuts = [work for work in cut_work(held) if work.ids != (held.contours[0].id,)]
        self.assertEqual(
            [(work.side, work.contour.closed) for work in cuts], [(Side.INSIDE, True)] * 2
        )
        ring = math.pi * (30**2 - 15**2)
        self.assertAlmostEqual(
            sum(work.contour.area for work in cuts), ring - 2 * _strip_area(30, 15, 3), delta=1e-6
        )
        for work in cuts:  # arcs stay arcs about the same centre
            arcs = work.contour.spans.take(np.flatnonzero(work.contour.kinds == 1)).arc_shapes()
            np.testing.assert_allclose(arcs.centres, [[50, 50]] * len(arcs.centres), atol=1e-9)

    def test_the_width_is_what_is_left_whichever_side_is_cut(self) -> None:
        rng = np.random.default_rng(5)
        shapes = [
            Contour.circle(50, 50, 16),
            Contour.make([(36, 38), (65, 36), (62, 63), (40, 60)]),
            unit_ellipse().transformed(Affine(20, 3, 50, 2, 13, 50)),
        ]
        for trial in range(30):
            job = job_of(PLATE, Contour.circle(50, 50, 32), shapes[trial % 3], cut=trial % 2 == 0)
            width = float(rng.uniform(0.5, 5))
            (bridge, *_) = island_bridges(job, job.contours[2].id, int(rng.integers(1, 4)), width)
            held = cuts_held(cuts_of(job, job.contours, WIDTH), [replace(bridge, id="b")])
            with self.subTest(trial=trial):
                self.assertEqual(held.effects[0].lost, "")
                self.assertAlmostEqual(
                    left_at(held, *held.effects[0].place, bridge.angle), width, delta=0.01
                )

    def test_a_bridge_that_would_hold_nothing_says_why_and_changes_nothing(self) -> None:
        cuts = cuts_of(self.job, self.job.contours, WIDTH)
        outline = self.job.contours[0].id
        for bridge, words in (
            (across(outline, 0, 50, 180), "leads to no other"),
            (across(outline, 0, 50, 0), "stays anyway"),
            (Bridge("", 150, 50, 3, "gone"), "no contour"),
        ):
            held = cuts_held(cuts, [bridge])
            self.assertIn(words, held.effects[0].lost)
            self.assertEqual([id(a.contour) for a in held.cuts], [id(b.contour) for b in cuts])

    def test_they_stay_where_they_are_and_go_along_with_their_contour(self) -> None:
        held = add_bridges(self.job, [across(self.island, 65, 50, 0)])
        other = replace_contours(held, {self.island: Contour.circle(48, 50, 14)})
        (effect,) = cuts_held(cuts_of(other, other.contours, WIDTH), other.bridges).effects
        self.assertAlmostEqual(effect.place[0], (62 + 80) / 2, delta=1e-6)
        turned = map_contours(held, [item.id for item in held.contours], Affine.turned(90))
        self.assertAlmostEqual(turned.bridges[0].angle, 90)
        np.testing.assert_allclose((turned.bridges[0].x, turned.bridges[0].y), (-50, 65), atol=1e-9)
        copied, ids = place_copies(
            held, [item.id for item in held.contours], [Affine.moved(0, 200)]
        )
        self.assertEqual(
            [(bridge.x, bridge.y, bridge.contour in ids) for bridge in copied.bridges],
            [(65, 50, False), (65, 250, True)],
        )
        gone = remove_contours(held, [self.island, held.contours[1].id])
        (finding,) = [each for each in findings_of(gone) if each.kind == "idle-bridge"]
        assert finding.mend is not None
        self.assertEqual(finding.mend(gone).bridges, ())

    def test_they_are_kept_with_the_job(self) -> None:
        held = add_bridges(self.job, [across(self.island, 65, 50, 0)])
        with tempfile.TemporaryDirectory() as folder:
            save_job(held, Path(folder) / "held.draxet")
            self.assertEqual(read_job(Path(folder) / "held.draxet"), held)
        self.assertNotEqual(held.work_digest(held.sheet), self.job.work_digest(self.job.sheet))


def _strip_area(outer: float, inner: float, width: float) -> float:
    """Of a ring's two radii, what lies between two lines `width` apart on either side of a
    radius."""

    def within(radius: float) -> float:
        half = width / 2
        return half * math.sqrt(radius**2 - half**2) + radius**2 * math.asin(half / radius)

    return within(outer) - within(inner)


class InTheLine(unittest.TestCase):
    def test_a_cut_is_interrupted_and_the_width_is_what_is_left(self) -> None:
        corner = Contour.make([(0, 0), (60, 0), (60, 40), (0, 40)])
        for contour, place in (
            (corner, (30, 0)),
            (corner, (59, 0)),
            (Contour.circle(30, 20, 18), (30, 2)),
        ):
            for side in Side:
                held = cuts_held(
                    [Cut(contour, side, WIDTH, ("c",))], [Bridge("b", *place, 4.0, "c")]
                )
                with self.subTest(side=side, place=place):
                    (cut,) = held.cuts
                    self.assertEqual((cut.side, cut.contour.closed), (Side.ON, False))
                    self.assertAlmostEqual(
                        math.dist(*cut.contour.nodes[[0, -1]]), 4.0 + WIDTH, places=6
                    )
                    self.assertAlmostEqual(
                        shapely.LineString(cut.contour.flattened(0.001)).distance(
                            shapely.LinearRing(contour.flattened(0.001))
                        ),
                        0 if side is Side.ON else WIDTH / 2,
                        delta=0.005,
                    )

    def test_the_rest_of_its_line_stays_as_it_is_cut_without_it(self) -> None:
        for contour in (mixed_contour(), unit_ellipse().transformed(Affine.scaled(40, 25))):
            for side in Side:
                (whole,) = middles_of(contour, side, WIDTH)
                place = whole.nodes[len(whole.nodes) // 2]
                bridge = Bridge("b", float(place[0]), float(place[1]), 4.0, "c")
                (cut,) = cuts_held([Cut(contour, side, WIDTH, ("c",))], [bridge]).cuts
                left = {tuple(node) for node in cut.contour.nodes[1:-1].round(9).tolist()}
                before = {tuple(node) for node in whole.nodes.round(9).tolist()}
                with self.subTest(side=side, kinds=set(contour.kinds.tolist())):
                    self.assertGreater(len(left), 0)
                    self.assertLessEqual(left, before)

    def test_next_to_another_cut_it_stops_short_of_that(self) -> None:
        slit = Contour.make([(40, 50), (200, 50)], closed=False)
        for side, edge in ((Side.OUTSIDE, 0.0), (Side.ON, WIDTH / 2), (Side.INSIDE, WIDTH)):
            cuts = [Cut(PLATE, side, WIDTH, ("plate",)), Cut(slit, Side.ON, WIDTH, ("slit",), 1)]
            held = cuts_held(cuts, [Bridge("b", 198, 50, 2.0, "slit")])
            self.assertAlmostEqual(
                float(held.cuts[1].contour.box[2]), 200 - edge - 2.0 - WIDTH / 2, places=6
            )
            self.assertIs(held.cuts[0], cuts[0])

    def test_the_walls_of_a_plate_that_hangs_on_the_sheet_are_measured(self) -> None:
        """A hole 1.2 mm from the rim of a plate that is cut outside, and both cut on their own
        side."""
        job = job_of(PLATE, Contour.circle(50, 21.2, 20))
        job = add_bridges(job, [Bridge("", 100, 100, 3.0, job.contours[0].id)])
        walls = [
            wall
            for piece in Falls().of(job, job.contours, WIDTH, 2.0).pieces
            for wall in piece.walls
        ]
        self.assertEqual([round(wall.left, 1) for wall in walls], [1.2])
        self.assertLess(math.hypot(walls[0].x - 50, walls[0].y - 0.6), 0.2)

    def test_a_plate_that_hangs_on_the_sheet_stays_and_its_slugs_fall(self) -> None:
        job = job_of(PLATE, Contour.circle(50, 50, 20))
        held = add_bridges(job, [Bridge("", 100, 0, 3.0, job.contours[0].id)])
        pieces = Falls().of(held, held.contours, WIDTH, 1.0).pieces
        self.assertEqual([piece.falls for piece in pieces], [False, True])
        self.assertAlmostEqual(pieces[0].area, 200 * 100 - math.pi * 400, delta=20)

    def test_one_that_is_broader_than_its_contour_holds_nothing(self) -> None:
        held = cuts_held(
            [Cut(Contour.circle(0, 0, 2), Side.ON, 1.0, ("c",))], [Bridge("b", 2, 0, 30.0, "c")]
        )
        self.assertIn("too small", held.effects[0].lost)
        self.assertEqual(len(held.cuts), 1)


class Islands(unittest.TestCase):
    def test_they_are_told_by_nesting_and_lettering_alone_by_what_is_chosen(self) -> None:
        job = job_of(
            PLATE,
            Contour.circle(50, 50, 30),
            Contour.circle(50, 50, 15),
            Contour.circle(150, 50, 20),
        )
        self.assertEqual(islands_of(job), [job.contours[2].id])
        letters = job_of(Contour.circle(50, 50, 30), Contour.circle(50, 50, 15), cut=False)
        self.assertEqual(islands_of(letters), [])
        self.assertEqual(
            islands_of(letters, {item.id for item in letters.contours}), [letters.contours[1].id]
        )

    def test_two_bridges_lie_opposite_each_other_on_straight_stretches(self) -> None:
        job = job_of(
            PLATE,
            Contour.make([(20, 20), (80, 20), (80, 80), (20, 80)]),
            Contour.make([(30, 30), (70, 30), (70, 70), (30, 70)]),
        )
        first, second = island_bridges(job, job.contours[2].id, 2, 3.0)
        self.assertAlmostEqual(abs(first.angle - second.angle), 180, delta=1e-3)
        self.assertLess(abs((first.x - second.x) * (first.y - second.y)), 2.0)  # in line
        for bridge in (first, second):
            self.assertGreater(
                min(
                    math.dist((bridge.x, bridge.y), corner)
                    for corner in job.contours[2].contour.nodes
                ),
                5,
            )
        self.assertEqual(island_bridges(job, job.contours[2].id, 2, 60.0), [])

    def test_every_island_of_a_row_of_rings_is_held(self) -> None:
        rings = [
            Contour.circle(12 + 24 * k, 50, radius)
            for k in range(8)
            for radius in (10, 4 + 0.3 * k)
        ]
        job = job_of(PLATE, *rings)
        bridges = [
            bridge for island in islands_of(job) for bridge in island_bridges(job, island, 2, 1.0)
        ]
        held = add_bridges(job, bridges)
        self.assertEqual(len(bridges), 16)
        self.assertEqual(len(Falls().of(held, held.contours, WIDTH, 0.5).pieces), 17)


if __name__ == "__main__":
    unittest.main()
