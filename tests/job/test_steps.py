import unittest

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.covariance import Covariance
from draxet.job.contour_edits import add_contours, change_contours, fix_size, retrace
from draxet.job.contour_moves import map_contours
from draxet.job.copies import place_copies
from draxet.job.file import read_job, save_job
from draxet.job.guide_edits import add_note
from draxet.job.picture_edits import (
    add_picture,
    copy_picture,
    cut_out,
    order_picture,
    set_known_lengths,
    set_steps,
)
from draxet.job.picture_records import Exactness, KnownLength, Picture
from draxet.job.records import Job
from draxet.job.sheet_edits import add_sheet, remove_sheet, set_setup, set_sheet, template_of
from draxet.job.sheet_records import Limit, Sheet
from draxet.job.steps import (
    STEP_KINDS,
    Contrast,
    Cover,
    Crop,
    EvenLight,
    Flip,
    GreyBy,
    LineArt,
    PrepareStep,
    Shrink,
    Turn,
    worked_frame,
)


def on(*kinds: object) -> tuple[PrepareStep, ...]:
    return tuple(PrepareStep(kind) for kind in kinds)  # type: ignore[arg-type]


class StepsMoveNothing(unittest.TestCase):
    def setUp(self) -> None:
        self.job, self.id = add_picture(
            Job(), "p", b"", (400, 300), Affine(0.5, 0.1, 10, 0.1, -0.5, 160), 200.0
        )
        self.job = set_known_lengths(
            self.job,
            self.id,
            [KnownLength((100, 60), (300, 60), 101, Covariance.round(0.2), Covariance.round(0.4))],
        )

    @property
    def picture(self) -> Picture:
        return self.job.pictures[0]

    def placed(self, picture: Picture, x: float, y: float) -> tuple[float, float]:
        """Where a base pixel lies in job space."""
        return picture.to_job.point(*picture.to_base.inverse().point(x, y))

    def test_crops_and_shrinkings_leave_every_base_pixel_where_it_was(self) -> None:
        for steps in (
            on(Crop(50, 40, 350, 200)),
            on(Shrink(3.0)),
            on(Crop(33.4, 20, 380, 290.7), Shrink(2.5)),
            on(EvenLight(), Shrink(1.7), Crop(10, 10, 90, 80)),
        ):
            after = set_steps(self.job, self.id, steps).pictures[0]
            for x, y in ((100, 60), (300, 60), (77, 191)):
                np.testing.assert_allclose(
                    self.placed(after, x, y), self.placed(self.picture, x, y), atol=1e-9
                )
            known, before = after.known_lengths[0], self.picture.known_lengths[0]
            np.testing.assert_allclose(
                after.to_job.point(*known.first),
                self.picture.to_job.point(*before.first),
                atol=1e-9,
            )
            self.assertAlmostEqual(
                known.first_spread.greatest * after.pixel_size,
                before.first_spread.greatest * self.picture.pixel_size,
                delta=2e-3,
            )

    def test_turns_and_flips_lay_it_about_its_own_middle_and_switching_them_off_brings_it_back(
        self,
    ) -> None:
        steps = on(Turn(1), Flip(True), Turn(2))
        turned = set_steps(self.job, self.id, steps)
        np.testing.assert_allclose(turned.pictures[0].middle, self.picture.middle, atol=1e-9)
        self.assertLess(turned.pictures[0].to_job.determinant * self.picture.to_job.determinant, 0)
        back = set_steps(turned, self.id, [PrepareStep(s.kind, on=False) for s in steps])
        np.testing.assert_allclose(
            back.pictures[0].to_job.to_tuple(), self.picture.to_job.to_tuple(), atol=1e-9
        )

    def test_crops_meet_in_what_all_of_them_keep_and_never_in_nothing(self) -> None:
        frame = worked_frame((400, 300), on(Crop(50, 40, 350, 200), Crop(100, 0, 400, 100)))
        self.assertEqual((frame.size, frame.to_base.point(0, 0)), ((250, 60), (100, 40)))
        self.assertEqual(worked_frame((400, 300), on(Crop(399, 299, 500, 500))).size, (2, 2))
        self.assertEqual(
            worked_frame((400, 300), [PrepareStep(Crop(1, 1, 9, 9), on=False)]).size, (400, 300)
        )

    def test_a_detail_lies_where_it_lay_and_has_no_size_of_its_own_yet(self) -> None:
        job, detail_id = cut_out(self.job, self.id, (100, 50, 200, 150))
        detail = job.picture_by_id[detail_id]
        self.assertEqual(((detail.width, detail.height), detail.known_lengths), ((100, 100), ()))
        np.testing.assert_allclose(
            detail.to_job.point(0, 0), self.picture.to_job.point(100, 50), atol=1e-9
        )

    def test_every_step_is_saved_and_opened_just_as_it_was(self) -> None:
        import tempfile
        from pathlib import Path

        kinds = [
            kind(
                *(
                    ()
                    if kind not in (Crop, Turn, Flip, Cover)
                    else {
                        Crop: (1.5, 2, 3, 4),
                        Turn: (3,),
                        Flip: (False,),
                        Cover: (((1.0, 2.0), (3.0, 4.5), (0.0, 9.0)),),
                    }[kind]
                )
            )
            for kind in STEP_KINDS
        ]
        kinds += [GreyBy("darkest"), Contrast(7), LineArt(11, 90)]
        job = set_steps(
            self.job, self.id, [PrepareStep(kind, k % 2 == 0) for k, kind in enumerate(kinds)]
        )
        job = add_note(
            set_setup(job, limit=Limit("hoop", Contour.circle(5, 5, 5)), exactness=Exactness.FIT),
            "angle",
            [(1, 2), (3, 4)],
            "30°",
        )
        job, _ = add_sheet(job)
        job = set_sheet(
            job,
            Sheet(**{**vars(job.sheet), "origin": (0.5, 1.0), "zero": "bed", "colour": "#c9a571"}),
        )
        job = add_contours(job, [Contour.circle(0, 0, 1)], self.id, ["#aabbcc"], ["colours"])
        with tempfile.TemporaryDirectory() as folder:
            save_job(job, Path(folder) / "a.draxet")
            self.assertEqual(read_job(Path(folder) / "a.draxet"), job)


