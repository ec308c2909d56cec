"""Rehearse, by the mouse and the keys: what the job would write is played, stepped through and
scrubbed; a file that is dropped is played as it is."""

from __future__ import annotations

import contextlib
import io
import re
import tempfile
import threading
from dataclasses import replace
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np
import pypdfium2
from PIL import Image
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from draxet.cli.commands import run
from draxet.formats.dxf import DXF
from draxet.formats.paper import read_pages
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.file import read_job, save_job
from draxet.job.operating import add_operation, choose_machine, set_operation
from draxet.job.operations import Draw, Side
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.job.sides import runs_of, side_of
from draxet.leaving import LEAVING_KINDS, leave
from draxet.leaving.leaving_kind import Leaving, LeftTogether
from draxet.leaving.run_files import PROGRAM
from draxet.machines.controller import read_program
from draxet.make.cutting_through import give_cut
from draxet.make.program_making import program_of
from draxet.prove.program_file import program_text, rehearsed
from draxet.ui.canvas.played import place_at
from draxet.ui.model.stage import Stage
from draxet.ui.shell.signoffs import sign_offs
from draxet.ui.stages.make.operations import OperationSlip
from draxet.ui.stages.prove.hand_off import HandOffSlip
from draxet.ui.stages.prove.rehearse_slip import RehearseSlip
from draxet.ui.stages.prove.rehearse_tool import RehearseTool
from tests.leaving.test_leaving import plan_kind
from tests.ui.driver import WindowTest

Key = Qt.Key


class RehearseTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        job = add_contours(
            Job("Plate", sheets=(Sheet(width=300, height=200),)),
            [
                Contour.make([(50, 50), (250, 50), (250, 150), (50, 150)]),
                Contour.circle(100, 100, 20),
                Contour.circle(200, 100, 15),
            ],
        )
        self.session.start(give_cut(job, [item.id for item in job.contours], 1.5, 1500), None)
        self.session.open_stage(Stage.PROVE)
        self.take("rehearse")
        self.wait_for(lambda: self.tool_of(RehearseTool).answer is not None)

    def text(self) -> str:
        job = self.session.job
        (run,) = runs_of(job)
        return program_text(
            job, run, program_of(side_of(job, run), run.sheet, job.machine_of(run.sheet))
        )

    def test_it_waits_where_an_operation_begins_with_a_stop(self) -> None:
        job = self.session.job
        last: Any = job.operations[-1]
        self.session.edit("stop", set_operation(job, replace(last, stop="Shade down")))
        self.wait_for(
            lambda: bool(
                self.tool_of(RehearseTool).answer and self.tool_of(RehearseTool).answer.run.stops
            )
        )
        slip, tool = self.slip_of(RehearseSlip), self.tool_of(RehearseTool)
        ((seconds, _),) = tool.answer.run.stops
        slip.speed.button("200").click()
        self.keys(Key.Key_Return, on=self.canvas)
        self.wait_for(lambda: "The machine waits: Shade down" in self.top_words)
        self.assertEqual((tool.seconds, slip.play.text()), (seconds, "Play"))
        self.press(slip.play)
        self.wait_for(lambda: tool.seconds >= tool.answer.run.seconds)
        self.press(slip.stops.findChildren(QPushButton)[0])
        self.assertEqual(tool.seconds, seconds)

    def test_a_pen_is_played_in_the_very_language_that_leaves(self) -> None:
        drawn = [Contour.make([(50, 50), (250, 50), (250, 150), (50, 150)])]
        job = choose_machine(add_contours(Job("Plan"), drawn), "sheet-0", "pen-plotter")
        job = add_operation(job, Draw(contours=("contour-1",)))
        self.session.start(job, None)
        self.session.open_stage(Stage.PROVE)
        self.take("rehearse")
        self.wait_for(lambda: self.tool_of(RehearseTool).answer is not None)
        played = self.tool_of(RehearseTool).answer.run.steps.lines
        with tempfile.TemporaryDirectory() as folder:
            leave(Leaving(self.session.job, runs_of(job)[0]), [PROGRAM], Path(folder), "Plan")
            self.assertEqual((Path(folder) / "Plan.plt").read_text().split(), list(played))

    def test_it_is_played_stepped_and_scrubbed(self) -> None:
        tool = self.tool_of(RehearseTool)
        run = tool.answer.run
        self.assertEqual((len(run.loose), tool.answer.parts), (3, (False, False, True)))
        self.assertIn(
            "Nothing: it can run",
            self.slip_of(RehearseSlip)
            .findings.findChildren(type(self.slip_of(RehearseSlip).about))[0]
            .text(),
        )
        for k in range(3):
            self.press(self.slip_of(RehearseSlip).later)
            last = max(i for i, number in enumerate(run.run.tolist()) if number == k)
            self.assertAlmostEqual(tool.seconds, float(run.ends[last]), places=6)
        self.press(self.slip_of(RehearseSlip).earlier)
        self.press(self.slip_of(RehearseSlip).by.button("part"))
        self.press(self.slip_of(RehearseSlip).earlier)
        self.press(self.slip_of(RehearseSlip).by.button("move"))
        before = tool.seconds
        self.press(self.slip_of(RehearseSlip).later)
        self.assertGreater(tool.seconds, before)
        line = self.slip_of(RehearseSlip).time
        QTest.mouseClick(line, Qt.MouseButton.LeftButton, pos=QPoint(line.width() // 2, 12))
        self.assertAlmostEqual(tool.seconds, run.seconds / 2, delta=0.01 * run.seconds)
        self.assertIn("cut through\n3 Cut outlines: ", line.words_at(line.width() // 2))
        self.assertIn("0.0 s · line", line.words_at(0))
        self.assertIn("travel", line.words_at(0))
        self.press(self.slip_of(RehearseSlip).much)
        self.assertAlmostEqual(tool.seconds, run.seconds, places=6)
        self.keys(Key.Key_End, on=line)
        self.keys(Key.Key_Left, on=line)
        self.assertAlmostEqual(tool.seconds, 0.99 * run.seconds, places=3)
        self.click(150, 150.75)  # on the upper side
        x, y = self.tool_of(RehearseTool).there.inverse().point(150, 150.75)
        self.assertLess(
            max(abs(a - b) for a, b in zip(place_at(run, tool.seconds), (x, y), strict=True)), 1.0
        )
        self.slip_of(RehearseSlip).speed.button("200").click()
        self.keys(Key.Key_Return, on=self.canvas)
        self.wait_for(lambda: self.tool_of(RehearseTool).seconds >= run.seconds)
        self.assertEqual(self.slip_of(RehearseSlip).play.text(), "Play")
        self.settle(50)

    def test_it_follows_the_job_and_plays_each_side(self) -> None:
        job = self.session.job
        openings = next(operation for operation in job.operations if operation.side is Side.INSIDE)
        changed = replace(
            job,
            operations=tuple(
                replace(each, back=True) if each.id == openings.id else each
                for each in job.operations
            ),
        )
        self.session.edit("from the back", changed)
        self.wait_for(lambda: len(self.tool_of(RehearseTool).answer.run.loose) == 1)
        self.press(self.slip_of(RehearseSlip).side.button("back"))
        self.wait_for(lambda: len(self.tool_of(RehearseTool).answer.run.loose) == 2)
        self.session.undo()
        self.session.edit("another", choose_machine(self.session.job, "sheet-0", "gantry-router"))
        self.settle(200)

    def test_a_file_that_is_dropped_is_played_and_its_mistakes_are_shown(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "plate.nc"
            path.write_text(re.sub(r" F\d+", "", self.text()).replace("M30", "M30\nG1 X1"))
            self.session.open_stage(Stage.GATHER)
            self.window.open_files([path])
            self.wait_for(
                lambda: (
                    getattr(self.session.tool, "file", "") == "plate.nc"
                    and self.tool_of(RehearseTool).answer is not None
                )
            )
            self.assertIs(self.session.desk.stage, Stage.PROVE)
            found = {finding.kind for finding in self.slip_of(RehearseSlip).findings.shown}
            self.assertEqual(found, {"no-feed", "unreadable"})
            self.press(
                next(
                    each
                    for each in self.slip_of(RehearseSlip).findings.findChildren(
                        type(self.slip_of(RehearseSlip).play)
                    )
                    if each.text() == "Show"
                )
            )
            path.write_bytes(bytes(range(256)) * 40)
            self.slip_of(RehearseSlip).open_file(path)
            self.settle(300)
            self.slip_of(RehearseSlip).open_file(Path(folder) / "gone.nc")
            self.assertIn("could not be read", self.top_words)
        self.press(
            next(
                each
                for each in self.slip_of(RehearseSlip).findChildren(
                    type(self.slip_of(RehearseSlip).play)
                )
                if each.text() == "What the job writes"
            )
        )
        self.wait_for(lambda: len(self.tool_of(RehearseTool).answer.run.loose) == 3)

    def test_the_frame_is_played_in_place_of_the_work(self) -> None:
        self.press(self.slip_of(RehearseSlip).what.button("frame"))
        self.wait_for(lambda: self.tool_of(RehearseTool).answer.run.cut_mm == 0)
        self.assertEqual(
            (
                self.tool_of(RehearseTool).answer.run.troubles,
                self.tool_of(RehearseTool).answer.found,
            ),
            ((), None),
        )
        self.press(self.slip_of(RehearseSlip).what.button("work"))
        self.wait_for(lambda: len(self.tool_of(RehearseTool).answer.run.loose) == 3)

    def test_what_is_left_of_a_run_that_was_broken_off_is_written(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "rest.nc"
            self.press(self.slip_of(RehearseSlip).later)
            self.slip_of(RehearseSlip).write_resumed(path)
            self.assertIn("rest.nc: 2 lines of work left", self.top_words)
            self.slip_of(RehearseSlip).open_file(path)
            self.wait_for(
                lambda: (
                    self.tool_of(RehearseTool).file == "rest.nc"
                    and self.tool_of(RehearseTool).answer.run.pierces == 2
                )
            )
            self.tool_of(RehearseTool).go(1e9)
            self.slip_of(RehearseSlip).write_resumed(path)
            self.assertIn("Nothing is worked from there on", self.top_words)

    def test_another_job_in_the_midst_of_playing_ends_it(self) -> None:
        self.press(self.slip_of(RehearseSlip).play)
        self.session.document.history = self.session.document.history.after_save()
        self.session.start(Job(), None)
        self.settle(150)
        self.session.open_stage(Stage.PROVE)
        self.take("rehearse")
        self.settle(100)
        self.assertIn("nothing to play yet", self.top_words)
        self.assertFalse(self.slip_of(RehearseSlip).play.isEnabled())


class LeavingTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        job = add_contours(
            Job("Plate", sheets=(Sheet(width=300, height=200),)),
            [
                Contour.make([(50, 50), (250, 50), (250, 150), (50, 150)]),
                Contour.circle(100, 100, 20),
            ],
        )
        self.session.start(give_cut(job, [item.id for item in job.contours], 1.5, 1500), None)
        self.session.open_stage(Stage.PROVE)
        self.settle(100)

    def test_everything_that_is_ticked_leaves_and_is_read_back(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            for box in self.slip_of(HandOffSlip).ticks.values():
                if not box.isChecked():
                    box.click()
            self.fill(self.slip_of(HandOffSlip).control("dpi"), "100")
            self.press(self.slip_of(HandOffSlip).control("frame").button("sheet"))
            self.slip_of(HandOffSlip).leave_all(folder, "Plate")
            self.wait_for(lambda: "10 files handed off" in self.top_words)
            names = {path.name for path in folder.iterdir()}
            machine = self.session.job.machine_of(self.session.job.sheet)
            offered = [kind for kind in LEAVING_KINDS if kind.offered(machine)]
            self.assertEqual(names, {f"Plate{kind.ending}" for kind in offered})
            with Image.open(folder / "Plate - picture.png") as picture:
                self.assertEqual(picture.size, (1181, 787))
            pages = read_pages(folder / "Plate - true size.pdf")
            self.assertAlmostEqual(pages[0][0], 320, delta=0.1)
            self.assertEqual(len(read_pages(folder / "Plate - A4 pages.pdf")), 3)
            self.assertIn(
                "[ ] Ground on the sheet", (folder / "Plate - before it runs.txt").read_text()
            )
            self.assertEqual(
                rehearsed(
                    (folder / "Plate.nc").read_text(),
                    runs_of(self.session.job)[0],
                    self.session.job,
                ).troubles,
                (),
            )
            self.assertIn("frame", " ".join(layer.name for layer in DXF.read(folder / "Plate.dxf")))
            self.assertTrue(self.session.job.is_handed_off(self.session.job.sheet))
            self.session.edit(
                "wider",
                choose_machine(
                    replace(self.session.job, sheets=(replace(self.session.job.sheet, width=400),)),
                    "sheet-0",
                    "plasma-table",
                ),
            )
            self.assertFalse(self.session.job.is_handed_off(self.session.job.sheet))

    def test_of_a_hand_saw_its_pattern_leaves_and_nothing_that_a_machine_would_run(self) -> None:
        job = self.session.job
        self.session.edit("saw", choose_machine(job, job.sheet.id, "hand-saw"))
        slip = self.slip_of(HandOffSlip)
        for box in slip.ticks.values():
            if not box.isChecked():
                box.click()
        self.assertTrue(slip.ticks["program"].isHidden() and not slip.ticks["pattern"].isHidden())
        with tempfile.TemporaryDirectory() as folder:
            slip.leave_all(Path(folder), "Plate")
            self.wait_for(lambda: "files handed off" in self.top_words)
            names = {path.name for path in Path(folder).iterdir()}
            self.assertIn("Plate - saw pattern.pdf", names)
            self.assertFalse([name for name in names if name.endswith((".nc", ".plt"))])
        self.assertTrue(self.session.job.is_handed_off(self.session.job.sheet))
        self.take("rehearse")
        self.assertIn("led by hand", self.slip.foot.words.text())
        self.session.undo()
        self.session.undo()
        self.wait_for(lambda: self.tool_of(RehearseTool).answer is not None)

    def test_as_it_looks_everything_leaves_without_an_operation_and_signs_nothing(self) -> None:
        self.session.edit("none", replace(self.session.job, operations=()))
        slip = self.slip_of(HandOffSlip)
        self.assertFalse(slip.go.isEnabled())
        self.assertIn("say that it is a drawing or a picture", slip.foot.words.text())
        self.press(slip.control("drawn").button("look"))
        self.assertTrue(slip.go.isEnabled())
        with tempfile.TemporaryDirectory() as folder:
            self.hand_off(Path(folder) / "Plate.svg")
            text = (Path(folder) / "Plate.svg").read_text()
        self.assertIn('fill-rule="evenodd"', text)
        self.assertFalse(self.session.job.is_handed_off(self.session.job.sheet))
        self.session.undo()
        self.press(slip.control("drawn").button("cut"))
        with tempfile.TemporaryDirectory() as folder:
            self.hand_off(Path(folder) / "Plate.svg")
            self.assertNotIn("evenodd", (Path(folder) / "Plate.svg").read_text())
        self.assertTrue(self.session.job.is_handed_off(self.session.job.sheet))

    def test_what_the_job_is_for_is_said_once_and_all_follows_it(self) -> None:
        self.session.edit("none", replace(self.session.job, operations=()))
        slip = self.slip_of(HandOffSlip)
        self.assertFalse(slip.go.isEnabled())
        self.press(slip.ticks["program"])
        self.press(slip.as_drawing)
        self.assertEqual(self.session.job.purpose, "drawing")
        self.assertTrue(slip.go.isEnabled() and slip.ticks["program"].isHidden())
        self.assertTrue(slip.control("drawn").button("lines").isChecked())
        self.assertEqual([each.kind for each in self.session.looked.findings], [])
        self.press(slip.purpose.button("picture"))
        self.assertTrue(slip.control("drawn").button("look").isChecked())
        self.session.undo()
        self.assertTrue(slip.control("drawn").button("lines").isChecked())
        sheet = self.session.job.sheet
        with tempfile.TemporaryDirectory() as folder:
            self.hand_off(Path(folder) / "Plate.dxf")
            self.assertTrue((Path(folder) / "Plate.dxf").exists())
            self.assertTrue(self.session.job.is_handed_off(sheet))
            signs = sign_offs(self.session.job, self.session.looked.findings)
            self.assertEqual([each.done for each in signs.values()], [True] * len(signs))
            at = Path(folder) / "plan.draxet"
            save_job(self.session.job, at)
            self.assertEqual(read_job(at).purpose, "drawing")
            for name, said in (("a.svg", "read back"), ("a.nc", "no contour has an operation")):
                out = io.StringIO()
                with contextlib.redirect_stdout(out), contextlib.redirect_stderr(out):
                    run(["make", str(at), "-o", str(Path(folder) / name)])
                self.assertIn(said, out.getvalue())
        self.take("cut")
        self.session.selection.choose({item.id for item in self.session.layout.contours})
        self.press(self.slip_of(OperationSlip).give)
        self.assertTrue(self.session.job.is_worked)
        self.take("hand-off")
        slip = self.slip_of(HandOffSlip)
        self.assertTrue(slip.purpose.button("work").isChecked())
        self.assertTrue(slip.control("drawn").button("cut").isChecked())
        self.assertFalse(slip.ticks["program"].isHidden())

    def test_the_chosen_contours_alone_leave_and_sign_nothing(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            self.session.selection.choose({"contour-2"})
            self.press(self.slip_of(HandOffSlip).control("only"))
            for key in ("program", "png"):
                self.slip_of(HandOffSlip).ticks[key].click()
            self.press(self.slip_of(HandOffSlip).control("art"))
            self.fill(self.slip_of(HandOffSlip).control("pixels"), "420")
            self.slip_of(HandOffSlip).leave_all(Path(folder), "Hole")
            self.wait_for(lambda: "3 files handed off" in self.top_words)
            self.assertEqual(
                [len(layer.contours) for layer in DXF.read(Path(folder) / "Hole.dxf")], [1]
            )
            self.assertEqual(read_program((Path(folder) / "Hole.nc").read_text()).problems, ())
            with Image.open(Path(folder) / "Hole - picture.png") as picture:
                self.assertEqual(picture.size, (420, 420))
            self.assertFalse(self.session.job.is_handed_off(self.session.job.sheet))

    def test_no_program_leaves_beside_a_fault_and_a_drawing_does(self) -> None:
        job = self.session.job
        self.session.edit(
            "a sheet elsewhere", replace(job, sheets=(replace(job.sheet, x=-4000.0),))
        )
        self.settle()
        with tempfile.TemporaryDirectory() as folder:
            self.slip_of(HandOffSlip).ticks["program"].click()
            self.slip_of(HandOffSlip).leave_all(Path(folder), "All")
            self.settle()
            self.assertIn("No program leaves beside a fault: ", self.top_words)
            self.assertEqual(list(Path(folder).iterdir()), [])
            self.slip_of(HandOffSlip).ticks["program"].click()
            self.slip_of(HandOffSlip).leave_all(Path(folder), "All")
            self.wait_for(lambda: not self.window.workers.busy("leaving"))
            self.assertEqual([path.suffix for path in Path(folder).iterdir()], [".dxf"])

    def test_with_nothing_chosen_nothing_leaves_and_nothing_is_signed(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            self.session.selection.choose(set())
            self.press(self.slip_of(HandOffSlip).control("only"))
            self.slip_of(HandOffSlip).ticks["program"].click()
            before = self.session.job
            for leave in (
                lambda: self.slip_of(HandOffSlip).leave_all(Path(folder), "All"),
                lambda: self.hand_off(Path(folder) / "a.dxf"),
                lambda: self.press(self.slip_of(HandOffSlip).go),
            ):
                leave()
                self.settle()
                self.assertIn("Nothing is chosen", self.top_words)
            self.assertEqual((list(Path(folder).iterdir()), self.session.job), ([], before))

    def test_true_size_on_paper_is_true(self) -> None:
        """The part's edge is dark where it should be, and nowhere else, on a page that another
        reader renders."""
        with tempfile.TemporaryDirectory() as name:
            for key in ("dxf", "pdf"):
                self.slip_of(HandOffSlip).ticks[key].click()
            self.slip_of(HandOffSlip).leave_all(Path(name), "Plate")
            self.wait_for(lambda: "true size.pdf handed off" in self.top_words)
            document = pypdfium2.PdfDocument(Path(name) / "Plate - true size.pdf")
            pixels = np.asarray(document[0].render(scale=4.0).to_numpy())[..., 0] < 128
            document.close()
            scale = 4.0 * 72 / 25.4
            for angle in np.linspace(0, 2 * np.pi, 40, endpoint=False):
                for radius, dark in ((20.0, True), (19.4, False), (20.6, False)):
                    x, y = 10 + 100 + radius * np.cos(angle), 80 + 100 + radius * np.sin(angle)
                    self.assertEqual(
                        bool(
                            pixels[round(pixels.shape[0] - y * scale - 0.5), round(x * scale - 0.5)]
                        ),
                        dark,
                    )

    def test_without_a_tick_or_where_the_folder_is_gone_a_sentence_says_so(self) -> None:
        self.slip_of(HandOffSlip).ticks["dxf"].click()
        self.press(self.slip_of(HandOffSlip).go)
        self.assertIn("Tick what is to leave", self.top_words)
        self.slip_of(HandOffSlip).ticks["pdf"].click()
        self.slip_of(HandOffSlip).leave_all(Path("/nowhere/at all"), "Plate")
        self.wait_for(lambda: "could not be written" in self.top_words)

    def test_a_kind_that_was_added_is_ticked_asked_and_left(self) -> None:
        mine = plan_kind()
        LEAVING_KINDS.append(mine)
        self.addCleanup(LEAVING_KINDS.remove, mine)
        self.take("rehearse")
        self.take("hand-off")
        for key in ("dxf", "plan"):
            self.slip_of(HandOffSlip).ticks[key].click()
        self.press(self.slip_of(HandOffSlip).control("rounded"))
        with tempfile.TemporaryDirectory() as folder:
            self.slip_of(HandOffSlip).leave_all(Path(folder), "Plate")
            self.wait_for(lambda: "plan.words handed off" in self.top_words)
            (path,) = Path(folder).iterdir()
            self.assertEqual(path.read_text(), "80 80 120 120\n50 50 250 150")

    def test_what_is_being_written_is_stopped_by_esc_and_by_another_job(self) -> None:
        """The window goes on meanwhile; what was there before stays."""
        for stop in (
            lambda: self.keys(Qt.Key.Key_Escape, on=self.canvas),
            lambda: self.press(self.slip_of(HandOffSlip).stop),
            lambda: self.session.start(Job("another"), None),
        ):
            self.take("hand-off")
            held = threading.Event()
            self.addCleanup(held.set)

            def slow(leaving: Leaving, *others: Any) -> LeftTogether:
                leaving.report(0.4, "writing Plate.dxf")
                held.wait()
                return leave(leaving, *others)

            with (
                tempfile.TemporaryDirectory() as folder,
                mock.patch("draxet.ui.stages.prove.hand_off.leave", slow),
            ):
                path = Path(folder) / "Plate.dxf"
                path.write_text("the one before")
                self.slip_of(HandOffSlip).leave_all(Path(folder), "Plate")
                self.wait_for(lambda: "writing Plate.dxf" in self.top_words)
                self.assertFalse(self.slip_of(HandOffSlip).go.isEnabled())
                stop()
                self.assertFalse(self.window.workers.busy("leaving"))
                held.set()
                self.settle(50)
                self.assertEqual(path.read_text(), "the one before")
                self.assertEqual([each.name for each in Path(folder).iterdir()], ["Plate.dxf"])
            self.assertEqual(self.session.job.handed_off, ())
