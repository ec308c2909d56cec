import math

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.shapes import rounded_polygon
from draxet.geometry.spans import ARC, LINE
from draxet.progress import Cancelled
from draxet.trace.edges import EdgeRequest, trace_edges
from draxet.trace.extract import edge_lines
from tests.shapes import GeometryTest, apart, drawn

TILT = Affine.turned(17).about(150, 150)


def traced(picture: np.ndarray, **settings: object) -> list[Contour]:
    return list(trace_edges(EdgeRequest(picture, **settings)).contours)  # type: ignore[arg-type]


class KnownShapes(GeometryTest):
    def test_a_circle_comes_out_as_a_circle(self) -> None:
        for noise, blur in ((0, 0), (6, 1)):
            with self.subTest(noise=noise):
                (found,) = traced(drawn([Contour.circle(151.3, 148.6, 90.4)], noise=noise, blur=blur), level=127.5)
                self.assertIsNotNone(found.circle_shape)
                np.testing.assert_allclose(found.circle_shape, (151.3, 148.6, 90.4), atol=0.1)

    def test_a_tilted_rounded_plate_comes_out_as_lines_and_tangent_arcs(self) -> None:
        plate = rounded_polygon([(40, 80, 25), (260, 80, 12), (260, 220, 25), (40, 220, 40)]).transformed(TILT)
        (found,) = traced(drawn([plate]))
        self.assertEqual(sorted(found.kinds.tolist()), [LINE] * 4 + [ARC] * 4)
        radii = sorted(found.spans.arc_shapes().radii[found.kinds == ARC].tolist())
        np.testing.assert_allclose(radii, [12, 25, 25, 40], atol=0.25)
        self.assertFalse(found.corners().any())
        self.assertLess(apart(found, plate)[0], 0.06)

    def test_corners_are_sharp_and_where_the_sides_meet(self) -> None:
        star = Contour.make([(150 + r * math.cos(a), 150 + r * math.sin(a)) for k in range(10) for r, a in [((120, 55)[k % 2], 0.3 + k * math.pi / 5)]])
        (found,) = traced(drawn([star]))
        self.assertEqual(found.kinds.tolist(), [LINE] * 10)
        for corner in star.nodes:
            self.assertLess(np.hypot(*(found.nodes - corner).T).min(), 0.2)

    def test_a_scan_with_noise_and_blur_stays_near_with_few_nodes(self) -> None:
        t = np.linspace(0, 2 * math.pi, 400, endpoint=False)
        leaf = Contour.make(np.column_stack([150 + 110 * np.cos(t), 150 + 60 * np.sin(t) * (1 + 0.25 * np.cos(5 * t))]))
        (found,) = traced(drawn([leaf], noise=6, blur=1))
        self.assertLess(apart(found, leaf)[0], 0.15)
        self.assertLess(len(found.nodes), 45)

    def test_tracing_commutes_with_a_quarter_turn_and_a_flip(self) -> None:
        plate = rounded_polygon([(60, 90, 20), (240, 70, 0), (220, 230, 30)])
        picture = drawn([plate])
        (straight,) = traced(picture)
        for turned, back in ((np.rot90(picture), Affine(0, -1, 300, 1, 0, 0)), (picture[:, ::-1], Affine(-1, 0, 300, 0, 1, 0))):
            (found,) = traced(np.ascontiguousarray(turned))
            self.assert_same_line(found.transformed(back), straight, 0.35)


class Settings(GeometryTest):
    def test_holes_run_the_other_way_and_nothing_is_open(self) -> None:
        ring = drawn([Contour.circle(150, 150, 100), Contour.circle(150, 150, 60)])
        found = traced(ring)
        self.assertTrue(all(c.closed for c in found))
        self.assertEqual(sorted(c.area > 0 for c in (c.transformed(Affine.scaled(1, -1)) for c in found)), [False, True])

    def test_specks_below_the_smallest_are_dropped(self) -> None:
        picture = drawn([Contour.circle(100, 100, 40), Contour.circle(220, 220, 3)])
        self.assertEqual(len(traced(picture, min_area=4)), 2)
        self.assertEqual(len(traced(picture, min_area=60)), 1)

    def test_the_level_moves_the_edge(self) -> None:
        picture = drawn([Contour.circle(150, 150, 80)], blur=3)
        areas = [abs(traced(picture, level=level)[0].area) for level in (60, 128, 200)]
        self.assertLess(areas[0], areas[1])
        self.assertLess(areas[1], areas[2])

    def test_a_coarser_tolerance_takes_fewer_nodes(self) -> None:
        t = np.linspace(0, 2 * math.pi, 500, endpoint=False)
        flower = Contour.make(np.column_stack([150 + (90 + 25 * np.cos(9 * t)) * np.cos(t), 150 + (90 + 25 * np.cos(9 * t)) * np.sin(t)]))
        picture = drawn([flower])
        counts = [len(traced(picture, tolerance=tolerance)[0].nodes) for tolerance in (0.2, 2.5)]
        self.assertGreater(counts[0], counts[1])

    def test_drawn_lines_give_their_middle_and_open_strokes_are_left_out(self) -> None:
        middle = rounded_polygon([(60, 60, 20), (240, 60, 0), (240, 200, 30), (60, 200, 0)])
        edges = [rounded_polygon([(60 + s, 60 + s, 20 - s), (240 - s, 60 + s, 0), (240 - s, 200 - s, 30 - s), (60 + s, 200 - s, 0)]) for s in (-2, 2)]
        stroke = Contour.make([(30, 250), (270, 250), (270, 253), (30, 253)])
        answer = trace_edges(EdgeRequest(drawn([*edges, stroke]), middles=True))
        self.assertEqual((len(answer.contours), answer.left_out), (1, 1))
        self.assert_same_line(answer.contours[0], middle, 0.4)

    def test_pictures_without_edges_give_nothing(self) -> None:
        for picture in (np.full((50, 50), 255, np.uint8), np.zeros((2, 2), np.uint8) + 90):
            self.assertEqual(traced(picture), [])

    def test_wrong_settings_are_refused(self) -> None:
        picture = np.zeros((9, 9), np.uint8)
        for settings in ({"level": 300}, {"tolerance": 0}, {"min_area": -1}):
            with self.subTest(settings), self.assertRaises(ValueError):
                traced(picture, **settings)

    def test_cancelling_stops_it(self) -> None:
        def stop(share: float, words: str) -> None:
            raise Cancelled

        with self.assertRaises(Cancelled):
            trace_edges(EdgeRequest(np.zeros((9, 9), np.uint8)), stop)


class RandomPictures(GeometryTest):
    def test_edge_lines_enclose_the_ink_and_always_close(self) -> None:
        rng = np.random.default_rng(7)
        for _ in range(20):
            picture = (rng.random((23, 31)) * 255).astype(np.uint8)
            lines = edge_lines(picture, 127.5)
            steps = [np.hypot(*(np.roll(p, -1, axis=0) - p).T).max() for a, n in zip(lines.firsts, lines.counts, strict=True) for p in [lines.points[a : a + n]]]
            self.assertLess(max(steps), 1.5)
            self.assertAlmostEqual(lines.areas.sum(), (picture < 127.5).sum(), delta=0.35 * picture.size)

    def test_noise_is_fitted_without_an_open_contour_or_a_broken_number(self) -> None:
        rng = np.random.default_rng(3)
        for size in (5, 17, 64):
            for contour in traced((rng.random((size, size)) * 255).astype(np.uint8), min_area=0):
                self.assertTrue(contour.closed and np.isfinite(contour.nodes).all())
