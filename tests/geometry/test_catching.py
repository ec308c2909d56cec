"""What is caught near a pointer, in a word and exactly; and quickly kept up."""

import math
import unittest
from dataclasses import dataclass

import numpy as np

from draxet.geometry.catching import KINDS, Catcher, Surroundings
from draxet.geometry.contour import Contour


@dataclass(frozen=True, eq=False)
class Drawn:
    id: str
    contour: Contour


def catcher(*contours: Contour) -> Catcher:
    made = Catcher()
    made.show([Drawn(str(k), contour) for k, contour in enumerate(contours)])
    return made


class Catching(unittest.TestCase):
    def check(self, caught: object, word: str, x: float, y: float) -> None:
        self.assertEqual(caught.word, word)  # type: ignore[attr-defined]
        np.testing.assert_allclose((caught.x, caught.y), (x, y), atol=1e-6)  # type: ignore[attr-defined]

    def test_each_kind_is_caught_by_its_word(self) -> None:
        box = Contour.make([(0, 0), (100, 0), (100, 60), (0, 60)])
        slit = Contour.make([(20, 30), (140, 30)], closed=False)
        hole = Contour.circle(50, 100, 20)
        c = catcher(box, slit, hole)
        around = Surroundings(
            points=((200, 5),),
            guides=((0, 80, 0.0),),
            edges=((300, 0, 300, 200),),
            earlier=((250, 150),),
            start=(80, 200),
        )
        for (x, y), word, wanted in (
            ((1, 1), "node", (0, 0)),
            ((21, 31), "end", (20, 30)),
            ((51, 1), "middle", (50, 0)),
            ((99, 31), "crossing", (100, 30)),
            ((51, 101), "centre", (50, 100)),
            ((201, 4), "point", (200, 5)),
            ((30, 1), "on line", (30, 0)),
            ((180, 81), "guide", (180, 80)),
            ((301, 50), "sheet edge", (300, 50)),
            ((251, 300), "level", (250, 300)),
            ((400, 400), "free", (400, 400)),
            (
                (55, 118.5),
                "square",
                (50 + 20 * 30 / math.hypot(30, 100), 100 + 20 * 100 / math.hypot(30, 100)),
            ),
        ):
            with self.subTest(word):
                self.check(c.catch(x, y, 3, around), word, *wanted)

    def test_where_a_guide_crosses_a_line_or_a_curve(self) -> None:
        c = catcher(Contour.make([(0, 0), (100, 60)], closed=False), Contour.circle(200, 0, 20))
        around = Surroundings(guides=((0, 30, 0.0), (0, 12, 0.0)))
        self.check(c.catch(51, 31, 3, around), "crossing", 50, 30)
        self.check(c.catch(217, 11, 3, around), "crossing", 216, 12)
        self.check(c.catch(54.5, 30.5, 3, around), "guide", 54.5, 30)
        without = frozenset(KINDS) - {"guide"}
        self.assertNotEqual(c.catch(217, 11, 3, around, without).word, "crossing")

    def test_what_is_level_goes_before_what_is_square_farther_off(self) -> None:
        c = catcher(Contour.make([(50, -20), (56, 40)], closed=False))
        around = Surroundings(earlier=((0, 0),), start=(0, 0))
        level = c.catch(52.6, 0.3, 6, around)
        self.check(level, "level", 52.6, 0)
        square = c.catch(51.5, -4.9, 3, around)
        self.assertEqual(square.word, "square")

    def test_tangent_from_where_one_comes(self) -> None:
        c = catcher(Contour.circle(0, 0, 10))
        angle = math.acos(10 / 30)
        self.check(
            c.catch(
                10 * math.cos(angle) + 0.5, 10 * math.sin(angle), 2, Surroundings(start=(30, 0))
            ),
            "tangent",
            10 * math.cos(angle),
            10 * math.sin(angle),
        )

    def test_kinds_are_switched_off_and_contours_left_out(self) -> None:
        c = catcher(Contour.make([(0, 0), (100, 0), (100, 60)], closed=False))
        self.check(c.catch(1, 0.5, 3, kinds=frozenset(KINDS) - {"end"}), "on line", 1, 0)
        self.assertEqual(c.catch(1, 0.5, 3, without=frozenset({"0"})).word, "free")
        self.assertEqual(c.catch(1, 0.5, 3, kinds=frozenset()).word, "free")

    def test_an_edit_is_followed_wherever_it_is(self) -> None:
        rng = np.random.default_rng(0)
        items = [
            Drawn(str(k), Contour.circle(*rng.uniform(0, 500, 2), rng.uniform(2, 9)))
            for k in range(300)
        ]
        c = Catcher()
        c.show(items)
        for _ in range(40):
            k = int(rng.integers(0, len(items)))
            if rng.random() < 0.6:
                items = [
                    *items[:k],
                    Drawn(items[k].id, Contour.circle(*rng.uniform(0, 500, 2), 5)),
                    *items[k + 1 :],
                ]
            elif rng.random() < 0.5 and len(items) > 2:
                items = items[:k] + items[k + 1 :]
            else:
                items = [
                    *items,
                    Drawn(f"n{rng.random()}", Contour.circle(*rng.uniform(0, 500, 2), 5)),
                ]
            c.show(items)
            fresh = Catcher()
            fresh.show(items)
            for x, y in rng.uniform(0, 500, (10, 2)):
                self.assertEqual(c.catch(x, y, 6), fresh.catch(x, y, 6))
