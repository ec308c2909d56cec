"""Contours that cross themselves are found, and parted where they do."""

import unittest

import numpy as np

from bench.chain import off_of, random_job
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.findings import Gravity
from draxet.job.operating import add_operation
from draxet.job.operations import CutThrough, Engrave, Side
from draxet.job.records import Job
from draxet.make.cutting_through import give_cut
from draxet.make.program_making import program_of
from draxet.prove.crossed import Crossed, crossing_each_other

BOW = Contour.make([(30, 0), (70, 40), (70, 0), (30, 40)])
CURL = Contour.make([(0, 0), (60, 0), (60, 40), (20, 40), (20, -20), (40, -20), (40, 60), (0, 60)])
LOOP = Contour.make(
    [(0, 0), (40, 0)], [2, 0], None, np.array([[(80, 60), (-40, 60)], [(0, 0), (0, 0)]])
)
SQUARE = Contour.make([(0, 0), (10, 0), (10, 10), (0, 10)])
TOUCHING = Contour.make(
    [(0, 0), (10, 0), (10, 10), (20, 10), (20, 20), (10, 20), (10, 10), (0, 10)]
)
SPIKED = Contour.make([(0, 0), (10, 0), (10, 10), (15, 15), (10, 10), (0, 10)])


class Crossing(unittest.TestCase):
    def test_only_what_crosses_is_found_and_it_stops_what_is_cut_beside_the_line(self) -> None:
        job = add_contours(Job(), [SQUARE, BOW, TOUCHING, CURL, SPIKED, LOOP, LOOP.reversed()])
        (finding,) = Crossed()(job)
        self.assertEqual(
            (set(finding.ids), finding.gravity),
            ({"contour-2", "contour-4", "contour-6", "contour-7"}, Gravity.WARNS),
        )
        self.assertIn((50.0, 20.0), [(round(x, 6), round(y, 6)) for x, y in finding.places])
        on = add_operation(job, CutThrough(contours=("contour-2",), side=Side.ON))
        self.assertEqual(Crossed()(on)[0].gravity, Gravity.WARNS)
        for operation in (
            CutThrough(contours=("contour-2",), side=Side.OUTSIDE),
            Engrave(contours=("contour-2",)),
        ):
            self.assertEqual(Crossed()(add_operation(job, operation))[0].gravity, Gravity.STOPS)

    def test_parted_its_loops_are_worked_as_it_was_and_none_is_lost(self) -> None:
        for contour, areas in ((BOW, [400, 400]), (CURL, [3600]), (BOW.reversed(), [400, 400])):
            job = add_contours(Job(), [contour])
            job = give_cut(job, ["contour-1"], 1.0, 1000)
            look = Crossed()
            (finding,) = look(job)
            assert finding.mend is not None
            mended = finding.mend(job)
            self.assertEqual(look(mended), [])
            self.assertEqual([round(abs(item.contour.area)) for item in mended.contours], areas)
            (operation,) = mended.operations
            self.assertEqual(set(operation.contours), {item.id for item in mended.contours})
            program = program_of(mended, mended.sheet, mended.machine_of(mended.sheet))
            around = sum(item.contour.length for item in mended.contours)
            self.assertAlmostEqual(program.cut_mm, around, delta=5 * len(areas) + 5)

    def test_contours_that_are_cut_across_each_other_are_told_and_those_that_share_an_edge_are_not(
        self,
    ) -> None:
        plate = Contour.make([(0, 0), (60, 0), (60, 40), (0, 40)])
        notch, hole, beside = (
            Contour.circle(0, 20, 8),
            Contour.circle(30, 20, 8),
            Contour.make([(60, 0), (90, 0), (90, 40), (60, 40)]),
        )
        job = add_contours(Job(), [plate, notch, hole, beside])
        self.assertEqual(crossing_each_other(job), [])  # nothing is cut
        (finding,) = crossing_each_other(
            give_cut(job, [item.id for item in job.contours], 1.0, 1000)
        )
        self.assertEqual(set(finding.ids), {"contour-1", "contour-2"})
        ((x, y),) = finding.places
        self.assertAlmostEqual(np.hypot(x, y - 20), 8, delta=0.05)
        self.assertEqual(round(x, 2), 0)


class TheWholeChain(unittest.TestCase):
    def test_what_a_file_leaves_of_the_sheet_are_the_parts_or_a_finding_says_why_not(self) -> None:
        for seed in range(24):
            with self.subTest(seed=seed):
                self.assertEqual(off_of(*random_job(seed)), "")
