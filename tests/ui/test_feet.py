"""The foot of every slip: what it is for is seen at every size, says why it cannot be done, and
Enter does it wherever the keys are."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QPushButton

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.make.cutting_through import give_cut
from draxet.ui.demo import demo_job
from draxet.ui.model.stage import Stage
from draxet.ui.shell.command_table import tools_of
from draxet.ui.stages.make.operations import OperationSlip
from draxet.ui.stages.row import ToolRow
from draxet.ui.stages.trueup.square_tool import SquareSlip
from tests.ui.driver import WindowTest


class Feet(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        rings = [Contour.circle(60, 60, 40), Contour.circle(60, 60, 15), Contour.circle(160, 60, 9)]
        job = add_contours(demo_job(), rings)
        self.session.start(give_cut(job, [job.contours[0].id], 1.5, 1500), None)
        self.window.resize(960, 540)
        self.settle()

    def test_the_brass_button_of_every_tool_is_seen_below_what_scrolls_with_what_it_does(
        self,
    ) -> None:
        feet = 0
        for row in [row for stage in Stage for row in tools_of(stage) if isinstance(row, ToolRow)]:
            if self.window.commands[row.id].why_not():
                continue
            self.take(row.id)
            slip, panel = self.slip, self.window.slips
            with self.subTest(row.id):
                brass = [
                    each
                    for each in slip.findChildren(QPushButton)
                    if each.property("part") == "main"
                ]
                self.assertEqual(brass, [], "it would scroll away")
                main = slip.foot.main
                self.assertEqual(main is not None, slip.foot.isVisible())
                if main is None:
                    continue
                feet += 1
                below = main.mapTo(panel, QPoint(0, main.height()))
                self.assertLessEqual(below.y(), panel.height())
                self.assertTrue(main.visibleRegion().contains(main.rect()))
                self.assertTrue(slip.foot.words.isVisible() and slip.foot.words.text())
        self.assertGreater(feet, 15)

    def test_enter_does_it_from_a_tick_box_and_from_a_field_but_takes_what_is_typed_first(
        self,
    ) -> None:
        self.take("cut")
        slip = self.slip_of(OperationSlip)
        pressed: list[str] = []
        slip.give.clicked.connect(lambda: pressed.append("give"))
        self.keys(Qt.Key.Key_Return, on=slip.asked["air"])
        self.assertEqual(pressed, ["give"])
        self.keys(Qt.Key.Key_Escape, on=self.canvas)  # what it made is let go
        width = slip.asked["width"]
        width.setFocus()
        width.selectAll()
        self.keys("2", Qt.Key.Key_Return, on=width)
        self.assertEqual(pressed, ["give"], "it is taken, no more")
        self.assertEqual(width.value, 2.0)
        self.keys(Qt.Key.Key_Return, on=width)
        self.assertEqual(pressed, ["give", "give"])

    def test_by_tab_the_foot_comes_after_all_that_scrolls_also_below_the_fold(self) -> None:
        self.take("cut")
        stops = self.window.slips._stops()
        foot = [self.slip.foot.isAncestorOf(at) for at in stops]
        self.assertEqual(foot, sorted(foot))
        self.assertTrue(any(foot))
        lowest = max(at.mapTo(self.window.slips, QPoint()).y() for at in stops)
        self.assertGreater(lowest, self.slip.foot.y(), "some of it is below the fold")

    def test_where_it_cannot_be_done_the_foot_says_why_and_enter_says_it_too(self) -> None:
        self.take("match")
        self.assertFalse(self.slip.foot.main.isEnabled())
        why = self.slip.foot.words.text()
        self.assertIn("Pick a place", why)
        self.keys(Qt.Key.Key_Return, on=self.canvas)
        self.assertIn(why, self.top_words)
        self.take("square")
        self.assertTrue(self.slip_of(SquareSlip).go.isEnabled())
        self.assertIn("85.6", self.slip.foot.words.text())
