"""Make, by the mouse: where cuts begin and tabs hold, an order by hand, parts that fit, what
machines keep clear of, and what is kept for all jobs."""

from __future__ import annotations

import math
import tempfile
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.machine_kinds import MACHINES, KeepClear
from draxet.job.make_edits import tab_shares
from draxet.job.operating import choose_machine, set_machine
from draxet.job.operations import Drill
from draxet.job.recipe import RECIPES
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.make.cutting_through import give_cut
from draxet.ui.model.shelf import kept_machines, kept_recipes, put_away_recipes
from draxet.ui.model.stage import Stage
from draxet.ui.stages.make.machine_slip import MachineSlip
from draxet.ui.stages.make.operations import CutTool, EngraveTool, OperationSlip
from draxet.ui.stages.make.order import FitSlip
from draxet.ui.stages.make.recipe_chooser import RecipeChooser, found_recipes
from draxet.ui.stages.make.spot_tool import SpotSlip, SpotTool
from tests.ui.driver import WindowTest

Key = Qt.Key


class MakingTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        job = add_contours(
            Job(sheets=(Sheet(machine="gantry-router"),)),
            [
                Contour.make([(50, 50), (250, 50), (250, 150), (50, 150)]),
                Contour.circle(100, 100, 20),
                Contour.circle(200, 100, 15),
                Contour.make([(300, 60), (340, 60)], closed=False),
            ],
        )
        job = give_cut(job, [item.id for item in job.contours[:3]], 3.175, 1500)
        self.session.start(job, None)
        self.session.open_stage(Stage.MAKE)
        self.settle(100)

    def starts(self) -> list[tuple[str, float]]:
        return [
            (spot.contour, round(spot.share, 2))
            for operation in self.session.job.operations
            for spot in getattr(operation, "spots", ())
            if spot.what == "start"
        ]

    def test_a_click_says_where_a_cut_begins_and_a_wrong_one_why_not(self) -> None:
        self.take("spots")
        self.click(150, 50)
        self.assertEqual(self.starts(), [("contour-1", 0.17)])
        self.click(250, 100)
        self.assertEqual(self.starts(), [("contour-1", 0.42)])
        for place, words in (((320, 60), "is not cut through"), ((150, 250), "no contour here")):
            self.click(*place)
            self.assertIn(words, self.top_words)
        self.session.undo()
        self.assertEqual(self.starts(), [("contour-1", 0.17)])
        self.wait_for(lambda: bool(self.session.looked.products))
        self.press(self.slip_of(SpotSlip).clear)
        self.assertEqual(self.starts(), [])

    def test_painted_step_by_step_it_looks_as_at_once_whatever_happens_meanwhile(self) -> None:
        self.session.selection.choose({item.id for item in self.session.layout.contours})
        self.settle()
        self.canvas.frame_seconds = -math.inf
        for k in range(12):
            (self.canvas.zoom_by, self.canvas.pan_by)[k % 2](
                *((1.3 if k % 4 else 0.7,), (40, -30))[k % 2]
            )
            if k % 3 == 0:
                self.window.resize(1280 - 10 * k, 800)
            self.canvas.repaint()
        self.wait_for(lambda: self.canvas.is_whole)
        stepped = self.canvas.grab().toImage()
        self.canvas.frame_seconds = math.inf
        seen = self.canvas.camera
        self.canvas.zoom_by(2.0)
        self.canvas.repaint()
        self.canvas.camera = seen
        self.assertEqual(stepped, self.canvas.grab().toImage())

    def test_tabs_are_put_dragged_and_taken_away(self) -> None:
        self.take("cut")
        self.tool_of(CutTool).take_in_hand(self.session.job.cut_of["contour-1"])
        self.fill(self.slip_of(OperationSlip).asked["tabs"], "2")
        self.take("spots")
        before = tab_shares(self.session.job, "contour-1")
        self.assertEqual(len(before), 2)
        (x, y), _ = self.tool_of(SpotTool).tabs()["contour-1"]
        self.drag((x, y), (250, 70))
        after = tab_shares(self.session.job, "contour-1")
        self.assertAlmostEqual(after[0], 220 / 600, delta=0.01)
        self.assertAlmostEqual(after[1], before[1], delta=0.01)
        self.press(self.slip_of(SpotSlip).asked["click"].button("tab"))
        self.click(200, 150)
        self.assertEqual(len(tab_shares(self.session.job, "contour-1")), 3)
        for left in (2, 1):
            self.click(*self.tool_of(SpotTool).tabs()["contour-1"][0])
            self.keys(Key.Key_Delete, on=self.canvas)
            self.assertEqual(len(tab_shares(self.session.job, "contour-1")), left)
        self.click(*self.tool_of(SpotTool).tabs()["contour-1"][0])
        self.keys(Key.Key_Delete, on=self.canvas)
        self.assertIn("its last tab", self.top_words)
        self.press(self.slip_of(SpotSlip).asked["click"].button("start"))
        self.keys(Key.Key_Escape, on=self.canvas)
        self.click(100, 50)
        self.assertIn("interrupted by tabs", self.top_words)

    def test_delete_in_the_midst_of_a_drag_and_another_job_leave_nothing_behind(self) -> None:
        self.take("cut")
        self.tool_of(CutTool).take_in_hand(self.session.job.cut_of["contour-1"])
        self.fill(self.slip_of(OperationSlip).asked["tabs"], "2")
        self.take("spots")
        x, y = self.tool_of(SpotTool).tabs()["contour-1"][0]
        QTest.mousePress(self.canvas, Qt.MouseButton.LeftButton, pos=self.place(x, y))
        QTest.mouseMove(self.canvas, self.place(250, 120))
        self.session.start(Job(), None)
        QTest.mouseRelease(self.canvas, Qt.MouseButton.LeftButton, pos=self.place(250, 120))
        self.settle(50)
        self.assertEqual(self.session.layout.contours, ())

    def test_an_order_by_hand_is_clicked_and_one_that_is_wrong_is_found_and_mended(self) -> None:
        self.take("order")
        self.click(50, 100)
        self.click(50, 100)
        self.assertIn("clicked already", self.top_words)
        self.click(320, 60)
        self.assertIn("has no operation", self.top_words)
        self.click(120, 100)
        self.keys(Key.Key_Backspace, on=self.canvas)
        self.click(215, 100)
        self.keys(Key.Key_Return, on=self.canvas)
        self.assertEqual(
            [order.contours for order in self.session.job.orders], [("contour-1", "contour-3")]
        )
        self.wait_for(
            lambda: any(finding.kind == "wrong-order" for finding in self.session.looked.findings)
        )
        finding = next(
            finding for finding in self.session.looked.findings if finding.kind == "wrong-order"
        )
        self.assertEqual(finding.ids, ("contour-3",))
        assert finding.mend is not None
        self.session.edit(finding.mend_words, finding.mend(self.session.job))
        self.wait_for(
            lambda: (
                not any(finding.kind == "wrong-order" for finding in self.session.looked.findings)
            )
        )

    def test_a_part_and_its_opening_are_clicked_and_the_clearance_is_set(self) -> None:
        self.take("clearance")
        self.fill(self.slip_of(FitSlip).asked["clearance"], "0.2")
        self.click(320, 60)
        self.assertIn("is open", self.top_words)
        self.click(215, 100)
        self.click(120, 100)
        (fit,) = self.session.job.fits
        self.assertEqual((fit.part, fit.opening, fit.clearance), ("contour-3", "contour-2", 0.2))
        self.session.undo()
        self.assertEqual(self.session.job.fits, ())

    def test_a_chosen_contour_becomes_a_clamp_or_the_reach_and_no_program_runs_into_it(
        self,
    ) -> None:
        self.take("machine")
        self.press(self.slip_of(MachineSlip).parts.keep)
        self.assertIn("Choose a closed contour first", self.top_words)
        self.session.selection.choose({"contour-2"})
        self.fill(self.slip_of(MachineSlip).parts.above, "25")
        self.press(self.slip_of(MachineSlip).parts.keep)
        (area,) = self.session.job.machine_of(self.session.job.sheet).keep_clear
        self.assertEqual(area.height, 25.0)
        self.wait_for(
            lambda: any(
                finding.kind.startswith("keep-clear") for finding in self.session.looked.findings
            )
        )
        self.press(self.slip_of(MachineSlip).parts.outline)
        self.assertIsNotNone(self.session.job.machine_of(self.session.job.sheet).outline)
        self.wait_for(
            lambda: any(finding.kind == "out-of-reach" for finding in self.session.looked.findings)
        )
        self.fill(self.slip_of(MachineSlip).parts.diameter, "4")
        self.press(self.slip_of(MachineSlip).parts.add_tool)
        self.assertIn("type both first", self.top_words)
        self.fill(self.slip_of(MachineSlip).parts.longest, "10")
        self.press(self.slip_of(MachineSlip).parts.add_tool)
        self.assertEqual(
            self.session.job.machine_of(self.session.job.sheet).cutters[-1].diameter, 4.0
        )
        self.press(self.slip_of(MachineSlip).asked["speeds"].button("mm/s"))
        self.assertEqual(self.slip_of(MachineSlip).asked["most_feed"].text(), "100 mm/s")
        self.fill(self.slip_of(MachineSlip).asked["most_feed"], "50")
        self.assertEqual(self.session.job.machine_of(self.session.job.sheet).most_feed, 3000.0)

    def test_one_like_it_may_be_of_another_kind(self) -> None:
        self.take("machine")
        self.assertTrue(self.slip_of(MachineSlip).kind.isHidden())
        self.press(self.slip_of(MachineSlip).copy)
        self.press(self.slip_of(MachineSlip).kind["kind"].button("laser"))
        machine = self.session.job.machine_of(self.session.job.sheet)
        self.assertEqual((machine.kind, machine.name), ("laser", "Gantry router 2"))
        self.assertFalse(self.slip_of(MachineSlip).asked.rows["power_scale"].isHidden())

    def test_how_programs_are_written_is_set_and_taken_back(self) -> None:
        self.take("machine")
        words = self.slip_of(MachineSlip).program_words
        self.press(words.asked["numbers"])
        self.fill(words.asked["decimals"], "4")
        self.fill(words.words["on"], "M4")
        words.start.setPlainText("G54\nG17")
        words.start.finish()
        dialect = self.session.job.machine_of(self.session.job.sheet).dialect
        self.assertEqual(
            (dialect.numbers, dialect.decimals, dialect.on, dialect.start),
            (True, 4, "M4", "G54\nG17"),
        )
        self.fill(words.asked["decimals"], "40")
        self.assertIn("Decimals must be", self.top_words)
        self.session.undo()
        self.assertEqual((words.start.toPlainText(), words.words["on"].text()), ("", "M4"))

    def test_what_is_kept_for_all_jobs_is_offered_in_another_one(self) -> None:
        own = replace(
            MACHINES[1],
            id="machine-77",
            name="Long bed",
            keep_clear=(KeepClear(Contour.circle(5, 5, 4), 12.0),),
        )
        self.session.edit(
            "choose", choose_machine(set_machine(self.session.job, own), "sheet-0", own.id)
        )
        self.take("machine")
        self.press(self.slip_of(MachineSlip).keep)
        self.assertEqual([machine.name for machine in kept_machines()], ["Long bed"])
        self.take("cut")
        self.fill(self.slip_of(OperationSlip).asked["feed"], "1234")
        self.tool_of(CutTool).keep_recipe("Shed oak")
        self.assertEqual(
            [(recipe.name, recipe.feed) for recipe in kept_recipes()], [("Shed oak", 1234.0)]
        )
        self.session.document.history = self.session.document.history.after_save()
        self.session.start(add_contours(Job(), [Contour.circle(50, 50, 20)]), None)
        self.session.open_stage(Stage.MAKE)
        self.take("machine")
        row = next(
            row
            for row in self.slip_of(MachineSlip).findChildren(type(self.slip_of(MachineSlip).copy))
            if row.text().startswith("Long bed")
        )
        self.press(row)
        machine = self.session.job.machine_of(self.session.job.sheet)
        self.assertEqual(
            (machine.name, machine.keep_clear[0].height, machine.keep_clear[0].outline.area > 0),
            ("Long bed", 12.0, True),
        )
        self.take("cut")
        every = self.slip_of(OperationSlip).recipes.every()
        (kept,) = found_recipes(every, "oak")
        chooser = RecipeChooser(self.slip, every, [kept], "Recipes", "mm/min")
        chooser.words.setText("shed steel 3")
        self.assertEqual(chooser.chosen, kept)
        chooser.away.click()
        self.assertIsNone(chooser.chosen)
        chooser.deleteLater()
        self.tool_of(CutTool).take_recipe(kept)
        self.assertEqual(self.slip_of(OperationSlip).asked["feed"].text(), "1234 mm/min")
        self.assertEqual([recipe.name for recipe in self.session.job.recipes], ["Shed oak"])
        put_away_recipes([kept])
        self.assertEqual(kept_recipes(), [])
        with tempfile.TemporaryDirectory() as folder:
            self.take("machine")
            path = Path(folder) / "machines.json"
            self.slip_of(MachineSlip).write_machines(path)
            before = len(self.session.job.machines)
            self.slip_of(MachineSlip).read_machines(path)
            self.assertEqual(len(self.session.job.machines), before + len(MACHINES) + 1)
            path.write_text("{}")
            self.slip_of(MachineSlip).read_machines(path)
            self.assertIn("holds no machines", self.top_words)
        self.assertEqual(
            found_recipes(RECIPES, "plasma 6"),
            [
                recipe
                for recipe in RECIPES
                if recipe.machine == "plasma-table" and recipe.thickness == 6.0
            ],
        )

    def test_contours_are_chosen_by_what_they_are_and_holes_made_for_a_screw(self) -> None:
        self.take("drill")
        self.slip_of(OperationSlip).fill_choices()
        menu = self.slip_of(OperationSlip).choose.menu()
        names = {action.text().split(" · ")[0]: action for action in menu.actions()}
        self.assertEqual(
            set(names), {"Outlines", "Openings", "Circles", "Open lines", "Without an operation"}
        )
        names["Circles"].trigger()
        self.assertEqual(self.session.selection.ids, frozenset({"contour-2", "contour-3"}))
        holes = next(
            made
            for made in self.slip_of(OperationSlip).findChildren(
                type(self.slip_of(OperationSlip).choose)
            )
            if made.text() == "For a thread"
        )
        next(
            action for action in holes.menu().actions() if action.text() == "M5 · 4.2 mm"
        ).trigger()
        self.assertEqual(
            [
                round(self.session.layout.contour_by_id[name].contour.circle_shape[2], 6)
                for name in ("contour-2", "contour-3")
            ],
            [2.1, 2.1],
        )
        self.press(self.slip_of(OperationSlip).give)
        (drill,) = [
            operation for operation in self.session.job.operations if isinstance(operation, Drill)
        ]
        self.assertEqual(drill.diameter, 4.2)
        self.take("engrave")
        dots = next(
            field
            for field in self.slip_of(OperationSlip).findChildren(
                type(self.slip_of(OperationSlip).asked["spacing"])
            )
            if field.accessibleName() == "Dots an inch"
        )
        self.fill(dots, "254")
        self.assertAlmostEqual(self.tool_of(EngraveTool).record.spacing, 0.1)  # type: ignore[attr-defined]
        self.fill(dots, "many")
        self.assertIn("Dots an inch must be", self.top_words)
