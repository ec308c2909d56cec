import math
import unittest

import cv2
import numpy as np

from bench.picking import BENT_KINDS, KINDS, sureness
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.covariance import Covariance
from draxet.job.contour_edits import add_contours
from draxet.job.picture_edits import add_picture
from draxet.job.records import Job
from draxet.trueup.pick import Pick, corner_of, free_pick, lock_pick, straightened
from draxet.trueup.true import (
    known_length,
    level_picture,
    measure,
    measured_again,
    set_true_lengths,
    trust_of,
)


def stroke_picture(
    lines: list[tuple[float, float, float, float]], width: float, noise: float, seed: int = 0
) -> np.ndarray:
    """Straight pencil lines (x0, y0, x1, y1 in picture space) of a width in pixels on paper, from
    exact distances."""
    rows, columns = np.mgrid[0:160, 0:160] + 0.5
    ink = np.zeros((160, 160))
    for x0, y0, x1, y1 in lines:
        length = math.hypot(x1 - x0, y1 - y0)
        ux, uy = (x1 - x0) / length, (y1 - y0) / length
        across = np.abs(-(columns - x0) * uy + (rows - y0) * ux)
        along = (columns - x0) * ux + (rows - y0) * uy
        ink = np.maximum(
            ink, np.clip(width / 2 + 0.5 - across, 0, 1) * (along > 0) * (along < length)
        )
    picture = cv2.GaussianBlur(235 - 130 * ink, (0, 0), 0.8) + np.random.default_rng(seed).normal(
        0, noise, ink.shape
    )
    return np.clip(picture, 0, 255).astype(np.uint8)


class PicksLock(unittest.TestCase):
    def test_to_the_middle_of_the_line_whatever_its_direction_and_width(self) -> None:
        rng = np.random.default_rng(5)
        for width in (2, 4, 8, 12):
            for degrees in (0, 30, 45, 90, 152):
                ux, uy = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
                cx, cy = 80 + rng.uniform(-0.5, 0.5, 2)
                grey = stroke_picture(
                    [(cx - 70 * ux, cy - 70 * uy, cx + 70 * ux, cy + 70 * uy)], width, 5
                )
                off = rng.uniform(-5, 5)
                pick = lock_pick(grey, cx - off * uy, cy + off * ux)
                with self.subTest(width=width, degrees=degrees):
                    self.assertTrue(pick.locked)
                    self.assertLess(abs(-(pick.x - cx) * uy + (pick.y - cy) * ux), 0.2)
                    self.assertAlmostEqual(pick.width, width, delta=1.2)

    def test_to_the_crossing_where_two_lines_cross_nearby(self) -> None:
        grey = stroke_picture([(10, 80.4, 150, 80.4), (75.3, 10, 75.3, 150)], 3, 4)
        for x, y in ((75, 80), (79, 84), (71, 82)):
            pick = lock_pick(grey, x, y)
            with self.subTest(x=x, y=y):
                self.assertEqual(len(pick.directions), 2)
                np.testing.assert_allclose((pick.x, pick.y), (75.3, 80.4), atol=0.15)

    def test_to_nothing_on_bare_paper_or_out_of_reach(self) -> None:
        bare = np.clip(230 + np.random.default_rng(0).normal(0, 4, (160, 160)), 0, 255).astype(
            np.uint8
        )
        self.assertEqual(lock_pick(bare, 80, 80), free_pick(80, 80))
        far = stroke_picture([(10, 20, 150, 20)], 3, 2)
        self.assertFalse(lock_pick(far, 80, 60, reach=10).locked)

    def test_at_and_beyond_the_pictures_border_without_an_error(self) -> None:
        grey = stroke_picture([(0, 3, 160, 3)], 3, 2)
        for x, y in ((0, 0), (159.9, 2), (-30, 5), (400, 400)):
            lock_pick(grey, x, y)


