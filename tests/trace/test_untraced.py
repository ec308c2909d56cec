"""What of a picture no contour follows: counted along its middle and by its area."""

from __future__ import annotations

import math
import unittest

import cv2
import numpy as np
import shapely

from draxet.geometry.contour import Contour
from draxet.trace.closeness import follows
from draxet.trace.untraced import untraced_lines


def wedge(degrees: float) -> np.ndarray:
    half = math.tan(math.radians(degrees / 2)) * 90
    return np.array([(20, 60 - half), (110, 60), (20, 60 + half)])


SHAPES = {
    "wedge": wedge(20),
    "sharp wedge": wedge(9),
    "bar": np.array([(20.0, 57), (110, 57), (110, 63), (20, 63)]),
}


def picture(places: np.ndarray, seed: int) -> np.ndarray:
    fine = np.full((120 * 8, 130 * 8), 230, np.uint8)
    cv2.fillPoly(fine, [np.round(places * 8 * 16).astype(np.int32)], 40, cv2.LINE_8, 4)
    soft = cv2.GaussianBlur(cv2.resize(fine, (130, 120), interpolation=cv2.INTER_AREA), (0, 0), 0.6)
    return np.clip(soft + np.random.default_rng(seed).normal(0, 4, soft.shape), 0, 255).astype(
        np.uint8
    )


class Missing(unittest.TestCase):
    def test_a_tip_that_was_cut_short_is_told_with_its_length_and_area_and_a_whole_one_is_not(
        self,
    ) -> None:
        for name, places in SHAPES.items():
            for short in (0.0, 4.5, 12.0):
                shape = shapely.Polygon(places)
                seen = (
                    110.0
                    if name == "bar"
                    else 110 - 1.5 / math.tan(math.radians(9 if "sharp" in name else 20) / 2) / 2
                )  # so far ink is dark
                cut = shape.intersection(shapely.box(0, 0, seen - short if short else 200, 200))
                contour = Contour.make(shapely.get_coordinates(cut.exterior)[:-1])
                lines = untraced_lines([contour], ["edges"], picture(places, 3), 135.0, 1.5, 12.0)
                with self.subTest(name, short=short):
                    self.assertEqual(len(lines), int(short > 0))
                    if lines:
                        self.assertAlmostEqual(
                            lines[0].long, short + 1.5, delta=3
                        )  # a tip fades out
                        self.assertAlmostEqual(
                            lines[0].area,
                            shape.area - cut.area,
                            delta=0.35 * (shape.area - cut.area) + 5,
                        )

    def test_what_was_drawn_by_hand_is_known_for_what_it_follows(self) -> None:
        grey = picture(SHAPES["bar"], 1)
        self.assertEqual(
            follows(
                Contour.make([(20.5, 57.5), (109.5, 57.2), (110, 62.6), (20.2, 63.1)]), grey, 135.0
            ),
            "edges",
        )
        self.assertEqual(
            follows(Contour.make([(22, 60), (108, 60)], closed=False), grey, 135.0), "middles"
        )
        self.assertEqual(follows(Contour.make([(10, 10), (120, 10), (120, 20)]), grey, 135.0), "")


if __name__ == "__main__":
    unittest.main()
