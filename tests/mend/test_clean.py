"""Gaps, overshoots, scraps and doubles: made on purpose, found, and mended to what was meant."""

from __future__ import annotations

import math
import unittest

import numpy as np

from bench.broken_parts import OTHER_PARTS, broken, other_part
from bench.dirt import DIRT_LIMITS, PARTS, as_drawn, dirty, drawn
from bench.mending import LIMITS, worn
from draxet.geometry.contour import Contour
from draxet.geometry.crossings import self_crossings
from draxet.geometry.pieces import piece, place_at, position_near
from draxet.geometry.shapes import rounded_polygon
from draxet.geometry.spans import ARC
from draxet.mend.clean import Cleaning, cleaned, flaws_of
from draxet.mend.doubles import doubles, united
from draxet.mend.gaps import gaps
from draxet.mend.overshoots import overshoots
from draxet.mend.scraps import scraps
from draxet.mend.trim import extended
from tests.shapes import apart

PLATE = rounded_polygon([(0, 0, 8), (100, 0, 8), (100, 60, 8), (0, 60, 8)])


def cut_back(contour: Contour, by: float) -> Contour:
    """An open contour without so many mm of its end."""
    begin, end = len(contour.kinds) - 1.0, float(len(contour.kinds))
    for _ in range(50):
        middle = (begin + end) / 2
        left = piece(contour, middle, float(len(contour.kinds)))
        begin, end = (middle, end) if left is not None and left.length > by else (begin, middle)
    short = piece(contour, 0.0, begin)
    assert short is not None
    return short


def line(*places: tuple[float, float]) -> Contour:
    return Contour.make(places, closed=False)


class Gaps(unittest.TestCase):
    def test_a_broken_plate_closes_and_lies_where_it_lay(self) -> None:
        first, second = piece(PLATE, 0.3, 3.46), piece(PLATE, 3.5, 0.28)
        assert first and second
        (whole,), done = cleaned([first, second.reversed()], Cleaning(gaps=3.0))
        self.assertTrue(whole[1].closed)
        self.assertEqual(len(done), 2)
        self.assertLess(max(apart(whole[1], PLATE)), 0.1)

    def test_each_manner_does_what_it_says(self) -> None:
        corner = [line((0, 0), (48, 0)), line((50, 3), (50, 40))]
        for manner, wanted in (("crossing", 4), ("straight", 4), ("together", 3), ("best", 4)):
            (flaw,) = gaps(corner, 5, manner)
            made = flaw.becomes[0][0]
            self.assertEqual(
                len(made.nodes) + (manner == "crossing") + (manner == "best"), wanted, manner
            )
        (flaw,) = gaps([line((0, 0), (47, 0)), line((50, 3), (50, 40))], 5, "arc")
        arcs = flaw.becomes[0][0]
        self.assertEqual(arcs.kinds.tolist(), [0, ARC, 0])
        self.assertAlmostEqual(float(arcs.spans.take(np.array([1])).arc_shapes().radii[0]), 3)
        self.assertFalse(arcs.corners()[1:3].any())

    def test_wrong_partners_are_refused_by_direction_and_slits_left_alone(self) -> None:
        self.assertEqual(gaps([line((0, 0), (40, 0)), line((0, 1), (40, 1))], 0.9), [])
        self.assertEqual(
            gaps([line((0, 0), (40, 0)), line((42, 30), (41, 0.5))], 2)[0].becomes.keys(), {0, 1}
        )
        self.assertEqual(
            [flaw.concerns for flaw in gaps([line((0, 0), (40, 0)), line((38, 1), (10, 30))], 3)],
            [{1}],
        )  # led on to the line, not to its end
        self.assertEqual(
            gaps([line((0, 0), (40, 0)), line((41, 0), (80, 0))], 3, without=frozenset({1})), []
        )

    def test_ends_that_stop_short_of_a_line_are_led_on_to_it_and_others_are_none(self) -> None:
        bars = {
            "line": line((0, 30), (60, 30)),
            "arc": Contour.make([(0, 20), (60, 20)], [ARC], [-0.4], closed=False),
            "circle": Contour.circle(30, 40, 10),
            "box": rounded_polygon([(0, 30, 0), (60, 30, 0), (60, 50, 0), (0, 50, 0)]),
        }
        stems = {
            "line": line((30, 0), (30, 20)),
            "arc": Contour.make([(0, 0), (28, 21)], [ARC], [0.15], closed=False),
            "curve": Contour.make(
                [(20, 0), (31, 20)], [2], None, [[(20, 8), (31, 12)]], closed=False
            ),
        }
        for name, bar in bars.items():
            for kind, stem in stems.items():
                for turned in (False, True):
                    with self.subTest(bar=name, stem=kind, turned=turned):
                        on = extended(stem, [bar], at_end=True)
                        assert on is not None
                        short = cut_back(on, 1.0)
                        short = short.reversed() if turned else short
                        (flaw,) = gaps([bar, short], 1.5)
                        self.assertAlmostEqual(flaw.size, 1.0, delta=0.03)
                        self.assertEqual(flaw.becomes.keys(), {1})
                        made, _ = cleaned([bar, short], Cleaning(gaps=1.5, overshoots=1.5))
                        self.assertEqual(made[0][1], bar)
                        tip = made[1][1].nodes[0 if turned else -1]
                        self.assertLess(
                            math.dist(place_at(bar, position_near(bar, *tip)), tip), 1e-6
                        )
                        self.assertEqual(
                            gaps([bar, made[1][1]], 1.5), [], "what lies on it is no gap"
                        )
                        self.assertEqual(gaps([bar, short], 0.9), [])
                        self.assertEqual(gaps([bar, short], 1.5, without=frozenset({1})), [])
        past = [line((0, 0), (0, 30.5)), line((-10, 30), (10, 30)), line((-14, 31), (14, 31))]
        self.assertEqual(gaps(past, 1.5), [], "an overshoot is led on to nothing")


