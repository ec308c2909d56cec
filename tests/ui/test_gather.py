"""Gather in the real window: pictures in hand, prepare, cover, camera, sheets and limits."""

import io
import tempfile
import threading
from pathlib import Path
from unittest import mock

import bracket
import cv2
import numpy as np
from PIL import Image
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDialog

from bench.strokes import STROKES, stroked
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import area_of
from draxet.job.contour_edits import add_contours
from draxet.job.picture_edits import map_picture, set_steps
from draxet.job.records import Job
from draxet.job.sheet_records import Limit, Sheet
from draxet.job.steps import Cover, Crop, EvenLight, LineArt, PrepareStep, Shrink
from draxet.prove.looking import findings_of
from draxet.trueup.true import measured_again
from draxet.ui.controls.chooser import PictureChooser
from draxet.ui.controls.fields import SliderField
from draxet.ui.demo import demo_job
from draxet.ui.model.stage import Stage
from draxet.ui.shell.camera_window import CameraWindow
from draxet.ui.shell.pages import ThumbnailChooser
from draxet.ui.shell.signoffs import sign_offs
from draxet.ui.stages.gather.limits import LimitSlip
from draxet.ui.stages.gather.picture_in_hand import GatherSlip
from draxet.ui.stages.gather.prepare_slip import PrepareSlip
from draxet.ui.stages.gather.sheets import SheetSlip
from draxet.ui.stages.trace.attempt import attempt_by
from draxet.ui.stages.trace_settings import trace_settings
from tests.ui.driver import WindowTest

Held = Qt.KeyboardModifier


def png(pixels: np.ndarray) -> bytes:
    return bytes(cv2.imencode(".png", pixels)[1].tobytes())


def tagged(label: str) -> np.ndarray:
    picture = np.full((60, 80), 230, np.uint8)
    cv2.putText(picture, label, (10, 45), cv2.FONT_HERSHEY_SIMPLEX, 1.2, 20, 2)
    return picture


class GatherTest(WindowTest):
    def when_shown(self, kind: type, act: object) -> None:
        """Do something with the next dialog of a kind once it stands."""

        def look() -> None:
            dialog = QApplication.activeModalWidget()
            if isinstance(dialog, kind):
                act(dialog)  # type: ignore[operator]
            else:
                QTimer.singleShot(20, look)

        QTimer.singleShot(20, look)

    def typed(self, field: object, words: str) -> None:
        field.setFocus()  # type: ignore[attr-defined]
        field.selectAll()  # type: ignore[attr-defined]
        self.keys(*words, Qt.Key.Key_Return, on=field)


