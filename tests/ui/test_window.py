"""Parts of the real window, one behaviour each."""

import gc
import io
import tempfile
import threading
import time
from pathlib import Path
from unittest import mock

import bracket
import cv2
import ezdxf
import numpy as np
from PyQt6.QtCore import QEvent, QPoint, Qt
from PyQt6.QtGui import QImage, QKeyEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPushButton, QWidget

from bench.photos import Photo
from draxet.gather.load import pages_or_picture
from draxet.geometry.contour import Contour
from draxet.geometry.homography import apply_homography
from draxet.job.contour_edits import add_contours
from draxet.job.file import read_job
from draxet.job.findings import Finding, Gravity
from draxet.job.picture_edits import set_steps
from draxet.job.steps import Crop, PrepareStep
from draxet.progress import Progress
from draxet.ui.demo import demo_job
from draxet.ui.model.garbage import Garbage
from draxet.ui.model.stage import Stage
from draxet.ui.shell.finder import Finder
from draxet.ui.shell.plain_words import PLAIN_WORDS
from draxet.ui.stages.findings_list import FindingRows
from draxet.ui.stages.gather.limits import LimitSlip
from draxet.ui.stages.make.operations import OperationSlip
from draxet.ui.stages.mend.shaping import ShapingTool
from draxet.ui.stages.trace.trace_slip import TraceSlip
from draxet.ui.stages.trueup.length_tools import KnownLengthTool, SeveralLengthsSlip
from draxet.ui.stages.trueup.square_tool import SquareSlip, SquareTool
from tests.ui.driver import WindowTest


