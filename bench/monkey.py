"""A seeded monkey in the real window: tools, clicks, drags, keys, fields with sense and nonsense,
menus, undo, save and open, in any order and at any moment. What it must never meet: an error, a
warning of Qt's, a job that is not sound, or one that undo and redo or save and open do not give
back just as it was."""

from __future__ import annotations

import random
import sys
import tempfile
import traceback
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from unittest import mock

from PyQt6.QtCore import QPoint, QPointF, Qt, QTimer, QtMsgType, qInstallMessageHandler
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QCheckBox,
    QDialog,
    QFileDialog,
    QInputDialog,
    QLineEdit,
    QMenu,
    QMessageBox,
    QPushButton,
    QSlider,
    QWidget,
)

from draxet.geometry.contour import Contour
from draxet.geometry.shapes import rounded_polygon
from draxet.job.contour_edits import add_contours
from draxet.job.file import read_job
from draxet.job.records import Job
from draxet.job.sound import job_fault
from draxet.ui.controls.fields import Field, WordField
from draxet.ui.demo import DEMOS, demo_job
from draxet.ui.model.stage import Stage
from draxet.ui.shell.window import Window

__all__ = ["Monkey", "Report"]

_WORDS = (
    "240",
    "12.5",
    "9 7/16 in",
    "2' 0 1/8\"",
    "0",
    "-3",
    "",
    "abc",
    "1e400",
    "(" * 50,
    "9" * 60,
    "²",
    "50 %",
    "0.001",
    "99999",
    "nan",
    "\ud83d\ude00",
    "3*4+1/2",
    "10 km",
    "128",
)
_LEFT_ALONE = {
    "quit",
    "about",
    "keys",
    "find",
    "camera",
    "recent",
    "choose",
    "paste",
    "paste-anywhere",
}
"""Commands that open what the monkey cannot answer, or that take from the user's own folders and
clipboard."""


@dataclass
class Report:
    """What went wrong, with the last actions before it; and how many actions there were."""

    actions: int = 0
    faults: list[str] = field(default_factory=list)


