"""Offsets are true to the distance, lines and arcs stay so, and what vanishes or splits does."""

from __future__ import annotations

import math
import unittest

import numpy as np
import shapely

from draxet.geometry.contour import Contour
from draxet.geometry.drawn import Stop, contour_of
from draxet.geometry.offset import offset_area, thick_line
from draxet.geometry.shapes import ellipse, rounded_polygon
from draxet.geometry.spans import ARC, LINE


def polygon(contours: list[Contour]) -> shapely.Geometry:
    whole = shapely.Polygon()
    for contour in sorted(contours, key=lambda c: -abs(c.area)):
        whole = whole ^ shapely.make_valid(shapely.Polygon(contour.flattened(1e-4)))
    return whole


def random_shape(rng: np.random.Generator) -> Contour:
    kind, r = rng.integers(0, 4), float(rng.uniform(8, 30))
    if kind == 0:
        return ellipse(0, 0, r, r * float(rng.uniform(0.3, 1)))
    a = np.sort(rng.uniform(0, 2 * math.pi, int(rng.integers(4, 9))))
    a = np.linspace(0, 2 * math.pi, len(a), endpoint=False) + rng.uniform(-0.2, 0.2, len(a))
    away = r * rng.uniform(0.45, 1.2, len(a))
    places = np.column_stack([away * np.cos(a), away * np.sin(a)]).tolist()
    if kind == 1:
        return Contour.make(places)
    if kind == 2:
        return contour_of([Stop(*p, "curve") for p in places], closed=True, last="curve")
    return rounded_polygon([(*p, 0.6) for p in places]) if kind == 3 else Contour.circle(0, 0, r)


class Offsets(unittest.TestCase):
    def test_random_shapes_grow_and_shrink_by_the_true_distance(self) -> None:
        for seed in range(300):
            rng = np.random.default_rng(seed)
            try:
                shape = random_shape(rng)
            except ValueError:
                continue
            flat = shapely.Polygon(shape.flattened(1e-4))
            if not flat.is_valid:
                continue
            distance = float(rng.uniform(-6, 6))
            with self.subTest(seed=seed, distance=distance):
                found = offset_area([shape], distance)
                wanted = flat.buffer(distance, quad_segs=400)
                ours = polygon(found)
                self.assertLess((ours ^ wanted).area, 0.005 * (wanted.length + 1) + 1e-3)
                for contour in found:
                    points = shapely.points(contour.flattened(0.05))
                    self.assertLess(
                        np.abs(shapely.distance(flat.exterior, points) - abs(distance)).max(), 0.005
                    )

    def test_lines_stay_lines_arcs_keep_their_centres_and_a_large_inset_swallows_roundings(
        self,
    ) -> None:
        plate = rounded_polygon([(0, 0, 8), (100, 0, 8), (100, 60, 8), (0, 60, 8)])
        (outer,) = offset_area([plate], 5)
        self.assertEqual(
            (int((outer.kinds == LINE).sum()), int((outer.kinds == ARC).sum())), (4, 4)
        )
        np.testing.assert_allclose(
            outer.spans.take(np.flatnonzero(outer.kinds == ARC)).arc_shapes().radii, 13
        )
        (inner,) = offset_area([plate], -10)
        self.assertEqual(inner.kinds.tolist(), [LINE] * 4)
        self.assertAlmostEqual(inner.area, 80 * 40)
        (sharp,) = offset_area([Contour.make([(0, 0), (100, 0), (100, 60), (0, 60)])], 5, "sharp")
        self.assertAlmostEqual(sharp.area, 110 * 70)
        self.assertEqual(offset_area([plate], -31), [])
        self.assertEqual(offset_area([Contour.circle(0, 0, 5)], -7), [])
        self.assertEqual(offset_area([ellipse(0, 0, 20, 8)], -9), [])
        np.testing.assert_allclose(
            offset_area([Contour.circle(0, 0, 5)], -4.5)[0].circle_shape, (0, 0, 0.5), atol=1e-9
        )  # type: ignore[arg-type]

    def test_necks_part_mouths_close_and_openings_go_the_other_way(self) -> None:
        bone = Contour.make(
            [
                (0, 0),
                (30, 0),
                (30, 12),
                (60, 12),
                (60, 0),
                (90, 0),
                (90, 40),
                (60, 40),
                (60, 18),
                (30, 18),
                (30, 40),
                (0, 40),
            ]
        )
        self.assertEqual(len(offset_area([bone], -4)), 2)
        cup = Contour.make(
            [(0, 0), (40, 0), (40, 40), (22, 40), (22, 10), (18, 10), (18, 40), (0, 40)]
        )
        self.assertEqual([c.area > 0 for c in offset_area([cup], 3)], [True])
        washer = offset_area([Contour.circle(0, 0, 20), Contour.circle(0, 0, 10)], 2)
        self.assertEqual(sorted(round(abs(c.area) / math.pi) for c in washer), [64, 484])

    def test_thick_lines_are_areas_with_their_ends(self) -> None:
        line = Contour.make([(0, 0), (50, 0), (50, 30)], closed=False)
        (outline,) = thick_line(line, 4)
        self.assertAlmostEqual(
            outline.area, shapely.LineString(line.nodes).buffer(2, quad_segs=400).area, places=2
        )
        (blunt,) = thick_line(Contour.make([(0, 0), (50, 0)], closed=False), 4, round_ends=False)
        self.assertAlmostEqual(blunt.area, 200)
        ring = thick_line(Contour.circle(0, 0, 20), 6)
        self.assertEqual(sorted(round(abs(c.area) / math.pi) for c in ring), [17 * 17, 23 * 23])
