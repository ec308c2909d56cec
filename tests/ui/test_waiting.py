"""Nothing on the window's thread waits for a worker, and nothing that people want waits for what
they do not want any more."""

import os
import tempfile
import threading
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from unittest import mock

from PyQt6.QtCore import QEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPushButton

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours, remove_contours
from draxet.job.contour_moves import map_contours
from draxet.job.file import read_job
from draxet.job.findings import Finding, Gravity
from draxet.job.operating import add_operation
from draxet.job.operations import Engrave
from draxet.job.records import Job
from draxet.job.sheet_edits import add_sheet
from draxet.job.sides import PROGRAM_FIELDS
from draxet.leaving import leave
from draxet.make.cutting_through import give_cut
from draxet.make.products import product_of
from draxet.progress import Cancelled, Progress
from draxet.ui.demo import demo_job
from draxet.ui.model.aside import Aside
from draxet.ui.model.stage import Stage
from draxet.ui.model.watching import Watching
from draxet.ui.stages.mend.fall_tool import FallTool
from draxet.ui.stages.mend.offset_tool import OffsetTool
from draxet.ui.stages.mend.preview import PreviewRows, simpler
from draxet.ui.stages.mend.region_tool import RegionTool
from draxet.ui.stages.prove.hand_off import HandOffSlip
from tests.ui import apart_tasks
from tests.ui.driver import WindowTest


class Held:
    """Work that hears nothing, as within a library, until it is let go."""

    def __init__(self, test: WindowTest) -> None:
        self.go, self.begun = threading.Event(), threading.Semaphore(0)
        test.addCleanup(self.go.set)

    def work(self, report: Progress) -> str:
        self.begun.release()
        self.go.wait(60)
        return "done"

    def wait_until_begun(self, times: int = 1) -> None:
        for _ in range(times):
            assert self.begun.acquire(timeout=30)


class Workers(WindowTest):
    def run_held(self, *lanes: str) -> Held:
        held = Held(self)
        for lane in lanes:
            self.window.workers.run(lane, held.work, self.answers.append, self.answers.append)
        return held

    def setUp(self) -> None:
        super().setUp()
        self.answers: list[object] = []

    def tearDown(self) -> None:
        self.doCleanups()
        super().tearDown()

    def test_what_was_told_to_stop_takes_no_place(self) -> None:
        workers, done = self.window.workers, list[int]()
        held = self.run_held("a", "b")
        held.wait_until_begun(2)
        workers.run("c", lambda report: 1, done.append, self.answers.append)
        QTest.qWait(30)
        self.assertEqual(done, [], "two at a time")
        for again in range(3):  # each newer request leaves an older one behind
            self.run_held("a", "b").wait_until_begun(0)
        workers.cancel("a")
        workers.cancel("b")
        self.wait_for(lambda: done == [1])
        held.go.set()

    def test_saving_waits_for_nothing(self) -> None:
        held = self.run_held("a", "b")
        held.wait_until_begun(2)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "a.draxet"
            self.session.edit("draw", add_contours(self.session.job, [Contour.circle(5, 5, 3)]))
            self.window.jobs.save_to(path)
            self.wait_for(lambda: self.session.document.history.is_saved)
            self.assertEqual(read_job(path), self.session.job)
            self.session.edit("draw", add_contours(self.session.job, [Contour.circle(5, 5, 2)]))
            self.window.autosave.keep()
            self.wait_for(lambda: not self.window.workers.busy("keep a copy"))
            place = self.window.autosave.keeper().place
            assert place is not None
            self.assertEqual(read_job(place), self.session.job)
        self.assertEqual((self.answers, self.window.workers.busy("a")), ([], True))

    def test_a_window_closes_in_the_middle_of_all_of_it(self) -> None:
        held = self.run_held(*(f"lane {k}" for k in range(6)))
        held.wait_until_begun(2)
        self.session.document.history = self.session.document.history.after_save()
        self.window.close()
        self.assertFalse(self.window.isVisible())
        self.assertFalse(held.go.is_set())
        held.go.set()
        QTest.qWait(20)
        self.assertEqual(self.answers, [])


