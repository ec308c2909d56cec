"""The time line of a rehearsal: what is done when, at a glance, and the place where it stands;
scrubbed by the mouse and by the keys."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QWheelEvent,
)
from PyQt6.QtWidgets import QAbstractSlider, QToolTip

from draxet.machines.rehearsal_records import Rehearsal
from draxet.ui.look.style import px
from draxet.ui.look.tokens import LIGHT

__all__ = ["TimeLine"]

_HIGH, _BAR = 30, 14
_STEP = 0.01
_MOST_PARTS = 4000


class TimeLine(QAbstractSlider):
    """Dark where it cuts through, brass where it marks, empty where it travels; a tick where a
    piece comes loose, a square where it waits for somebody, a fault's mark where something goes
    wrong."""

    moved = pyqtSignal(float)
    """Seconds."""

    def __init__(self) -> None:
        super().__init__()
        self.setOrientation(Qt.Orientation.Horizontal)
        self.setFixedHeight(px(_HIGH))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Time of the run")
        self._parts: list[tuple[float, float, bool]] = []
        self._ticks: list[float] = []
        self._faults: list[float] = []
        self._stops: list[float] = []
        self._run: Rehearsal | None = None
        self._whole = 0.0
        self.seconds = 0.0

    def show_run(self, run: Rehearsal | None) -> None:
        """Another run."""
        self._run, self._stops = run, []
        self.setRange(0, round(10 * run.seconds) if run else 0)
        self._parts, self._ticks, self._faults, self._whole = (
            [],
            [],
            [],
            run.seconds if run else 0.0,
        )
        if run is not None and run.seconds > 0:
            self._parts = _parts(run)
            self._ticks = [float(run.ends[piece.move]) / run.seconds for piece in run.loose]
            self._stops = [seconds / run.seconds for seconds, _ in run.stops]
            at = np.searchsorted(run.steps.line, [trouble.line for trouble in run.troubles])
            self._faults = [
                float(run.ends[min(k, len(run.ends) - 1)]) / run.seconds for k in at.tolist()
            ]
        self.update()

    def go(self, seconds: float) -> None:
        """Show another moment."""
        self.seconds = seconds
        self.setValue(round(10 * seconds))
        self.setAccessibleDescription(f"{seconds:.1f} of {self._whole:.1f} seconds")
        self.update()

    def words_at(self, x: float) -> str:
        """What is done there, as the tip tells it."""
        run = self._run
        if run is None or not len(run.ends):
            return "dark: cut through · brass: marked · a tick: a piece comes loose · a square: it waits for you · a triangle: something goes wrong"
        seconds = self._seconds_at(x)
        k = min(int(np.searchsorted(run.ends, seconds, side="right")), len(run.ends) - 1)
        said = run.steps.remark(int(run.steps.line[k])) if run.work[k] else ""
        what = "cut through" if run.through[k] else "marked" if run.work[k] else "travel"
        return f"{seconds:.1f} s · line {run.steps.line[k]} · {what}" + f"\n{said[:80]}" * bool(
            said
        )

    # --- the mouse and the keys

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            QToolTip.showText(event.globalPos(), self.words_at(event.pos().x()), self)
            return True
        return super().event(event)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._to(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self._to(event.position().x())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        ways = {
            Qt.Key.Key_Left: self.seconds - _STEP * self._whole,
            Qt.Key.Key_Right: self.seconds + _STEP * self._whole,
            Qt.Key.Key_Home: 0.0,
            Qt.Key.Key_End: self._whole,
        }
        if event.key() in ways:
            self.moved.emit(min(max(ways[Qt.Key(event.key())], 0.0), self._whole))
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """No turn of the wheel past it moves the run."""
        if event is not None:
            event.ignore()

    def _to(self, x: float) -> None:
        self.moved.emit(self._seconds_at(x))

    def _seconds_at(self, x: float) -> float:
        return min(max((x - 2) / max(self.width() - 4, 1), 0.0), 1.0) * self._whole

    # --- painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        wide, top, high = float(self.width()), px(_HIGH - _BAR) / 2, float(px(_BAR))
        painter.setPen(
            QPen(QColor(LIGHT.ring if self.hasFocus() else LIGHT.edge), 2 if self.hasFocus() else 1)
        )
        painter.setBrush(QColor(LIGHT.field))
        painter.drawRoundedRect(QRectF(1, top, wide - 2, high), 3, 3)
        painter.setPen(Qt.PenStyle.NoPen)
        for begin, end, through in self._parts:
            painter.fillRect(
                QRectF(
                    2 + begin * (wide - 4), top + 2, max((end - begin) * (wide - 4), 0.6), high - 4
                ),
                QColor(LIGHT.marking_blue if through else LIGHT.brass),
            )
        painter.setPen(QPen(QColor(LIGHT.graphite), 1.4))
        for tick in self._ticks:
            painter.drawLine(
                round(2 + tick * (wide - 4)),
                round(top + high + 1),
                round(2 + tick * (wide - 4)),
                round(top + high + 5),
            )
        for stop in self._stops:
            x = 2 + stop * (wide - 4)
            painter.fillRect(QRectF(x - 2.5, top + high + 1, 5, 5), QColor(LIGHT.brass_text))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(LIGHT.coral))
        for fault in self._faults:
            x = 2 + fault * (wide - 4)
            painter.drawPolygon(_triangle(x, top))
        if self._whole > 0:
            x = 2 + self.seconds / self._whole * (wide - 4)
            painter.setPen(QPen(QColor(LIGHT.slip), 4))
            painter.drawLine(round(x), 1, round(x), self.height() - 2)
            painter.setPen(QPen(QColor(LIGHT.brass_text), 2))
            painter.drawLine(round(x), 1, round(x), self.height() - 2)
        painter.end()


def _triangle(x: float, top: float) -> QPolygonF:
    return QPolygonF([QPointF(x - 3.5, top - 6), QPointF(x + 3.5, top - 6), QPointF(x, top)])


def _parts(run: Rehearsal) -> list[tuple[float, float, bool]]:
    """Stretches of work as shares of the whole time, and whether they go through; neighbours that
    are alike are one."""
    kind = np.where(run.through, 2, np.where(run.work, 1, 0))
    changes = np.flatnonzero(np.diff(kind)) + 1
    first, last = np.append(0, changes), np.append(changes, len(kind)) - 1
    begins = np.append(0.0, run.ends)[first] / run.seconds
    ends = run.ends[last] / run.seconds
    found: list[tuple[float, float, bool]] = []
    for begin, end, each in zip(begins.tolist(), ends.tolist(), kind[first].tolist(), strict=True):
        if not each:
            continue
        if found and found[-1][2] is (each == 2) and (begin - found[-1][1]) * _MOST_PARTS < 1:
            found[-1] = (found[-1][0], end, each == 2)
        else:
            found.append((begin, end, each == 2))
    return found
