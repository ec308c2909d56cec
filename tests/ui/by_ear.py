"""What a reader of the screen is told over the accessibility bus, of the real window. Wants a bus of
its own and a screen: ``tests/run.py`` gives it both."""

import unittest
from collections import Counter
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from typing import TypeVar

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.findings import Finding, Gravity
from draxet.ui.demo import demo_job
from draxet.ui.model.stage import Stage
from tests.ui.driver import WindowTest
from tests.ui.ear import Ear, Thing

_Answer = TypeVar("_Answer")
_PARTS = {"filler", "panel", "list", "layered pane", "viewport", "scroll pane", "frame", "unknown"}
"""What only holds other things."""


class WhatIsHeard(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.pool = ThreadPoolExecutor(1)
        self.addCleanup(self.pool.shutdown)
        self.ear = self.asked(Ear)
        self.addCleanup(self.ear.close)
        made = [
            Contour.circle(60, 60, 20),
            Contour.make([(10, 10), (50, 10), (50, 50)]),
            Contour.make([(100, 10), (150, 10), (150, 50)], closed=False),
        ]
        self.session.start(add_contours(demo_job(), made), None)
        self.settle()
        self.session.open_stage(Stage.MEND)
        self.window.commands["pick"].run()
        self.canvas.setFocus()
        self.settle()

    def asked(self, question: Callable[[], _Answer]) -> _Answer:
        """What the reader finds, while the window goes on."""
        waited = self.pool.submit(question)
        while not waited.done():
            QTest.qWait(5)
        return waited.result()

    def window_of(self) -> Thing:
        return self.ear.children(self.ear.application())[0]

    def find_canvas(self) -> Thing:
        """The canvas in the tree; no other way leads to it than a reader's."""
        for thing in self.ear.walk(self.window_of(), lambda role: role in _PARTS):
            if self.ear.role(thing) == "canvas":
                return thing
        raise LookupError("no canvas")

    def lists(self, canvas: Thing) -> dict[str, Thing]:
        found = [each for each in self.ear.children(canvas) if self.ear.role(each) == "list"]
        return {self.ear.name(each): each for each in found}

    def test_the_canvas_has_its_contours_nodes_and_findings(self) -> None:
        canvas = self.asked(self.find_canvas)
        self.window.commands["next-contour"].run()
        self.window.commands["next-contour"].run()
        self.settle()
        QTest.keyClick(self.canvas, Qt.Key.Key_B)
        self.settle()
        lists = self.asked(lambda: self.lists(canvas))
        ear = self.ear
        rows = {name: self.asked(lambda it=it: ear.children(it)) for name, it in lists.items()}
        names = {name: self.asked(lambda it=it: [*map(ear.name, it)]) for name, it in rows.items()}
        self.assertEqual(
            names["Contours"],
            [
                "circle, 40 mm × 40 mm, from 40 mm and 40 mm on",
                "closed contour, 40 mm × 40 mm, from 10 mm and 10 mm on",
                "open contour, 50 mm × 40 mm, from 100 mm and 10 mm on",
            ],
        )
        self.assertEqual(
            names["Nodes of what is chosen"],
            [
                "node 1 of 3, corner, 10 mm and 10 mm on",
                "node 2 of 3, corner, 50 mm and 10 mm on",
                "node 3 of 3, corner, 50 mm and 50 mm on",
            ],
        )
        self.assertIn("look: 1 contour is open", names["Findings"])
        chosen = self.asked(lambda: ["selected" in ear.states(each) for each in rows["Contours"]])
        self.assertEqual(chosen, [False, True, False])
        shown = self.canvas.grab().toImage()
        for each in self.window.heard.lists:
            each.hide()
        self.assertEqual(self.canvas.grab().toImage(), shown)  # they show nothing themselves
        left, top, wide, high = self.asked(lambda: ear.box(rows["Contours"][0]))
        corner = self.canvas.mapFromGlobal(QPoint(left, top))
        x, y = self.canvas.camera.view(40, 80)
        self.assertLessEqual(max(abs(corner.x() - x), abs(corner.y() - y)), 2)
        self.assertLessEqual(abs(wide - 40 * self.canvas.camera.zoom), 2)
        self.assertLessEqual(abs(high - wide), 1)

    def test_a_reader_chooses_a_contour_then_a_node(self) -> None:
        canvas = self.asked(self.find_canvas)
        contours = self.asked(lambda: self.lists(canvas)["Contours"])
        self.assertTrue(self.asked(lambda: self.ear.choose(contours, 2)))
        self.settle()
        third = self.session.job.contours[2].id
        self.assertEqual(self.session.selection.ids, {third})
        QTest.keyClick(self.canvas, Qt.Key.Key_B)
        self.settle()
        nodes = self.asked(lambda: self.lists(canvas)["Nodes of what is chosen"])
        self.assertTrue(self.asked(lambda: self.ear.clear(nodes)))
        self.settle()
        self.assertEqual(self.tool_nodes(), set())
        self.assertEqual(self.session.selection.ids, {third})
        self.session.edit("take away", replace(self.session.job, contours=()))
        self.window.heard.lists[0].selectAll()  # before the list has heard of it
        self.assertEqual(self.session.selection.ids, frozenset())
        self.settle()
        self.assertEqual(self.window.heard.lists[0].things, ())

    def tool_nodes(self) -> set[tuple[str, int]]:
        assert self.session.tool is not None
        return set(self.session.tool.nodes_in_hand())

    def test_lists_are_no_wall_before_the_pointer(self) -> None:
        self.asked(self.find_canvas)
        x, y = self.canvas.camera.view(40, 60)
        there = self.canvas.mapTo(self.window, QPoint(round(x), round(y)))
        QTest.mouseClick(
            self.window.windowHandle(),
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
            there,
        )
        self.settle()
        self.assertEqual(self.session.selection.ids, {self.session.job.contours[0].id})

    def test_all_that_takes_the_keys_says_what_it_is(self) -> None:
        ear = self.ear

        def look() -> list[tuple[str, str, str, set[str], float | None]]:
            found = []
            for thing in ear.walk(self.window_of(), lambda role: role != "list"):
                states, role = ear.states(thing), ear.role(thing)
                if {"focusable", "showing"} <= states:
                    value = ear.value(thing) if role == "slider" else None
                    name, reason = ear.name(thing), ear.description(thing)
                    found.append((role, name, reason, states, value))
            return found

        roles = set()
        for stage in Stage:
            self.session.open_stage(stage)
            self.settle()
            found = self.asked(look)
            self.assertGreater(len(found), 20)
            twice = Counter((role, name) for role, name, *_ in found)
            self.assertEqual({k for k, n in twice.items() if n > 1}, set(), stage.name)
            for role, name, reason, states, value in found:
                with self.subTest(stage=stage.name, role=role, name=name):
                    self.assertTrue(name)
                    self.assertNotIn(role, ("filler", "unknown", "invalid"))
                    self.assertTrue("enabled" in states or reason)
                    self.assertTrue(role != "slider" or value is not None)
                roles.add(role)
        self.assertLessEqual({"canvas", "push button", "radio button", "check box", "text"}, roles)

    def test_what_stops_the_work_is_told_wherever_the_keys_are(self) -> None:
        self.asked(self.find_canvas)
        self.ear.said.clear()
        looked, session = self.session.looked, self.session
        stops = Finding("met", "the head meets a clamp", Gravity.STOPS, "prove")
        for told, heard in (((stops,), "stops: the head meets"), ((), "Nothing stops the work")):
            session.take_looked(replace(looked, findings=(*looked.findings, *told)))
            self.settle()
            self.wait_for(lambda heard=heard: any(heard in words for _, words, _ in self.ear.said))
        self.assertEqual(len([way for way, *_ in self.ear.said if way == "announced"]), 2)

    def test_keys_go_through_the_nodes_in_hand(self) -> None:
        self.asked(self.find_canvas)
        self.window.commands["next-contour"].run()
        self.window.commands["next-contour"].run()
        QTest.keyClick(self.canvas, Qt.Key.Key_B)
        self.settle()
        heard = []
        for key in (Qt.Key.Key_Period, Qt.Key.Key_Period, Qt.Key.Key_Comma):
            self.ear.said.clear()
            QTest.keyClick(self.canvas, key, Qt.KeyboardModifier.ControlModifier)
            self.settle()
            self.wait_for(lambda: any("Canvas: node" in words for _, words, _ in self.ear.said))
            heard.append(self.tool_nodes())
        second = self.session.job.contours[1].id
        self.assertEqual(heard, [{(second, 0)}, {(second, 1)}, {(second, 0)}])
        self.session.edit("take away", replace(self.session.job, contours=()))
        QTest.keyClick(self.canvas, Qt.Key.Key_Period, Qt.KeyboardModifier.ControlModifier)
        self.settle()  # what was in hand is gone: nothing but a refusal comes of it

    def test_what_is_said_is_heard_once(self) -> None:
        self.asked(self.find_canvas)
        self.wait_for(self.canvas.hasFocus)
        self.session.selection.choose({self.session.job.contours[0].id})
        self.settle()
        self.ear.said.clear()
        QTest.keyClick(self.canvas, Qt.Key.Key_Right)
        self.settle()
        self.session.undo()
        self.settle(300)
        self.wait_for(lambda: any("Taken back" in words for _, words, _ in self.ear.said))
        self.assertEqual(
            {way for way, words, _ in self.ear.said if "Taken back" in words}, {"named"}
        )
        QTest.keyClick(self.canvas, Qt.Key.Key_F6)
        self.settle()
        self.assertFalse(self.canvas.hasFocus())
        self.ear.said.clear()
        self.session.redo()
        self.session.messages.refused.emit("The gap is wider than 3 mm: join it by hand.")
        self.settle(300)
        self.wait_for(lambda: any("gap" in words for _, words, _ in self.ear.said))
        announced = [(words, urgent) for way, words, urgent in self.ear.said if way == "announced"]
        self.assertIn(("The gap is wider than 3 mm: join it by hand", True), announced)
        self.assertTrue(any(not urgent for _, urgent in announced), announced)


if __name__ == "__main__":
    unittest.main()
