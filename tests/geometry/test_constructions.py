"""Constructions against what is known."""

from __future__ import annotations

import math
import unittest

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.constructions import (
    common_tangents,
    divided_span,
    evenly_between,
    mirror_line,
    mirrored_by,
)
from draxet.geometry.contour import Contour
from draxet.geometry.shapes import rounded_polygon
from tests.shapes import mixed_contour


class Constructions(unittest.TestCase):
    def test_tangents_touch_both_circles_squarely(self) -> None:
        for one, other, count in (
            ((0, 0, 5), (20, 3, 2), 4),
            ((0, 0, 0), (10, 0, 6), 2),
            ((0, 0, 5), (7, 0, 5), 2),
            ((0, 0, 9), (2, 0, 3), 0),
            ((0, 0, 4), (10, 0, 6), 3),
            ((1, 1, 0), (1, 1, 0), 0),
        ):
            lines = common_tangents(one, other)
            self.assertEqual(len(lines), count, (one, other))
            for a, b in lines:
                for circle, place in ((one, a), (other, b)):
                    self.assertAlmostEqual(math.dist(circle[:2], place), circle[2])
                    if math.dist(a, b) > 1e-6:
                        self.assertAlmostEqual(
                            (place[0] - circle[0]) * (b[0] - a[0])
                            + (place[1] - circle[1]) * (b[1] - a[1]),
                            0.0,
                        )

    def test_division_gives_pieces_of_the_same_length(self) -> None:
        np.testing.assert_allclose(evenly_between((0, 0), (9, 3), 3), [(3, 1), (6, 2)])
        contour = mixed_contour()
        for span in range(len(contour.kinds)):
            places = divided_span(contour.spans, span, 5)
            self.assertEqual(len(places), 4)
        circle = Contour.circle(0, 0, 10)
        self.assertTrue(
            np.allclose(
                np.diff(np.unwrap(np.arctan2(*divided_span(circle.spans, 0, 6).T[::-1]))),
                math.pi / 6,
                atol=1e-5,
            )
        )

    def test_the_mirror_line_of_a_shape_is_found_where_there_is_one(self) -> None:
        arrow = rounded_polygon(
            [(0, 0, 0), (30, 0, 2), (30, 10, 2), (50, -4, 0), (30, -18, 2), (30, -8, 2), (0, -8, 0)]
        )
        for degrees in (0.0, 27.3, 91.0):
            x, y, angle = mirror_line(arrow.transformed(Affine.turned(degrees)), 0.05) or (0, 0, 0)
            self.assertAlmostEqual(math.sin(angle - math.radians(degrees)), 0.0, places=3)
        self.assertIsNone(mirror_line(rounded_polygon([(0, 0, 0), (30, 0, 0), (22, 17, 0)]), 0.05))
        np.testing.assert_allclose(mirrored_by(0, 5, 0.0).point(3, 7), (3, 3))
