import unittest

import cv2
import numpy as np

from draxet.gather.prepare import prepared
from draxet.job.records import Tones


def drawing() -> np.ndarray:
    """Two strokes and three specks on paper in uneven light."""
    picture = np.full((300, 400), 230, np.uint8)
    cv2.rectangle(picture, (60, 60), (340, 240), 60, 6)
    for x, y in ((20, 20), (200, 150), (380, 280)):
        cv2.rectangle(picture, (x, y), (x + 3, y + 3), 50, -1)
    shade = np.linspace(1.0, 0.45, 400)[None]
    return (picture * shade).astype(np.uint8)


class Preparing(unittest.TestCase):
    def test_at_rest_the_picture_is_as_it_came_and_it_is_never_changed(self) -> None:
        picture = drawing()
        before = picture.copy()
        self.assertIs(prepared(picture, None), picture)
        prepared(picture, None, Tones(True, 5, 40, True))
        np.testing.assert_array_equal(picture, before)

    def test_even_light_makes_the_paper_even_and_keeps_the_ink_dark(self) -> None:
        even = prepared(drawing(), None, Tones(even_light=True))
        paper = [np.median(even[100:140, x : x + 30]) for x in (90, 180, 290)]
        self.assertLess(np.ptp(paper), 12)
        self.assertLess(even[58:66, 100:300].mean(axis=0).max(), 130)

    def test_specks_go_and_strokes_stay(self) -> None:
        tones = Tones(even_light=True, specks=6)
        clean = prepared(drawing(), None, tones)
        for x, y in ((20, 20), (200, 150), (380, 280)):
            self.assertGreater(clean[y : y + 4, x : x + 4].min(), 190)
        self.assertLess(clean[60, 100:300].max(), 130)
        untouched = prepared(drawing(), None, Tones(even_light=True))
        np.testing.assert_array_equal(clean[50:70, 80:320], untouched[50:70, 80:320])

    def test_contrast_and_inversion_do_what_they_say(self) -> None:
        picture = np.tile(np.r_[np.full(50, 80), np.full(50, 180)].astype(np.uint8), (20, 1))
        full = prepared(picture, None, Tones(contrast=100))
        self.assertEqual(set(np.unique(full).tolist()), {0, 255})
        some = prepared(picture, None, Tones(contrast=30)).astype(int)
        self.assertGreater(some.max() - some.min(), 100)
        np.testing.assert_array_equal(prepared(picture, None, Tones(invert=True)), 255 - picture)

    def test_colours_become_grey_only_when_something_is_done(self) -> None:
        colours = np.zeros((8, 8, 3), np.uint8)
        self.assertEqual(prepared(colours, None).ndim, 3)
        self.assertEqual(prepared(colours, None, Tones(invert=True)).ndim, 2)
