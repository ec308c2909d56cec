"""The three demo jobs, from their picture to a sound program through the real window, each with one
mistake that a finding catches and mends."""

from __future__ import annotations

from typing import Any

import bracket
from PyQt6.QtCore import Qt

from draxet.geometry.covariance import Covariance
from draxet.job.findings import Gravity
from draxet.job.operations import CutThrough, Drill, Engrave, Pocket, Score
from draxet.job.picture_records import KnownLength
from draxet.job.program import Program
from draxet.machines.simulated_camera import leaf_stencil
from draxet.trueup.true import set_true_lengths
from draxet.ui.demo import demo_job
from draxet.ui.model.stage import Stage
from draxet.ui.stages.make.machine_slip import MachineSlip
from draxet.ui.stages.make.operations import OperationSlip
from draxet.ui.stages.prove.rehearse_tool import RehearseTool
from draxet.ui.stages.trace.colours_tool import ColoursSlip
from draxet.ui.stages.trace.ink import EdgesSlip
from draxet.ui.stages.trace.text_slip import TextSlip
from draxet.ui.stages.trueup.square_tool import SquareSlip
from tests.ui.driver import WindowTest

Key = Qt.Key


class Made(WindowTest):
    def program(self) -> Program:
        """The one program of the job, once it stands; nothing stops it."""
        self.settle(300)
        self.wait_for(
            lambda: len(self.session.looked.products) == 1 and not self.window.workers.busy()
        )
        self.assertEqual(
            [
                finding.words
                for finding in self.session.looked.findings
                if finding.gravity is Gravity.STOPS
            ],
            [],
        )
        made = self.session.looked.products[0]
        assert isinstance(made, Program)
        return made

    def rehearse(self) -> Any:
        """The rehearsal of what the job writes: nothing goes wrong in it."""
        self.session.open_stage(Stage.PROVE)
        self.take("rehearse")
        self.wait_for(
            lambda: self.tool_of(RehearseTool).answer is not None and not self.window.workers.busy()
        )
        answer = self.tool_of(RehearseTool).answer
        self.assertEqual(
            (
                [trouble.words for trouble in answer.run.troubles],
                answer.found.missing,
                answer.found.uncut,
                answer.held,
            ),
            ([], (), (), ()),
        )
        self.assertLess(answer.found.too_little, 0.06)
        return answer

    def give(self, tool: str, ids: set[str]) -> None:
        self.take(tool)
        self.session.selection.choose(frozenset(ids))
        self.press(self.slip_of(OperationSlip).give)
        self.settle(50)

    def kinds_in_order(self, program: Program) -> list[str]:
        kinds = {
            operation.id: type(operation).__name__ for operation in self.session.job.operations
        }
        return list(
            dict.fromkeys(
                kinds[program.operations[number]]
                for number in program.operation[program.work].tolist()
            )
        )

    def test_the_bracket_is_cut_by_plasma(self) -> None:
        job = demo_job()
        to_pixels, spread = bracket.part_to_pixels(), Covariance(0.25, 0.0, 0.25)
        known = [
            KnownLength(to_pixels.point(*a), to_pixels.point(*b), length, spread, spread)
            for a, b, length in (((0, 0), (240, 0), 240.0), ((0, 0), (0, 264), 264.0))
        ]
        self.session.start(set_true_lengths(job, job.pictures[0].id, known), None)
        self.session.open_stage(Stage.TRACE)
        self.take("edges")
        self.press(self.slip_of(EdgesSlip).asked["middles"].button(True))
        self.settle(200)
        self.press(self.slip_of(EdgesSlip).make)
        self.session.selection.choose(
            {item.id for item in self.session.layout.contours if abs(item.contour.area) < 100}
        )
        self.window.commands["remove"].run()
        self.assertEqual(len(self.session.layout.contours), 5)
        self.session.open_stage(Stage.MAKE)
        self.take("cut")
        self.fill(self.slip_of(OperationSlip).asked["lead"], "6")
        self.fill(self.slip_of(OperationSlip).asked["small"], "24")
        self.session.selection.choose(frozenset())
        self.press(self.slip_of(OperationSlip).give)
        outer = max(self.session.layout.contours, key=lambda item: abs(item.contour.area))
        self.give("engrave", {outer.id})  # the mistake: a torch cannot
        self.mend("unfit-")
        program = self.program()
        self.assertEqual(self.kinds_in_order(program), ["CutThrough"])
        self.assertEqual(program.ids[program.path[program.work][-1]], (outer.id,))
        self.assertEqual(sum(event.what == "pierce" for event in program.events), 5)
        slow = {round(feed) for feed in program.feed[program.work].tolist()}
        self.assertEqual(slow, {2400, 1440})  # the two holes of 22 mm are cut slower
        around = sum(contour.length for contour in bracket.part())
        self.assertAlmostEqual(program.cut_mm, around + 5 * 12, delta=25)
        answer = self.rehearse()
        self.assertEqual((len(answer.run.loose), answer.run.pierces, answer.found.held), (5, 5, 0))
        self.assertLess(answer.found.too_much, 0.6)

    def test_the_leaf_is_made_by_the_laser_its_veins_engraved_and_a_line_scored(self) -> None:
        self.session.start(demo_job("leaf"), None)
        self.window.commands["square"].run()
        self.settle(50)
        self.press(self.slip_of(SquareSlip).lens)
        self.press(self.slip_of(SquareSlip).go)
        self.take("edges")
        self.settle(50)
        menu = self.slip_of(EdgesSlip).preset.menu()
        next(action for action in menu.actions() if action.text().startswith("Shape")).trigger()
        self.settle(300)
        self.press(self.slip_of(EdgesSlip).make)
        plate = max(self.session.layout.contours, key=lambda item: abs(item.contour.area))
        x0, y0, x1, y1 = plate.contour.box
        self.session.selection.choose(
            {
                item.id
                for item in self.session.layout.contours
                if not (x0 <= item.contour.box[0] and item.contour.box[2] <= x1)
            }
        )
        self.window.commands["remove"].run()
        self.assertEqual(len(self.session.layout.contours), 6)
        veins = {
            item.id for item in self.session.layout.contours if 200 < abs(item.contour.area) < 400
        }
        self.assertEqual(len(veins), 2)
        before = {item.id for item in self.session.layout.contours}
        self.take("text")
        hole = min(
            self.session.layout.contours, key=lambda item: abs(item.contour.area)
        ).contour.box
        self.click(float(hole[2]) + 8, float(hole[1]) - 6)
        self.fill(self.slip_of(TextSlip).asked["height"], "6")
        self.slip_of(TextSlip).words.setFocus()
        self.keys(*"Shed 24", on=self.slip_of(TextSlip).words)
        self.keys(Key.Key_Escape, on=self.canvas)
        letters = {item.id for item in self.session.layout.contours} - before
        self.assertGreaterEqual(len(letters), 6)
        self.session.open_stage(Stage.MAKE)
        self.give("cut", before)  # the mistake: the veins would fall out
        self.give("engrave", veins)
        self.give("score", letters)
        self.mend("cut-and-filled-")
        program = self.program()
        self.assertEqual(self.kinds_in_order(program), ["Engrave", "Score", "CutThrough"])
        self.assertEqual(program.ids[program.path[program.work][-1]], (plate.id,))
        self.assertEqual(
            {
                name
                for operation in self.session.job.operations
                if isinstance(operation, Engrave)
                for name in operation.contours
            },
            veins,
        )
        self.assertEqual(
            {
                name
                for operation in self.session.job.operations
                if isinstance(operation, Score)
                for name in operation.contours
            },
            letters,
        )
        truth = sum(contour.length for contour in leaf_stencil())
        cuts = [
            number
            for number, name in enumerate(program.operations)
            if isinstance(
                next(each for each in self.session.job.operations if each.id == name), CutThrough
            )
        ]
        cut = sum(
            length
            for length, number, work in zip(
                program.lengths, program.operation.tolist(), program.work.tolist(), strict=True
            )
            if work and number in cuts
        )
        self.assertAlmostEqual(cut, truth, delta=0.01 * truth)
        answer = self.rehearse()
        self.assertEqual((len(answer.run.loose), answer.parts.count(True)), (4, 1))
        self.assertLess(answer.found.too_much, 0.1)

    def test_the_badge_is_routed_with_pockets_holes_and_tabs(self) -> None:
        job, spread = demo_job("badge"), Covariance(0.25, 0.0, 0.25)
        self.session.start(
            set_true_lengths(
                job,
                job.pictures[0].id,
                [KnownLength((0.0, 100.0), (900.0, 100.0), 90.0, spread, spread)],
            ),
            None,
        )
        self.session.open_stage(Stage.TRACE)
        self.take("colours")
        self.settle(300)
        self.press(self.slip_of(ColoursSlip).make)
        outline = max(self.session.layout.contours, key=lambda item: abs(item.contour.area))
        fields = {item.id for item in self.session.layout.contours if 41 < item.contour.area < 45}
        self.assertEqual(len(fields), 6)
        self.session.selection.choose(
            {item.id for item in self.session.layout.contours} - fields - {outline.id}
        )
        self.window.commands["remove"].run()
        self.take("point")
        x0, y0, x1, y1 = (float(value) for value in outline.contour.box)
        for x in (0.3, 0.7):
            self.click(x0 + x * (x1 - x0), y1 - 6)
        self.assertEqual(len(self.session.job.points), 2)
        self.session.open_stage(Stage.MAKE)
        self.take("pocket")
        self.fill(self.slip_of(OperationSlip).asked["diameter"], "2")
        self.press(self.slip_of(OperationSlip).asked["enter"].button("helix"))
        self.give("pocket", fields)
        self.take("drill")
        self.press(self.slip_of(OperationSlip).asked["at_points"])
        self.session.selection.choose(frozenset())
        self.press(self.slip_of(OperationSlip).give)
        self.take("cut")
        self.fill(self.slip_of(OperationSlip).asked["width"], "3.175")
        self.fill(self.slip_of(OperationSlip).asked["passes"], "2")
        self.fill(self.slip_of(OperationSlip).asked["tabs"], "4")
        self.fill(self.slip_of(OperationSlip).asked["tab_height"], "1")
        self.give("cut", {outline.id})
        self.take("order")
        self.click(*self.on(outline.contour.nodes[0]))
        field = self.session.layout.contour_by_id[min(fields)]
        self.click(*self.on(field.contour.nodes[0]))
        self.keys(Key.Key_Return, on=self.canvas)
        self.assertEqual(len(self.session.job.orders), 1)
        program = self.program()
        self.assertEqual(
            self.kinds_in_order(program), ["Drill", "Pocket", "CutThrough"]
        )  # by hand, but pockets go before cuts
        self.take("machine")
        self.session.selection.choose({min(fields)})
        self.press(self.slip_of(MachineSlip).parts.keep)
        self.wait_for(
            lambda: self.found("keep-clear") is not None
        )  # the mistake: a clamp in the midst of the badge
        self.session.undo()
        self.wait_for(lambda: self.found("keep-clear") is None)
        program = self.program()
        self.assertEqual(
            {type(operation) for operation in self.session.job.operations},
            {Pocket, Drill, CutThrough},
        )
        self.assertEqual(
            sorted(
                round(float(event.value), 3) for event in program.events if event.what == "cutter"
            ),
            [2.0, 3.0, 3.175],
        )
        self.assertEqual(round(float(program.depth.max()), 6), 3.0)
        answer = self.rehearse()
        self.assertEqual(
            (answer.run.loose, answer.found.held, len(answer.run.cutters)), ((), 1, 3)
        )  # the tabs hold it

    def on(self, place: object) -> tuple[float, float]:
        x, y = place.tolist()  # type: ignore[attr-defined]
        return float(x), float(y)
