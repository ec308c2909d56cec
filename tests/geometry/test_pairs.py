import unittest

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.pairs import Freedom, fit_pairs

PLACES = np.array([[0.0, 0], [100, 20], [30, 80], [-40, 10], [60, -30]])


class PairsSayHowToMove(unittest.TestCase):
    def test_exact_pairs_give_back_the_map_that_made_them(self) -> None:
        turn = Affine.turned(12).then(Affine.moved(5, -3))
        cases = {
            Freedom.RIGID: turn,
            Freedom.SIZE: turn.then(Affine.scaled(1.7)),
            Freedom.STRETCH: Affine(1.1, 0.2, 3, -0.1, 0.9, 4),
        }
        for freedom, truth in cases.items():
            with self.subTest(freedom):
                fit = fit_pairs(PLACES, truth.apply(PLACES), freedom)
                np.testing.assert_allclose(fit.affine.to_tuple(), truth.to_tuple(), atol=1e-9)
                self.assertIsNone(fit.worst)

    def test_one_pair_moves_and_two_turn_without_changing_size_unless_asked(self) -> None:
        fit = fit_pairs(PLACES[:1], PLACES[:1] + (3, 4), Freedom.SIZE)
        self.assertEqual(fit.affine, Affine.moved(3, 4))
        sources, targets = np.array([[0.0, 0], [10, 0]]), np.array([[0.0, 0], [0, 20]])
        rigid, sized = (
            fit_pairs(sources, targets, freedom) for freedom in (Freedom.RIGID, Freedom.SIZE)
        )
        self.assertAlmostEqual(rigid.affine.scale, 1)
        np.testing.assert_allclose(rigid.distances, [5, 5], atol=1e-9)
        self.assertAlmostEqual(sized.affine.scale, 2)
        np.testing.assert_allclose(sized.distances, [0, 0], atol=1e-9)

    def test_least_squares_beats_every_small_change_of_the_map(self) -> None:
        rng = np.random.default_rng(1)
        targets = Affine.turned(20).apply(PLACES) + rng.normal(0, 0.5, PLACES.shape)
        fit = fit_pairs(PLACES, targets, Freedom.RIGID)
        for other in (
            Affine.turned(0.2),
            Affine.turned(-0.2),
            Affine.moved(0.2, 0),
            Affine.moved(0, -0.2),
        ):
            self.assertGreater(
                ((targets - fit.affine.then(other).apply(PLACES)) ** 2).sum(), (fit.rest**2).sum()
            )

    def test_the_pair_that_does_not_go_with_the_others_is_named(self) -> None:
        targets = Affine.turned(-7).apply(PLACES) + np.random.default_rng(2).normal(
            0, 0.05, PLACES.shape
        )
        self.assertFalse(fit_pairs(PLACES, targets, Freedom.RIGID).odd)
        targets[3] += (6, -2)
        fit = fit_pairs(PLACES, targets, Freedom.RIGID)
        self.assertEqual((fit.worst, fit.odd), (3, True))

    def test_what_says_nothing_is_refused(self) -> None:
        same, line = np.zeros((3, 2)), np.array([[0.0, 0], [1, 1], [2, 2]])
        for sources, targets, freedom, words in (
            (same[:0], same[:0], Freedom.RIGID, "at least one pair"),
            (same, PLACES[:3], Freedom.SIZE, "on one another"),
            (line, PLACES[:3], Freedom.STRETCH, "one line"),
        ):
            with self.subTest(words), self.assertRaisesRegex(ValueError, words):
                fit_pairs(sources, targets, freedom)


if __name__ == "__main__":
    unittest.main()
