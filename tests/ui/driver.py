"""Drives the real window with real mouse and key events, and fails a test for what Qt warns of or a
thread leaves behind."""

from __future__ import annotations

import gc
import math
import sys
import tempfile
import threading
import time
import traceback
import unittest
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar
from unittest import mock

from PyQt6.QtCore import QPoint, QPointF, Qt, QTimer, QtMsgType, qInstallMessageHandler
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QApplication,
    QCheckBox,
    QDialog,
    QLineEdit,
    QMessageBox,
    QPushButton,
    QWidget,
)

from draxet.job.findings import Finding
from draxet.ui.app import make_app
from draxet.ui.model.stage import Stage
from draxet.ui.model.tool import Tool
from draxet.ui.shell.window import Window
from draxet.ui.stages.prove.hand_off import HandOffSlip
from draxet.ui.stages.slip import Slip

__all__ = ["WindowTest"]

_SlipKind = TypeVar("_SlipKind", bound=Slip)
_ToolKind = TypeVar("_ToolKind", bound=Tool)

_HARMLESS = (
    "propagateSizeHints",
    "XDG_RUNTIME_DIR",
    "does not support raise",
    "Could not connect to any X display",
    "does not support grabbing",
    "AtSpiAdaptor",
)

_PATIENCE = 10
_PATIENCE_S = 120
"""So long work may take on a machine that is busy with other things."""


