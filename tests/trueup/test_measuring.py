import unittest

import cv2
import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.covariance import Covariance
from draxet.geometry.pairs import Freedom
from draxet.job.contour_edits import add_contours, fix_size
from draxet.job.picture_edits import add_picture
from draxet.job.picture_records import KnownLength
from draxet.job.records import Job
from draxet.progress import Cancelled
from draxet.trueup.measures import angle_at, area_of, circle_through, length_along, read
from draxet.trueup.pick import Pick, centre_of, corner_of, lock_pick
from draxet.trueup.scale import DrawnScale, drawn_scale
from draxet.trueup.true import match_picture, set_true_lengths, trust_of


def half_plane(angle: float, off: float, rng: np.random.Generator) -> np.ndarray:
    """Ink on one side of a line through the middle of 120 × 120 pixels, blurred and noisy."""
    x, y = np.meshgrid(np.arange(120) + 0.5, np.arange(120) + 0.5)
    away = -(x - 60) * np.sin(angle) + (y - 60) * np.cos(angle) - off
    soft = cv2.GaussianBlur(np.clip(200 - 140 * np.clip(away + 0.5, 0, 1), 0, 255), (0, 0), 1.0)
    return np.clip(soft + rng.normal(0, 5, soft.shape), 0, 255).astype(np.uint8)


class PicksOnEdges(unittest.TestCase):
    def test_an_area_has_no_middle_so_picks_lock_to_its_edge_finer_than_a_tenth_of_a_pixel(
        self,
    ) -> None:
        rng = np.random.default_rng(0)
        for _ in range(30):
            angle, off = rng.uniform(0, np.pi), rng.uniform(-3, 3)
            pick = lock_pick(
                half_plane(angle, off, rng), 60 + rng.uniform(-3, 3), 60 + rng.uniform(-3, 3)
            )
            self.assertTrue(pick.on_edge)
            self.assertLess(
                abs(-(pick.x - 60) * np.sin(angle) + (pick.y - 60) * np.cos(angle) - off), 0.1
            )

    def test_of_a_thin_line_the_middle_is_taken_unless_the_edge_is_asked_for(self) -> None:
        picture = np.full((80, 80), 220, np.uint8)
        picture[37:43] = 40
        picture = cv2.GaussianBlur(picture, (0, 0), 0.8)
        self.assertAlmostEqual(lock_pick(picture, 40, 38).y, 40, delta=0.1)
        self.assertAlmostEqual(lock_pick(picture, 40, 36.4, edge=True).y, 37, delta=0.15)

    def test_a_pick_asks_often_whether_to_go_on_and_is_the_same_if_it_may(self) -> None:
        rng = np.random.default_rng(4)
        grain = cv2.GaussianBlur(rng.normal(128, 60, (400, 400)), (0, 0), 2.0, sigmaY=9.0)
        picture = np.clip(128 + 4 * (grain - 128), 0, 255).astype(np.uint8)
        asked = 0

        def ask(share: float, words: str) -> None:
            nonlocal asked
            asked += 1

        def stop(share: float, words: str) -> None:
            raise Cancelled

        for x, y, edge in ((200, 200, False), (130, 210, True), (260, 150, False)):
            asked = 0
            with self.subTest(x=x, edge=edge):
                watched = lock_pick(picture, x, y, 20, edge=edge, report=ask)
                self.assertEqual(watched, lock_pick(picture, x, y, 20, edge=edge))
                self.assertGreater(asked, 5)
                with self.assertRaises(Cancelled):
                    lock_pick(picture, x, y, 20, edge=edge, report=stop)

    def test_a_corner_that_is_not_drawn_is_where_two_edges_would_meet(self) -> None:
        corner = corner_of(
            Pick(50, 10, 0, (0.0,), Covariance.round(0.1), True),
            Pick(20, 60, 0, (np.pi / 2 - 0.1,), Covariance.round(0.1), True),
        )
        assert corner is not None
        self.assertAlmostEqual(corner.y, 10)
        self.assertAlmostEqual(corner.x, 20 - 50 * np.tan(0.1))
        self.assertGreater(corner.spread.greatest, 0.1)
        self.assertIsNone(
            corner_of(
                Pick(0, 0, 0, (0.0,), Covariance.round(0.1)),
                Pick(0, 9, 0, (0.02,), Covariance.round(0.1)),
            )
        )
        self.assertIsNone(
            corner_of(
                Pick(0, 0, 0, (), Covariance.round(0.1)),
                Pick(0, 9, 0, (1.0,), Covariance.round(0.1)),
            )
        )


class Centres(unittest.TestCase):
    def test_of_a_slot_end_the_centre_is_found_wherever_its_rim_is_picked(self) -> None:
        """What leads on straight is not taken for more of the circle; a tight end, seen as a corner,
        has a centre too."""
        for radius in (16.0, 30.0, 60.0):
            page = slot(radius)
            for degrees in (-60, -25, 0, 40, 60):
                with self.subTest(radius=radius, degrees=degrees):
                    turn = np.radians(degrees)
                    x, y = 240.3 + radius * np.cos(turn), 150.6 + radius * np.sin(turn)
                    centre = centre_of(page, lock_pick(page, x, y))
                    assert centre is not None
                    off = np.hypot(centre.x - 240.3, centre.y - 150.6)
                    self.assertLess(off, 0.75)
                    self.assertLess(off, 2 * centre.spread.greatest)

    def test_a_sharp_corner_and_a_straight_line_have_none(self) -> None:
        page = np.full((200, 200), 235, np.uint8)
        cv2.polylines(page, [np.array([(30, 170), (100, 40), (170, 170)])], False, 60, 5)
        for x, y in ((100, 40), (65, 105)):
            pick = lock_pick(page, x, y)
            self.assertTrue(pick.locked)
            self.assertIsNone(centre_of(page, pick))


