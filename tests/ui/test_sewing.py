"""From a picture to thread through the real window: a badge as a patch, and a heart drawn by hand that
is filled as it closes, each with mistakes that are found and mended."""

from __future__ import annotations

import tempfile
from dataclasses import replace
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pyembroidery
import shapely
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QPushButton

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.findings import Gravity
from draxet.job.operating import add_operation, choose_machine
from draxet.job.operations import Stitch
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.make.stitching.stitch_manner import portions
from draxet.make.stitching.stitched_sheet import StitchedSheet
from draxet.ui.demo import demo_job
from draxet.ui.model.stage import Stage
from draxet.ui.model.tool import LineMark
from draxet.ui.stages.make.colourings_page import ColouringsPage
from draxet.ui.stages.make.machine_slip import MachineSlip
from draxet.ui.stages.make.operations import OperationSlip
from draxet.ui.stages.make.spot_tool import SpotSlip
from draxet.ui.stages.make.threads_menu import take_threads
from draxet.ui.stages.prove.hand_off import HandOffSlip
from draxet.ui.stages.prove.rehearse_tool import RehearseTool
from draxet.ui.stages.trace.colours_tool import ColoursSlip
from draxet.ui.stages.trace.text_slip import TextSlip
from tests.ui.driver import WindowTest

Key = Qt.Key


