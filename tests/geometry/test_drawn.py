"""What is drawn by hand goes where it was set, smoothly where it should."""

import math
import unittest

import numpy as np

from draxet.geometry.contour import Contour
from draxet.geometry.drawn import (
    Stop,
    arc_bulge,
    contour_of,
    direction_at_end,
    regular_polygon,
    slot,
    tangent_bulge,
    three_point_circle,
)
from draxet.geometry.spans import ARC, CUBIC, LINE


class Drawn(unittest.TestCase):
    def test_a_curve_through_the_places_of_a_circle_is_nearly_that_circle_and_smooth(self) -> None:
        stops = [
            Stop(50 * math.cos(a), 50 * math.sin(a), "curve") for a in np.arange(8) * math.pi / 4
        ]
        found = contour_of(stops, closed=True, last="curve")
        self.assertFalse(found.corners().any())
        self.assertLess(np.abs(np.hypot(*found.flattened(0.001).T) - 50).max(), 0.4)

    def test_one_contour_mixes_straight_arc_and_curve_and_stays_tangent(self) -> None:
        stops = [Stop(0, 0), Stop(40, 0, "line")]
        stops.append(
            Stop(60, 20, "arc", tangent_bulge((40, 0), direction_at_end(stops) or (1, 0), (60, 20)))
        )
        stops += [Stop(70, 60, "curve"), Stop(40, 90, "curve"), Stop(0, 90, "line")]
        found = contour_of(stops, closed=True)
        self.assertEqual(found.kinds.tolist(), [LINE, ARC, CUBIC, CUBIC, LINE, LINE])
        self.assertFalse(found.corners()[[1, 2, 3, 4]].any())
        self.assertTrue(found.corners()[[0, 5]].all())
        centre = found.spans.arc_shapes().centres[1]
        np.testing.assert_allclose(centre, (40, 20), atol=1e-9)

    def test_a_corner_breaks_a_curve_and_a_pull_shapes_it(self) -> None:
        corner = contour_of([Stop(0, 0), Stop(20, 20, "curve", corner=True), Stop(40, 0, "curve")])
        self.assertTrue(corner.corners()[1])
        pulled = contour_of([Stop(0, 0), Stop(20, 20, "curve", pull=(10, 0)), Stop(40, 0, "curve")])
        np.testing.assert_allclose(pulled.handles[0, 1], (10, 20))
        np.testing.assert_allclose(pulled.handles[1, 0], (30, 20))
        self.assertFalse(pulled.corners()[1])

    def test_arcs_through_three_places(self) -> None:
        rng = np.random.default_rng(3)
        for _ in range(100):
            a, b, c = (tuple(p) for p in rng.uniform(-50, 50, (3, 2)))
            x, y, r = three_point_circle(a, b, c) or (0, 0, 0)
            arc = Contour.make([a, c], [ARC], [arc_bulge(a, b, c)], closed=False)
            points = arc.flattened(1e-4)
            np.testing.assert_allclose(np.hypot(*(points - (x, y)).T), r, rtol=1e-6)
            self.assertLess(np.hypot(*(points - b).T).min(), 0.05 * r + 0.05)
        self.assertIsNone(three_point_circle((0, 0), (1, 1), (3, 3)))
        self.assertEqual(arc_bulge((0, 0), (1, 0), (3, 0)), 0.0)

    def test_polygon_and_slot(self) -> None:
        self.assertAlmostEqual(
            regular_polygon(5, 5, 6, 10, 0.3).area, 6 * 0.5 * 100 * math.sin(math.pi / 3), 9
        )
        made = slot((0, 0), (30, 40), 10)
        self.assertAlmostEqual(made.area, 50 * 10 + math.pi * 25, 6)
        self.assertFalse(made.corners().any())
