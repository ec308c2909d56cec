"""Forms in place of a wobble, trimming and extending, against what is known."""

from __future__ import annotations

import math
import unittest

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.pieces import begun_at, joined, piece, position_near, split_at
from draxet.geometry.shapes import unit_ellipse
from draxet.geometry.spans import ARC
from draxet.mend.forms import fitted_form, sampled
from draxet.mend.nodes import deviation_between
from draxet.mend.part_forms import fitted_part
from draxet.mend.trim import extended, piece_between, trimmed
from tests.shapes import mixed_contour


def wobbly(points: np.ndarray, most: float, *, closed: bool = True) -> Contour:
    t = np.linspace(0, 2 * math.pi, len(points), endpoint=False)
    return Contour.make(
        points * 1.0 + most * np.column_stack([np.sin(7 * t), np.cos(5 * t)]) * 0.7, closed=closed
    )


class Parts(unittest.TestCase):
    """A form in place of a part between nodes, whichever node the contour begins with."""

    def plate(self, shift: int) -> tuple[Contour, list[int]]:
        """A box of 80 × 40 with a round end of 20 at the right, drawn as a wobble of many nodes."""
        t = np.linspace(-math.pi / 2, math.pi / 2, 31)
        end = np.column_stack([80 + 20 * np.cos(t), 20 + 20 * np.sin(t)])
        end[1:-1] += 0.05 * np.column_stack([np.sin(9 * t), np.cos(7 * t)])[1:-1]
        nodes = np.vstack([end, [(0, 40), (0, 0)]])
        order = [(k + shift) % len(nodes) for k in range(len(nodes))]
        return Contour.make(nodes[order]), [order.index(k) for k in range(31)]

    def test_an_arc_takes_the_place_of_a_part_and_its_ends_stay(self) -> None:
        for shift in (0, 7, 31, 32):
            for every in (1, 15, 10):
                contour, part = self.plate(shift)
                found = fitted_part(contour, part[::every], "arc")
                assert found is not None
                (form, is_other) = found
                self.assertFalse(is_other)
                made = form.contour
                self.assertEqual((len(made.nodes), int((made.kinds == ARC).sum())), (4, 1))
                self.assertLess(form.off, 0.12)
                self.assertAlmostEqual(abs(made.area), 80 * 40 + math.pi * 200, delta=4)
                radii = made.spans.take(np.flatnonzero(made.kinds == ARC)).arc_shapes().radii
                self.assertAlmostEqual(float(radii[0]), 20, delta=0.1)
                self.assertLess(deviation_between(contour, made), 0.13)

    def test_a_line_takes_it_too_and_a_circle_or_an_ellipse_is_another_contour(self) -> None:
        contour, part = self.plate(5)
        found = fitted_part(contour, [part[0], part[-1]], "line")
        assert found is not None
        self.assertEqual(
            (len(found[0].contour.nodes), round(abs(found[0].contour.area))), (4, 3200)
        )
        found = fitted_part(contour, part, "circle")
        assert found is not None and found[1]
        x, y, radius = found[0].contour.circle_shape or (0, 0, 0)
        np.testing.assert_allclose((x, y, radius), (80, 20, 20), atol=0.1)
        t = np.linspace(0.2, 2.6, 40)
        open_ = Contour.make(np.column_stack([30 * np.cos(t), 12 * np.sin(t)]), closed=False)
        found = fitted_part(open_, range(40), "ellipse")
        assert found is not None and found[1] and found[0].ellipse is not None
        self.assertAlmostEqual(abs(found[0].contour.area), math.pi * 360, delta=3)
        found = fitted_part(open_, [3, 30], "arc")
        assert found is not None
        self.assertEqual(len(found[0].contour.nodes), 40 - 26)
        np.testing.assert_array_equal(found[0].contour.nodes[[0, -1]], open_.nodes[[0, -1]])

    def test_one_node_or_a_straight_part_is_no_arc(self) -> None:
        contour, _ = self.plate(0)
        for nodes, form in (([3], "arc"), ([], "circle"), ([31, 32], "arc")):
            self.assertIsNone(fitted_part(contour, nodes, form), (nodes, form))


