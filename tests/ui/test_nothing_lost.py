"""Work is never lost: saving, copies kept on the way, what a crash leaves, and jobs that keep to
themselves."""

import dataclasses
import os
import signal
import subprocess
import sys
import tempfile
import threading
import unittest
from pathlib import Path
from unittest import mock

import cv2
import numpy as np
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMessageBox

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.contour_moves import map_contours
from draxet.job.file import read_job, save_job
from draxet.job.records import Job
from draxet.job.recovery import Keeper, left_behind, read_left, rescue
from draxet.job.sheet_edits import set_unit
from draxet.progress import Progress
from draxet.ui.app import Catcher
from draxet.ui.demo import demo_job
from draxet.ui.model.stage import Stage
from draxet.ui.shell.autosave import copies_folder
from draxet.ui.shell.left_behind import LeftBehindChooser
from draxet.ui.shell.resting_slip import Resting
from draxet.ui.shell.signoffs import SignOff, sign_offs
from draxet.ui.stages.gather.limits import LimitSlip
from draxet.ui.stages.gather.sheets import SheetSlip
from draxet.ui.stages.make.operations import OperationSlip
from draxet.ui.stages.mend.pick_tool import MendSlip
from draxet.ui.stages.prove.hand_off import HandOffSlip
from draxet.ui.stages.trace.ink import EdgesSlip
from tests.ui.driver import WindowTest


def drawn(job: Job) -> Job:
    return add_contours(job, [Contour.circle(50, 50, 20), Contour.circle(150, 50, 10)])


class NothingLost(WindowTest):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        patch = mock.patch("platformdirs.user_state_path", return_value=self.folder / "state")
        patch.start()
        self.addCleanup(patch.stop)
        super().setUp()
        self.path = self.folder / "work.draxet"

    def begin(self) -> Job:
        self.session.start(demo_job(), None)
        self.session.edit("draw", drawn(self.session.job))
        return self.session.job


