"""Where a run waits for somebody, as rows of a slip."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from draxet.ui.controls.slip_parts import button, emptied, label

__all__ = ["StopRows"]

_MOST, _LETTERS = 60, 28


class StopRows(QWidget):
    """A row for each stop; a click goes to its moment."""

    def __init__(self, go: Callable[[float], None]) -> None:
        super().__init__()
        self._go = go
        self._rows = QVBoxLayout(self)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setSpacing(4)

    def show_stops(self, stops: Sequence[tuple[float, str]]) -> None:
        """Show others: the seconds at which it waits, and what is to be done there."""
        emptied(self._rows)
        self.setVisible(bool(stops))
        if stops:
            self._rows.addWidget(label("Waits for you", "section"))
        for seconds, words in stops[:_MOST]:
            short = words if len(words) <= _LETTERS else f"{words[: _LETTERS - 1]}…"
            row = button(
                f"{seconds:.1f} s · {short or 'a stop'}", "row", partial(self._go, seconds)
            )
            row.setMinimumWidth(1)
            row.setToolTip(words)
            self._rows.addWidget(row)
