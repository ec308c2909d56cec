import math
import unittest

import numpy as np

from draxet.geometry.contour import Contour
from draxet.geometry.likeness import runs_along
from draxet.geometry.shapes import ellipse
from draxet.job.edits import add_contours
from draxet.job.records import Job
from draxet.mend.find import place_on
from tests.shapes import mixed_contour


class WhatAPickMeans(unittest.TestCase):
    def setUp(self) -> None:
        square = Contour.make([(0, 0), (100, 0), (100, 60), (0, 60)])
        self.items = add_contours(Job(), [square, Contour.circle(50, 30, 20)]).contours

    def test_nodes_come_before_centres_and_centres_before_lines(self) -> None:
        node = place_on(self.items, 98, 1.5, 4)
        assert node is not None
        self.assertEqual((node.x, node.y, node.what), (100, 0, "node"))
        centre = place_on(self.items, 51, 31, 4)
        assert centre is not None
        self.assertEqual((centre.x, centre.y, centre.what), (50, 30, "centre"))
        line = place_on(self.items, 40, 2, 4)
        assert line is not None
        self.assertEqual((line.x, line.y, line.what, line.direction), (40, 0, "line", 0.0))
        self.assertIsNone(place_on(self.items, 20, 30, 4))

    def test_where_an_edge_is_wanted_nodes_and_centres_do_not_count(self) -> None:
        edge = place_on(self.items, 99, 1, 4, line_only=True)
        assert edge is not None
        self.assertEqual(edge.what, "line")
        self.assertIsNone(place_on(self.items, 50, 30, 4, line_only=True))

    def test_on_a_curve_the_place_lies_on_it_and_its_direction_is_the_curves(self) -> None:
        angle = 0.8
        place = place_on(self.items, 50 + 21 * math.cos(angle), 30 + 21 * math.sin(angle), 4)
        assert place is not None and place.direction is not None
        self.assertAlmostEqual(math.hypot(place.x - 50, place.y - 30), 20, delta=0.05)
        self.assertAlmostEqual(abs(math.cos(place.direction - (angle + math.pi / 2))), 1, delta=0.01)


class Likeness(unittest.TestCase):
    def test_a_contour_runs_along_itself_and_not_along_its_neighbour(self) -> None:
        contour = mixed_contour()
        self.assertEqual(runs_along(contour, contour, 0.01), 1.0)
        self.assertEqual(runs_along(Contour.circle(0, 0, 10), Contour.circle(0, 0, 11), 0.5), 0.0)
        self.assertEqual(runs_along(Contour.circle(0, 0, 10), Contour.circle(0, 0, 10.3), 0.5), 1.0)

    def test_what_runs_along_in_part_is_told_by_its_share(self) -> None:
        square = Contour.make([(0, 0), (100, 0), (100, 100), (0, 100)])
        other = Contour.make([(0, 0), (100, 0), (100, 100), (50, 180), (0, 100)])
        self.assertAlmostEqual(runs_along(square, other, 0.5), 0.75, delta=0.02)


class Ellipses(unittest.TestCase):
    def test_four_cubics_lie_within_three_hundredths_of_a_percent(self) -> None:
        shape = ellipse(5, -3, 40, 25)
        points = shape.flattened(0.001)
        off = np.hypot((points[:, 0] - 5) / 40, (points[:, 1] + 3) / 25) - 1
        self.assertLess(np.abs(off).max(), 3e-4)
        self.assertAlmostEqual(shape.area, math.pi * 40 * 25, delta=3)
        self.assertFalse(shape.corners().any())


if __name__ == "__main__":
    unittest.main()