class ThePictureInHand(GatherTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.start(demo_job(), None)

    def in_place(self) -> object:
        self.keys("R", on=self.canvas)
        return self.slip

    def test_laid_down_by_escape_it_is_taken_in_hand_by_a_click(self) -> None:
        (picture,) = self.session.job.pictures
        self.keys(Qt.Key.Key_Escape, on=self.canvas)
        self.assertTrue(self.session.selection.hands_empty)
        x0, y0, x1, _ = picture.box
        self.click(x0 - 5, y0 - 5)  # beside it
        self.assertTrue(self.session.selection.hands_empty)
        self.click((x0 + x1) / 2, y0 + 20)
        self.assertFalse(self.session.selection.hands_empty)
        self.assertEqual(self.session.selection.picture, picture)
        self.assertIsNone(self.session.tool)

    def test_a_typed_width_scales_in_proportion_and_a_wrong_one_is_refused(self) -> None:
        slip = self.in_place()
        before = self.session.job.pictures[0]
        self.typed(slip.wide, "bad")  # type: ignore[attr-defined]
        self.assertIn("Width must be", self.top_words)
        self.assertEqual(self.session.job.pictures[0], before)
        self.typed(slip.wide, "40 cm")  # type: ignore[attr-defined]
        picture = self.session.job.pictures[0]
        self.assertAlmostEqual(picture.width * picture.pixel_size, 400, 6)
        self.assertTrue(picture.to_job.is_similarity)

    def test_without_the_proportion_the_distortion_is_shown(self) -> None:
        slip = self.in_place()
        self.assertEqual(slip._distortion.text(), "none")  # type: ignore[attr-defined]
        self.press(slip.keep)  # type: ignore[attr-defined]
        box = self.session.job.pictures[0].box
        self.typed(slip.high, f"{1.05 * (box[3] - box[1]):.6f}")  # type: ignore[attr-defined]
        self.assertEqual(slip._distortion.text(), "5.00 %")  # type: ignore[attr-defined]
        picture = self.session.job.pictures[0]
        self.assertAlmostEqual(picture.distortion, 0.05, 4)
        self.assertEqual(
            [
                round(m.length - k.length, 9)
                for m, k in zip(measured_again(picture), picture.known_lengths, strict=True)
            ],
            [0, 0],
        )

    def test_arrow_keys_nudge_by_a_step_that_can_be_set_and_a_lock_holds_it(self) -> None:
        slip = self.in_place()
        self.typed(slip.step, "2")  # type: ignore[attr-defined]
        start = self.session.job.pictures[0].to_job
        self.keys(Qt.Key.Key_Right, on=self.canvas)
        self.keys(Qt.Key.Key_Up, held=Qt.KeyboardModifier.ShiftModifier, on=self.canvas)
        moved = self.session.job.pictures[0].to_job
        self.assertAlmostEqual(moved.c - start.c, 2)
        self.assertAlmostEqual(moved.f - start.f, 20)
        self.keys("2", "1", on=self.canvas)
        self.settle(60)
        self.press(self.slip_of(GatherSlip).lock)
        self.keys("R", Qt.Key.Key_Left, on=self.canvas)
        self.assertIn("is locked", self.top_words)
        self.drag((170, 160), (190, 150))
        self.assertEqual(self.session.job.pictures[0].to_job, moved)

    def test_places_by_any_corner_moves_copies_and_turns_by_number(self) -> None:
        slip = self.in_place()
        self.press(slip.anchors.button(1.0, 1.0))  # type: ignore[attr-defined]
        self.typed(slip.place_x, "300")  # type: ignore[attr-defined]
        self.typed(slip.place_y, "12 in")  # type: ignore[attr-defined]
        np.testing.assert_allclose(self.session.job.pictures[0].box[2:], (300, 304.8), atol=1e-9)
        self.press(slip.to_sheet)  # type: ignore[attr-defined]
        np.testing.assert_allclose(self.session.job.pictures[0].box[2:], (340, 320), atol=1e-9)
        self.press(slip.copy_button)  # type: ignore[attr-defined]
        self.assertIn("Type how far first", self.top_words)
        self.typed(slip.dx, "25")  # type: ignore[attr-defined]
        self.press(slip.copy_button)  # type: ignore[attr-defined]
        first, second = self.session.job.pictures
        self.assertAlmostEqual(second.to_job.c - first.to_job.c, 25)
        self.assertEqual(self.session.selection.picture_id, second.id)
        middle = second.middle
        self.typed(slip.turn, "90")  # type: ignore[attr-defined]
        turned = self.session.job.pictures[1]
        np.testing.assert_allclose(turned.middle, middle, atol=1e-9)
        self.assertAlmostEqual(turned.to_job.a, 0, 9)

    def test_it_can_be_seen_beside_its_contours_and_is_then_back_in_its_very_place(self) -> None:
        self.canvas.fit_all()
        self.hover(100, 100)
        at = self.place(100, 100)
        job, shown = self.session.job, self.canvas.grab().toImage()
        self.window.commands["beside"].run()
        self.assertNotEqual(self.canvas.grab().toImage(), shown)
        self.click(100, 100)
        self.assertIn("bring it back to its place first", self.top_words)
        self.window.commands["beside"].run()
        QTest.mouseMove(self.canvas, at)
        self.settle()
        self.assertEqual(self.canvas.grab().toImage(), shown)
        self.assertIs(self.session.job, job)

    def test_name_order_strength_and_notes(self) -> None:
        self.window.opening.take_picture(png(tagged("B")), "second.png")
        self.settle()
        slip = self.slip_of(GatherSlip)
        self.typed(slip.name, "Side view")
        self.assertEqual(self.session.job.pictures[1].name, "Side view")
        self.press(slip.back)
        self.assertEqual(
            [p.name for p in self.session.job.pictures], ["Side view", "Bracket drawing.jpg"]
        )
        steps = len(self.session.document.history.states)
        slip.strength.slider.setValue(60)
        slip.strength.slider.setValue(40)
        self.assertEqual(self.session.job.pictures[0].strength, 0.4)
        self.assertEqual(
            len(self.session.document.history.states), steps + 1
        )  # one gesture, one step
        self.typed(slip.came_from, "shed archive")
        self.press(slip.lock_all)
        self.assertTrue(all(p.locked for p in self.session.job.pictures))
        self.window.commands["remove-picture"].run()
        self.session.undo()
        self.assertEqual(self.session.job.pictures[0].came_from, "shed archive")


class PreparingAPicture(GatherTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.start(demo_job(), None)
        self.window.commands["prepare"].run()
        self.settle()  # the picture is there

    def add(self, words: str) -> None:
        menu = self.slip_of(PrepareSlip).add_step.menu()
        next(action for action in menu.actions() if action.text() == words).trigger()
        self.settle()

    def test_each_step_is_seen_ordered_switched_off_and_taken_back_and_the_file_stays_as_it_came(
        self,
    ) -> None:
        start = self.session.job
        shown = self.canvas.grab().toImage()
        self.add("Even out light and paper")
        self.add("Contrast")
        self.add("Quarter turn left")
        picture = self.session.job.pictures[0]
        self.assertIs(picture.source, start.pictures[0].source)
        self.assertAlmostEqual(
            picture.box[3] - picture.box[1], start.pictures[0].box[2] - start.pictures[0].box[0]
        )
        self.assertNotEqual(self.canvas.grab().toImage(), shown)
        slip = self.slip_of(PrepareSlip)
        slip._move(2, -1)
        self.assertEqual(
            [type(s.kind).__name__ for s in self.session.job.pictures[0].steps],
            ["EvenLight", "Turn", "Contrast"],
        )
        slip.change(1, PrepareStep(self.session.job.pictures[0].steps[1].kind, on=False))
        np.testing.assert_allclose(
            self.session.job.pictures[0].to_job.to_tuple(),
            start.pictures[0].to_job.to_tuple(),
            atol=1e-9,
        )
        for _ in range(5):
            self.session.undo()
        self.assertIs(self.session.job, start)
        self.settle()
        self.assertEqual(self.canvas.grab().toImage(), shown)

    def test_crop_by_a_dragged_box_moves_nothing_and_known_lengths_stay(self) -> None:
        job = self.session.job
        self.keys("A", on=self.canvas)
        self.drag((60, 60), (62, 61))
        self.assertIn("drag to the other", self.top_words)
        self.assertIs(self.session.job, job)
        before = job.pictures[0].to_job.point(*bracket.part_to_pixels().point(100, 100))
        self.drag((40, 50), (250, 290))
        picture = self.session.job.pictures[0]
        self.assertIsInstance(picture.steps[0].kind, Crop)
        np.testing.assert_allclose(picture.box, (40, 50, 250, 290), atol=1.0)
        pixel = picture.to_base.inverse().point(*bracket.part_to_pixels().point(100, 100))
        np.testing.assert_allclose(picture.to_job.point(*pixel), before, atol=1e-9)

    def test_shrinking_says_what_tracing_needs_or_that_it_is_no_finer(self) -> None:
        self.add("Shrink to what tracing needs")
        self.assertIn("no finer than tracing needs", self.top_words)
        self.window.commands["limits"].run()
        self.press(self.slip_of(LimitSlip).exact.button("plan"))
        self.window.commands["prepare"].run()
        self.add("Shrink to what tracing needs")
        (step,) = self.session.job.pictures[0].steps
        assert isinstance(step.kind, Shrink)
        for factor in (step.kind.factor, 2.5, 3.0):
            shown = SliderField(1, 20, "Factor")
            shown.set_value(factor)
            self.assertEqual(Shrink(factor).words("mm", 1.0), f"Shrink to 1 : {shown.field.text()}")
        self.assertAlmostEqual(self.session.job.pictures[0].pixel_size, 0.25, delta=0.01)

    def test_steps_are_worked_out_off_the_window_and_the_picture_stays_seen_meanwhile(self) -> None:
        threads, evenly = [], EvenLight.on_pixels

        def on_pixels(kind: EvenLight, *given: object) -> np.ndarray:
            threads.append(threading.current_thread())
            return evenly(kind, *given)

        with mock.patch.object(EvenLight, "on_pixels", on_pixels):
            menu = self.slip_of(PrepareSlip).add_step.menu()
            next(
                action for action in menu.actions() if action.text() == "Even out light and paper"
            ).trigger()
            before = self.session.pictures.latest(self.session.job.pictures[0])
            self.canvas.grab()
            self.settle()
        self.assertFalse(before.exact)
        self.assertIs(before.pyramid, self.session.pictures.base(self.session.job.pictures[0]))
        self.assertEqual(len(threads), 2, "a coarse version, and the exact one")
        self.assertNotIn(threading.main_thread(), threads)
        self.assertTrue(self.session.pictures.latest(self.session.job.pictures[0]).exact)
        whole = self.session.job.pictures[0]
        cropped = set_steps(
            self.session.job,
            whole.id,
            [PrepareStep(Crop(500, 400, 900, 700)), PrepareStep(Shrink(2.0))],
        )
        meanwhile = self.session.pictures.latest(cropped.pictures[0])
        self.assertFalse(meanwhile.exact)
        np.testing.assert_allclose(
            meanwhile.picture.to_job.to_tuple(), whole.to_job.to_tuple(), atol=1e-9
        )
        self.assertEqual(
            (meanwhile.picture.width, meanwhile.picture.height), (whole.width, whole.height)
        )

    def test_line_art_runs_off_the_window_can_be_cancelled_and_run_again(self) -> None:
        job = self.session.job
        self.session.edit(
            "crop", set_steps(job, job.pictures[0].id, [PrepareStep(Crop(600, 600, 1500, 1500))])
        )
        self.settle()
        menu = self.slip_of(PrepareSlip).add_step.menu()
        next(
            action for action in menu.actions() if action.text() == "Line art from a photo"
        ).trigger()
        self.wait_for(self.slip_of(PrepareSlip).stop.isVisible)
        self.press(self.slip_of(PrepareSlip).stop)
        self.settle()
        _, step = self.session.job.pictures[0].steps
        self.assertEqual((type(step.kind), step.on), (LineArt, False))
        self.session.undo()
        self.settle(50)
        picture = self.session.job.pictures[0]
        self.assertTrue(self.session.pictures.ready(picture))
        self.assertGreater(np.mean(self.session.pictures.of(picture).grey > 250), 0.9)

    def test_a_cover_is_drawn_closed_changed_and_taken_back(self) -> None:
        def on_part(x: float, y: float) -> tuple[float, float]:
            return self.session.job.pictures[0].to_job.point(*bracket.part_to_pixels().point(x, y))

        def ink() -> int:
            picture = self.session.job.pictures[0]
            x, y = bracket.part_to_pixels().point(84, 153)
            return int(
                (
                    self.session.pictures.of(picture).grey[
                        int(y) - 40 : int(y) + 10, int(x) - 40 : int(x) + 60
                    ]
                    < 170
                ).sum()
            )

        self.keys("S", on=self.canvas)
        before = ink()
        self.assertGreater(before, 50)
        for place in ((66, 160), (100, 160), (100, 150)):
            self.click(*on_part(*place))
        self.click(*on_part(140, 120))
        self.keys(Qt.Key.Key_Escape, on=self.canvas)  # a wrong corner, taken back
        self.click(*on_part(66, 150))
        self.keys(Qt.Key.Key_Return, on=self.canvas)
        (step,) = self.session.job.pictures[0].steps
        assert isinstance(step.kind, Cover)
        self.assertEqual(len(step.kind.outline), 4)
        self.assertLess(ink(), before / 4)
        self.drag(on_part(66, 160), on_part(86, 158))
        (moved,) = self.session.job.pictures[0].steps
        self.assertNotEqual(moved, step)
        self.session.undo()
        self.session.undo()
        self.assertEqual(ink(), before)


class PicturesIn(GatherTest):
    def test_a_file_of_several_pages_asks_which_and_brings_in_that_one(self) -> None:
        stream = io.BytesIO()
        Image.new("L", (40, 30), 255).save(
            stream, "TIFF", save_all=True, append_images=[Image.new("L", (50, 20), 10)]
        )

        def choose(chooser: ThumbnailChooser) -> None:
            self.assertEqual(chooser.list.count(), 2)
            chooser.list.setCurrentRow(1)
            chooser.accept()

        self.when_shown(ThumbnailChooser, choose)
        self.window.opening.take_picture(stream.getvalue(), "pages.tif")
        self.settle(200)
        (picture,) = self.session.job.pictures
        self.assertEqual((picture.width, picture.height, picture.page), (50, 20, 1))

    def test_several_at_once_lie_side_by_side_and_are_recent_afterwards(self) -> None:
        with (
            tempfile.TemporaryDirectory() as folder,
            mock.patch.dict("os.environ", {"XDG_STATE_HOME": folder}),
        ):
            paths = [Path(folder) / f"{name}.png" for name in "ab"]
            for path in paths:
                path.write_bytes(png(tagged(path.stem)))
            self.window.open_files(paths)
            self.settle()
            middles = {p.middle for p in self.session.job.pictures}
            self.assertEqual(len(middles), 2)

            def choose(chooser: ThumbnailChooser) -> None:
                self.assertEqual({chooser.list.item(k).text() for k in (0, 1)}, {"a.png", "b.png"})
                chooser.accept()

            self.when_shown(ThumbnailChooser, choose)
            self.window.commands["recent"].run()
            self.settle(100)
            self.assertEqual(len(self.session.job.pictures), 3)

    def test_the_chooser_shows_a_preview_with_its_size_or_why_it_cannot_be_read(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            good, bad, drawing = (
                Path(folder) / name for name in ("good.png", "bad.jpg", "plan.dxf")
            )
            good.write_bytes(png(tagged("A")))
            bad.write_bytes(b"no picture")
            drawing.write_bytes(b"0")
            chooser = PictureChooser(("png", "jpg"), ("dxf",), self.window.workers, self.window)
            for path, words in (
                (good, "80 × 60 px"),
                (bad, "is no picture"),
                (drawing, "comes in as contours"),
            ):
                chooser.look(str(path))
                self.settle()
                self.assertIn(words, chooser.words.text())
            self.assertEqual(chooser.selectedNameFilter()[:20], "All that Draxet reads"[:20])
            chooser.done(0)
            chooser.deleteLater()

    def test_the_camera_captures_tries_the_trace_captures_again_and_brings_in_one_picture(
        self,
    ) -> None:
        settings = trace_settings(self.session)
        for way, some in (("edges", {True}), ("middles", {True, False})):
            settings.way = way
            page = stroked(STROKES["lines"])
            found = attempt_by(settings)(page, lambda share, words: None)
            self.assertEqual({each.closed for each in found} | {True}, some)
        settings.way = "edges"
        camera = CameraWindow(self.window.workers, self.window, attempt_by(settings))
        camera.show()
        self.wait_for(lambda: not camera.view.image.isNull())
        self.press(camera.capture)
        self.wait_for(camera.use.isVisible)
        first = camera.taken
        self.press(camera.attempt)
        self.settle()
        self.assertIn("contours", camera._fact.text())
        self.assertGreater(len(camera.view.contours), 3)
        self.press(camera.again)
        self.assertEqual((camera.taken, camera.view.contours), (b"", ()))
        self.press(camera.capture)
        self.wait_for(camera.use.isVisible)
        self.assertNotEqual(camera.taken, first)
        self.press(camera.again)
        with mock.patch.object(camera._source, "shot", side_effect=OSError("unplugged")):
            self.press(camera.capture)
            self.wait_for(lambda: "unplugged" in camera._fact.text())
        self.keys(
            Qt.Key.Key_Return, Qt.Key.Key_Return, on=camera.capture
        )  # twice: the second is one too many
        self.wait_for(camera.use.hasFocus)
        self.assertTrue(camera.isVisible())
        camera.reject()
        self.assertEqual(camera.taken, b"")

        def use(dialog: QDialog) -> None:
            assert isinstance(dialog, CameraWindow)
            dialog.capture.click()
            self.wait_for(dialog.use.isVisible)
            dialog.use.click()

        self.when_shown(CameraWindow, use)
        self.window.commands["camera"].run()
        self.settle(100)
        self.assertEqual([p.name for p in self.session.job.pictures], ["Camera shot 1.png"])


class LeavingGather(GatherTest):
    def test_a_picture_larger_than_the_reach_is_told_as_gather_is_left(self) -> None:
        data = png(np.full((100, 200), 240, np.uint8))
        sheet = Sheet(width=3000, height=1000, machine="desk-laser")
        self.session.start(Job(sheets=(sheet,)), None)
        self.window.opening.take_picture(data, "Sign.png")  # it fills the sheet
        self.wait_for(lambda: bool(self.session.job.pictures))
        self.settle()
        self.session.open_stage(Stage.TRUE_UP)
        self.assertIn("the desk laser reaches 600 × 400 mm", self.top_words)
        signs = sign_offs(self.session.job, self.session.looked.findings)
        self.assertEqual(signs[Stage.GATHER].words, "beyond the reach")
        self.session.open_stage(Stage.GATHER)
        self.session.edit(
            "smaller",
            map_picture(self.session.job, self.session.job.pictures[0].id, Affine.scaled(0.2)),
        )
        self.settle()
        self.session.open_stage(Stage.TRUE_UP)
        self.assertNotIn("reaches", self.top_words)
        signs = sign_offs(self.session.job, self.session.looked.findings)
        self.assertTrue(signs[Stage.GATHER].done)


class CoversFromContours(GatherTest):
    def test_what_lies_in_a_drawn_contour_is_covered(self) -> None:
        pixels = np.full((200, 300), 240, np.uint8)
        cv2.circle(pixels, (80, 100), 30, 20, -1)
        cv2.circle(pixels, (220, 100), 30, 20, -1)
        self.window.opening.take_picture(png(pixels), "Two discs.png")
        self.wait_for(lambda: self.session.selection.picture is not None)
        self.settle()
        picture = self.session.selection.picture
        assert picture is not None
        around = Contour.circle(80, 100, 40).transformed(picture.to_job)
        self.session.edit("draw", add_contours(self.session.job, [around]))
        self.take("cover")
        slip = self.slip_of(PrepareSlip)
        assert slip.chosen is not None
        self.press(slip.chosen)
        self.assertIn("Choose closed contours", self.top_words)
        self.session.selection.choose({self.session.layout.contours[0].id})
        self.press(slip.chosen)
        self.settle()
        found = self.session.selection.picture
        assert found is not None
        self.assertEqual([type(step.kind) for step in found.steps], [Cover])
        self.wait_for(lambda: self.session.pictures.ready(found))
        seen = self.session.pictures.of(found).grey
        self.assertGreater(int(seen[60:140, 40:120].min()), 200)
        self.assertLess(int(seen[100, 220]), 60)
        self.session.undo()
        self.assertEqual(
            self.session.selection.picture.steps if self.session.selection.picture else None, ()
        )


class SettingUp(GatherTest):
    def test_sheets_of_several_materials_with_their_own_origin(self) -> None:
        self.window.commands["sheets"].run()
        slip = self.slip_of(SheetSlip)
        self.press(slip.new)
        self.typed(slip.material, "oak")
        self.typed(slip.thick, "3/4 in")
        self.press(slip.origin.button(0.5, 0.5))
        first, second = self.session.job.sheets
        self.assertEqual(
            (first.material, second.material, second.thickness), ("steel", "oak", 0.75 * 25.4)
        )
        self.assertGreater(second.x, first.x + first.width)
        self.assertEqual(
            second.origin_place, (second.x + second.width / 2, second.y + second.height / 2)
        )
        self.click(100, 100)
        self.assertEqual(self.session.job.sheet, first)
        self.session.edit(
            "draw", add_contours(self.session.job, [Contour.circle(second.x + 50, 50, 10)])
        )
        self.typed(slip.wide, "800")  # the other sheet makes room, with what lies on it
        self.assertAlmostEqual(self.session.job.sheets[1].x, second.x + 200)
        self.assertAlmostEqual(self.session.layout.contours[0].contour.box[0], second.x + 240)
        self.click(5000, 5000)
        self.assertIn("no sheet under the pointer", self.top_words)

    def test_what_lies_outside_a_hoop_or_is_too_small_is_listed(self) -> None:
        self.session.edit(
            "draw",
            add_contours(
                self.session.job,
                [
                    Contour.circle(20, 20, 10),
                    Contour.circle(300, 200, 10),
                    Contour.circle(300, 250, 0.8),
                ],
            ),
        )
        self.window.commands["limits"].run()
        slip = self.slip_of(LimitSlip)
        self.press(slip.shape.button("hoop"))
        self.typed(slip.feature, "2 mm")
        words = [check.words for check in findings_of(self.session.job)]
        self.assertIn("1 contour outside the limit: hoop", words)
        self.assertIn("1 contour smaller than the smallest feature, 2 mm", words)
        self.press(slip.shape.button("own"))
        self.assertIn("Click a closed contour", self.top_words)
        self.session.selection.choose({self.session.layout.contours[1].id})
        self.press(slip.shape.button("own"))
        self.assertEqual(self.session.job.limit and self.session.job.limit.name, "own outline")

    def test_a_limit_is_clicked_dragged_centred_and_filled_by_what_is_in_hand(self) -> None:
        rim, hole = Contour.circle(150, 150, 100), Contour.circle(150, 150, 20)
        art = Contour.make([(400, 20), (440, 20), (440, 30), (400, 30)])
        self.session.edit("draw", add_contours(self.session.job, [rim, hole, art]))
        names = [item.id for item in self.session.layout.contours]
        self.window.commands["limits"].run()
        slip = self.slip_of(LimitSlip)

        def limit() -> Limit:
            assert self.session.job.limit is not None
            return self.session.job.limit

        self.click(20, 20)
        self.assertIn("no closed contour here", self.top_words)
        self.click(250, 150)
        self.assertEqual(limit().outline.box, rim.box)
        self.click(170, 150, Held.ShiftModifier)
        self.assertEqual([each.box for each in limit().holes], [hole.box])
        self.assertIn("1 hole kept clear", slip._own.text())
        self.drag((150, 90), (190, 130))
        np.testing.assert_allclose(limit().outline.box[:2], (90, 90), atol=1)
        self.session.undo()
        self.press(slip.centre)
        sheet = self.session.job.sheet
        self.assertAlmostEqual(sum(limit().outline.box[::2]), sheet.width)
        self.typed(slip.place_x, "50")
        self.assertAlmostEqual(limit().outline.box[0], 50)
        self.session.undo()
        self.session.undo()
        self.assertFalse(slip.go.isEnabled())
        self.session.selection.choose({names[2]})
        self.typed(slip.asked["margin"], "3")
        self.press(slip.asked["turns"])
        slip.go.click()
        self.keys(Qt.Key.Key_Escape, on=self.canvas)  # it is stopped, and nothing changes
        self.settle(50)
        self.assertEqual(self.session.layout.contour_by_id[names[2]].contour, art)
        self.press(slip.go)
        self.wait_for(lambda: self.session.layout.contour_by_id[names[2]].contour != art)
        laid = area_of([self.session.layout.contour_by_id[names[2]].contour])
        room = area_of([rim]).buffer(-2.99).difference(area_of([hole]).buffer(2.99))
        self.assertLess(laid.difference(room).area, 1.0)
        self.assertGreater(laid.area, 100 * 25)  # beside the hole it is far larger than it was
        self.session.undo()
        self.session.selection.choose({names[2]})
        self.typed(slip.asked["margin"], "200")
        self.press(slip.go)
        self.wait_for(lambda: "no place for it" in self.top_words)

    def test_a_template_keeps_the_set_up_and_nothing_else(self) -> None:
        with (
            tempfile.TemporaryDirectory() as folder,
            mock.patch.dict("os.environ", {"XDG_CONFIG_HOME": folder}),
        ):
            self.window.commands["new-from"].run()
            self.assertIn("No template is kept yet", self.top_words)
            self.session.start(demo_job(), None)
            with mock.patch("draxet.ui.shell.job_files.ask_name", return_value="Plate steel"):
                self.window.commands["keep-template"].run()
            self.assertIn("kept as", self.top_words)
            with mock.patch("draxet.ui.shell.job_files.ask_which", return_value=0):
                self.window.commands["new-from"].run()
            job = self.session.job
            self.assertEqual(
                (job.sheet.material, job.pictures, job.name), ("steel", (), "Untitled job")
            )


if __name__ == "__main__":
    import unittest

    unittest.main()
