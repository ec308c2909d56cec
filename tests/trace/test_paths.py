import unittest

import numpy as np

from draxet.trace.paths import End, Path, join_gaps
from draxet.trace.skeleton import skeleton_of


def path(*places: tuple[float, float]) -> Path:
    ends = np.array(places, dtype=float)
    steps = int(np.hypot(*(ends[-1] - ends[0]))) + 2
    return Path(np.linspace(ends[0], ends[-1], steps), 3.0)


class Skeletons(unittest.TestCase):
    def ink(self, *bars: tuple[int, int, int, int]) -> np.ndarray:
        ink = np.zeros((120, 140), dtype=bool)
        for x0, y0, x1, y1 in bars:
            ink[y0:y1, x0:x1] = True
        return ink

    def test_a_bar_is_one_branch_with_two_free_ends(self) -> None:
        skeleton = skeleton_of(self.ink((20, 50, 120, 57)))
        (branch,) = skeleton.branches
        self.assertEqual((branch.first, branch.last, branch.closed), (-1, -1, False))
        self.assertLess(np.abs(branch.points[:, 1] - 53.5).max(), 3.1)
        self.assertEqual(len(skeleton.junctions), 0)

    def test_a_cross_is_four_branches_at_one_junction(self) -> None:
        skeleton = skeleton_of(self.ink((20, 50, 120, 57), (65, 10, 72, 110)))
        self.assertEqual(len(skeleton.branches), 4)
        joints = {max(branch.first, branch.last) for branch in skeleton.branches}
        self.assertEqual(len(joints), 1)
        np.testing.assert_allclose(skeleton.junctions[joints.pop()], (68.5, 53.5), atol=1.5)

    def test_a_ring_is_one_closed_branch(self) -> None:
        ink = self.ink((30, 30, 110, 90))
        ink[37:83, 37:103] = False
        skeleton = skeleton_of(ink)
        self.assertTrue(
            any(branch.closed for branch in skeleton.branches) or len(skeleton.junctions) > 0
        )
        self.assertGreater(sum(len(branch.points) for branch in skeleton.branches), 200)

    def test_roughness_makes_no_branches(self) -> None:
        ink = self.ink((20, 50, 120, 59))
        ink[49, 40] = ink[59, 70] = ink[49, 90] = True
        self.assertEqual(len(skeleton_of(ink).branches), 1)


class Gaps(unittest.TestCase):
    def test_ends_that_point_at_each_other_are_joined_and_others_are_not(self) -> None:
        left, right, across = path((0, 0), (40, 0)), path((46, 0), (90, 0)), path((43, 4), (43, 40))
        joined = join_gaps([left, right, across], 8.0)
        self.assertEqual(sorted(round(p.length) for p in joined), [36, 90])
        self.assertEqual(len(join_gaps([left, right, across], 4.0)), 3)

    def test_an_end_at_a_junction_is_no_free_end(self) -> None:
        left = Path(path((0, 0), (40, 0)).points, 3.0, End(-1), End(0))
        self.assertEqual(len(join_gaps([left, path((46, 0), (90, 0))], 8.0)), 2)

    def test_a_nearly_closed_stroke_closes_on_itself(self) -> None:
        t = np.linspace(0.05, 2 * np.pi - 0.05, 400)
        ring = Path(np.column_stack([60 * np.cos(t), 60 * np.sin(t)]), 3.0)
        (closed,) = join_gaps([ring], 8.0)
        self.assertTrue(closed.closed)

    def test_headings_point_out_of_the_end(self) -> None:
        straight = path((0, 0), (30, 30)).heading(10.0)
        assert straight is not None
        np.testing.assert_allclose(straight.along, (2**-0.5, 2**-0.5), atol=1e-9)
        self.assertEqual(straight.bend, 0.0)
        t = np.linspace(0, 1, 100)[:, None]
        round_the_corner = Path(50 * np.hstack([np.sin(t), 1 - np.cos(t)]), 3.0).heading(20.0)
        assert round_the_corner is not None
        np.testing.assert_allclose(round_the_corner.along, (np.cos(1), np.sin(1)), atol=0.03)
        self.assertAlmostEqual(round_the_corner.bend, 1 / 50, delta=0.004)
        self.assertIsNone(Path(np.zeros((0, 2)), 3.0).heading(5.0))


if __name__ == "__main__":
    unittest.main()