class WindowTest(unittest.TestCase):
    """A test with a window of its own."""

    def setUp(self) -> None:
        self.warnings: list[str] = []
        self.errors: list[str] = []
        self._hook = sys.excepthook
        own = tempfile.TemporaryDirectory()
        self.addCleanup(own.cleanup)
        places = mock.patch.dict(
            "os.environ",
            {"XDG_STATE_HOME": f"{own.name}/state", "XDG_CONFIG_HOME": f"{own.name}/config"},
        )
        places.start()
        self.addCleanup(places.stop)
        sys.excepthook = lambda *caught: self.errors.append(
            "".join(traceback.format_exception(*caught))
        )
        self._handler = qInstallMessageHandler(self._take_message)
        self.app = make_app()
        self.window = Window()
        self.window.show()
        QTest.qWaitForWindowExposed(self.window)
        self.window.activateWindow()
        QTest.qWaitForWindowActive(self.window)
        self.session, self.canvas = self.window.session, self.window.canvas
        self.canvas.frame_seconds = math.inf  # nothing depends on how quick a machine is
        self._left_open = 0
        self._watch = QTimer()
        self._watch.timeout.connect(self._end_what_waits)
        self._watch.start(1000)
        self.settle()

    def tearDown(self) -> None:
        self._watch.stop()
        self.session.document.history = self.session.document.history.after_save()
        self.window.close()
        self.window.deleteLater()
        self.settle()
        gc.collect()
        qInstallMessageHandler(self._handler)
        sys.excepthook = self._hook
        self.assertEqual(self.errors, [])
        self.assertEqual(self.warnings, [])
        left = [t for t in threading.enumerate() if t.name.startswith("draxet")]
        for thread in left:
            thread.join(_PATIENCE)  # what was told to stop while it was within a library
        self.assertEqual([t.name for t in left if t.is_alive()], [])

    def _end_what_waits(self) -> None:
        """A dialog that nobody answers would hold the test for ever."""
        dialog = QApplication.activeModalWidget()
        self._left_open = self._left_open + 1 if dialog else 0
        if isinstance(dialog, QDialog) and self._left_open > _PATIENCE:
            self.errors.append(f"a dialog was left open: {dialog.windowTitle()}")
            dialog.reject()

    def _take_message(self, kind: QtMsgType, context: object, words: str | None) -> None:
        if kind != QtMsgType.QtDebugMsg and not any(word in (words or "") for word in _HARMLESS):
            self.warnings.append(words or "")

    def settle(self, milliseconds: int = 20) -> None:
        """Let events run, and work end."""
        until = time.monotonic() + milliseconds / 1000
        limit = time.monotonic() + _PATIENCE_S
        while time.monotonic() < until or (self.window.workers.busy() and time.monotonic() < limit):
            QTest.qWait(5)
        if time.monotonic() >= limit:
            self.fail(f"work is still going on: {self._what_goes_on()}")
        QApplication.sendPostedEvents(None, 0)
        QApplication.processEvents()  # what the last answer changed is shown

    def _what_goes_on(self) -> str:
        """The lanes that are busy, and where each thread is."""
        stacks = ("".join(traceback.format_stack(f)[-4:]) for f in sys._current_frames().values())
        return "\n".join([*self.window.workers._newest, *stacks])

    def wait_for(self, true: Callable[[], bool]) -> None:
        limit = time.monotonic() + _PATIENCE_S
        while not true() and time.monotonic() < limit:
            QTest.qWait(10)
        self.assertTrue(true())

    # --- hands

    def place(self, x: float, y: float) -> QPoint:
        """Where a place in job space is on the canvas."""
        return QPoint(*(round(v) for v in self.canvas.camera.view(x, y)))

    def hover(self, x: float, y: float) -> None:
        QTest.mouseMove(self.canvas, self.place(x, y))
        self.settle(5)

    def click(
        self, x: float, y: float, held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier
    ) -> None:
        self.hover(x, y)
        QTest.mouseClick(self.canvas, Qt.MouseButton.LeftButton, held, self.place(x, y))
        self.settle(5)

    def drag(
        self,
        start: tuple[float, float],
        end: tuple[float, float],
        button: Qt.MouseButton = Qt.MouseButton.LeftButton,
        held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
    ) -> None:
        a, b = self.place(*start), self.place(*end)
        QTest.mouseMove(self.canvas, a)
        QTest.mousePress(self.canvas, button, held, a)
        for k in range(1, 6):
            QTest.mouseMove(self.canvas, a + (b - a) * k / 5)
        QTest.mouseRelease(self.canvas, button, held, b)
        self.settle(5)

    def wheel(self, x: float, y: float, notches: int) -> None:
        at = QPointF(self.place(x, y))
        QApplication.sendEvent(
            self.canvas,
            QWheelEvent(
                at,
                self.canvas.mapToGlobal(at),
                QPoint(),
                QPoint(0, 120 * notches),
                Qt.MouseButton.NoButton,
                Qt.KeyboardModifier.NoModifier,
                Qt.ScrollPhase.NoScrollPhase,
                False,
            ),
        )
        self.settle(5)

    def keys(
        self,
        *keys: Qt.Key | str,
        held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
        on: QWidget | None = None,
    ) -> None:
        for key in keys:
            QTest.keyClick(on or self.app.focusWidget() or self.canvas, key, held)
            self.settle(5)

    def take(self, name: str) -> None:
        """Take a tool in hand; the keys are the canvas's."""
        self.window.commands[name].run()
        self.canvas.setFocus()
        self.settle()

    def type_over(self, words: str) -> None:
        """Type over the canvas."""
        for letter in words:
            self.keys(
                {"\t": Qt.Key.Key_Tab, " ": Qt.Key.Key_Space, "\n": Qt.Key.Key_Return}.get(
                    letter, letter
                ),
                on=self.canvas,
            )

    def fill(self, field: QLineEdit, words: str) -> None:
        """Type into a field of the slip, and leave it."""
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, words)
        self.keys(Qt.Key.Key_Return, on=field)

    def press(self, button: QWidget) -> None:
        at = QPoint(8, button.height() // 2) if isinstance(button, QCheckBox) else QPoint()
        QTest.mouseClick(button, Qt.MouseButton.LeftButton, pos=at)  # a tick box: on its box
        self.settle(5)

    def answer(self, words: str) -> None:
        """Press a button of the next message box once it stands."""
        self.is_waiting = True

        def choose() -> None:
            box = QApplication.activeModalWidget()
            if isinstance(box, QMessageBox):
                self.is_waiting = False
                next(b for b in box.buttons() if b.text().replace("&", "") == words).click()
            else:
                QTimer.singleShot(20, choose)

        QTimer.singleShot(20, choose)

    def hand_off(self, path: Path) -> None:
        """A drawing leaves as the hand-off's slip says."""
        slip: Any = self.slip
        slip.settings.kinds = (path.suffix.removeprefix("."),)
        slip.leave_all(path.parent, path.stem)
        self.wait_for(lambda: not self.window.workers.busy("leaving"))

    def found(self, kind: str) -> Finding | None:
        return next(
            (finding for finding in self.session.looked.findings if finding.kind.startswith(kind)),
            None,
        )

    def mend(self, kind: str) -> None:
        """Wait for a finding, and press its button."""
        self.wait_for(lambda: self.found(kind) is not None)
        finding = self.found(kind)
        assert finding is not None and finding.mend is not None
        self.session.open_stage(Stage.PROVE)
        self.settle(50)
        slip = self.slip_of(HandOffSlip)
        press = next(
            each for each in slip.findChildren(QPushButton) if each.text() == finding.mend_words
        )
        self.press(press)
        self.wait_for(lambda: self.found(kind) is None)

    @property
    def top_words(self) -> str:
        return self.window.top_line.words.text()

    @property
    def slip(self) -> Slip:
        """Whatever slip is shown."""
        slip = self.window.slips.slip
        assert slip is not None
        return slip

    def slip_of(self, kind: type[_SlipKind]) -> _SlipKind:
        """The slip that is shown, which is of a kind."""
        assert isinstance(self.slip, kind), f"{kind.__name__} is wanted, {self.slip} is shown"
        return self.slip

    def tool_of(self, kind: type[_ToolKind]) -> _ToolKind:
        """The tool in hand, which is of a kind."""
        tool = self.session.tool
        assert isinstance(tool, kind), f"{kind.__name__} is wanted, {tool} is in hand"
        return tool
