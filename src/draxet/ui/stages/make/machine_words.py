"""How a machine wants its programs written: rows in its slip."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any

from PyQt6.QtGui import QFocusEvent
from PyQt6.QtWidgets import QPlainTextEdit, QVBoxLayout, QWidget

from draxet.job.dialect import Dialect
from draxet.ui.controls.fields import WordField
from draxet.ui.controls.slip_parts import field_row, label
from draxet.ui.look.style import px
from draxet.ui.stages.setting_rows import SettingRows
from draxet.ui.stages.slip import Slip

__all__ = ["MachineWords"]

_WORDS = (
    ("on", "Switches on by"),
    ("off", "Switches off by"),
    ("air_on", "Air on"),
    ("air_off", "Air off"),
    ("change", "Changes tool by"),
    ("stop", "Stops by"),
)
_MOST = 2000


class _Lines(QPlainTextEdit):
    """A few lines of a program, taken over when the focus leaves them."""

    def __init__(self, name: str, entered: Callable[[str], None]) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setFixedHeight(px(58))
        self.setTabChangesFocus(True)
        self._entered = entered

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        self.finish()

    def finish(self) -> None:
        self._entered(self.toPlainText()[:_MOST])


class MachineWords(QWidget):
    """Adds its rows to a slip, and tells the dialect whenever it is another one."""

    def __init__(self, slip: Slip, dialect: Dialect, change: Callable[[Dialect], None]) -> None:
        super().__init__()
        self._dialect, self._change = dialect, change
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(8)
        self.asked = SettingRows(
            slip.session, dialect, lambda name, value, gesture: self._set(name, value)
        )
        rows.addWidget(label("How its programs are written", "section"))
        rows.addWidget(self.asked)
        self.words: dict[str, WordField] = {}
        for name, said in _WORDS:
            field = self.words[name] = WordField(said, 40)
            field.entered.connect(partial(self._set, name))
            rows.addWidget(field_row(said, field, 110))
        self.start = _Lines("Before everything", partial(self._set, "start"))
        self.end = _Lines("After everything", partial(self._set, "end"))
        for said, lines in (("Before everything", self.start), ("After everything", self.end)):
            rows.addWidget(label(said))
            rows.addWidget(lines)
        self.show_of(dialect)

    def _set(self, name: str, value: Any) -> None:
        made = replace(self._dialect, **{name: value})
        if made != self._dialect:
            self._dialect = made
            self._change(made)

    def show_of(self, dialect: Dialect) -> None:
        """Show another one."""
        self._dialect = dialect
        self.asked.show_of(dialect)
        for name, field in self.words.items():
            field.set_value(getattr(dialect, name))
        for lines, text in ((self.start, dialect.start), (self.end, dialect.end)):
            if lines.toPlainText() != text and not lines.hasFocus():
                lines.setPlainText(text)
