import unittest

import numpy as np

from draxet.geometry.contour import Contour
from draxet.trace.extract import _chains, edge_lines
from draxet.trace.levels import automatic_level, edge_blur
from draxet.trace.uncross import crossing_contours, without_crossings
from tests.shapes import drawn


class Chains(unittest.TestCase):
    def test_every_cycle_of_a_permutation_is_followed_from_its_least_member(self) -> None:
        rng = np.random.default_rng(1)
        for count in (1, 2, 9, 500):
            with self.subTest(count):
                following = rng.permutation(count)
                order, firsts, counts = _chains(following)
                self.assertEqual(sorted(order.tolist()), list(range(count)))
                for first, size in zip(firsts.tolist(), counts.tolist(), strict=True):
                    chain = order[first : first + size]
                    self.assertEqual(chain[0], chain.min())
                    np.testing.assert_array_equal(following[chain], np.roll(chain, -1))
                self.assertTrue((np.diff(order[firsts]) > 0).all())

    def test_none_is_none(self) -> None:
        order, firsts, counts = _chains(np.zeros(0, dtype=np.int64))
        self.assertEqual((len(order), len(firsts), len(counts)), (0, 0, 0))


class EdgeLinesOfPictures(unittest.TestCase):
    def test_areas_tell_ink_from_holes_and_every_point_lies_at_the_level(self) -> None:
        picture = drawn([Contour.circle(150, 150, 100), Contour.circle(150, 150, 60)])
        lines = edge_lines(picture, 127.5)
        np.testing.assert_allclose(sorted(lines.areas), (-np.pi * 60**2, np.pi * 100**2), rtol=2e-3)
        radii = np.hypot(*(lines.points - 150).T)
        self.assertLess(np.minimum(abs(radii - 60), abs(radii - 100)).max(), 0.25)

    def test_ink_at_the_rim_is_closed_there(self) -> None:
        lines = edge_lines(np.zeros((20, 30), np.uint8), 127.5)
        self.assertEqual(len(lines), 1)
        self.assertAlmostEqual(
            float(lines.areas[0]), 20 * 30, delta=6
        )  # the rim's own half-way line cuts the corners

    def test_a_whole_level_and_a_picture_of_floats_give_the_same(self) -> None:
        picture = drawn([Contour.circle(150, 150, 80)], blur=1)
        whole, floats = edge_lines(picture, 128.0), edge_lines(picture.astype(np.float32), 127.99)
        np.testing.assert_allclose(whole.points, floats.points, atol=1e-4)

    def test_small_lines_are_left_out(self) -> None:
        picture = drawn([Contour.circle(100, 100, 3), Contour.circle(200, 200, 30)])
        self.assertEqual(
            [len(edge_lines(picture, 127.5, area)) for area in (0, 100, 1e5)], [2, 1, 0]
        )


class Levels(unittest.TestCase):
    def test_the_level_lies_midway_between_ink_and_paper_however_little_ink_there_is(self) -> None:
        for side in (40, 10, 3):
            picture = np.full((400, 400), 220, np.uint8)
            picture[50 : 50 + side, 50 : 50 + side] = 60
            self.assertAlmostEqual(automatic_level(picture), 140, delta=3)

    def test_the_blur_found_is_the_blur_that_was_put_in(self) -> None:
        for blur in (0.8, 1.5, 2.5):
            self.assertAlmostEqual(
                edge_blur(drawn([Contour.circle(150, 150, 90)], blur=blur), 127.5), blur, delta=0.35
            )


class Crossings(unittest.TestCase):
    def test_contours_that_cross_are_named_and_those_that_nest_or_meet_are_not(self) -> None:
        apart = [Contour.circle(0, 0, 10), Contour.circle(0, 0, 5), Contour.circle(40, 0, 10)]
        self.assertEqual(crossing_contours(apart).tolist(), [])
        self.assertEqual(crossing_contours([*apart, Contour.circle(52, 0, 10)]).tolist(), [2, 3])
        bow = Contour.make([(0, 100), (10, 110), (10, 100), (0, 110)])
        self.assertEqual(crossing_contours([*apart, bow]).tolist(), [3])

    def test_what_crosses_is_fitted_anew_and_the_rest_is_left(self) -> None:
        bow, square = (
            Contour.make([(0, 0), (10, 10), (10, 0), (0, 10)]),
            Contour.make([(0, 0), (10, 0), (10, 10), (0, 10)]),
        )
        asked: list[list[int]] = []

        def refit(numbers: np.ndarray, share: float) -> list[Contour]:
            asked.append(numbers.tolist())
            return [square for _ in numbers]

        found = without_crossings([Contour.circle(50, 0, 5), bow], refit, lambda k: square.nodes)
        self.assertEqual(asked, [[1]])
        self.assertEqual(found, [Contour.circle(50, 0, 5), square])

    def test_where_no_fit_helps_the_picture_s_own_line_is_taken(self) -> None:
        bow, square = (
            Contour.make([(0, 0), (10, 10), (10, 0), (0, 10)]),
            Contour.make([(0, 0), (10, 0), (10, 10), (0, 10)]),
        )
        (found,) = without_crossings([bow], lambda numbers, share: [bow], lambda k: square.nodes)
        self.assertEqual(len(found.nodes), 4)
        self.assertEqual(crossing_contours([found]).tolist(), [])


if __name__ == "__main__":
    unittest.main()