class MoreEdits(unittest.TestCase):
    def test_pictures_change_their_order_and_stay_whole(self) -> None:
        job = Job()
        for name in "abc":
            job, _ = add_picture(job, name, b"", (4, 4), Affine())
        ids = [p.id for p in job.pictures]
        names = "".join(p.name for p in order_picture(job, ids[0], 1).pictures)
        self.assertEqual(names, "bac")
        self.assertIs(order_picture(job, ids[2], 5), job)
        again, new = copy_picture(job, ids[1], 5, -2)
        self.assertEqual(again.picture_by_id[new].to_job, Affine.moved(5, -2))

    def test_copies_of_contours_belong_to_no_picture_and_keep_a_fixed_size(self) -> None:
        job = add_contours(Job(), [Contour.circle(0, 0, 1), Contour.circle(9, 0, 1)])
        job = fix_size(job, [job.contours[0].id], True)
        after, ids = place_copies(job, [job.contours[0].id], [Affine.moved(3, 4)])
        (copy,) = (item for item in after.contours if item.id in ids)
        self.assertEqual((copy.fixed, copy.picture), (True, ""))
        self.assertEqual(copy.contour.circle_shape, (3, 4, 1))

    def test_a_mirrored_contour_of_fixed_size_is_mirrored_and_not_resized(self) -> None:
        plate = Contour.make([(0, 0), (40, 0), (40, 10), (0, 30)])
        job = fix_size(add_contours(Job(), [plate]), ["contour-1"], True)
        after = map_contours(job, ["contour-1"], Affine(-3, 0, 0, 0, 3, 0)).contours[0].contour
        self.assertAlmostEqual(after.length, plate.length)
        self.assertAlmostEqual(after.area, -plate.area)

    def test_the_last_sheet_stays_and_the_one_in_hand_is_always_there(self) -> None:
        job = Job()
        self.assertIs(remove_sheet(job, job.sheet.id), job)
        two, second = add_sheet(job)
        self.assertEqual(two.sheet.id, second)
        self.assertEqual(remove_sheet(two, second).sheet, job.sheet)
        self.assertEqual(len({sheet.id for sheet in two.sheets}), 2)

    def test_a_template_is_the_set_up_alone(self) -> None:
        job, picture = add_picture(Job("x", "in"), "p", b"", (4, 4), Affine())
        template = template_of(
            add_contours(set_setup(job, smallest_feature=0.4), [Contour.circle(0, 0, 1)], picture)
        )
        self.assertEqual(
            (template.unit, template.smallest_feature, template.pictures, template.contours),
            ("in", 0.4, (), ()),
        )

    def test_tracing_anew_replaces_what_was_traced_and_not_what_was_changed_by_hand(self) -> None:
        job, picture = add_picture(Job(), "p", b"", (400, 300), Affine.scaled(0.1))
        job = retrace(
            job,
            picture,
            [Contour.circle(10, 10, 5), Contour.circle(25, 10, 4)],
            traced=("edges",) * 2,
        )
        first, second = job.contours
        job = change_contours(job, {first.id: first.contour.transformed(Affine.moved(0.02, 0))})
        again = retrace(
            job,
            picture,
            [Contour.circle(10, 10, 5), Contour.circle(10, 10, 4.5), Contour.circle(25, 10, 4)],
            traced=("edges",) * 3,
        )
        self.assertIs(again.contours[0], job.contours[0])
        self.assertEqual(
            len(again.contours), 3
        )  # the one that lies on the hand-made one is left out, its neighbour is not
        self.assertNotIn(second.id, again.contour_by_id)
        part = retrace(job, picture, [], within=(20, 0, 30, 20))
        self.assertEqual(len(part.contours), 1)


if __name__ == "__main__":
    unittest.main()