class Saves(NothingLost):
    def test_a_save_that_fails_says_so_and_the_window_stays_open(self) -> None:
        self.begin()
        self.session.document.path = self.path
        with mock.patch("draxet.job.file.written", side_effect=TypeError("no JSON")):
            self.answer("Save")
            self.window.close()
            self.wait_for(lambda: not self.is_waiting)
            self.settle()
        self.assertIn("work.draxet could not be saved: no JSON", self.top_words)
        self.assertTrue(self.window.isVisible())
        self.assertFalse(self.session.document.history.is_saved)
        self.answer("Save")
        self.window.close()
        self.wait_for(lambda: not self.window.isVisible())
        self.assertEqual(read_job(self.path), self.session.job)

    def test_what_is_edited_while_saving_is_not_saved_yet_and_two_saves_come_one_after_the_other(
        self,
    ) -> None:
        first = self.begin()
        self.window.jobs.save_to(self.path)
        self.session.edit("draw", drawn(self.session.job))
        self.window.jobs.save_to(self.path)
        self.settle()
        self.assertTrue(self.session.document.history.is_saved)
        self.assertEqual(read_job(self.path), self.session.job)
        self.session.undo()
        self.assertIs(self.session.job, first)
        self.assertFalse(self.session.document.history.is_saved)

    def test_what_is_typed_counts_when_saving_and_when_the_stage_is_left(self) -> None:
        self.begin()
        self.keys("1", on=self.canvas)
        self.window.commands["sheets"].run()
        for words, leave, width in (
            ("333", lambda: self.window.commands["stage-3"].run(), 333),
            ("444 mm", lambda: self.window.jobs.save_to(self.path), 444),
        ):
            self.window.commands["sheets"].run()
            field = self.slip_of(SheetSlip).wide
            field.setFocus()
            field.selectAll()
            self.keys(*words, on=field)
            leave()
            self.settle()
            self.assertEqual(self.session.job.sheet.width, width)
        self.assertEqual(read_job(self.path).sheet.width, 444)

    def test_stage_settings_typed_widths_and_view_come_back_with_the_job(self) -> None:
        self.begin()
        self.keys("5", on=self.canvas)
        self.slip_of(OperationSlip).asked["width"].setFocus()
        self.slip_of(OperationSlip).asked["width"].selectAll()
        self.keys(*"0.8", Qt.Key.Key_Return, on=self.slip_of(OperationSlip).asked["width"])
        self.session.desk.set_strength(0.5)
        self.canvas.show_view(40, 60, 5.0)
        self.window.jobs.save_to(self.path)
        self.settle()
        self.session.start(Job(), None)
        self.assertEqual(
            (self.session.desk.stage, self.canvas._session.desk.strengths[Stage.MAKE]),
            (Stage.GATHER, 0.0),
        )
        self.window.jobs.open_job(self.path)
        self.settle()
        self.assertEqual(
            (
                self.session.desk.stage,
                self.session.desk.strength,
                self.slip_of(OperationSlip).asked["width"].value,
            ),
            (Stage.MAKE, 0.5, 0.8),
        )
        np.testing.assert_allclose(self.session.desk.view or (), (40, 60, 5), atol=0.2)

    def test_a_desk_of_nonsense_is_laid_anew_and_its_job_comes_in(self) -> None:
        swatch = {"colour": [20, 40, 90], "name": "navy", "dropped": False}
        desks: list[dict[str, object]] = [
            {"stage": 99},
            {"view": [0, 0, 0]},
            {"strengths": [1]},
            {"nudge_mm": float("nan")},
            {"picture": 7},
            {"tools": [1]},
            {"stage": 5, "tools": {"cut": {"width": -3}}},
            {"stage": 3, "tools": {"trace": {"swatches": [swatch | {"colour": [1, 2, 999]}]}}},
            {"stage": 3, "tools": {"trace": {"swatches": [swatch] * 300}}},
            {"stage": 3, "tools": {"trace": {"area": [[0, 0]], "level": 1e9, "preset": "zz"}}},
        ]
        job = demo_job("badge")
        for desk in desks:
            with self.subTest(desk=str(desk)[:60]):
                save_job(job, self.path, desk)
                self.window.jobs.open_job(self.path)
                self.settle()
                self.assertEqual(self.session.job, job)
                self.assertIn(self.session.desk.stage, Stage)
                for tool in ("colours", "edges", "cut"):
                    self.window.commands[tool].run()
                    self.settle()
                self.assertEqual(
                    self.session.desk.kept(self.session.selection.picture_id)["tools"]
                    .get("trace", {})
                    .get("preset"),
                    "ink",
                )


class Copies(NothingLost):
    def test_one_is_kept_for_each_job_and_gone_once_saved_or_given_up(self) -> None:
        job = self.begin()
        self.assertEqual(left_behind(copies_folder()), [])
        self.window.autosave.keep()
        self.settle()
        (copy,) = copies_folder().glob("*.draxet")
        self.assertEqual(read_job(copy), job)
        self.assertEqual(left_behind(copies_folder()), [], "its program lives")
        self.session.edit("draw", drawn(self.session.job))
        self.window.autosave.keep()
        self.settle()
        self.assertEqual(read_job(copy), self.session.job)
        self.window.jobs.save_to(self.path)
        self.settle()
        self.assertEqual(list(copies_folder().iterdir()), [])
        self.session.edit("draw", drawn(self.session.job))
        self.window.autosave.keep()
        self.settle()
        self.session.start(Job(), None)
        self.assertEqual(list(copies_folder().iterdir()), [])

    def test_what_was_left_behind_is_offered_opened_and_stays_until_it_is_saved(self) -> None:
        job = drawn(demo_job())
        keeper = Keeper(copies_folder())
        keeper.keep(job, {"stage": 4, "path": str(self.path)})
        assert keeper.place and keeper._lock is not None
        os.close(keeper._lock)  # its program is gone
        self.window.offer_what_was_left()
        self.settle()
        chooser = QApplication.activeModalWidget()
        assert isinstance(chooser, LeftBehindChooser)
        self.assertIn("Stop-sign bracket", chooser.list.item(0).text())
        self.press(chooser.go)
        self.settle()
        self.assertEqual(
            (self.session.job, self.session.desk.stage, self.session.document.path),
            (job, Stage.MEND, self.path),
        )
        self.assertFalse(self.session.document.history.is_saved)
        self.assertTrue(keeper.place.exists())
        self.window.jobs.save()
        self.settle()
        self.assertFalse(keeper.place.exists())
        self.assertEqual(read_job(self.path), job)

    def test_a_rescue_shares_no_code_with_saving(self) -> None:
        job = self.begin()
        with (
            mock.patch("draxet.job.codec.written", side_effect=TypeError),
            mock.patch("draxet.job.file.written", side_effect=TypeError),
        ):
            place = rescue(job, copies_folder())
        self.assertEqual(read_left(place).job, job)


