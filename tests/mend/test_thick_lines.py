"""Lines of a width as outlines: exact of lines and arcs, of curves with few nodes and within a
tolerance."""

import unittest

import numpy as np
import shapely
from scipy.interpolate import CubicSpline

from draxet.geometry.contour import Contour
from draxet.mend.thick_lines import thick_lines


def curve(points: np.ndarray) -> Contour:
    slopes = CubicSpline(np.arange(len(points)), points)(np.arange(len(points)), 1)
    handles = np.stack([points[:-1] + slopes[:-1] / 3, points[1:] - slopes[1:] / 3], axis=1)
    return Contour.make(
        points, kinds=np.full(len(points) - 1, 2, dtype=np.uint8), handles=handles, closed=False
    )


class ThickLines(unittest.TestCase):
    def test_of_curves_they_have_few_nodes_and_lie_where_the_line_is_broad(self) -> None:
        """Against the buffer of the flattened line, at three tolerances."""
        rng = np.random.default_rng(3)
        x = np.linspace(0, 200, 27)
        kinds = {"wave": 15 * np.sin(x / 12), "wandering": np.cumsum(rng.normal(size=27) * 3)}
        lines = {name: curve(np.stack([x, y], axis=1)) for name, y in kinds.items()}
        lines["spiral"] = curve(
            np.stack([(5 + x / 5) * np.cos(x / 15), (5 + x / 5) * np.sin(x / 15)], axis=1)
        )
        lines["tiny"] = curve(np.stack([x, 15 * np.sin(x / 12)], axis=1) / 40)
        for name, line in lines.items():
            width = 0.05 if name == "tiny" else 2.0
            for within in (0.015, 0.05, 0.25):
                with self.subTest(line=name, within=within):
                    outlines = thick_lines([line], [width], within)
                    (outline,) = outlines
                    self.assertTrue(outline.closed and outline.area > 0)
                    self.assertLessEqual(len(outline.nodes), 3 * len(line.nodes))
                    there, wanted = (
                        shapely.Polygon(outline.flattened(0.001)),
                        shapely.LineString(line.flattened(0.001)).buffer(width / 2, quad_segs=64),
                    )
                    self.assertTrue(there.is_valid)
                    self.assertLess(
                        shapely.hausdorff_distance(there.exterior, wanted.exterior), within + 0.005
                    )

    def test_of_lines_and_arcs_they_are_exact(self) -> None:
        plain = Contour.make([(0, 0), (30, 0), (30, 20)], closed=False)
        (outline,) = thick_lines([plain], [4.0], 0.5)
        self.assertAlmostEqual(outline.area, 50 * 4 + np.pi * 4 + 4 - 4 + (np.pi - 4) * 1, 6)
        ring = thick_lines([Contour.circle(0, 0, 10)], [2.0], 0.5)
        self.assertEqual(
            sorted(round(each.circle_shape[2], 9) for each in ring if each.circle_shape),
            [9.0, 11.0],
        )
