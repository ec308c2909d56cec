"""Drawing by hand in the real window: places caught, numbers typed in the middle of a gesture,
steps back."""

import math
import tempfile
import unittest
from pathlib import Path
from unittest import mock

import cv2
import numpy as np
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.drawn import Stop, contour_of
from draxet.geometry.shapes import unit_ellipse
from draxet.geometry.spans import ARC, CUBIC, LINE
from draxet.job.contour_edits import add_contours
from draxet.job.file import read_job, save_job
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.ui.demo import demo_job
from draxet.ui.model.tool import ContourMark
from draxet.ui.stages.caught import catch_settings
from draxet.ui.stages.gesture import GestureTool
from draxet.ui.stages.mend.arrange_tools import MirrorTool
from draxet.ui.stages.trace.draw_tools import DrawTool
from draxet.ui.stages.trace.drawing_slip import DrawingSlip
from draxet.ui.stages.trace.guide import GuideSlip
from draxet.ui.stages.trace.primitives import CircleTool
from tests.shapes import apart, drawn
from tests.ui.driver import WindowTest

Key = Qt.Key


class Drawing(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.start(Job("Ring", sheets=(Sheet(width=200, height=160),)), None)
        self.settle()

    def contours(self) -> list[Contour]:
        return [item.contour for item in self.session.layout.contours]

    def test_a_plate_by_typed_numbers_is_exact_and_closes_at_its_start(self) -> None:
        self.take("draw")
        self.click(40, 40)
        x, y = self.tool_of(DrawTool)._answers[0].place
        for words in ("80\t0\n", "5 cm\t90\n", "80mm;180\n"):
            self.type_over(words)
        self.assertEqual(self.contours(), [])
        self.click(x, y)
        (plate,) = self.contours()
        self.assertTrue(plate.closed)
        np.testing.assert_allclose(
            plate.nodes, [(x, y), (x + 80, y), (x + 80, y + 50), (x, y + 50)], atol=1e-9
        )

    def test_backspace_takes_back_the_last_place_only_escape_keeps_and_undo_takes_it(self) -> None:
        self.take("draw")
        for place in ((30, 30), (60, 30), (60, 60), (90, 90)):
            self.click(*place)
        self.keys(Key.Key_Backspace, on=self.canvas)
        self.keys(Key.Key_Escape, on=self.canvas)
        (kept,) = self.contours()
        self.assertEqual((len(kept.nodes), kept.closed), (3, False))
        self.assertEqual(self.session.tool_id, "draw")
        self.keys(Key.Key_Escape, on=self.canvas)
        self.assertIsNone(self.session.tool)
        self.session.undo()
        self.assertEqual(self.contours(), [])

    def test_undo_in_the_midst_takes_back_the_last_place_and_arrow_keys_click_with_enter(
        self,
    ) -> None:
        self.session.edit("plate", add_contours(self.session.job, [Contour.circle(150, 120, 10)]))
        self.take("draw")
        for place in ((30, 30), (60, 30), (60, 60)):
            self.click(*place)
        self.keys("z", held=Qt.KeyboardModifier.ControlModifier, on=self.canvas)
        self.assertEqual(len(self.tool_of(DrawTool)._answers), 2)
        self.assertEqual(len(self.contours()), 1)
        self.keys(Key.Key_Right, Key.Key_Right, on=self.canvas)
        self.keys(Key.Key_Return, on=self.canvas)
        self.assertEqual(len(self.tool_of(DrawTool)._answers), 3)
        self.keys(Key.Key_Return, on=self.canvas)
        self.assertEqual(len(self.contours()[1].nodes), 3)
        self.session.undo()
        self.session.undo()
        self.assertEqual(self.contours(), [])

    def test_one_contour_mixes_straight_curve_and_arc_by_letters(self) -> None:
        self.take("draw")
        self.type_over("l")
        self.click(20, 20)
        self.click(60, 20)
        self.type_over("o")
        self.click(80, 40)
        self.type_over("u")
        self.click(90, 80)
        self.click(60, 110)
        self.keys(Key.Key_Return, on=self.canvas)
        (mixed,) = self.contours()
        self.assertEqual(mixed.kinds.tolist(), [LINE, ARC, CUBIC, CUBIC])
        self.assertFalse(mixed.corners()[1:-1].any())

    def test_an_arc_through_a_place_is_part_of_a_contour_and_may_close_it(self) -> None:
        self.take("draw")
        self.click(40, 60)
        self.click(80, 60)
        self.type_over("i")
        self.click(100, 80)
        self.hover(84, 99)
        self.assertEqual(self.shown_in_hand()[0].kinds.tolist(), [LINE, ARC])
        self.click(80, 100)
        self.type_over("l")
        self.click(40, 100)
        self.type_over("i")
        self.click(20, 80)
        self.click(40, 60)
        (slot,) = self.contours()
        self.assertTrue(slot.closed)
        self.assertEqual(slot.kinds.tolist(), [LINE, ARC, LINE, ARC])
        shapes = slot.spans.take(np.array([1, 3])).arc_shapes()
        np.testing.assert_allclose(shapes.centres, [(80, 80), (40, 80)], atol=0.5)
        np.testing.assert_allclose(shapes.radii, 20, atol=0.5)
        self.session.undo()
        self.take("draw")
        self.click(40, 60)
        self.type_over("i")
        self.click(60, 60)
        self.click(80, 60)  # in one line: a straight run
        self.keys(Key.Key_Return, on=self.canvas)
        self.assertEqual(self.contours()[0].kinds.tolist(), [LINE])

    def test_a_number_that_cannot_be_read_is_refused_in_a_sentence_and_can_be_mended(self) -> None:
        self.take("circle")
        self.click(100, 80)
        self.type_over("2x\n")
        self.assertIn("radius", self.top_words)
        self.assertEqual(self.contours(), [])
        self.keys(Key.Key_Backspace, on=self.canvas)
        self.type_over("5\n")
        (circle,) = self.contours()
        self.assertAlmostEqual(circle.circle_shape[2], 25)

    def test_undo_and_escape_while_a_number_is_typed_take_back_what_is_typed_in_every_gesture(
        self,
    ) -> None:
        tried = 0
        for command in [
            c for c in self.window.commands.values() if c.stage and not c.words.endswith("…")
        ]:
            for clicks in (0, 1, 2):
                self.session.start(add_contours(Job(), [Contour.circle(50, 50, 20)]), None)
                self.session.selection.choose({"contour-1"})
                if command.why_not():
                    break
                command.run()
                tool = self.session.tool
                if not isinstance(tool, GestureTool):
                    break
                for k in range(clicks):
                    self.click(20 + 31 * k, 30 + 17 * k)
                answers = len(tool._answers)
                for take_back in (
                    self.session.undo,
                    lambda: self.keys(Qt.Key.Key_Escape, on=self.canvas),
                ):
                    self.keys("1", "2", on=self.canvas)
                    typed = tool.typing
                    take_back()
                    self.settle()
                    with self.subTest(command.id, clicks=clicks, typed=typed):
                        self.assertFalse(self.session.tool is tool and tool.typing)
                        if typed:
                            self.assertEqual(len(tool._answers), answers)
                            tried += 1
        self.assertGreater(tried, 20)

    def test_a_ring_of_primitives_by_typed_numbers(self) -> None:
        """The badge's ring and one spoke, to a hundredth of a millimetre."""
        self.take("circle")
        self.click(100, 80)
        self.type_over("22\n")
        middle = self.contours()[0].circle_shape[:2]
        self.hover(20, 20)
        self.hover(*middle)
        self.assertEqual(self.tool_of(CircleTool)._at.word, "centre")
        self.click(*middle)
        self.type_over("1.8 cm\n")
        self.take("slot")
        self.click(*middle)
        self.type_over("18\t0\n")
        self.type_over("4\n")
        outer, inner, spoke = self.contours()
        np.testing.assert_allclose(
            (outer.circle_shape, inner.circle_shape), [(*middle, 22), (*middle, 18)], atol=0.01
        )
        self.assertAlmostEqual(spoke.area, 18 * 4 + math.pi * 4, 2)
        self.session.selection.choose({self.session.layout.contours[2].id})
        self.take("ring")
        self.hover(*middle)
        self.type_over("6\n")
        spokes = self.contours()[2:]
        self.assertEqual(len(spokes), 6)
        for k, each in enumerate(spokes):
            turned = spoke.transformed(Affine.turned(60 * k).about(*middle))
            self.assertLess(max(apart(each, turned)), 0.01)
        self.session.selection.choose({self.session.layout.contours[0].id})
        self.take("mirror")
        self.click(20, 20)
        self.click(20, 20)
        self.assertIn("both places are the same", self.top_words)
        self.click(20, 20)
        self.type_over("90\n")  # its angle alone
        mirrored = self.contours()[-1].circle_shape
        x = self.tool_of(MirrorTool)._answers
        self.assertEqual((x, round(mirrored[2], 9)), ([], 22.0))
        self.assertAlmostEqual(mirrored[1], middle[1], 6)
        self.session.undo()
        self.session.undo()
        self.assertEqual(len(self.contours()), 3)

    def test_what_takes_two_clicks_works_by_press_drag_release(self) -> None:
        self.take("box")
        self.drag((30, 30), (90, 70))
        (box,) = self.contours()
        np.testing.assert_allclose(box.box, (30, 30, 90, 70), atol=0.5)
        self.take("circle")
        self.drag((120, 100), (140, 100))
        self.assertAlmostEqual(self.contours()[1].circle_shape[2], 20, 0)

    def test_circles_by_two_places_and_ellipses_by_their_box_or_along_their_edge(self) -> None:
        free = Qt.KeyboardModifier.AltModifier
        self.take("circle")
        self.press(self.slip_of(DrawingSlip).asked["circle"].button("two"))
        self.click(30, 30, free)
        self.type_over("40\t0\n")  # its diameter, and which way
        x, y, radius = self.contours()[-1].circle_shape
        np.testing.assert_allclose((x, y, radius), (50, 30, 20), atol=0.5)
        self.assertAlmostEqual(radius, 20, 9)
        self.take("ellipse")
        self.press(self.slip_of(DrawingSlip).asked["ellipse"].button("box"))
        self.click(100, 40, free)
        self.hover(120, 60)
        self.type_over("80\t50\n")
        x0, y0, x1, y1 = self.contours()[-1].box
        np.testing.assert_allclose((x1 - x0, y1 - y0), (80, 50), atol=1e-6)
        self.press(self.slip_of(DrawingSlip).asked["ellipse"].button("edge"))
        laid = Affine.scaled(45, 25).then(Affine.turned(30)).then(Affine.moved(120, 160))
        turns = np.radians([10, 55, 100, 160, 220, 275, 330])
        places = laid.apply(np.column_stack([np.cos(turns), np.sin(turns)]))
        for number, place in enumerate(places):
            self.click(*place, free)
            if number == 2:
                self.keys(Key.Key_Return, on=self.canvas)  # three are too few
                self.click(10, 10, free)  # a wrong one
                self.keys(Key.Key_Backspace, on=self.canvas)
        self.keys(Key.Key_Return, on=self.canvas)
        found = self.session.job.contours[-1]
        self.assertIn("off the ellipse by", self.top_words)
        self.assertIsNotNone(found.ellipse)
        truth = unit_ellipse().transformed(laid)
        self.assertLess(max(apart(found.contour, truth)), 0.6)  # clicks hit whole pixels
        self.assertEqual(len(self.contours()), 3)

    def test_places_are_caught_in_a_word_and_freely_picked_or_switched_off(self) -> None:
        self.session.edit(
            "plate",
            add_contours(
                self.session.job, [Contour.make([(40, 40), (120, 40), (120, 100), (40, 100)])]
            ),
        )
        self.take("draw")
        for place, word in (
            ((41, 41), "node"),
            ((80, 41), "middle"),
            ((60, 40.5), "on line"),
            ((10, 140), "free"),
        ):
            self.hover(*place)
            self.assertEqual(self.tool_of(DrawTool)._at.word, word)
        self.click(41, 41)
        self.assertEqual(self.tool_of(DrawTool)._answers[0].place, (40.0, 40.0))
        self.tool_of(DrawTool).cancel()
        self.click(41, 41, Qt.KeyboardModifier.AltModifier)
        self.assertNotEqual(self.tool_of(DrawTool)._answers[0].place, (40.0, 40.0))
        catch_settings(self.session).on = False
        self.hover(60, 60)
        self.hover(41, 41)
        self.assertEqual(self.tool_of(DrawTool)._at.word, "free")

    def test_the_pictures_own_lines_are_caught_where_the_pointer_rests_and_at_once_by_a_click(
        self,
    ) -> None:
        self.session.start(demo_job(), None)
        self.settle()
        self.take("draw")
        tool = self.tool_of(DrawTool)
        assert isinstance(tool, GestureTool)
        with mock.patch("draxet.ui.stages.seen_in_pictures._MOMENT_S", -1.0):  # it takes too long
            QTest.mouseMove(self.canvas, self.place(100, 151))
            self.assertEqual(tool._at.word, "free", "a move waits for nothing")
            self.settle()
        shown = tool._at
        self.assertIn("picture", shown.word)
        with mock.patch("draxet.ui.stages.seen_in_pictures._MOMENT_S", 100.0):
            QTest.mouseMove(self.canvas, self.place(100, 150.5))
        self.assertIn("picture", tool._at.word, "what is seen soon is said at once")
        with mock.patch("draxet.ui.stages.seen_in_pictures._MOMENT_S", -1.0):
            QTest.mouseMove(self.canvas, self.place(150, 120))
            QTest.mouseMove(self.canvas, self.place(100, 151))
        self.session.stop_tool()  # as Esc does while it is looked for
        QTest.mouseClick(
            self.canvas,
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
            self.place(100, 151),
        )
        self.assertEqual(tool._answers[0].place, shown.place, "what is shown is what comes")
        self.keys(Key.Key_Backspace, on=self.canvas)
        self.hover(60, 120)
        self.hover(100, 151)
        self.settle(300)
        at = tool._at
        self.assertIn("picture", at.word)
        self.click(100, 151, Qt.KeyboardModifier.ShiftModifier)  # a corner, where it was shown
        self.assertEqual(tool._answers[-1].place, at.place)

    def test_strokes_are_fitted_join_on_and_close(self) -> None:
        self.take("freehand")
        half = [
            (100 + 40 * math.cos(a), 80 + 40 * math.sin(a)) for a in np.linspace(0, math.pi, 40)
        ]
        self.stroke(half)
        self.stroke([(200 - x, 160 - y) for x, y in half])
        (round_one,) = self.contours()
        self.assertTrue(round_one.closed)
        self.assertLess(len(round_one.nodes), 16)
        self.assertLess(
            np.abs(np.hypot(*(round_one.flattened(0.01) - (100, 80)).T) - 40).max(), 1.0
        )

    def test_a_stroke_begins_and_ends_on_what_it_says_it_catches(self) -> None:
        plate = Contour.make([(20, 20), (120, 20), (120, 90), (20, 90)])
        self.session.edit("plate", add_contours(self.session.job, [plate]))
        self.take("freehand")
        self.stroke([(20.6, 20.7), (40, 30), (60, 45), (80, 62), (119.2, 54.6)])
        stroke = self.contours()[1]
        np.testing.assert_allclose(stroke.nodes[[0, -1]], [(20, 20), (120, 55)], atol=1e-9)
        self.stroke(
            [(20.6, 89.4), (40, 80), (60, 75), (70, 70)], held=Qt.KeyboardModifier.AltModifier
        )
        self.assertGreater(math.dist(self.contours()[2].nodes[0], (20, 90)), 0.3)

    def test_a_line_from_edge_to_edge_offers_to_show_what_falls(self) -> None:
        plate = Contour.make([(20, 20), (120, 20), (120, 90), (20, 90)])
        self.session.edit("plate", add_contours(self.session.job, [plate]))
        self.take("draw")
        for end, said in ((80, False), (120, True)):
            self.click(20, 60)
            self.click(end, 55)
            self.keys(Key.Key_Return, on=self.canvas)
            self.assertEqual("something may fall" in self.top_words, said, end)
            self.assertEqual(self.session.messages.offers, said)
        self.press(self.window.top_line.take)
        self.assertEqual(self.session.tool_id, "falls")
        self.assertFalse(self.session.messages.offers)
        self.assertTrue(self.window.top_line.take.isHidden())

    def test_a_drop_has_its_corner_where_it_begins_and_closes(self) -> None:
        places = ((100, 120), (75, 80), (100, 50), (125, 80))
        sharpest = []
        for held in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier):
            self.take("draw")
            self.type_over("u")
            for place in places:
                self.click(*place)
            self.click(*places[0], held=held)
            drop = self.contours()[-1]
            self.assertTrue(drop.closed)
            sharpest.append(np.flatnonzero(drop.corners()).tolist())
        self.assertEqual(sharpest, [[], [0]])

    def test_a_direction_is_held_by_a_key_or_by_an_angle_alone(self) -> None:
        self.take("draw")
        self.click(40, 40)
        x, y = self.tool_of(DrawTool)._answers[0].place
        for (px, py), degrees in (((70, 44), 0), ((64, 66), 45), ((43, 90), 90), ((20, 66), 135)):
            self.hover(px, py)
            self.keys("h", on=self.canvas)
            self.hover(px + 3, py - 2)
            (at,) = {each.nodes[-1].tobytes() for each in self.shown_in_hand()}
            dx, dy = np.frombuffer(at) - (x, y)
            self.assertAlmostEqual(math.degrees(math.atan2(dy, dx)), degrees, places=6)
            self.keys("h", on=self.canvas)
        self.hover(x, y)
        self.type_over(";30\n")
        self.assertEqual(len(self.tool_of(DrawTool)._answers), 1)
        self.type_over("20\n")
        self.hover(90, 62)
        self.keys("h", on=self.canvas)  # goes on in the direction of the line before
        self.click(90, 62)
        self.keys(Key.Key_Return, on=self.canvas)
        (drawn_on,) = self.contours()
        steps = np.diff(drawn_on.nodes, axis=0)
        np.testing.assert_allclose(np.degrees(np.arctan2(*steps.T[::-1])), [30, 30], atol=1e-6)
        self.assertAlmostEqual(float(np.hypot(*steps[0])), 20)

    def shown_in_hand(self) -> list[Contour]:
        return [
            contour
            for mark in self.tool_of(DrawTool).marks()
            if isinstance(mark, ContourMark) and mark.manner == "hand"
            for contour in mark.contours
        ]

    def test_what_is_level_goes_before_a_pictures_line_that_is_nearly_so(self) -> None:
        pixels = np.full((600, 600), 255, np.uint8)
        cv2.fillPoly(pixels, [np.array([(60, 300), (540, 290), (540, 420), (60, 420)])], 0)
        self.bring(pixels)
        to_job = self.session.selection.picture.to_job
        self.take("draw")
        self.click(*to_job.point(100, 299))
        start = self.tool_of(DrawTool)._answers[0]
        self.assertIn("picture", start.caught.word)
        self.click(to_job.point(260, 0)[0], start.place[1])
        self.assertAlmostEqual(self.tool_of(DrawTool)._answers[1].place[1], start.place[1], 9)
        self.keys(Key.Key_Backspace, on=self.canvas)
        self.click(*to_job.point(500, 291))  # plainly along the picture's line
        self.assertIn("picture", self.tool_of(DrawTool)._answers[1].caught.word)

    def test_a_mirror_takes_an_angle_alone_while_the_pointer_rests(self) -> None:
        flag = Contour.make([(60, 40), (90, 50), (60, 60)])
        self.session.edit("flag", add_contours(self.session.job, [flag]))
        self.take("mirror")
        self.click(50, 40, held=Qt.KeyboardModifier.AltModifier)
        x = self.tool_of(MirrorTool)._answers[0].place[0]
        self.type_over("90\n")
        mirrored = self.contours()[-1]
        np.testing.assert_allclose(mirrored.nodes, [2 * x, 0] + flag.nodes * [-1, 1], atol=1e-9)

    def test_what_was_drawn_stays_seen_while_the_pointer_rests(self) -> None:
        self.take("draw")
        self.click(40, 40)
        self.click(80, 40)
        self.assertEqual([len(each.nodes) for each in self.shown_in_hand()], [2])
        self.type_over("30;90\n")
        self.assertGreaterEqual(len(self.shown_in_hand()[0].nodes), 3)

    def test_a_leaf_by_clicks_for_curves_lies_within_three_tenths(self) -> None:
        leaf = contour_of(
            [
                Stop(150, 40),
                Stop(380, 130, "curve"),
                Stop(560, 320, "curve", corner=True),
                Stop(330, 280, "curve"),
            ],
            closed=True,
            last="curve",
        )
        self.bring(drawn([leaf], 600, noise=4, blur=0.8))
        picture = self.session.job.pictures[0]
        truth = leaf.transformed(picture.to_job)
        self.take("draw")
        self.press(self.slip_of(DrawingSlip).asked["by"].button("curve"))
        self.window.commands["draw"].run()
        free = Qt.KeyboardModifier.AltModifier
        places = [
            truth.spans.at(np.array([k]), np.array([t]))[0]
            for k in range(4)
            for t in (0.0, 0.25, 0.5, 0.75)
        ]
        for number, place in enumerate(places):
            self.click(
                *place, free | Qt.KeyboardModifier.ShiftModifier if number == 8 else free
            )  # the tip is a corner
            if number == 5:
                self.click(place[0] + 12, place[1], free)  # a wrong one
                self.keys(Key.Key_Backspace, on=self.canvas)
        self.click(*places[0])
        (traced,) = self.contours()
        self.assertTrue(traced.closed)
        self.assertLess(apart(traced, truth)[0], 0.3)
        self.session.undo()
        self.assertEqual(self.contours(), [])

    def test_guides_go_along_lines_and_beside_each_other_are_dragged_and_removed(self) -> None:
        self.session.edit(
            "draw",
            add_contours(
                self.session.job,
                [Contour.make([(40, 40), (140, 60)], closed=False), Contour.circle(60, 120, 10)],
            ),
        )
        self.take("guide")
        self.press(self.slip_of(GuideSlip).asked["way"].button("line"))
        self.click(60, 130)
        self.assertIn("no straight line under the pointer", self.top_words)
        self.click(90, 50)
        self.press(self.slip_of(GuideSlip).asked["way"].button("beside"))
        self.click(90, 50)
        self.hover(90, 80)
        self.type_over("25\n")
        along, beside = self.session.job.guides
        self.assertAlmostEqual(along.angle, math.degrees(math.atan2(20, 100)))
        turn = math.radians(along.angle)
        self.assertAlmostEqual(
            (beside.y - along.y) * math.cos(turn) - (beside.x - along.x) * math.sin(turn), 25
        )
        self.press(self.slip_of(GuideSlip).asked["way"].button("places"))
        self.drag((beside.x, beside.y), (beside.x, beside.y + 20))
        self.assertAlmostEqual(self.session.job.guides[1].y, beside.y + 20, delta=1)
        self.hover(along.x + 50 * math.cos(turn), along.y + 50 * math.sin(turn))
        self.keys(Key.Key_Delete, on=self.canvas)
        self.assertEqual(len(self.session.job.guides), 1)
        self.session.undo()
        self.session.undo()
        self.assertEqual(self.session.job.guides, (along, beside))

    def test_guides_come_from_the_rulers_and_by_number_are_caught_kept_and_removed_at_once(
        self,
    ) -> None:
        self.take("guide")
        self.pull((300, 8), self.place(100, 60))
        self.pull((8, 300), self.place(70, 60))
        self.pull((300, 8), QPoint(400, 6))  # let go on the ruler: none
        self.pull(
            (300, 8), self.place(90, 50), then=Qt.Key.Key_Escape
        )  # given up: none, and the tool stays
        self.assertEqual(len(self.session.job.guides), 2)
        self.click(20, 20)
        self.type_over("45\n")
        level, upright, slanted = self.session.job.guides
        self.assertEqual((level.angle, upright.angle, round(slanted.angle, 6)), (0.0, 90.0, 45.0))
        self.take("draw")
        self.hover(150, 60.4)
        self.assertEqual(self.tool_of(DrawTool)._at.word, "guide")
        self.assertAlmostEqual(self.tool_of(DrawTool)._at.y, level.y)
        self.hover(upright.x + 0.3, level.y + 0.3)
        self.assertEqual(self.tool_of(DrawTool)._at.place, (upright.x, level.y))
        kept = self.session.job
        with tempfile.TemporaryDirectory() as folder:
            save_job(kept, Path(folder) / "a.draxet")
            self.assertEqual(read_job(Path(folder) / "a.draxet").guides, kept.guides)
        self.take("guide")
        self.press(self.slip_of(GuideSlip).clear)
        self.assertEqual(self.session.job.guides, ())
        self.session.undo()
        self.assertEqual(self.session.job.guides, kept.guides)

    def pull(self, start: tuple[int, int], end: QPoint, then: Qt.Key | None = None) -> None:
        QTest.mousePress(
            self.canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(*start)
        )
        QTest.mouseMove(self.canvas, QPoint(start[0] + 20, start[1] + 20))
        QTest.mouseMove(self.canvas, end)
        if then is not None:
            QTest.keyClick(self.canvas, then)
        QTest.mouseRelease(
            self.canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, end
        )
        self.settle(5)

    def test_a_leaf_walked_in_five_clicks_lies_on_its_truth(self) -> None:
        leaf = contour_of(
            [
                Stop(150, 40),
                Stop(380, 130, "curve"),
                Stop(560, 320, "curve", corner=True),
                Stop(330, 280, "curve"),
            ],
            closed=True,
            last="curve",
        )
        self.bring(drawn([leaf], 600, noise=4, blur=0.8))
        picture = self.session.job.pictures[0]
        self.take("walk")
        self.settle()
        for k in (0, 1, 2, 3, 0):
            self.click(*picture.to_job.point(*leaf.nodes[k].tolist()))
        (walked,) = self.contours()
        self.assertTrue(walked.closed)
        truth = leaf.transformed(picture.to_job)
        self.assertLess(apart(walked, truth)[0], 0.1)
        self.assertLess(len(walked.nodes), 24)
        self.session.undo()
        self.assertEqual(self.contours(), [])

    def test_a_walk_steps_back_goes_straight_off_the_lines_and_is_kept_open(self) -> None:
        self.bring(drawn([Contour.circle(300, 300, 150)], 600))
        to = self.session.job.pictures[0].to_job
        self.take("walk")
        self.settle()
        self.click(*to.point(150, 300))
        self.click(*to.point(300, 150))
        self.click(*to.point(300, 450))
        self.keys(Key.Key_Backspace, on=self.canvas)
        self.click(*to.point(300, 40))  # away from every line
        self.keys(Key.Key_Return, on=self.canvas)
        (walked,) = self.contours()
        self.assertFalse(walked.closed)
        self.assertIn("the edge was lost on 1 of 2", self.top_words)
        back = walked.transformed(to.inverse()).flattened(0.05)
        self.assertLess(np.hypot(*(back[0] - (150, 300))), 4)
        on_circle = np.abs(np.hypot(*(back - (300, 300)).T) - 150) < 0.5
        self.assertGreater(int(on_circle.sum()), 3)

    def bring(self, pixels: np.ndarray) -> None:
        self.window.opening.take_picture(bytes(cv2.imencode(".png", pixels)[1]), "leaf.png")
        self.settle(60)

    def stroke(
        self,
        places: list[tuple[float, float]],
        held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
    ) -> None:
        QTest.mousePress(
            self.canvas,
            Qt.MouseButton.LeftButton,
            held,
            self.place(*places[0]),
        )
        for x, y in places[1:]:
            QTest.mouseMove(self.canvas, self.place(x, y))
        QTest.mouseRelease(
            self.canvas,
            Qt.MouseButton.LeftButton,
            held,
            self.place(*places[-1]),
        )
        self.settle(5)


if __name__ == "__main__":
    unittest.main()
