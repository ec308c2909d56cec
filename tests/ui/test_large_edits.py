"""Edits of a great many contours: worked out by a worker, one after the other, and let go of."""

from __future__ import annotations

import threading
from collections.abc import Callable
from unittest import mock

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.operations import CutThrough
from draxet.job.records import Job
from draxet.ui.model.chosen import Chosen, facts_of
from draxet.ui.model.stage import Stage
from draxet.ui.stages.make.operations import OperationSlip
from draxet.ui.stages.picking import remove_chosen
from tests.ui.driver import WindowTest

Key = Qt.Key


class LargeEdits(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        for module in ("session", "chosen"):
            patched = mock.patch(f"draxet.ui.model.{module}.MANY", 3)
            patched.start()
            self.addCleanup(patched.stop)
        some = [Contour.circle(20 + 15 * k, 40, 4 + k % 3) for k in range(8)]
        self.session.start(add_contours(Job(), some), None)
        self.session.open_stage(Stage.MEND)
        self.take("pick")
        self.ids = frozenset(item.id for item in self.session.job.contours)
        self.session.selection.choose(self.ids)
        self.settle()
        self.hold = threading.Event()
        self.addCleanup(self.hold.set)

    @property
    def left(self) -> float:
        return min(item.contour.box[0] for item in self.session.job.contours)

    def nudge(self, times: int = 1) -> None:
        for _ in range(times):  # nobody waits for the one before
            QTest.keyClick(self.canvas, Key.Key_Right)

    def held(self) -> Callable[[Job], Job]:
        """An edit that takes until it is let go on."""

        def make(job: Job) -> Job:
            self.hold.wait(20)
            return add_contours(job, [Contour.circle(200, 200, 5)])

        return make

    def begin_held(self) -> None:
        self.session.large_edits.edit("add one", self.held(), many=True)
        self.assertTrue(self.session.workers.busy("edit"))

    def test_keys_pressed_one_after_the_other_all_count_and_are_taken_back_one_by_one(self) -> None:
        before, step = self.left, self.session.desk.nudge_mm
        self.nudge(3)
        self.assertEqual(self.left, before)  # none of them on the window's thread
        self.settle()
        self.assertAlmostEqual(self.left, before + 3 * step, 9)
        for steps in (2, 1, 0):
            self.session.undo()
            self.assertAlmostEqual(self.left, before + steps * step, 9)
        self.session.redo()
        self.assertAlmostEqual(self.left, before + step, 9)

    def test_what_is_asked_meanwhile_is_made_of_what_is_in_force_then(self) -> None:
        before, step = self.left, self.session.desk.nudge_mm
        self.begin_held()
        self.nudge()
        one = add_contours(self.session.job, [Contour.circle(300, 300, 5)])
        self.session.edit("another way in", one)  # by what goes at once
        self.hold.set()
        self.settle()
        self.assertEqual(len(self.session.job.contours), 10)
        self.assertAlmostEqual(self.left, before + step, 9)
        for count in (10, 9, 8):
            self.session.undo()
            self.assertLessEqual(len(self.session.job.contours), count)
        self.assertEqual((len(self.session.job.contours), self.left), (8, before))

    def test_escape_undo_and_another_job_let_it_go(self) -> None:
        job = self.session.job
        for let_go in (
            lambda: QTest.keyClick(self.canvas, Key.Key_Escape),
            self.session.undo,
            lambda: self.session.start(job, None),
        ):
            self.session.start(job, None)
            self.session.open_stage(Stage.MEND)
            self.take("pick")
            self.session.selection.choose(self.ids)
            self.hold.clear()
            self.begin_held()
            self.nudge()
            let_go()
            self.hold.set()
            self.settle()
            self.assertTrue(self.session.job is job)
            self.nudge()  # and all goes on
            self.settle()
            self.assertTrue(self.session.workers.busy("edit") is False)

    def test_another_tool_or_stage_loses_nothing_and_what_is_gone_is_not_moved(self) -> None:
        remove_chosen(self.session)
        self.nudge()  # what is just being removed
        self.session.open_stage(Stage.MAKE)
        self.take("cut")
        self.settle()
        self.assertEqual(self.session.job.contours, ())
        self.assertNotIn("cannot", self.top_words)
        self.session.undo()
        self.assertEqual(len(self.session.job.contours), 8)
        self.begin_held()
        self.session.take_tool("", None)
        QTest.keyClick(self.canvas, Key.Key_Escape)  # with no tool in hand
        self.hold.set()
        self.settle()
        self.assertEqual(len(self.session.job.contours), 8)

    def test_what_cannot_be_done_is_told_and_the_next_one_comes(self) -> None:
        def wrong(job: Job) -> Job:
            raise ValueError("there is no room")

        before = self.left
        self.session.large_edits.edit("set it there", wrong, many=True)
        self.nudge()
        self.settle()
        self.assertIn("cannot be done (set it there): there is no room", self.top_words)
        self.assertGreater(self.left, before)

    def test_all_are_removed_coloured_and_cut_and_the_slip_tells_of_them(self) -> None:
        facts = self.session.single(Chosen).facts
        assert facts is not None
        wanted = facts_of(self.session.job.contours, self.session.job)
        for name in ("nodes", "size", "colours", "opened", "radii", "alike"):
            self.assertEqual(getattr(facts, name), getattr(wanted, name))
        self.assertEqual((facts.nodes, facts.opened, facts.radii), (16, 0, (4.0, 5.0)))
        remove_chosen(self.session)
        self.settle()
        self.assertEqual(self.session.job.contours, ())
        self.session.undo()
        self.assertEqual(len(self.session.job.contours), 8)
        self.session.open_stage(Stage.MAKE)
        self.take("cut")
        self.press(self.slip_of(OperationSlip).give)
        self.settle()
        (cut,) = self.session.job.operations
        assert isinstance(cut, CutThrough)
        self.assertEqual(frozenset(cut.contours), self.ids)
        self.assertTrue(self.slip_of(OperationSlip)._changing.isVisible())  # it is in hand
