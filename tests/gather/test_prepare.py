import unittest

import cv2
import numpy as np

from draxet.gather.prepare import at_a_glance, prepared, shrink_for
from draxet.job.steps import (
    CHANNELS,
    Contrast,
    Cover,
    Crop,
    EdgeMarks,
    EvenLight,
    GreyBy,
    Invert,
    LineArt,
    PrepareStep,
    Shrink,
    Specks,
    StepKind,
    worked_frame,
)
from draxet.pixels.lineart import line_art
from draxet.progress import Cancelled


def drawing() -> np.ndarray:
    """Two strokes and three specks on paper in uneven light."""
    picture = np.full((300, 400), 230, np.uint8)
    cv2.rectangle(picture, (60, 60), (340, 240), 60, 6)
    for x, y in ((20, 20), (200, 150), (380, 280)):
        cv2.rectangle(picture, (x, y), (x + 3, y + 3), 50, -1)
    shade = np.linspace(1.0, 0.45, 400)[None]
    return (picture * shade).astype(np.uint8)


def after(picture: np.ndarray, *kinds: StepKind) -> np.ndarray:
    return prepared(picture, None, [PrepareStep(kind) for kind in kinds])


class Preparing(unittest.TestCase):
    def test_at_rest_the_picture_is_as_it_came_and_it_is_never_changed(self) -> None:
        picture = drawing()
        before = picture.copy()
        self.assertIs(prepared(picture, None), picture)
        after(picture, EvenLight(), Specks(5), Contrast(40), Invert())
        np.testing.assert_array_equal(picture, before)

    def test_even_light_makes_the_paper_even_and_keeps_the_ink_dark(self) -> None:
        even = after(drawing(), EvenLight())
        paper = [np.median(even[100:140, x : x + 30]) for x in (90, 180, 290)]
        self.assertLess(np.ptp(paper), 12)
        self.assertLess(even[58:66, 100:300].mean(axis=0).max(), 130)

    def test_specks_go_and_strokes_stay(self) -> None:
        clean = after(drawing(), EvenLight(), Specks(6))
        for x, y in ((20, 20), (200, 150), (380, 280)):
            self.assertGreater(clean[y : y + 4, x : x + 4].min(), 190)
        self.assertLess(clean[60, 100:300].max(), 130)
        untouched = after(drawing(), EvenLight())
        np.testing.assert_array_equal(clean[50:70, 80:320], untouched[50:70, 80:320])

    def test_contrast_and_inversion_do_what_they_say(self) -> None:
        picture = np.tile(np.r_[np.full(50, 80), np.full(50, 180)].astype(np.uint8), (20, 1))
        full = after(picture, Contrast(100))
        self.assertEqual(set(np.unique(full).tolist()), {0, 255})
        some = after(picture, Contrast(30)).astype(int)
        self.assertGreater(some.max() - some.min(), 100)
        np.testing.assert_array_equal(after(picture, Invert()), 255 - picture)

    def test_a_step_that_is_off_does_nothing_and_their_order_counts(self) -> None:
        picture = drawing()
        off = [PrepareStep(Invert(), on=False), PrepareStep(Contrast(0))]
        np.testing.assert_array_equal(prepared(picture, None, off), picture)
        self.assertFalse(
            np.array_equal(
                after(picture, EvenLight(), Contrast(60)), after(picture, Contrast(60), EvenLight())
            )
        )

    def test_crop_and_shrink_give_the_frame_that_the_job_reckons_with(self) -> None:
        picture = drawing()
        steps = [
            PrepareStep(Crop(40, 30, 340.4, 250)),
            PrepareStep(EvenLight()),
            PrepareStep(Shrink(2.5)),
        ]
        out = prepared(picture, None, steps)
        frame = worked_frame((400, 300), steps)
        self.assertEqual((out.shape[1], out.shape[0]), frame.size)
        self.assertEqual(frame.size, (120, 88))
        stroke = np.flatnonzero(
            out[44] < 120
        )  # the frame's upright strokes, their middles at x = 60 and 340
        left = frame.to_base.point(float(stroke[stroke < 40].mean()) + 0.5, 0)[0]
        self.assertAlmostEqual(left, 60.5, delta=0.8)

    def test_grey_by_a_channel_takes_just_that(self) -> None:
        colours = np.random.default_rng(0).integers(0, 255, (6, 5, 3)).astype(np.uint8)
        for name, wanted in zip(
            CHANNELS[1:],
            (
                colours[..., 0],
                colours[..., 1],
                colours[..., 2],
                colours.min(axis=2),
                colours.max(axis=2),
            ),
            strict=True,
        ):
            np.testing.assert_array_equal(after(colours, GreyBy(name)), wanted)
        self.assertEqual(
            after(colours, Invert(), EvenLight()).ndim, 3
        )  # colours stay until grey is asked for

    def test_marks_at_the_edge_go_and_what_reaches_further_in_stays(self) -> None:
        picture = np.full((200, 300), 235, np.uint8)
        picture[:, 3:9] = 40  # a scanner's edge
        cv2.circle(picture, (285, 100), 7, 40, -1)  # a punched hole
        cv2.line(picture, (0, 150), (150, 150), 40, 4)  # a line that runs in from near the edge
        picture[140:160, :9] = 235  # it does not touch the edge's shadow
        clean = after(picture, EdgeMarks(30))
        self.assertGreater(clean[:140, :30].min(), 200)
        self.assertGreater(clean[90:110, 275:295].min(), 200)
        self.assertLess(clean[150, 60:140].max(), 60)

    def test_a_cover_takes_the_papers_colour_and_leaves_no_edge(self) -> None:
        shade = np.linspace(180, 240, 300)[None] + np.zeros((200, 1))
        picture = (shade + np.random.default_rng(0).normal(0, 2, shade.shape)).astype(np.uint8)
        paper = picture.copy()
        cv2.putText(picture, "84", (120, 110), cv2.FONT_HERSHEY_SIMPLEX, 1.5, 30, 4)
        box = Cover(((100.0, 60.0), (200.0, 60.0), (200.0, 130.0), (100.0, 130.0)))
        clean = after(picture, box)
        self.assertLess(
            np.abs(clean[50:140, 90:210].astype(float) - shade[50:140, 90:210]).mean(), 4
        )
        self.assertLess(abs(clean[60:130, 101:199].std() - paper[60:130, 101:199].std()), 1.5)
        np.testing.assert_array_equal(clean[:50], picture[:50])

    def test_a_glance_is_much_like_the_real_thing(self) -> None:
        picture = cv2.resize(drawing(), (1600, 1200), interpolation=cv2.INTER_CUBIC)
        steps = [
            PrepareStep(EvenLight()),
            PrepareStep(Specks(24)),
            PrepareStep(Crop(160, 120, 1500, 1100)),
        ]
        exact = cv2.resize(prepared(picture, None, steps), (335, 245), interpolation=cv2.INTER_AREA)
        glance = prepared(
            cv2.resize(picture, (400, 300), interpolation=cv2.INTER_AREA),
            None,
            at_a_glance(steps, 4.0),
        )
        self.assertEqual(glance.shape, exact.shape)
        self.assertLess(np.abs(glance.astype(int) - exact).mean(), 4)

    def test_shrinking_stops_at_half_the_tolerance(self) -> None:
        self.assertAlmostEqual(shrink_for(0.01, 0.1), 5.0)
        self.assertEqual(shrink_for(0.2, 0.1), 1.0)


