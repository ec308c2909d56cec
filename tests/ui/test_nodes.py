"""Nodes, handles and spans by hand in the real window."""

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.spans import CUBIC, LINE
from draxet.job.contour_edits import add_contours
from draxet.job.records import Job
from draxet.job.sheet_edits import set_setup
from draxet.job.sheet_records import Sheet
from draxet.ui.stages.mend.pick_tool import MendSlip
from draxet.ui.stages.mend.shaping import ShapingTool
from tests.mend.test_nodes import blob
from tests.ui.driver import WindowTest

Key, Key_Shift = Qt.Key, Qt.KeyboardModifier.ShiftModifier


class ByHand(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        job = add_contours(
            Job("Blob", sheets=(Sheet(width=200, height=160),)),
            [blob().transformed(Affine.moved(100, 80))],
        )
        self.session.start(job, None)
        self.window.commands["pick"].run()
        self.canvas.setFocus()
        self.click(150, 80)
        self.settle()

    @property
    def contour(self) -> Contour:
        return self.session.layout.contours[0].contour

    def test_a_node_its_handle_and_a_span_are_dragged_and_each_is_one_step(self) -> None:
        self.assertEqual(len(self.session.selection.ids), 1)
        start = self.contour
        x, y = start.nodes[1]
        self.drag((x, y), (x + 12, y + 8))
        np.testing.assert_allclose(self.contour.nodes[1], (x + 12, y + 8), atol=1)
        self.assertEqual(self.tool_of(ShapingTool).nodes, {(self.session.layout.contours[0].id, 1)})
        _, span, end, hx, hy = self.tool_of(ShapingTool)._handles()[0]
        self.drag((hx, hy), (hx + 6, hy - 6))
        np.testing.assert_allclose(self.contour.handles[span, end], (hx + 6, hy - 6), atol=1)
        middle = self.contour.spans.at(np.array([4]), np.array([0.5]))[0]
        self.drag(tuple(middle), tuple(middle + (-10, -6)))
        np.testing.assert_allclose(
            self.contour.spans.at(np.array([4]), np.array([0.5]))[0], middle + (-10, -6), atol=1.5
        )
        for _ in range(3):
            self.session.undo()
        self.assertIs(self.contour, start)

    def test_what_is_not_chosen_is_dragged_whole_and_catches_and_leaves_a_copy(self) -> None:
        plate = Contour.make([(20, 20), (50, 20), (50, 40), (20, 40)])
        line = Contour.make([(10, 140), (60, 140)], closed=False)
        self.session.edit("more", add_contours(self.session.job, [plate, line]))
        self.session.selection.choose(set())
        names = [item.id for item in self.session.layout.contours]

        def lower_left(number: int) -> list[float]:
            return self.session.layout.contours[number].contour.nodes[0].tolist()

        self.drag((20.3, 20.2), (10.4, 139.3))  # its corner onto the line's end
        self.assertEqual(self.session.selection.ids, {names[1]})
        np.testing.assert_allclose(lower_left(1), (10, 140), atol=1e-9)
        self.session.undo()
        np.testing.assert_allclose(lower_left(1), (20, 20), atol=1e-9)
        self.session.selection.choose(set())
        self.drag((20.3, 20.2), (10.4, 139.3), held=Qt.KeyboardModifier.AltModifier)
        off = np.abs(np.subtract(lower_left(1), (10, 140))).max()
        self.assertTrue(0.05 < off < 1.5, off)
        self.session.undo()
        self.session.selection.choose(set())
        self.drag((35, 20), (100, 20), held=Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(len(self.session.layout.contours), 4)
        np.testing.assert_allclose(lower_left(1), (20, 20), atol=1e-9)
        self.assertEqual(self.session.selection.ids, {self.session.layout.contours[3].id})
        start = self.session.job
        for key in (Key.Key_Escape, Key.Key_Delete):
            self.session.selection.choose(set())
            a, b = self.place(35, 20), self.place(70, 60)
            QTest.mousePress(self.canvas, Qt.MouseButton.LeftButton, pos=a)
            QTest.mouseMove(self.canvas, b)
            self.keys(key, on=self.canvas)
            self.assertIs(self.session.job, start)
            if key == Key.Key_Delete:
                self.session.undo()  # in the midst of it: the copy goes, and so does the drag
                start = self.session.job
            QTest.mouseRelease(self.canvas, Qt.MouseButton.LeftButton, pos=b)
            self.settle()
            self.assertIs(self.session.job, start)

    def test_what_is_chosen_in_the_midst_of_a_drag_is_not_dragged_along(self) -> None:
        plate = Contour.make([(20, 20), (50, 20), (50, 40), (20, 40)])
        self.session.edit("more", add_contours(self.session.job, [plate]))
        self.session.selection.choose(set())
        before, free = self.contour, Qt.KeyboardModifier.AltModifier
        a, b = self.place(35, 20), self.place(35, 12)
        QTest.mousePress(self.canvas, Qt.MouseButton.LeftButton, free, a)
        QTest.mouseMove(self.canvas, b)
        self.session.selection.choose({i.id for i in self.session.layout.contours})
        QTest.mouseRelease(self.canvas, Qt.MouseButton.LeftButton, free, b)
        self.settle()
        self.assertIs(self.contour, before)
        self.assertLess(self.session.layout.contours[1].contour.box[1], 15)
        start = self.session.job
        self.session.selection.choose(set())
        self.canvas.setFocus()
        self.drag((35, 12), (35, 12))  # there and back is a click
        self.assertIs(self.session.job, start)

    def test_all_nodes_are_chosen_and_some_spared(self) -> None:
        tool, name = self.tool_of(ShapingTool), self.session.layout.contours[0].id
        self.keys("b", on=self.canvas)
        self.assertEqual(len(tool.nodes), 8)
        x, y = self.contour.nodes[2].tolist()
        self.click(x, y, held=Key_Shift)
        self.assertEqual({(name, k) for k in range(8)} - tool.nodes, {(name, 2)})
        self.keys("k", on=self.canvas)
        self.assertEqual(np.flatnonzero(~self.contour.corners()).tolist(), [2])
        self.keys("b", on=self.canvas)
        self.keys("b", on=self.canvas)
        self.assertEqual(tool.nodes, frozenset())

    def test_an_end_pulled_onto_a_line_or_onto_its_own_other_end_lies_there(self) -> None:
        wall = Contour.make([(20, 10), (20, 60)], closed=False)
        hook = Contour.make([(40, 20), (60, 30), (60, 50), (45, 40)], closed=False)
        self.session.edit("more", add_contours(self.session.job, [wall, hook]))
        self.session.selection.choose({self.session.layout.contours[2].id})
        self.drag((45, 40), (20.4, 48))
        end = self.session.layout.contours[2].contour.nodes[-1]
        self.assertAlmostEqual(float(end[0]), 20.0, places=9)
        self.assertAlmostEqual(float(end[1]), 48.0, delta=1.0)
        self.drag(tuple(end.tolist()), (40.4, 20.5))
        hooked = self.session.layout.contours[2].contour.nodes
        np.testing.assert_allclose(hooked[-1], hooked[0], atol=1e-9)

    def test_a_form_is_fitted_to_the_part_between_chosen_nodes(self) -> None:
        slip = self.slip_of(MendSlip)
        start, name = self.contour, self.session.layout.contours[0].id
        menu = slip.forms.menu()
        assert menu is not None
        acts = {each.text(): each for each in menu.actions()}
        tool = self.tool_of(ShapingTool)
        tool.nodes = frozenset({(name, 1), (name, 2), (name, 3)})
        acts["arc"].trigger()
        self.wait_for(lambda: slip.preview.change is not None)
        self.assertIn("An arc fitted to a part", slip.preview.words.text())
        self.press(slip.preview.do)
        self.assertEqual(len(self.contour.nodes), len(start.nodes) - 1)
        self.session.undo()
        tool.nodes = frozenset({(name, 1), (name, 2), (name, 3)})
        acts["circle"].trigger()
        self.wait_for(lambda: slip.preview.change is not None)
        self.press(slip.preview.do)
        self.assertEqual(len(self.session.layout.contours), 2)
        self.assertIs(self.contour, start)
        self.assertIsNotNone(self.session.layout.contours[1].contour.circle_shape)

    def test_beside_its_size_stands_how_small_it_can_be_and_where(self) -> None:
        plate = Contour.make([(0, 0), (80, 0), (80, 50), (0, 50)])
        job = add_contours(Job("Plate"), [plate, Contour.circle(40, 11, 8)])
        self.session.start(job, None)
        self.take("pick")
        row = self.slip_of(MendSlip).how_small
        self.session.selection.choose({item.id for item in self.session.layout.contours})
        self.wait_for(lambda: row.value.text() not in ("…", "–", ""))
        assert row.found is not None
        self.assertEqual((row.found.what, row.value.text()), ("wall", "26.7 mm × 16.7 mm"))
        self.press(row.show_place)
        x, y = (
            self.canvas.camera.to_view()
            .inverse()
            .point(self.canvas.width() / 2, self.canvas.height() / 2)
        )
        self.assertLess(abs(x - row.found.x) + abs(y - row.found.y), 1.0)
        self.session.edit("feature", set_setup(self.session.job, smallest_feature=6.0))
        self.wait_for(lambda: row.found is not None and row.found.scale > 1)
        self.assertAlmostEqual(row.found.scale, 2.0, delta=4e-3)
        self.assertIn("too small already", row.toolTip())
        self.session.selection.choose(frozenset())
        self.settle()
        self.assertTrue(row.isHidden())

    def test_shift_near_a_chosen_contour_adds_the_one_that_is_nearer(self) -> None:
        x, y = self.contour.nodes[1]
        beside = Contour.make([(x + 2, y - 10), (x + 2, y + 10)], closed=False)
        self.session.edit("beside", add_contours(self.session.job, [beside]))
        first, second = (item.id for item in self.session.layout.contours)
        self.click(x + 2.2, y, Key_Shift)
        self.assertEqual(self.session.selection.ids, {first, second})
        self.assertEqual(self.tool_of(ShapingTool).nodes, frozenset())
        self.click(x + 2, y + 9.9, Key_Shift)  # both are chosen: it is the node that is added
        self.assertEqual(self.tool_of(ShapingTool).nodes, {(second, 1)})
        self.click(x + 2.2, y)
        self.click(x - 0.1, y, Key_Shift)
        self.assertEqual(self.session.selection.ids, {first, second})

    def test_many_nodes_are_boxed_changed_by_letters_and_removed_and_undo_brings_all_back(
        self,
    ) -> None:
        start = self.session.job
        self.drag((40, 40), (105, 130))
        self.assertEqual(len(self.tool_of(ShapingTool).nodes), 5)
        self.keys("l", on=self.canvas)
        self.assertEqual(int((self.contour.kinds == LINE).sum()), 4)
        self.keys("u", on=self.canvas)
        self.assertTrue((self.contour.kinds == CUBIC).all())
        self.keys("m", on=self.canvas)
        self.assertFalse(self.contour.corners().any())
        self.assertRegex(
            self.window.top_line.hint.text(), r"removed, the contour lies up to [0-9.]+ mm off"
        )  # told before
        self.keys(Key.Key_Delete, on=self.canvas)
        self.assertEqual(len(self.contour.nodes), 3)
        for _ in range(4):
            self.session.undo()
        self.assertIs(self.session.job, start)

    def test_a_node_comes_where_the_pointer_is_and_goes_where_it_is_typed(self) -> None:
        place = self.contour.spans.at(np.array([2]), np.array([0.4]))[0]
        self.hover(*place)
        self.keys("n", on=self.canvas)
        self.assertEqual(len(self.contour.nodes), 9)
        np.testing.assert_allclose(self.contour.nodes[3], place, atol=1)
        field = self.slip_of(MendSlip).node_x
        field.setFocus()
        field.selectAll()
        self.keys("6", "5", Key.Key_Return, on=field)
        self.assertAlmostEqual(self.contour.nodes[3, 0], 65, 9)

    def test_corners_are_rounded_all_at_once_by_a_typed_radius_and_chosen_ones_chamfered(
        self,
    ) -> None:
        plate = Contour.make([(20, 20), (120, 20), (120, 80), (20, 80)])
        self.session.start(
            add_contours(Job("Plate", sheets=(Sheet(width=200, height=160),)), [plate]), None
        )
        self.window.commands["pick"].run()
        self.click(70, 20)
        self.slip_of(MendSlip).radius.setText("1 cm")
        self.slip_of(MendSlip).radius.setModified(True)
        self.press(self.slip_of(MendSlip).rounded)
        np.testing.assert_allclose(
            self.contour.spans.arc_shapes().radii[self.contour.kinds == 1], 10
        )
        self.assertFalse(self.contour.corners().any())
        self.session.undo()
        self.click(20, 20)
        self.press(self.slip_of(MendSlip).chamfered)
        self.assertEqual((len(self.contour.nodes), round(self.contour.area)), (5, 6000 - 50))

    def test_too_few_nodes_are_refused_and_a_wrong_letter_does_nothing(self) -> None:
        start = self.session.job
        self.keys("k", on=self.canvas)  # no node is chosen
        self.assertIs(self.session.job, start)
        self.drag((40, 40), (149, 130))
        self.keys(Key.Key_Delete, on=self.canvas)
        self.assertIn("two nodes", self.top_words)
        self.assertIs(self.session.job, start)