class ErrorsThatNobodyCaught(NothingLost):
    def test_the_job_is_kept_and_one_dialog_opens_and_never_a_chain(self) -> None:
        job = self.begin()
        catcher = Catcher([self.window])
        with mock.patch("traceback.print_exception"):
            for _ in range(5):
                try:
                    raise KeyError("fault while painting")
                except KeyError as error:
                    catcher.caught(KeyError, error, error.__traceback__)
            boxes = [
                w
                for w in self.app.topLevelWidgets()
                if isinstance(w, QMessageBox) and w.isVisible()
            ]
            self.assertEqual(len(boxes), 1)
            self.assertIn("is offered at the next start", boxes[0].text())
            boxes[0].close()
            self.settle()
        (place,) = copies_folder().glob("*.rescue")
        self.assertEqual(read_left(place).job, job)


class EndedFromOutside(unittest.TestCase):
    def test_the_job_is_kept_and_nobody_is_asked(self) -> None:
        """Ctrl+C in the terminal, and what a desktop sends that closes, while a changed job stands
        unsaved."""
        begin = """
import os, signal, sys
from PyQt6.QtCore import QTimer
from draxet.job.sheet_edits import (set_unit)
from draxet.ui.app import make_app, run_window
app = make_app()
def end():
    session = next(each.session for each in app.topLevelWidgets() if hasattr(each, "session"))
    session.edit("show inches", set_unit(session.job, "in"))
    os.kill(os.getpid(), signal.{})
QTimer.singleShot(50, end)
sys.exit(run_window(["demo", "leaf"]))
"""
        for name in ("SIGINT", "SIGTERM"):
            with self.subTest(name), tempfile.TemporaryDirectory() as own:
                environment = {
                    **os.environ,
                    "QT_QPA_PLATFORM": "offscreen",
                    "XDG_STATE_HOME": own,
                    "XDG_CONFIG_HOME": own,
                }
                done = subprocess.run(
                    [sys.executable, "-c", begin.format(name)],
                    env=environment,
                    capture_output=True,
                    text=True,
                )
                self.assertEqual(
                    (
                        done.returncode,
                        [
                            line
                            for line in done.stderr.splitlines()
                            if "Error" in line or "Traceback" in line
                        ],
                    ),
                    (128 + signal.Signals[name], []),
                )
                (kept,) = Path(own).glob("**/*.rescue")
                self.assertEqual(
                    (read_left(kept).job.name, read_left(kept).job.unit),
                    (demo_job("leaf").name, "in"),
                )


