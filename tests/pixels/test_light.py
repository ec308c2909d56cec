"""Uneven light is told from what is printed, and even pages are left alone."""

from __future__ import annotations

import unittest

import cv2
import numpy as np

from bench.shapes import SHAPES, clean, scan_like
from draxet.pixels.uneven_light import is_unevenly_lit
from draxet.trace.edges import EdgeRequest, trace_edges
from draxet.trace.ground import Ground
from draxet.trace.levels import automatic_level

_SIZE = (700, 1000)


def page(seed: int) -> tuple[np.ndarray, np.ndarray]:
    """A page of crosses and rings, and where they are."""
    rng = np.random.default_rng(seed)
    grey = np.full(_SIZE, 232, np.uint8)
    places = np.array(
        [(x, y) for x in range(60, 960, 110) for y in range(60, 660, 100)]
    ) + rng.integers(-8, 9, (54, 2))
    for k, (x, y) in enumerate(places.tolist()):
        cv2.circle(grey, (x, y), 18, 50, 3, cv2.LINE_AA) if k % 2 else cv2.drawMarker(
            grey, (x, y), 50, cv2.MARKER_CROSS, 34, 3
        )
    return grey, places


def lit(grey: np.ndarray, kind: str, seed: int) -> np.ndarray:
    y, x = np.indices(grey.shape)
    light = {
        "even": 1.0,
        "mild": 1 - 0.1 * x / 1000,
        "side": 1 - 0.6 * x / 1000,
        "corner": 1 - 0.8 * np.exp(-((x - 1000) ** 2 + (y - 700) ** 2) / (2 * 260.0**2)),
        "lamp": 0.4 + 0.62 * np.exp(-((x - 420) ** 2 + (y - 260) ** 2) / (2 * 330.0**2)),
        "shadow": 1 - 0.55 / (1 + np.exp(-(x - 600 - 0.3 * y) / 22.0)),
    }[kind]
    return np.clip(
        grey * light + np.random.default_rng(seed).normal(0, 3, grey.shape), 0, 255
    ).astype(np.uint8)


class Light(unittest.TestCase):
    def test_is_followed_where_it_is_uneven_and_all_that_is_drawn_comes_out(self) -> None:
        for kind in ("side", "corner", "lamp", "shadow"):
            for seed in range(2):
                grey, places = page(seed)
                photo = lit(grey, kind, seed)
                answer = trace_edges(EdgeRequest(photo, min_area=20.0))
                plain = trace_edges(EdgeRequest(photo, level=120.0, min_area=20.0))
                with self.subTest(kind, seed=seed):
                    self.assertTrue(answer.light_followed)
                    self.assertFalse(plain.light_followed)
                    middles = np.array(
                        [
                            [(c.box[0] + c.box[2]) / 2, (c.box[1] + c.box[3]) / 2]
                            for c in answer.contours
                        ]
                    )
                    near = np.hypot(
                        *(middles[:, None] - places[None] - 0.5).transpose(2, 0, 1)
                    ).min(axis=0)
                    self.assertGreaterEqual(int((near < 2).sum()), 53)

    def test_even_pages_and_what_is_printed_dark_or_grey_or_lies_on_a_table_stay_as_they_are(
        self,
    ) -> None:
        grey, _ = page(5)
        printed, dark, table = grey.copy(), grey.copy(), np.full(_SIZE, 70, np.uint8)
        printed[100:500, 80:500] = np.minimum(printed[100:500, 80:500], 150)
        dark[100:600, 100:640] = 50
        table[90:600, 120:880] = grey[90:600, 120:880]
        for name, each in {
            "even": grey,
            "mild": lit(grey, "mild", 1),
            "grey": lit(printed, "even", 2),
            "dark": lit(dark, "even", 3),
            "table": lit(table, "even", 4),
        }.items():
            with self.subTest(name):
                self.assertFalse(is_unevenly_lit(each, automatic_level(each)))
        for name, make in SHAPES.items():
            scan = scan_like(clean(make()))
            with self.subTest(name):
                self.assertFalse(Ground().readied(scan, None).light_followed)
                self.assertTrue(np.array_equal(Ground().readied(scan, None).values, scan))


if __name__ == "__main__":
    unittest.main()
