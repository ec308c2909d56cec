"""Rows of a slip made from a record: a control for each setting, as is noted beside its field."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, get_args, get_type_hints

from PyQt6.QtWidgets import QCheckBox, QVBoxLayout, QWidget

from draxet.job.asked import SPEED, Asked
from draxet.job.codec import notes_of
from draxet.job.ranges import Text
from draxet.ui.controls.fields import Choice, Field, SliderField, WordField
from draxet.ui.controls.slip_parts import field_row, label
from draxet.ui.model.session import Session

__all__ = ["Change", "SettingRows"]

_A_ROW = 3
_FIELD = 110

Change = Callable[[str, Any, object], None]
"""Told a setting's name, its new value, and what is the same for all moves of one gesture."""


class SettingRows(QWidget):
    """A row for each setting of a record that is asked for (or for those named), in the record's
    order or in that of the names. `others` are records whose settings can stand in the place of
    that one's.

    rows : the row of each, to be hidden where a setting does not count.
    """

    def __init__(
        self,
        session: Session,
        record: object,
        change: Change,
        names: Sequence[str] | None = None,
        others: Sequence[object] = (),
    ) -> None:
        super().__init__()
        self._session, self._change = session, change
        self.rows: dict[str, QWidget] = {}
        self._controls: dict[str, QWidget] = {}
        self._shows: dict[str, Callable[[Any], None]] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        notes, hints = dict[str, Any](), dict[str, Any]()
        for each in (record, *others):
            notes |= notes_of(each)
            hints |= get_type_hints(type(each), include_extras=True)
        for name in notes if names is None else names:
            asked = next((note for note in notes[name] if isinstance(note, Asked)), None)
            if asked is not None:
                of = get_args(hints[name])[0] if get_args(hints[name]) else hints[name]
                self.rows[name] = self._row(name, asked, notes[name], of)
                column.addWidget(self.rows[name])
        self.show_of(record)

    def __getitem__(self, name: str) -> Any:
        """The control of a setting."""
        return self._controls[name]

    def show_of(self, record: Any) -> None:
        """Show what a record holds."""
        for name, show in self._shows.items():
            if name in record.__dataclass_fields__:
                show(getattr(record, name))

    def read(self) -> bool:
        """Take over what is still being typed; whether all of it could be read."""
        fields = [control for control in self._controls.values() if isinstance(control, Field)]
        fine = all(field.try_read() is not None for field in fields)
        if fine:
            for control in self._controls.values():
                if isinstance(control, Field | WordField):
                    control.finish()
        return fine

    def _row(self, name: str, asked: Asked, notes: Sequence[object], of: object) -> QWidget:
        make = (
            self._choices
            if asked.choices
            else self._tick
            if of is bool
            else self._words
            if of is str
            else self._slider
            if asked.slider
            else self._field
        )
        made = make(name, asked, notes, of)
        for part in (made, self._controls[name]):
            part.setToolTip(asked.tip)
        return made

    def _tick(self, name: str, asked: Asked, notes: Sequence[object], of: object) -> QWidget:
        box = self._controls[name] = QCheckBox(asked.words)
        box.clicked.connect(lambda on: self._change(name, on, None))
        self._shows[name] = box.setChecked
        return box

    def _words(self, name: str, asked: Asked, notes: Sequence[object], of: object) -> QWidget:
        most = next((note.most for note in notes if isinstance(note, Text)), 300)
        field = self._controls[name] = WordField(asked.words, most)
        field.entered.connect(lambda words: self._change(name, words, None))
        self._shows[name] = field.set_value
        return _stacked(label(asked.words), field)

    def _field(self, name: str, asked: Asked, notes: Sequence[object], of: Any) -> QWidget:
        session = self._session

        def unit() -> str:
            return (
                session.job.machine_of(session.job.sheet).speeds
                if asked.unit == SPEED
                else session.job.unit
            )

        field = Field(
            lambda text: asked.read(text, unit(), notes, whole=of is int),
            lambda value: asked.in_words(value, unit()),
            asked.words,
        )
        field.refused.connect(session.messages.refused)
        field.entered.connect(lambda value: self._change(name, of(value), None))
        self._controls[name], self._shows[name] = field, field.set_value
        return field_row(asked.words, field, _FIELD)

    def _slider(self, name: str, asked: Asked, notes: Sequence[object], of: Any) -> QWidget:
        low, high = asked.slider or (0, 100)
        slider = SliderField(low, high, asked.words, asked.unit)
        slider.field.refused.connect(self._session.messages.refused)
        slider.moved.connect(lambda value: self._change(name, of(value), slider.gesture))
        self._controls[name], self._shows[name] = slider, slider.set_value
        return _stacked(label(asked.words), slider)

    def _choices(self, name: str, asked: Asked, notes: Sequence[object], of: object) -> QWidget:
        made = self._controls[name] = _Choices(
            asked, name, lambda value: self._change(name, value, None)
        )
        self._shows[name] = made.set_value
        return _stacked(label(asked.words), made) if asked.words else made


class _Choices(QWidget):
    """A few values to choose from, in rows."""

    def __init__(self, asked: Asked, name: str, chosen: Callable[[object], None]) -> None:
        super().__init__()
        self._keys = {value: str(k) for k, (value, _) in enumerate(asked.choices)}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self._values, self._chosen = list(self._keys), chosen
        self._rows, count = [], len(asked.choices)
        self._a_row = -(-count // -(-count // _A_ROW))  # rows as even as can be
        for at in range(0, count, self._a_row):
            some = asked.choices[at : at + self._a_row]
            row = Choice(
                tuple((self._keys[value], words) for value, words in some),
                asked.words or name.capitalize(),
            )
            row.chosen.connect(self._choose)
            column.addWidget(row)
            self._rows.append(row)

    def _choose(self, key: str) -> None:
        value = self._values[int(key)]
        self.set_value(value)
        self._chosen(value)

    def set_value(self, value: object) -> None:
        for row in self._rows:
            row.set_value(self._keys.get(value, ""))

    def button(self, value: object) -> QWidget:
        key = self._keys[value]
        return self._rows[int(key) // self._a_row].button(key)


def _stacked(*widgets: QWidget) -> QWidget:
    made = QWidget()
    column = QVBoxLayout(made)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(4)
    for widget in widgets:
        column.addWidget(widget)
    return made
