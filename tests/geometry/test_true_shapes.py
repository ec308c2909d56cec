import math
import unittest

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.shapes import rounded_polygon
from draxet.geometry.spans import ARC, LINE
from draxet.geometry.true_shapes import true_shapes


def jittered(contour: Contour, amount: float, seed: int = 0) -> Contour:
    """Nodes moved a little: what a trace of a noisy picture gives."""
    rng = np.random.default_rng(seed)
    return Contour.make(
        contour.nodes + rng.uniform(-amount, amount, contour.nodes.shape),
        contour.kinds,
        contour.bulges,
        contour.handles,
    )


def square_off(contour: Contour) -> float:
    """Greatest angle in degrees between a line and its nearest square direction."""
    steps = (contour.spans.ends - contour.spans.starts)[contour.kinds == LINE]
    angles = np.arctan2(steps[:, 1], steps[:, 0])
    return float(
        np.degrees(np.abs((angles - angles[0] + math.pi / 4) % (math.pi / 2) - math.pi / 4)).max()
    )


class TrueShapes(unittest.TestCase):
    def test_nearly_square_becomes_exactly_square_wherever_it_lies(self) -> None:
        plate = Contour.make(
            [(0, 0), (200, 0), (200, 80), (120, 80), (120, 150), (0, 150)]
        ).transformed(Affine.turned(17))
        rough = jittered(plate, 0.15)
        self.assertGreater(square_off(rough), 0.05)
        trued = true_shapes([rough], 0.35)
        self.assertLess(square_off(trued.contours[0]), 1e-9)
        self.assertEqual(trued.squared, 6)
        self.assertLess(trued.moved, 0.7)
        self.assertIn("6 lines made square", trued.words)

    def test_roundings_stay_tangent_and_equal_radii_become_equal(self) -> None:
        plates = [
            rounded_polygon([(0, 0, r), (200, 0, r + 0.1), (200, 100, r - 0.1), (0, 100, r + 0.05)])
            for r in (20.0, 20.1)
        ]
        holes = [
            Contour.circle(50, 50, 7.95),
            Contour.circle(150, 50, 8.05).reversed(),
            Contour.circle(100, 50, 12),
        ]
        trued = true_shapes([*plates, *holes], 0.35)
        radii = np.concatenate(
            [c.spans.arc_shapes().radii[c.kinds == ARC] for c in trued.contours[:2]]
        )
        self.assertLess(np.ptp(radii), 1e-9)
        self.assertFalse(any(c.corners().any() for c in trued.contours[:2]))
        self.assertEqual(
            [round(c.circle_shape[2], 6) for c in trued.contours[2:] if c.circle_shape],
            [8.0, 8.0, 12.0],
        )
        self.assertLess(trued.contours[3].area, 0)

    def test_what_is_not_square_or_not_alone_in_its_direction_is_left(self) -> None:
        slanted = Contour.make([(0, 0), (200, 0), (230, 100), (30, 104)])
        star = Contour.make(
            [
                (100 * math.cos(a), 100 * math.sin(a))
                for a in np.linspace(0, 2 * math.pi, 5, endpoint=False)
            ]
        )
        slit = Contour.make([(0, 0), (9, 1)], closed=False)
        trued = true_shapes(
            [slanted, star, slit, Contour.circle(0, 0, 5), Contour.circle(0, 0, 6)], 0.35
        )
        self.assertEqual(
            trued.contours[1:], (star, slit, Contour.circle(0, 0, 5), Contour.circle(0, 0, 6))
        )
        self.assertEqual((trued.squared, trued.equal, trued.words), (0, 0, ""))


if __name__ == "__main__":
    unittest.main()
