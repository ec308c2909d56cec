"""What a reader of the screen is told over the accessibility bus, of the real window. Wants a bus of
its own and a screen: ``tests/run.py`` gives it both."""

import unittest
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
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

    def tool_nodes(self) -> set[tuple[str, int]]:
        assert self.session.tool is not None
        return set(self.session.tool.nodes_in_hand())

    def test_all_that_takes_the_keys_has_a_name(self) -> None:
        def look() -> list[tuple[str, str]]:
            found = []
            for thing in self.ear.walk(self.window_of(), lambda role: role != "list"):
                if {"focusable", "showing"} <= self.ear.states(thing):
                    found.append((self.ear.role(thing), self.ear.name(thing)))
            return found

        found = self.asked(look)
        self.assertGreater(len(found), 30)
        self.assertEqual([role for role, name in found if not name], [])

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