class Forms(unittest.TestCase):
    def test_wobbles_become_the_forms_that_they_were_meant_as(self) -> None:
        t = np.linspace(0, 2 * math.pi, 60, endpoint=False)
        for size in (2.0, 40.0, 900.0):
            with self.subTest(size=size):
                wobble = 0.02 * size
                laid = (
                    Affine.scaled(size, 0.4 * size)
                    .then(Affine.turned(31))
                    .then(Affine.moved(700, -50))
                )
                oval = fitted_form(
                    wobbly(laid.apply(np.column_stack([np.cos(t), np.sin(t)])), wobble), "ellipse"
                )
                circle = fitted_form(
                    wobbly(np.column_stack([5 + size * np.cos(t), 7 + size * np.sin(t)]), wobble),
                    "circle",
                )
                assert oval and oval.ellipse and circle
                axes = np.linalg.svd(
                    np.array([[oval.ellipse.a, oval.ellipse.b], [oval.ellipse.d, oval.ellipse.e]])
                )[1]
                np.testing.assert_allclose(axes, (size, 0.4 * size), atol=0.5 * wobble)
                self.assertLess(
                    math.dist((oval.ellipse.c, oval.ellipse.f), (700, -50)), 0.3 * wobble
                )
                np.testing.assert_allclose(
                    circle.contour.circle_shape, (5, 7, size), atol=0.4 * wobble
                )
                self.assertTrue(
                    0.3 * wobble < min(oval.off, circle.off)
                    and max(oval.off, circle.off) < 2.2 * wobble
                )
        exact = fitted_form(unit_ellipse().transformed(Affine.scaled(30, 8)), "ellipse")
        assert exact
        self.assertLess(exact.off, 0.01)

    def test_open_wobbles_become_lines_and_arcs_by_their_ends(self) -> None:
        t = np.linspace(0, 1, 40)
        line = fitted_form(
            Contour.make(np.column_stack([100 * t, 30 * t + 0.2 * np.sin(40 * t)]), closed=False),
            "line",
        )
        arc = fitted_form(
            Contour.make(
                np.column_stack([50 * np.cos(2 * t), 50 * np.sin(2 * t) + 0.1 * np.sin(50 * t)]),
                closed=False,
            ),
            "arc",
        )
        assert line and arc
        self.assertLess(math.dist(line.contour.nodes[1], (100, 30)), 0.3)
        self.assertAlmostEqual(float(arc.contour.spans.arc_shapes().radii[0]), 50, delta=0.2)
        self.assertEqual(arc.contour.kinds.tolist(), [ARC])
        self.assertIsNone(fitted_form(Contour.make([(0, 0), (10, 0)], closed=False), "arc"))
        self.assertIsNone(fitted_form(mixed_contour(), "line"))


class Pieces(unittest.TestCase):
    def test_pieces_lie_on_the_whole_and_make_it_up(self) -> None:
        contour = mixed_contour()
        for begin, end in ((0.3, 1.7), (2.2, 0.6), (0.0, 2.0)):
            part, rest = piece(contour, begin, end), piece(contour, end, begin)
            assert part and rest
            self.assertAlmostEqual(part.length + rest.length, contour.length, places=6)
            self.assertLess(deviation_between(part, contour), 1e-6)
        place = sampled(contour, 50)[17]
        self.assertLess(
            math.dist(split_at(contour, position_near(contour, *place))[0].nodes[0], place), 1e-3
        )
        self.assertAlmostEqual(begun_at(contour, 1.4).area, contour.area, places=6)
        halves = split_at(piece(contour, 0.0, 2.0) or contour, 0.8)
        self.assertAlmostEqual(
            joined(halves[1].reversed(), halves[0]).length,
            sum(half.length for half in halves),
            places=9,
        )

    def test_trimming_takes_the_piece_between_two_crossings_and_extending_meets_the_next_line(
        self,
    ) -> None:
        circle, bar = Contour.circle(0, 0, 10), Contour.make([(-20, 0), (20, 0)], closed=False)
        upper = position_near(circle, 0, 10)
        self.assertAlmostEqual((piece_between(circle, [bar], upper) or bar).length, 10 * math.pi)
        (left,) = trimmed(circle, [bar], upper) or []
        self.assertFalse(left.closed)
        self.assertLess(left.flattened(0.1)[:, 1].max(), 1e-6)
        self.assertEqual(
            sorted(part.length for part in trimmed(bar, [circle], position_near(bar, 1, 0)) or []),
            [10, 10],
        )
        self.assertEqual(
            [part.length for part in trimmed(bar, [circle], position_near(bar, 15, 0)) or []], [30]
        )
        self.assertIsNone(trimmed(circle, [], upper))
        short = Contour.make([(-5, 3), (-2, 3)], closed=False)
        wall = Contour.make([(9, -9), (9, 9)], closed=False)
        np.testing.assert_allclose(
            (extended(short, [wall, circle], at_end=True) or short).nodes[-1], (9, 3)
        )
        np.testing.assert_allclose(
            (extended(short, [wall, circle], at_end=False) or short).nodes[0], (-math.sqrt(91), 3)
        )
        quarter = Contour.make([(5, 0), (0, 5)], [ARC], [math.tan(math.pi / 8)], closed=False)
        reached = extended(quarter, [Contour.make([(-9, -1), (9, -1)], closed=False)], at_end=True)
        assert reached
        np.testing.assert_allclose(reached.nodes[-1], (-math.sqrt(24), -1), atol=1e-9)
        self.assertAlmostEqual(float(reached.spans.arc_shapes().radii[0]), 5)
        self.assertIsNone(extended(short, [], at_end=True))
