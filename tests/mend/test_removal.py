"""A piece taken out: what goes with it, what it leaves open, and the hole closed again."""

from __future__ import annotations

import math
import unittest

import numpy as np

from draxet.geometry.contour import Contour
from draxet.geometry.pieces import position_near
from draxet.job.bridge_edits import add_bridges
from draxet.job.contour_edits import add_contours
from draxet.job.contour_records import Bridge
from draxet.job.records import Job
from draxet.mend.removal import Removal, closing, filled, removal


def line(*places: tuple[float, float]) -> Contour:
    return Contour.make(places, closed=False)


def taken(job: Job, number: int, x: float, y: float) -> Removal:
    item = job.contours[number]
    found = removal(
        job,
        item.id,
        [other.contour for other in job.contours if other is not item],
        position_near(item.contour, x, y),
    )
    assert found is not None
    return found


class Pieces(unittest.TestCase):
    def test_what_goes_along_and_what_will_end_in_the_open_is_told_before(self) -> None:
        job = add_contours(Job(), [Contour.circle(0, 0, 20), line((-30, 5), (30, 5))])
        circle = job.contours[0].id
        job = add_bridges(
            job,
            [
                Bridge("", 14.142135623730951, 14.142135623730951, 2.0, circle),
                Bridge("", 0, -20, 2.0, circle),
            ],
        )
        found = taken(job, 0, 5, 19)
        self.assertEqual(len(found.opened), 2)
        self.assertEqual(found.bridges, (job.bridges[0].id,))
        after, hole = found.done(job)
        assert hole is not None
        self.assertEqual([bridge.id for bridge in after.bridges], [job.bridges[1].id])
        self.assertAlmostEqual(hole.apart, 2 * math.sqrt(20**2 - 5**2), places=6)

    def test_closed_again_by_a_tangent_arc_a_circle_is_what_it_was(self) -> None:
        job = add_contours(Job(), [Contour.circle(3, 4, 20), line((-30, 10), (40, 10))])
        after, hole = taken(job, 0, 3, 24).done(job)
        assert hole is not None
        again = filled(after, hole, closing(hole, "tangent")).contours[0].contour
        self.assertTrue(again.closed)
        self.assertAlmostEqual(abs(again.area), math.pi * 400, places=6)
        np.testing.assert_allclose(
            again.spans.arc_shapes().centres, [[3, 4]] * len(again.kinds), atol=1e-6
        )
        flat = filled(after, hole, closing(hole, "straight")).contours[0].contour
        self.assertLess(abs(flat.area), math.pi * 400)

    def test_a_hole_in_an_open_contour_is_closed_to_one_contour(self) -> None:
        job = add_contours(
            Job(), [line((0, 0), (100, 0)), line((40, -5), (40, 5)), line((60, -5), (60, 5))]
        )
        after, hole = taken(job, 0, 50, 0).done(job)
        assert hole is not None
        self.assertEqual(len(after.contours), 4)
        again = filled(after, hole, closing(hole, "straight"))
        self.assertEqual(len(again.contours), 3)
        self.assertAlmostEqual(again.contours[0].contour.length, 100)
        cut_off, none = taken(job, 0, 80, 0).done(job)  # an end: nothing is left to be closed
        self.assertIsNone(none)
        self.assertAlmostEqual(cut_off.contours[0].contour.length, 60)

    def test_a_tangent_curve_leaves_both_ends_as_they_run(self) -> None:
        rng = np.random.default_rng(2)
        for _ in range(20):
            a, b, c, d = rng.uniform(0, 50, (4, 2))
            aside = np.array([c[1] - b[1], b[0] - c[0]]) * 1e-3
            across = [
                Contour.make([b + (c - b) * t - aside, b + (c - b) * t + aside], closed=False)
                for t in (0.3, 0.7)
            ]
            job = add_contours(Job(), [Contour.make([a, b, c, d], closed=False), *across])
            found = taken(job, 0, *((b + c) / 2).tolist())
            if len(found.left) != 2:
                continue  # it crosses itself as well
            _, hole = found.done(job)
            assert hole is not None
            by = closing(hole, "tangent")
            leave, reach = by.spans.tangents()
            np.testing.assert_allclose(leave[0], hole.before.spans.tangents()[1][-1], atol=1e-6)
            np.testing.assert_allclose(reach[-1], hole.after.spans.tangents()[0][0], atol=1e-6)


if __name__ == "__main__":
    unittest.main()