class JobsKeepToThemselves(NothingLost):
    def test_a_picture_still_loading_does_not_land_in_the_job_opened_meanwhile(self) -> None:
        hold = threading.Event()
        from draxet.gather.load import pages_or_picture

        def slow(*args: object) -> object:
            hold.wait(10)
            return pages_or_picture(*args)

        _, data = cv2.imencode(".png", np.full((40, 60), 200, np.uint8))
        with mock.patch("draxet.ui.shell.opening.pages_or_picture", slow):
            self.window.opening.take_picture(data.tobytes(), "late.png")
            self.session.start(Job("the other one"), None)
            hold.set()
            self.settle(100)
        self.assertEqual((self.session.job.name, self.session.job.pictures), ("the other one", ()))

    def test_the_old_tools_slip_goes_with_its_job_and_with_escape(self) -> None:
        self.begin()
        self.keys("3", on=self.canvas)
        old = self.slip_of(EdgesSlip)
        self.keys(Qt.Key.Key_Escape, Qt.Key.Key_Escape, on=self.canvas)
        self.assertIsNone(self.session.tool)
        self.assertIsNot(self.slip, old)
        self.keys("Q", on=self.canvas)
        self.settle()
        self.session.start(Job(), None)
        self.assertEqual(self.slip_of(Resting).heading.text(), "Gather")
        self.assertEqual(self.session.layout.contours, ())

    def test_work_under_way_ends_with_its_job(self) -> None:
        begun, stopped = threading.Event(), threading.Event()

        def work(report: Progress) -> None:
            begun.set()
            try:
                while True:
                    report(0.1, "on and on")
                    stopped.wait(0.01)
            finally:
                stopped.set()

        self.window.workers.run(
            "endless", work, self.errors.append, lambda error: self.errors.append(str(error))
        )
        self.assertTrue(begun.wait(10))
        self.session.start(Job(), None)
        self.assertTrue(stopped.wait(10))
        self.assertFalse(self.window.workers.busy("endless"))

    def test_an_edit_that_is_not_sound_is_refused_and_the_job_stays(self) -> None:
        job = self.begin()
        self.session.edit(
            "set the sheet",
            dataclasses.replace(job, sheets=(dataclasses.replace(job.sheet, width=float("nan")),)),
        )
        self.assertIs(self.session.job, job)
        self.assertIn("sheet.width must be", self.top_words)

    def test_choosing_what_already_is_makes_no_step(self) -> None:
        job = self.begin()
        words = self.session.document.history.undo_words
        self.session.edit("set the unit", set_unit(job, job.unit))
        self.session.edit("move", map_contours(job, [job.contours[0].id], Affine.moved(0, 0)))
        self.assertIs(self.session.job, job)
        self.session.undo()
        self.assertEqual(
            (words, self.session.document.history.undo_words, self.session.layout.contours),
            ("draw", "", ()),
        )


class SignOffs(NothingLost):
    def test_no_tick_of_one_job_stays_for_another_and_none_stands_where_nothing_was_done(
        self,
    ) -> None:
        self.begin()
        self.session.start(demo_job("leaf"), None)
        self.settle()
        notes = {stage: row._note for stage, row in self.window.card._rows.items()}
        ticked = [stage for stage, note in notes.items() if not note.pixmap().isNull()]
        self.assertEqual(ticked, [Stage.GATHER])
        self.assertTrue(self.window.card._signed.text().startswith("1 of 6"))

    def test_a_job_from_a_drawing_alone_signs_gather_and_true_up_and_meant_slits_let_mend_sign(
        self,
    ) -> None:
        slit = Contour.make([(10, 10), (40, 12)], closed=False)
        self.session.edit(
            "draw", add_contours(self.session.job, [Contour.circle(100, 100, 20), slit])
        )
        self.assertEqual(
            [sign.done for sign in self.signs().values()], [True, True, True, False, False, False]
        )
        self.keys("4", on=self.canvas)
        self.click(25, 11)
        self.press(self.slip_of(MendSlip).slits)
        self.assertTrue(self.session.layout.contours[1].slit)
        self.assertTrue(self.signs()[Stage.MEND].done)
        self.session.undo()
        self.assertFalse(self.signs()[Stage.MEND].done)

    def test_nothing_is_signed_off_beside_a_finding_that_stops(self) -> None:
        self.session.edit(
            "draw",
            add_contours(
                self.session.job, [Contour.circle(595, 100, 20), Contour.circle(300, 100, 0.4)]
            ),
        )
        self.keys("5", on=self.canvas)
        self.press(self.slip_of(OperationSlip).give)
        self.keys("6", on=self.canvas)
        self.hand_off(self.folder / "out.dxf")
        self.assertTrue(self.session.job.handed_off)
        self.assertFalse(self.signs()[Stage.PROVE].done)
        self.assertIn("has faults", self.slip_of(HandOffSlip)._read_back.verdict.text())
        self.session.edit("move", move_all(self.session.job, -100))
        self.assertIn("changed since", self.slip_of(HandOffSlip)._read_back.verdict.text())

    def signs(self) -> dict[Stage, SignOff]:
        return sign_offs(self.session.job, self.session.looked.findings)


