"""What each kind of operation does to contours, held against areas and rasters."""

from __future__ import annotations

import itertools
import math
import unittest

import cv2
import numpy as np
import shapely

from draxet.geometry.arc_length import ArcLength
from draxet.geometry.arrangement import arrangement_of
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import area_of
from draxet.geometry.shapes import rounded_polygon
from draxet.job.cut_middles import middles_of
from draxet.job.machine_kinds import MACHINES
from draxet.job.operations import CutThrough, Drill, Engrave, Pocket, Score, Side
from draxet.job.operations.pocket import clearing, clearing_in_lines, unreached

BOX = Contour.make([(0, 0), (60, 0), (60, 40), (0, 40)])
_PX = 40
"""Pixels a mm of the independent raster."""


def raster(
    lines: list[tuple[np.ndarray, bool, float]], size: tuple[float, float], margin: float = 5.0
) -> np.ndarray:
    """What round tools run over along lines, painted."""
    canvas = np.zeros(
        (round((size[1] + 2 * margin) * _PX), round((size[0] + 2 * margin) * _PX)), np.uint8
    )
    for points, closed, width in lines:
        at = np.round((points + margin) * _PX * 16).astype(np.int32)
        cv2.polylines(canvas, [at], closed, 255, 1, cv2.LINE_8, 4)
    radius = lines[0][2] / 2 * _PX
    away = cv2.distanceTransform(255 - canvas, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    return away <= radius


class Pockets(unittest.TestCase):
    def test_what_a_tool_can_reach_is_cleared_and_nothing_else(self) -> None:
        shapes = {
            "box": [BOX],
            "island": [BOX, Contour.circle(25, 20, 8)],
            "round": [Contour.circle(30, 20, 19)],
            "sharp": [Contour.make([(0, 0), (60, 0), (30, 40)])],
            "freely": [
                rounded_polygon([(0, 0, 3), (55, 5, 8), (60, 40, 2), (30, 22, 4), (2, 38, 3)])
            ],
        }
        for name, contours in shapes.items():
            for diameter, stepover, way in (
                (3.0, 0.4, clearing),
                (6.0, 0.5, clearing),
                (2.0, 0.25, clearing),
                (3.0, 0.4, clearing_in_lines),
                (6.0, 0.5, clearing_in_lines),
            ):
                lines = [
                    (line.flattened(0.005), line.closed, diameter)
                    for line in way(contours, diameter, stepover)
                ]
                cleared = raster(lines, (60, 40))
                area = contours_area(contours)
                reach = area.area - unreached(contours, diameter).area
                with self.subTest(name=name, diameter=diameter):
                    self.assertAlmostEqual(cleared.sum() / _PX**2 / reach, 1.0, delta=0.005)
                    grown = shapely.union_all(
                        [
                            shapely.LineString(p if not closed else np.vstack([p, p[:1]])).buffer(
                                diameter / 2
                            )
                            for p, closed, _ in lines
                        ]
                    )
                    self.assertTrue(area.buffer(0.01).covers(grown))

    def test_depths_are_even_and_no_deeper_than_a_pass(self) -> None:
        (path, *_) = Pocket(contours=("a",), depth=2.5, pass_depth=1.0).paths([("a", BOX)], 10.0)
        np.testing.assert_allclose(path.depths, (2.5 / 3, 5 / 3, 2.5))
        self.assertEqual(Pocket(diameter=90.0).paths([("a", BOX)], 10.0), [])


def contours_area(contours: list[Contour]) -> shapely.Geometry:
    area = shapely.Polygon(contours[0].flattened(0.002))
    for hole in contours[1:]:
        area = area.difference(shapely.Polygon(hole.flattened(0.002)))
    return area


class Engraving(unittest.TestCase):
    def test_lines_cover_the_area_at_their_spacing_and_leave_islands_out(self) -> None:
        for angle in (0.0, 30.0, 90.0, -135.0):
            lines = Engrave(spacing=0.5, angle=angle).paths(
                [("a", BOX), ("b", Contour.circle(30, 20, 10))], 3.0
            )
            drawn = sum(line.line.length for line in lines) * 0.5
            self.assertAlmostEqual(drawn / (60 * 40 - math.pi * 100), 1.0, delta=0.02)
            area = contours_area([BOX, Contour.circle(30, 20, 10)]).buffer(0.02)
            self.assertTrue(all(area.covers(shapely.LineString(line.line.nodes)) for line in lines))
            ways = [line.line.nodes[1] - line.line.nodes[0] for line in lines]
            self.assertAlmostEqual(
                abs(math.degrees(math.atan2(ways[0][1], ways[0][0])) - angle) % 180 % 179.999,
                0,
                delta=0.01,
            )

    def test_outlines_that_touch_and_lie_on_each_other_bound_areas_all_the_same(self) -> None:
        """As after uniting and giving colours: what only touches leaves no lines behind."""
        for seed in range(60):
            rng = np.random.default_rng(seed)
            corners = rng.integers(0, 8, (5, 2)) * 10.0
            some = [
                Contour.make([(x, y), (x + w, y), (x + w, y + h), (x, y + h)])
                for (x, y), (w, h) in zip(corners, rng.integers(1, 5, (5, 2)) * 10.0, strict=True)
            ]
            some += [Contour.circle(x, y, 20) for x, y in corners[:2]]
            ground = arrangement_of(some)
            united = ground.outline_of(
                [k for k, region in enumerate(ground.regions) if region.covered]
            )
            parts = [
                contour for k in range(len(ground.regions)) for contour in ground.outline_of([k])
            ]
            for contours in (united + parts, some + united, united + united):
                area = area_of(contours)
                self.assertEqual(
                    {part.geom_type for part in shapely.get_parts(area)} - {"Polygon"}, set()
                )
                for way in ("lines", "rounds"):
                    paths = Engrave(spacing=4.0, way=way).paths(
                        [(str(k), c) for k, c in enumerate(contours)], 3.0
                    )
                    if area.buffer(-2.5).area > 0:
                        self.assertTrue(paths)

    def test_one_way_is_one_way_and_too_many_lines_are_refused(self) -> None:
        ways = [
            line.line.nodes[1, 0] > line.line.nodes[0, 0]
            for line in Engrave(spacing=1.0, both_ways=False).paths([("a", BOX)], 3.0)
        ]
        self.assertTrue(all(ways))
        self.assertFalse(
            all(
                line.line.nodes[1, 0] > line.line.nodes[0, 0]
                for line in Engrave(spacing=1.0).paths([("a", BOX)], 3.0)
            )
        )
        with self.assertRaisesRegex(ValueError, "choose a greater distance"):
            Engrave(spacing=1e-4).paths([("a", BOX)], 3.0)


class Cutting(unittest.TestCase):
    def test_the_middle_runs_beside_the_contour_and_curves_within_a_hundredth(self) -> None:
        curved = Contour.make(
            [(0, 0), (50, 20)], [2, 2], None, [[(20, -20), (30, 40)], [(60, 60), (-20, 40)]]
        )
        for contour in (BOX, Contour.circle(20, 20, 12), curved):
            for side, sign in ((Side.OUTSIDE, 1), (Side.INSIDE, -1)):
                for path in CutThrough(side=side, width=2.0).paths([("a", contour)], 3.0):
                    ring = shapely.LinearRing(contour.flattened(0.001))
                    away = [
                        ring.distance(shapely.Point(place)) for place in path.line.flattened(0.05)
                    ]
                    self.assertLess(max(abs(each - 1.0) for each in away), 0.012)
                    inside = shapely.Polygon(ring).contains(
                        shapely.Point(path.line.flattened(0.05)[0])
                    )
                    self.assertEqual(inside, sign < 0)

    def test_passes_are_as_many_as_their_depth_wants(self) -> None:
        for deep, wanted in ((0.0, 2), (1.0, 3), (1.2, 3), (3.0, 1), (9.0, 1)):
            (path,) = CutThrough(side=Side.ON, width=1.0, passes=2, pass_depth=deep).paths(
                [("a", BOX)], 3.0
            )
            self.assertEqual((len(path.depths), path.depths[-1]), (wanted, 3.0))

    def test_what_was_set_for_one_machine_does_not_count_on_another(self) -> None:
        for machine, (first, lines) in zip(MACHINES, ((1.5, 3), (1.0, 4), (1.5, 3)), strict=False):
            cut = CutThrough(
                side=Side.OUTSIDE,
                width=2,
                tabs=3,
                tab=4,
                tab_height=1.0,
                passes=2,
                pass_depth=1.0,
                small=100.0,
                small_holes="marked",
            ).on(machine.traits)
            paths = cut.paths([("a", BOX)], 3.0)
            self.assertEqual((paths[0].depths[0], len(paths)), (first, lines), machine)
            inside = cut.along(Contour.circle(0, 0, 10), Side.INSIDE, ("a",), 3.0)
            self.assertEqual(
                len(inside) == 1, machine.kind == "plasma", machine
            )  # marked where a torch cannot cut it well

    def test_tabs_leave_their_width_clear_of_corners(self) -> None:
        paths = CutThrough(side=Side.OUTSIDE, width=2.0, tabs=4, tab=5.0).paths([("a", BOX)], 3.0)
        self.assertEqual(len(paths), 4)
        whole = CutThrough(side=Side.OUTSIDE, width=2.0).paths([("a", BOX)], 3.0)[0].line
        self.assertAlmostEqual(
            whole.length - sum(path.line.length for path in paths), 4 * 7.0, delta=0.05
        )
        ends = np.array([path.line.nodes[k] for path in paths for k in (0, -1)])
        for corner in BOX.nodes:
            self.assertGreater(np.hypot(*(ends - corner).T).min(), 2.5)
        (one,) = CutThrough(side=Side.ON, width=1.0, tabs=9, tab=5.0).paths(
            [("a", Contour.circle(0, 0, 3))], 3.0
        )
        self.assertTrue(one.line.closed)  # no room for them

    def test_tabs_are_even_and_clear_of_the_contours_own_corners_on_straight_or_wide_runs(
        self,
    ) -> None:
        wide = Contour.make([(0, 0), (200, 0), (200, 100), (0, 100)])
        soft = rounded_polygon([(0, 0, 3), (200, 0, 3), (200, 100, 3), (0, 100, 3)])
        for contour, side, count in itertools.product(
            (wide, soft), (Side.OUTSIDE, Side.INSIDE), (1, 2, 3, 4, 5, 8)
        ):
            cut = CutThrough(side=side, width=2.0, tabs=count, tab=4.0)
            (line,) = middles_of(contour, side, 2.0)
            at = cut.tabs_on(contour, line, ("a",))
            measured = ArcLength(line)
            ends = np.array([measured.place(each + off) for each in at for off in (-3.0, 0.0, 3.0)])
            with self.subTest(contour=len(contour.kinds), side=side, count=count):
                self.assertEqual(len(cut.paths([("a", contour)], 3.0)), count)
                gaps = np.diff([*at, at[0] + measured.length]) / measured.length * count
                self.assertLess(np.abs(gaps - 1).max(), 0.1)
                corners = wide.nodes  # of the soft one, where they would be
                self.assertGreater(
                    np.hypot(*(ends[:, None] - corners).transpose(2, 0, 1)).min(), 4.9
                )
                (ax, ay), (bx, by) = (ends[1::3] - ends[::3]).T, (ends[2::3] - ends[::3]).T
                self.assertLess(np.abs(ax * by - ay * bx).max(), 1e-6)

    def test_what_an_operation_cannot_be_done_to_is_said(self) -> None:
        opened = Contour.make([(0, 0), (9, 0)], closed=False)
        self.assertEqual(
            Pocket().wrong_with([("a", BOX), ("b", opened)]),
            {"is open where it has to bound an area": ["b"]},
        )
        self.assertEqual(
            list(Drill().wrong_with([("a", BOX), ("c", Contour.circle(0, 0, 2))]).values()), [["a"]]
        )
        self.assertEqual(Score().wrong_with([("b", opened)]), {})
        (hole,) = Drill(depth=5.0, peck=2.0).paths(
            [("c", Contour.circle(3, 4, 2)), ("a", BOX)], 9.0
        )
        np.testing.assert_allclose(hole.line.nodes[0], (3, 4))
        np.testing.assert_allclose(hole.depths, (5 / 3, 10 / 3, 5))


if __name__ == "__main__":
    unittest.main()
