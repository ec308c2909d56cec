"""The parts of fitting, each on samples whose truth is known."""

import math
import unittest

import numpy as np

from draxet.geometry.contour import Contour
from draxet.geometry.fitting.arcs import fit_bulges, fit_circles
from draxet.geometry.fitting.chain import fit_loops, sample_noise
from draxet.geometry.fitting.cubics import fit_cubics, fit_free_cubics
from draxet.geometry.fitting.fillets import fit_fillets
from draxet.geometry.fitting.fit_settings import FitSettings
from draxet.geometry.fitting.intervals import Chords, Intervals
from draxet.geometry.fitting.loop_corners import confirmed_corners, sharp_turns, tip_room
from draxet.geometry.fitting.loops import Loops, resampled
from draxet.geometry.fitting.straight_runs import Moments, straight_runs
from draxet.geometry.shapes import rounded_polygon
from tests.shapes import GeometryTest, apart


def loops_of(*contours: Contour) -> Loops:
    chains = [contour.flattened(0.002) for contour in contours]
    counts = np.array([len(chain) for chain in chains])
    return resampled(np.vstack(chains), np.cumsum(counts) - counts, counts)


def interval(points: np.ndarray) -> Intervals:
    return Intervals.of(points, np.array([0]), np.array([len(points) - 1]))


class Resampling(unittest.TestCase):
    def test_samples_lie_evenly_on_each_chain_and_chains_do_not_mix(self) -> None:
        loops = loops_of(Contour.circle(0, 0, 20), Contour.circle(1000, 500, 5))
        for first, count, (x, y, r) in zip(
            loops.firsts, loops.counts, ((0, 0, 20), (1000, 500, 5)), strict=True
        ):
            part = loops.points[first : first + count]
            np.testing.assert_allclose(np.hypot(*(part - (x, y)).T), r, atol=0.01)
            gaps = np.hypot(*(np.roll(part, -1, axis=0) - part).T)
            self.assertLess(np.ptp(gaps), 0.02)
            self.assertAlmostEqual(gaps.mean(), 1, delta=0.06)

    def test_neighbours_go_round_each_loop(self) -> None:
        loops = Loops(np.zeros((12, 2)), np.array([0, 5]), np.array([5, 7]))
        self.assertEqual(loops.beside(1).tolist(), [1, 2, 3, 4, 0, 6, 7, 8, 9, 10, 11, 5])
        self.assertEqual(loops.beside(-2).tolist(), [3, 4, 0, 1, 2, 10, 11, 5, 6, 7, 8, 9])
        self.assertEqual(loops.beside(6).tolist()[:5], [1, 2, 3, 4, 0])

    def test_small_loops_are_sampled_more_finely(self) -> None:
        chain = Contour.circle(0, 0, 10).flattened(0.002)
        for finest, count in ((None, 63), (0.5, 126), (0.1, 150)):
            loops = resampled(chain, np.array([0]), np.array([len(chain)]), 1.0, finest)
            self.assertEqual(loops.counts.tolist(), [count])

    def test_samples_beside_some_are_those_beside_all(self) -> None:
        loops = Loops(np.zeros((12, 2)), np.array([0, 5]), np.array([5, 7]))
        for offset in (-9, -2, 0, 1, 6):
            self.assertEqual(
                loops.on_from(np.arange(12), offset).tolist(), loops.beside(offset).tolist()
            )

    def test_unrolling_begins_and_ends_with_the_sample_asked_for(self) -> None:
        loops = Loops(np.arange(24.0).reshape(12, 2), np.array([0, 5]), np.array([5, 7]))
        unrolled = loops.unrolled(np.array([3, 5]))
        self.assertEqual(unrolled.source.tolist(), [3, 4, 0, 1, 2, 3, 5, 6, 7, 8, 9, 10, 11, 5])


