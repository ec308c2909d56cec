"""Operations through the real window: given, changed, refused, found wrong and mended, seen, and
timed by the machine's program."""

from __future__ import annotations

import tempfile
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLabel, QPushButton

from draxet.formats.embroidery import read_embroidery
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours, colour_contours
from draxet.job.machine_kinds import Machine
from draxet.job.operating import choose_machine
from draxet.job.operations import CutThrough, Engrave, Pocket
from draxet.job.program import Program
from draxet.job.records import Job, begun_job
from draxet.job.sheet_records import Sheet
from draxet.ui.stages.gather.sheets import SheetSlip
from draxet.ui.stages.make.machine_slip import MachineSlip
from draxet.ui.stages.make.operations import CutTool, OperationSlip, PocketTool
from draxet.ui.stages.prove.hand_off import HandOffSlip
from draxet.ui.stages.prove.rehearse_slip import RehearseSlip
from draxet.ui.stages.prove.rehearse_tool import RehearseTool
from tests.ui.driver import WindowTest

Key = Qt.Key


class Operations(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        contours = [
            Contour.make([(10, 10), (190, 10), (190, 110), (10, 110)]),
            Contour.circle(50, 60, 25),
            Contour.make([(140, 30), (180, 30), (180, 90), (140, 90)]),
            Contour.circle(20, 20, 3),
            Contour.make([(30, 100), (170, 100)], closed=False),
        ]
        self.session.start(
            add_contours(
                Job("Badge board", sheets=(Sheet(width=200, height=120, machine="gantry-router"),)),
                contours,
            ),
            None,
        )
        self.ids = [item.id for item in self.session.layout.contours]
        self.settle()

    def give(self, tool: str, *numbers: int) -> None:
        self.take(tool)
        self.session.selection.choose(frozenset(self.ids[n] for n in numbers))
        self.press(self.slip_of(OperationSlip).give)
        self.settle(50)

    def kinds(self) -> list[str]:
        return [finding.kind.split("-operation")[0] for finding in self.session.looked.findings]

    def test_what_was_just_given_is_in_hand_openings_and_outlines_at_once(self) -> None:
        def cuts() -> list[tuple[str, str, float, int]]:
            return [
                (each.name, each.side.value, each.feed, each.tabs)
                for each in self.session.job.operations
                if isinstance(each, CutThrough)
            ]

        self.give("cut", 0, 3)
        slip = self.slip_of(OperationSlip)
        self.assertEqual([name for name, *_ in cuts()], ["Cut openings", "Cut outlines"])
        held = slip._changing.text()
        self.assertIn("Cut openings and Cut outlines are changed as you type", held)
        self.fill(slip.asked["feed"], "400")
        self.fill(slip.asked["tabs"], "2")
        self.assertEqual(
            cuts(),
            [("Cut openings", "inside", 400.0, 2), ("Cut outlines", "outside", 400.0, 2)],
        )
        self.fill(slip.asked["stop"], "Clamp it")
        self.assertEqual([each.stop for each in self.session.job.operations], ["Clamp it", ""])
        self.assertFalse(slip.give.isEnabled())
        self.assertIn("Choose others for the next one", slip.foot.words.text())
        self.session.undo()
        self.session.undo()
        self.assertEqual([tabs for *_, tabs in cuts()], [0, 0])
        self.assertEqual([feed for *_, feed, _ in cuts()], [400.0, 400.0])
        self.session.selection.choose({self.ids[2]})  # the next one, which begins like these
        self.assertEqual(slip._changing.text(), "")
        self.fill(slip.asked["feed"], "900")
        self.assertEqual([feed for *_, feed, _ in cuts()], [400.0, 400.0])
        self.press(slip.give)
        self.assertEqual([feed for *_, feed, _ in cuts()], [400.0, 400.0, 900.0])
        self.assertEqual([each.stop for each in self.session.job.operations], ["", "", ""])
        self.press(slip._list.findChildren(QPushButton)[0])  # one of two, to tell them apart
        self.fill(slip.asked["feed"], "500")
        self.assertEqual([feed for *_, feed, _ in cuts()], [500.0, 400.0, 900.0])
        while self.session.job.operations:
            self.session.undo()
        self.fill(slip.asked["feed"], "700")  # what was made is gone: it is for the next one
        self.assertEqual(cuts(), [])
        self.press(slip.give)
        self.assertEqual({feed for *_, feed, _ in cuts()}, {700.0})

    def test_an_empty_window_s_sheet_goes_on_the_machine_of_its_material(self) -> None:
        self.session.start(begun_job(), None)
        self.session.edit("draw", add_contours(self.session.job, [Contour.circle(60, 60, 25)]))

        def machine() -> Machine:
            return self.session.job.machine_of(self.session.job.sheet)

        self.assertEqual(machine().kind, "plasma")
        self.window.commands["sheets"].run()
        slip = self.slip_of(SheetSlip)
        self.fill(slip.material, "Birch plywood")
        self.assertIn("worked on the desk laser, until you choose another", self.top_words)
        self.assertEqual((machine().kind, self.session.job.sheet.machine), ("laser", ""))
        self.fill(slip.material, "unobtainium")
        self.fill(slip.material, "")
        self.fill(slip.material, "Birch plywood")
        self.take("cut")
        self.session.selection.choose({item.id for item in self.session.layout.contours})
        self.press(self.slip_of(OperationSlip).give)
        self.settle(50)
        (near,) = (each for each in self.session.looked.findings if "no recipe" in each.words)
        self.assertIn("near is Plywood 3 mm (for plywood)", near.words)
        self.assertEqual(self.session.job.sheet.machine, "desk-laser")
        self.window.commands["sheets"].run()
        self.fill(self.slip_of(SheetSlip).material, "steel")  # it is worked, and stays there
        self.assertEqual(machine().kind, "laser")
        self.session.undo()
        self.session.undo()
        self.assertEqual((machine().kind, self.session.job.sheet.machine), ("laser", ""))

    def test_a_patch_is_sewn_on_a_stitcher_and_leaves_as_needle_points(self) -> None:
        self.session.edit("red", colour_contours(self.session.job, self.ids[1:2], "#cf4a3c"))
        self.take("stitch")
        take = next(
            each
            for each in self.slip.findChildren(QPushButton)
            if each.text() == "Take the stitcher"
        )
        self.assertFalse(take.isHidden())
        menu = take.menu()
        assert menu is not None
        menu.actions()[0].trigger()
        self.assertEqual(self.session.job.machine_of(self.session.job.sheet).kind, "stitcher")
        self.assertTrue(take.isHidden())
        self.give("cut", 0)  # which it cannot do
        self.assertIn("unfit", self.kinds())
        self.session.undo()
        self.give("stitch", 1, 2, 4)
        self.wait_for(lambda: any(len(each) for each in self.session.looked.products))
        (product,) = self.session.looked.products
        self.assertEqual(product.product, "stitches")
        self.assertGreater(len(product), 800)
        self.assertEqual([block.colour for block in product.plan.blocks][0], "#cf4a3c")  # type: ignore[attr-defined]
        slip = self.slip_of(OperationSlip)
        before = len(product)
        said = {each.text() for each in slip.findChildren(QLabel)}
        self.assertIn(f"{before:,}".replace(",", " "), said)
        self.fill(slip.asked["spacing"], "0.7")
        self.wait_for(lambda: len(self.session.looked.products[0]) < 0.75 * before)
        self.fill(slip.asked["spacing"], "9")
        self.assertIn("Rows apart must be from 0.1 mm to 5 mm", self.top_words)
        x, y = self.place(60, 50), self.place(60, 80)
        alt = Qt.KeyboardModifier.AltModifier
        QTest.mousePress(self.canvas, Qt.MouseButton.LeftButton, alt, x)
        for at in (x + (y - x) / 2, y):
            QTest.mouseMove(self.canvas, at)
        QTest.mouseRelease(self.canvas, Qt.MouseButton.LeftButton, alt, y)
        self.assertAlmostEqual(slip.asked["angle"].value, 90.0, delta=1.0)
        self.session.undo()
        self.assertEqual(slip.asked["angle"].value, 45.0)
        self.press(slip.asked["way"].button("run"))
        self.wait_for(lambda: len(self.session.looked.products[0]) < 0.3 * before)
        self.session.undo()
        self.session.undo()
        self.wait_for(lambda: len(self.session.looked.products[0]) == before)
        self.assertIn("stitches-beyond-sheet-0", self.kinds())  # rows are longer than the area
        self.take("machine")
        self.fill(self.slip_of(MachineSlip).asked["hoop_x"], "100")
        self.settle(50)
        self.assertIn("out-of-reach", self.kinds())
        self.fill(self.slip_of(MachineSlip).asked["hoop_x"], "200")
        self.settle(50)
        self.assertFalse({"out-of-reach", "stitches-beyond-sheet-0"} & set(self.kinds()))
        self.take("hand-off")
        hand_off = self.slip_of(HandOffSlip)
        self.assertTrue(hand_off.ticks["program"].isHidden())
        self.press(hand_off.ticks["dxf"])
        for key in ("stitches-dst", "stitches-pes", "threads"):
            self.press(hand_off.ticks[key])
        with tempfile.TemporaryDirectory() as folder:
            hand_off.leave_all(Path(folder), "Patch")
            self.wait_for(lambda: "3 files handed off" in self.top_words)
            found = read_embroidery((Path(folder) / "Patch.dst").read_bytes(), "dst")
            self.assertEqual(sum(len(points) for _, points in found.runs), before)
            self.assertIn("red", (Path(folder) / "Patch - threads.txt").read_text())
            self.assertTrue(self.session.job.is_handed_off(self.session.job.sheet))
            self.take("rehearse")
            tool = self.tool_of(RehearseTool)
            self.wait_for(lambda: tool.answer is not None)
            assert tool.answer is not None
            self.assertEqual([each.words for each in tool.answer.run.troubles], [])
            own = tool.answer.run.seconds
            self.assertTrue(self.slip_of(RehearseSlip).what.isHidden())  # there is no frame of it
            self.assertAlmostEqual(own, before / 700 * 60, delta=0.3 * own)
            self.window.open_files([Path(folder) / "Patch.dst"])
            self.settle(50)
            tool = self.tool_of(RehearseTool)
            self.wait_for(lambda: tool.answer is not None and tool.file == "Patch.dst")
            self.assertAlmostEqual(tool.answer.run.seconds, own, delta=1e-6)
            short = Path(folder) / "Short.dst"
            short.write_bytes((Path(folder) / "Patch.dst").read_bytes()[:-900])
            self.window.open_files([short])
            self.settle(50)
            self.assertIn("its end is missing", self.top_words)
            short.with_suffix(".pes").write_bytes(b"nonsense")
            self.window.open_files([short.with_suffix(".pes")])
            self.assertIn("no sound .pes file", self.top_words)
        job = self.session.job
        self.session.edit("laser", choose_machine(job, job.sheet.id, "desk-laser"))
        with tempfile.TemporaryDirectory() as folder:
            (Path(folder) / "a.dst").write_bytes(b"x" * 600)
            self.window.open_files([Path(folder) / "a.dst"])
        self.assertIn("choose a stitcher", self.top_words)

    def test_a_board_of_pockets_holes_scores_and_tabs_becomes_a_program(self) -> None:
        self.give("pocket", 4)
        self.assertIn("is open where it has to bound an area", self.top_words)
        self.assertEqual(self.session.job.operations, ())
        self.give("pocket", 2)
        self.keys(Key.Key_Escape, on=self.canvas)  # what was just given is let go
        self.fill(self.slip_of(OperationSlip).asked["diameter"], "6")  # for the next one
        self.assertEqual(
            [
                operation.diameter
                for operation in self.session.job.operations
                if isinstance(operation, Pocket)
            ],
            [3.0],
        )
        self.tool_of(PocketTool).take_in_hand(self.session.job.operations[0])
        self.fill(self.slip_of(OperationSlip).asked["diameter"], "4")  # for this one
        self.assertEqual(
            [
                operation.diameter
                for operation in self.session.job.operations
                if isinstance(operation, Pocket)
            ],
            [4.0],
        )
        self.fill(self.slip_of(OperationSlip).asked["diameter"], "-4")
        self.assertIn("got '-4'", self.top_words)
        self.keys(Key.Key_Escape, on=self.canvas)
        self.give("drill", 3)
        self.give("score", 4)
        self.give("engrave", 1)
        self.take("cut")
        self.fill(self.slip_of(OperationSlip).asked["tabs"], "4")
        self.session.selection.choose({self.ids[0]})
        self.press(self.slip_of(OperationSlip).give)
        self.wait_for(lambda: len(self.session.looked.products) == 1)
        self.settle(200)
        (program,) = self.session.looked.products
        assert isinstance(program, Program)
        self.assertEqual(len(program.operations), 5)
        cut = next(
            operation
            for operation in self.session.job.operations
            if isinstance(operation, CutThrough)
        )
        self.assertEqual(cut.tabs, 4)
        self.assertEqual(
            program.operations[program.operation[-1]], cut.id
        )  # the outline comes last
        self.assertIn("min", self.window.facts.values["Time"].text())
        self.assertEqual(len(self.canvas.worked.lines.runs) > 3, True)

    def test_the_wrong_machine_is_found_and_mended_and_undo_takes_all_of_it_back(self) -> None:
        start = self.session.job
        self.give("engrave", 1)
        self.take("machine")
        self.session.edit("choose the machine", self.session.job)  # no change is no step
        row = next(
            row
            for row in self.slip_of(MachineSlip).findChildren(type(self.slip_of(MachineSlip).copy))
            if row.text().startswith("Plasma")
        )
        self.press(row)
        self.assertEqual(self.session.job.machine_of(self.session.job.sheet).id, "plasma-table")
        self.wait_for(lambda: "unfit" in self.kinds())
        finding = next(
            finding for finding in self.session.looked.findings if finding.kind.startswith("unfit")
        )
        assert finding.mend is not None
        self.session.edit("mend", finding.mend(self.session.job))
        self.assertNotIn("unfit", self.kinds())
        self.fill(self.slip_of(MachineSlip).asked["reach_x"], "100")
        self.give("cut", 0)
        self.wait_for(lambda: "out-of-reach" in self.kinds())
        while self.session.document.history.undo_words:
            self.session.undo()
        self.assertEqual(self.session.job, start)
        self.assertFalse(
            any(isinstance(operation, Engrave) for operation in self.session.job.operations)
        )

    def test_recipes_go_to_a_file_and_back_and_a_coupon_tells_the_cut_width(self) -> None:
        self.take("cut")
        self.fill(self.slip_of(OperationSlip).asked["feed"], "777")
        self.tool_of(CutTool).keep_recipe("Own")
        self.assertEqual([recipe.feed for recipe in self.session.job.recipes], [777.0])
        self.take("machine")
        with tempfile.TemporaryDirectory() as folder:
            for name in ("shed.csv", "shed.json"):
                self.slip_of(MachineSlip).write_recipes(Path(folder) / name)
                before = len(self.session.job.recipes)
                self.slip_of(MachineSlip).read_recipes(Path(folder) / name)
                self.assertIn("taken over", self.top_words)
                self.assertGreaterEqual(len(self.session.job.recipes), before)
            (Path(folder) / "bad.json").write_bytes(b"\xff\xfe nonsense")
            self.slip_of(MachineSlip).read_recipes(Path(folder) / "bad.json")
            self.assertIn("could not be read", self.top_words)
        self.fill(self.slip_of(MachineSlip).gap, "14.3")
        self.assertAlmostEqual(self.session.job.machine_of(self.session.job.sheet).cut_width, 1.43)
        self.session.document.history = self.session.document.history.after_save()
        self.slip_of(MachineSlip)._grid()
        self.assertEqual(self.session.job.name, "Power and feed coupon")
        self.settle(100)
        self.session.document.history = self.session.document.history.after_save()