class WatchingJobs(WindowTest):
    def tearDown(self) -> None:
        self.doCleanups()
        super().tearDown()

    def test_the_window_waits_for_no_look(self) -> None:
        """A worker is within a long look while the last contour goes, another job is begun, all is
        taken back."""
        held, seen = Held(self), list[int]()

        def slow(job: Job) -> list[Finding]:
            if threading.current_thread() is not threading.main_thread():
                held.work(lambda share, words: None)
            seen.append(len(job.contours))
            return [Finding("slow", f"{len(job.contours)} seen", Gravity.INFORMS, "mend")]

        looks = ((slow, ("contours",), ("",)),)
        with (
            mock.patch("draxet.ui.model.watching.LONG_LOOKS", looks),
            mock.patch("draxet.prove.looking.LOOKS", looks),
        ):
            watching = Watching(self.session, self.window)
        many = [Contour.make([(k, 0), (k + 1, 0), (k, 1)]) for k in range(90)] + [
            Contour.circle(5, 5, 3)
        ] * 3
        for last in (
            lambda: self.session.edit(
                "all",
                remove_contours(self.session.job, [i.id for i in self.session.layout.contours]),
            ),
            lambda: self.session.start(Job(), None),
            self.session.undo,
        ):
            self.session.start(Job(), None)
            self.session.edit("draw", add_contours(self.session.job, many))
            held.wait_until_begun()
            last()
            self.assertEqual(self.session.layout.contours, ())
        held.go.set()
        self.settle()
        watching.deleteLater()

    def test_only_the_programs_that_a_change_concerns_are_made_anew(self) -> None:
        job = add_contours(Job(), [Contour.circle(50, 50, 20)])
        for _ in range(2):
            job, _ = add_sheet(job)
            job = add_contours(job, [Contour.circle(job.sheet.x + 50, 50, 20)])
        job = give_cut(job, [item.id for item in job.contours], 1.0, 1000)
        self.session.start(job, None)
        self.settle()
        first = self.session.looked.products
        self.assertEqual(len(first), 3)
        with mock.patch("draxet.ui.model.each_run.product_of", side_effect=product_of) as made:
            self.session.edit("nudge", map_contours(job, [job.contours[1].id], Affine.moved(1, 0)))
            self.settle()
            self.assertEqual(made.call_count, 1)
            second = self.session.looked.products
            self.assertEqual(
                [a is b for a, b in zip(first, second, strict=True)], [True, False, True]
            )
            self.session.edit("points", replace(self.session.job, notes=()))
            self.settle()
            self.assertEqual(made.call_count, 1)
            made.side_effect = ValueError("one too many lines")
            self.session.edit(
                "nudge", map_contours(self.session.job, [job.contours[2].id], Affine.moved(1, 0))
            )
            self.settle()
        (fault,) = (
            each for each in self.session.looked.findings if each.kind.startswith("no-program")
        )
        self.assertEqual(
            (fault.words, fault.gravity),
            ("The program of Sheet 3 cannot be made: one too many lines", Gravity.STOPS),
        )
        self.assertEqual(
            [len(program) > 0 for program in self.session.looked.products], [True, True, False]
        )
        self.assertLess(set(PROGRAM_FIELDS), {field for field in Job.__dataclass_fields__})

    def test_a_large_job_is_looked_at_apart_with_the_same_answer(self) -> None:
        rows = [
            Contour.circle(20 + 12 * (k % 14), 20 + 12 * (k // 14), 4 + k % 3) for k in range(130)
        ]
        job = add_contours(
            Job(),
            [
                *rows,
                Contour.circle(300, 200, 20),
                Contour.circle(300, 200, 10),
                Contour.circle(300, 200, 4),
            ],
        )
        job = give_cut(job, [item.id for item in job.contours], 1.0, 1000)
        calls: list[str] = []
        real = Aside.call

        def call(
            aside: Aside, report: Progress, work: Callable[..., object], *arguments: object
        ) -> object:
            calls.append(work.__name__)
            return real(aside, report, work, *arguments)

        def looked() -> tuple[list[str], list[int]]:
            self.session.start(job, None)
            self.window.commands["falls"].run()
            self.settle()
            return [f.words for f in self.session.looked.findings], [
                len(program) for program in self.session.looked.products
            ]

        with mock.patch.object(Aside, "call", call):
            apart = looked()
        pieces = len(self.tool_of(FallTool).falling.fallout.pieces)
        self.assertEqual(set(calls), {"findings_apart", "looked_at_apart", "falls_apart"})
        with (
            mock.patch("draxet.ui.model.watching.is_large", return_value=False),
            mock.patch("draxet.ui.model.falling.is_large", return_value=False),
        ):
            here = looked()
        self.assertEqual(apart, here)
        self.assertEqual(pieces, len(self.tool_of(FallTool).falling.fallout.pieces))
        self.assertIn("1 island", " ".join(apart[0]))

    def test_areas_and_offsets_of_many_contours_are_found_apart_all_the_same(self) -> None:
        rows = [
            Contour.circle(20 + 9 * (k % 14), 20 + 9 * (k // 14), 4 + k % 3) for k in range(130)
        ]
        job = add_operation(
            add_contours(Job(), rows), Engrave(contours=("contour-1", "contour-2"), spacing=1.0)
        )

        def found() -> tuple[int, float, int, int]:
            self.session.start(job, None)
            self.window.commands["regions"].run()
            self.settle()
            ground = self.tool_of(RegionTool).ground
            self.window.commands["offset"].run()
            self.settle()
            made = self.tool_of(OffsetTool).made
            self.session.open_stage(Stage.MAKE)
            self.settle(200)
            return (
                len(ground.regions),
                round(sum(region.area for region in ground.regions), 6),
                len(made),
                len(self.canvas.worked.lines.runs),
            )

        with mock.patch.object(Aside, "call", autospec=True, side_effect=Aside.call) as call:
            apart = found()
        names = {each.args[4] for each in call.call_args_list if each.args[2].__name__ == "plainly"}
        self.assertEqual(names, {"arrangement_of", "offset_area", "paths_of"})
        with (
            mock.patch("draxet.ui.model.workers.many", return_value=False),
            mock.patch("draxet.ui.shell.cutting.is_large", return_value=False),
        ):
            self.assertEqual(found(), apart)


class ProcessesApart(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.aside = Aside()
        self.addCleanup(self.aside.close)
        self.told: list[str] = []

    def report(self, share: float, words: str) -> None:
        self.told.append(words)

    def test_answers_progress_and_errors_come_back(self) -> None:
        values = tuple(range(1001))
        self.assertEqual(
            self.aside.call(self.report, apart_tasks.counted, values, "half way"), (*values, 1001)
        )
        self.assertIn("half way", self.told)
        with self.assertRaisesRegex(ValueError, "as it was meant to"):
            self.aside.call(self.report, apart_tasks.failing)
        first = self.aside.call(self.report, apart_tasks.its_process)
        self.assertNotEqual(first, os.getpid())
        self.assertEqual(self.aside.call(self.report, apart_tasks.its_process), first, "it goes on")

    def test_what_does_not_stop_is_ended_and_what_does_goes_on(self) -> None:
        first = self.aside.call(self.report, apart_tasks.its_process)
        for work, goes_on in ((apart_tasks.until_told, True), (apart_tasks.for_ever, False)):
            looks = iter(range(12))

            def impatient(share: float, words: str) -> None:
                if next(looks, None) is None:
                    raise Cancelled

            with self.subTest(work.__name__):
                self.assertRaises(Cancelled, self.aside.call, impatient, work)
                self.assertEqual(
                    self.aside.call(self.report, apart_tasks.its_process) == first, goes_on
                )

    def test_memory_has_a_bound_and_a_crash_is_an_error(self) -> None:
        for work in (apart_tasks.too_much, apart_tasks.crashing):
            with self.subTest(work.__name__), self.assertRaises(MemoryError):
                self.aside.call(self.report, work)
        self.assertEqual(self.aside.call(self.report, apart_tasks.counted, (1,), "again"), (1, 1))


class ToolsTakenAway(WindowTest):
    def test_every_tool_in_the_middle_of_every_workers_work(self) -> None:
        """Whatever a tool or its slip has begun, another tool comes in its place before that is
        done."""
        job = add_contours(
            demo_job(),
            [
                Contour.circle(60, 60, 30),
                Contour.circle(60, 60, 10),
                Contour.make([(5, 5), (90, 8)], closed=False),
            ],
        )
        job = give_cut(job, [item.id for item in job.contours], 1.0, 1000)
        commands = [
            c
            for c in self.window.commands.values()
            if c.stage and not c.words.endswith("…") and c.id not in ("paste", "handoff")
        ]
        begun: set[str] = set()
        run = self.window.workers.run

        def held_up(
            lane: str, work: Callable[[Progress], object], *more: object, **named: object
        ) -> None:
            go = threading.Event()

            def later(report: Progress) -> object:
                go.wait(60)
                return work(report)

            begun.add(lane)
            waiting.append(go)
            run(lane, later, *more, **named)

        for command in commands:
            waiting: list[threading.Event] = []
            with (
                self.subTest(command.id),
                mock.patch.object(self.window.workers, "run", held_up),
                mock.patch("draxet.ui.shell.job_files.ask", return_value="leave"),
            ):
                self.session.start(job, None)
                self.window.commands["pick"].run()
                self.session.selection.choose({job.contours[0].id, job.contours[2].id})
                command.run()
                QTest.qWait(1)
                for number in range(40):
                    buttons = [
                        b
                        for b in self.window.slips.findChildren(QPushButton)
                        if b.isVisible()
                        and b.isEnabled()
                        and b.menu() is None
                        and not b.text().endswith("…")
                    ]
                    if number >= len(buttons):
                        break
                    if buttons[number].text() not in ("Hand off", "Save"):
                        buttons[number].click()
                for other in ("measure", "pick"):
                    self.window.commands[other].run()
                    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
                for go in waiting:
                    go.set()
            self.settle()
            self.assertEqual(self.errors, [], command.id)
            self.session.document.history = self.session.document.history.after_save()
        self.assertGreaterEqual(len(begun), 15, begun)

    def test_a_preview_ends_with_the_slip_that_asked_for_it(self) -> None:
        self.session.start(add_contours(Job(), [Contour.circle(60, 60, 30)]), None)
        self.window.commands["pick"].run()
        self.session.selection.choose({"contour-1"})
        (rows, *_) = self.window.slips.findChildren(PreviewRows)
        held = Held(self)
        rows.propose(lambda items, report: (held.work(report), simpler(1.0)(items, report))[1])
        held.wait_until_begun()
        self.window.commands["measure"].run()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        self.assertFalse(self.window.workers.busy("mend preview"))
        held.go.set()
        self.settle()

    def test_the_sign_off_stays_though_the_tool_is_another_one_by_then(self) -> None:
        job = give_cut(add_contours(Job(), [Contour.circle(60, 60, 30)]), ["contour-1"], 1.0, 1000)
        self.session.start(job, None)
        self.window.commands["hand-off"].run()
        self.settle()
        with tempfile.TemporaryDirectory() as folder:
            self.slip_of(HandOffSlip).settings.kinds = ("program",)
            held = Held(self)
            with mock.patch(
                "draxet.ui.stages.prove.hand_off.leave",
                side_effect=lambda *all_: (held.work(lambda share, words: None), leave(*all_))[1],
            ):
                self.slip_of(HandOffSlip).leave_all(Path(folder), "part")
                held.wait_until_begun()
                self.window.commands["pick"].run()
                QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
                held.go.set()
                self.settle()
            self.assertTrue((Path(folder) / "part.nc").exists())
        self.assertEqual([each.file for each in self.session.job.handed_off], ["part.nc"])
        self.assertIn("handed off and read back", self.top_words)


class AfterClosing(WindowTest):
    def test_nothing_is_begun_once_the_window_is_closed(self) -> None:
        self.window.close()
        begun: list[int] = []
        self.window.workers.run("late", lambda report: begun.append(1), begun.append, begun.append)
        self.assertFalse(self.window.workers.busy())
        self.settle(50)
        self.assertEqual(begun, [])


class TakenApart(WindowTest):
    def test_circles_of_objects_that_a_worker_leaves_are_taken_apart_on_the_windows_thread(
        self,
    ) -> None:
        threads: list[int] = []

        class Circle:
            def __init__(self) -> None:
                self.self = self

            def __del__(self) -> None:
                threads.append(threading.get_ident())

        def work(report: Progress) -> int:
            for _ in range(20_000):
                Circle()
            return threading.get_ident()

        answers: list[int] = []
        self.window.workers.run("circles", work, answers.append, lambda error: None)
        self.wait_for(lambda: len(threads) == 20_000)
        self.assertEqual(set(threads), {threading.get_ident()})
        self.assertNotEqual(answers, [threading.get_ident()])
