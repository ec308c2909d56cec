import math
import unittest

import shapely

from draxet.geometry.contour import Contour
from draxet.geometry.shapes import rounded_polygon
from draxet.job.contour_edits import add_contours
from draxet.job.cut_middles import middles_in_steps, middles_of
from draxet.job.operations import Side
from draxet.job.records import Job
from draxet.job.work import cut_work
from draxet.make.cutting_through import CutError, give_cut


def plate() -> Job:
    slit = Contour.make([(5, 5), (8, 5)], closed=False)
    return add_contours(
        Job(),
        [
            rounded_polygon([(0, 0, 5), (100, 0, 5), (100, 60, 0), (0, 60, 0)]),
            Contour.circle(30, 30, 10),
            Contour.circle(30, 30, 4),
            slit,
        ],
    )


class GivingACut(unittest.TestCase):
    def test_openings_inside_outlines_outside_slits_on_the_line(self) -> None:
        job = plate()
        cut = give_cut(job, [i.id for i in job.contours], 1.5, 2400)
        sides = {
            contour: operation.side
            for operation in cut.operations
            for contour in operation.contours
        }
        self.assertEqual(
            [sides[i.id] for i in job.contours], [Side.OUTSIDE, Side.INSIDE, Side.OUTSIDE, Side.ON]
        )
        self.assertEqual(
            [o.name for o in cut.operations], ["Cut openings", "Cut slits", "Cut outlines"]
        )

    def test_only_what_is_chosen_and_nesting_counts_all(self) -> None:
        job = plate()
        cut = give_cut(job, [job.contours[1].id], 1, 100)
        self.assertEqual(
            [(o.side, o.contours) for o in cut.operations], [(Side.INSIDE, (job.contours[1].id,))]
        )

    def test_impossible_values_are_refused(self) -> None:
        job = plate()
        for ids, width, feed in (([], 1, 1), (["contour-1"], 0, 1), (["contour-1"], 1, -5)):
            with self.assertRaises(CutError):
                give_cut(job, ids, width, feed)


class TheCutAtRealWidth(unittest.TestCase):
    def test_its_middle_runs_half_the_width_off_on_its_side(self) -> None:
        hole = Contour.circle(0, 0, 10)
        for side, radius in ((Side.INSIDE, 9.0), (Side.ON, 10.0), (Side.OUTSIDE, 11.0)):
            (((points, closed),),) = middles_in_steps([hole], [side], [2.0])
            with self.subTest(side):
                self.assertTrue(closed)
                self.assertAlmostEqual(
                    shapely.Polygon(points).area,
                    math.pi * radius**2,
                    delta=0.02 * math.pi * radius**2,
                )

    def test_a_bay_whose_mouth_the_cut_closes_is_cut_within_as_well_for_every_asker(self) -> None:
        """A square with a bay of 10 x 10 behind a mouth of 1: a cut 2 wide goes round the bay."""
        places = [(0, 0), (30, 0), (30, 14.5), (20, 14.5), (20, 10), (10, 10), (10, 20), (20, 20)]
        places += [(20, 15.5), (30, 15.5), (30, 30), (0, 30)]
        bay = Contour.make(places)
        bent = Contour.make(
            places, [2] + [0] * 11, handles=[[(10, 0), (20, 0)]] + [[(0, 0), (0, 0)]] * 11
        )
        for contour in (bay, bent):
            exact = middles_of(contour, Side.OUTSIDE, 2.0)
            ((*steps,),) = middles_in_steps([contour], [Side.OUTSIDE], [2.0])
            areas = sorted(shapely.Polygon(points).area for points, _ in steps)
            self.assertEqual(len(steps), 2)
            for area, made in zip(areas, sorted(abs(each.area) for each in exact), strict=True):
                self.assertAlmostEqual(area, made, delta=0.05)
            self.assertAlmostEqual(areas[0], 64.0, delta=0.05)

    def test_nothing_is_left_where_an_opening_is_narrower_than_the_cut(self) -> None:
        self.assertEqual(middles_in_steps([Contour.circle(0, 0, 0.5)], [Side.INSIDE], [2.0]), [[]])

    def test_time_is_length_over_feed(self) -> None:
        job = give_cut(plate(), ["contour-2"], 1, 100)
        self.assertAlmostEqual(
            sum(each.contour.length / each.operation.feed for each in cut_work(job)),
            2 * math.pi * 10 / 100,
        )