class LineArtFromAPhoto(unittest.TestCase):
    def photo(self) -> np.ndarray:
        """A dark disc and a faint one on shaded ground, grainy."""
        ground = np.linspace(120, 210, 320)[None] + np.zeros((240, 1))
        cv2.circle(ground, (90, 120), 50, 60, -1, cv2.LINE_AA)
        cv2.circle(ground, (230, 120), 50, 168, -1, cv2.LINE_AA)
        return np.clip(
            cv2.GaussianBlur(ground, (0, 0), 1)
            + np.random.default_rng(3).normal(0, 3, ground.shape),
            0,
            255,
        ).astype(np.uint8)

    def test_edges_become_dark_lines_and_shading_becomes_white(self) -> None:
        lines = line_art(self.photo())
        self.assertGreater(np.mean(lines > 250), 0.8)
        ring = [
            lines[
                int(120 + 50 * np.sin(a)) - 3 : int(120 + 50 * np.sin(a)) + 4,
                int(90 + 50 * np.cos(a)) - 3 : int(90 + 50 * np.cos(a)) + 4,
            ].min()
            for a in np.linspace(0, 6.2, 40)
        ]
        self.assertLess(np.mean(np.array(ring) > 100), 0.05)
        self.assertGreater(lines[100:140, 75:105].min(), 200)  # inside the disc nothing

    def test_strength_finds_fainter_edges_and_detail_makes_finer_lines(self) -> None:
        photo = self.photo()
        weak, strong = line_art(photo, strength=10), line_art(photo, strength=90)
        faint = np.s_[60:180, 170:290]
        self.assertGreater(np.sum(strong[faint] < 128), 2 * np.sum(weak[faint] < 128))
        coarse, fine = line_art(photo, detail=5), line_art(photo, detail=95)
        self.assertGreater(np.sum(coarse < 128), 1.3 * np.sum(fine < 128))

    def test_it_can_be_given_up(self) -> None:
        def stop(share: float, words: str) -> None:
            raise Cancelled

        with self.assertRaises(Cancelled):
            prepared(self.photo(), None, [PrepareStep(LineArt())], stop)


if __name__ == "__main__":
    unittest.main()