def grid(count: int) -> list[Contour]:
    return [Contour.circle(20 + 30 * (k % 10), 20 + 30 * (k // 10), 10) for k in range(count)]


class Commands(WindowTest):
    def test_every_command_has_words_and_none_runs_into_an_error_when_it_may_not(self) -> None:
        for command in self.window.commands.values():
            with self.subTest(command.id):
                self.assertTrue(command.words)
                if why := command.why_not():
                    self.window._run(command)
                    self.assertIn(why, self.top_words)

    def test_no_key_is_taken_twice_in_any_stage(self) -> None:
        for stage in Stage:
            keys = [
                c.key for c in self.window.commands.values() if c.key and c.stage in (None, stage)
            ]
            self.assertEqual(len(keys), len(set(keys)), stage)

    def test_find_a_command_narrows_and_runs(self) -> None:
        finder = Finder(list(self.window.commands.values()), self.window)
        finder.show()
        self.assertLessEqual(PLAIN_WORDS.keys(), self.window.commands.keys())
        for words, wanted in (
            ("fill", "regions"),
            ("trim", "trim"),
            ("resize", "size"),
            ("copy round", "ring"),
            ("erase", "cover"),
            ("rotate", "turn"),
            ("extrude", "raise"),
            ("export", "hand-off"),
        ):
            finder.field.setText(words)
            found = [
                finder.list.item(k).data(Qt.ItemDataRole.UserRole)
                for k in range(finder.list.count())
            ]
            self.assertIn(wanted, [each.id for each in found if each is not None], words)
        finder.field.setText("lengths cm")
        self.assertEqual(finder.list.count(), 1)
        self.keys(Qt.Key.Key_Return, on=finder.field)
        self.assertEqual(self.session.job.unit, "cm")

    def test_stage_keys_open_stages_and_tool_keys_belong_to_the_open_stage(self) -> None:
        self.session.start(demo_job(), None)
        self.keys("2", on=self.canvas)
        self.assertEqual(self.session.tool_id, "known-length")
        self.keys("F", on=self.canvas)
        self.assertEqual(self.session.tool_id, "measure")
        self.keys("3", on=self.canvas)
        self.assertEqual(self.session.tool_id, "edges")
        self.keys("W", on=self.canvas)
        self.assertEqual(self.session.tool_id, "middles")
        self.keys("4", "W", on=self.canvas)
        self.assertEqual(self.session.desk.stage, Stage.MEND)


class TheCanvas(WindowTest):
    def test_the_wheel_zooms_at_the_pointer_and_dragging_with_the_middle_button_pans(self) -> None:
        before = self.place(100, 100)
        self.wheel(100, 100, 3)
        self.assertLessEqual((self.place(100, 100) - before).manhattanLength(), 2)
        zoom = self.canvas.camera.zoom
        self.drag((100, 100), (150, 100), Qt.MouseButton.MiddleButton)
        self.assertAlmostEqual((self.place(100, 100) - before).x(), 50 * zoom, delta=3)
        self.assertEqual(self.canvas.camera.zoom, zoom)

    def test_panning_paints_the_same_as_painting_anew(self) -> None:
        self.session.start(demo_job(), None)
        self.session.edit("draw", add_contours(self.session.job, grid(60)))
        self.settle()
        self.canvas.pan_by(37, -23)
        moved = self.canvas.grab().toImage()
        self.canvas._rest._state = None
        fresh = self.canvas.grab().toImage()
        a, b = (
            np.frombuffer(
                i.convertToFormat(QImage.Format.Format_RGB32).constBits().asarray(i.sizeInBytes()),
                np.uint8,
            ).astype(int)
            for i in (moved, fresh)
        )
        self.assertLess((np.abs(a - b) > 24).mean(), 0.002)

    def test_tab_held_shows_the_picture_alone_and_shift_tab_the_contours(self) -> None:
        self.session.start(demo_job(), None)
        self.session.open_stage(Stage.MAKE)
        self.canvas.setFocus()
        for key, only in ((Qt.Key.Key_Tab, "picture"), (Qt.Key.Key_Backtab, "contours")):
            QTest.keyPress(self.canvas, key)
            self.assertEqual(self.canvas._only, only)
            QTest.keyRelease(self.canvas, key)
            self.assertEqual(self.canvas._only, "")

    def test_picture_strength_is_kept_for_each_stage(self) -> None:
        self.session.start(demo_job(), None)
        self.session.open_stage(Stage.MEND)
        self.window.slips.strength.slider.setValue(80)
        self.session.open_stage(Stage.MAKE)
        self.assertEqual(self.session.desk.strength, 0)
        self.session.open_stage(Stage.MEND)
        self.assertEqual(self.session.desk.strength, 0.8)


class Mending(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        slit = Contour.make([(200, 200), (250, 230)], closed=False)
        self.session.start(add_contours(self.session.job, [*grid(4), slit]), None)
        self.session.open_stage(Stage.MEND)

    def test_clicks_choose_shift_adds_and_empty_ground_lets_go(self) -> None:
        self.click(30, 20)
        self.click(60, 20, Qt.KeyboardModifier.ShiftModifier)
        self.assertEqual(len(self.session.selection.ids), 2)
        self.click(300, 350)
        self.assertEqual(self.session.selection.ids, frozenset())

    def test_open_ends_are_counted_marked_and_visited(self) -> None:
        self.settle()
        self.assertEqual(self.window.facts.values["Contours"].text(), "4 closed · 1 open")
        self.assertIn("2 open ends", self.window.card._rows[Stage.MEND]._note.text())
        self.keys("W", on=self.canvas)
        centre = self.canvas.rect().center()
        self.assertLess((self.place(200, 200) - centre).manhattanLength(), 4)

    def test_removing_flashes_and_undo_and_redo_are_exact(self) -> None:
        before = self.session.job
        self.click(30, 20)
        self.keys(Qt.Key.Key_Delete, on=self.canvas)
        after = self.session.job
        self.assertEqual(len(self.canvas._flash), 1)
        self.assertEqual(len(after.contours), 4)
        self.keys("Z", held=Qt.KeyboardModifier.ControlModifier, on=self.canvas)
        self.assertIs(self.session.job, before)
        self.keys(
            "Z",
            held=Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier,
            on=self.canvas,
        )
        self.assertIs(self.session.job, after)
        self.wait_for(lambda: not self.canvas._flash)

    def test_a_drag_given_up_leaves_the_job_as_it_was(self) -> None:
        self.click(30, 20)
        before = self.session.job
        QTest.mousePress(
            self.canvas,
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
            self.place(30, 20),
        )
        QTest.mouseMove(self.canvas, self.place(60, 50))
        self.assertTrue(self.session.tool and self.tool_of(ShapingTool).hidden())
        self.keys(Qt.Key.Key_Escape, on=self.canvas)
        QTest.mouseRelease(
            self.canvas,
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
            self.place(60, 50),
        )
        self.assertIs(self.session.job, before)


class PicturesIn(WindowTest):
    def test_pasting_brings_in_one_copy_and_an_empty_clipboard_is_said(self) -> None:
        board = QApplication.clipboard()
        board.clear()
        self.keys("W", on=self.canvas)
        self.assertIn("no picture on the clipboard", self.top_words)
        image = QImage(60, 40, QImage.Format.Format_RGB32)
        image.fill(0x336699)
        board.setImage(image)
        self.keys("W", on=self.canvas)
        self.settle()
        self.assertEqual([(p.width, p.height) for p in self.session.job.pictures], [(60, 40)])

    def test_a_picture_is_dragged_to_its_place_and_back_by_undo(self) -> None:
        self.session.start(demo_job(), None)
        self.keys("R", on=self.canvas)
        before = self.session.job
        self.drag((170, 160), (190, 150))
        moved = self.session.job.pictures[0].to_job
        self.assertAlmostEqual(moved.c - before.pictures[0].to_job.c, 20, delta=1)
        self.session.undo()
        self.assertIs(self.session.job, before)


class LongWork(WindowTest):
    def test_what_a_task_holds_is_let_go_of_on_the_window_s_thread_however_it_ends(self) -> None:
        let_go: list[threading.Thread] = []

        class Held:
            def __del__(self) -> None:
                let_go.append(threading.current_thread())

            def work(self, report: Progress) -> None:
                for _ in range(60):
                    report(0.5, "")
                    time.sleep(0.001)

            def fail(self, report: Progress) -> None:
                raise ValueError("as it was meant to")

            def take(self, answer: object) -> None:
                """Nothing is done with it."""

        workers = self.window.workers
        for number in range(40):
            held = Held()
            workers.run(
                f"lane {number % 3}",
                held.fail if number % 4 == 3 else held.work,
                held.take,
                held.take,
            )
            del held
            if number % 5 == 4:
                workers.cancel(f"lane {number % 3}")
            QTest.qWait(number % 7)
        self.wait_for(lambda: len(let_go) == 40)
        self.assertEqual(set(let_go), {threading.main_thread()})

    def test_the_newest_request_wins_and_an_error_is_handed_over(self) -> None:
        answers: list[object] = []

        def slow(value: int) -> object:
            def work(report: Progress) -> int:
                for k in range(40):
                    time.sleep(0.005)
                    report(k / 40, "working")
                return value

            return work

        workers = self.window.workers
        for value in (1, 2, 3):
            workers.run("lane", slow(value), answers.append, answers.append)
        workers.run("other", lambda report: 1 / 0, answers.append, answers.append)
        self.settle()
        self.assertEqual([a for a in answers if isinstance(a, int)], [3])
        self.assertEqual([type(a) for a in answers if not isinstance(a, int)], [ZeroDivisionError])

    def test_the_window_answers_while_a_trace_runs_and_esc_gives_it_up(self) -> None:
        self.session.start(demo_job(), None)
        self.session.open_stage(Stage.TRACE)
        self.assertTrue(self.window.workers.busy("trace"))
        before = self.place(100, 100)
        self.canvas.pan_by(10, 0)
        self.assertEqual(self.place(100, 100) - before, QPoint(10, 0))
        self.keys(Qt.Key.Key_Escape, on=self.canvas)
        self.assertFalse(self.window.workers.busy("trace"))
        slip = self.slip_of(TraceSlip)
        self.assertEqual(
            slip.foot.words.text(), "Not traced, as that was stopped: change a setting"
        )


class _Circle:
    """Rubbish that only collection finds; says on which thread it was found."""

    def __init__(self, found_on: list[int]) -> None:
        self.itself, self.found_on = self, found_on

    def __del__(self) -> None:
        self.found_on.append(threading.get_ident())


class Rubbish(WindowTest):
    def test_it_is_collected_on_the_windows_thread_and_never_by_a_worker(self) -> None:
        gc.collect()
        found_on: list[int] = []
        _Circle(found_on)
        made: list[object] = []
        self.window.workers.run(
            "rubbish", lambda report: [[k] for k in range(50_000)], made.append, self.errors.append
        )
        while not made:
            QTest.qWait(5)
        until = time.monotonic() + 10
        while not found_on and time.monotonic() < until:
            QTest.qWait(50)
        self.assertEqual(found_on, [threading.get_ident()])

    def test_a_great_many_objects_wait_until_the_hand_rests(self) -> None:
        class Watched(Garbage):
            working = True

            def at_work(self) -> bool:
                return self.working

        gc.collect()
        collector = Watched(self.window)
        for working, many, gone in (
            (True, 4_000, True),
            (True, 50_000, False),
            (False, 50_000, True),
        ):
            with self.subTest(working=working, many=many):
                found_on: list[int] = []
                _Circle(found_on)
                kept: list[object] = [[k] for k in range(many)]
                collector.working = working
                for _ in range(8):
                    collector.look()
                self.assertEqual((bool(found_on), len(kept)), (gone, many))
        collector.deleteLater()

    def test_what_all_rounds_have_left_is_set_aside_until_the_job_ends(self) -> None:
        collector = Garbage(self.window)
        collector.at_work = lambda: False  # type: ignore[method-assign]
        self.addCleanup(gc.unfreeze)
        kept: list[object] = [[k] for k in range(1_000)]
        for _ in range(400):
            kept += [[k] for k in range(2_500)]  # held: no end of young ones
            for _ in range(6):
                collector.look()
            if gc.get_freeze_count() > 1_000:
                break
        self.assertGreater(gc.get_freeze_count(), 1_000)
        found_on: list[int] = []
        _Circle(found_on)
        del kept
        gc.freeze()
        gc.collect()
        self.assertFalse(found_on)
        self.session.start(demo_job(), None)
        until = time.monotonic() + 30
        while gc.get_freeze_count() and time.monotonic() < until:
            QTest.qWait(50)
        gc.collect()
        self.assertTrue(found_on, "what was set aside is looked at again")
        collector.deleteLater()


class PicksByHand(WindowTest):
    def test_alt_held_picks_freely_and_escape_takes_back_only_the_last(self) -> None:
        self.session.start(demo_job(), None)
        self.keys("2", on=self.canvas)
        tool = self.tool_of(KnownLengthTool)
        assert isinstance(tool, KnownLengthTool)
        picture = self.session.job.pictures[0]
        at = picture.to_job.point(*bracket.part_to_pixels().point(0.8, 100))
        self.click(*at)
        self.assertTrue(tool.picks[0].locked)
        far = picture.to_job.point(*bracket.part_to_pixels().point(100, 100))
        self.click(*far, Qt.KeyboardModifier.AltModifier)
        self.assertFalse(tool.picks[1].locked)
        self.assertTrue(tool.wants_number)
        self.keys(Qt.Key.Key_Escape, on=self.canvas)
        self.assertEqual(len(tool.picks), 1)
        self.keys("3", on=self.canvas)  # no number is waited for any more: a digit opens a stage
        self.assertEqual(self.session.desk.stage, Stage.TRACE)


class SquaringAPhoto(WindowTest):
    def test_corners_are_found_dragged_and_the_photo_becomes_a_plan_that_can_be_had_back(
        self,
    ) -> None:
        photo = Photo(3)
        _, data = cv2.imencode(".png", photo.pixels)
        self.window.opening.take_picture(data.tobytes(), "bench.png")
        self.settle()
        before = self.session.job
        self.keys("2", "R", on=self.canvas)
        self.settle()
        tool = self.tool_of(SquareTool)
        assert isinstance(tool, SquareTool)
        picture = before.pictures[0]
        corner = picture.to_job.point(*tool.corners[0])
        self.drag(corner, (corner[0] + 6 / self.canvas.camera.zoom, corner[1]))
        self.press(self.slip_of(SquareSlip).go)
        squared = self.session.job.pictures[0]
        self.assertIsNotNone(squared.square)
        self.assertIn("Squared and to scale", self.slip_of(SquareSlip)._note.text())
        assert squared.square is not None
        plan = apply_homography(
            np.linalg.inv(np.array(squared.square.matrix).reshape(3, 3)), photo.seen(photo.card)
        )
        sides = np.hypot(*np.diff([squared.to_job.point(*p) for p in plan], axis=0).T)
        np.testing.assert_allclose(sides, (85.6, 53.98, 85.6), rtol=0.004)
        self.canvas.repaint()
        with tempfile.TemporaryDirectory() as folder:
            self.window.jobs.save_to(Path(folder) / "squared.draxet")
            self.settle()
            self.assertEqual(read_job(Path(folder) / "squared.draxet"), self.session.job)
        self.press(self.slip_of(SquareSlip).back)
        self.settle()
        self.assertEqual(
            (self.session.job.pictures[0].width, self.session.job.pictures[0].square),
            (picture.width, None),
        )
        self.session.undo()
        self.session.undo()
        self.assertIs(self.session.job, before)

    def test_rectangles_are_shown_in_turn_and_each_photo_has_its_own_also_when_it_is_cropped(
        self,
    ) -> None:
        page = np.full((700, 1000), 70, np.uint8)
        for x, y, wide, high in ((80, 80, 428, 270), (560, 400, 360, 227)):  # two cards
            page[y : y + high, x : x + wide] = 225
        data = bytes(cv2.imencode(".png", page)[1])
        for name in ("one.png", "two.png"):
            self.window.opening.take_picture(data, name)
            self.settle()
        one, two = self.session.job.pictures
        self.session.selection.choose_picture(one.id)
        self.keys("2", "R", on=self.canvas)
        self.settle()
        tool = self.tool_of(SquareTool)
        assert isinstance(tool, SquareTool)
        self.assertGreaterEqual(len(tool.rectangles), 2)
        seen = [tool.corners]
        self.keys("N", on=self.canvas)
        seen.append(tool.corners)
        self.assertGreater(np.abs(np.array(seen[0]) - seen[1]).max(), 50)
        self.assertIn("(2 of", self.top_words)
        corner = one.to_job.point(*tool.corners[0])
        self.drag(corner, (corner[0] + 9 / self.canvas.camera.zoom, corner[1]))
        moved = list(tool.corners)
        self.session.selection.choose_picture(two.id)
        self.settle()
        np.testing.assert_allclose(tool.corners, seen[0], atol=0.01)
        self.session.selection.choose_picture(one.id)
        self.assertEqual(tool.corners, moved)
        self.session.edit(
            "crop", set_steps(self.session.job, one.id, [PrepareStep(Crop(40, 40, 550, 390))])
        )
        self.session.undo()
        np.testing.assert_allclose(tool.corners, moved, atol=1e-9)
        self.session.redo()
        self.press(self.slip_of(SquareSlip).again)
        self.settle()
        np.testing.assert_allclose(
            sorted(tool.corners, key=lambda at: (round(at[0]), at[1])),
            [(80, 80), (80, 350), (508, 80), (508, 350)],
            atol=0.1,
        )


class SeveralLengths(WindowTest):
    def test_lengths_are_added_told_apart_and_removed(self) -> None:
        self.session.start(demo_job(), None)
        self.keys("2", "E", on=self.canvas)
        for (x0, y0), (x1, y1), words in (
            ((0, -20), (240, -20), "240"),
            ((265, 0), (265, 264), "264"),
            ((40, 140), (124, 140), "86"),
        ):
            for x, y in ((x0, y0), (x1, y1)):
                picture = self.session.job.pictures[0]
                self.click(*picture.to_job.point(*bracket.part_to_pixels().point(x, y)))
            self.keys(words[0], on=self.canvas)  # the first digit takes the field in hand
            self.keys(*words[1:], on=self.slip_of(SeveralLengthsSlip).real)
            self.keys(Qt.Key.Key_Return, on=self.slip_of(SeveralLengthsSlip).real)
        self.assertEqual(len(self.session.job.pictures[0].known_lengths), 3)
        self.assertIn(
            "Length 3 does not go with the others", self.slip_of(SeveralLengthsSlip)._advice.text()
        )
        self.slip_of(SeveralLengthsSlip)._without(2)
        self.assertEqual([k.length for k in self.session.job.pictures[0].known_lengths], [240, 264])
        picture = self.session.job.pictures[0]
        self.assertAlmostEqual(picture.pixel_size, 25.4 / bracket.DPI, delta=1e-4)
        self.session.undo()
        self.assertEqual(len(self.session.job.pictures[0].known_lengths), 3)


def pdf_page(content: bytes) -> bytes:
    """A PDF of one page that is drawn so."""
    parts = (
        b"<</Type/Catalog/Pages 2 0 R>>",
        b"<</Type/Pages/Kids[3 0 R]/Count 1>>",
        b"<</Type/Page/Parent 2 0 R/MediaBox[0 0 600 600]/Contents 4 0 R/Resources<<>>>>",
        b"<</Length %d>>\nstream\n%s\nendstream" % (len(content), content),
    )
    out, places = b"%PDF-1.4\n", []
    for number, part in enumerate(parts, 1):
        places.append(len(out))
        out += b"%d 0 obj\n%s\nendobj\n" % (number, part)
    table = b"".join(b"%010d 00000 n \n" % place for place in places)
    return out + (
        b"xref\n0 5\n0000000000 65535 f \n%strailer<</Size 5/Root 1 0 R>>\nstartxref\n%d\n%%%%EOF"
        % (table, len(out))
    )


class DrawingsIn(WindowTest):
    def test_what_lies_outside_the_page_is_left_out_and_can_be_brought_in_after_all(self) -> None:
        shapes = '<rect x="10" y="10" width="40" height="40"/><rect x="300" y="10" width="40" height="40"/>'
        self.window.opening.take_drawing(
            f'<svg xmlns="http://www.w3.org/2000/svg" width="96mm" height="96mm" viewBox="0 0 96 96">{shapes}</svg>'.encode(),
            "plate.svg",
        )
        self.settle()
        brought = self.session.job
        self.assertEqual(len(brought.contours), 1)
        self.assertIn("Bring in what was left out", self.top_words)
        self.window.commands["bring-aside"].run()
        inside, outside = (item.contour.box for item in self.session.layout.contours)
        self.assertAlmostEqual(outside[0] - inside[0], 290, 6)
        self.session.undo()
        self.assertIs(self.session.job, brought)
        self.window._run(self.window.commands["bring-aside"])
        self.assertIn("nothing was left out", self.top_words.lower())

    def test_that_it_can_be_brought_in_stands_behind_what_can_be(self) -> None:
        document = ezdxf.new("R2010")  # type: ignore[attr-defined]
        document.layers.add("off").off()
        space = document.modelspace()
        space.add_text("words")
        space.add_circle((50, 50), 9)
        space.add_circle((50, 50), 5, dxfattribs={"layer": "off"})
        text = io.StringIO()
        document.header["$INSUNITS"] = 4
        document.write(text)
        self.window.opening.take_drawing(text.getvalue().encode(), "plate.dxf")
        self.settle()
        self.assertIn(
            "1 contour on layers that are off left out (Picture menu: Bring in what was left out)",
            self.top_words,
        )
        self.assertIn("left out: 1 text", self.top_words)
        self.assertNotIn("text (", self.top_words)

    def begin_reading(self, *names: str) -> threading.Event:
        """Drop pictures of which ``slow.png`` is not read before the event is set."""
        hold = threading.Event()
        self.addCleanup(hold.set)

        def read(data: bytes, name: str, page: int | None) -> object:
            if name == "slow.png":
                hold.wait(30)
            return pages_or_picture(data, name, page)

        patch = mock.patch("draxet.ui.shell.opening.pages_or_picture", read)
        patch.start()
        self.addCleanup(patch.stop)
        for name in names:
            self.window.opening.take_picture(
                bytes(cv2.imencode(".png", np.full((40, 60), 200, np.uint8))[1]), name
            )
        return hold

    def names(self) -> list[str]:
        return [picture.name for picture in self.session.job.pictures]

    def test_escape_stops_what_is_still_being_read_when_another_file_has_come_in(self) -> None:
        hold = self.begin_reading("quick.png", "slow.png")
        self.wait_for(lambda: len(self.session.job.pictures) == 1)
        self.assertTrue(self.session.messages.is_reading)
        self.keys(Qt.Key.Key_Escape, on=self.canvas)
        self.assertIn("Stopped reading", self.top_words)
        hold.set()
        self.settle(50)
        self.assertEqual((self.names(), self.session.messages.is_reading), (["quick.png"], False))

    def test_escape_ends_a_library_that_nobody_can_stop(self) -> None:
        """A page of very many lines, and a drawing of many nodes: each is read in a process that is
        ended."""
        lines = b"".join(
            b"%d %d m %d %d l S\n" % (k % 600, k // 500, (k * 7) % 600, k // 450)
            for k in range(300_000)
        )
        space = "".join(f"<use href='#a' x='{k}'/>" for k in range(100_000))
        drawing = f"<svg xmlns='http://www.w3.org/2000/svg' width='9mm'><path id='a' d='M0 0L1 1'/>{space}</svg>"
        for take, data, name in (
            (self.window.opening.take_picture, pdf_page(lines), "lines.pdf"),
            (self.window.opening.take_drawing, drawing.encode(), "uses.svg"),
        ):
            with self.subTest(name):
                before = self.session.job
                take(data, name)
                aside = self.window.workers._aside
                self.wait_for(lambda held=aside: any(not p.is_sound for p in held._all))
                self.keys(Qt.Key.Key_Escape, on=self.canvas)
                self.assertFalse(self.session.messages.is_reading or self.window.workers.busy())
                self.wait_for(lambda held=aside: all(p.is_sound for p in held._all))
                self.assertIs(self.session.job, before)

    def test_files_come_in_as_they_were_dropped_and_a_damaged_one_holds_none_back(self) -> None:
        hold = self.begin_reading("slow.png", "quick.png")
        self.window.opening.take_picture(b"no picture", "damaged.png")
        self.window.opening.take_picture(
            bytes(cv2.imencode(".png", np.full((40, 60), 90, np.uint8))[1]), "last.png"
        )
        self.wait_for(lambda: not any(self.window.workers.busy(f"picture {k}") for k in (2, 3, 4)))
        self.assertEqual((self.names(), self.session.messages.is_reading), ([], True))
        hold.set()
        self.settle(50)
        self.assertEqual(
            (self.names(), self.session.messages.is_reading),
            (["slow.png", "quick.png", "last.png"], False),
        )

    def test_a_vector_file_comes_in_as_contours_and_its_unit_is_asked_where_it_has_none(
        self,
    ) -> None:
        shape = '<svg xmlns="http://www.w3.org/2000/svg" width="{0}" height="{0}" viewBox="0 0 96 96"><circle cx="48" cy="48" r="24"/></svg>'
        self.window.opening.take_drawing(shape.format("96mm").encode(), "stated.svg")
        self.settle()
        (stated,) = self.session.selection.items
        self.assertAlmostEqual(stated.contour.box[2] - stated.contour.box[0], 48, 3)
        for answer, size in (("inches", 48 * 25.4), ("Cancel", None)):
            self.answer(answer)
            self.window.opening.take_drawing(shape.format("96").encode(), "bare.svg")
            self.settle()
            if size is None:
                self.assertIn("nobody knows how large", self.top_words)
            else:
                box = self.session.selection.items[0].contour.box
                self.assertAlmostEqual(box[2] - box[0], size, 2)
        self.assertEqual(len(self.session.layout.contours), 2)
        self.window.opening.take_drawing(b"<svg", "broken.svg")
        self.settle()
        self.assertIn("broken.svg is no SVG", self.top_words)
        self.session.undo()
        self.assertEqual(len(self.session.layout.contours), 1)


class EnterAndFocus(WindowTest):
    def test_enter_on_the_canvas_does_the_brass_button_and_keys_belong_to_the_canvas_afterwards(
        self,
    ) -> None:
        self.session.start(demo_job(), None)
        self.session.edit("draw", add_contours(self.session.job, grid(2)))
        self.keys("5", on=self.canvas)
        self.keys(Qt.Key.Key_Return, on=self.canvas)
        self.assertEqual(len(self.session.job.operations), 1)
        self.session.undo()
        QTest.mouseClick(self.slip_of(OperationSlip).give, Qt.MouseButton.LeftButton)
        self.settle()
        self.assertTrue(self.canvas.hasFocus())
        self.keys("4", on=QApplication.focusWidget())
        self.assertEqual(self.session.desk.stage, Stage.MEND)

    def test_after_a_known_length_keys_belong_to_the_canvas(self) -> None:
        self.session.start(demo_job(), None)
        self.keys("2", on=self.canvas)
        for x in (0.8, 200):
            self.click(
                *self.session.job.pictures[0].to_job.point(*bracket.part_to_pixels().point(x, -20)),
                Qt.KeyboardModifier.AltModifier,
            )
        self.keys("2", on=self.canvas)
        self.keys("4", "0", Qt.Key.Key_Return)
        self.assertTrue(self.session.job.pictures[0].known_lengths)
        self.assertTrue(self.canvas.hasFocus())

    def test_a_held_arrow_key_is_one_step_and_choosing_what_is_so_already_is_none(self) -> None:
        self.session.start(demo_job(), None)
        self.window.commands["place"].run()
        before = self.session.job
        for repeat in (False, True, True):
            event = QKeyEvent(
                QEvent.Type.KeyPress, Qt.Key.Key_Right, Qt.KeyboardModifier.NoModifier, "", repeat
            )
            QApplication.sendEvent(self.canvas, event)
        self.assertAlmostEqual(
            self.session.job.pictures[0].middle[0], before.pictures[0].middle[0] + 3
        )
        self.session.undo()
        self.assertIs(self.session.job, before)
        self.window.commands["limits"].run()
        self.press(self.slip_of(LimitSlip).exact.button("cut"))
        self.window.commands["unit-mm"].run()
        self.assertEqual(self.session.document.history.undo_words, "")

    def test_of_many_findings_the_gravest_are_listed_and_the_others_when_asked_for(self) -> None:
        rows = FindingRows(self.session, "")
        self.addCleanup(rows.deleteLater)
        for stops, others, listed in ((0, 4, 4), (1, 6, 3), (5, 2, 5), (5, 1, 6)):
            findings = [
                Finding(
                    f"kind-{k}",
                    f"this is wrong {k}",
                    Gravity.STOPS if k < stops else Gravity.WARNS,
                    "mend",
                    places=((0.0, 0.0),),
                )
                for k in range(stops + others)
            ]
            rows.show_findings(findings)
            self.settle(5)
            self.assertEqual(
                self.listed(rows),
                (
                    listed,
                    [] if listed == len(findings) else [f"List {len(findings) - listed} more"],
                ),
            )
            for words, count in (
                (("List fewer", len(findings)), (f"List {len(findings) - listed} more", listed))
                if listed < len(findings)
                else ()
            ):
                self.press(
                    next(
                        each
                        for each in rows.findChildren(QPushButton)
                        if each.text().startswith("List") and not each.isHidden()
                    )
                )
                self.assertEqual(self.listed(rows), (count, [words]))

    def listed(self, rows: QWidget) -> tuple[int, list[str]]:
        """How many findings are listed, and the words of the button beneath."""
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        words = [each.text() for each in rows.findChildren(QPushButton)]
        return words.count("Show"), [each for each in words if each != "Show"]

    def test_the_strip_says_how_large_the_work_is_seen_however_that_was_changed(self) -> None:
        strip = self.window.facts._where  # noqa: SLF001
        self.hover(100, 100)
        self.assertTrue(strip.text().startswith("x 100   y 100 mm"), strip.text())
        share = float(strip.text().split()[-2])
        self.canvas.zoom_by(2.0)  # as keys do, with the pointer at rest
        self.assertAlmostEqual(float(strip.text().split()[-2]), 2 * share, delta=1.5)
        self.assertFalse(strip.text().startswith("x 100 "), strip.text())
        QApplication.sendEvent(self.canvas, QEvent(QEvent.Type.Leave))
        self.assertEqual(strip.text().split()[1:], ["%"])