class Cleans(unittest.TestCase):
    def test_overshoots_are_trimmed_to_the_crossing(self) -> None:
        frame = [
            line((-2, 0), (53, 0)),
            line((50, -3), (50, 33)),
            line((52, 30), (-1, 30)),
            line((0, 31), (0, -4)),
        ]
        found = overshoots(frame, 5)
        self.assertEqual(sorted(round(flaw.size) for flaw in found), [2, 3, 3, 4])
        made, done = cleaned(frame, Cleaning(gaps=0.01, overshoots=5))
        self.assertEqual([contour.closed for _, contour in made], [True])
        self.assertAlmostEqual(abs(made[0][1].area), 1500, places=6)

    def test_doubles_go_the_better_stays_and_a_shared_edge_is_meant(self) -> None:
        rough = Contour.make(PLATE.flattened(0.005))
        found = doubles(
            [rough, PLATE, Contour.circle(50, 30, 10), Contour.circle(50, 30, 10).reversed()], 0.02
        )
        self.assertEqual([flaw.kind for flaw in found], ["double", "double"])
        self.assertEqual({k for flaw in found for k in flaw.becomes} & {0, 1}, {0})
        left, right = (
            Contour.make([(0, 0), (10, 0), (10, 10), (0, 10)]),
            Contour.make([(10, 0), (20, 0), (20, 10), (10, 10)]),
        )
        self.assertEqual([flaw.kind for flaw in doubles([left, right], 0.02)], ["shared"])
        over = doubles([line((0, 0), (60, 0), (60, 30)), line((20, 0), (90, 0))], 0.02)
        self.assertEqual([(flaw.kind, round(flaw.size)) for flaw in over], [("stretch", 40)])
        (parts,) = over[0].becomes.values()
        self.assertAlmostEqual(sum(part.length for part in parts), 30)
        near = doubles(
            [line((0, 0), (60, 0)), line((0, 0.01), (60, 0.01)), line((0, 3), (60, 3))], 0.05
        )
        self.assertEqual(len(near), 1)

    def test_scraps_go_and_overlaps_become_one_outline(self) -> None:
        self.assertEqual(
            [
                next(iter(f.becomes))
                for f in scraps([PLATE, Contour.circle(0, 0, 0.2), line((0, 0), (0.1, 0))], 0.5)
            ],
            [1, 2],
        )
        (one,) = united(
            [Contour.circle(0, 0, 10), Contour.circle(12, 0, 10), Contour.circle(24, 0, 10)]
        )
        self.assertTrue((one.kinds == ARC).all())

    def test_edges_drawn_past_their_fillets_end_where_they_are_tangent_and_arcs_stay_arcs(
        self,
    ) -> None:
        spans = [piece(PLATE, float(k), k + 1.0) for k in range(len(PLATE.kinds))]
        for past, short in ((1.5, 0.0), (0.6, 0.3), (0.0, 0.3)):
            broken = []
            for span in spans:
                assert span is not None
                if span.kinds[0] == ARC:
                    broken.append(cut_back(span, short) if short else span)
                else:
                    way = (span.nodes[1] - span.nodes[0]) / span.length
                    broken.append(
                        Contour.make(
                            [span.nodes[0] - way * past, span.nodes[1] + way * past], closed=False
                        )
                    )
            made = [
                contour for _, contour in cleaned(broken, Cleaning(gaps=0.5, overshoots=2.0))[0]
            ]
            with self.subTest(past=past, short=short):
                self.assertEqual(len(made), 1)
                self.assertTrue(made[0].closed)
                self.assertEqual((made[0].kinds == ARC).sum(), 4)
                self.assertAlmostEqual(abs(made[0].area), abs(PLATE.area), delta=0.01)
        loose = [
            contour
            for _, contour in cleaned(
                [s for s in spans if s is not None and s.kinds[0] != ARC], Cleaning(overshoots=2.0)
            )[0]
        ]
        self.assertEqual(
            [round(c.length, 6) for c in loose], [84, 44, 84, 44]
        )  # nothing to be tangent to: nothing is taken

    def test_an_end_that_stops_short_of_a_sharp_corner_is_led_on_to_it(self) -> None:
        for angle in (20, 60, 100, 150):
            with self.subTest(angle=angle):
                way = np.array([math.cos(math.radians(angle)), math.sin(math.radians(angle))])
                run = Contour.make([40 * way, 0.3 * way], closed=False)
                other = Contour.make([(0, 0), (40, 0), 40 * way], closed=False)
                ((_, made),) = cleaned([run, other], Cleaning(gaps=0.8))[0]
                self.assertTrue(made.closed)
                self.assertAlmostEqual(
                    abs(made.area), 800 * math.sin(math.radians(angle)), places=6
                )

    def test_parts_that_were_broken_in_another_way_become_what_they_were(self) -> None:
        for kind in OTHER_PARTS:
            for seed in (2, 7):
                part = other_part(kind, seed)
                with self.subTest(kind, seed=seed):
                    self.assertEqual(
                        as_drawn(
                            [contour for _, contour in cleaned(broken(part, seed), DIRT_LIMITS)[0]],
                            part,
                        ),
                        "",
                    )

    def test_parts_with_the_usual_dirt_become_what_they_were(self) -> None:
        for kind in PARTS:
            for seed in range(900, 903):
                part = drawn(kind, seed)
                with self.subTest(kind, seed=seed):
                    self.assertEqual(
                        as_drawn(
                            [contour for _, contour in cleaned(dirty(part, seed), DIRT_LIMITS)[0]],
                            part,
                        ),
                        "",
                    )

    def test_a_trim_makes_no_joined_end_loose(self) -> None:
        rail, post = (
            Contour.make([(0, 0), (40, 0)], closed=False),
            Contour.make([(20, -10), (20, 1)], closed=False),
        )
        cap = Contour.make([(20, 1), (30, 8)], closed=False)
        kept = [contour for _, contour in cleaned([rail, post, cap], Cleaning(overshoots=2.0))[0]]
        self.assertEqual([round(c.length, 6) for c in kept], [40, 11, round(cap.length, 6)])
        trimmed = [contour for _, contour in cleaned([rail, post], Cleaning(overshoots=2.0))[0]]
        self.assertEqual([round(c.length, 6) for c in trimmed], [40, 10])

    def test_random_mends_leave_no_new_crossing(self) -> None:
        for seed in range(120):
            with self.subTest(seed=seed):
                made, _ = cleaned(worn(seed), LIMITS)
                self.assertTrue(made)
                for _, contour in made:
                    self.assertEqual(len(self_crossings(contour.spans)), 0)

    def test_a_gap_with_its_own_line_in_between_is_left(self) -> None:
        barred = line(
            (0, 0), (-10, 0), (-10, 10), (0.25, 10), (0.25, -10), (10, -10), (10, 0), (0.5, 0)
        )
        (flaw,) = gaps([barred], 1.0)
        self.assertEqual((dict(flaw.becomes), flaw.manner), ({}, "left, or it would cross itself"))
        made, done = cleaned([barred], Cleaning(gaps=1.0))
        self.assertEqual((made, done), ([(0, barred)], []))

    def test_nothing_is_found_in_what_is_clean(self) -> None:
        clean = [PLATE, Contour.circle(30, 30, 6), Contour.circle(70, 30, 6)]
        self.assertEqual(flaws_of(clean, Cleaning(1.0, 1.0, 0.05, 0.5)), [])
        self.assertEqual(cleaned([], Cleaning(1.0, 1.0, 0.05, 0.5)), ([], []))
        self.assertTrue(math.isfinite(PLATE.length))
