import unittest

from draxet.units import UnitError, format_length, parse_angle, parse_area, parse_length


class LengthsAreRead(unittest.TestCase):
    def test_any_unit_with_fractions_and_sums(self) -> None:
        table = {
            "240": 240, "24cm": 240, "0.24 m": 240, "9 7/16 in": 239.7125, "2' 0 1/8\"": 612.775, "60'": 18288, "3.4cm": 34,
            "3/16": 0.1875, "3*12+1/2": 36.5, "2'-6 1/2\"": 774.7, "2'6": 762, "½ in": 12.7, "(3+4)*2 mm": 14, "1,5": 1.5,
            "-3": -3, "10 in / 2": 127, "2′ 6″": 762, "5 - 2": 3, "1 ft": 304.8,
        }  # fmt: skip
        for text, mm in table.items():
            with self.subTest(text):
                self.assertAlmostEqual(parse_length(text), mm, 9)

    def test_a_bare_number_is_in_the_unit_given(self) -> None:
        for unit, mm in (("mm", 2), ("cm", 20), ("m", 2000), ("in", 50.8), ("ft-in", 50.8)):
            with self.subTest(unit):
                self.assertAlmostEqual(parse_length("2", unit), mm)

    def test_what_is_no_length_is_refused_in_one_sentence_that_shows_it(self) -> None:
        for text in ("", "abc", "1,200", "3mm*3mm", "3 mm mm", "1/0", "3 5", "((3)", "5 kg", "1e9", "--", "3 +", "9" * 400):
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
            (240.0, "mm", "240 mm"), (239.7125, "ft-in", '9 7/16"'), (612.775, "ft-in", "2' 0 1/8\""), (12.7, "ft-in", '1/2"'),
            (-762.0, "ft-in", "-2' 6\""), (25.4, "in", "1 in"), (1.0, "cm", "0.1 cm"), (0.0, "mm", "0 mm"), (-0.0001, "mm", "0 mm"),
        ):  # fmt: skip
            with self.subTest(words):
                self.assertEqual(format_length(mm, unit), words)

    def test_what_is_shown_in_feet_reads_back(self) -> None:
        for sixty_fourths in range(0, 4000, 37):
            mm = sixty_fourths * 25.4 / 64
            self.assertAlmostEqual(parse_length(format_length(mm, "ft-in"), "ft-in"), mm, 9)


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
