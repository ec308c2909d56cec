import itertools
import math

import cv2
import numpy as np
import shapely

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.fitting.chain import fit_loops
from draxet.geometry.fitting.fit_settings import FitSettings
from draxet.geometry.fitting.loops import resampled
from draxet.geometry.nesting import nesting_depths
from draxet.geometry.shapes import rounded_polygon
from draxet.geometry.spans import ARC, LINE
from draxet.progress import Cancelled
from draxet.trace.closeness import closeness_of, closeness_of_traced
from draxet.trace.edges import EdgeRequest, trace_edges
from draxet.trace.extract import edge_lines
from draxet.trace.ground import PRESETS, Ground, smooth_of, tolerance_of
from draxet.trace.uncross import crossing_contours
from tests.shapes import GeometryTest, apart, drawn

TILT = Affine.turned(17).about(150, 150)


def traced(picture: np.ndarray, **settings: object) -> list[Contour]:
    return list(trace_edges(EdgeRequest(picture, **settings)).contours)  # type: ignore[arg-type]


class KnownShapes(GeometryTest):
    def test_a_circle_comes_out_as_a_circle(self) -> None:
        for noise, blur in ((0, 0), (6, 1)):
            with self.subTest(noise=noise):
                (found,) = traced(
                    drawn([Contour.circle(151.3, 148.6, 90.4)], noise=noise, blur=blur), level=127.5
                )
                self.assertIsNotNone(found.circle_shape)
                np.testing.assert_allclose(found.circle_shape, (151.3, 148.6, 90.4), atol=0.1)

    def test_a_tilted_rounded_plate_comes_out_as_lines_and_tangent_arcs(self) -> None:
        plate = rounded_polygon(
            [(40, 80, 25), (260, 80, 12), (260, 220, 25), (40, 220, 40)]
        ).transformed(TILT)
        (found,) = traced(drawn([plate]))
        self.assertEqual(sorted(found.kinds.tolist()), [LINE] * 4 + [ARC] * 4)
        radii = sorted(found.spans.arc_shapes().radii[found.kinds == ARC].tolist())
        np.testing.assert_allclose(radii, [12, 25, 25, 40], atol=0.25)
        self.assertFalse(found.corners().any())
        self.assertLess(apart(found, plate)[0], 0.06)

    def test_wide_roundings_are_one_arc_each(self) -> None:
        for radius, degrees in itertools.product((60, 130, 160, 200), (0, 7, 23)):
            with self.subTest(radius=radius, degrees=degrees):
                plate = rounded_polygon(
                    [
                        (x, y, radius)
                        for x, y in ((-270, -220), (270, -220), (270, 220), (-270, 220))
                    ]
                )
                plate = plate.transformed(Affine.turned(degrees).then(Affine.moved(350, 350)))
                (found,) = traced(drawn([plate], 700))
                self.assertEqual(sorted(found.kinds.tolist()), [LINE] * 4 + [ARC] * 4)
                self.assertLess(apart(found, plate)[0], 0.02)

    def test_corners_are_sharp_and_where_the_sides_meet(self) -> None:
        star = Contour.make(
            [
                (150 + r * math.cos(a), 150 + r * math.sin(a))
                for k in range(10)
                for r, a in [((120, 55)[k % 2], 0.3 + k * math.pi / 5)]
            ]
        )
        (found,) = traced(drawn([star]))
        self.assertEqual(found.kinds.tolist(), [LINE] * 10)
        for corner in star.nodes:
            self.assertLess(np.hypot(*(found.nodes - corner).T).min(), 0.2)

    def test_a_scan_with_noise_and_blur_stays_near_with_few_nodes(self) -> None:
        t = np.linspace(0, 2 * math.pi, 400, endpoint=False)
        leaf = Contour.make(
            np.column_stack(
                [150 + 110 * np.cos(t), 150 + 60 * np.sin(t) * (1 + 0.25 * np.cos(5 * t))]
            )
        )
        (found,) = traced(drawn([leaf], noise=6, blur=1))
        self.assertLess(apart(found, leaf)[0], 0.15)
        self.assertLess(len(found.nodes), 45)

    def test_narrow_bars_end_bluntly_at_any_angle(self) -> None:
        as_drawn = []
        for noise, blur in ((0, 0.0), (5, 0.8)):
            for width, degrees in itertools.product((3, 4, 5, 6), (0, 18, 36, 72)):
                with self.subTest(noise=noise, width=width, degrees=degrees):
                    bar = rounded_polygon(
                        [
                            (x, y, 0)
                            for x, y in (
                                (-30, -width / 2),
                                (30, -width / 2),
                                (30, width / 2),
                                (-30, width / 2),
                            )
                        ]
                    )
                    bar = bar.transformed(Affine.turned(degrees).then(Affine.moved(50, 50)))
                    (found,) = traced(drawn([bar], 100, noise=noise, blur=blur))
                    self.assertLess(apart(found, bar)[1], 0.95)
                    self.assertLessEqual(len(found.nodes), 6)
                    as_drawn.append(found.kinds.tolist() == [LINE] * 4)
        self.assertGreater(sum(as_drawn), 5)  # the ends of the narrowest are as round as the blur

    def test_shapes_of_a_few_pixels_keep_their_lobes(self) -> None:
        t = np.linspace(0, 2 * math.pi, 200, endpoint=False)
        radii = [11 * (1 + 0.25 * np.cos(5 * t + k)) for k in range(9)]
        blossoms = [
            Contour.make(
                np.column_stack(
                    [60 + 80 * (k // 3) + r * np.cos(t), 60.3 + 80 * (k % 3) + r * np.sin(t)]
                )
            )
            for k, r in enumerate(radii)
        ]
        for noise, blur, off in ((0, 0.0, 0.10), (5, 0.8, 0.16)):
            found = sorted(
                traced(drawn(blossoms, noise=noise, blur=blur)),
                key=lambda c: tuple(np.round((c.nodes.mean(axis=0) - 60) / 80)),
            )
            self.assertLess(
                np.mean([apart(a, b)[0] for a, b in zip(found, blossoms, strict=True)]), off
            )
            self.assertLess(sum(len(c.nodes) for c in found), 9 * 13)

    def test_tracing_commutes_with_a_quarter_turn_and_a_flip(self) -> None:
        plate = rounded_polygon([(60, 90, 20), (240, 70, 0), (220, 230, 30)])
        picture = drawn([plate])
        (straight,) = traced(picture)
        for turned, back in (
            (np.rot90(picture), Affine(0, -1, 300, 1, 0, 0)),
            (picture[:, ::-1], Affine(-1, 0, 300, 0, 1, 0)),
        ):
            (found,) = traced(np.ascontiguousarray(turned))
            self.assert_same_line(found.transformed(back), straight, 0.35)


class Settings(GeometryTest):
    def test_holes_run_the_other_way_and_nothing_is_open(self) -> None:
        ring = drawn([Contour.circle(150, 150, 100), Contour.circle(150, 150, 60)])
        found = traced(ring)
        self.assertTrue(all(c.closed for c in found))
        self.assertEqual(
            sorted(c.area > 0 for c in (c.transformed(Affine.scaled(1, -1)) for c in found)),
            [False, True],
        )

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
        flower = Contour.make(
            np.column_stack(
                [
                    150 + (90 + 25 * np.cos(9 * t)) * np.cos(t),
                    150 + (90 + 25 * np.cos(9 * t)) * np.sin(t),
                ]
            )
        )
        picture = drawn([flower])
        counts = [len(traced(picture, tolerance=tolerance)[0].nodes) for tolerance in (0.2, 2.5)]
        self.assertGreater(counts[0], counts[1])

    def test_a_tip_that_blur_has_rounded_is_near_and_one_that_sticks_out_is_not(self) -> None:
        star = Contour.make(
            [
                (150 + r * math.cos(a), 150 + r * math.sin(a))
                for k in range(10)
                for r, a in [((120, 55)[k % 2], 0.3 + k * math.pi / 5)]
            ]
        )
        answer = trace_edges(EdgeRequest(drawn([star], blur=1.0)))
        self.assertLess(closeness_of([star], answer.values, answer.level).greatest, 0.3)
        out = star.nodes.copy()
        out[2] += 3 * (out[2] - 150) / np.hypot(*(out[2] - 150))
        close = closeness_of([Contour.make(out)], answer.values, answer.level)
        x, y, off, _ = close.worst(1, 5.0)[0]
        self.assertEqual(off, close.greatest)
        self.assertGreater(off, 1.5)
        self.assertLess(math.hypot(x - out[2, 0], y - out[2, 1]), 3)

    def test_drawn_lines_give_their_middle_and_open_strokes_are_left_out(self) -> None:
        middle = rounded_polygon([(60, 60, 20), (240, 60, 0), (240, 200, 30), (60, 200, 0)])
        edges = [
            rounded_polygon(
                [
                    (60 + s, 60 + s, 20 - s),
                    (240 - s, 60 + s, 0),
                    (240 - s, 200 - s, 30 - s),
                    (60 + s, 200 - s, 0),
                ]
            )
            for s in (-2, 2)
        ]
        stroke = Contour.make([(30, 250), (270, 250), (270, 253), (30, 253)])
        answer = trace_edges(EdgeRequest(drawn([*edges, stroke]), middles=True))
        self.assertEqual((len(answer.contours), answer.left_out), (1, 1))
        self.assert_same_line(answer.contours[0], middle, 0.4)

    def test_a_drawn_line_is_measured_by_its_middle_and_a_solid_shape_beside_it_by_its_edge(
        self,
    ) -> None:
        solid = Contour.make([(120, 120), (190, 135), (140, 195)])
        answer = trace_edges(
            EdgeRequest(
                drawn([Contour.circle(150, 150, 100), Contour.circle(150, 150, 96), solid]),
                middles=True,
            )
        )
        self.assertEqual(answer.traced, ("edges", "middles"))
        self.assertLess(
            closeness_of_traced(
                answer.contours, answer.traced, answer.values, answer.level, answer.values
            ).greatest,
            0.4,
        )
        for wrong in (("edges", "edges"), ("middles", "middles")):
            self.assertGreater(
                closeness_of_traced(
                    answer.contours, wrong, answer.values, answer.level, answer.values
                ).greatest,
                1.5,
            )

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


class Ready(GeometryTest):
    def test_a_local_level_finds_in_uneven_light_what_one_level_cannot(self) -> None:
        shape = Contour.circle(150, 150, 110)
        shade = np.linspace(0.4, 1.0, 300)[None]
        picture = np.clip(
            drawn([shape, Contour.circle(150, 150, 104)]) * 0.6 * shade + 20 + 60 * shade, 0, 255
        ).astype(np.uint8)
        self.assertGreater(sum(apart(c, shape)[0] > 4 for c in traced(picture, min_area=400)), 0)
        found = traced(picture, min_area=400, ground=Ground(local=True))
        self.assertEqual(len(found), 2)
        self.assertLess(apart(max(found, key=lambda c: abs(c.area)), shape)[0], 0.5)

    def test_only_the_chosen_area_is_traced(self) -> None:
        picture = drawn([Contour.circle(80, 80, 40), Contour.circle(220, 220, 40)])
        (found,) = traced(picture, ground=Ground(area=((0, 0), (150, 0), (150, 150), (0, 150))))
        self.assertLess(found.box[2], 150)

    def test_smoothness_takes_noise_out_and_detail_trades_nodes_for_closeness(self) -> None:
        t = np.linspace(0, 2 * math.pi, 400, endpoint=False)
        leaf = Contour.make(
            np.column_stack(
                [150 + 110 * np.cos(t), 150 + 60 * np.sin(t) * (1 + 0.25 * np.cos(5 * t))]
            )
        )
        picture = drawn([leaf], noise=40)
        rough, (smooth,) = (
            traced(picture, min_area=0, ground=Ground(smooth=smooth_of(s))) for s in (0, 40)
        )
        self.assertGreater(len(rough), 10)  # the leaf and its noise
        self.assertLess(apart(smooth, leaf)[0], 0.1)
        answers = [
            trace_edges(EdgeRequest(drawn([leaf]), tolerance=tolerance_of(d)))
            for d in (10, 50, 100)
        ]
        nodes = [answer.nodes for answer in answers]
        far = [closeness_of(a.contours, a.values, a.level).greatest for a in answers]
        self.assertTrue(nodes[0] < nodes[1] < nodes[2], nodes)
        self.assertTrue(far[0] > far[1] > far[2], far)

    def test_presets_are_different_settings(self) -> None:
        self.assertEqual(set(PRESETS), {"ink", "pencil", "crayon", "shape", "print"})
        settings = {(p.detail, p.smoothness, p.local, p.speck) for p in PRESETS.values()}
        self.assertEqual(len(settings), len(PRESETS))

    def test_twice_the_size_gives_the_same_contours_twice_as_large(self) -> None:
        plate = rounded_polygon([(60, 90, 20), (240, 70, 0), (220, 230, 30)])
        (small,) = traced(drawn([plate]))
        (large,) = traced(drawn([plate.transformed(Affine.scaled(2))], 600))
        self.assert_same_line(large.transformed(Affine.scaled(0.5)), small, 0.35)

    def test_odd_pictures_end_well(self) -> None:
        rng = np.random.default_rng(1)
        line = np.full((60, 60), 255, np.uint8)
        line[30, 5:55] = 0
        for picture in (
            np.full((1, 1), 9, np.uint8),
            line,
            np.where(rng.random((70, 90)) > 0.5, 255, 0).astype(np.uint8),
            line[:, :1],
        ):
            contours = traced(picture, min_area=0)
            self.assertTrue(all(c.closed and np.isfinite(c.nodes).all() for c in contours))


class RandomPictures(GeometryTest):
    def test_edge_lines_enclose_the_ink_and_always_close(self) -> None:
        rng = np.random.default_rng(7)
        for _ in range(20):
            picture = (rng.random((23, 31)) * 255).astype(np.uint8)
            lines = edge_lines(picture, 127.5)
            steps = [
                np.hypot(*(np.roll(p, -1, axis=0) - p).T).max()
                for a, n in zip(lines.firsts, lines.counts, strict=True)
                for p in [lines.points[a : a + n]]
            ]
            self.assertLess(max(steps), 1.5)
            self.assertAlmostEqual(
                lines.areas.sum(), (picture < 127.5).sum(), delta=0.35 * picture.size
            )

    def test_noise_is_fitted_without_an_open_contour_or_a_broken_number(self) -> None:
        rng = np.random.default_rng(3)
        for size in (5, 17, 64):
            for contour in traced((rng.random((size, size)) * 255).astype(np.uint8), min_area=0):
                self.assertTrue(contour.closed and np.isfinite(contour.nodes).all())

    def test_no_contour_crosses_itself_or_another_and_holes_stay_in_their_ink(self) -> None:
        for seed in range(9):
            rng = np.random.default_rng(seed)
            field = cv2.GaussianBlur(
                rng.normal(0, 1, (160, 200)).astype(np.float32), (0, 0), (2.0, 3.5, 6.0)[seed % 3]
            )
            picture = np.clip(128 + field / field.std() * 70, 0, 255).astype(np.uint8)
            contours = traced(picture, level=128.0, min_area=6)
            rings = [shapely.LinearRing(c.flattened(0.02)) for c in contours]
            self.assertTrue(all(ring.is_simple for ring in rings))
            first, second = shapely.STRtree(rings).query(rings, predicate="crosses")
            self.assertEqual(int((first < second).sum()), 0)
            inked = np.array(
                [c.area < 0 for c in contours]
            )  # y runs down: ink's outlines on one sense, holes on the other
            outer = inked[int(np.argmax([abs(c.area) for c in contours]))]
            depths = nesting_depths(contours)
            self.assertGreater(((depths % 2 == 0) == (inked == outer)).mean(), 0.95)

    def test_lettering_is_fitted_without_folds_at_once(self) -> None:
        page = np.full((420, 900), 235, np.uint8)
        for y in range(60, 420, 70):
            cv2.putText(
                page,
                "Stop sign 0123456789 tram",
                (20, y),
                cv2.FONT_HERSHEY_COMPLEX,
                1.8,
                30,
                4,
                cv2.LINE_AA,
            )
        noise = np.random.default_rng(0).normal(0, 5, page.shape)
        lines = edge_lines(
            np.clip(cv2.GaussianBlur(page, (0, 0), 0.8) + noise, 0, 255).astype(np.uint8),
            130.0,
            4.0,
        )
        contours = fit_loops(
            resampled(lines.points, lines.firsts, lines.counts),
            FitSettings(tolerance=0.25, blur=0.9),
        )
        self.assertLess(len(crossing_contours(contours)), 0.01 * len(lines))
        ahead = np.roll(lines.points, -1, axis=0)
        ahead[lines.firsts + lines.counts - 1] = lines.points[lines.firsts]
        ways = np.add.reduceat(np.hypot(*(ahead - lines.points).T), lines.firsts)
        longer = [
            c.length / way for c, way in zip(contours, ways, strict=True) if way > 60
        ]  # small ones grow by their tips
        self.assertLess(max(longer), 1.1)

    def test_crossing_contours_are_told_from_touching_ones(self) -> None:
        bow = Contour.make([(0, 0), (10, 10), (10, 0), (0, 10)])
        self.assertEqual(crossing_contours([Contour.circle(30, 30, 4), bow]).tolist(), [1])
        self.assertEqual(
            crossing_contours([Contour.circle(0, 0, 4), Contour.circle(5, 0, 4)]).tolist(), [0, 1]
        )
        meeting = [
            Contour.make([(0, 0), (5, 5)], closed=False),
            Contour.make([(5, 5), (9, 0)], closed=False),
        ]
        self.assertEqual(crossing_contours(meeting).tolist(), [])
