"""What stays and what falls, from cuts as they run."""

from __future__ import annotations

import math
import unittest
from dataclasses import replace

import numpy as np

from draxet.geometry.contour import Contour
from draxet.geometry.shapes import rounded_polygon
from draxet.job.contour_edits import add_contours
from draxet.job.contour_records import DropOut
from draxet.job.fallout import Fallout
from draxet.job.falls import Falls
from draxet.job.operating import add_operation, give_operation
from draxet.job.operations import Engrave, Side
from draxet.job.records import Job
from draxet.prove.looking import findings_of

PLATE = rounded_polygon([(0, 0, 5), (100, 0, 5), (100, 60, 5), (0, 60, 5)])


def line(*places: tuple[float, float]) -> Contour:
    return Contour.make(places, closed=False)


def of(*contours: Contour, width: float = 1.0, thread: float = 0.5, **more: object) -> Fallout:
    job = add_contours(Job(**more), contours)  # type: ignore[arg-type]
    return Falls().of(job, job.contours, width, thread)


class WhatFalls(unittest.TestCase):
    def falling(self, fallout: Fallout) -> list[int]:
        return [round(piece.area) for piece in fallout.pieces if piece.falls]

    def test_holes_drop_out_and_the_plate_stays(self) -> None:
        found = of(PLATE, Contour.circle(30, 30, 10), Contour.circle(70, 30, 8))
        for area, radius in zip(self.falling(found), (9.5, 7.5), strict=True):
            self.assertAlmostEqual(area, math.pi * radius**2, delta=1.5)
        self.assertEqual(sum(not piece.falls for piece in found.pieces), 1)

    def test_a_ring_stays_though_more_falls_out_of_it(self) -> None:
        pieces = of(
            PLATE, rounded_polygon([(3, 3, 5), (97, 3, 5), (97, 57, 5), (3, 57, 5)]), thread=3.0
        ).pieces
        self.assertEqual([(piece.depth, piece.falls) for piece in pieces], [(2, True), (1, False)])
        self.assertTrue(pieces[1].walls)  # 2 mm are left between the two cuts

    def test_an_open_slit_drops_only_what_it_cuts_off(self) -> None:
        self.assertEqual(self.falling(of(PLATE, line((20, 0), (20, 40)))), [])
        cut_off = self.falling(of(PLATE, line((20, -1), (20, 61))))
        self.assertEqual(len(cut_off), 1)
        self.assertLess(cut_off[0], 20 * 60)
        self.assertEqual(
            len(self.falling(of(PLATE, line((20, 0.4), (20, 59.6))))), 1
        )  # so near to the rim that the cuts join

    def test_what_is_pointed_to_stays_and_what_is_meant_may_fall(self) -> None:
        job = add_contours(
            Job(drop_outs=(DropOut("drop-out-1", 30.0, 30.0),)),
            [PLATE, Contour.circle(30, 30, 10), Contour.circle(70, 30, 8)],
        )
        found = Falls().of(job, job.contours, 1.0, 0.5)
        self.assertEqual([piece.wanted for piece in found.pieces if piece.falls], [True, False])
        self.assertEqual(len(found.unwanted), 1)
        turned = Falls().of(job, job.contours, 1.0, 0.5, kept=((30.0, 30.0),))
        self.assertAlmostEqual(
            next(piece for piece in turned.pieces if not piece.falls).area,
            math.pi * 9.5**2,
            delta=1.5,
        )

    def test_threads_are_told_and_operations_say_side_and_width(self) -> None:
        neck = Contour.make(
            [
                (0, 0),
                (40, 0),
                (40, 19),
                (60, 19),
                (60, 0),
                (100, 0),
                (100, 40),
                (60, 40),
                (60, 22),
                (40, 22),
                (40, 40),
                (0, 40),
            ]
        )
        (piece,) = of(neck, width=1.0, thread=3.0).pieces
        self.assertEqual(len(piece.threads), 1)
        self.assertAlmostEqual(piece.threads[0][0], 50, delta=3)
        self.assertEqual(of(neck, width=1.0, thread=1.0).pieces[0].threads, ())
        job = add_contours(Job(), [Contour.circle(0, 0, 10)])
        job = give_operation(job, "Cut", [job.contours[0].id], Side.OUTSIDE, 2.0, 100)
        self.assertAlmostEqual(
            Falls().of(job, job.contours, 1.0, 0.5).pieces[0].area, math.pi * 100, delta=1.5
        )

    def test_what_is_only_engraved_parts_nothing(self) -> None:
        job = add_contours(Job(), [PLATE, Contour.circle(50, 30, 10)])
        job = give_operation(job, "Cut", [job.contours[0].id], Side.OUTSIDE, 1.0, 100)
        self.assertEqual(len(Falls().of(job, job.contours, 1.0, 0.5).pieces), 2)
        job = add_operation(job, Engrave(contours=(job.contours[1].id,)))
        self.assertEqual(len(Falls().of(job, job.contours, 1.0, 0.5).pieces), 1)

    def test_walls_are_measured_as_they_are_left(self) -> None:
        """A circle 1.5 mm from the rim, two 1.3 mm apart, and a cut of 0.4 mm on the line."""
        found = of(
            PLATE,
            Contour.circle(11.5, 30, 10),
            Contour.circle(50, 30, 10),
            Contour.circle(71.3, 30, 10),
            width=0.4,
            thread=2.0,
        )
        walls = sorted(wall.left for piece in found.pieces for wall in piece.walls)
        self.assertEqual(len(walls), 2)
        self.assertAlmostEqual(walls[0], 0.9, delta=0.02)
        self.assertAlmostEqual(walls[1], 1.1, delta=0.02)
        job = add_contours(
            Job(smallest_feature=1.4),
            [PLATE, Contour.circle(50, 30, 10), Contour.circle(71.3, 30, 10)],
        )
        (finding,) = [each for each in findings_of(job) if each.kind == "thin-wall"]
        self.assertIn("1 wall thinner than the smallest feature, 1.4 mm: 1.30 mm", finding.words)
        self.assertAlmostEqual(finding.places[0][0], 60.65, delta=0.01)
        self.assertFalse(
            [
                each
                for each in findings_of(replace(job, smallest_feature=1.2))
                if each.kind == "thin-wall"
            ]
        )

    def test_an_edge_to_the_rim_of_the_sheet_is_measured_unless_the_contour_uses_the_rim(
        self,
    ) -> None:
        job = add_contours(
            Job(),
            [
                Contour.circle(10.4, 50, 10),
                Contour.circle(50, 10, 10),
                Contour.circle(590.5, 200, 9),
            ],
        )
        (finding,) = [each for each in findings_of(job) if each.kind == "near-rim"]
        self.assertEqual(
            finding.words,
            "2 contours nearer to the rim of the sheet than the smallest feature, 1 mm: 0.40 mm",
        )
        self.assertEqual(set(finding.ids), {job.contours[0].id, job.contours[2].id})
        self.assertFalse(
            [
                each
                for each in findings_of(replace(job, smallest_feature=0.3))
                if each.kind == "near-rim"
            ]
        )

    def test_a_look_after_an_edit_is_what_a_fresh_look_sees(self) -> None:
        rng = np.random.default_rng(3)
        looks = Falls()

        def drawn() -> Contour:
            x, y = rng.uniform(0, 100, 2)
            if rng.random() < 0.6:
                return Contour.circle(x, y, rng.uniform(0.5, 25))
            return Contour.make(rng.uniform(0, 100, (4, 2)), closed=bool(rng.random() < 0.4))

        job = add_contours(Job(), [drawn() for _ in range(12)])
        most = 0
        for number in range(60):
            k = int(rng.integers(12))
            job = replace(
                job,
                contours=(
                    *job.contours[:k],
                    replace(job.contours[k], contour=drawn()),
                    *job.contours[k + 1 :],
                ),
            )
            thread = 0.8 if number % 20 else 0.5
            again, fresh = (look.of(job, job.contours, 1.2, thread) for look in (looks, Falls()))
            self.assertEqual(
                [(p.area, p.falls, p.threads, p.place) for p in again.pieces],
                [(p.area, p.falls, p.threads, p.place) for p in fresh.pieces],
            )
            most = max(most, len(again.pieces))
        self.assertGreater(most, 10)
