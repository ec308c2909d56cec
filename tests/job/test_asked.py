"""Settings are read as their fields say, and refused with what is wanted."""

from __future__ import annotations

import unittest

from draxet.job.asked import Asked
from draxet.job.ranges import Within
from draxet.units import UnitError


class AskedTest(unittest.TestCase):
    def test_what_is_typed_is_read_in_its_unit(self) -> None:
        for asked, text, unit, value in (
            (Asked("Cut width", "mm"), "1/8 in", "mm", 3.175),
            (Asked("Cut width", "mm"), "2", "cm", 20.0),
            (Asked("Feed", " mm/min"), "2400 mm/min", "mm", 2400.0),
            (Asked("Feed", " mm/min"), "12,5", "mm", 12.5),
            (Asked("Angle", "°"), "-30 deg", "mm", -30.0),
            (Asked("Smallest speck", "mm²"), "2", "cm", 200.0),
        ):
            with self.subTest(text=text, unit=unit):
                self.assertAlmostEqual(asked.read(text, unit, (), whole=False), value)

    def test_what_is_out_of_range_is_refused_with_the_range_in_the_jobs_unit(self) -> None:
        for asked, text, unit, note, whole, wanted in (
            (
                Asked("Cut width", "mm"),
                "90",
                "cm",
                Within(10.0, 500.0),
                False,
                "Cut width must be from 1 cm to 50 cm, got '90'",
            ),
            (
                Asked("Places"),
                "2.5",
                "mm",
                Within(2, 1000),
                True,
                "Places must be a whole number from 2 to 1000, got '2.5'",
            ),
            (
                Asked("Over", "°"),
                "0",
                "mm",
                Within(-360.0, 360.0, but=0.0),
                False,
                "Over must be from -360° to 360°, but not 0°, got '0'",
            ),
            (
                Asked("Width", "mm"),
                "-2",
                "mm",
                Within(0.0, 1e8),
                False,
                "Width must be at least 0 mm, got '-2'",
            ),
            (
                Asked("Feed"),
                "nan",
                "mm",
                Within(1.0, 10.0),
                False,
                "Feed must be from 1 to 10, got 'nan'",
            ),
            (Asked("Feed"), "inf", "mm", (), True, "Feed must be a whole number at least"),
            (
                Asked("Feed", " mm/min"),
                "quick",
                "mm",
                Within(1.0, 10.0),
                False,
                "Feed must be a number such as 12 mm/min, got 'quick'",
            ),
        ):
            with self.subTest(text=text), self.assertRaises(UnitError) as caught:
                asked.read(text, unit, (note,), whole=whole)
            self.assertIn(wanted, str(caught.exception))
