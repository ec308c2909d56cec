"""What two threads ask at once is spoilt by neither."""

from __future__ import annotations

import ast
import os
import subprocess
import sys
import unittest
from pathlib import Path

import numpy as np
import shapely

from draxet.geometry.prepared import prepared

SOURCES = Path(__file__).resolve().parents[2] / "src"

TOGETHER = """
import threading
import numpy as np
import shapely
from draxet.job.cut_bands import Shape, hanging_together, in_which

rng = np.random.default_rng(0)


def ring(x):
    turns = np.linspace(0, 2 * np.pi, 2000, endpoint=False)
    reach = 10 + rng.uniform(0, 1, 2000)
    return shapely.Polygon(np.column_stack([x + reach * np.cos(turns), reach * np.sin(turns)]))


points = shapely.points(rng.uniform(-12, 12, (300, 2)))
for _ in range(60):
    shapes = np.array([ring(5.0 * k) for k in range(4)])
    bands = [Shape(each.exterior) for each in shapes]
    go = threading.Barrier(2)

    def ask():
        go.wait()
        for _ in range(2):
            in_which(shapes, points)
            hanging_together(bands, {})

    threads = [threading.Thread(target=ask) for _ in range(2)]
    for each in threads:
        each.start()
    for each in threads:
        each.join()
print("whole")
"""

OF_THEIR_OWN = {
    "crossed",
    "find",
    "how_small",
    "middle_lines",
    "nesting",
    "place_looks",
    "pocket",
    "prepared",
    "satin_corners",
    "solid_slopes",
}
"""Modules that prepare what they made themselves a line before, and nobody else holds."""


class Prepared(unittest.TestCase):
    def test_copies_answer_as_the_shapes_do_and_those_stay_as_they_were(self) -> None:
        shapes = np.array([shapely.box(0, 0, 2, 2), shapely.Point(5, 5).buffer(1)])
        points = shapely.points([(1, 1), (5, 5), (9, 9)])
        ready = prepared(shapes)
        self.assertTrue(shapely.equals_exact(ready, shapes).all())
        self.assertTrue(shapely.is_prepared(ready).all())
        self.assertFalse(shapely.is_prepared(shapes).any())
        np.testing.assert_array_equal(
            shapely.contains(ready[:, None], points), shapely.contains(shapes[:, None], points)
        )

    def test_two_threads_may_ask_where_the_same_shapes_are(self) -> None:
        done = subprocess.run(
            [sys.executable, "-c", TOGETHER],
            capture_output=True,
            text=True,
            env={**os.environ, "PYTHONPATH": str(SOURCES)},
        )
        self.assertEqual((done.returncode, done.stdout), (0, "whole\n"), done.stderr)

    def test_nothing_that_others_may_hold_is_prepared_itself(self) -> None:
        preparing = {
            path.stem
            for path in SOURCES.rglob("*.py")
            for node in ast.walk(ast.parse(path.read_text("utf-8")))
            if isinstance(node, ast.Call) and ast.unparse(node.func) == "shapely.prepare"
        }
        self.assertEqual(preparing, OF_THEIR_OWN)
