"""Starts the window, and sees to it that no error is lost: the job is kept and people are told in
words."""

from __future__ import annotations

import contextlib
import os
import signal
import sys
from collections.abc import Sequence
from functools import cache
from pathlib import Path
from types import TracebackType
from typing import NoReturn

from PyQt6.QtCore import QCoreApplication, QTimer
from PyQt6.QtWidgets import QApplication, QMessageBox

from draxet.ui.controls.slip_parts import set_part
from draxet.ui.look.style import dress
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.garbage import Garbage
from draxet.ui.model.stage import Stage
from draxet.ui.shell.ahead import load_ahead
from draxet.ui.shell.window import Window

__all__ = ["Catcher", "make_app", "run_window"]

_SWITCH_S = 0.001
"""So long a worker holds up the window at the most; a fifth of what is usual."""


@cache
def make_app() -> QApplication:
    """The process's one application, dressed. It lives as long as the process: fonts, pictures and
    timers that outlast a window would otherwise be left without it."""
    app = QApplication(["draxet", "-style", "fusion"])
    app.setApplicationName("Draxet")
    app.setDesktopFileName("draxet")
    dress(app, LIGHT)
    Garbage(app)
    return app


def run_window(arguments: Sequence[str]) -> int:
    """Show the window: empty, with a demo job (``demo``, ``demo leaf``, ``demo badge``), or with
    the files named; the process ends with it. Returns only where there is no display, the
    status."""
    if why := no_display():
        print(f"draxet: {why}", file=sys.stderr)
        return 2
    windows: list[Window] = []
    catcher = Catcher(windows)
    sys.excepthook = catcher.caught
    sys.setswitchinterval(_SWITCH_S)
    app = make_app()
    window = Window()
    windows.append(window)
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, lambda number, frame: catcher.ended(number))
    window.show()
    load_ahead(window.workers)
    if list(arguments[:1]) == ["demo"]:
        from draxet.ui.demo import DEMOS, demo_job

        name = arguments[1] if len(arguments) > 1 else "bracket"
        if name in DEMOS:
            window.session.start(demo_job(name), None)
            window.session.open_stage(Stage.TRUE_UP)
        else:
            window.session.messages.refused.emit(
                f"There is no demo named {name}; choose one of {', '.join(DEMOS)}."
            )
    elif arguments:
        window.open_files([Path(name) for name in arguments])
    else:
        QTimer.singleShot(0, window.offer_what_was_left)
    _leave(app.exec())


def _leave(status: int) -> NoReturn:
    """End the process, whatever workers still do: all that anybody wants is kept by now, and Qt and
    Python taken apart under them have crashed."""
    for stream in (sys.stdout, sys.stderr):
        with contextlib.suppress(OSError, ValueError):
            stream.flush()
    os._exit(status)


def no_display() -> str:
    """Why no window can be shown, as a sentence; empty where one can. Qt itself would end the
    program without a word to people."""
    if os.environ.get("QT_QPA_PLATFORM", "xcb").split(":")[0] != "xcb" or os.environ.get(
        "WAYLAND_DISPLAY"
    ):
        return ""
    name = os.environ.get("DISPLAY", "")
    if not name:
        return "there is no display to show a window on; DISPLAY is not set (draxet trace works without one)"
    import ctypes  # not needed where Qt needs no display

    try:
        xcb = ctypes.CDLL("libxcb.so.1")
        xcb.xcb_connect.restype = ctypes.c_void_p
        connection = ctypes.c_void_p(xcb.xcb_connect(None, None))
        failed = xcb.xcb_connection_has_error(connection)
        xcb.xcb_disconnect(connection)
    except OSError:
        return ""
    return (
        f"the display {name} cannot be reached (draxet trace works without one)" if failed else ""
    )


class Catcher:
    """Errors that nobody caught: the job is kept beside where it lies, and one dialog says so.
    While it stands, and for an error that was told already, no other one opens."""

    def __init__(self, windows: list[Window]) -> None:
        self._windows = windows
        self._told: set[str] = set()
        self._box: QMessageBox | None = None

    def caught(
        self, kind: type[BaseException], error: BaseException, trace: TracebackType | None
    ) -> None:
        """As ``sys.excepthook``."""
        import traceback  # only needed here

        traceback.print_exception(kind, error, trace)
        place = traceback.extract_tb(trace)[-1:] if trace else []
        which = f"{kind.__name__} {[(p.filename, p.lineno) for p in place]}"
        if which in self._told or self._box is not None or QApplication.instance() is None:
            return
        self._told.add(which)
        words = f"Something went wrong that Draxet did not expect. {self._rescue()}\n\nThe last step can be undone.\n\n({kind.__name__}: {error})"
        self._box = box = QMessageBox(self._windows[0] if self._windows else None)
        box.setWindowTitle("Draxet")
        box.setText(words)
        if go_on := box.addButton("Go on", QMessageBox.ButtonRole.AcceptRole):
            set_part(go_on, part="main")
        box.finished.connect(self._closed)
        box.open()  # nothing waits for it: what went wrong while painting may go wrong again at once

    def ended(self, number: int) -> None:
        """Ended from outside (Ctrl+C in its terminal, or the desktop that closes): nobody is asked,
        what is not saved is kept and offered at the next start."""
        self._rescue()
        for window in self._windows:
            window.workers.close()
        QCoreApplication.exit(128 + number)

    def _closed(self) -> None:
        if self._box is not None:
            self._box.deleteLater()
        self._box = None

    def _rescue(self) -> str:
        if not self._windows or self._windows[0].session.document.history.is_saved:
            return "Your job is as you saved it."
        from draxet.job.recovery import rescue  # only needed here
        from draxet.ui.shell.autosave import copies_folder

        try:
            place = self._windows[0].autosave.keeper().claim()
            rescue(self._windows[0].session.job, copies_folder(), place.stem)
        except Exception as error:  # the last resort: whatever it is, the job is still open
            return f"Your job is still open; save it now. (It could not be kept: {error})"
        return "Your job was kept, and is offered at the next start if it is not saved before."
