"""Moves that turn: what holds them holds every point of theirs, and no more."""

from __future__ import annotations

import unittest

import numpy as np
import shapely

from draxet.geometry.turning import arc_points, boxes, nearest


class Moves(unittest.TestCase):
    """Of 300 moves every fifth is straight, the others turn anywhere by anything."""

    def setUp(self) -> None:
        random, count = np.random.default_rng(8), 300
        self.begins, self.centres = random.uniform(-50, 50, (count, 2)), random.uniform(-50, 50, (count, 2))
        self.turns = np.where(np.arange(count) % 5 == 0, 0.0, random.uniform(-2 * np.pi, 2 * np.pi, count))
        each = zip(self.begins, self.centres, self.turns.tolist(), strict=True)
        self.ways = [np.vstack([begin, arc_points(begin, centre, turn, 1e-4) if turn else random.uniform(-50, 50, (1, 2))]) for begin, centre, turn in each]
        self.ends = np.array([way[-1] for way in self.ways])

    def test_they_fill_their_boxes(self) -> None:
        low, high = boxes(self.begins, self.ends, self.centres, self.turns)
        np.testing.assert_allclose(low, [way.min(axis=0) for way in self.ways], atol=2e-4)
        np.testing.assert_allclose(high, [way.max(axis=0) for way in self.ways], atol=2e-4)

    def test_how_far_they_pass_from_a_place_and_when(self) -> None:
        place = np.array([3.0, -7.0])
        off, share = nearest(self.begins, self.ends, self.centres, self.turns, place)
        lines = [shapely.LineString(way) for way in self.ways]
        np.testing.assert_allclose(off, shapely.distance(lines, shapely.Point(place)), atol=3e-4)
        there = [line.interpolate(each, normalized=True) for line, each in zip(lines, share.tolist(), strict=True)]
        np.testing.assert_allclose(shapely.distance(there, shapely.Point(place)), off, atol=2e-2)