class Sewing(WindowTest):
    def sewn(self) -> StitchedSheet:
        """What is sewn, once it stands."""
        self.settle(300)
        self.wait_for(lambda: not self.window.workers.busy())
        (made,) = self.session.looked.products
        assert isinstance(made, StitchedSheet)
        return made

    def stops(self) -> list[str]:
        found = self.session.looked.findings
        return [each.words for each in found if each.gravity is Gravity.STOPS]

    def test_the_badge_becomes_a_patch_of_three_threads_in_its_hoop(self) -> None:
        self.session.start(demo_job("patch"), None)
        self.session.open_stage(Stage.TRACE)
        self.take("colours")
        self.wait_for(lambda: self.slip_of(ColoursSlip).make.isEnabled())
        self.press(self.slip_of(ColoursSlip).make)
        plan = self.sewn().plan
        self.assertEqual(
            len(self.session.job.operations[0].contours), len(self.session.job.contours)
        )
        self.assertTrue(self.canvas.programs.paths.work)  # it is seen as it closes, in Trace
        self.assertEqual(sorted(set(plan.thread_names)), ["navy", "scarlet", "straw"])
        self.assertLessEqual(len(plan.colours), 4)
        self.session.undo()
        self.assertEqual(self.session.job.operations[0].contours, ())
        self.session.redo()
        self.assertEqual(len(self.sewn().plan), len(plan))
        self.take("machine")
        slip = self.slip_of(MachineSlip)
        self.fill(slip.asked["hoop_x"], "60")  # too small
        self.sewn()
        self.assertTrue(any("too large for it" in words for words in self.stops()), self.stops())
        self.fill(slip.asked["hoop_x"], "75")
        self.fill(slip.asked["hoop_y"], "60")
        self.mend("stitches-beyond")  # the hoop is put over it
        machine: object = self.session.job.machine_of(self.session.job.sheet)
        self.assertGreater(machine.at_x, 40)  # type: ignore[attr-defined]
        self.sewn()
        self.assertEqual(self.stops(), [])
        self.take("rehearse")
        self.wait_for(lambda: self.tool_of(RehearseTool).answer is not None)
        answer = self.tool_of(RehearseTool).answer
        assert answer is not None
        self.assertEqual([each.words for each in answer.run.troubles], [])
        self.take("hand-off")
        for key in ("dxf", "stitches-dst", "stitches-pes"):
            self.press(self.slip_of(HandOffSlip).ticks[key])
        with tempfile.TemporaryDirectory() as folder:
            self.slip_of(HandOffSlip).leave_all(Path(folder), "Patch")
            self.wait_for(lambda: "handed off" in self.top_words)
            for ending, colours in (("dst", 0), ("pes", len(plan.colours))):
                pattern = pyembroidery.read(str(Path(folder) / f"Patch.{ending}"))
                assert pattern is not None
                kinds = [each[2] & pyembroidery.COMMAND_MASK for each in pattern.stitches]
                self.assertEqual(kinds.count(pyembroidery.STITCH), len(plan))
                self.assertEqual(kinds.count(pyembroidery.COLOR_CHANGE), len(plan.colours) - 1)
                self.assertEqual(len(pattern.threadlist) if colours else 0, colours)
                sewn = np.array(pattern.stitches)[np.array(kinds) == pyembroidery.STITCH, :2] / 10
                np.testing.assert_allclose(np.ptp(sewn, axis=0), (64.6, 50.6), atol=0.6)

    def test_a_heart_drawn_over_a_pale_picture_is_filled_as_it_closes(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            pale = np.full((800, 1000), 236, np.uint8)
            cv2.circle(pale, (400, 300), 150, 222, 3)
            cv2.imwrite(f"{folder}/Heart.png", pale)
            sheet = Sheet(width=180, height=130, material="cloth", machine="bench-stitcher")
            self.session.start(Job("Heart", sheets=(sheet,)), None)
            self.window.open_files([Path(folder) / "Heart.png"])
            self.wait_for(lambda: len(self.session.job.pictures) == 1)
        self.take("stitch")
        slip = self.slip_of(OperationSlip)
        self.assertFalse(slip.give.isEnabled())  # there is nothing to be stitched yet
        self.press(slip.asked["takes"])
        self.assertEqual(slip.give.text(), "Stitch what closes next")
        self.press(slip.give)
        self.assertTrue(self.session.job.operations[0].takes)
        self.session.open_stage(Stage.TRACE)
        self.take("draw")
        self.type_over("l")
        heart = [(90, 30), (120, 60), (110, 80), (90, 70), (70, 80), (60, 60)]
        for place in heart:
            self.click(*place)
        self.keys(Key.Key_Escape, on=self.canvas)  # it was left open
        self.settle(50)
        self.assertEqual(self.session.job.operations[0].contours, ())
        self.assertEqual(len(self.session.job.opened), 1)
        self.session.undo()
        self.take("draw")
        self.type_over("l")
        for place in (*heart, heart[0]):
            self.click(*place)
        (area,) = [thing for thing in self.sewn().plan.things if thing.is_area]
        self.assertTrue(self.canvas.programs.paths.work)
        self.assertAlmostEqual(shapely.area(area.shape), 1700, delta=60)
        self.session.undo()
        self.settle(50)
        self.assertEqual(
            (self.session.job.contours, self.session.job.operations[0].contours), ((), ())
        )
        self.session.redo()
        self.assertGreater(len(self.sewn()), 1000)

    def test_a_corner_is_capped_and_mitred_in_the_slip_and_turns_again_when_taken_back(
        self,
    ) -> None:
        sheet = Sheet(width=120, height=80, material="cloth", machine="bench-stitcher")
        limbs = Contour.make([(10, 10), (15, 10), (15, 40), (45, 40), (45, 45), (10, 45)])
        self.session.start(add_contours(Job(sheets=(sheet,)), [limbs]), None)
        self.take("stitch")
        slip = self.slip_of(OperationSlip)
        self.press(slip.give)
        turned = self.sewn()
        tip = shapely.box(10.3, 40.3, 14.7, 44.7)

        def over_the_tip() -> int:
            """Stitches whose middle lies where the limbs meet."""
            (block,) = self.sewn().plan.blocks
            return sum(
                tip.contains(shapely.Point(each))
                for each in (block.points[1:] + block.points[:-1]) / 2
            )

        counts = {"turned": over_the_tip()}
        for how in ("capped", "mitred"):
            self.press(slip.asked["corners"].button(how))
            stitch: Any = self.session.job.operations[0]
            self.assertEqual(stitch.corners, how)
            counts[how] = over_the_tip()
            self.assertFalse(self.session.looked.findings)
        self.assertEqual(len(set(counts.values())), 3, counts)
        self.session.undo()
        self.session.undo()
        np.testing.assert_array_equal(
            self.sewn().plan.blocks[0].points, turned.plan.blocks[0].points
        )
        self.press(slip.asked["way"].button("run"))
        self.assertTrue(slip.asked["corners"].isHidden() or not slip.asked["corners"].isVisible())

    def test_satin_too_broad_is_told_and_mended_and_a_border_comes_over_the_edge(self) -> None:
        sheet = Sheet(width=180, height=130, material="cloth", machine="bench-stitcher")
        bar = Contour.make([(20, 20), (90, 20), (90, 26), (20, 26)])
        job = add_contours(Job(sheets=(sheet,)), [bar, Contour.circle(90, 80, 22)])
        self.session.start(job, None)
        self.take("stitch")
        slip = self.slip_of(OperationSlip)
        self.press(slip.give)
        self.assertEqual([bool(each) for each in self.columns()], [False, True])
        self.press(slip.asked["way"].button("satin"))  # all of it in satin
        self.sewn()
        found = self.found("stitches-broad")
        assert found is not None
        self.assertEqual(len(found.ids), 1)
        self.mend("stitches-broad")
        self.assertEqual([bool(each) for each in self.columns()], [False, True])
        self.assertIsNone(self.found("stitches-broad"))
        before = self.session.job
        self.take("stitch")
        self.click(112, 80)
        self.assertEqual(len(self.session.selection.ids), 1)
        self.press(self.slip_of(OperationSlip).asked["way"].button("border"))
        self.press(self.slip_of(OperationSlip).give)
        plan = self.sewn().plan
        self.assertEqual([len(each.contours) for each in self.session.job.operations], [2, 1])
        self.assertEqual(len(plan.things), 3)
        areas = sorted(round(shapely.area(each.shape)) for each in plan.things)
        self.assertAlmostEqual(areas[0], 2 * np.pi * 22 * 3, delta=8)  # 3 mm all round
        while self.session.job != before:
            self.session.undo()
        self.assertEqual(len(self.sewn().plan.things), 2)

    def test_satin_is_led_by_a_line_dragged_across_and_one_that_misses_is_refused(self) -> None:
        sheet = Sheet(width=180, height=130, material="cloth", machine="bench-stitcher")
        bar = Contour.make([(20, 60), (140, 60), (140, 65), (20, 65)])
        self.session.start(add_contours(Job(sheets=(sheet,)), [bar]), None)
        self.take("stitch")
        self.press(self.slip_of(OperationSlip).asked["way"].button("satin"))
        self.press(self.slip_of(OperationSlip).give)
        self.sewn()
        before, alt = self.session.job, Qt.KeyboardModifier.AltModifier
        self.drag((20, 90), (60, 100), held=alt)
        self.assertEqual(self.session.job, before)
        self.assertIn("across what is sewn", self.top_words)
        self.drag((78, 58), (85, 67), held=alt)
        one, other = self.session.job.operations[0].spots
        self.assertEqual((one.what, one.pair), ("across", other.pair))
        runs = [block.points for block in self.sewn().plan.blocks]
        ways = np.vstack([np.diff(run, axis=0)[np.abs(run[1:, 0] - 81.5) < 2] for run in runs])
        ways = ways[np.hypot(*ways.T) > 4]
        self.assertAlmostEqual(
            float(np.median(np.degrees(np.arctan2(ways[:, 1], ways[:, 0])) % 180)), 52, delta=5
        )
        self.assertTrue(any(isinstance(mark, LineMark) for mark in self.session.tool.marks()))
        self.session.undo()
        self.assertEqual(self.session.job, before)

    def test_a_word_is_written_sewn_rehearsed_and_leaves_in_three_kinds_of_files(self) -> None:
        sheet = Sheet(width=180, height=130, material="cloth", machine="bench-stitcher")
        self.session.start(Job("Name", sheets=(sheet,)), None)
        self.take("text")
        self.click(20, 60)
        words = self.slip_of(TextSlip).words
        words.setFocus()
        self.keys(*"BRINDLECOTE", on=words)
        self.fill(self.slip_of(TextSlip).asked["height"], "12")
        self.take("stitch")
        self.press(self.slip_of(OperationSlip).give)
        plan = self.sewn().plan
        self.assertEqual(len(plan.things), 11)
        self.assertTrue(all(self.columns()))  # of each letter
        self.assertLessEqual(plan.trims, 10)
        self.take("rehearse")
        self.wait_for(lambda: self.tool_of(RehearseTool).answer is not None)
        answer = self.tool_of(RehearseTool).answer
        assert answer is not None
        self.assertEqual([each.words for each in answer.run.troubles], [])
        self.assertGreater(answer.run.seconds, 60)
        self.take("hand-off")
        for key in ("dxf", "stitches-dst", "stitches-pes", "stitches-vp3"):
            self.press(self.slip_of(HandOffSlip).ticks[key])
        with tempfile.TemporaryDirectory() as folder:
            self.slip_of(HandOffSlip).leave_all(Path(folder), "Name")
            self.wait_for(lambda: "handed off" in self.top_words)
            for ending in ("dst", "pes", "vp3"):
                pattern = pyembroidery.read(str(Path(folder) / f"Name.{ending}"))
                assert pattern is not None
                kinds = [each[2] & pyembroidery.COMMAND_MASK for each in pattern.stitches]
                self.assertEqual(kinds.count(pyembroidery.STITCH), len(plan), ending)

    def test_satin_goes_between_two_lines_drawn_by_hand_and_one_alone_is_told(self) -> None:
        sheet = Sheet(width=180, height=130, material="cloth", machine="bench-stitcher")
        self.session.start(Job("Ribbon", sheets=(sheet,)), None)
        self.take("draw")
        self.type_over("l")
        for line in ([(30, 60), (80, 70), (130, 60)], [(130, 66), (80, 75), (30, 65)]):
            for place in line:
                self.click(*place)
            self.keys(Key.Key_Escape, on=self.canvas)
        self.assertEqual(len(self.session.job.contours), 2)
        self.keys(Key.Key_Escape, on=self.canvas)
        self.take("stitch")
        self.press(self.slip_of(OperationSlip).asked["way"].button("between"))
        self.click(80, 70)  # one only
        self.press(self.slip_of(OperationSlip).give)
        plan = self.sewn().plan
        self.assertEqual([thing.is_area for thing in plan.things], [False])
        self.session.undo()
        self.keys(Key.Key_Escape, on=self.canvas)
        self.take("stitch")
        self.press(self.slip_of(OperationSlip).asked["way"].button("between"))
        self.press(self.slip_of(OperationSlip).give)
        (thing,) = self.sewn().plan.things
        self.assertTrue(thing.is_area)
        self.assertAlmostEqual(shapely.area(thing.shape), 545, delta=30)
        sewn = shapely.MultiLineString([block.points for block in self.sewn().plan.blocks])
        self.assertGreater(
            shapely.area(shapely.buffer(sewn, 0.25).intersection(thing.shape)),
            0.97 * shapely.area(thing.shape),
        )

    def test_a_photo_is_not_sewn_as_it_is_and_areas_of_its_colours_are_offered(self) -> None:
        job = demo_job("patch")
        self.session.start(replace(job, operations=()), None)
        self.take("stitch")
        slip = self.slip_of(OperationSlip)
        self.assertFalse(slip.give.isEnabled())
        self.assertIn("A picture is not sewn as it is", slip.foot.words.text())
        self.press(
            next(b for b in slip.findChildren(QPushButton) if b.text() == "Trace its colours")
        )
        self.wait_for(lambda: isinstance(self.slip, ColoursSlip))

    def test_four_colourings_stand_beside_each_other_and_one_taken_is_a_step(self) -> None:
        plates = [Contour.circle(90, 65, 40), Contour.circle(90, 65, 15)]
        sheet = Sheet(width=180, height=130, material="cloth", machine="bench-stitcher")
        job = add_contours(Job(sheets=(sheet,)), plates, colours=["#1e3550", "#e0bd5c"])
        self.session.start(job, None)
        self.take("stitch")
        self.press(self.slip_of(OperationSlip).give)
        self.sewn()
        page = self.colourings()
        before = self.session.job
        self.assertEqual(len({panel.facts.text() for panel in page.panels}), 1)
        pictures = [panel.picture.image for panel in page.panels]
        self.assertEqual(len({bytes(image.bits().asstring(100_000)) for image in pictures}), 4)
        panel = page.panels[2]
        menu = panel.swatches[0].menu()
        assert menu is not None
        next(act for act in menu.actions() if act.text() == "rose").trigger()
        self.wait_for(lambda: not self.window.workers.busy())
        self.press(panel.take)
        self.assertIn("#d9607e", [item.colour for item in self.session.job.contours])
        self.assertEqual(self.session.job.sheet.colour, panel.colouring.cloth)
        self.session.undo()
        self.assertEqual(self.session.job, before)
        again = self.colourings()
        self.session.undo()  # what they were made of is no more
        self.wait_for(lambda: not again.isVisible())

    def test_a_sheet_without_stitches_offers_no_colourings_of_another_one(self) -> None:
        sheets = [
            Sheet(f"sheet-{k}", f"Sheet {k}", 100, 100, machine="bench-stitcher", x=150 * k)
            for k in range(2)
        ]
        job = add_contours(Job(sheets=tuple(sheets)), [Contour.circle(50, 50, 20)])
        job = add_operation(job, Stitch(contours=(job.contours[0].id,)))
        for sheet, is_sewn in (("sheet-0", True), ("sheet-1", False)):
            self.session.start(replace(job, sheet_id=sheet), None)
            self.take("stitch")
            self.wait_for(lambda: bool(self.session.looked.products))
            self.settle(50)
            buttons = self.slip_of(OperationSlip).findChildren(QPushButton)
            button = next(b for b in buttons if b.text() == "Colourings …")
            self.assertEqual(button.isEnabled(), is_sewn)

    def colourings(self) -> ColouringsPage:
        """The page of colourings, once all are sewn."""
        slip = self.slip_of(OperationSlip)
        self.press(next(b for b in slip.findChildren(QPushButton) if b.text() == "Colourings …"))
        page = self.window.findChildren(ColouringsPage)[-1]
        self.wait_for(lambda: all(panel.sewn.value is not None for panel in page.panels))
        return page

    def columns(self) -> list[int]:
        """Of each area in the order of the list how many columns it is sewn in."""
        things = [thing for thing in self.sewn().plan.things if thing.is_area]
        things.sort(key=lambda thing: -shapely.area(thing.shape))
        return [
            sum(len(each.columns) for each in portions(thing.shape, thing.fill)) for thing in things
        ]

    def test_an_open_area_that_is_to_be_filled_is_told_at_its_leak_and_mended(self) -> None:
        leaky = Contour.make([(20, 20), (90, 20), (90, 80), (20, 80), (20, 23)], closed=False)
        sheet = Sheet(width=180, height=130, material="cloth", machine="bench-stitcher")
        self.session.start(add_contours(Job(sheets=(sheet,)), [leaky]), None)
        self.take("stitch")
        self.press(self.slip_of(OperationSlip).give)
        self.sewn()
        found = self.found("stitches-leak")
        assert found is not None
        self.assertEqual([round(at) for at in found.places[0]], [20, 22])
        self.mend("stitches-leak")
        self.assertTrue(self.sewn().plan.things[0].is_area)
        self.session.undo()
        self.wait_for(lambda: self.found("stitches-leak") is not None)

    def test_starts_ends_and_threads_are_put_by_hand_and_refused_where_they_cannot_be(self) -> None:
        plates = [
            Contour.make([(20, 20), (90, 20), (90, 80), (20, 80)]),
            Contour.circle(130, 50, 20),
        ]
        sheet = Sheet(width=180, height=130, material="cloth", machine="bench-stitcher")
        self.session.start(add_contours(Job(sheets=(sheet,)), plates), None)
        self.take("spots")
        self.assertIn("nothing is cut through or sewn yet", self.top_words)
        self.take("stitch")
        self.session.selection.choose(frozenset({"contour-1"}))
        self.press(self.slip_of(OperationSlip).give)
        self.take("spots")
        self.press(self.slip_of(SpotSlip).asked["click"].button("end"))
        self.click(55, 80)
        self.press(self.slip_of(SpotSlip).asked["click"].button("start"))
        self.click(20, 50)
        self.click(130, 70)  # which is not sewn
        self.assertIn("neither beginning nor tabs", self.top_words)
        self.press(self.slip_of(SpotSlip).asked["click"].button("tab"))
        self.click(55, 20)
        self.assertIn("not cut through", self.top_words)
        points = self.sewn().plan.blocks[0].points
        self.assertLess(float(np.hypot(*(points[0] - (20, 50)))), 1.0)
        self.session.undo()
        (spot,) = self.session.job.operations[0].spots
        self.assertEqual(spot.what, "end")
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "mine.csv"
            path.write_text("name,colour\nglow,#22ee22\n")
            take_threads(self.session, path)
            self.assertEqual(self.sewn().plan.thread_names, ["glow"])
            self.assertIn("1 thread taken over", self.top_words)
            path.write_text("nonsense\nmore\n")
            take_threads(self.session, path)
            self.assertIn("a colour like #cf4a3c", self.top_words)
            take_threads(self.session, Path(folder) / "none.csv")
            self.assertIn("could not be read", self.top_words)
        self.session.undo()
        self.assertEqual(self.session.job.threads, ())
        self.session.edit("cut", choose_machine(self.session.job, "sheet-0", "plasma-table"))
        self.settle(50)
        stitches = [each for each in self.session.job.operations if isinstance(each, Stitch)]
        self.assertEqual(len(stitches), 1)
