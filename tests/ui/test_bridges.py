"""Bridges through the real window: clicked, drawn along, made broader, taken away; whole islands;
and what leaves."""

from __future__ import annotations

import tempfile
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.make.cutting_through import give_cut
from draxet.ui.model.falling import Falling
from draxet.ui.stages.make.operations import OperationSlip
from draxet.ui.stages.mend.bridge_slip import BridgeSlip
from draxet.ui.stages.mend.bridge_tool import BridgeTool
from draxet.ui.stages.mend.fall_tool import FallSlip, FallTool
from tests.handing_off import counted, hand_off
from tests.ui.driver import WindowTest

Key = Qt.Key
PLATE = Contour.make([(10, 10), (190, 10), (190, 110), (10, 110)])


class Bridges(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        job = add_contours(
            Job("Route plate", sheets=(Sheet(width=200, height=120),)),
            [
                PLATE,
                Contour.circle(60, 60, 35),
                Contour.circle(60, 60, 18),
                Contour.circle(140, 60, 20),
            ],
        )
        self.session.start(give_cut(job, [item.id for item in job.contours], 1.5, 1000), None)
        self.settle()
        self.take("bridges")

    @property
    def bridges(self) -> list[tuple[float, float, float]]:
        return [(round(b.x, 1), round(b.y, 1), b.width) for b in self.session.job.bridges]

    def test_a_strip_is_clicked_drawn_along_made_broader_and_removed(self) -> None:
        self.click(100, 20)  # nothing there
        self.assertIn("There is no contour here", self.top_words)
        self.click(110, 10)  # the plate's rim: nothing to lead to but what stays
        self.assertIn("would hold nothing", self.top_words)
        self.assertEqual(self.bridges, [])
        self.click(78.4, 60)
        ((x, y, width),) = self.bridges
        self.assertAlmostEqual(x, 78, delta=0.3)
        self.assertEqual(width, 3.0)
        start = self.place(78, 60)
        QTest.mousePress(
            self.canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start
        )
        QTest.mouseMove(self.canvas, self.place(70, 75))
        self.keys(Key.Key_Escape, on=self.canvas)  # given up in the midst of it
        QTest.mouseRelease(
            self.canvas,
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
            self.place(70, 75),
        )
        self.assertEqual(self.bridges, [(x, y, width)])
        self.drag((78, 60), (60, 79))
        (moved,) = self.session.job.bridges
        self.assertAlmostEqual(moved.y, 78, delta=0.3)
        self.assertAlmostEqual(moved.angle, 90, delta=2)
        self.fill(self.slip_of(BridgeSlip).asked["width"], "5")
        self.assertEqual(self.bridges[0][2], 5.0)
        self.fill(self.slip_of(BridgeSlip).asked["width"], "wide")
        self.assertIn("got 'wide'", self.top_words)
        self.click(*self.tool_of(BridgeTool).held_cuts().effects[0].place)
        self.keys(Key.Key_Delete, on=self.canvas)
        self.assertEqual(self.bridges, [])
        self.session.undo()
        self.assertEqual(self.bridges[0][2], 5.0)

    def test_every_island_is_held_and_the_file_holds_what_is_cut(self) -> None:
        self.press(self.slip_of(BridgeSlip).all)
        self.assertIn("2 bridges hold 1 island", self.top_words)
        self.press(self.slip_of(BridgeSlip).all)
        self.assertIn("Every island is held already", self.top_words)
        self.press(self.slip_of(BridgeSlip).asked["click"].button("line"))
        self.click(100, 10)
        self.assertEqual(len(self.bridges), 3)
        with tempfile.TemporaryDirectory() as folder:
            found = hand_off(self.session.job, Path(folder) / "plate.dxf")
            there = counted(Path(folder) / "plate.dxf")
        self.assertTrue(found.matches)
        self.assertEqual(
            there[:2], (4, 3)
        )  # two halves of the ring, the hole, the plate's outline with its gap
        self.take("falls")
        self.settle(50)
        self.assertEqual(
            [piece.falls for piece in self.tool_of(FallTool).fallout.pieces],
            [False, True, True, True],
        )
        self.take("bridges")
        self.press(self.slip_of(BridgeSlip).every)
        self.assertEqual(self.bridges, [])

    def test_a_cut_width_goes_on_to_cut_through_and_back(self) -> None:
        self.session.edit("none", replace(self.session.job, operations=()))
        self.take("falls")
        self.fill(self.slip_of(FallSlip).asked["width"], "2.5")
        self.take("cut")
        slip = self.slip_of(OperationSlip)
        self.assertEqual(slip.asked["width"].value, 2.5)
        self.fill(slip.asked["width"], "3.5")
        self.take("falls")
        self.assertEqual(self.slip_of(FallSlip).asked["width"].value, 3.5)
        self.assertEqual(self.tool_of(FallTool).settings.width, 3.5)

    def test_what_falls_is_shown_while_other_tools_are_in_hand(self) -> None:
        self.window.commands["what-falls"].run()
        self.settle(50)
        falling = self.session.single(Falling)
        self.assertEqual(sum(piece.falls for piece in falling.fallout.pieces), 3)
        self.take("pick")
        self.remove_what_is_inside()
        self.assertEqual(sum(piece.falls for piece in falling.fallout.pieces), 0)
        self.session.undo()
        self.settle(50)
        self.assertEqual(sum(piece.falls for piece in falling.fallout.pieces), 3)
        self.session.start(Job(), None)
        self.settle(50)
        self.assertEqual(falling.fallout.pieces, ())
        self.window.commands["what-falls"].run()
        self.assertFalse(self.session.desk.shows_falls)

    def remove_what_is_inside(self) -> None:
        """Holes and island are gone."""
        self.session.selection.choose({item.id for item in self.session.layout.contours[1:]})
        self.keys(Key.Key_Delete, on=self.canvas)
        self.settle(50)

    def test_an_island_clicked_gets_as_many_as_are_asked_for(self) -> None:
        self.press(self.slip_of(BridgeSlip).asked["click"].button("island"))
        self.fill(self.slip_of(BridgeSlip).asked["count"], "3")
        self.click(60, 60)
        self.assertEqual(len(self.bridges), 3)
        self.session.undo()
        self.click(300, 300)
        self.assertIn("There is no island here", self.top_words)
        self.assertEqual(self.bridges, [])
