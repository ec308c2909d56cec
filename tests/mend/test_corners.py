"""Corners between lines are rounded and cut off, where there is room."""

import math
import unittest

import numpy as np

from draxet.geometry.contour import Contour
from draxet.geometry.shapes import rounded_polygon
from draxet.mend.corners import chamfer_corners, relieve_corners, round_corners, tool_corners
from tests.shapes import GeometryTest, apart, mixed_contour


class Corners(GeometryTest):
    def test_a_box_becomes_the_rounded_box_whatever_the_order(self) -> None:
        box = Contour.make([(0, 0), (100, 0), (100, 60), (0, 60)])
        for nodes in (range(4), (3, 0, 2, 1)):
            found, refused = round_corners(box, nodes, 12)
            wanted = rounded_polygon([(0, 0, 12), (100, 0, 12), (100, 60, 12), (0, 60, 12)])
            self.assertEqual((refused, sorted(found.kinds.tolist())), (0, [0] * 4 + [1] * 4))
            self.assertLess(apart(found, wanted)[1], 1e-6)

    def test_corners_are_relieved_by_the_tools_own_arc_through_them(self) -> None:
        for corners in (
            [(0, 0), (100, 0), (100, 60), (0, 60)],
            [(0, 0), (80, -20), (110, 70), (0, 60)],
        ):
            hole = Contour.make(corners)
            found, refused = relieve_corners(hole, range(4), 6)
            self.assertEqual((refused, int((found.kinds == 1).sum())), (0, 4))
            np.testing.assert_allclose(
                found.spans.take(np.flatnonzero(found.kinds == 1)).arc_shapes().radii, 3
            )
            for corner in corners:
                self.assertLess(np.hypot(*(found.flattened(1e-4) - corner).T).min(), 0.05)
            self.assertGreater(found.area, hole.area)
        ell = Contour.make([(0, 0), (60, 0), (60, 20), (20, 20), (20, 50), (0, 50)])
        self.assertEqual(
            (tool_corners(ell, opening=False), tool_corners(ell, opening=True)),
            ([3], [0, 1, 2, 4, 5]),
        )
        self.assertEqual(tool_corners(ell.reversed(), opening=False).__len__(), 1)

    def test_roundings_that_use_up_a_side_leave_no_line_of_nothing(self) -> None:
        found, refused = round_corners(
            Contour.make([(0, 0), (100, 0), (100, 40), (0, 40)]), range(4), 20
        )
        self.assertEqual(refused, 0)
        self.assertAlmostEqual(found.area, 60 * 40 + math.pi * 400, 6)
        self.assertEqual(len(found.kinds), 6)

    def test_what_has_no_room_or_no_lines_is_left_and_counted(self) -> None:
        box = Contour.make([(0, 0), (100, 0), (100, 10), (0, 10)])
        found, refused = round_corners(box, range(4), 30)
        self.assertEqual((found, refused), (box, 4))
        curved = mixed_contour()
        _, refused = round_corners(curved, range(len(curved.nodes)), 0.01)
        self.assertGreater(refused, 0)
        opened = Contour.make([(0, 0), (50, 0), (50, 50)], closed=False)
        found, refused = chamfer_corners(opened, range(3), 5)
        self.assertEqual((len(found.nodes), refused), (4, 2))
        for cut in (round_corners, chamfer_corners):
            with self.assertRaisesRegex(ValueError, "over 0"):
                cut(box, [0], 0.0)

    def test_a_chamfer_takes_off_so_far_along_each_side(self) -> None:
        found, _ = chamfer_corners(Contour.make([(0, 0), (100, 0), (100, 60), (0, 60)]), [2], 8)
        np.testing.assert_allclose(found.nodes[2:4], [(100, 52), (92, 60)])
        self.assertAlmostEqual(found.area, 6000 - 32, 9)


if __name__ == "__main__":
    unittest.main()
