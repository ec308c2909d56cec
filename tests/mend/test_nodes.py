"""Nodes and spans are changed, and nothing else is."""

import math
import unittest

import numpy as np

from bench.dirt import drawn
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.crossings import crossings, self_crossings
from draxet.geometry.spans import ARC, CUBIC, LINE
from draxet.mend.nodes import (
    bend_span,
    deviation_between,
    make_corners,
    make_kind,
    make_smooth,
    make_symmetrical,
    move_handle,
    move_node,
    split_span,
    square_handles,
    swell_span,
)
from draxet.mend.without_nodes import nodes_gone, remove_nodes
from tests.shapes import GeometryTest, mixed_contour


def blob(closed: bool = True) -> Contour:
    a = np.arange(8) * math.pi / 4
    nodes = np.column_stack([50 * np.cos(a), 30 * np.sin(a)])
    way = np.column_stack([-50 * np.sin(a), 30 * np.cos(a)]) * math.pi / 12
    ahead = np.roll(nodes - way, -1, axis=0)
    handles = np.stack([nodes + way, ahead], axis=1)
    whole = Contour.make(nodes, np.full(8, CUBIC), None, handles)
    return (
        whole if closed else Contour.make(nodes, np.full(7, CUBIC), None, handles[:7], closed=False)
    )


