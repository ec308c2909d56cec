"""Middle lines of outlines: where the line was from which an outline was made, and as broad as that
was."""

from __future__ import annotations

import unittest

import numpy as np
import shapely

from draxet.geometry.arrangement import arrangement_of
from draxet.geometry.contour import Contour
from draxet.geometry.offset import thick_line
from draxet.mend.middle_lines import middle_lines


def drawn(contour: Contour) -> shapely.LineString:
    points = contour.flattened(0.001)
    return shapely.LineString(np.vstack([points, points[:1]]) if contour.closed else points)


def apart(a: Contour, b: Contour) -> float:
    return float(shapely.hausdorff_distance(drawn(a), drawn(b)))


class MiddleLines(unittest.TestCase):
    def test_a_line_that_became_an_outline_is_found_again(self) -> None:
        lines = {
            "straight": (Contour.make([(0, 0), (60, 10)], closed=False), 0.02, 1),
            "ring": (Contour.circle(5, 5, 20), 0.02, 2),
            "square corners": (
                Contour.make([(0, 0), (40, 0), (40, 30), (5, 30)], closed=False),
                0.03,
                3,
            ),
            "curve": (
                Contour.make([(0, 0), (50, 20)], [2], None, [[(20, -20), (30, 40)]], closed=False),
                0.04,
                5,
            ),
        }
        for name, (line, within, spans) in lines.items():
            for width in (0.8, 2.0, 5.0):
                for round_ends in (True, False):
                    with self.subTest(name=name, width=width, round_ends=round_ends):
                        (found,) = middle_lines(
                            thick_line(line, width, round_ends=round_ends), 0.05
                        )
                        self.assertEqual(found.contour.closed, line.closed)
                        self.assertLess(
                            apart(line, found.contour),
                            max(within, within * width * 2.5 if name == "curve" else 0),
                        )  # a bent end is led on straight
                        self.assertAlmostEqual(found.width, width, delta=0.01 * width)
                        self.assertLessEqual(len(found.contour.kinds), spans)

    def test_over_a_crossing_each_line_leads_straight_on(self) -> None:
        lines = [
            Contour.make([(0, 0), (60, 0)], closed=False),
            Contour.make([(30, -30), (33, 30)], closed=False),
        ]
        found = arrangement_of([outline for line in lines for outline in thick_line(line, 3)])
        outline = found.outline_of(k for k, region in enumerate(found.regions) if region.covered)
        middles = middle_lines(outline, 0.05)
        self.assertEqual(len(middles), 2)
        for line in lines:
            self.assertLess(min(apart(line, middle.contour) for middle in middles), 0.05)

    def test_what_is_no_stroke_and_what_is_nothing_gives_none(self) -> None:
        self.assertEqual(middle_lines([Contour.circle(0, 0, 10)], 0.05), [])
        self.assertEqual(middle_lines([], 0.05), [])
        self.assertEqual(middle_lines([Contour.make([(0, 0), (1, 0)])], 0.05), [])


if __name__ == "__main__":
    unittest.main()
