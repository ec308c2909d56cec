"""Starts the window, and sees to it that no error is lost: the job is kept and people are told in words."""

from __future__ import annotations

import sys
import traceback
from collections.abc import Sequence
from pathlib import Path
from types import TracebackType

from PyQt6.QtWidgets import QApplication, QMessageBox

from draxet.ui.look.style import dress
from draxet.ui.look.tokens import LIGHT
from draxet.ui.shell.rubbish import collect_on_this_thread
from draxet.ui.shell.session import Stage
from draxet.ui.shell.window import Window

__all__ = ["make_app", "run_window"]


def make_app() -> QApplication:
    """The application, dressed."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication(["draxet"])
        app.setApplicationName("Draxet")
        app.setDesktopFileName("draxet")
        dress(app, LIGHT)
        collect_on_this_thread(app)
    return app


def run_window(arguments: Sequence[str]) -> int:
    """Show the window: empty, with a demo job (``demo``, ``demo leaf``, ``demo badge``), or with the files named."""
    windows: list[Window] = []
    _catch_everything(windows)
    app = make_app()
    window = Window()
    windows.append(window)
    window.show()
    if list(arguments[:1]) == ["demo"]:
        from draxet.ui.demo import DEMOS, demo_job

        name = arguments[1] if len(arguments) > 1 else "bracket"
        if name in DEMOS:
            window.session.start(demo_job(name), None)
            window.session.open_stage(Stage.TRUE_UP)
        else:
            window.session.refused.emit(f"There is no demo named {name}; choose one of {', '.join(DEMOS)}.")
    elif arguments:
        window.open_files([Path(name) for name in arguments])
    return app.exec()


def _catch_everything(windows: list[Window]) -> None:
    """Errors that nobody caught save the job beside where it lies and show one dialog."""

    def caught(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        traceback.print_exception(kind, error, trace)
        kept = _rescue(windows)
        if QApplication.instance() is not None:
            QMessageBox.critical(None, "Draxet", f"Something went wrong that Draxet did not expect. {kept}\n\nThe last step can be undone.\n\n({kind.__name__}: {error})")

    sys.excepthook = caught


def _rescue(windows: list[Window]) -> str:
    if not windows or windows[0].session.history.is_saved:
        return "Your job is as you saved it."
    from platformdirs import user_state_path  # only needed here

    from draxet.job.file import save_job

    place = user_state_path("draxet", ensure_exists=True) / "rescued.draxet"
    try:
        save_job(windows[0].session.job, place)
    except (ValueError, OSError):
        return "Your job is still open; save it now."
    return f"Your job was kept as {place}."
