"""What several tests need: pictures of known shapes, distances between contours, and the demo's
truth."""

from __future__ import annotations

import unittest
from collections.abc import Sequence
from pathlib import Path

import cv2
import numpy as np
import shapely

from bench.raster import ink_on_paper
from draxet.geometry.contour import Contour
from draxet.geometry.shapes import rounded_polygon

ROOT = Path(__file__).resolve().parent.parent


def drawn(
    contours: Sequence[Contour], size: int = 300, *, noise: float = 0.0, blur: float = 0.0
) -> np.ndarray:
    """Contours in picture space as ink (even-odd) on paper, antialiased."""
    picture = ink_on_paper([contour.flattened(0.01) for contour in contours], size).astype(float)
    if blur:
        picture = cv2.GaussianBlur(picture, (0, 0), blur)
    return np.clip(
        picture + np.random.default_rng(1).normal(0, noise, picture.shape), 0, 255
    ).astype(np.uint8)


def _line(contour: Contour) -> shapely.LineString:
    points = contour.flattened(0.0005)
    return shapely.LineString(np.vstack([points, points[:1]]) if contour.closed else points)


def dense(contour: Contour, step: float = 0.1) -> np.ndarray:
    """Points every `step` along a contour."""
    line = np.asarray(_line(contour).coords)
    along = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    at = np.arange(0, along[-1], step)
    return np.column_stack([np.interp(at, along, line[:, k]) for k in (0, 1)])


def apart(a: Contour, b: Contour) -> tuple[float, float]:
    """Mean and greatest distance between two contours, both ways."""
    there, back = (
        _distances(dense(one), np.asarray(_line(other).coords)) for one, other in ((a, b), (b, a))
    )
    return float((there.mean() + back.mean()) / 2), float(max(there.max(), back.max()))


def _distances(points: np.ndarray, line: np.ndarray) -> np.ndarray:
    """How far points lie from a line of straight pieces."""
    tree = shapely.STRtree(shapely.linestrings(np.stack([line[:-1], line[1:]], axis=1)))
    return np.asarray(
        tree.query_nearest(shapely.points(points), return_distance=True, all_matches=False)[1]
    )


def mixed_contour() -> Contour:
    """A closed contour of lines, arcs and a cubic."""
    base = rounded_polygon([(10, 10, 8), (90, 10, 0), (90, 60, 15), (10, 60, 0)])
    kinds, handles = base.kinds.copy(), base.handles.copy()
    last = len(kinds) - 1
    kinds[last] = 2
    handles[last] = [(2, 45), (20, 30)]
    return Contour.make(base.nodes, kinds, base.bulges, handles)


class GeometryTest(unittest.TestCase):
    """Assertions about contours."""

    def assert_same_line(self, a: Contour, b: Contour, within: float) -> None:
        self.assertEqual(a.closed, b.closed)
        self.assertLessEqual(apart(a, b)[1], within)
