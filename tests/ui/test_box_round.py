"""The box round what is chosen, by hand in the real window."""

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours, fix_size
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.ui.model.tool import FRAME_ARM, FRAME_ASIDE, FrameMark, TagMark
from draxet.ui.stages.mend.shaping import ShapingTool
from tests.ui.driver import WindowTest

Key = Qt.Key
CTRL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier
PLATE = [(60, 50), (120, 50), (120, 90), (60, 90)]


class TheBoxRound(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        some = [Contour.make(PLATE), Contour.circle(90, 70, 10), Contour.make([(20, 20), (40, 20)])]
        job = add_contours(Job("Plate", sheets=(Sheet(width=200, height=160),)), some)
        self.session.start(job, None)
        self.take("pick")
        self.names = [item.id for item in job.contours]
        self.session.selection.choose(set(self.names[:2]))
        self.settle()
        aside = FRAME_ASIDE / self.canvas.camera.zoom
        self.corner, self.bar = (120 + aside, 90 + aside), (90, 50 - aside)
        self.rim = (75, 90 + aside)
        self.arm = (120 + aside + FRAME_ARM / self.canvas.camera.zoom, 70)

    def box(self, number: int = 0) -> list[float]:
        return [round(side, 6) for side in self.session.job.contours[number].contour.box]

    def assert_box(self, wanted: tuple[float, ...], number: int = 0, within: float = 1e-6) -> None:
        np.testing.assert_allclose(self.box(number), wanted, atol=within)

    def test_rim_corner_bar_and_arm_do_what_they_say_and_each_is_one_step(self) -> None:
        pixel = 1 / self.canvas.camera.zoom
        self.drag(self.rim, (self.rim[0] - 10, self.rim[1] + 20), held=ALT)
        self.assert_box((50, 70, 110, 110), within=1.5)
        self.assertEqual(self.session.document.history.undo_words, "move contours")
        self.session.undo()
        self.drag(self.corner, (self.corner[0] + 30, self.corner[1] + 20))
        x0, y0, x1, y1 = self.box()
        self.assertEqual((x0, y0), (60, 50))
        self.assertAlmostEqual((x1 - x0) / (y1 - y0), 1.5)
        self.assertLess(abs(x1 - 150), 2 * pixel)
        self.assertAlmostEqual(self.box(1)[2] - self.box(1)[0], 20 * (x1 - x0) / 60, places=5)
        self.session.undo()
        self.drag(self.bar, (self.bar[0], self.bar[1] - 20))
        x0, y0, x1, y1 = self.box()
        self.assertEqual((x0, x1, y1), (60, 120, 90))
        self.assertLess(abs(y0 - 30), 2 * pixel)
        self.session.undo()
        self.drag(self.arm, (90.5, 70 + self.arm[0] - 90))  # nearly upright is upright
        self.assert_box((70, 40, 110, 100))
        self.session.undo()
        self.assert_box((60, 50, 120, 90))
        self.assertEqual(self.session.selection.ids, frozenset(self.names[:2]))

    def test_what_is_moved_and_sized_catches_and_control_leaves_a_copy(self) -> None:
        self.drag(
            self.rim, (self.rim[0] - 19.5, self.rim[1] - 70.3)
        )  # its corner to the line's end
        x0, _, _, y1 = self.box()
        self.assertEqual((x0, y1), (40, 20))
        self.session.undo()
        aside = self.corner[1] - 90
        self.drag((60 - aside, 50 - aside), (40.4 - aside, 36.6 - aside), held=CTRL)
        self.assertEqual(len(self.session.job.contours), 5)
        self.assert_box((60, 50, 120, 90))
        self.assert_box((40, 110 / 3, 120, 90), 3, within=1.0)
        self.session.undo()
        self.assertEqual(len(self.session.job.contours), 3)

    def test_a_handle_that_is_clicked_takes_its_number_and_refuses_what_is_none(self) -> None:
        self.click(*self.corner)
        self.assertIn("type the width", self.top_words)
        self.keys("9", "0", "x", Key.Key_Return, on=self.canvas)
        self.assertIn("width", self.top_words)
        self.assert_box((60, 50, 120, 90))
        self.keys(Key.Key_Backspace, Key.Key_Return, on=self.canvas)
        self.assert_box((60, 50, 150, 110))
        self.session.undo()
        self.settle()
        self.click(*self.bar)
        self.keys("M", *"80", Key.Key_Return, on=self.canvas)
        self.assert_box((60, 30, 120, 110))
        self.session.undo()
        self.settle()
        self.click(*self.arm)
        self.keys(*"-90", Key.Key_Return, on=self.canvas)
        self.assert_box((70, 40, 110, 100))
        self.session.undo()
        self.settle()
        self.click(*self.arm)
        self.keys("4", Key.Key_Escape, Key.Key_Escape, on=self.canvas)
        self.assertEqual(
            self.session.selection.ids, frozenset(self.names[:2]), "only the hold went"
        )
        self.assert_box((60, 50, 120, 90))

    def test_let_go_with_nonsense_typed_nothing_is_sized(self) -> None:
        a, b = self.place(*self.corner), self.place(150, 120)
        QTest.mousePress(self.canvas, Qt.MouseButton.LeftButton, pos=a)
        QTest.mouseMove(self.canvas, b)
        self.keys("8", "x", on=self.canvas)
        QTest.mouseRelease(self.canvas, Qt.MouseButton.LeftButton, pos=b)
        self.settle()
        self.assertIn("width must be a length", self.top_words)
        self.assert_box((60, 50, 120, 90))
        self.keys(Key.Key_Backspace, "0", Key.Key_Return, on=self.canvas)
        self.assert_box((60, 50, 140, 50 + 40 * 80 / 60))

    def test_escape_undo_and_another_job_in_the_midst_leave_all_as_it_was(self) -> None:
        tool = self.tool_of(ShapingTool)
        self.session.edit("before", add_contours(self.session.job, [Contour.circle(20, 120, 8)]))
        for act in ("escape", "undo", "choice", "job"):
            with self.subTest(act):
                self.session.selection.choose(set(self.names[:2]))
                self.settle()
                job = self.session.job
                a = self.place(*self.corner)
                QTest.mouseMove(self.canvas, a)
                QTest.mousePress(self.canvas, Qt.MouseButton.LeftButton, pos=a)
                QTest.mouseMove(self.canvas, self.place(150, 120))
                self.settle(5)
                tags = [mark for mark in tool.marks() if isinstance(mark, TagMark)]
                self.assertIn(" × ", tags[0].words)
                if act == "escape":
                    self.keys(Key.Key_Escape, on=self.canvas)
                elif act == "undo":
                    self.session.undo()
                    job = self.session.job
                elif act == "choice":
                    self.session.selection.choose(frozenset())
                    self.keys(Key.Key_Escape, on=self.canvas)
                else:
                    job = Job("Another")
                    self.session.start(job, None)
                QTest.mouseRelease(self.canvas, Qt.MouseButton.LeftButton, pos=self.place(150, 120))
                self.settle()
                self.assertEqual(self.session.job.contours, job.contours)

    def test_the_box_stands_back_where_it_would_be_in_the_way_and_fixed_sizes_are_kept(
        self,
    ) -> None:
        tool = self.tool_of(ShapingTool)

        def framed() -> bool:
            return any(isinstance(mark, FrameMark) for mark in tool.marks())

        self.assertTrue(framed())
        self.click(60, 50)  # a node
        self.assertFalse(framed())
        self.keys(Key.Key_Escape, on=self.canvas)
        self.assertTrue(framed())
        tool.lasso = True
        self.assertFalse(framed())
        tool.lasso = False
        self.session.edit("fix", fix_size(self.session.job, self.names[:2], True))
        self.settle()
        self.drag(self.corner, (150, 120))
        self.assertIn("fixed size", self.top_words)
        self.assert_box((60, 50, 120, 90))
        self.drag(self.rim, (self.rim[0], self.rim[1] + 20), held=ALT)
        self.assert_box((60, 70, 120, 110), within=1.5)
