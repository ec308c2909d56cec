"""Lists of contours that know their extents."""

import unittest
from dataclasses import replace

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.contour_records import ContourItem
from draxet.job.find import Items, boxes_of
from draxet.job.records import Job


def moved(items: Items, some: list[int]) -> Items:
    to = Affine.moved(100.0, -3.0)
    return Items(
        replace(item, contour=item.contour.transformed(to)) if k in some else item
        for k, item in enumerate(items)
    )


class Extents(unittest.TestCase):
    def setUp(self) -> None:
        drawn = [Contour.circle(10.0 * k, 5.0, 1.0 + k / 10) for k in range(50)]
        self.items = Items(add_contours(Job(), drawn).contours)

    def fresh(self, items: Items) -> list[ContourItem]:
        return list(items)  # a list that knows nothing

    def test_those_of_contours_that_stayed_are_taken_over_and_all_are_right(self) -> None:
        known = self.items.boxes.copy()
        for some in ([], [7], [0, 3, 21, 49]):
            with self.subTest(len(some)):
                now = moved(self.items, some)
                now.know_from(self.items)
                self.assertIn("boxes", now.__dict__)
                np.testing.assert_array_equal(now.boxes, boxes_of(self.fresh(now)))
                np.testing.assert_array_equal(self.items.boxes, known)

    def test_nothing_is_taken_over_of_other_lists(self) -> None:
        _ = self.items.boxes
        shorter, many = Items(self.items[1:]), moved(self.items, list(range(30)))
        unknown = Items(self.items)
        for now, before in (
            (shorter, self.items),
            (many, self.items),
            (Items(self.items), unknown),
        ):
            now.know_from(before)
            self.assertNotIn("boxes", now.__dict__)
            np.testing.assert_array_equal(now.boxes, boxes_of(self.fresh(now)))