class Corners(unittest.TestCase):
    def test_a_polygons_corners_are_found_and_a_circles_are_not(self) -> None:
        square = Contour.make([(0, 0), (80, 0), (80, 60), (0, 60)])
        loops = loops_of(square, Contour.circle(300, 0, 25))
        sharp = sharp_turns(loops, 4, 30)
        found = loops.points[sharp]
        self.assertEqual(len(found), 4)
        for corner in square.nodes:
            self.assertLess(np.hypot(*(found - corner).T).min(), 1.0)

    def test_a_rounding_larger_than_the_blur_is_no_corner(self) -> None:
        for radius, corner in ((0.0, True), (6.0, False)):
            loops = loops_of(
                rounded_polygon(
                    [(0, 0, radius), (80, 0, radius), (80, 60, radius), (0, 60, radius)]
                )
            )
            confirmed = confirmed_corners(loops, sharp_turns(loops, 4, 30), 0.5)
            self.assertEqual(bool(confirmed.any()), corner)

    def test_sharper_tips_may_lie_farther_in_and_more_blur_farther_still(self) -> None:
        turns = np.radians([60, 90, 130])
        self.assertTrue((np.diff(tip_room(turns, 0.5)) > 0).all())
        self.assertTrue((tip_room(turns, 1.5) > tip_room(turns, 0.5)).all())


class StraightRuns(unittest.TestCase):
    def runs(self, contour: Contour) -> list[tuple[float, float]]:
        """Length and direction (degrees, 0..180) of the straight runs found."""
        loops = loops_of(contour)
        unrolled = loops.unrolled(loops.firsts)
        runs = straight_runs(
            unrolled,
            Moments(unrolled),
            np.full(len(unrolled.points), unrolled.lasts[0]),
            0.12,
            14,
            0.12,
        )
        return [
            (int(b - a), math.degrees(math.atan2(d[1], d[0])) % 180)
            for a, b, d in zip(runs.first, runs.last, runs.direction, strict=True)
        ]

    def test_the_sides_of_a_rounded_plate_are_found_with_their_directions(self) -> None:
        plate = rounded_polygon([(0, 0, 20), (200, 0, 20), (200, 90, 20), (0, 90, 20)])
        long = [run for run in self.runs(plate) if run[0] > 30]
        self.assertGreaterEqual(len(long), 4)
        for length, degrees in long:
            self.assertLess(min(degrees % 90, 90 - degrees % 90), 0.6)
            self.assertLess(length, 175)

    def test_straightness_of_all_stretches_at_once_is_that_of_each(self) -> None:
        loops = loops_of(
            rounded_polygon([(0, 0, 8), (80, 0, 0), (80, 60, 20)]), Contour.circle(200, 50, 12)
        )
        unrolled = loops.unrolled(loops.firsts)
        moments = Moments(unrolled)
        starts = np.concatenate(
            [np.arange(a, b - 9) for a, b in zip(unrolled.firsts, unrolled.lasts, strict=True)]
        )
        np.testing.assert_allclose(
            moments.straightness_throughout(9)[starts],
            moments.straightness(starts, starts + 9),
            atol=1e-6,
        )

    def test_a_circle_has_none(self) -> None:
        for radius in (15, 40, 120):
            self.assertEqual(self.runs(Contour.circle(0, 0, radius)), [])


