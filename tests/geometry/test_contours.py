import gc
import math
import pickle
import weakref
from dataclasses import replace

import numpy as np
import shapely

from draxet.cached import kept_on_the_first
from draxet.geometry.affine import Affine
from draxet.geometry.biarcs import as_lines_and_arcs
from draxet.geometry.contour import (
    Contour,
    areas_of,
    boxes_of,
    joined_spans,
    know_extremes,
    lengths_of,
    transformed_all,
)
from draxet.geometry.nesting import area_of, nesting_depths
from draxet.geometry.shapes import rounded_polygon
from draxet.geometry.spans import ARC, CUBIC, LINE
from tests.shapes import GeometryTest, dense, mixed_contour


class ExactShapes(GeometryTest):
    def test_a_circle_knows_its_area_length_box_and_centre(self) -> None:
        circle = Contour.circle(10, 5, 4)
        self.assertAlmostEqual(circle.area, 16 * math.pi)
        self.assertAlmostEqual(circle.length, 8 * math.pi)
        np.testing.assert_allclose(circle.box, (6, 1, 14, 9))
        np.testing.assert_allclose(circle.circle_shape, (10, 5, 4))

    def test_area_length_and_box_agree_with_fine_steps(self) -> None:
        contour = mixed_contour()
        p = contour.flattened(1e-5)
        ahead = np.roll(p, -1, axis=0)
        self.assertAlmostEqual(
            contour.area, float((p[:, 0] * ahead[:, 1] - p[:, 1] * ahead[:, 0]).sum() / 2), 2
        )
        self.assertAlmostEqual(contour.length, float(np.hypot(*(ahead - p).T).sum()), 2)
        np.testing.assert_allclose(contour.box, (*p.min(axis=0), *p.max(axis=0)), atol=1e-3)

    def test_similarities_keep_arcs_and_scale_what_they_should(self) -> None:
        contour = mixed_contour()
        for affine in (
            Affine.turned(33),
            Affine.moved(4, -7),
            Affine.scaled(2.5),
            Affine.scaled(-1, 1),
        ):
            moved = contour.transformed(affine)
            np.testing.assert_array_equal(moved.kinds, contour.kinds)
            self.assertAlmostEqual(moved.area, contour.area * affine.determinant, 6)
            np.testing.assert_allclose(moved.flattened(0.01)[0], affine.apply(contour.nodes[:1])[0])

    def test_stretching_turns_arcs_into_cubics_that_lie_right(self) -> None:
        stretched = Contour.circle(0, 0, 10).transformed(Affine.scaled(1, 2))
        self.assertTrue((stretched.kinds == CUBIC).all())
        p = dense(stretched)
        np.testing.assert_allclose(p[:, 0] ** 2 / 100 + p[:, 1] ** 2 / 400, 1, atol=2e-3)

    def test_there_and_back_is_the_same(self) -> None:
        contour = mixed_contour()
        affine = Affine.turned(17).then(Affine.moved(3, 4)).then(Affine.scaled(3))
        back = contour.transformed(affine).transformed(affine.inverse())
        np.testing.assert_allclose(back.nodes, contour.nodes, atol=1e-12)
        self.assertEqual(contour.reversed().reversed(), contour)
        self.assertAlmostEqual(contour.reversed().area, -contour.area)

    def test_many_mapped_at_once_are_what_each_is_to_the_last_bit(self) -> None:
        some = [
            mixed_contour(),
            Contour.circle(40.1, 30.5, 7.2),
            Contour.make([(1, 1), (9, 2)], closed=False),
        ]
        for by in (
            Affine.turned(31).then(Affine.moved(0.1, -7)),
            Affine.scaled(-1, 1),
            Affine.scaled(3.3),
        ):
            for one, each in zip(transformed_all(some, by), some, strict=True):
                wanted = each.transformed(by)
                self.assertEqual(
                    (one.as_bytes, one.closed, one.box),
                    (wanted.as_bytes, wanted.closed, wanted.box),
                )
                self.assertFalse(one.nodes.flags.writeable or one.handles.flags.writeable)
        for each in some:
            self.assertEqual(each.circle_shape is not None, each is some[1])
        for by in (Affine.turned(31), Affine(-2, 0, 5, 0, -2, 1), Affine.moved(0.1, 7)):
            for one, each in zip(transformed_all(some, by), some, strict=True):
                wanted = each.transformed(by)
                np.testing.assert_allclose(one.box, wanted.box, rtol=1e-14)
                self.assertEqual(one.extremes, wanted.extremes)
                self.assertEqual(one.circle_shape is None, wanted.circle_shape is None)
                if wanted.circle_shape:
                    np.testing.assert_allclose(one.circle_shape, wanted.circle_shape, rtol=1e-12)
        self.assertEqual(transformed_all([], Affine()), [])
        with self.assertRaisesRegex(ValueError, "finite"):
            transformed_all(some, Affine(c=math.nan))

    def test_many_know_at_once_what_each_would_work_out(self) -> None:
        kinds = (
            mixed_contour(),
            mixed_contour().reversed(),
            Contour.circle(3, 4, 5),
            Contour.make([(0, 0), (-9, 2), (4, 5)], closed=False),
            Contour.make([(1e5, 0), (9, 2), (4, 5)], None, [0.5, -3.0, 0.0]),
        )
        many = [replace(each) for each in kinds]
        areas, lengths, boxes = areas_of(many), lengths_of(many), boxes_of(many)
        know_extremes(many)
        for k, alone in enumerate(kinds):
            spans = alone.spans
            self.assertAlmostEqual(areas[k], spans.swept_areas().sum() * alone.closed, 9)
            self.assertAlmostEqual(lengths[k], spans.lengths().sum(), 9)
            np.testing.assert_array_equal(boxes[k, :2], spans.boxes()[:, :2].min(axis=0))
            far = max(np.abs(alone.nodes).max(), np.abs(alone.handles).max())
            self.assertEqual(many[k].extremes, (far, np.abs(alone.bulges).max()))
            self.assertEqual(replace(alone).extremes, many[k].extremes)
        nothing = replace(kinds[0], handles=np.full_like(kinds[0].handles, np.nan))
        self.assertTrue(math.isnan(nothing.extremes[0]))

    def test_what_was_worked_out_of_one_goes_with_it_and_to_no_other_process(self) -> None:
        answers: list[weakref.ref[Contour]] = []

        @kept_on_the_first
        def moved(contour: Contour, x: float) -> Contour:
            made = contour.transformed(Affine.moved(x, 0))
            answers.append(weakref.ref(made))
            return made

        contour = mixed_contour()
        self.assertIs(moved(contour, 1.0), moved(contour, 1.0))
        self.assertIsNot(moved(contour, 1.0), moved(contour, 2.0))
        self.assertEqual(len(answers), 2)
        plain = len(pickle.dumps(mixed_contour()))
        self.assertTrue(contour.box and contour.area and contour.corners().any())
        self.assertEqual(len(pickle.dumps(contour)), plain)
        back = pickle.loads(pickle.dumps(contour))
        self.assertEqual(back.box, contour.box)
        del contour
        gc.collect()
        self.assertEqual([each() for each in answers], [None, None])

    def test_arrays_are_read_only_and_the_givers_stay_writable(self) -> None:
        mine = np.array([[0.0, 0], [1, 0], [1, 1]])
        contour = Contour.make(mine)
        with self.assertRaises(ValueError):
            contour.nodes[0, 0] = 5
        mine[0, 0] = 9
        self.assertEqual(contour.nodes[0, 0], 0)

    def test_what_cannot_be_a_contour_is_refused(self) -> None:
        for arguments in (([[0, 0]],), ([[0, 0], [1, 1]], [LINE]), ([[0, 0], [math.nan, 1]],)):
            with self.subTest(arguments), self.assertRaises(ValueError):
                Contour.make(*arguments, closed=len(arguments) > 1 or len(arguments[0]) > 1) if len(
                    arguments[0]
                ) > 1 else Contour.make(*arguments, closed=False)

    def test_corners_are_told_from_smooth_nodes(self) -> None:
        plate = rounded_polygon([(0, 0, 10), (100, 0, 0), (100, 50, 10), (0, 50, 0)])
        self.assertEqual(plate.corners().tolist(), [False, False, True, False, False, True])

    def test_many_contours_join_into_one_batch(self) -> None:
        contours = [Contour.circle(0, 0, 1), mixed_contour()]
        spans, owner = joined_spans(contours)
        np.testing.assert_allclose(
            np.bincount(owner, spans.lengths()), [c.length for c in contours]
        )


