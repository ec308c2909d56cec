import unittest

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import nesting_depths
from draxet.geometry.shared_edges import shared_edges
from draxet.job.contour_edits import add_contours
from draxet.job.operations import Side
from draxet.job.records import Job
from draxet.job.work import cut_work, vanishing_cuts
from draxet.make.cutting_through import give_cut
from draxet.prove.looking import findings_of


def tile(x: float, y: float, side: float = 10.0) -> Contour:
    return Contour.make([(x, y), (x + side, y), (x + side, y + side), (x, y + side)])


def pie(parts: int) -> list[Contour]:
    """A disc cut into sectors: their sides are shared, their rims are not."""
    angles = np.linspace(0, 2 * np.pi, parts, endpoint=False)
    rim = 30 * np.column_stack([np.cos(angles), np.sin(angles)])
    bulge = np.tan(2 * np.pi / parts / 4)
    return [
        Contour.make([(0, 0), rim[k], rim[(k + 1) % parts]], [0, 1, 0], [0, bulge, 0])
        for k in range(parts)
    ]


class SharedStretches(unittest.TestCase):
    def test_each_is_found_once_whichever_way_it_runs_and_the_rest_bounds_the_whole(self) -> None:
        tiles = [tile(0, 0), tile(10, 0).reversed(), tile(40, 0)]
        found = shared_edges(tiles)
        self.assertEqual(found.touching.tolist(), [True, True, False])
        ((whole, of),) = ((run.contour, run.of) for run in found.own)
        self.assertEqual(
            (whole.closed, whole.length, abs(whole.area), of), (True, 60.0, 200.0, (0, 1))
        )
        ((edge, both),) = ((run.contour, run.of) for run in found.shared)
        self.assertEqual((edge.closed, edge.length, both), (False, 10.0, (0, 1)))

    def test_arcs_and_junctions_and_an_island_of_its_own(self) -> None:
        for parts in (3, 5, 12):
            found = shared_edges(
                [c.transformed(Affine.turned(17).then(Affine.moved(1e4, -3e3))) for c in pie(parts)]
            )
            self.assertEqual(len(found.shared), parts)
            (rim,) = found.own
            self.assertTrue(rim.contour.closed)
            self.assertAlmostEqual(rim.contour.length, 2 * np.pi * 30, 6)
        hole, island = Contour.circle(5, 5, 2).reversed(), Contour.circle(5, 5, 2)
        found = shared_edges([tile(0, 0), hole, island])
        self.assertEqual((found.touching.tolist(), len(found.own)), ([False, True, True], 0))
        self.assertEqual([run.contour.closed for run in found.shared], [True])

    def test_open_contours_share_nothing(self) -> None:
        slit = Contour.make([(0, 0), (10, 0)], closed=False)
        self.assertFalse(shared_edges([tile(0, 0), slit]).touching.any())
        self.assertEqual(shared_edges([]).shared, ())


class CutOnce(unittest.TestCase):
    def test_whatever_cuts_two_areas_cuts_what_they_share_once_and_the_whole_keeps_its_size(
        self,
    ) -> None:
        job = add_contours(
            Job(), [*(tile(10 * x, 10 * y) for x in range(4) for y in range(3)), tile(100, 0)]
        )
        job = give_cut(job, [item.id for item in job.contours], 1.0, 100)
        work = cut_work(job)
        self.assertEqual(
            [(w.side, w.contour.closed, len(w.ids)) for w in work if not w.shared],
            [(Side.OUTSIDE, True, 1), (Side.OUTSIDE, True, 10)],
        )
        self.assertEqual({w.side for w in work if w.shared}, {Side.ON})
        self.assertAlmostEqual(sum(w.contour.length for w in work if w.shared), 17 * 10)
        self.assertAlmostEqual(
            sum(each.contour.length for each in work), 17 * 10 + 2 * (40 + 30) + 40
        )
        self.assertTrue(all(item.contour.closed for item in job.contours))

    def test_an_opening_narrower_than_its_cut_is_a_finding_that_stops(self) -> None:
        job = add_contours(
            Job(), [tile(0, 0, 50), Contour.circle(20, 20, 0.7), Contour.circle(35, 35, 3)]
        )
        job = give_cut(job, [item.id for item in job.contours], 1.5, 100)
        self.assertEqual([w.ids for w in vanishing_cuts(cut_work(job))], [("contour-2",)])
        self.assertEqual(
            [f.ids for f in findings_of(job) if f.kind == "vanishing"], [("contour-2",)]
        )


class Nesting(unittest.TestCase):
    def test_a_hole_that_touches_its_outline_stays_a_hole(self) -> None:
        outline = tile(0, 0, 40)
        for touching in (
            Contour.make([(0, 10), (8, 5), (8, 15)]),
            Contour.circle(10, 20, 10),
            Contour.make([(0, 0), (5, 1), (1, 5)]),
            tile(0, 20, 5),
        ):
            for hole in (
                touching,
                touching.reversed(),
                Contour.make(
                    np.roll(touching.nodes, 1, axis=0),
                    np.roll(touching.kinds, 1),
                    np.roll(touching.bulges, 1),
                ),
            ):
                self.assertEqual(nesting_depths([outline, hole]).tolist(), [0, 1])

    def test_small_ones_crossed_ones_and_doubled_ones(self) -> None:
        self.assertEqual(
            nesting_depths(
                [tile(0, 0), Contour.circle(5, 5, 0.004), Contour.circle(5, 5, 0.001)]
            ).tolist(),
            [0, 1, 2],
        )
        self.assertEqual(nesting_depths([tile(0, 0), tile(0, 0)]).tolist(), [0, 0])
        bow = Contour.make([(2, 2), (8, 8), (8, 2), (2, 8)])
        self.assertEqual(
            nesting_depths(
                [tile(0, 0), bow, Contour.make([(0, 0), (1, 1)], closed=False)]
            ).tolist(),
            [0, 1, -1],
        )