class Nodes(GeometryTest):
    def test_a_split_keeps_the_shape_whatever_the_span(self) -> None:
        for contour in (mixed_contour(), blob(), blob(False)):
            for span in range(len(contour.kinds)):
                found = split_span(contour, span, 0.37)
                self.assertEqual(
                    (len(found.nodes), found.closed), (len(contour.nodes) + 1, contour.closed)
                )
                self.assertLess(deviation_between(found, contour), 1e-6)

    def test_removing_what_a_split_added_gives_the_shape_back(self) -> None:
        for contour in (mixed_contour(), blob(), blob(False)):
            for span in range(len(contour.kinds)):
                found = remove_nodes(split_span(contour, span, 0.4), [span + 1])
                assert found is not None
                self.assertEqual(found.kinds.tolist(), contour.kinds.tolist())
                self.assertLess(deviation_between(found, contour), 1e-3)

    def test_removing_a_node_of_a_smooth_shape_moves_it_little_and_too_many_are_refused(
        self,
    ) -> None:
        found = remove_nodes(blob(), [1, 3])
        assert found is not None
        self.assertLess(deviation_between(found, blob()), 0.3)
        self.assertFalse(found.corners().any())
        self.assertIsNone(remove_nodes(Contour.make([(0, 0), (10, 0), (10, 10)]), [0, 1]))

    def test_nodes_of_a_sticks_end_leave_no_loop_and_what_it_costs_is_told(self) -> None:
        rng = np.random.default_rng(3)
        wobble = [(x, 3 * math.sin(x / 9) + rng.uniform(-0.3, 0.3)) for x in range(0, 120, 6)]
        stick = Contour.make(
            [(x, y + 4) for x, y in wobble]
            + [(121, 2), (123, 1), (121, -1)]
            + [(x, y - 4) for x, y in wobble[::-1]]
        )
        for first in range(14, 24):
            gone = [(first + k) % len(stick.nodes) for k in range(10)]
            found = nodes_gone(stick, gone)
            assert found is not None
            with self.subTest(first=first):
                self.assertEqual(len(self_crossings(found.contour.spans)) > 0, found.crosses)
                plain = Contour.make(np.delete(stick.nodes, gone, axis=0))
                self.assertLess(
                    abs(abs(found.contour.area) - abs(stick.area)),
                    1.05 * abs(abs(plain.area) - abs(stick.area)) + 5,
                )
                self.assertGreaterEqual(
                    deviation_between(stick, found.contour), 0.5 * found.off - 0.1
                )

    def test_no_removal_crosses_anything_that_was_not_crossed(self) -> None:
        rng = np.random.default_rng(8)
        for kind in ("gear", "letter", "plate of curves", "L bracket"):
            for seed in range(6):
                whole = drawn(kind, seed)
                contour, others = whole[0], whole[1:]
                for _ in range(4):
                    first, many = (
                        int(rng.integers(len(contour.nodes))),
                        int(rng.integers(1, max(2, len(contour.nodes) - 2))),
                    )
                    found = nodes_gone(contour, [first + k for k in range(many)], others)
                    if found is None:
                        continue
                    with self.subTest(kind, seed=seed, first=first, many=many):
                        anew = len(self_crossings(found.contour.spans)) + (
                            len(crossings(found.contour.spans, joined_spans(others)[0]))
                            if others
                            else 0
                        )
                        self.assertEqual(anew > 0, found.crosses)
                        if found.crosses:
                            self.assertIn(found.manner, ("straight", ""))

    def test_moving_a_node_or_a_handle_leaves_the_rest_alone(self) -> None:
        contour = blob()
        moved = move_node(contour, 2, 3, -1)
        np.testing.assert_allclose(moved.nodes[2] - contour.nodes[2], (3, -1))
        np.testing.assert_array_equal(
            np.delete(moved.nodes, 2, axis=0), np.delete(contour.nodes, 2, axis=0)
        )
        turned = move_handle(contour, 2, 0, 4, 4)
        self.assertFalse(turned.corners()[2])  # the handle beyond turned along
        self.assertTrue(move_handle(contour, 2, 0, 4, 4, alone=True).corners()[2])

    def test_a_span_drawn_at_passes_through_where_it_was_let_go(self) -> None:
        for contour, span in ((blob(), 3), (mixed_contour(), 1), (Contour.circle(0, 0, 20), 0)):
            at = contour.spans.at(np.array([span]), np.array([0.4]))[0]
            found = bend_span(contour, span, 0.4, 1.5, -2.0)
            if contour.kinds[span] == ARC:
                points = found.spans.at(np.full(2000, span), np.linspace(0, 1, 2000))
                self.assertLess(np.hypot(*(points - at - (1.5, -2.0)).T).min(), 0.1)
            else:
                np.testing.assert_allclose(
                    found.spans.at(np.array([span]), np.array([0.4]))[0],
                    at + (1.5, -2.0),
                    atol=1e-9,
                )

    def test_a_span_drawn_at_leaves_smooth_nodes_smooth_and_corners_corners(self) -> None:
        rng = np.random.default_rng(5)
        tangent = (
            Contour.make(  # a line, a curve that runs on from it, an arc that runs on from that
                [(0, 0), (40, 0), (80, 30), (80, 70)],
                [LINE, CUBIC, ARC, CUBIC],
                [0.0, 0.0, 0.5, 0.0],
                np.array(
                    [
                        np.zeros((2, 2)),
                        [(60, 0), (72, 18)],
                        np.zeros((2, 2)),
                        [(60, 90), (-30, 0)],
                    ]
                ),
            )
        )
        tangent = make_smooth(tangent, [2, 3])
        curve = np.flatnonzero(tangent.kinds == CUBIC)
        for contour, spans in ((blob(), range(8)), (tangent, [*curve.tolist(), 2])):
            for span in spans:
                for _ in range(12):
                    t, way = float(rng.uniform(0.1, 0.9)), rng.normal(0, 12, 2).tolist()
                    bent = bend_span(contour, span, t, *way)
                    leave, reach = bent.spans.tangents()
                    into = np.roll(reach, 1, axis=0)
                    turned = np.abs(into[:, 0] * leave[:, 1] - into[:, 1] * leave[:, 0])
                    ahead = (into * leave).sum(axis=1)
                    smooth = ~contour.corners()
                    with self.subTest(span=span, t=t, way=way):
                        np.testing.assert_allclose(turned[smooth], 0, atol=0.07)
                        self.assertTrue((ahead[smooth] > 0).all())
                        np.testing.assert_array_equal(bent.nodes, contour.nodes)

    def test_corners_and_smooth_nodes_change_into_each_other(self) -> None:
        broken = make_corners(blob(), range(8))
        self.assertTrue(broken.corners().all())
        self.assertFalse(make_smooth(broken, range(8)).corners().any())
        np.testing.assert_array_equal(broken.nodes, blob().nodes)

    def test_handles_are_made_even_and_square_and_a_bulge_holds_its_tangents(self) -> None:
        lopsided = move_handle(blob(), 2, 0, 7, 3)
        even = make_symmetrical(lopsided, [2])
        into, out = even.handles[1, 1] - even.nodes[2], even.handles[2, 0] - even.nodes[2]
        np.testing.assert_allclose(into, -out, atol=1e-9)
        square = square_handles(lopsided, [2, 3])
        arms = square.handles[2] - square.nodes[[2, 3]]
        self.assertEqual([int((np.abs(arm) > 1e-12).sum()) for arm in arms], [1, 1])
        np.testing.assert_allclose(
            np.hypot(*arms.T), np.hypot(*(lopsided.handles[2] - lopsided.nodes[[2, 3]]).T)
        )
        for away in ((8, 5), (-3, -2), (-90, -90)):
            swelled = swell_span(blob(), 1, 0.4, *away)
            before, after = (
                contour.handles[1] - contour.nodes[[1, 2]] for contour in (blob(), swelled)
            )
            np.testing.assert_allclose(
                (before / np.hypot(*before.T)[:, None]),
                after / np.hypot(*after.T)[:, None],
                atol=1e-9,
            )
            self.assertGreater(float(np.hypot(*after.T).min()), 0)

    def test_kinds_change_many_at_once_and_lines_become_curves_where_they_lay(self) -> None:
        box = Contour.make([(0, 0), (40, 0), (40, 30), (0, 30)])
        curves = make_kind(box, range(4), CUBIC)
        self.assertEqual(curves.kinds.tolist(), [CUBIC] * 4)
        self.assertLess(deviation_between(curves, box), 1e-9)
        self.assertEqual(make_kind(curves, [0, 2], LINE).kinds.tolist(), [LINE, CUBIC, LINE, CUBIC])
        for way in (box, box.reversed()):
            round_ = make_kind(way, [0, 2], ARC)
            self.assertEqual(round_.kinds.tolist(), [ARC, LINE, ARC, LINE])
            self.assertGreater(abs(round_.area), abs(way.area) + 100)  # outwards
        arcs = make_kind(make_kind(Contour.circle(0, 0, 20), range(2), CUBIC), range(2), ARC)
        self.assertTrue((arcs.kinds == ARC).all())
        self.assertLess(deviation_between(arcs, Contour.circle(0, 0, 20)), 0.5)


if __name__ == "__main__":
    unittest.main()
