"""Simpler contours look the same: fewer nodes, and no farther off than is said."""

import math
import unittest

import numpy as np

from draxet.geometry.contour import Contour
from draxet.mend.nodes import deviation_between
from draxet.mend.simplify import simplified
from tests.mend.test_nodes import blob
from tests.shapes import GeometryTest


class Simpler(GeometryTest):
    def test_many_short_lines_become_the_shape_that_they_stand_for(self) -> None:
        at = np.linspace(0, 2 * math.pi, 300, endpoint=False)
        round_one = Contour.make(np.column_stack([50 * np.cos(at), 50 * np.sin(at)]))
        found, off = simplified(round_one, 0.05)
        self.assertLess(len(found.nodes), 12)
        self.assertLessEqual(off, 0.05)
        self.assertLessEqual(deviation_between(round_one, found), 0.05)

    def test_the_tolerance_is_kept_for_closed_and_open_and_ends_stay(self) -> None:
        for contour in (blob(), blob(False)):
            dense = Contour.make(contour.flattened(0.002), closed=contour.closed)
            for within in (0.02, 0.1, 0.5):
                found, off = simplified(dense, within)
                self.assertLess(len(found.nodes), len(dense.nodes))
                self.assertLessEqual(off, within)
                self.assertEqual(found.closed, contour.closed)
                if not found.closed:
                    np.testing.assert_allclose(
                        found.nodes[[0, -1]], dense.nodes[[0, -1]], atol=1e-6
                    )

    def test_what_is_simple_stays_and_a_wrong_tolerance_is_refused(self) -> None:
        box = Contour.make([(0, 0), (40, 0), (40, 30), (0, 30)])
        self.assertIs(simplified(box, 0.1)[0], box)
        with self.assertRaisesRegex(ValueError, "over 0"):
            simplified(box, 0.0)


if __name__ == "__main__":
    unittest.main()
