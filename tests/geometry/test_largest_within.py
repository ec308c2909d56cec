"""The largest place of a shape within a room: known ones, and nothing that overlaps anything."""

import unittest

import numpy as np
import shapely
from shapely import affinity

from draxet.geometry.largest_within import largest_within

SQUARE = shapely.box(0, 0, 10, 10)
DISC = shapely.Point(50, 50).buffer(30, quad_segs=64)
ELL = shapely.Polygon([(0, 0), (100, 0), (100, 30), (30, 30), (30, 100), (0, 100)])
RING = shapely.Point(0, 0).buffer(10).difference(shapely.Point(0, 0).buffer(7))
HOLED = shapely.box(0, 0, 100, 100).difference(shapely.Point(50, 50).buffer(20, quad_segs=32))


class Places(unittest.TestCase):
    def size(self, shape: shapely.Polygon, room: shapely.Polygon, *, turns: bool = False) -> float:
        """How large it becomes; it lies within the room."""
        found = largest_within(shape, room, turns=turns)
        assert found is not None
        self.assertGreater(found.determinant, 0)
        m = found.to_tuple()
        laid = affinity.affine_transform(shape, [m[0], m[1], m[3], m[4], m[2], m[5]])
        self.assertLess(laid.difference(room).area, 1e-6 * laid.area)
        return found.scale

    def test_known_places_are_found(self) -> None:
        for shape, room, turns, size in (
            (SQUARE, DISC, False, 60 / np.sqrt(2) / 10),
            (SQUARE, ELL, True, 3.0),
            (shapely.box(0, 0, 20, 5), ELL, False, 5.0),
            (shapely.box(0, 0, 10, 1), shapely.box(0, 0, 100, 100), True, 100 * np.sqrt(2) / 11),
            (shapely.box(0, 0, 10, 1), shapely.box(0, 0, 100, 100), False, 10.0),
            (SQUARE, SQUARE, False, 1.0),
        ):
            self.assertAlmostEqual(self.size(shape, room, turns=turns) / size, 1.0, delta=2e-4)

    def test_a_hole_is_kept_clear_and_an_opening_may_hold_it(self) -> None:
        self.assertAlmostEqual(self.size(RING, HOLED), 5.0, delta=1e-3)
        beside = self.size(SQUARE, HOLED)
        self.assertGreater(beside, 2.9)
        self.assertLess(beside, 3.6)

    def test_random_shapes_lie_within_random_rooms_and_turning_is_never_worse(self) -> None:
        rng = np.random.default_rng(11)
        for _ in range(3):
            shape, room = (
                shapely.Polygon(
                    [
                        (r * np.cos(a), r * np.sin(a))
                        for a, r in zip(
                            np.linspace(0, 2 * np.pi, 9)[:-1], rng.uniform(4, 20, 8), strict=True
                        )
                    ]
                )
                for _ in range(2)
            )
            straight = self.size(shape, room)
            self.assertGreater(self.size(shape, room, turns=True), straight * 0.98)
            own = self.size(shape, affinity.scale(shape, 3, 3))
            self.assertGreater(own, 2.99)

    def test_where_there_is_no_place_that_is_said(self) -> None:
        for shape, room in (
            (SQUARE, shapely.Polygon()),
            (shapely.Polygon(), SQUARE),
            (shapely.LineString([(0, 0), (1, 1)]), SQUARE),
        ):
            self.assertIsNone(largest_within(shape, room))
