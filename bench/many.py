"""A great many contours in the real window: the longest that one event keeps the window's thread, in
processor time, as all of them are chosen, pointed at, moved, coloured, taken back and cut.

Each number of contours runs in a process of its own.
"""

from __future__ import annotations

import gc
import os
import resource
import statistics
import sys
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT)]
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QEvent, QObject, QPoint, Qt  # noqa: E402
from PyQt6.QtTest import QTest  # noqa: E402
from PyQt6.QtWidgets import QApplication  # noqa: E402

from draxet.geometry.contour import Contour  # noqa: E402
from draxet.job.contour_edits import add_contours  # noqa: E402
from draxet.job.records import Job  # noqa: E402
from draxet.job.sheet_records import Sheet  # noqa: E402
from draxet.progress import Unwatched  # noqa: E402
from draxet.ui.model.garbage import Garbage  # noqa: E402
from draxet.ui.model.stage import Stage  # noqa: E402
from draxet.ui.shell.ahead import _load  # noqa: E402
from draxet.ui.shell.window import Window  # noqa: E402
from draxet.ui.stages.colour_menu import give_colour  # noqa: E402

__all__ = ["COUNTS", "contours"]

COUNTS = (5_000, 10_000, 20_000)
_ROUNDS = 3
"""Of so many the middle one is told, but for *cut*: a busy machine charges single ones with what is
not theirs."""


class _App(QApplication):
    """Notes how long the longest event was at work."""

    longest, depth = 0.0, 0

    def notify(self, receiver: QObject | None, event: QEvent | None) -> bool:
        if self.depth:
            return super().notify(receiver, event)
        self.depth, begun = 1, time.thread_time()
        try:
            return super().notify(receiver, event)
        finally:
            self.depth = 0
            self.longest = max(self.longest, time.thread_time() - begun)


class _Busy(Garbage):
    """As for a hand that never rests, within the minutes in which nothing is made of that."""

    def at_work(self) -> bool:
        self._waited = 0
        return True


def contours(count: int) -> list[Contour]:
    """Circles, boxes and outlines of twelve lines, side by side."""
    rng, wide = np.random.default_rng(1), int(np.ceil(np.sqrt(count)))
    found, turns = list[Contour](), np.arange(12) * np.pi / 6
    for k in range(count):
        x, y, r = 10.0 + 10 * (k % wide), 10.0 + 10 * (k // wide), float(rng.uniform(1.5, 4))
        if k % 3 == 0:
            found.append(Contour.circle(x, y, r))
        elif k % 3 == 1:
            found.append(Contour.make([(x - r, y - r), (x + r, y - r), (x + r, y + r)]))
        else:
            places = np.column_stack([x + r * np.cos(turns), y + r * np.sin(turns)])
            found.append(Contour.make(places))
    return found


def _library(some: list[Contour]) -> float:
    """Processor time of moving the same places by NumPy alone, one array for each contour."""
    begun = time.thread_time()
    for contour in some:
        _ = contour.nodes + (1.0, 0.0)
    return time.thread_time() - begun


def _whole_round() -> float:
    """Processor time of what `Garbage` does with all objects while the hand rests."""
    begun = time.thread_time()
    gc.collect()
    gc.freeze()
    return time.thread_time() - begun


def run(count: int) -> str:
    """The row of so many."""
    app = _App(["draxet", "-style", "fusion"])
    _Busy(app)
    sys.setswitchinterval(0.001)
    _load(Unwatched())
    window = Window()
    window.resize(1280, 800)
    window.show()
    session, canvas = window.session, window.canvas

    def settle() -> None:
        quiet = 0
        while quiet < 8:
            QTest.qWait(10)
            quiet = 0 if window.workers.busy() else quiet + 1

    def longest(act: Callable[[], object]) -> float:
        app.longest, begun = 0.0, time.thread_time()
        act()
        direct = time.thread_time() - begun
        settle()
        return max(app.longest, direct)

    def point(k: int) -> None:
        QTest.mouseMove(canvas, QPoint(300 + 7 * k, 300 + 3 * k))

    def nudge() -> None:
        canvas.setFocus()
        QTest.keyClick(canvas, Qt.Key.Key_Right)

    some = contours(count)
    wide = 20 + 10 * int(np.ceil(np.sqrt(count)))
    session.start(add_contours(Job(sheets=(Sheet(width=wide, height=wide),)), some), None)
    settle()
    session.open_stage(Stage.MEND)
    window.commands["pick"].run()
    ids = frozenset(item.id for item in session.job.contours)
    rounds: dict[str, list[float]] = {}
    for _ in range(_ROUNDS):
        for name, took in {
            "chosen": longest(lambda: session.selection.choose(ids)),
            "pointed at": max(longest(partial(point, k)) for k in range(12)),
            "moved": longest(nudge),
            "taken back": longest(session.undo),
            "coloured": longest(lambda: give_colour(session, "#cc2233")),
        }.items():
            rounds.setdefault(name, []).append(took)
        session.undo()
        session.selection.choose(frozenset())
        settle()
    told = {name: statistics.median(took) for name, took in rounds.items()}
    session.selection.choose(ids)
    session.open_stage(Stage.MAKE)
    window.commands["cut"].run()
    settle()
    told["cut"] = longest(lambda: window.slips.slip.give.click())  # type: ignore[union-attr]
    plain = _library(some)
    first = _whole_round()
    session.open_stage(Stage.MEND)
    settle()
    nudge()
    settle()
    again = _whole_round()
    words = ", ".join(f"{name} {1000 * took:.0f}" for name, took in told.items())
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
    return (
        f"many            {count} contours: longest on the window's thread, ms: {words} (wanted: 50 each), "
        f"and all objects gone through while the hand rests {1000 * first:.0f}, after that and all moved {1000 * again:.0f}; "
        f"moved one by one by the library alone {1000 * plain:.0f}; peak {peak} MB"
    )


if __name__ == "__main__":
    print(run(int(sys.argv[1])), flush=True)
    os._exit(0)
