import unittest

import cv2
import numpy as np

from bench.cards import GROUNDS, card_photo, rank
from bench.cards_drawn import DRAWN_GROUNDS, drawn_photo
from bench.photos import CARD, Photo
from draxet.gather.prepare import prepared
from draxet.geometry.affine import Affine
from draxet.geometry.homography import apply_homography, bent, homography, unbent
from draxet.job.picture_edits import add_picture
from draxet.job.records import Job
from draxet.trueup.edge_lines import Corners, sharpened
from draxet.trueup.outlines import outlines_of_three_sides
from draxet.trueup.rectangles import find_corners, find_rectangles
from draxet.trueup.square import plan_view, square_photo
from draxet.trueup.true import measured_again


class Planes(unittest.TestCase):
    def test_a_homography_takes_its_points_where_they_belong_and_back(self) -> None:
        p = np.array([(0, 0), (10, 1), (9, 8), (-1, 7.0)])
        q = np.array([(100, 50), (400, 80), (350, 300), (120, 280.0)])
        np.testing.assert_allclose(apply_homography(homography(p, q), p), q, atol=1e-9)
        np.testing.assert_allclose(
            apply_homography(np.linalg.inv(homography(p, q)), q), p, atol=1e-9
        )

    def test_corners_on_one_line_are_refused(self) -> None:
        with self.assertRaises(ValueError):
            homography(
                np.array([(0, 0), (1, 1), (2, 2), (3, 3.0)]),
                np.array([(0, 0), (1, 0), (1, 1), (0, 1.0)]),
            )

    def test_the_lens_curve_goes_there_and_back(self) -> None:
        p = np.random.default_rng(0).uniform(0, 1000, (50, 2))
        np.testing.assert_allclose(unbent(bent(p, 0.05, 1000, 800), 0.05, 1000, 800), p, atol=1e-6)


class Photos(unittest.TestCase):
    def test_corners_are_found_and_lengths_come_out_true(self) -> None:
        for seed in (1, 4, 7):
            photo = Photo(seed)
            found = find_corners(photo.pixels)
            assert found is not None
            truth = photo.seen(photo.card)
            for corner in truth:
                self.assertLess(np.hypot(*(found.places - corner).T).min(), 4)
            exact = sharpened(photo.pixels, found.places, lens=True)
            self.assertLess(exact.residual, 0.3)
            self.assertAlmostEqual(exact.curve, photo.curve, delta=0.02)
            matrix, _, pixel = plan_view((1600, 1200), exact, CARD)
            seen = unbent(photo.seen(np.array([(60.0, 50), (150, 120)])), exact.curve, 1600, 1200)
            plan = apply_homography(np.linalg.inv(matrix), seen) * pixel
            self.assertAlmostEqual(
                float(np.hypot(*(plan[1] - plan[0]))), np.hypot(90, 70), delta=0.004 * 114
            )

    def test_a_side_goes_by_where_it_is_clear_not_by_the_soft_shadow_beside_it(self) -> None:
        rng = np.random.default_rng(3)
        photo = np.full((600, 800), 110.0)
        photo[452:460, 190:610] -= 7  # its shadow
        photo = cv2.GaussianBlur(photo, (0, 0), 3)
        photo[150:450, 200:600] = 170
        photo[400:450, 270:530] = 110  # there it is as bright as what it lies on
        seen = cv2.GaussianBlur(photo, (0, 0), 1) + rng.normal(0, 2, photo.shape)
        truth = np.array([(200.0, 150), (600, 150), (600, 450), (200, 450)])
        nearly = truth + np.array([(1.0, 2), (-2, 1), (1, 4), (2, 3)])
        found = sharpened(np.clip(seen, 0, 255).astype(np.uint8), nearly)
        self.assertLess(np.abs(found.places - truth).max(), 0.4)

    def test_sides_bowed_by_a_lens_meet_in_their_corners(self) -> None:
        straight = np.array([(150.0, 120), (1450, 140), (1430, 1080), (170, 1060)])
        for curve in (-0.02, 0.02):
            photo = np.full((1200, 1600), 90, np.uint8)
            sides = [
                np.linspace(a, b, 60, endpoint=False)
                for a, b in zip(straight, np.roll(straight, -1, axis=0), strict=True)
            ]
            rim = bent(np.concatenate(sides), curve, 1600, 1200) - 0.5
            cv2.fillPoly(photo, [np.round(16 * rim).astype(np.int32)], 200, cv2.LINE_AA, 4)
            found = find_corners(cv2.GaussianBlur(photo, (0, 0), 1), (260.0, 187.0))
            assert found is not None
            truth = bent(straight, curve, 1600, 1200)
            self.assertLess(np.abs(found.places - truth).max(), 1.0)

    def test_pictures_too_small_for_a_card_have_none_and_break_nothing(self) -> None:
        rng = np.random.default_rng(0)
        for shape in ((1, 1), (3, 3), (10, 200), (200, 6), (40, 40)):
            for real in (None, (85.6, 53.98), (1000.0, 1.0)):
                picture = rng.integers(0, 255, shape).astype(np.uint8)
                self.assertLessEqual(len(find_rectangles(picture, real)), 6)
                self.assertEqual(find_rectangles(np.zeros(shape, np.uint8), real), [])

    def test_bare_noise_has_no_corners(self) -> None:
        noise = np.random.default_rng(0).integers(100, 140, (300, 400)).astype(np.uint8)
        self.assertIsNone(find_corners(noise))

    def test_the_squared_picture_shows_the_card_upright_and_to_scale(self) -> None:
        photo = Photo(2)
        corners = find_corners(photo.pixels)
        assert corners is not None
        job, picture_id = add_picture(
            Job(), "p", b"", (1600, 1200), Affine(0.2, 0, 0, 0, -0.2, 240)
        )
        job = square_photo(job, picture_id, corners, CARD)
        picture = job.pictures[0]
        plan = prepared(photo.pixels, picture.square)
        self.assertEqual((plan.shape[1], plan.shape[0]), (picture.width, picture.height))
        (x0, y0), (x1, _) = picture.known_lengths[0].first, picture.known_lengths[0].second
        self.assertAlmostEqual(
            picture.known_lengths[0].first[1], picture.known_lengths[0].second[1], delta=0.01
        )
        card = plan[int(y0) + 10 : int(y0) + 60, int(min(x0, x1)) + 10 : int(max(x0, x1)) - 10]
        self.assertGreater(card.mean(), 150)
        self.assertAlmostEqual(measured_again(picture)[0].length, 85.6, delta=1e-6)

    def test_impossible_rectangles_are_refused(self) -> None:
        corners = Corners(np.array([(0, 0), (100, 0), (100, 50), (0, 50.0)]))
        with self.assertRaisesRegex(ValueError, "over 0"):
            plan_view((200, 100), corners, (0, 5))

    def test_what_lies_towards_the_horizon_is_left_out_of_the_plan(self) -> None:
        steep = Corners(np.array([(90, 10), (110, 10), (199, 99), (1, 99.0)]))
        matrix, plan, pixel = plan_view((200, 100), steep, (50, 50))
        corners = apply_homography(np.linalg.inv(matrix), steep.places)
        self.assertTrue((corners > -1).all() and (corners < np.array(plan) + 1).all())
        self.assertLess(plan[0] * pixel * plan[1] * pixel, 50 * 50 * 60)
        _, part, _ = plan_view((200, 100), steep, (50, 50), (60, 30, 140, 90))
        self.assertLess(part[0] * part[1], plan[0] * plan[1])


