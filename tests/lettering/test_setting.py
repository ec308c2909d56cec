"""Words as contours: true sizes, sound outlines, held against another reader of faces."""

from __future__ import annotations

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFont, features

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.crossings import self_crossings
from draxet.job.contour_edits import (
    add_contours,
    change_contours,
    remove_contours,
    replace_contours,
)
from draxet.job.contour_moves import map_contours
from draxet.job.contour_records import Lettering
from draxet.job.file import read_job, save_job
from draxet.job.lettering import add_lettering, letters_of, set_again, settled, turned_into_contours
from draxet.job.operating import give_operation
from draxet.job.operations import Side
from draxet.job.records import Job
from draxet.job.sound import job_fault
from draxet.lettering.faces import Face, FaceError, face_named, shipped_faces
from draxet.lettering.setting import set_along, set_rows, set_straight, width_of
from draxet.prove.looking import findings_of

WORDS = "Brindlecote & 24"


class Outlines(unittest.TestCase):
    def test_six_faces_and_more_ship_two_of_them_for_stencils(self) -> None:
        names = [face.name for face in shipped_faces()]
        self.assertGreaterEqual(len(names), 6)
        self.assertGreaterEqual(sum("Stencil" in name or "Bills" in name for name in names), 2)

    def test_capitals_are_as_high_as_was_asked_and_outlines_are_sound(self) -> None:
        for face in shipped_faces():
            with self.subTest(face=face.name):
                self.assertAlmostEqual(
                    max(c.box[3] for c in set_straight(set_rows(face, "H", 17.5), 30)),
                    17.5,
                    places=9,
                )
                contours = set_straight(set_rows(face, WORDS, 20.0), 30)
                self.assertTrue(all(contour.closed for contour in contours))
                self.assertEqual(len(self_crossings(joined_spans(contours)[0])), 0)

    def test_letters_cover_what_another_reader_of_the_face_paints(self) -> None:
        for face in shipped_faces():
            em = 1000
            font = ImageFont.truetype(face.path, em)
            for letter in "B&gO4":
                if (face.name, letter) == ("Pacifico", "g") and not features.check("raqm"):
                    continue  # it has another form where it stands alone, which the other reader knows with a system library only
                picture = Image.new("L", (2 * em, 2 * em))
                ImageDraw.Draw(picture).text((em // 2, em // 4), letter, font=font, fill=255)
                painted = np.asarray(picture, dtype=np.float64).sum() / 255
                contours = set_straight(set_rows(face, letter, 1.0), 2)
                box = font.getbbox("H")
                capital = font.getmetrics()[0] - box[1]
                with self.subTest(face=face.name, letter=letter):
                    self.assertAlmostEqual(
                        sum(c.area for c in contours) * capital**2 / painted, 1.0, delta=0.012
                    )

    def test_pairs_are_kerned_and_spacing_is_added_between_letters(self) -> None:
        face = face_named("Bitter Bold")
        (a,), (v,) = set_rows(face, "A", 100), set_rows(face, "V", 100)
        pair = set_rows(face, "AV", 100)
        self.assertLess(pair[1].middle - pair[0].middle, a.middle + v.middle - 2)
        wide = set_rows(face, "ABC", 100, spacing=5)
        self.assertAlmostEqual(width_of(wide) - width_of(set_rows(face, "ABC", 100)), 10, places=6)

    def test_rows_are_aligned_and_as_far_apart_as_was_asked(self) -> None:
        face = face_named("Oswald Medium")
        for align, where in (("left", 0), ("middle", 1), ("right", 2)):
            letters = set_rows(face, "TTTT\nT", 10, align=align)
            rows = [
                [c.box for letter in letters if letter.row == row for c in letter.contours]
                for row in (0, 1)
            ]
            ends = [
                (
                    (
                        min(b[0] for b in row),
                        (min(b[0] for b in row) + max(b[2] for b in row)) / 2,
                        max(b[2] for b in row),
                    )
                )
                for row in rows
            ]
            self.assertAlmostEqual(ends[0][where], ends[1][where], places=6)
        contours = set_straight(set_rows(face, "T\nT", 10), 25)
        self.assertAlmostEqual(contours[0].box[3] - contours[1].box[3], 25, places=9)

    def test_letters_of_a_script_that_overlap_are_one_outline(self) -> None:
        contours = set_straight(set_rows(face_named("Pacifico"), "moss", 20), 30)
        outlines = [c for c in contours if c.area > 0]
        self.assertLess(len(outlines), 4)
        self.assertEqual(len(self_crossings(joined_spans(contours)[0])), 0)

    def test_what_cannot_be_set_is_refused_in_words(self) -> None:
        face = shipped_faces()[0]
        with self.assertRaisesRegex(FaceError, "has no 電"):
            set_rows(face, "電", 10)
        with self.assertRaisesRegex(FaceError, "2000 letters"):
            set_rows(face, "A" * 2001, 10)
        with self.assertRaisesRegex(FaceError, "not on this machine"):
            face_named("Nobody's Hand")
        with tempfile.TemporaryDirectory() as folder:
            broken = Path(folder) / "broken.ttf"
            for data in (b"", b"nonsense" * 50, Path(face.path).read_bytes()[:2000]):
                broken.write_bytes(data)
                try:
                    set_rows(Face("Broken", str(broken)), "H", 10)
                except FaceError:
                    pass  # refused in words, or what could be read of it was

    def test_along_a_circle_each_letter_stands_square_to_it_at_its_distance(self) -> None:
        face, circle = face_named("Oswald Medium"), Contour.circle(10, 20, 50)
        for other_side, radius in ((False, 53), (True, 47)):
            contours = set_along(
                set_rows(face, "IIIII", 12, align="middle"),
                circle,
                (10, 70),
                3.0,
                20,
                other_side=other_side,
            )
            self.assertEqual(len(contours), 5)
            for contour in contours:
                away = np.hypot(*(contour.nodes - (10, 20)).T)
                base = away.min() if not other_side else away.max()
                self.assertAlmostEqual(base, radius, delta=0.15)
                self.assertAlmostEqual(np.ptp(away), 12, delta=0.3)
        self.assertGreater(
            np.mean([c.box[1] for c in contours]), 20
        )  # about the top, where it was clicked
        with self.assertRaisesRegex(FaceError, "only 314.1 mm"):
            set_along(set_rows(face, "I" * 100, 12), circle, (10, 70), 3.0, 20)


class InTheJob(unittest.TestCase):
    def setUp(self) -> None:
        self.job, self.id = add_lettering(
            Job(), Lettering("", "", "BO", "Bitter Bold", placed=Affine.moved(30, 40))
        )

    @property
    def lettering(self) -> Lettering:
        return self.job.letterings[0]

    def test_other_words_go_on_with_what_the_old_ones_were_cut_by(self) -> None:
        items = [item for item in self.job.contours]
        self.assertEqual(sum(item.contour.area > 0 for item in items), 2)
        job = give_operation(
            self.job,
            "Cut openings",
            [i.id for i in items if i.contour.area < 0],
            Side.INSIDE,
            1,
            1000,
        )
        job = give_operation(
            job, "Cut outlines", [i.id for i in items if i.contour.area > 0], Side.OUTSIDE, 1, 1000
        )
        again = set_again(job, replace(self.lettering, words="ARD", height=30.0))
        sides = {item.contour.area > 0: again.cut_of[item.id].side for item in again.contours}
        self.assertEqual(sides, {True: Side.OUTSIDE, False: Side.INSIDE})
        self.assertEqual(len(again.cut_of), len(again.contours))
        self.assertEqual(again.parts[0].name, "ARD")
        self.assertAlmostEqual(max(item.contour.box[3] for item in again.contours), 70, delta=0.8)

    def test_typed_letter_by_letter_they_keep_what_they_are_cut_by(self) -> None:
        """Of the letters of "tram" only the a has an opening."""
        items = self.job.contours
        job = give_operation(
            self.job,
            "Cut openings",
            [i.id for i in items if i.contour.area < 0],
            Side.INSIDE,
            1,
            1234,
        )
        job = give_operation(
            job, "Cut outlines", [i.id for i in items if i.contour.area > 0], Side.OUTSIDE, 1, 1000
        )
        for words in ("t", "tr", "tra", "tram"):
            job = settled(job, set_again(job, replace(job.letterings[0], words=words)))
            self.assertEqual(
                [(o.name, o.feed, bool(o.contours)) for o in job.operations],
                [("Cut openings", 1234, "a" in words), ("Cut outlines", 1000, True)],
            )
            self.assertEqual(job_fault(job), "")
            with tempfile.TemporaryDirectory() as folder:
                save_job(job, Path(folder) / "w.draxet")
                self.assertEqual(read_job(Path(folder) / "w.draxet"), job)
        self.assertEqual(len(job.cut_of), len(job.contours))
        job = settled(job, set_again(job, replace(job.letterings[0], words="t")))
        for after in (
            turned_into_contours(job, self.id),
            remove_contours(job, [item.id for item in job.contours]),
        ):
            self.assertNotIn(
                "Cut openings",
                [o.name for o in settled(job, after).operations],
                "nothing waits for words that are none",
            )

    def test_moved_turned_and_scaled_they_stay_words(self) -> None:
        after = Affine.turned(30).then(Affine.scaled(2)).then(Affine.moved(5, 6))
        moved = settled(
            self.job, map_contours(self.job, letters_of(self.job, self.lettering), after)
        )
        (lettering,) = moved.letterings
        self.assertAlmostEqual(lettering.height, 40)
        again = set_again(moved, lettering)
        for a, b in zip(moved.contours, again.contours, strict=True):
            np.testing.assert_allclose(a.contour.nodes, b.contour.nodes, atol=1e-9)

    def test_a_letter_changed_or_taken_away_turns_them_into_contours(self) -> None:
        one = self.job.contours[0]
        for after in (
            change_contours(self.job, {one.id: one.contour.transformed(Affine.moved(1, 0))}),
            remove_contours(self.job, [one.id]),
            map_contours(self.job, [one.id], Affine.moved(1, 0)),
            turned_into_contours(self.job, self.id),
        ):
            found = settled(self.job, after)
            self.assertEqual((found.letterings, len(found.parts)), ((), 1))
        self.assertEqual(
            settled(
                self.job, remove_contours(self.job, [i.id for i in self.job.contours])
            ).letterings,
            (),
        )

    def test_along_a_contour_they_follow_it(self) -> None:
        job = add_contours(Job(), [Contour.circle(0, 0, 60)])
        base = job.contours[0].id
        job, _ = add_lettering(
            job,
            Lettering(
                "",
                "",
                "TRAM",
                "Oswald Medium",
                10.0,
                align="middle",
                along=base,
                near=(0.0, 60.0),
                away=2.0,
            ),
        )
        grown = settled(job, replace_contours(job, {base: Contour.circle(0, 0, 90)}))
        low = min(
            float(np.hypot(*item.contour.nodes.T).min())
            for item in grown.contours
            if item.id != base
        )
        self.assertAlmostEqual(low, 92, delta=0.3)
        self.assertEqual(len(grown.letterings), 1)
        shrunk = settled(
            job, replace_contours(job, {base: Contour.circle(0, 0, 2)})
        )  # no room: they stay words, as they were, and that is told
        self.assertEqual(
            ([i.contour for i in shrunk.contours[1:]], len(shrunk.letterings)),
            ([i.contour for i in job.contours[1:]], 1),
        )
        (told,) = (each for each in findings_of(shrunk) if each.kind.startswith("words"))
        self.assertIn("TRAM” stay as they were: the words are", told.words)
        again = settled(shrunk, replace_contours(shrunk, {base: Contour.circle(0, 0, 90)}))
        self.assertAlmostEqual(
            min(
                float(np.hypot(*item.contour.nodes.T).min())
                for item in again.contours
                if item.id != base
            ),
            92,
            delta=0.3,
        )
        gone = settled(job, remove_contours(job, [base]))
        self.assertEqual((len(gone.letterings), len(gone.contours)), (1, len(job.contours) - 1))
        boxes = np.array([item.contour.box for item in gone.contours])
        self.assertAlmostEqual(boxes[:, 1].min(), 60, delta=0.5)  # straight, where they were
        (told,) = (each for each in findings_of(gone) if each.kind.startswith("words"))
        self.assertIn("ran along a contour that is gone", told.words)
        assert told.mend is not None
        mended = settled(gone, told.mend(gone))
        self.assertEqual(
            (
                mended.letterings[0].along,
                [f.kind for f in findings_of(mended) if f.kind.startswith("words")],
            ),
            ("", []),
        )
        np.testing.assert_allclose(np.array([item.contour.box for item in mended.contours]), boxes)
        moved = settled(
            gone, map_contours(gone, [item.id for item in gone.contours], Affine.moved(5, 5))
        )
        self.assertEqual(len(moved.letterings), 1)

    def test_they_are_kept_with_the_job(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            save_job(self.job, Path(folder) / "words.draxet")
            self.assertEqual(read_job(Path(folder) / "words.draxet"), self.job)


if __name__ == "__main__":
    unittest.main()
