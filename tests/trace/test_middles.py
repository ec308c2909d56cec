import math
import unittest

import cv2
import numpy as np

from bench.strokes import STROKES, stroke_distance, stroked
from draxet.geometry.affine import Affine
from draxet.geometry.spans import LINE
from draxet.trace.closeness import middle_closeness_of
from draxet.trace.middles import MiddleAnswer, MiddleRequest, trace_middles

NONE = np.zeros((1, 2))


def middles(picture: np.ndarray, **settings: object) -> MiddleAnswer:
    return trace_middles(MiddleRequest(picture, **settings))  # type: ignore[arg-type]


def segments(
    *lines: tuple[tuple[float, float], tuple[float, float]],
) -> list[tuple[np.ndarray, bool]]:
    return [(np.array(line, dtype=float), False) for line in lines]


class Solids(unittest.TestCase):
    """One tracing gives the middles of strokes and the outlines of what is none."""

    def test_where_all_is_strokes_nothing_is_another(self) -> None:
        acute = segments(((50, 220), (450, 280)), ((50, 280), (450, 220)))
        for lines in (*STROKES.values(), acute):
            picture = stroked(lines)
            plain, both = middles(picture), middles(picture, solids=True)
            self.assertEqual(plain.contours, both.contours)
            self.assertEqual(set(both.traced), {"middles"})

    def test_dots_and_filled_shapes_are_outlines_and_strokes_lead_up_to_them(self) -> None:
        for scale, noise in ((1.0, 0.0), (1.0, 6.0), (2.0, 3.0)):
            with self.subTest(scale=scale, noise=noise):
                self.judge(scale, noise)

    def judge(self, scale: float, noise: float) -> None:
        """A line of 4 pixels, a dot of 7, a filled box at which a line ends, and a broad ring."""
        side, many = int(500 * scale), 4
        image = np.zeros((side * many, side * many), np.uint8)

        def at(*places: float) -> list[tuple[int, int]]:
            return [
                (round(x * scale * many), round(y * scale * many))
                for x, y in zip(places[::2], places[1::2], strict=True)
            ]

        thick = round(4 * scale * many)
        cv2.line(image, *at(50, 60, 450, 60), 255, thick)
        cv2.line(image, *at(40, 300, 250, 300), 255, thick)
        cv2.rectangle(image, *at(250, 250, 350, 350), 255, -1)
        cv2.circle(image, at(420, 150)[0], round(7 * scale * many), 255, -1)
        cv2.circle(image, at(120, 180)[0], round(40 * scale * many), 255, round(9 * scale * many))
        share = image.reshape(side, many, side, many).mean(axis=(1, 3)) / 255
        picture = 245 - 215 * cv2.GaussianBlur(share, (0, 0), 0.7)
        picture = picture + np.random.default_rng(7).normal(0, noise, picture.shape)
        answer = middles(np.clip(picture, 0, 255).astype(np.uint8), solids=True, min_area=20.0)
        strokes = [
            c for c, way in zip(answer.contours, answer.traced, strict=True) if way == "middles"
        ]
        solids = [
            c for c, way in zip(answer.contours, answer.traced, strict=True) if way == "edges"
        ]
        self.assertEqual(
            sorted((c.closed, round(c.length / scale, -1)) for c in strokes),
            [(False, 210.0), (False, 400.0), (True, 250.0)],
        )
        self.assertEqual(len(solids), 2)
        box, dot = sorted(solids, key=lambda c: -abs(c.area))
        self.assertAlmostEqual(abs(box.area) / scale**2, 100 * 100, delta=90)
        self.assertAlmostEqual(abs(dot.area) / scale**2, np.pi * 7**2, delta=6)
        self.assertTrue(all(c.closed for c in solids))
        plain = middles(np.clip(picture, 0, 255).astype(np.uint8))
        self.assertFalse(any(way == "edges" for way in plain.traced))