class DerivedShapes(GeometryTest):
    def test_lines_and_arcs_keep_to_cubics_within_the_tolerance(self) -> None:
        contour = mixed_contour()
        for tolerance in (0.1, 0.01):
            plain = as_lines_and_arcs(contour, tolerance)
            self.assertTrue(set(plain.kinds.tolist()) <= {LINE, ARC})
            self.assert_same_line(plain, contour, tolerance * 1.2 + 0.01)

    def test_arcs_for_any_cubics_keep_to_the_tolerance_also_where_they_meet(self) -> None:
        rng = np.random.default_rng(8)
        for number in range(60):
            nodes = rng.uniform(0, 60, (3, 2))
            away = rng.normal(0, 5 if number % 3 else 40, (3, 2))
            handles = np.stack([nodes + away, np.roll(nodes - away, -1, axis=0)], axis=1)
            contour = Contour.make(nodes, [CUBIC] * 3, None, handles)
            for tolerance in (0.1, 0.01):
                plain = as_lines_and_arcs(contour, tolerance)
                lines = [
                    shapely.LinearRing(each.flattened(tolerance / 100)) for each in (contour, plain)
                ]
                self.assertLessEqual(shapely.hausdorff_distance(*lines), tolerance)

    def test_nesting_counts_what_lies_round(self) -> None:
        rings = [Contour.circle(0, 0, r) for r in (10, 8, 3)]
        aside = Contour.circle(30, 0, 2)
        slit = Contour.make([(0, 0), (1, 1)], closed=False)
        self.assertEqual(nesting_depths([*rings, aside, slit]).tolist(), [0, 1, 2, 0, -1])

    def test_what_nested_contours_bound_is_the_same_whether_they_cross_or_not(self) -> None:
        rings = [Contour.circle(0, 0, r) for r in (10, 8, 3)]
        self.assertAlmostEqual(area_of(rings).area, np.pi * (100 - 64 + 9), delta=0.3)
        aside = Contour.circle(12, 0, 4)
        both = shapely.Point(0, 0).buffer(10, 200).union(shapely.Point(12, 0).buffer(4, 200)).area
        self.assertAlmostEqual(area_of([*rings, aside]).area, both - np.pi * (64 - 9), delta=0.5)
        self.assertAlmostEqual(area_of([rings[0], rings[0]]).area, np.pi * 100, delta=0.5)
        self.assertAlmostEqual(
            area_of([rings[2], Contour.make([(30, 0), (34, 0), (34, 4)])]).area,
            8 + np.pi * 9,
            delta=0.2,
        )