class Cards(unittest.TestCase):
    def test_of_three_sides_the_fourth_lies_where_the_camera_would_see_it(self) -> None:
        for seed in range(6):
            with self.subTest(seed):
                rng = np.random.default_rng(seed)
                away = rng.uniform(-0.5, 0.5, 2)
                across = np.array([1.0, 0.0, away[0]]) / np.hypot(1, away[0])
                down = np.cross(np.cross(across, [0.0, 1.0, away[1]]), across)
                down /= np.linalg.norm(down)
                corners = np.array(
                    [
                        (0, 0, 3) + 0.8 * u * across + 0.5 * v * down
                        for u, v in ((-1, -1), (1, -1), (1, 1), (-1, 1))
                    ]
                )
                seen = 1.1 * 800 * corners[:, :2] / corners[:, 2:] + (400, 300)
                grey = np.full((600, 800), 90, np.uint8)
                cv2.fillPoly(grey, [np.round(seen * 16).astype(np.int32)], 200, cv2.LINE_AA, 4)
                ends = np.roll(seen, -1, axis=0) - seen
                lines = np.column_stack([seen, np.arctan2(ends[:, 1], ends[:, 0])])[:3]
                found = outlines_of_three_sides(grey, lines, (160.0, 100.0))
                off = min(
                    max(np.hypot(*(quad - corner).T).min() for corner in seen) for quad in found
                )
                self.assertLess(off, 0.01)

    def test_with_stripes_shadows_and_round_corners_on_grainy_grounds_come_first(self) -> None:
        for print_ in ("plain", "stripe", "dark"):
            ranks = [
                rank(*card_photo(print_, ground, 70 + k, other=bool(k % 2)))
                for k, ground in enumerate(GROUNDS)
            ]
            with self.subTest(print_, ranks=ranks):
                self.assertGreaterEqual(sum(r == 0 for r in ranks), 3)
                self.assertTrue(all(r >= 0 for r in ranks))

    def test_with_a_picture_all_over_are_found_where_the_grain_ends(self) -> None:
        ranks = [
            rank(*card_photo("picture", "wood", seed, other=False)) for seed in (5004, 5008, 5012)
        ]
        self.assertEqual(ranks, [0, 0, 0])

    def test_with_a_frame_printed_near_their_edge_are_measured_at_their_edge(self) -> None:
        for seed in (2, 4, 10):
            grey, truth, real = drawn_photo("form", DRAWN_GROUNDS[seed % 5], seed)
            self.assertEqual(rank(grey, truth, real), 0)
            exact = sharpened(grey, truth)
            self.assertLess(np.hypot(*(exact.places - truth).T).max(), 1.5)
