import math
import unittest

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.covariance import Covariance
from draxet.job.contour_edits import add_contours
from draxet.job.picture_edits import add_picture
from draxet.job.picture_records import KnownLength
from draxet.job.records import Job
from draxet.trueup.lengths import fit_lengths
from draxet.trueup.true import measured_again, set_true_lengths

SCALE = 0.127


def known_on(
    stretch: tuple[float, float],
    ways: list[tuple[float, float]],
    spread: float = 0.1,
    rng: np.random.Generator | None = None,
) -> list[KnownLength]:
    """Known lengths (degrees, pixels) on a scan that is stretched by shares in x and y, with errors
    where `rng` is given."""
    found = []
    for degrees, pixels in ways:
        dx, dy = pixels * math.cos(math.radians(degrees)), pixels * math.sin(math.radians(degrees))
        real = SCALE * math.hypot(dx / (1 + stretch[0]), dy / (1 + stretch[1]))
        jitter = rng.normal(0, spread, 2) if rng else (0, 0)
        found.append(
            KnownLength(
                (100, 100),
                (100 + dx + jitter[0], 100 + dy + jitter[1]),
                real,
                Covariance.round(spread),
                Covariance(),
            )
        )
    return found


CROSSED = [(0, 1500), (90, 1300), (0, 900), (45, 1600), (130, 1200)]


class FittingLengths(unittest.TestCase):
    def test_one_length_gives_the_scale_and_leaves_other_directions_less_trusted(self) -> None:
        fit = fit_lengths(known_on((0, 0), CROSSED[:1]), unstretched=False)
        self.assertAlmostEqual(fit.scale, SCALE)
        self.assertGreater(fit.share_spread(0, 1), 20 * fit.share_spread(1, 0))

    def test_without_stretch_nothing_is_found_and_every_direction_is_trusted(self) -> None:
        fit = fit_lengths(known_on((0, 0), CROSSED), unstretched=False)
        self.assertAlmostEqual(fit.stretch, 0, 9)
        self.assertFalse(fit.is_stretched or fit.odd.any())
        for way in ((1, 0), (0, 1), (1, 1), (1, -1)):
            self.assertLess(fit.share_spread(*way), 4e-4)

    def test_stretch_is_found_told_and_taken_out(self) -> None:
        known = known_on((0.012, 0), CROSSED)
        told = fit_lengths(known, unstretched=False)
        self.assertTrue(told.is_stretched)
        self.assertAlmostEqual(told.stretch, 0.012, 3)
        self.assertGreater(np.abs(told.differences).max(), 0.5)
        taken = fit_lengths(known, unstretched=True)
        self.assertLess(np.abs(taken.differences).max(), 0.02)

    def test_two_lengths_of_a_small_picture_are_exact_once_the_stretch_is_taken_out(self) -> None:
        for spread, size in ((1.0, 300), (0.3, 120), (2.0, 900), (0.1, 4000)):
            known = known_on((0.02, -0.015), [(0, size), (90, 0.7 * size)], spread)
            for fit, most in (
                (fit_lengths(known, unstretched=True), 1e-4),
                (fit_lengths(known[:1], unstretched=True), 1e-9),
            ):
                with self.subTest(spread=spread, size=size, lengths=len(fit.differences)):
                    self.assertLess(np.abs(fit.differences / SCALE / size).max(), most)
                    self.assertTrue(np.isfinite(fit.covariance).all())

    def test_the_odd_one_out_is_marked_and_only_it(self) -> None:
        for wrong in range(5):
            known = known_on((0.0, 0.0), CROSSED, rng=np.random.default_rng(wrong))
            bad = known[wrong]
            known[wrong] = KnownLength(
                bad.first, bad.second, bad.length * 1.01, bad.first_spread, bad.second_spread
            )
            with self.subTest(wrong=wrong):
                self.assertEqual(
                    np.flatnonzero(fit_lengths(known, unstretched=False).odd).tolist(), [wrong]
                )

    def test_noise_alone_is_seldom_taken_for_stretch_or_for_an_odd_one(self) -> None:
        fits = [
            fit_lengths(known_on((0, 0), CROSSED, 0.3, np.random.default_rng(k)), unstretched=False)
            for k in range(200)
        ]
        self.assertLess(sum(fit.is_stretched for fit in fits), 8)
        self.assertLess(sum(bool(fit.odd.any()) for fit in fits), 12)

    def test_lengths_near_their_weight_count_accordingly(self) -> None:
        sharp, vague = known_on((0, 0), [(0, 1000), (0, 1000)])
        vague = KnownLength(
            vague.first, vague.second, vague.length * 1.02, Covariance.round(2.0), Covariance()
        )
        fit = fit_lengths([sharp, vague], unstretched=False)
        self.assertAlmostEqual(fit.scale / SCALE, 1, 3)
        self.assertGreater(fit.weights[0], 0.99)


class TruingByLengths(unittest.TestCase):
    def test_the_picture_measures_right_after_unstretching_and_its_contours_follow(self) -> None:
        job, picture_id = add_picture(
            Job(), "p", b"", (2000, 1800), Affine.turned(10).then(Affine(0.3, 0, 5, 0, -0.3, 500))
        )
        known = known_on((0.0, 0.009), CROSSED)
        px = Contour.circle(800, 800, 100).transformed(job.pictures[0].to_job)
        job = set_true_lengths(
            add_contours(job, [px], picture_id), picture_id, known, unstretched=True
        )
        for each, again in zip(known, measured_again(job.pictures[0]), strict=True):
            self.assertAlmostEqual(again.length, each.length, delta=0.02)
            self.assertLess(abs(again.length - each.length), again.trust)
        wide, high = 200 * SCALE, 200 * SCALE / 1.009
        self.assertAlmostEqual(
            abs(job.contours[0].contour.area), math.pi * wide * high / 4, delta=1.0
        )
        self.assertEqual(np.sign(job.pictures[0].to_job.determinant), -1)

    def test_removing_all_lengths_leaves_the_picture_where_it_lies(self) -> None:
        job, picture_id = add_picture(Job(), "p", b"", (200, 180), Affine(0.3, 0, 5, 0, -0.3, 500))
        job = set_true_lengths(job, picture_id, known_on((0, 0), CROSSED[:1]))
        again = set_true_lengths(job, picture_id, [])
        self.assertEqual(again.pictures[0].to_job, job.pictures[0].to_job)
        self.assertEqual(again.pictures[0].known_lengths, ())
