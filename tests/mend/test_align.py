"""Aligning, spacing and centring, and the smoothing brush."""

from __future__ import annotations

import math
import unittest

import numpy as np

from draxet.geometry.contour import Contour
from draxet.geometry.shapes import rounded_polygon
from draxet.job.contour_edits import add_contours
from draxet.job.part_edits import make_part
from draxet.job.records import Job
from draxet.mend.align import ALIGNMENTS, aligned, centred, spaced, units_of
from draxet.mend.brush import Brushed
from draxet.mend.nodes import deviation_between


def box(x: float, y: float, wide: float, high: float) -> Contour:
    return rounded_polygon([(x, y, 0), (x + wide, y, 0), (x + wide, y + high, 0), (x, y + high, 0)])


class Aligning(unittest.TestCase):
    def setUp(self) -> None:
        self.job = add_contours(
            Job(), [box(0, 0, 10, 10), box(2, 2, 3, 3), box(40, 5, 20, 6), box(90, -20, 4, 30)]
        )
        self.ids = [item.id for item in self.job.contours]
        self.job, _ = make_part(self.job, self.ids[:2])

    def boxes(self, job: Job) -> np.ndarray:
        return np.array([unit.box for unit in units_of(job, self.ids)])

    def test_each_alignment_brings_one_side_of_all_units_together_and_groups_stay_as_they_are(
        self,
    ) -> None:
        side = {
            "left": lambda b: b[:, 0],
            "right": lambda b: b[:, 2],
            "top": lambda b: b[:, 3],
            "bottom": lambda b: b[:, 1],
            "middle": lambda b: b[:, 0] + b[:, 2],
            "half way up": lambda b: b[:, 1] + b[:, 3],
        }
        for how in ALIGNMENTS:
            job = aligned(self.job, self.ids, how)
            self.assertLess(np.ptp(side[how](self.boxes(job))), 1e-9)
            inner, outer = job.contours[1].contour.box, job.contours[0].contour.box
            self.assertAlmostEqual(inner[0] - outer[0], 2.0)
            self.assertAlmostEqual(inner[1] - outer[1], 2.0)

    def test_spacing_makes_gaps_equal_or_as_told(self) -> None:
        for gap in (None, 7.5, -2.0):
            boxes = self.boxes(spaced(self.job, self.ids, across=True, gap=gap))
            gaps = boxes[1:, 0] - boxes[:-1, 2]
            np.testing.assert_allclose(gaps, gaps[0] if gap is None else gap)
        self.assertRaises(ValueError, spaced, self.job, self.ids[2:], across=False)

    def test_centring_by_box_and_by_area_differ_where_the_shape_is_lopsided(self) -> None:
        wedge = add_contours(Job(), [Contour.make([(0, 0), (30, 0), (0, 30)])])
        by_box, by_area = (
            centred(wedge, [wedge.contours[0].id], (100, 100), by_area=area)
            .contours[0]
            .contour.nodes
            for area in (False, True)
        )
        np.testing.assert_allclose(by_box[0], (85, 85))
        np.testing.assert_allclose(by_area[0], (90, 90), atol=1e-6)


class Brush(unittest.TestCase):
    def test_the_brush_smooths_where_it_goes_and_leaves_the_rest_span_by_span(self) -> None:
        t = np.linspace(0, 2 * math.pi, 240, endpoint=False)
        rough = 50 + 0.8 * np.where(np.abs(t) < 1.0, np.sin(40 * t), 0.0)
        contour = Contour.make(np.column_stack([rough * np.cos(t), rough * np.sin(t)]))
        brushed = Brushed.of(contour, 4.0)
        for angle in np.linspace(-0.1, 1.1, 60):
            for _ in range(4):
                brushed.stroke(50 * math.cos(angle), 50 * math.sin(angle), 4.0, 0.8)
        made = brushed.fitted(0.02)
        points = made.flattened(0.01)
        angles = np.arctan2(points[:, 1], points[:, 0])
        away = np.abs(np.hypot(*points.T) - 50)
        self.assertLess(away[(angles > 0.1) & (angles < 0.85)].max(), 0.3)
        left = made.nodes[(np.abs(np.arctan2(made.nodes[:, 1], made.nodes[:, 0])) > 1.4)]
        kept = {tuple(np.round(node, 9)) for node in contour.nodes}
        self.assertTrue(all(tuple(np.round(node, 9)) in kept for node in left))
        self.assertTrue(made.closed)

    def test_strokes_beside_a_contour_change_nothing_and_open_ends_stay(self) -> None:
        line = Contour.make([(0, 0), (20, 3), (40, 0), (60, 4)], closed=False)
        brushed = Brushed.of(line, 5.0)
        self.assertFalse(brushed.stroke(0, 50, 5.0, 1.0))
        self.assertIs(brushed.fitted(0.02), line)
        for _ in range(40):
            brushed.stroke(20, 3, 5.0, 1.0)
            brushed.stroke(0, 0, 5.0, 1.0)
        made = brushed.fitted(0.02)
        np.testing.assert_allclose(made.nodes[[0, -1]], line.nodes[[0, -1]], atol=1e-9)
        self.assertLess(deviation_between(made, line), 2.0)
        self.assertGreater(deviation_between(line, made), 0.05)
