"""Trimming, smoothing, true shapes, moving, sizing, aligning and typing numbers, through the real
window, with wrong clicks and undo."""

import math
import tempfile
from pathlib import Path

import bracket
import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.shapes import rounded_polygon, unit_ellipse
from draxet.job.contour_edits import add_contours
from draxet.job.file import read_job, save_job
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.mend.numbers import axes_of
from draxet.ui.demo import demo_job
from draxet.ui.model.tool import TagMark
from draxet.ui.stages.mend.align_tool import AlignSlip
from draxet.ui.stages.mend.arrange_tools import ArrangeSlip
from draxet.ui.stages.mend.pick_tool import MendSlip
from draxet.ui.stages.mend.smooth import SmoothSlip
from draxet.ui.stages.mend.trim_tool import TrimSlip, TrimTool
from draxet.ui.stages.mend.truth_tool import TruthSlip
from tests.ui.driver import WindowTest

Key, Held = Qt.Key, Qt.KeyboardModifier


def box(x: float, y: float, wide: float, high: float) -> Contour:
    return rounded_polygon([(x, y, 0), (x + wide, y, 0), (x + wide, y + high, 0), (x, y + high, 0)])


class MendTools(WindowTest):
    def begin(self, *contours: Contour) -> None:
        self.session.start(
            add_contours(Job("Plate", sheets=(Sheet(width=200, height=160),)), contours), None
        )
        self.settle()

    def contours(self) -> list[Contour]:
        return [item.contour for item in self.session.layout.contours]

    def choose(self, *numbers: int) -> None:
        self.session.selection.choose({self.session.layout.contours[k].id for k in numbers})

    def test_a_piece_is_trimmed_an_end_led_on_and_a_click_beside_is_refused(self) -> None:
        self.begin(
            Contour.circle(100, 80, 30),
            Contour.make([(40, 80), (160, 80)], closed=False),
            Contour.make([(60, 120), (80, 120)], closed=False),
            Contour.make([(170, 20), (170, 150)], closed=False),
        )
        start = self.session.job
        self.take("trim")
        self.click(10, 10)
        self.assertIn("no contour under the pointer", self.top_words)
        self.hover(100, 110)
        self.assertTrue(self.tool_of(TrimTool).marks())
        self.click(100, 110)
        half = self.contours()[0]
        self.assertFalse(half.closed)
        self.assertAlmostEqual(half.length, 30 * math.pi, 6)
        self.click(80, 120)
        np.testing.assert_allclose(self.contours()[2].nodes[1], (170, 120))
        self.click(60, 120)
        self.assertIn("meets nothing", self.top_words)
        for _ in range(2):
            self.session.undo()
        self.assertEqual(self.session.job, start)

    def test_a_click_near_an_end_that_is_joined_takes_the_piece_and_only_the_last_third_leads_on(
        self,
    ) -> None:
        """A stem that ends on a bar, crossed half way; its other end is free, and a line crosses it
        just before."""
        stem = Contour.make([(100, 100), (100, 40)], closed=False)
        crossing = [Contour.make([(80, y), (120, y)], closed=False) for y in (70, 46)]
        floor = Contour.make([(40, 10), (160, 10)], closed=False)
        for name, top in (("on the bar", 100.0), ("short of it by less than counts", 100.06)):
            for far in (
                0.9,
                0.7,
                0.3,
            ):  # of the way from the bar to the crossing, and of the short piece to its end
                with self.subTest(name, far=far):
                    self.begin(
                        stem, Contour.make([(40, top), (160, top)], closed=False), *crossing, floor
                    )
                    self.take("trim")
                    self.click(100, 100 - 7 * far / self.canvas.camera.zoom)
                    self.assertAlmostEqual(
                        sum(c.length for c in self.contours()[:1]),
                        30,
                        6,
                        msg="the piece below the bar went",
                    )
                    self.click(100, 46 - 6 * (1 - far))
                    lengths = sorted(
                        c.length for c in self.contours() if abs(c.nodes[0][0] - 100) < 1e-6
                    )
                    self.assertAlmostEqual(lengths[-1], 60 if far < 0.34 else 24, 6)

    def test_what_a_piece_left_open_is_closed_by_one_key_and_follows_the_picture_where_that_is_wanted(
        self,
    ) -> None:
        self.begin(Contour.circle(100, 80, 30), Contour.make([(60, 90), (140, 90)], closed=False))
        start = self.session.job
        self.take("trim")
        self.hover(100, 110)
        self.assertTrue(
            any(
                isinstance(mark, TagMark) and "2 ends open" in mark.words
                for mark in self.tool_of(TrimTool).marks()
            )
        )
        self.click(100, 110)
        self.assertIn("are left open", self.top_words)
        self.press(self.slip_of(TrimSlip).manner.button("picture"))
        self.assertIn("there is no picture to follow", self.top_words)
        self.press(self.slip_of(TrimSlip).close_it)
        self.assertIn("not found yet", self.top_words)
        self.press(self.slip_of(TrimSlip).manner.button("tangent"))
        self.keys(Key.Key_Return, on=self.canvas)
        self.assertEqual(self.session.document.history.undo_words, "close what is left open")
        self.assertAlmostEqual(abs(self.contours()[0].area), math.pi * 900, 6)
        for _ in range(2):
            self.session.undo()
        self.assertEqual(self.session.job, start)

    def test_a_hole_is_closed_along_the_picture(self) -> None:
        self.session.start(demo_job(), None)
        picture = self.session.job.pictures[0]
        on = [
            picture.to_job.point(*bracket.part_to_pixels().point(*place))
            for place in ((0, 60), (0, 140), (60, 60), (60, 140))
        ]
        outline = [
            contour.transformed(bracket.part_to_pixels()).transformed(picture.to_job)
            for contour in bracket.part()
        ][:1]
        across = [
            Contour.make([(on[k][0] - 10, on[k][1]), (on[k][0] + 10, on[k][1])], closed=False)
            for k in (0, 1)
        ]
        self.session.edit("draw", add_contours(self.session.job, [*outline, *across]))
        whole = abs(outline[0].area)
        self.take("trim")
        self.click(*picture.to_job.point(*bracket.part_to_pixels().point(0, 100)))
        self.press(self.slip_of(TrimSlip).manner.button("picture"))
        self.settle(50)
        self.keys(Key.Key_Return, on=self.canvas)
        (closed,) = [contour for contour in self.contours() if contour.closed]
        self.assertAlmostEqual(abs(closed.area) / whole, 1, delta=0.002)

    def test_the_brush_flattens_a_wobble_in_one_step_and_escape_leaves_it(self) -> None:
        x = np.linspace(40, 160, 61)
        wobble = Contour.make(
            np.column_stack([x, 80 + 1.2 * np.where((x > 80) & (x < 120), np.sin(1.2 * x), 0)]),
            closed=False,
        )
        self.begin(wobble)
        self.take("smooth")
        self.fill(self.slip_of(SmoothSlip).asked["reach"], "8 mm")
        self.canvas.setFocus()
        for _ in range(6):
            self.drag((78, 80), (122, 80))
        inside = self.contours()[0].flattened(0.01)
        self.assertLess(np.abs(inside[:, 1] - 80).max(), 0.6)
        self.assertEqual(len(self.session.document.history.states), 7)
        self.drag((20, 140), (30, 140))
        self.assertIn("no contour under the brush", self.top_words)
        for _ in range(6):
            self.session.undo()
        self.assertEqual(self.contours(), [wobble])

    def test_true_shapes_are_listed_ticked_taken_and_taken_back(self) -> None:
        plate = Contour.make([(40, 40), (140, 40.15), (139.9, 100), (39.95, 99.9)])
        self.begin(plate, Contour.circle(60, 60, 8), Contour.circle(110, 60, 8.1))
        self.take("truths")
        self.press(self.slip_of(TruthSlip).take)
        self.assertIn("tick what is to be made true", self.top_words)
        ways = self.slip_of(TruthSlip).list.kinds
        self.assertIn("level line", ways)
        ways["level line"].click()
        self.press(self.slip_of(TruthSlip).take)
        self.settle()
        self.assertAlmostEqual(self.contours()[0].nodes[0, 1], self.contours()[0].nodes[1, 1])
        self.press(self.slip_of(TruthSlip).all)
        self.settle()
        nodes = self.contours()[0].nodes
        self.assertAlmostEqual(nodes[0, 0], nodes[3, 0], 6)
        self.assertEqual(self.contours()[1].circle_shape[2], self.contours()[2].circle_shape[2])
        self.session.undo()
        self.session.undo()
        self.assertEqual(self.contours()[0], plate)

    def test_a_wobbly_oval_becomes_an_ellipse_that_stays_one_through_everything(self) -> None:
        t = np.linspace(0, 2 * math.pi, 90, endpoint=False)
        laid = Affine.scaled(50, 22).then(Affine.turned(25)).then(Affine.moved(100, 80))
        rough = laid.apply(np.column_stack([np.cos(t), np.sin(t)])) + 0.4 * np.column_stack(
            [np.sin(9 * t), np.cos(11 * t)]
        )
        self.begin(Contour.make(rough))
        self.take("pick")
        self.choose(0)
        forms = {action.text(): action for action in self.slip_of(MendSlip).forms.menu().actions()}
        forms["arc"].trigger()
        self.settle()
        self.assertIn("open contours", self.top_words)
        forms["ellipse"].trigger()
        self.settle()
        self.assertIn("nothing lies farther off", self.slip_of(MendSlip).preview.words.text())
        self.press(self.slip_of(MendSlip).preview.do)
        item = self.session.layout.contours[0]
        assert item.ellipse
        np.testing.assert_allclose(axes_of(item.ellipse), (50, 22, 25), atol=0.15)
        self.fill(self.slip_of(MendSlip).numbers.long, "5 cm")
        self.fill(self.slip_of(MendSlip).numbers.short, "20")
        self.fill(self.slip_of(MendSlip).numbers.angle, "30")
        now = self.session.layout.contours[0].ellipse
        assert now
        np.testing.assert_allclose(axes_of(now), (50, 20, 30), atol=1e-9)
        self.take("size")
        self.press(self.slip_of(ArrangeSlip).asked["one_way"])
        self.click(20, 20)
        self.click(70, 20)
        self.type_over("40\n")
        stretched = self.session.layout.contours[0]
        assert stretched.ellipse
        np.testing.assert_allclose(
            stretched.contour.nodes, unit_ellipse().transformed(stretched.ellipse).nodes
        )
        self.take("pick")
        self.choose(0)
        node = self.contours()[0].nodes[0]
        self.drag(tuple(node), (node[0] + 6, node[1] + 4))
        self.assertIsNone(self.session.layout.contours[0].ellipse)
        self.settle()
        self.assertIn("no ellipse any more", self.top_words)
        self.session.undo()
        self.assertEqual(self.session.layout.contours[0], stretched)

    def test_moves_and_sizes_are_typed_and_parts_aligned_and_spaced(self) -> None:
        self.begin(box(20, 20, 20, 10), box(70, 35, 10, 10), box(130, 25, 30, 20))
        self.choose(0)
        self.take("move")
        self.click(20, 20)
        self.type_over("10\t-5\n")
        np.testing.assert_allclose(self.contours()[0].box, (30, 15, 50, 25))
        self.take("size")
        self.click(30, 15)
        self.click(50, 15)
        self.hover(90, 15)
        self.type_over("1x\n")
        self.assertIn("length must be", self.top_words)
        self.keys(Key.Key_Escape, on=self.canvas)
        self.type_over("3 cm\n")
        np.testing.assert_allclose(self.contours()[0].box[2] - self.contours()[0].box[0], 30)
        self.session.selection.choose(set())
        self.take("align")
        self.press(self.slip_of(AlignSlip).up.button("bottom"))
        self.assertFalse(self.slip_of(AlignSlip).up.isEnabled())
        self.choose(0, 1, 2)
        self.settle()
        self.press(self.slip_of(AlignSlip).up.button("bottom"))
        self.assertEqual(len({round(contour.box[1], 6) for contour in self.contours()}), 1)
        self.slip_of(AlignSlip).space(across=True)
        boxes = sorted(contour.box for contour in self.contours())
        self.assertAlmostEqual(boxes[1][0] - boxes[0][2], boxes[2][0] - boxes[1][2])
        self.slip_of(AlignSlip).centre(by_area=False)
        around = np.array([contour.box for contour in self.contours()])
        self.assertAlmostEqual(around[:, 0].min() + around[:, 2].max(), 200)

    def test_contours_are_parted_joined_turned_round_begun_elsewhere_nudged_and_measured(
        self,
    ) -> None:
        self.begin(
            box(40, 40, 60, 40),
            Contour.make([(120, 40), (150, 60)], closed=False),
            Contour.make([(150, 61), (150, 100)], closed=False),
        )
        start = self.session.job
        self.take("pick")
        self.choose(0)
        self.canvas.setFocus()
        self.click(100, 40)
        self.keys("i", on=self.canvas)
        np.testing.assert_allclose(self.contours()[0].nodes[0], (100, 40))
        self.click(100, 80)
        self.keys("p", on=self.canvas)
        opened = self.contours()[0]
        self.assertFalse(opened.closed)
        self.choose(0)
        self.keys("j", on=self.canvas)
        self.assertTrue(self.contours()[0].closed)
        self.choose(1, 2)
        self.keys("j", on=self.canvas)
        self.assertEqual(len(self.contours()), 2)
        self.assertEqual(len(self.contours()[1].kinds), 3)
        self.slip_of(MendSlip).reverse.click()
        self.choose(0)
        self.session.desk.nudge_mm = 2.5
        self.keys(Key.Key_Right, on=self.canvas)
        self.assertAlmostEqual(self.contours()[0].box[0], 42.5)
        self.click(42.5, 40)
        self.click(102.5, 40, Held.ShiftModifier)
        self.fill(self.slip_of(MendSlip).numbers.length, "50 mm")
        lengths = self.contours()[0].spans.lengths().round(6).tolist()
        self.assertIn(50.0, lengths)
        while self.session.document.history.at:
            self.session.undo()
        self.assertEqual(self.session.job, start)

    def test_a_line_drawn_round_chooses_what_lies_wholly_within(self) -> None:
        self.begin(
            Contour.circle(50, 80, 10), Contour.circle(90, 80, 10), Contour.circle(150, 80, 10)
        )
        self.take("pick")
        self.press(self.slip_of(MendSlip).lasso.button("lasso"))
        places = [self.place(*p) for p in ((35, 65), (105, 65), (105, 100), (35, 100), (33, 70))]
        QTest.mousePress(self.canvas, Qt.MouseButton.LeftButton, Held.NoModifier, places[0])
        for at in places[1:]:
            QTest.mouseMove(self.canvas, at)
        QTest.mouseRelease(self.canvas, Qt.MouseButton.LeftButton, Held.NoModifier, places[-1])
        self.assertEqual(len(self.session.selection.ids), 2)

    def test_a_job_of_parts_links_ellipses_points_and_helpers_opens_as_it_was(self) -> None:
        self.begin(
            Contour.circle(50, 80, 10),
            unit_ellipse().transformed(Affine.scaled(20, 8)),
            box(80, 80, 20, 20),
        )
        self.choose(0, 2)
        self.window.commands["part"].run()
        self.choose(0)
        self.take("ring")
        self.press(self.slip_of(ArrangeSlip).asked["linked"])
        self.hover(100, 100)
        self.type_over("3\n")
        self.take("point")
        self.click(30, 30)
        self.choose(1)
        self.window.commands["helpers"].run()
        with tempfile.TemporaryDirectory() as folder:
            save_job(self.session.job, Path(folder) / "whole.draxet")
            self.assertEqual(read_job(Path(folder) / "whole.draxet"), self.session.job)
