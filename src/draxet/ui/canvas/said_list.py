"""A list of what is drawn on the canvas, for whom reads by ear: it shows nothing itself, and each of
its rows lies where the thing is drawn."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import pairwise
from typing import Any

import numpy as np
from PyQt6.QtCore import (
    QEvent,
    QItemSelection,
    QItemSelectionModel,
    QItemSelectionRange,
    QModelIndex,
    QObject,
    QPoint,
    QRect,
    QRectF,
    QStringListModel,
    Qt,
)
from PyQt6.QtGui import QPaintEvent, QRegion
from PyQt6.QtWidgets import QAbstractItemView, QFrame, QListView

from draxet.ui.canvas.view_camera import Camera
from draxet.ui.canvas.viewed_canvas import ViewedCanvas

__all__ = ["SaidList"]

_MOST_RUNS = 400
"""Of more runs of chosen rows than these none is told as chosen: the list itself would take
seconds."""
_LEAST = 6
_HEARD = (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole)

Box = tuple[float, float, float, float]


class _Rows(QStringListModel):
    """As many empty words as there are things, since Qt counts rows again and again; said when a
    row is asked for."""

    def __init__(self, words: Callable[[Any], str]) -> None:
        super().__init__()
        self.things: Sequence[Any] = ()
        self._words = words

    def show(self, things: Sequence[Any]) -> None:
        self.things = things
        self.setStringList([""] * len(things))

    def data(self, index: QModelIndex, role: int = 0) -> Any:
        heard = role in _HEARD and index.row() < len(self.things)
        return self._words(self.things[index.row()]) if heard else None


class SaidList(QListView):
    """Things on a canvas, each told by `words`, lying in a `box` (job space). What is chosen by
    whoever reads is handed to `take`, by rows."""

    def __init__(
        self,
        canvas: ViewedCanvas,
        title: str,
        words: Callable[[Any], str],
        box: Callable[[Any], Box],
        take: Callable[[list[Any]], object],
    ) -> None:
        super().__init__(canvas)
        self._canvas, self._box, self._take = canvas, box, take
        self._rows = _Rows(words)
        self._chosen: object = None
        self._shows = False
        self.setModel(self._rows)
        canvas.installEventFilter(self)
        self.setGeometry(canvas.rect())
        self.setAccessibleName(title)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setUniformItemSizes(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setStyleSheet("background: transparent")
        choices = self.selectionModel()
        assert choices is not None
        self._choices = choices
        choices.selectionChanged.connect(self._taken)

    @property
    def things(self) -> Sequence[Any]:
        return self._rows.things

    def show_things(
        self, things: Sequence[Any], chosen: object, rows: Callable[[], list[int]]
    ) -> None:
        """Show these, of which the `rows` are chosen, in rising order; asked for only where things
        or what is `chosen` are other ones."""
        if things is self._rows.things and chosen == self._chosen:
            return
        if things is not self._rows.things:
            self._rows.show(things)
        self._chosen = chosen
        runs = _runs(rows())
        picked = QItemSelection()
        for first, last in runs if len(runs) <= _MOST_RUNS else ():
            picked.append(QItemSelectionRange(self._rows.index(first), self._rows.index(last)))
        self._shows = True
        self._choices.select(picked, QItemSelectionModel.SelectionFlag.ClearAndSelect)
        self._shows = False

    def _taken(self) -> None:
        if self._shows:
            return
        rows = sorted(index.row() for index in self._choices.selectedIndexes())
        self._take([self._rows.things[row] for row in rows])

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Resize:
            self.setGeometry(self._canvas.rect())
        return super().eventFilter(watched, event)

    def visualRect(self, index: QModelIndex) -> QRect:
        """Where the thing is drawn."""
        if not index.isValid() or index.row() >= len(self._rows.things):
            return QRect()
        x0, y0, x1, y1 = self._box(self._rows.things[index.row()])
        camera: Camera = self._canvas.camera
        (left, low), (right, high) = camera.view(x0, y0), camera.view(x1, y1)
        seen = QRectF(left, high, right - left, low - high)
        middle, wide = seen.center(), max(seen.width(), _LEAST)
        seen.setSize(QRectF(0, 0, wide, max(seen.height(), _LEAST)).size())
        seen.moveCenter(middle)
        return seen.intersected(QRectF(self._canvas.rect())).toAlignedRect()

    def indexAt(self, point: QPoint) -> QModelIndex:
        """What the pointer points at says the canvas."""
        return QModelIndex()

    def visualRegionForSelection(self, selection: QItemSelection) -> QRegion:
        """Nothing is to be painted anew."""
        return QRegion()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """All is drawn on the canvas."""


def _runs(rows: list[int]) -> list[tuple[int, int]]:
    """Rows that follow each other, by the first and the last."""
    if not rows:
        return []
    found = np.array(rows, dtype=np.int64)
    ends = np.flatnonzero(np.diff(found) > 1) + 1
    cuts = [0, *ends.tolist(), len(found)]
    return [(int(found[a]), int(found[b - 1])) for a, b in pairwise(cuts)]