def slot(radius: float) -> np.ndarray:
    """A slot's line, 4 pixels wide, round about (240.3, 150.6) at its right end."""
    x, y = np.meshgrid(np.arange(340) + 0.5, np.arange(300) + 0.5)
    along, across = x - 240.3, y - 150.6
    away = np.where(along > 0, np.hypot(along, across), np.abs(across)) - radius
    ink = np.where(along > -200, np.clip(2.5 - np.abs(away), 0, 1), 0)
    return (235 - 170 * cv2.GaussianBlur(ink, (0, 0), 0.8)).astype(np.uint8)


class Readings(unittest.TestCase):
    def test_known_figures(self) -> None:
        square = np.array([[0.0, 0], [4, 0], [4, 4], [0, 4]])
        self.assertEqual(area_of(square), 16)
        self.assertEqual(length_along(square), 12)
        self.assertAlmostEqual(angle_at(np.array([[5.0, 0], [0, 0], [0, 3]])), 90)
        angles = np.array([0.2, 2.0, 4.4])
        circle = circle_through(np.column_stack([7 + 3 * np.cos(angles), -2 + 3 * np.sin(angles)]))
        np.testing.assert_allclose(circle, (7, -2, 3), atol=1e-9)
        with self.assertRaisesRegex(ValueError, "on one line"):
            circle_through(np.array([[0.0, 0], [1, 1], [3, 3]]))

    def test_trust_is_what_simulated_picks_scatter(self) -> None:
        rng = np.random.default_rng(0)
        points, spread = np.array([[0.0, 0], [40, 3], [45, 60], [-5, 50]]), 0.2
        for value, places in (
            (area_of, points),
            (angle_at, points[:3]),
            (length_along, points),
            (lambda p: circle_through(p)[2], points[:3]),
        ):
            reading = read(value, places, [Covariance.round(spread)] * len(places), 0.0, 1)
            scatter = np.std(
                [value(places + rng.normal(0, spread, places.shape)) for _ in range(3000)]
            )
            self.assertAlmostEqual(reading.trust / (2 * scatter), 1, delta=0.08)

    def test_the_scale_counts_once_for_lengths_twice_for_areas_and_not_for_angles(self) -> None:
        points = np.array([[0.0, 0], [40, 3], [45, 60]])
        for value, power in ((angle_at, 0), (length_along, 1), (area_of, 2)):
            reading = read(value, points, [Covariance()] * 3, 0.01, power)
            self.assertAlmostEqual(reading.trust, 2 * 0.01 * power * reading.value)


class Matching(unittest.TestCase):
    def setUp(self) -> None:
        self.job, self.id = add_picture(
            Job(), "plan", b"", (400, 300), Affine(0.5, 0, 10, 0, -0.5, 160), 200.0
        )

    def test_a_picture_goes_to_its_places_and_with_size_it_is_to_scale(self) -> None:
        pixels = np.array([[10.0, 10], [390, 20], [200, 280]])
        truth = Affine.turned(5).then(Affine.scaled(0.8)).then(Affine.moved(30, 40))
        targets = self.job.pictures[0].to_job.then(truth).apply(pixels)
        for freedom, known in ((Freedom.RIGID, 0), (Freedom.SIZE, 3), (Freedom.STRETCH, 3)):
            picture = match_picture(self.job, self.id, pixels, targets, freedom).pictures[0]
            self.assertEqual(len(picture.known_lengths), known)
            if known:
                np.testing.assert_allclose(picture.to_job.apply(pixels), targets, atol=1e-9)
                self.assertLess(trust_of(picture, 100) or 9, 0.5)
            else:
                self.assertAlmostEqual(picture.pixel_size, 0.5)

    def test_a_contour_of_fixed_size_moves_along_but_is_not_resized(self) -> None:
        job = add_contours(
            self.job, [Contour.circle(60, 60, 5), Contour.circle(90, 60, 5)], self.id
        )
        job = fix_size(job, [job.contours[0].id], True)
        after = set_true_lengths(
            job,
            self.id,
            [KnownLength((0, 0), (400, 0), 400, Covariance.round(0.1), Covariance.round(0.1))],
        )
        fixed, free = (item.contour.circle_shape for item in after.contours)
        assert fixed and free
        self.assertAlmostEqual(fixed[2], 5)
        self.assertAlmostEqual(free[2], 10)
        np.testing.assert_allclose(fixed[:2], after.pictures[0].to_job.point(100, 200), atol=1e-9)


class WhichScale(unittest.TestCase):
    def test_paper_size_and_real_size_give_the_ratio_and_the_nearest_standard_one(self) -> None:
        job, picture_id = add_picture(Job(), "plan", b"", (2000, 1000), Affine(), 200.0)
        with self.assertRaisesRegex(ValueError, "known length first"):
            drawn_scale(job.pictures[0])
        real = 1000 * 25.4 / 200 * 20.1
        picture = set_true_lengths(
            job,
            picture_id,
            [KnownLength((0, 0), (1000, 0), real, Covariance.round(0.1), Covariance.round(0.1))],
        ).pictures[0]
        found = drawn_scale(picture)
        self.assertAlmostEqual(1 / found.ratio, 20.1, 3)
        self.assertEqual((1 / found.nearest, found.is_standard), (20, True))
        self.assertEqual((DrawnScale.words(1 / 20), DrawnScale.words(5.0)), ("1 : 20", "5 : 1"))


if __name__ == "__main__":
    unittest.main()