class Curves(unittest.TestCase):
    def test_circles_from_part_of_their_round(self) -> None:
        for sweep in (1.0, 3.0, 6.2):
            t = np.linspace(0.3, 0.3 + sweep, 80)
            points = np.column_stack([7 + 30 * np.cos(t), -4 + 30 * np.sin(t)])
            centre, radius, worst = fit_circles(interval(points))
            np.testing.assert_allclose([*centre[0], radius[0]], [7, -4, 30], atol=1e-6)
            self.assertLess(worst[0], 1e-6)

    def test_bulges_of_either_sense_and_beyond_half_a_turn(self) -> None:
        for sweep in (0.2, -1.0, 2.9, -4.0):
            t = np.linspace(0, sweep, 60)
            points = np.column_stack([10 * np.cos(t), 10 * np.sin(t)])
            bulge, worst = fit_bulges(Chords.of(interval(points), points[:1], points[-1:]))
            self.assertAlmostEqual(bulge[0], math.tan(sweep / 4), 6)
            self.assertLess(worst[0], 1e-6)
        flat = np.column_stack([np.linspace(0, 9, 20), np.zeros(20)])
        self.assertEqual(fit_bulges(Chords.of(interval(flat), flat[:1], flat[-1:]))[0][0], 0)

    def test_cubics_come_back_from_their_own_points(self) -> None:
        p = np.array([(0, 0), (10, 30), (50, 40), (70, 0.0)])
        t = np.linspace(0, 1, 400)[:, None]
        points = (
            (1 - t) ** 3 * p[0]
            + 3 * (1 - t) ** 2 * t * p[1]
            + 3 * (1 - t) * t * t * p[2]
            + t**3 * p[3]
        )
        along = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
        even = np.column_stack(
            [np.interp(np.linspace(0, along[-1], 120), along, points[:, k]) for k in (0, 1)]
        )
        leave, reach = (
            (p[1] - p[0]) / np.hypot(*(p[1] - p[0])),
            (p[3] - p[2]) / np.hypot(*(p[3] - p[2])),
        )
        chords = Chords.of(interval(even), p[:1], p[3:])
        handles, worst, _ = fit_cubics(chords, leave[None], reach[None], 300)
        self.assertLess(worst[0], 0.001)
        np.testing.assert_allclose(handles[0], p[1:3], atol=0.05)
        for fit in (
            lambda rounds: fit_cubics(chords, leave[None], reach[None], rounds),
            lambda rounds: fit_free_cubics(chords, rounds),
        ):
            off = [float(fit(rounds)[1][0]) for rounds in (2, 5, 20, 100)]
            self.assertLess(off[0], 1.0)
            self.assertLess(off[3], 0.01)
            for earlier, later in zip(off[:-1], off[1:], strict=True):
                self.assertLess(later, earlier + 1e-9)

    def test_fillets_between_lines_and_at_a_slots_end(self) -> None:
        t = np.linspace(-math.pi / 2, 0, 50)
        corner = np.column_stack([80 + 12 * np.cos(t), 12 + 12 * np.sin(t)])
        found = fit_fillets(
            interval(corner),
            np.array([[0.0, 0]]),
            np.array([[1.0, 0]]),
            np.array([[92.0, 70]]),
            np.array([[0.0, 1]]),
        )
        np.testing.assert_allclose([*found.starts[0], *found.ends[0]], [80, 0, 92, 12], atol=1e-3)
        t = np.linspace(-math.pi / 2, math.pi / 2, 60)
        end = np.column_stack([80 + 9 * np.cos(t), 9 + 9 * np.sin(t)])
        found = fit_fillets(
            interval(end),
            np.array([[0.0, 0]]),
            np.array([[1.0, 0]]),
            np.array([[0.0, 18]]),
            np.array([[-1.0, 0]]),
        )
        np.testing.assert_allclose([*found.starts[0], *found.ends[0]], [80, 0, 80, 18], atol=1e-2)
        self.assertAlmostEqual(found.bulges[0], 1.0, 6)


class WholeLoops(GeometryTest):
    def test_every_loop_gives_one_contour_in_its_place(self) -> None:
        shapes = [
            Contour.circle(40 * k, 0, 8 + k)
            if k % 3
            else Contour.make([(40 * k, 0), (40 * k + 18, 0), (40 * k + 9, 15)])
            for k in range(12)
        ]
        for wanted, found in zip(shapes, fit_loops(loops_of(*shapes), FitSettings()), strict=True):
            self.assertLess(apart(wanted, found)[1], 0.6)
            self.assertEqual(np.sign(wanted.area), np.sign(found.area))

    def test_very_many_loops_at_once_give_the_same(self) -> None:
        shapes = [
            rounded_polygon([(300 * k, 0, 30), (300 * k + 250, 0, 0), (300 * k + 250, 200, 60)])
            for k in range(240)
        ]
        loops = loops_of(*shapes)
        self.assertGreater(int(loops.counts.sum()), 100_000)
        together = fit_loops(loops, FitSettings())
        for k in (0, 71, 239):
            self.assert_same_line(together[k], shapes[k], 0.3)

    def test_noise_is_measured(self) -> None:
        rng = np.random.default_rng(0)
        clean = loops_of(Contour.circle(0, 0, 300))
        for noise in (0.05, 0.2):
            rough = Loops(
                clean.points + rng.normal(0, noise, clean.points.shape), clean.firsts, clean.counts
            )
            self.assertAlmostEqual(sample_noise(rough), noise, delta=0.25 * noise)
        self.assertLess(sample_noise(clean), 0.005)
        corners = loops_of(
            *(
                Contour.make(
                    [
                        (9 * math.cos(a), 9 * math.sin(a))
                        for a in (0.7 * k, 0.7 * k + 2.1, 0.7 * k + 4.2)
                    ]
                )
                for k in range(20)
            )
        )
        self.assertLess(sample_noise(corners), 0.02)  # a turn is no noise
