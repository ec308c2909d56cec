"""Crossings lie on both spans, touches are one place, and nothing is missed."""

import math
import unittest

import numpy as np
import shapely

from draxet.geometry.contour import Contour
from draxet.geometry.crossings import crossings, parts_of, self_crossings
from draxet.geometry.spans import ARC, CUBIC, LINE, Spans


def span(
    kind: int,
    start: tuple[float, float],
    end: tuple[float, float],
    bulge: float = 0.0,
    handles: object = ((0, 0), (0, 0)),
) -> Spans:
    return Spans(
        np.array([start], float),
        np.array([end], float),
        np.array([kind]),
        np.array([bulge]),
        np.array([handles], float),
    )


def random_span(rng: np.random.Generator) -> Spans:
    kind = int(rng.integers(0, 3))
    a, b, c, d = rng.uniform(0, 100, (4, 2))
    return span(
        kind,
        tuple(a),
        tuple(b),
        float(rng.uniform(-2, 2)) if kind == ARC else 0.0,
        (c, d) if kind == CUBIC else ((0, 0), (0, 0)),
    )


def line_of(one: Spans, count: int = 4000) -> np.ndarray:
    return one.at(np.zeros(count, dtype=np.int64), np.linspace(0, 1, count))


def joined(spans: list[Spans], away: np.ndarray) -> Spans:
    """Many spans as one batch, each moved to the right."""
    move = np.column_stack([away, 0 * away])
    starts, ends, kinds, bulges, handles = (
        np.concatenate([getattr(s, name) for s in spans])
        for name in ("starts", "ends", "kinds", "bulges", "handles")
    )
    return Spans(
        starts + move,
        ends + move,
        kinds,
        bulges,
        np.where((kinds == CUBIC)[:, None, None], handles + move[:, None], 0.0),
    )


def plain_count(one: Spans, other: Spans, count: int) -> int:
    plain = shapely.intersection(
        shapely.LineString(line_of(one, count)), shapely.LineString(line_of(other, count))
    )
    return 0 if plain.is_empty else len(getattr(plain, "geoms", [plain]))


class Crossing(unittest.TestCase):
    def check(self, a: Spans, b: Spans, count: int) -> None:
        found = crossings(a, b)
        self.assertEqual(len(found), count)
        np.testing.assert_allclose(
            a.at(found.first, found.t), b.at(found.second, found.u), atol=1e-6
        )

    def test_random_pairs_against_a_fine_flattening(self) -> None:
        rng = np.random.default_rng(5)
        pairs = [(random_span(rng), random_span(rng)) for _ in range(2000)]
        away = np.arange(len(pairs)) * 1000.0  # far enough from each other to be met all at once
        a, b = (joined([pair[side] for pair in pairs], away) for side in (0, 1))
        found = crossings(a, b)
        np.testing.assert_allclose(
            a.at(found.first, found.t), b.at(found.second, found.u), atol=1e-6
        )
        counts = np.bincount(found.first, minlength=len(pairs))
        for k, (one, other) in enumerate(pairs):
            wanted = plain_count(one, other, 600)
            if (
                wanted != counts[k]
            ):  # the flattening itself may be wrong at a near touch: look closer
                wanted = plain_count(one, other, 60_000)
            with self.subTest(k=k, kinds=(int(one.kinds[0]), int(other.kinds[0]))):
                self.assertEqual(counts[k], wanted)
        self.assertGreater(len(found), 500)

    def test_touches_are_one_place_and_say_so(self) -> None:
        half = span(ARC, (-10, 0), (10, 0), -1.0)  # over the top
        for other in (
            span(LINE, (-20, 10), (20, 10)),
            span(ARC, (-10, 20), (10, 20), 1.0),
            span(CUBIC, (-10, 40), (10, 40), 0.0, ((-10, 0), (10, 0))),
        ):
            found = crossings(half, other)
            with self.subTest(int(other.kinds[0])):
                self.assertEqual((len(found), found.touch.tolist()), (1, [True]))
                np.testing.assert_allclose(found.points, [[0, 10]], atol=2e-3)

    def test_ends_that_lie_on_the_other_count(self) -> None:
        self.check(span(LINE, (0, 0), (10, 0)), span(LINE, (4, 0), (4, 9)), 1)
        self.check(span(LINE, (0, 0), (10, 0)), span(LINE, (10, 0), (14, 9)), 1)
        self.check(span(LINE, (0, 0), (10, 0)), span(LINE, (4, 1e-3), (4, 9)), 0)

    def test_a_stretch_in_common_is_told_by_its_two_ends(self) -> None:
        circle = Contour.circle(0, 0, 10).spans
        arc = span(
            ARC,
            (10 * math.cos(0.3), 10 * math.sin(0.3)),
            (10 * math.cos(1.2), 10 * math.sin(1.2)),
            math.tan(0.9 / 4),
        )
        curve = span(CUBIC, (0, 0), (30, 0), 0.0, ((5, 20), (25, -20)))
        part = parts_of(curve, np.array([0]), np.array([0.25]), np.array([0.7]))
        for a, b, ends in (
            (span(LINE, (0, 0), (10, 0)), span(LINE, (4, 0), (15, 0)), [(4, 0), (10, 0)]),
            (circle.take(np.array([1])), arc, [(arc.starts[0]), (arc.ends[0])]),
            (curve, part, [part.starts[0], part.ends[0]]),
        ):
            found = crossings(a, b)
            along = found.take(found.along)
            self.assertEqual(len(along), 2)
            np.testing.assert_allclose(
                along.points[np.lexsort(along.points.T)],
                np.array(ends, float)[np.lexsort(np.array(ends, float).T)],
                atol=2e-6,
            )

    def test_a_contours_own_crossings_leave_out_its_joints_and_find_loops(self) -> None:
        self.assertEqual(
            len(self_crossings(Contour.make([(0, 0), (10, 0), (10, 10), (0, 10)]).spans)), 0
        )
        bow = self_crossings(Contour.make([(0, 0), (10, 10), (10, 0), (0, 10)]).spans)
        np.testing.assert_allclose(bow.points, [[5, 5]], atol=1e-9)
        loop = span(CUBIC, (0, 0), (10, 0), 0.0, ((20, 15), (-10, 15)))
        (found,) = self_crossings(loop).points
        self.assertAlmostEqual(found[0], 5, 6)
        self.assertEqual(len(self_crossings(Contour.circle(0, 0, 5).spans)), 0)

    def test_parts_lie_on_the_whole_and_join(self) -> None:
        rng = np.random.default_rng(2)
        for _ in range(60):
            whole = random_span(rng)
            a, b = (
                parts_of(whole, np.array([0, 0]), np.array([0.0, 0.37]), np.array([0.37, 1.0])),
                np.linspace(0, 1, 9),
            )
            np.testing.assert_allclose(
                a.at(np.zeros(9, dtype=np.int64), b),
                whole.at(np.zeros(9, dtype=np.int64), 0.37 * b),
                atol=1e-9,
            )
            np.testing.assert_allclose(
                a.at(np.ones(9, dtype=np.int64), b),
                whole.at(np.zeros(9, dtype=np.int64), 0.37 + 0.63 * b),
                atol=1e-9,
            )
            self.assertTrue(
                (a.starts[0] == whole.starts[0]).all() and (a.ends[1] == whole.ends[0]).all()
            )
