import math
import random
import unittest

from draxet.units import UnitError, format_length, parse_angle, parse_area, parse_length


class LengthsAreRead(unittest.TestCase):
    def test_any_unit_with_fractions_and_sums(self) -> None:
        table = {
            "240": 240,
            "24cm": 240,
            "0.24 m": 240,
            "9 7/16 in": 239.7125,
            "2' 0 1/8\"": 612.775,
            "60'": 18288,
            "3.4cm": 34,
            "3/16": 0.1875,
            "3*12+1/2": 36.5,
            "2'-6 1/2\"": 774.7,
            "2'6": 762,
            "½ in": 12.7,
            "(3+4)*2 mm": 14,
            "1,5": 1.5,
            "-3": -3,
            "10 in / 2": 127,
            "2′ 6″": 762,
            "5 - 2": 3,
            "1 ft": 304.8,
            "72 pt": 25.4,
            "62 thou": 1.5748,
        }
        for text, mm in table.items():
            with self.subTest(text):
                self.assertAlmostEqual(parse_length(text), mm, 9)

    def test_a_bare_number_is_in_the_unit_given(self) -> None:
        for unit, mm in (("mm", 2), ("cm", 20), ("m", 2000), ("in", 50.8), ("ft-in", 50.8)):
            with self.subTest(unit):
                self.assertAlmostEqual(parse_length("2", unit), mm)

    def test_what_is_no_length_is_refused_in_one_sentence_that_shows_it(self) -> None:
        for text in (
            "",
            "abc",
            "1,200",
            "3mm*3mm",
            "3 mm mm",
            "1/0",
            "3 5",
            "((3)",
            "5 kg",
            "1e9",
            "--",
            "3 +",
            "9" * 400,
        ):
            with self.subTest(text), self.assertRaises(UnitError) as caught:
                parse_length(text, what="Width")
            self.assertIn("Width must be", str(caught.exception))
            self.assertLess(len(str(caught.exception)), 160)

    def test_positive_refuses_zero_and_less(self) -> None:
        for text in ("0", "-2 in"):
            with self.subTest(text), self.assertRaises(UnitError):
                parse_length(text, positive=True)


class LengthsAreShown(unittest.TestCase):
    def test_in_every_unit(self) -> None:
        for mm, unit, words in (
            (240.0, "mm", "240 mm"),
            (239.7125, "ft-in", '9 7/16"'),
            (612.775, "ft-in", "2' 0 1/8\""),
            (12.7, "ft-in", '1/2"'),
            (-762.0, "ft-in", "-2' 6\""),
            (1.5, "ft-in", '0.0591"'),
            (0.03, "m", "0.00003 m"),
            (0.03, "in", "0.00118 in"),
            (25.4, "in", "1 in"),
            (1.0, "cm", "0.1 cm"),
            (0.0, "mm", "0 mm"),
            (-0.0001, "mm", "0 mm"),
        ):
            with self.subTest(words):
                self.assertEqual(format_length(mm, unit), words)

    def test_what_is_shown_in_feet_reads_back(self) -> None:
        for sixty_fourths in range(0, 4000, 37):
            mm = sixty_fourths * 25.4 / 64
            self.assertAlmostEqual(parse_length(format_length(mm, "ft-in"), "ft-in"), mm, 9)

    def test_no_length_that_counts_is_shown_as_nothing_or_far_off(self) -> None:
        for unit in ("mm", "cm", "m", "in", "ft-in"):
            for mm in (0.0013, 0.03, 0.1, 1.5, 33.3, 1234.5678, 98765.4321):
                with self.subTest(unit=unit, mm=mm):
                    self.assertAlmostEqual(
                        parse_length(format_length(mm, unit), unit), mm, delta=0.006 * mm
                    )


class NonsenseIsRefused(unittest.TestCase):
    def test_whatever_is_pasted_gives_a_finite_number_or_one_sentence(self) -> None:
        rng = random.Random(3)
        monsters = [
            "(" * 3000,
            "-" * 3000,
            "9" * 400,
            "9" * 400 + "/2",
            "1/" + "9" * 5000,
            "²",
            "3²",
            "٣",
            "1e5",
            "1_000",
            "\x00",
            "\ud800",
            "in" * 500,
            "∞",
            "nan",
            "1" + "/1" * 900,
        ]
        monsters += [
            "".join(
                rng.choice("0123456789.,/*-+()'\" inmcft²½e \u0663")
                for _ in range(rng.randrange(40))
            )
            for _ in range(3000)
        ]
        for text in monsters:
            for read in (parse_length, parse_area, parse_angle):
                try:
                    self.assertTrue(math.isfinite(read(text)), text)
                except UnitError as error:
                    self.assertLess(len(str(error)), 200)


class AreasAndAnglesAreRead(unittest.TestCase):
    def test_areas(self) -> None:
        for text, mm2 in (("2", 2), ("2 mm2", 2), ("0.1 sq in", 64.516), ("3 cm²", 300)):
            with self.subTest(text):
                self.assertAlmostEqual(parse_area(text), mm2)
        with self.assertRaises(UnitError):
            parse_area("-1")

    def test_angles(self) -> None:
        self.assertEqual(parse_angle("-12.5°"), -12.5)
        with self.assertRaises(UnitError):
            parse_angle("steep")
