"""The picture's colour inside contours."""

from __future__ import annotations

import unittest

import numpy as np

from draxet.geometry.contour import Contour
from draxet.trace.inside import colour_inside


class Inside(unittest.TestCase):
    def test_the_colour_is_that_inside_also_of_a_crescent_whose_middle_lies_outside(self) -> None:
        pixels = np.full((300, 400, 3), (250, 250, 240), np.uint8)
        pixels[40:260, 60:90] = pixels[40:70, 60:340] = pixels[230:260, 60:340] = (180, 20, 30)
        bracket = Contour.make(
            [(60, 40), (340, 40), (340, 70), (90, 70), (90, 230), (340, 230), (340, 260), (60, 260)]
        )
        self.assertEqual(colour_inside(bracket, pixels), "#b4141e")
        self.assertEqual(colour_inside(Contour.circle(200, 150, 40), pixels), "#fafaf0")
        self.assertEqual(
            colour_inside(Contour.make([(65, 55), (330, 55)], closed=False), pixels), "#b4141e"
        )
        self.assertEqual(colour_inside(bracket, pixels[..., 0]), "#b4b4b4")
        self.assertEqual(colour_inside(Contour.circle(900, 900, 20), pixels), "")
        self.assertEqual(colour_inside(Contour.circle(75, 150, 0.4), pixels), "#b4141e")
