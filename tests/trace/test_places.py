"""Places along contours, and what blur does to their tips."""

import math
import unittest

import numpy as np
import shapely

from draxet.geometry.contour import Contour
from draxet.geometry.fitting.loop_corners import tip_retreat
from draxet.trace.extract import edge_lines
from draxet.trace.places import places_along
from tests.shapes import drawn

SQUARE = Contour.make([(0, 0), (10, 0), (10, 10), (0, 10)])
STEP = Contour.make([(30, 0), (40, 0), (40, 10)], closed=False)


class Places(unittest.TestCase):
    def test_they_lie_evenly_and_know_their_span_and_how_far_its_ends_are(self) -> None:
        places = places_along([SQUARE, STEP], 2.0)
        self.assertEqual(np.bincount(places.owner).tolist(), [20, 10])
        np.testing.assert_allclose(places.behind + places.ahead, 10)
        np.testing.assert_allclose(
            np.hypot(*(places.points - places.spans.starts[places.span]).T),
            places.behind,
            atol=1e-9,
        )
        np.testing.assert_allclose(np.hypot(*places.along.T), 1)

    def test_turns_are_those_at_each_span_s_start_and_open_ends_have_none(self) -> None:
        places = places_along([SQUARE, STEP, Contour.circle(80, 0, 5)], 2.0)
        turns = np.degrees(places.turns())
        np.testing.assert_allclose(turns[:6], [90, 90, 90, 90, 0, 90], atol=1e-3)
        np.testing.assert_allclose(turns[6:], 0, atol=1e-3)
        self.assertEqual(places.before().tolist()[:6], [3, 0, 1, 2, 5, 4])

    def test_contours_that_meet_are_counted(self) -> None:
        beside = Contour.make([(10, 0), (20, 0), (20, 10), (10, 10)])
        self.assertEqual(
            places_along([SQUARE, beside, STEP], 5.0).meetings().tolist(),
            [1, 2, 2, 1, 2, 1, 1, 2, 1, 1],
        )

    def test_none_is_none(self) -> None:
        places = places_along([], 2.0)
        self.assertEqual(
            (len(places.points), len(places.turns()), len(places.meetings())), (0, 0, 0)
        )


class Tips(unittest.TestCase):
    def test_blur_moves_a_drawn_tip_inwards_as_far_as_is_said(self) -> None:
        for degrees in (40, 60, 90, 120):
            with self.subTest(degrees=degrees):
                half = math.radians(degrees) / 2
                wedge = Contour.make(
                    [
                        (40, 100),
                        (240, 100 - 200 * math.tan(half)),
                        (240, 100 + 200 * math.tan(half)),
                    ]
                )
                lines = edge_lines(drawn([wedge], 260, blur=2.0), 127.5)
                off = shapely.distance(shapely.Point(40, 100), shapely.LineString(lines.points))
                self.assertAlmostEqual(
                    off,
                    float(tip_retreat(np.array([math.pi - 2 * half]), 2.0)[0]),
                    delta=0.12 * off,
                )
