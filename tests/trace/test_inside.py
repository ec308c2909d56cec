"""The picture's colour inside contours."""

from __future__ import annotations

import unittest

import numpy as np

from draxet.geometry.contour import Contour
from draxet.trace.inside import colour_at, colour_inside


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
        self.assertEqual(colour_at(75.4, 150.2, pixels), "#b4141e")
        for beside in ((-1.0, 5.0), (400.0, 5.0), (5.0, 300.5)):
            self.assertEqual(colour_at(*beside, pixels), "")
        self.assertEqual(colour_inside(Contour.circle(900, 900, 20), pixels), "")
        self.assertEqual(colour_inside(Contour.circle(75, 150, 0.4), pixels), "#b4141e")

    def test_a_blurred_thin_ring_gives_its_own_colour_and_no_mixture(self) -> None:
        orange, paper = np.array((230, 90, 40)), np.array((250, 250, 240))
        y, x = np.mgrid[:240, :240] + 0.5
        away = np.abs(np.hypot(x - 120, y - 120) - 80)
        for thick in (3.0, 6.0, 20.0):
            share = np.clip((thick - away) / 2 + 0.5, 0, 1)[..., None]  # two pixels of mixture
            noise = np.random.default_rng(5).normal(0, 3, (240, 240, 3))
            pixels = np.clip(share * orange + (1 - share) * paper + noise, 0, 255).astype(np.uint8)
            line = Contour.circle(120, 120, 80)
            around = Contour.make(line.flattened(0.5), closed=False)
            found = colour_inside(around, pixels)
            off = np.abs(np.array([int(found[k : k + 2], 16) for k in (1, 3, 5)]) - orange)
            self.assertLessEqual(off.max(), 5, (thick, found))
        disc = Contour.circle(120, 120, 80 + 1.5)
        share = np.clip((83 - np.hypot(x - 120, y - 120)) / 6, 0, 1)[..., None]
        pixels = (share * orange + (1 - share) * paper).astype(np.uint8)
        self.assertEqual(colour_inside(disc, pixels), "#e65a28")
