"""The card: every tool has a place of its own, and one that is added moves no other; and what the
canvas shows at rest, layer by layer."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from dataclasses import replace
from types import ModuleType
from unittest import mock

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QColor, QPainter

from draxet.job.records import Job
from draxet.ui.canvas.resting_canvas import LAYERS, CanvasLayer, RestingCanvas
from draxet.ui.canvas.view_camera import Camera
from draxet.ui.model.stage import Stage
from draxet.ui.model.tool import Prompt, Waiting
from draxet.ui.shell import command_table
from draxet.ui.shell.command_table import tools_of
from draxet.ui.shell.window_commands import TOOL_KEYS
from draxet.ui.stages.row import ToolRow
from draxet.ui.stages.slip import Slip
from tests.ui.driver import WindowTest

PLACES = {
    "gather": "QWERTASDF",
    "trueup": "QWERTASDF",
    "trace": "QWERTASDFGZXCV",
    "mend": "QWERTASDFGZX",
    "make": "QWERTASDFGZXC",
    "prove": "QW",
}


class StampTool(Waiting):
    def __init__(self, session: object) -> None:
        super().__init__(Prompt("Stamp: click where it goes."))


class StampSlip(Slip):
    def __init__(self, session: object, tool: StampTool) -> None:
        super().__init__(session, "Stamp", "Put down once.")


class Places(WindowTest):
    def setUp(self) -> None:
        outside = ModuleType("outside.stamps")
        outside.StampTool, outside.StampSlip = StampTool, StampSlip  # type: ignore[attr-defined]
        stamp = ToolRow(
            "stamp", "Stamp", "pen", "outside.stamps:StampTool", "outside.stamps:StampSlip", key="B"
        )

        def with_stamp(stage: Stage) -> tuple[object, ...]:
            return (*tools_of(stage), *([stamp] if stage is Stage.MAKE else ()))

        for planted in (
            mock.patch.dict(
                sys.modules, {"outside": ModuleType("outside"), "outside.stamps": outside}
            ),
            mock.patch.object(command_table, "tools_of", with_stamp),
        ):
            planted.start()
            self.addCleanup(planted.stop)
        super().setUp()

    def test_places_are_as_they_were_each_once_and_in_turn(self) -> None:
        for stage in Stage:
            rows = [row for row in tools_of(stage) if not row.of]
            keys = [row.key for row in rows]
            self.assertEqual("".join(keys), PLACES[stage.folder])
            self.assertEqual(keys, sorted(set(keys), key=TOOL_KEYS.index))
            self.assertTrue(all(not row.key for row in tools_of(stage) if row.of))
        self.assertEqual(self.window.commands["machine"].key, "G")

    def test_a_tool_from_outside_is_a_row_and_is_taken_by_its_key_at_its_own_place(self) -> None:
        self.session.open_stage(Stage.MAKE)
        self.assertEqual(self.window.commands["stamp"].key, "B")
        self.assertIn("stamp", self.window.card.buttons)
        self.canvas.setFocus()
        self.keys("b", on=self.canvas)
        self.assertEqual(self.slip_of(StampSlip).heading.text(), "Stamp")
        self.assertIn("click where it goes", self.top_words)


class Layers(WindowTest):
    def test_a_layer_from_outside_is_painted_over_those_below_and_anew_when_what_it_hangs_on_changes(
        self,
    ) -> None:
        painted: list[str] = []

        def paint(
            canvas: RestingCanvas, painter: QPainter, clip: QRectF, camera: Camera
        ) -> Iterator[None]:
            painted.append(canvas._session.job.name)
            x, y = camera.view(30, 30)
            painter.fillRect(QRectF(x - 10, y - 10, 20, 20), QColor("#3C8259"))
            yield

        layer = CanvasLayer("stamp", lambda canvas: canvas._session.job.name, paint)
        LAYERS.append(layer)
        self.addCleanup(LAYERS.remove, layer)
        self.session.start(Job("One"), None)
        self.settle()
        at = self.place(30, 30)
        self.assertEqual(self.canvas.grab().toImage().pixelColor(at).name(), "#3c8259")
        before = len(painted)
        self.canvas.update()
        self.settle()
        self.assertEqual(len(painted), before, "nothing that it hangs on has changed")
        self.session.edit("name", replace(self.session.job, name="Two"))
        self.settle()
        self.assertEqual(painted[-1], "Two")
