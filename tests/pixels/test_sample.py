import unittest
from unittest import mock

import numpy as np

from draxet.pixels import sample
from draxet.pixels.paper_ground import Paper, evenly_inked
from draxet.pixels.sample import sampled


class Sampling(unittest.TestCase):
    def test_pixels_are_read_at_their_centres_and_between_them_in_any_number(self) -> None:
        rng = np.random.default_rng(0)
        for image in (
            rng.integers(0, 255, (7, 9)).astype(np.uint8),
            rng.integers(0, 255, (7, 9, 3)).astype(np.uint8),
        ):
            self.assertEqual(
                sampled(image, np.array([[[2.5, 3.5]]]))[0, 0].tolist(), image[3, 2].tolist()
            )
            between = sampled(image, np.array([[[3.0, 3.5]]]))[0, 0]
            np.testing.assert_allclose(
                between, (image[3, 2].astype(float) + image[3, 3]) / 2, atol=0.51
            )
            places = rng.uniform(-1, 10, (40_000, 2, 2))
            whole = sampled(image, places, 255)
            with mock.patch.object(
                sample, "_MOST", 5
            ):  # as for a picture that is too large for the library
                np.testing.assert_allclose(sampled(image, places[:500], 255), whole[:500], atol=5)
                np.testing.assert_allclose(
                    sampled(image, places[:500]), sampled(image, places[:500]), atol=1
                )
        self.assertEqual(sampled(np.zeros((3, 3), np.uint8), np.zeros((0, 4, 2))).shape, (0, 4))


class PaperUnderInk(unittest.TestCase):
    def test_the_paper_is_what_it_would_be_without_ink_up_to_the_border(self) -> None:
        shade = np.linspace(100, 240, 400)[None] + np.zeros((300, 1))
        drawing = shade.copy()
        drawing[140:150, 30:370] *= 0.3
        found = Paper.of(drawing.astype(np.uint8)).rows(slice(0, 300))
        self.assertLess(np.abs(found - shade)[20:-20].max(), 14)

    def test_ink_and_paper_become_black_and_white_in_any_light(self) -> None:
        shade = np.linspace(0.4, 1.0, 400)[None] + np.zeros((300, 1))
        drawing = 220 * shade
        drawing[100:106] *= 0.4
        even = evenly_inked(drawing.astype(np.uint8))
        self.assertLess(even[102, 20:-20].max(), 60)
        self.assertGreater(np.percentile(even[150:], 5), 210)


if __name__ == "__main__":
    unittest.main()
