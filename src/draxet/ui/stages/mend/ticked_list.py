"""A list of what was found, kind by kind: a row each, unfolded by a click, with a box to tick for
one and for all of a kind."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QVBoxLayout, QWidget

from draxet.record import record
from draxet.ui.controls.slip_parts import button, emptied, label, side_by_side
from draxet.ui.look.style import px

__all__ = ["Found", "TickedList"]

_SHOWN = 60


@record(frozen=True, eq=False)
class Found:
    """Something in the list: the words of its kind, its own, what all of its kind come to in a few
    words, and the thing itself."""

    kind: str
    words: str
    greatest: str
    what: Any


class TickedList(QWidget):
    """`look` is told what is to be shown: all of the kind that is unfolded, or the one that was
    clicked."""

    ticks_changed = pyqtSignal()

    def __init__(self, look: Callable[[list[Any]], None]) -> None:
        super().__init__()
        self._look = look
        self._rows = QVBoxLayout(self)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setSpacing(2)
        self.kinds: dict[str, QCheckBox] = {}
        self.boxes: list[tuple[Any, QCheckBox]] = []
        self._found: list[Found] = []
        self._open = ""
        self._ticked: set[int] = set()

    def ticked(self) -> list[Any]:
        """What is ticked."""
        return [each.what for each in self._found if id(each.what) in self._ticked]

    def show_found(self, found: Sequence[Found]) -> None:
        """Show another list; what is still there stays ticked."""
        self._found = list(found)
        self._ticked &= {id(each.what) for each in found}
        self._fill()

    def unfold(self, kind: str) -> None:
        """Show the things of a kind one by one, or fold them up."""
        self._open = kind if self._open != kind else ""
        self._fill()
        self._look([each.what for each in self._found if each.kind == self._open])

    def tick(self, some: Sequence[Any], on: bool) -> None:
        """Tick things, or not."""
        ids = {id(what) for what in some}
        self._ticked = self._ticked | ids if on else self._ticked - ids
        for what, box in self.boxes:
            box.setChecked(id(what) in self._ticked)
        self.ticks_changed.emit()

    def _fill(self) -> None:
        emptied(self._rows)
        self.kinds, self.boxes = {}, []
        by_kind: dict[str, list[Found]] = {}
        for each in self._found:
            by_kind.setdefault(each.kind, []).append(each)
        for kind, some in by_kind.items():
            self.kinds[kind] = box = self._box(
                f"All: {kind}",
                all(id(each.what) in self._ticked for each in some),
                [each.what for each in some],
            )
            self._row(
                box,
                f"{kind[:1].upper()}{kind[1:]}  ·  {len(some)}",
                some[0].greatest,
                lambda kind=kind: self.unfold(kind),  # type: ignore[misc]
            )
            for each in some[:_SHOWN] if kind == self._open else []:
                one = self._box(f"{kind}: {each.words}", id(each.what) in self._ticked, [each.what])
                self.boxes.append((each.what, one))
                self._row(one, each.words, "", lambda what=each.what: self._look([what]), deep=True)  # type: ignore[misc]
            if kind == self._open and len(some) > _SHOWN:
                self._rows.addWidget(
                    label(
                        f"and {len(some) - _SHOWN} more: choose fewer contours", "quiet", wrap=True
                    )
                )

    def _box(self, name: str, on: bool, some: list[Any]) -> QCheckBox:
        box = QCheckBox()
        box.setFixedWidth(px(24))
        box.setAccessibleName(name)
        box.setChecked(on)
        box.clicked.connect(lambda on: self.tick(some, on))
        return box

    def _row(
        self, box: QCheckBox, words: str, after: str, run: Callable[[], None], *, deep: bool = False
    ) -> None:
        made = button(words, "row", run)
        made.setMinimumWidth(1)
        made.setToolTip(words)
        row = side_by_side(box, made, label(after, "quiet"), spacing=2)
        row.setContentsMargins(px(24) if deep else 0, 0, 0, 0)
        if layout := row.layout():
            layout.setStretch(1, 1)  # type: ignore[attr-defined]
        self._rows.addWidget(row)
