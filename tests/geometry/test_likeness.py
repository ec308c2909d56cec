import math
import unittest

import numpy as np

from draxet.geometry.contour import Contour
from draxet.geometry.likeness import runs_along
from draxet.geometry.shapes import ellipse
from tests.shapes import mixed_contour


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
