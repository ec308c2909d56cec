import unittest

import numpy as np

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.find import contour_at, contours_in, node_at
from draxet.job.records import Job
from draxet.mend.nodes import move_node
from tests.shapes import mixed_contour


class MovingNodes(unittest.TestCase):
    def test_only_that_node_moves_and_every_span_keeps_its_kind(self) -> None:
        contour = mixed_contour()
        for k in range(len(contour.nodes)):
            moved = move_node(contour, k, 3, -2)
            np.testing.assert_array_equal(moved.kinds, contour.kinds)
            np.testing.assert_array_equal(moved.bulges, contour.bulges)
            shift = moved.nodes - contour.nodes
            np.testing.assert_allclose(shift[k], (3, -2))
            self.assertEqual(np.count_nonzero(shift.any(axis=1)), 1)

    def test_handles_at_the_node_move_with_it(self) -> None:
        contour = mixed_contour()
        last = len(contour.nodes) - 1
        self.assertEqual(
            (move_node(contour, last, 5, 5).handles - contour.handles)[last].tolist(),
            [[5, 5], [0, 0]],
        )
        self.assertEqual(
            (move_node(contour, 0, 5, 5).handles - contour.handles)[last].tolist(), [[0, 0], [5, 5]]
        )

    def test_the_ends_of_an_open_contour_move_alone(self) -> None:
        line = Contour.make([(0, 0), (10, 0), (20, 5)], closed=False)
        self.assertEqual(move_node(line, 2, 1, 1).nodes.tolist(), [[0, 0], [10, 0], [21, 6]])
        self.assertFalse(move_node(line, 0, 1, 1).closed)


class Finding(unittest.TestCase):
    def setUp(self) -> None:
        self.items = add_contours(
            Job(),
            [
                Contour.circle(0, 0, 10),
                Contour.circle(0, 0, 4),
                Contour.make([(20, 0), (30, 0)], closed=False),
            ],
        ).contours

    def test_the_contour_whose_line_is_nearest(self) -> None:
        for (x, y), wanted in (
            ((9.5, 0), 0),
            ((0, -4.4), 1),
            ((25, 0.6), 2),
            ((0, 0), None),
            ((7, 0), None),
            ((32, 0), None),
        ):
            with self.subTest(x=x, y=y):
                self.assertEqual(
                    contour_at(self.items, x, y, 1.0),
                    None if wanted is None else self.items[wanted].id,
                )

    def test_contours_wholly_in_a_box_drawn_either_way(self) -> None:
        inner = [self.items[1].id]
        self.assertEqual(contours_in(self.items, -5, -5, 5, 5), inner)
        self.assertEqual(contours_in(self.items, 5, 5, -5, -5), inner)

    def test_the_nearest_node(self) -> None:
        self.assertEqual(node_at(self.items, 10.4, 0.2, 1), (self.items[0].id, 1))
        self.assertIsNone(node_at(self.items, 0, 7, 1))
