"""Moves that turn: what holds them holds every point of theirs, and no more."""

from __future__ import annotations

import unittest

import numpy as np

from draxet.geometry.turning import arc_points, boxes


class Boxes(unittest.TestCase):
    def test_an_arc_of_any_turn_and_a_straight_move_fill_their_box(self) -> None:
        random = np.random.default_rng(8)
        count = 300
        begins, centres = random.uniform(-50, 50, (count, 2)), random.uniform(-50, 50, (count, 2))
        turns = np.where(np.arange(count) % 5 == 0, 0.0, random.uniform(-2 * np.pi, 2 * np.pi, count))
        ways = [np.vstack([begin, arc_points(begin, centre, turn, 1e-4) if turn else random.uniform(-50, 50, (1, 2))]) for begin, centre, turn in zip(begins, centres, turns.tolist(), strict=True)]
        low, high = boxes(begins, np.array([way[-1] for way in ways]), centres, turns)
        np.testing.assert_allclose(low, [way.min(axis=0) for way in ways], atol=2e-4)
        np.testing.assert_allclose(high, [way.max(axis=0) for way in ways], atol=2e-4)
