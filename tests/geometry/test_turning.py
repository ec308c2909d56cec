"""Moves that turn: what holds them holds every point of theirs, and no more."""

from __future__ import annotations

import unittest

import numpy as np
import shapely

from draxet.geometry.turning import boxes, nearest, way_points


class Moves(unittest.TestCase):
    """Of 300 moves every fifth is straight, the others turn anywhere by anything."""

    def setUp(self) -> None:
        random, count = np.random.default_rng(8), 300
        self.begins, self.centres = (
            random.uniform(-50, 50, (count, 2)),
            random.uniform(-50, 50, (count, 2)),
        )
        self.turns = np.where(
            np.arange(count) % 5 == 0, 0.0, random.uniform(-2 * np.pi, 2 * np.pi, count)
        )
        spokes, cos, sin = self.begins - self.centres, np.cos(self.turns), np.sin(self.turns)
        turned = self.centres + np.column_stack(
            [cos * spokes[:, 0] - sin * spokes[:, 1], sin * spokes[:, 0] + cos * spokes[:, 1]]
        )
        self.ends = np.where(
            (self.turns == 0)[:, None], random.uniform(-50, 50, (count, 2)), turned
        )
        points, owner = way_points(self.begins, self.ends, self.centres, self.turns, 1e-4)
        self.ways = [np.vstack([begin, points[owner == k]]) for k, begin in enumerate(self.begins)]

    def test_their_places_lie_on_them_and_the_steps_between_near_them(self) -> None:
        for k, way in enumerate(self.ways):
            np.testing.assert_allclose(way[-1], self.ends[k])
            if self.turns[k] == 0:
                self.assertEqual(len(way), 2)
                continue
            radius = np.hypot(*(self.begins[k] - self.centres[k]))
            np.testing.assert_allclose(np.hypot(*(way - self.centres[k]).T), radius, atol=1e-9)
            middles = (way[1:] + way[:-1]) / 2
            self.assertLess(radius - np.hypot(*(middles - self.centres[k]).T).min(), 1e-4 + 1e-9)

    def test_they_fill_their_boxes(self) -> None:
        low, high = boxes(self.begins, self.ends, self.centres, self.turns)
        np.testing.assert_allclose(low, [way.min(axis=0) for way in self.ways], atol=2e-4)
        np.testing.assert_allclose(high, [way.max(axis=0) for way in self.ways], atol=2e-4)

    def test_how_far_they_pass_from_a_place_and_when(self) -> None:
        place = np.array([3.0, -7.0])
        off, share = nearest(self.begins, self.ends, self.centres, self.turns, place)
        lines = [shapely.LineString(way) for way in self.ways]
        np.testing.assert_allclose(off, shapely.distance(lines, shapely.Point(place)), atol=3e-4)
        there = [
            line.interpolate(each, normalized=True)
            for line, each in zip(lines, share.tolist(), strict=True)
        ]
        np.testing.assert_allclose(shapely.distance(there, shapely.Point(place)), off, atol=2e-2)