class PicksOfEveryKind(unittest.TestCase):
    def test_ends_corners_and_crossings_are_what_they_are_and_middles_are_free_along_the_line(
        self,
    ) -> None:
        grey = stroke_picture(
            [(30, 40.3, 130, 40.3), (30.2, 40, 30.2, 130), (90, 80, 140, 120)], 4, 3
        )
        cases = {
            (32, 43): ("corner", 30.2, 40.3),
            (139, 118): ("end", 140, 120),
            (128, 42): ("end", 130, 40.3),
            (80, 42): ("middle", None, 40.3),
            (150, 20): ("free", 150, 20),
        }
        for (x, y), (kind, wanted_x, wanted_y) in cases.items():
            pick = lock_pick(grey, x, y, click=1.0)
            with self.subTest(kind, x=x, y=y):
                self.assertEqual(pick.kind, kind)
                self.assertAlmostEqual(pick.y, wanted_y, delta=0.9)
                if wanted_x is not None:
                    self.assertAlmostEqual(pick.x, wanted_x, delta=0.9)
        middle = lock_pick(grey, 80, 42, click=3.0)
        self.assertAlmostEqual(middle.spread.along(1, 0), 3.0, delta=0.1)
        self.assertLess(middle.spread.along(0, 1), 0.6)

    def test_lengths_lie_within_their_trust_at_every_kind_of_end_and_the_trust_is_not_too_wide(
        self,
    ) -> None:
        for kind in KINDS:
            found = sureness(kind, 1.0, range(60))
            with self.subTest(kind):
                self.assertGreaterEqual(found.inside, 0.88)
                self.assertLess(found.too_wide, 2.0)

    def test_beside_arcs_lengths_are_as_sure_as_beside_straight_lines(self) -> None:
        for kind in BENT_KINDS:
            found = sureness(kind, 1.0, range(500, 530))
            with self.subTest(kind):
                self.assertGreaterEqual(found.inside, 0.86)
                self.assertLess(found.error, 1.7)

    def test_none_throws_whatever_is_drawn_and_wherever_it_is(self) -> None:
        rng = np.random.default_rng(0)
        for k in range(60):
            grey = np.full(tuple(rng.integers(9, 200, 2)), 235, np.uint8)
            for _ in range(4):
                ends = rng.integers(-50, 250, 4).tolist()
                cv2.line(
                    grey,
                    tuple(ends[:2]),
                    tuple(ends[2:]),
                    int(rng.integers(0, 120)),
                    int(rng.integers(1, 40)),
                    cv2.LINE_AA,
                )
            x, y = rng.uniform(-30, 230, 2)
            pick = lock_pick(
                grey,
                float(x),
                float(y),
                float(rng.choice([4, 14, 40])),
                edge=k % 3 == 0,
                click=float(rng.choice([0.1, 1, 4])),
            )
            self.assertTrue(
                math.isfinite(pick.x) and math.isfinite(pick.y) and pick.spread.greatest > 0
            )
            corner_of(pick, straightened(grey, pick))


def set_true_length(job: Job, picture_id: str, first: Pick, second: Pick, length: float) -> Job:
    return set_true_lengths(job, picture_id, [known_length(job.pictures[0], first, second, length)])


class Truing(unittest.TestCase):
    def setUp(self) -> None:
        self.job, self.id = add_picture(
            Job(), "p", b"", (400, 300), Affine(0.5, 0, 7, 0, -0.5, 160)
        )

    def test_the_known_length_measures_right_and_the_picture_keeps_its_middle(self) -> None:
        a, b = (
            Pick(20, 30, 3, (0.0,), Covariance.round(0.2)),
            Pick(320, 130, 3, (0.0,), Covariance.round(0.3)),
        )
        job = set_true_length(self.job, self.id, a, b, 239.7125)
        picture = job.pictures[0]
        self.assertAlmostEqual(measure(picture, a, b).length, 239.7125, 9)
        (result,) = measured_again(picture)
        self.assertAlmostEqual(result.length, 239.7125, 9)
        np.testing.assert_allclose(
            picture.to_job.point(200, 150), self.job.pictures[0].to_job.point(200, 150)
        )
        self.assertAlmostEqual(
            result.trust, 2 * math.hypot(0.2, 0.3) / math.hypot(300, 100) * 239.7125, 4
        )

    def test_trust_grows_with_the_length_and_there_is_none_before_a_size_is_known(self) -> None:
        self.assertIsNone(trust_of(self.job.pictures[0], 100))
        job = set_true_length(self.job, self.id, free_pick(0, 0), free_pick(100, 0), 50)
        self.assertAlmostEqual(trust_of(job.pictures[0], 200), 2 * trust_of(job.pictures[0], 100))

    def test_levelling_works_in_either_order_and_keeps_the_size(self) -> None:
        for upright, (bx, by) in ((False, (250, 75)), (True, (90, 280))):
            a, b = free_pick(60, 60), free_pick(bx, by)
            for first, second in ((a, b), (b, a)):
                picture = level_picture(
                    self.job, self.id, first, second, angle=90.0 if upright else 0.0
                ).pictures[0]
                (x0, y0), (x1, y1) = picture.to_job.point(60, 60), picture.to_job.point(bx, by)
                self.assertAlmostEqual((x1 - x0) if upright else (y1 - y0), 0, 9)
                self.assertAlmostEqual(picture.pixel_size, 0.5)

    def test_contours_traced_from_it_follow(self) -> None:
        job = add_contours(self.job, [Contour.circle(50, 50, 10)], self.id)
        job = set_true_length(job, self.id, free_pick(0, 0), free_pick(100, 0), 100)
        circle = job.contours[0].contour.circle_shape
        assert circle is not None
        self.assertAlmostEqual(circle[2], 20)

    def test_what_cannot_be_is_refused(self) -> None:
        with self.assertRaisesRegex(ValueError, "over 0"):
            set_true_length(self.job, self.id, free_pick(0, 0), free_pick(9, 0), 0)
        with self.assertRaisesRegex(ValueError, "2 pixels apart"):
            set_true_length(self.job, self.id, free_pick(0, 0), free_pick(1, 0), 5)
        with self.assertRaisesRegex(ValueError, "2 pixels apart"):
            level_picture(self.job, self.id, free_pick(0, 0), free_pick(0, 0))
