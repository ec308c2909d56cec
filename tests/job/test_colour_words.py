"""Colours in plain words, and typed ones."""

import colorsys
import unittest

from draxet.job.colour_words import PLAIN, colour_word, named_colour


class Words(unittest.TestCase):
    def test_colours_are_called_what_people_call_them(self) -> None:
        for colour, word in (
            ("#213153", "dark blue"),
            ("#E65A28", "orange"),
            ("#f8d020", "yellow"),
            ("#808080", "grey"),
            ("#0a0a0a", "black"),
            ("#fafaf0", "white"),
            ("#5a3c14", "dark brown"),
            ("#ffc8d8", "light pink"),
            ("#7a30c8", "violet"),
            ("#cf4a3c", "red"),
            ("", ""),
        ):
            self.assertEqual(colour_word(colour), word, colour)

    def test_every_colour_has_a_word_and_a_slight_change_no_other_hue(self) -> None:
        for k in range(0, 360, 5):
            for light in (0.2, 0.5, 0.85):
                r, g, b = (round(255 * v) for v in colorsys.hls_to_rgb(k / 360, light, 0.9))
                self.assertTrue(colour_word(f"#{r:02x}{g:02x}{b:02x}").split()[-1].isalpha())

    def test_what_is_typed_is_a_colour_or_refused_in_a_sentence(self) -> None:
        for text, colour in (("#CF4A3C", "#cf4a3c"), (" abc ", "#aabbcc"), ("Navy", PLAIN["navy"])):
            self.assertEqual(named_colour(text), colour)
        for text in ("", "#12", "#gggggg", "mauve", "1" * 5000):
            with self.assertRaisesRegex(ValueError, "a colour must be like .*, got"):
                named_colour(text)
