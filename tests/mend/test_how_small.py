"""How small shapes can be made: known walls, gaps and tips, and where they are."""

import math
import unittest

import shapely

from draxet.geometry.contour import Contour
from draxet.mend.how_small import how_small, smallest_of
from draxet.progress import Cancelled, Unwatched

PLATE = shapely.box(0, 0, 100, 60)


def disc(x: float, y: float, radius: float) -> shapely.Polygon:
    return shapely.Point(x, y).buffer(radius, quad_segs=64)


class HowSmallItCanBe(unittest.TestCase):
    def test_what_decides_is_found_with_its_place(self) -> None:
        star = shapely.Polygon(
            [
                (r * math.cos(math.pi * k / 5), r * math.sin(math.pi * k / 5))
                for k, r in ((k, 50 if k % 2 else 15) for k in range(10))
            ]
        )
        half = math.atan(15 * math.sin(math.pi / 5) / (50 - 15 * math.cos(math.pi / 5)))
        tip = (1 / math.sin(half) - 1) / 2 / (0.05 * 50 * (1 + math.cos(math.pi / 5)))
        neck = shapely.union_all([disc(0, 0, 20), disc(100, 0, 20), shapely.box(0, -1.5, 100, 1.5)])
        for shape, cut, feature, scale, what, near in (
            (PLATE.difference(disc(50, 15, 10)), 1.0, 2.0, 2 / 5, "wall", (50, 2.5)),
            (PLATE.difference(disc(50, 30, 1.5)), 2.0, 1.0, 2 / 3, "gap", (50, 30)),
            (PLATE - disc(40, 30, 8) - disc(60, 30, 8), 0.1, 1.0, 1 / 4, "wall", (50, 30)),
            (PLATE.difference(shapely.box(48, 20, 50, 70)), 1.0, 1.0, 1 / 2, "gap", (49, 40)),
            (neck, 1.0, 1.0, 1 / 3, "wall", (50, 0)),
            (PLATE, 1.0, 1.0, 1 / 60, "wall", (50, 30)),
            (star, 1.0, 1.0, tip, "tip", None),
        ):
            found = how_small(shape, cut, feature)
            assert found is not None
            with self.subTest(what=what, scale=scale):
                self.assertAlmostEqual(found.scale / scale, 1.0, delta=0.04)
                self.assertEqual(found.what, what)
                if near:
                    self.assertLess(math.dist((found.x, found.y), near), 12.0)
                else:
                    self.assertGreater(math.hypot(found.x, found.y), 40)  # in one of its points

    def test_at_that_size_it_survives_and_a_little_smaller_it_does_not(self) -> None:
        shape = PLATE - disc(30, 30, 20) - disc(80, 30, 9)
        found = how_small(shape, 1.0, 1.5)
        assert found is not None
        for times, parts in ((1.02, 1), (0.97, 2)):
            made = shapely.transform(shape, lambda at, k=found.scale * times: at * k)
            left = made.buffer(-0.75 * 0.999)
            holes = sum(len(part.interiors) for part in shapely.get_parts(left))
            self.assertEqual(parts == 1, holes == 2)

    def test_lines_count_as_broad_as_they_are_and_what_has_no_area_is_not_asked(self) -> None:
        line = Contour.make([(0, 0), (50, 0)], closed=False)
        found = smallest_of(Unwatched(), (line,), (4.0,), 1.0, 1.0)
        assert found is not None
        self.assertAlmostEqual(found.scale, 1 / 4, delta=0.01)
        self.assertIsNone(how_small(shapely.LineString([(0, 0), (1, 1)]), 1.0, 1.0))

    def test_it_stops_where_it_is_told_to(self) -> None:
        def stop(share: float, words: str) -> None:
            raise Cancelled

        with self.assertRaises(Cancelled):
            how_small(PLATE, 1.0, 1.0, stop)