class Strokes(unittest.TestCase):
    def test_each_stroke_gives_one_contour_nearer_than_an_eighth_of_a_pixel(self) -> None:
        for scan in (False, True):
            for name in (
                "lines",
                "cross of three",
                "tee",
                "star",
                "circle and line",
                "spiral",
                "zigzag",
                "grid",
            ):
                with self.subTest(name, scan=scan):
                    answer = middles(stroked(STROKES[name], scan=scan))
                    self.assertEqual(len(answer.contours), len(STROKES[name]))
                    self.assertLess(stroke_distance(answer.contours, STROKES[name], NONE)[0], 0.12)
                    self.assertEqual(
                        [c.closed for c in answer.contours].count(True),
                        sum(closed for _, closed in STROKES[name]),
                    )

    def test_crossings_are_passed_straight_through(self) -> None:
        answer = middles(stroked(STROKES["grid"]))
        self.assertTrue(all(c.kinds.tolist() == [LINE] for c in answer.contours))

    def test_strokes_that_cross_at_a_small_angle_are_two_straight_ones(self) -> None:
        for degrees in (8, 14, 20, 35):
            with self.subTest(degrees):
                x, y = (200 * f(math.radians(degrees / 2)) for f in (math.cos, math.sin))
                lines = segments(
                    ((250 - x, 250 - y), (250 + x, 250 + y)),
                    ((250 - x, 250 + y), (250 + x, 250 - y)),
                )
                answer = middles(stroked(lines))
                self.assertEqual([c.kinds.tolist() for c in answer.contours], [[LINE], [LINE]])
                self.assertLess(stroke_distance(answer.contours, lines, NONE)[0], 0.05)

    def test_curved_strokes_go_on_through_crossings_by_their_bend(self) -> None:
        t = np.linspace(0, 1, 700)
        apart = [
            (np.column_stack([40 + 420 * t, 250 + side * (2.5 + 60 * (2 * t - 1) ** 2)]), False)
            for side in (-1, 1)
        ]
        for name, lines in (("waves", STROKES["waves"]), ("touching without crossing", apart)):
            with self.subTest(name):
                answer = middles(stroked(lines))
                self.assertEqual(len(answer.contours), 2)
                self.assertLess(stroke_distance(answer.contours, lines, NONE)[0], 0.15)
        self.assertTrue(
            all(np.ptp(np.sign(c.flattened(0.1)[:, 1] - 250)) == 0 for c in answer.contours)
        )

    def test_a_round_stroke_closes_where_another_ends_on_it(self) -> None:
        ring = STROKES["circle and line"][0]
        lines = [ring, *segments(((250, 250), (395, 220)))]
        answer = middles(stroked(lines))
        self.assertEqual(sorted(c.closed for c in answer.contours), [False, True])
        self.assertLess(stroke_distance(answer.contours, lines, NONE)[0], 0.05)

    def test_a_stem_ends_on_the_stroke_it_meets(self) -> None:
        answer = middles(stroked(STROKES["tee"]))
        bar, stem = sorted(answer.contours, key=lambda c: -(c.box[2] - c.box[0]))
        (x0, y0), (x1, y1) = bar.nodes[0], bar.nodes[-1]
        away = [
            abs((x1 - x0) * (y - y0) - (y1 - y0) * (x - x0)) / math.hypot(x1 - x0, y1 - y0)
            for x, y in (stem.nodes[0], stem.nodes[-1])
        ]
        self.assertLess(min(away), 0.4)

    def test_the_width_of_each_stroke_is_known(self) -> None:
        for width in (3.0, 5.0, 11.0):
            self.assertAlmostEqual(
                middles(stroked(STROKES["lines"], width)).widths[0], width, delta=0.3
            )

    def test_corners_reach_their_tips_and_closed_strokes_close(self) -> None:
        (star,) = middles(stroked(STROKES["star"])).contours
        truth = STROKES["star"][0][0]
        self.assertTrue(star.closed)
        for corner in truth:
            self.assertLess(np.hypot(*(star.nodes - corner).T).min(), 0.15)

    def test_short_strokes_are_left_out_and_gaps_are_joined_within_the_limit(self) -> None:
        picture = stroked(
            segments(((50, 100), (200, 110)), ((208, 110.5), (400, 123)), ((300, 300), (312, 304)))
        )
        self.assertEqual(len(middles(picture).contours), 3)
        self.assertEqual(len(middles(picture, min_length=40).contours), 2)
        joined = middles(picture, min_length=40, join_gap=12).contours
        self.assertEqual(len(joined), 1)
        self.assertAlmostEqual(joined[0].length, math.dist((50, 100), (400, 123)), delta=1.5)
        self.assertEqual(len(middles(picture, min_length=40, join_gap=1).contours), 2)

    def test_a_quarter_turn_turns_the_contours(self) -> None:
        picture = stroked(STROKES["zigzag"])
        straight, turned = (
            middles(np.ascontiguousarray(p)).contours for p in (picture, np.rot90(picture))
        )
        back = Affine(0, -1, 500, 1, 0, 0)
        self.assertEqual(len(straight), len(turned))
        nodes = turned[0].transformed(back).nodes
        for k, node in enumerate(straight[0].nodes):
            at_end = k in (0, len(straight[0].nodes) - 1)
            self.assertLess(np.hypot(*(nodes - node).T).min(), 1.5 if at_end else 0.1)

    def test_how_near_it_is_is_measured_on_the_picture(self) -> None:
        answer = middles(stroked(STROKES["spiral"]))
        close = middle_closeness_of(answer.contours, answer.values, answer.level)
        self.assertLess(close.mean, 0.2)
        moved = middle_closeness_of(
            [c.transformed(Affine.moved(1.5, 0)) for c in answer.contours],
            answer.values,
            answer.level,
        )
        self.assertGreater(moved.mean, 0.7)

    def test_pictures_without_strokes_and_wrong_settings(self) -> None:
        for picture in (
            np.full((40, 40), 255, np.uint8),
            np.zeros((1, 1), np.uint8),
            np.full((9, 3), 4, np.uint8),
        ):
            self.assertTrue(all(np.isfinite(c.nodes).all() for c in middles(picture).contours))
        grey = np.zeros((4, 4), np.uint8)
        wrong = ({"tolerance": 0.0}, {"level": 256.0}, {"min_length": -1.0}, {"join_gap": -1.0})
        for picture, settings in (
            (np.zeros((4, 4, 3), np.uint8), {}),
            *((grey, each) for each in wrong),
        ):
            with self.subTest(settings), self.assertRaises(ValueError):
                middles(picture, **settings)


if __name__ == "__main__":
    unittest.main()