class Monkey:
    """Drives one window."""

    def __init__(self, window: Window, seed: int, folder: Path) -> None:
        self.window, self.rng, self.folder = window, random.Random(seed), folder
        self.session, self.canvas = window.session, window.canvas
        self.report = Report()
        self.last: list[str] = []

    # --- the run

    def run(self, actions: int) -> Report:
        hook, sys.excepthook = (
            sys.excepthook,
            lambda *caught: self.fault("".join(traceback.format_exception(*caught))),
        )
        handler = qInstallMessageHandler(self._message)
        watch = QTimer()
        watch.timeout.connect(self._answer)
        watch.start(15)
        saving = mock.patch.object(QFileDialog, "getSaveFileName", self._save_name)
        opening = mock.patch.object(QFileDialog, "getOpenFileName", self._open_name)
        naming = mock.patch.object(
            QInputDialog,
            "getText",
            lambda *_, **__: (
                self.rng.choice(("a set-up", "", "x/y", "é" * 90)),
                self.rng.random() < 0.7,
            ),
        )
        choosing = mock.patch.object(
            QInputDialog, "getItem", lambda *_: ("a set-up", self.rng.random() < 0.5)
        )
        try:
            with saving, opening, naming, choosing:
                self._begin()
                for _ in range(actions):
                    self._step()
                    if self.report.faults:
                        break
                self._settle()
                self._whole_walk()
        finally:
            watch.stop()
            qInstallMessageHandler(handler)
            sys.excepthook = hook
        return self.report

    def fault(self, words: str) -> None:
        self.report.faults.append(f"{words}\nafter: {' | '.join(self.last[-14:])}")

    def _message(self, kind: QtMsgType, context: object, words: str | None) -> None:
        if kind != QtMsgType.QtDebugMsg and not any(
            known in (words or "")
            for known in (
                "propagateSizeHints",
                "XDG_RUNTIME_DIR",
                "does not support raise",
                "This plugin",
            )
        ):
            self.fault(f"Qt: {words}")

    def _answer(self) -> None:
        """Press some button of a dialog that stands, shut a menu."""
        popup = QApplication.activePopupWidget()
        if isinstance(popup, QMenu):
            popup.close()
        box = QApplication.activeModalWidget()
        if isinstance(box, QMessageBox):
            self.rng.choice(box.buttons()).click()
        elif isinstance(box, QDialog):
            box.reject()

    def _settle(self, milliseconds: int = 0) -> None:
        QTest.qWait(milliseconds)
        for _ in range(2000):
            if not self.window.workers.busy():
                break
            QTest.qWait(5)

    def _begin(self) -> None:
        job = demo_job(self.rng.choice(list(DEMOS)))
        slit = Contour.make([(20, 20), (60, 35)], closed=False)
        shapes = [
            rounded_polygon([(80, 80, 6), (160, 80, 0), (160, 140, 12), (80, 140, 0)]),
            Contour.circle(110, 110, 8),
            Contour.circle(40, 90, 15),
            slit,
        ]
        self.session.start(job, None)
        self.session.edit(
            "begin", add_contours(job, shapes)
        )  # where what closes is taken, they are

    def _step(self) -> None:
        self.report.actions += 1
        acts: list[tuple[int, Callable[[], str]]] = [
            (14, self._click),
            (9, self._drag),
            (10, self._command),
            (5, self._stage),
            (12, self._field),
            (8, self._button),
            (4, self._slider),
            (8, self._key),
            (3, self._wheel),
            (6, self._undo),
            (3, self._redo),
            (2, self._save),
            (1, self._open),
            (1, self._new),
            (2, self._held),
            (4, self._wait),
            (1, self._drop),
        ]
        act = self.rng.choices([act for _, act in acts], [weight for weight, _ in acts])[0]
        self.last.append(act.__name__)
        try:
            self.last[-1] = f"{act.__name__[1:]} {act()}"
        except Exception:
            self.fault(traceback.format_exc())
        if fault := job_fault(self.session.job):
            self.fault(f"not sound: {fault}")
        if self.rng.random() < 0.02:
            self._there_and_back()

    # --- acts

    @property
    def pane(self) -> QWidget:
        """The canvas, or the bodies that are seen in its place."""
        return self.window.bodies.pane

    def _place(self) -> QPoint:
        return QPoint(
            self.rng.randrange(max(self.canvas.width(), 1)),
            self.rng.randrange(max(self.canvas.height(), 1)),
        )

    def _on_something(self) -> QPoint:
        """Somewhere on the canvas, mostly on a node or a contour."""
        items = self.session.job.contours
        if items and self.rng.random() < 0.6:
            nodes = self.rng.choice(items).contour.nodes
            x, y = nodes[self.rng.randrange(len(nodes))].tolist()
            return QPoint(*(round(v) for v in self.canvas.camera.view(x, y))) + QPoint(
                self.rng.randrange(-4, 5), self.rng.randrange(-4, 5)
            )
        return self._place()

    def _modifier(self) -> Qt.KeyboardModifier:
        return self.rng.choice(
            [Qt.KeyboardModifier.NoModifier] * 4
            + [
                Qt.KeyboardModifier.ShiftModifier,
                Qt.KeyboardModifier.AltModifier,
                Qt.KeyboardModifier.ControlModifier,
            ]
        )

    def _click(self) -> str:
        at, held = self._on_something(), self._modifier()
        QTest.mouseMove(self.pane, at)
        button = (
            Qt.MouseButton.LeftButton if self.rng.random() < 0.95 else Qt.MouseButton.RightButton
        )
        if self.rng.random() < 0.05:
            QTest.mouseDClick(self.pane, button, held, at)
        else:
            QTest.mouseClick(self.pane, button, held, at)
        return f"{at.x()},{at.y()}"

    def _drag(self) -> str:
        a, b = self._on_something(), self._place()
        button = (
            Qt.MouseButton.MiddleButton if self.rng.random() < 0.2 else Qt.MouseButton.LeftButton
        )
        QTest.mouseMove(self.pane, a)
        QTest.mousePress(self.pane, button, self._modifier(), a)
        words = ""
        for k in range(1, 4):
            QTest.mouseMove(self.pane, a + (b - a) * k / 3)
            if self.rng.random() < 0.15:
                words = self.rng.choice((self._undo, self._key, self._stage, self._remove))()
        QTest.mouseRelease(self.pane, button, Qt.KeyboardModifier.NoModifier, b)
        return f"to {b.x()},{b.y()} {words}"

    def _run(self, command_id: str) -> str:
        self.window._run(self.window.commands[command_id])
        return command_id

    def _command(self) -> str:
        return self._run(
            self.rng.choice(
                [
                    name
                    for name in self.window.commands
                    if name not in _LEFT_ALONE and not name.startswith("stage")
                ]
            )
        )

    def _remove(self) -> str:
        return self._run(self.rng.choice(("remove", "remove-picture")))

    def _stage(self) -> str:
        return self._run(f"stage-{self.rng.choice(list(Stage)).value}")

    def _undo(self) -> str:
        return self._run("undo")

    def _redo(self) -> str:
        return self._run("redo")

    def _parts(self, kind: type[Any]) -> list[Any]:
        return [
            part
            for part in self.window.findChildren(kind)
            if part.isVisible() and part.isEnabled() and part.window() is self.window
        ]

    def _field(self) -> str:
        fields: list[QLineEdit] = [*self._parts(Field), *self._parts(WordField)]
        if not fields:
            return "none"
        part, words = self.rng.choice(fields), self.rng.choice(_WORDS)
        part.setFocus()
        part.selectAll()
        if self.rng.random() < 0.5:
            part.insert(words)
        else:
            QTest.keyClicks(part, words.encode("ascii", "ignore").decode())
        end = self.rng.random()
        if end < 0.6:
            QTest.keyClick(part, Qt.Key.Key_Return)
        elif end < 0.8:
            self.pane.setFocus()
        return f"{part.accessibleName()} = {words[:20]!r}"

    def _button(self) -> str:
        buttons: list[QAbstractButton] = [
            b for b in [*self._parts(QPushButton), *self._parts(QCheckBox)] if self._is_ours(b)
        ]
        if not buttons:
            return "none"
        part = self.rng.choice(buttons)
        words = part.text() or part.accessibleName()
        QTest.mouseClick(part, Qt.MouseButton.LeftButton)
        return words

    @staticmethod
    def _is_ours(part: QWidget) -> bool:
        return not any(
            word
            in (part.accessibleName() + (part.text() if isinstance(part, QAbstractButton) else ""))
            for word in ("Camera", "Choose a picture", "Paste")
        )

    def _slider(self) -> str:
        sliders = self._parts(QSlider)
        if sliders:
            part = self.rng.choice(sliders)
            part.setValue(self.rng.randint(part.minimum(), part.maximum()))
            return part.accessibleName() or ""
        return "none"

    def _key(self) -> str:
        key = self.rng.choice(
            (
                Qt.Key.Key_Escape,
                Qt.Key.Key_Return,
                Qt.Key.Key_Delete,
                Qt.Key.Key_Tab,
                Qt.Key.Key_Space,
                Qt.Key.Key_Left,
                Qt.Key.Key_Up,
                Qt.Key.Key_Backspace,
                Qt.Key.Key_C,
                Qt.Key.Key_Q,
                Qt.Key.Key_W,
                Qt.Key.Key_E,
                Qt.Key.Key_R,
                Qt.Key.Key_T,
                Qt.Key.Key_A,
                Qt.Key.Key_S,
                Qt.Key.Key_D,
                Qt.Key.Key_F,
                Qt.Key.Key_7,
                Qt.Key.Key_Period,
                Qt.Key.Key_F7,
            )
        )
        if self.session.desk.stage is Stage.GATHER and key in (
            Qt.Key.Key_Q,
            Qt.Key.Key_W,
            Qt.Key.Key_E,
        ):
            return "not here"
        QTest.keyClick(
            self.pane,
            key,
            self._modifier()
            if key in (Qt.Key.Key_Left, Qt.Key.Key_Up)
            else Qt.KeyboardModifier.NoModifier,
        )
        return str(key)

    def _held(self) -> str:
        """A key held while something else happens."""
        key = self.rng.choice((Qt.Key.Key_Space, Qt.Key.Key_Tab))
        QTest.keyPress(self.pane, key)
        words = self.rng.choice((self._drag, self._click, self._stage))()
        QTest.keyRelease(self.pane, key)
        return words

    def _wheel(self) -> str:
        at = QPointF(self._place())
        QApplication.sendEvent(
            self.pane,
            QWheelEvent(
                at,
                self.pane.mapToGlobal(at),
                QPoint(),
                QPoint(0, self.rng.choice((-360, -120, 120, 240))),
                Qt.MouseButton.NoButton,
                Qt.KeyboardModifier.NoModifier,
                Qt.ScrollPhase.NoScrollPhase,
                False,
            ),
        )
        return ""

    def _wait(self) -> str:
        QTest.qWait(self.rng.choice((1, 10, 60)))
        return ""

    def _save(self) -> str:
        self._run("save-as")
        return ""

    def _open(self) -> str:
        self._run("open")
        return ""

    def _new(self) -> str:
        if self.rng.random() < 0.5:
            self._run("new")
        else:
            self._begin()
        return ""

    def _drop(self) -> str:
        """A file dropped: a picture, a drawing, nonsense."""
        path = self.folder / self.rng.choice(("plan.svg", "nonsense.png", "empty.dxf"))
        path.write_bytes(
            b'<svg xmlns="http://www.w3.org/2000/svg" width="90mm" height="90mm"><rect width="50" height="40"/><circle r="9"/></svg>'
            if path.suffix == ".svg"
            else b"nonsense"
        )
        self.window.open_files([path])
        return path.name

    def _save_name(self, *_: Any, **__: Any) -> tuple[str, str]:
        name = self.rng.choice(("a.draxet", "b", "gone/c.draxet", "part.dxf", "part.svg", ""))
        return (str(self.folder / name) if name else "", "")

    def _open_name(self, *_: Any, **__: Any) -> tuple[str, str]:
        name = self.rng.choice(("a.draxet", "b.draxet", "nowhere.draxet", ""))
        return (str(self.folder / name) if name else "", "")

    # --- what must hold

    def _there_and_back(self) -> None:
        """Undo and redo a few steps give the very same job."""
        while self.session.tool is not None and self.session.tool.step_back():
            pass  # in the midst of a gesture undo takes its last step back, and no step of the job
        job, count = self.session.job, 0
        while self.session.document.history.undo_words and count < 5:
            self.session.undo()
            count += 1
        for _ in range(count):
            self.session.redo()
        if self.session.job is not job:
            self.fault("undo and redo gave another job")

    def _whole_walk(self) -> None:
        """Undo and redo all the way, save and open."""
        job = self.session.job
        states = [job]
        while self.session.document.history.undo_words:
            self.session.undo()
            states.append(self.session.job)
        for wanted in reversed(states):
            if self.session.job is not wanted:
                self.fault("undo and redo all the way gave another job")
            self.session.redo()
        place = self.folder / "whole.draxet"
        self.window.jobs.save_to(place)
        self._settle()
        if not place.exists():
            self.fault(f"not saved: {self.window.top_line.words.text()}")
        elif self._plain(read_job(place)) != self._plain(self.session.job):
            self.fault("save and open gave another job")

    @staticmethod
    def _plain(job: Job) -> Job:
        return job


def main(arguments: list[str]) -> int:
    """``monkey.py ACTIONS SEED …``: a run for each seed."""
    from draxet.ui.app import make_app

    actions, seeds = int(arguments[0]), [int(seed) for seed in arguments[1:]] or [1]
    app = make_app()
    worst = 0
    for seed in seeds:
        with tempfile.TemporaryDirectory() as folder:
            window = Window()
            window.show()
            report = Monkey(window, seed, Path(folder)).run(actions)
            window.session.document.history = window.session.document.history.after_save()
            window.close()
            window.deleteLater()
            app.processEvents()
        resident = next(
            line.split()[1]
            for line in Path("/proc/self/status").read_text().splitlines()
            if line.startswith("VmRSS")
        )
        print(
            f"monkey          seed {seed}: {report.actions} actions, {len(report.faults)} faults, {int(resident) / 1000:.0f} MB",
            flush=True,
        )
        for fault in report.faults:
            print(fault)
        worst = max(worst, len(report.faults))
    return 1 if worst else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
