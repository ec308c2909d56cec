"""Walks along edges: as few nodes in grain as where there is none, and no farther off than the
edges themselves wander."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
import shapely

from draxet.geometry.arrays import Points
from draxet.trace.levels import automatic_level
from draxet.trace.walk import edge_map, fitted_walk, reach_from, walk_to

_SIDE = 420


def outline(kind: str) -> Points:
    t = np.linspace(0, 2 * np.pi, 720, endpoint=False)
    c, s = np.cos(t), np.sin(t)
    if kind == "box":  # a box with round corners
        return np.column_stack(
            [210 + 130 * np.sign(c) * np.abs(c) ** 0.35, 210 + 95 * np.sign(s) * np.abs(s) ** 0.35]
        )
    if kind == "pear":
        return np.column_stack([210 + (120 - 25 * s) * c, 210 + 140 * s])
    return np.array([(70, 90), (350, 70), (330, 340), (210, 250), (90, 350.0)])


def photo(kind: str, grain: float, seed: int) -> np.ndarray:
    """Grain of mixed sizes: noise whose waves are the fainter the shorter they are."""
    fine = np.full((_SIDE * 4, _SIDE * 4), 200, np.uint8)
    cv2.fillPoly(fine, [np.round(outline(kind) * 4 * 16).astype(np.int32)], 80, cv2.LINE_8, 4)
    soft = cv2.GaussianBlur(
        cv2.resize(fine, (_SIDE, _SIDE), interpolation=cv2.INTER_AREA), (0, 0), 1.0
    ).astype(float)
    waves = np.fft.rfft2(np.random.default_rng(seed).normal(0, 1, soft.shape))
    often = np.hypot(np.fft.fftfreq(_SIDE)[:, None], np.fft.rfftfreq(_SIDE)[None])
    noise = np.fft.irfft2(waves / (0.05 + often) ** 0.8 * (often > 0.02), soft.shape)
    return np.clip(soft + grain * noise / noise.std(), 0, 255).astype(np.uint8)


def walked(kind: str, grain: float, seed: int) -> Points:
    grey = photo(kind, grain, seed)
    lines = edge_map(grey, automatic_level(grey), 12.0)
    assert lines is not None
    places = outline(kind)
    ends = [
        lines.nearest(*places[k])[0]
        for k in np.linspace(0, len(places), 4, endpoint=False).astype(int)
    ]
    ways = [
        walk_to(reach_from(lines, a), b) for a, b in zip(ends, [*ends[1:], ends[0]], strict=True)
    ]
    return np.vstack([lines.points[way] for way in ways if way is not None])


class InGrain(unittest.TestCase):
    def test_a_walk_has_no_more_nodes_than_the_shape_and_lies_no_farther_off_than_the_edge(
        self,
    ) -> None:
        for kind in ("box", "pear", "kite"):
            ring = shapely.LinearRing(outline(kind))

            def off(places: Points, ring: shapely.LinearRing = ring) -> float:
                return float(np.sqrt(np.mean(shapely.distance(shapely.points(places), ring) ** 2)))

            clean = fitted_walk(walked(kind, 0.0, 0), 0.1, closed=True)
            for grain in (7.0, 13.0):
                for seed in range(2):
                    way = walked(kind, grain, seed)
                    found = fitted_walk(way, 0.1, closed=True)
                    with self.subTest(kind, grain=grain, seed=seed):
                        self.assertLessEqual(len(found.nodes), max(1.6 * len(clean.nodes), 12))
                        self.assertLess(off(found.flattened(0.05)), 1.5 * off(way) + 0.15)


if __name__ == "__main__":
    unittest.main()
