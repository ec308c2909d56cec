"""Everything that is worked out and shown, over the values themselves: a slow worker under each of
them holds nobody up, and each ends with what it belongs to."""

from __future__ import annotations

import ast
import unittest
from dataclasses import replace
from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.records import Job
from draxet.job.remember import same
from draxet.make.cutting_through import give_cut
from draxet.ui.demo import demo_job
from draxet.ui.model.derived import Derived
from draxet.ui.model.stage import Stage
from draxet.ui.shell.command_table import tools_of
from draxet.ui.stages.row import ToolRow
from tests.ui.driver import WindowTest
from tests.ui.test_waiting import Held

UI = Path(__file__).resolve().parents[2] / "src" / "draxet" / "ui"
OF_THE_JOB = {
    "choice",
    "bands",
    "bodies",
    "bodies lighter",
    "bodies scene",
    "bodies seen",
    "falls",
    "findings",
    "long findings",
    "nearest bands",
    "program paths",
    "programs",
    "worked lines",
}


class Same(unittest.TestCase):
    def test_same_objects_and_equal_plain_values_are_the_same_and_nothing_else_is(self) -> None:
        one, twin = Contour.circle(1, 2, 3), Contour.circle(1, 2, 3)
        self.assertEqual(one, twin)
        for a, b, alike in (
            ((one, 2.0, "a"), (one, 2.0, "a"), True),
            ((one,), (twin,), False),
            (([one], ("x", None)), ([one], ("x", None)), True),
            ((one,), [one], False),
            ((1,), (1.0,), False),
            ((one, one), (one,), False),
            (frozenset("ab"), frozenset("ba"), True),
        ):
            self.assertIs(same(a, b), alike, (a, b))


class EveryValue(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        rings = [Contour.circle(60, 60, 40), Contour.circle(60, 60, 15), Contour.circle(160, 60, 9)]
        job = add_contours(demo_job(), rings)
        self.job = give_cut(job, [item.id for item in job.contours], 1.5, 1500)
        self.session.start(self.job, None)
        self.settle()

    def tools(self) -> list[str]:
        """The keys of all tools that can be taken here."""
        return [
            row.id
            for stage in Stage
            for row in tools_of(stage)
            if isinstance(row, ToolRow) and not self.window.commands[row.id].why_not()
        ]

    def values(self) -> list[Derived[Any]]:
        return sorted(self.session.derived, key=lambda each: each.name)

    def taken(self, key: str) -> list[Derived[Any]]:
        """The values of a tool that is taken in hand anew."""
        self.window.commands[key].run()
        self.settle()
        tool = self.session.tool
        return [value for value in self.values() if tool is not None and value.tool is tool]

    def held(self, value: Derived[Any]) -> Held:
        """A worker under a value that hears nothing until it is let go."""
        held, inputs = Held(self), value.goes_by
        value.forget()
        self.assertTrue(value.ask(inputs or (object(),), held.work))
        held.wait_until_begun()
        self.assertTrue(value.busy)
        return held

    def go_on(self) -> None:
        """The window does what it is asked meanwhile."""
        zoom = self.canvas.camera.zoom
        self.window.commands["nearer"].run()
        self.assertGreater(self.canvas.camera.zoom, zoom)

    def test_each_is_stopped_by_esc_another_tool_and_another_job_though_its_worker_is_deaf(
        self,
    ) -> None:
        found: set[str] = set()
        for key in self.tools():
            for how in ("esc", "tool", "job"):
                for name in [value.name for value in self.taken(key)]:
                    (value,) = (each for each in self.taken(key) if each.name == name)
                    tool = self.session.tool
                    found.add(name)
                    with self.subTest(name, how=how):
                        held = self.held(value)
                        self.go_on()
                        if how == "esc":
                            self.canvas.setFocus()
                            QTest.keyClick(self.canvas, Qt.Key.Key_Escape)
                            self.assertIs(self.session.tool, tool, "the tool stays in hand")
                        elif how == "tool":
                            self.window.commands["pick"].run()
                        else:
                            self.session.start(self.job, None)
                        if how != "job":  # the new one has work of its own
                            self.assertFalse(value.busy)
                        held.go.set()
                        self.settle()
                        self.assertNotEqual(value.value, "done", "its answer is dropped")
        self.assertGreaterEqual(
            found,
            {
                "bridges",
                "caught on a picture",
                "clean",
                "corners",
                "nearness",
                "offset",
                "regions",
                "rehearsal",
                "trace",
                "truths",
                "walk",
            },
        )

    def test_what_belongs_to_the_job_ends_with_it(self) -> None:
        self.window.commands["falls"].run()
        for _ in range(2):  # seen, and the canvas again
            self.window.commands["bodies"].run()
            self.settle()
        values = [value for value in self.values() if value.tool is None]
        self.assertEqual({value.name for value in values}, OF_THE_JOB)
        for value in values:
            with self.subTest(value.name):
                held = self.held(value)
                self.go_on()
                self.canvas.setFocus()
                self.session.start(Job("another"), None)
                held.go.set()
                self.settle()
                self.assertNotEqual(value.value, "done")
                self.session.start(self.job, None)
                self.settle()

    def test_a_value_from_outside_follows_what_it_goes_by(self) -> None:
        length = Derived[float](self.session, "length", 0.0, "The length could not be had")
        asked: list[str] = []

        def look() -> None:
            job = self.session.job

            def work(report: Any) -> float:
                asked.append(job.name)
                return float(sum(item.contour.length for item in job.contours))

            length.ask((job.contours,), work)

        self.session.document.changed.connect(look)
        self.session.start(Job(), None)
        for side in (10.0, 20.0):
            ring = Contour.make([(0, 0), (side, 0), (side, side), (0, side)])
            self.session.edit("draw", add_contours(Job(), [ring]))
            self.settle()
            self.assertEqual(length.value, 4 * side)
        count = len(asked)
        self.session.edit("name", replace(self.session.job, name="other"))
        self.settle()
        self.assertEqual((len(asked), length.value), (count, 80.0), "its contours are the same")

        def fails(report: Any) -> float:
            raise ValueError("no room")

        length.ask((object(),), fails)
        self.settle()
        self.assertEqual(length.value, 80.0, "what was known stays")
        self.assertIn("The length could not be had: no room", self.top_words)
        self.session.undo()
        self.session.undo()
        self.settle()
        self.assertEqual(length.value, 40.0)


class NobodyElse(unittest.TestCase):
    """Who asks workers himself does something once that was asked for; what is shown for as long
    as it holds is a ``Derived``."""

    ACTS = {
        "ahead",
        "autosave",
        "bridge_tool",
        "camera_window",
        "chooser",
        "clean_tool",
        "derived",
        "first_page",
        "hand_off",
        "job_files",
        "large_edits",
        "left_behind",
        "limit_tool",
        "offset_tool",
        "opening",
        "preparing",
        "reading",
        "region_colours",
        "region_tool",
        "text_slip",
        "truth_tool",
    }

    def test_only_acts_ask_workers_themselves(self) -> None:
        asking = {
            path.stem
            for path in UI.rglob("*.py")
            for node in ast.walk(ast.parse(path.read_text("utf-8")))
            if isinstance(node, ast.Call)
            and isinstance(node.func, ast.Attribute)
            and node.func.attr == "run"
            and ast.unparse(node.func.value).endswith("workers")
        }
        self.assertEqual(asking, self.ACTS)