class HostileMoments(NothingLost):
    def test_a_node_is_held_while_its_contour_goes_or_is_undone(self) -> None:
        self.begin()
        self.keys("4", on=self.canvas)
        for hostile in ("remove", "undo"):
            item = self.session.layout.contours[-1]
            self.session.selection.choose({item.id})
            at = self.place(*item.contour.nodes[0].tolist())
            QTest.mouseMove(self.canvas, at)
            QTest.mousePress(self.canvas, Qt.MouseButton.LeftButton, pos=at)
            QTest.mouseMove(self.canvas, at + QPoint(20, 5))
            self.window.commands[hostile].run()
            QTest.mouseMove(self.canvas, at + QPoint(30, 9))
            QTest.mouseRelease(self.canvas, Qt.MouseButton.LeftButton, pos=at + QPoint(30, 9))
            self.session.redo() if hostile == "undo" else self.session.undo()

    def test_the_picture_being_matched_goes_before_enter(self) -> None:
        self.begin()
        self.window.commands["match"].run()
        x, y = self.session.job.pictures[0].middle
        self.click(x, y, Qt.KeyboardModifier.AltModifier)
        self.click(x + 40, y, Qt.KeyboardModifier.AltModifier)
        self.window.commands["remove-picture"].run()
        self.keys(Qt.Key.Key_Return, on=self.canvas)
        self.assertEqual(self.session.job.pictures, ())

    def test_a_flat_contour_is_no_limit(self) -> None:
        flat = Contour.make([(10, 10), (90, 10), (50, 10)])
        self.session.edit("draw", add_contours(self.session.job, [flat]))
        self.session.selection.choose({self.session.layout.contours[0].id})
        self.window.commands["limits"].run()
        self.press(self.slip_of(LimitSlip).shape.button("own"))
        self.assertIsNone(self.session.job.limit)
        self.assertIn("limit must have a closed outline round an area", self.top_words)

    def test_a_job_whose_picture_is_damaged_opens_without_it_and_says_so(self) -> None:
        job = self.begin()
        damaged = dataclasses.replace(
            job,
            pictures=(dataclasses.replace(job.pictures[0], source=job.pictures[0].source[:999]),),
        )
        save_job(damaged, self.path)
        self.session.start(Job(), None)
        self.window.jobs.open_job(self.path)
        self.settle()
        self.assertEqual(
            (len(self.session.job.pictures), len(self.session.layout.contours)), (0, 2)
        )
        self.assertIn("a picture was left out", self.top_words)
        self.session.marks_changed.emit()
        self.assertFalse(self.window.top_line._back.isActive(), "it stands until one goes on")
        self.assertIn("a picture was left out", self.top_words)
        self.keys("3", "A", on=self.canvas)
        self.assertIn("Draw", self.top_words)

    def test_fields_hold_what_they_were_given_and_a_refused_text_keeps_the_button_from_acting(
        self,
    ) -> None:
        self.begin()
        for unit in ("in", "ft-in", "m"):
            self.session.edit("unit", set_unit(self.session.job, unit))
            self.keys("5", on=self.canvas)
            self.press(self.slip_of(OperationSlip).give)
            self.assertEqual({o.width for o in self.session.job.operations}, {1.5})
            self.session.undo()
            field = self.slip_of(OperationSlip).asked["width"]
            field.setFocus()
            field.selectAll()
            self.keys(*"nonsense", Qt.Key.Key_Return, on=field)
            before = self.session.job
            self.press(self.slip_of(OperationSlip).give)
            self.assertIs(self.session.job, before)
            field.set_value(1.5)
            self.keys("4", on=self.canvas)


def move_all(job: Job, dx: float) -> Job:
    return map_contours(job, [item.id for item in job.contours], Affine.moved(dx, 0))
