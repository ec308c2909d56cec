"""Mirrors, rings and rows lie where they should, and a half becomes a whole."""

import math
import unittest

import numpy as np

from draxet.geometry.contour import Contour
from draxet.geometry.drawn import Stop, contour_of
from draxet.geometry.spans import CUBIC
from draxet.mend.arrange import (
    half_with_mirror,
    laid_on_line,
    laid_on_turn,
    mirror_across,
    ring_places,
    row_places,
)
from tests.shapes import GeometryTest, mixed_contour


class Arranging(GeometryTest):
    def test_a_mirror_twice_is_nothing_and_its_line_stays(self) -> None:
        rng = np.random.default_rng(1)
        for _ in range(50):
            a, b = (tuple(p) for p in rng.uniform(-50, 50, (2, 2)))
            mirror = mirror_across(a, b)
            np.testing.assert_allclose(
                mirror.then(mirror).to_tuple(), (1, 0, 0, 0, 1, 0), atol=1e-9
            )
            np.testing.assert_allclose([mirror.point(*a), mirror.point(*b)], [a, b], atol=1e-9)
            self.assertAlmostEqual(
                mixed_contour().transformed(mirror).area, -mixed_contour().area, 6
            )
        with self.assertRaisesRegex(ValueError, "two places"):
            mirror_across((1, 1), (1, 1))

    def test_a_ring_goes_round_leaves_places_out_and_keeps_circles(self) -> None:
        hole = Contour.circle(30, 0, 4)
        found = [hole.transformed(place) for place in ring_places((0, 0), 6, without=[3])]
        self.assertEqual(len(found), 4)
        angles = sorted(
            round(math.degrees(math.atan2(c.circle_shape[1], c.circle_shape[0])) % 360)
            for c in found
        )  # type: ignore[index]
        self.assertEqual(angles, [60, 180, 240, 300])
        self.assertTrue(all(abs(c.circle_shape[2] - 4) < 1e-9 for c in found))  # type: ignore[index]
        (last,) = [hole.transformed(place) for place in ring_places((0, 0), 2, 90)]
        np.testing.assert_allclose(last.circle_shape[:2], (0, 30), atol=1e-9)  # type: ignore[index]
        with self.assertRaises(ValueError):
            ring_places((0, 0), 1)

    def test_rows_and_columns(self) -> None:
        found = [Contour.circle(0, 0, 1).transformed(place) for place in row_places(3, 2, 10, 20)]
        self.assertEqual(len(found), 5)
        np.testing.assert_allclose(found[-1].circle_shape[:2], (20, 20))  # type: ignore[index]

    def test_a_half_and_its_mirror_are_one_closed_contour_twice_as_large(self) -> None:
        half = contour_of(
            [Stop(0, 0), Stop(30, 5, "curve"), Stop(40, 30, "curve"), Stop(0, 60, "line")]
        )
        whole = half_with_mirror(half, (0, -5), (0, 90))
        assert whole is not None
        self.assertTrue(whole.closed)
        shut = Contour.make(
            half.nodes,
            [*half.kinds, 0],
            [*half.bulges, 0],
            np.concatenate([half.handles, np.zeros((1, 2, 2))]),
        )
        self.assertAlmostEqual(whole.area, 2 * shut.area, 6)
        x0, _, x1, _ = whole.box
        self.assertAlmostEqual(x0, -x1, 9)
        self.assertIsNone(half_with_mirror(half, (5, 0), (5, 10)))
        self.assertIsNone(half_with_mirror(mixed_contour(), (0, 0), (0, 9)))


class Laid(unittest.TestCase):
    def test_ends_are_laid_on_a_line_or_on_the_next_sector_within_reach_alone(self) -> None:
        half = Contour.make([(4, 0), (20, 5), (30, 12)], closed=False)
        x0, y0 = half.nodes[0].tolist()
        a, b = (x0 - 0.03, y0), (x0 - 0.03, y0 + 10)
        laid = laid_on_line(half, a, b, 0.05)
        np.testing.assert_allclose(laid.nodes[0], (x0 - 0.03, y0), atol=1e-12)
        np.testing.assert_array_equal(laid.nodes[1:], half.nodes[1:])
        self.assertIs(laid_on_line(half, a, b, 0.02), half)
        curve = Contour.make(
            [(30, 0), (15.02, 25.99)], [CUBIC], None, [[(40, 10), (30, 30)]], closed=False
        )
        turned = laid_on_turn(curve, (0, 0), 6, 0.05)
        np.testing.assert_allclose(turned.nodes[1], (15, 30 * math.sqrt(3) / 2), atol=1e-9)
        np.testing.assert_allclose(
            turned.handles[0, 1] - turned.nodes[1], curve.handles[0, 1] - curve.nodes[1], atol=1e-9
        )
        self.assertIs(laid_on_turn(curve, (0, 0), 5, 0.05), curve)


if __name__ == "__main__":
    unittest.main()
