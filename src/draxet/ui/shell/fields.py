"""The controls of slips: length and number fields, sliders with numbers, choices and rows of facts."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QFrame, QHBoxLayout, QLabel, QLineEdit, QPushButton, QSlider, QVBoxLayout, QWidget

from draxet.units import UnitError

__all__ = ["Choice", "Field", "SliderField", "button", "fact_row", "field_row", "label", "rule", "set_part"]


def set_part(widget: QWidget, **properties: str) -> None:
    """Set stylesheet properties and have them take effect."""
    for name, value in properties.items():
        widget.setProperty(name, value)
    if style := widget.style():
        style.unpolish(widget)
        style.polish(widget)


def label(words: str, part: str = "", *, wrap: bool = False) -> QLabel:
    """Words in one of the look's manners."""
    made = QLabel(words)
    made.setProperty("part", part)
    made.setWordWrap(wrap)
    return made


def button(words: str, part: str, run: Callable[[], object]) -> QPushButton:
    made = QPushButton(words)
    made.setProperty("part", part)
    made.clicked.connect(lambda: run())
    return made


def rule() -> QFrame:
    made = QFrame()
    made.setProperty("part", "rule")
    return made


class Field(QLineEdit):
    """A field that reads what is typed with `read` and, once it can be read, hands it on; a fault is said, not kept."""

    entered = pyqtSignal(float)
    refused = pyqtSignal(str)

    def __init__(self, read: Callable[[str], float], show: Callable[[float], str], name: str) -> None:
        super().__init__()
        self._read, self._show, self._value = read, show, 0.0
        self.setAccessibleName(name)
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.editingFinished.connect(self._finish)

    @property
    def value(self) -> float:
        return self._value

    def set_value(self, value: float) -> None:
        """Show a value without handing it on."""
        self._value = value
        if not self.hasFocus() or not self.isModified():
            with QSignalBlocker(self):
                self.setText(self._show(value))
        set_part(self, fault="false")

    def try_read(self) -> float | None:
        """What stands in the field, or None after saying why it cannot be read."""
        try:
            value = self._read(self.text())
        except (UnitError, ValueError) as error:
            set_part(self, fault="true")
            self.refused.emit(str(error))
            return None
        set_part(self, fault="false")
        return value

    def _finish(self) -> None:
        if not self.isModified():
            return
        value = self.try_read()
        if value is not None:
            self.setModified(False)
            self._value = value
            with QSignalBlocker(self):
                self.setText(self._show(value))
            self.entered.emit(value)


class SliderField(QWidget):
    """A slider and a number that move together."""

    moved = pyqtSignal(float)

    def __init__(self, low: int, high: int, name: str, suffix: str = "") -> None:
        super().__init__()
        self._suffix = suffix
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(low, high)
        self.slider.setAccessibleName(name)
        self.field = Field(self._read, lambda v: f"{v:.0f}{suffix}", name)
        self.field.setFixedWidth(64)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.slider, 1)
        row.addWidget(self.field)
        self.slider.valueChanged.connect(self._slid)
        self.field.entered.connect(self._typed)

    def _read(self, text: str) -> float:
        low, high = self.slider.minimum(), self.slider.maximum()
        try:
            value = float(text.replace(self._suffix.strip() or "\0", "").strip())
        except ValueError:
            value = float("nan")
        if not low <= value <= high:
            raise UnitError(f"{self.slider.accessibleName().lower()} must be a number from {low} to {high}, got {text.strip()!r}")
        return value

    def set_value(self, value: float) -> None:
        with QSignalBlocker(self.slider):
            self.slider.setValue(round(value))
        self.field.set_value(value)

    def _slid(self, value: int) -> None:
        self.field.setModified(False)
        self.field.set_value(value)
        self.moved.emit(float(value))

    def _typed(self, value: float) -> None:
        with QSignalBlocker(self.slider):
            self.slider.setValue(round(value))
        self.moved.emit(value)


class Choice(QWidget):
    """A few exclusive choices side by side."""

    chosen = pyqtSignal(str)

    def __init__(self, options: Sequence[tuple[str, str]], name: str) -> None:
        """`options` are keys and words."""
        super().__init__()
        self.setAccessibleName(name)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        self._group = QButtonGroup(self)
        self._buttons: dict[str, QPushButton] = {}
        for key, words in options:
            made = QPushButton(words)
            made.setProperty("part", "choice")
            made.setCheckable(True)
            made.clicked.connect(lambda _, key=key: self.chosen.emit(key))
            self._group.addButton(made)
            self._buttons[key] = made
            row.addWidget(made, 1)

    def set_value(self, key: str) -> None:
        self._buttons[key].setChecked(True)

    def act_only(self) -> None:
        """Make the choices act when pressed, without one staying chosen."""
        for made in self._buttons.values():
            made.setCheckable(False)

    def button(self, key: str) -> QPushButton:
        return self._buttons[key]


def field_row(words: str, control: QWidget, width: int = 132) -> QWidget:
    """A control with its name before it."""
    made = QWidget()
    row = QHBoxLayout(made)
    row.setContentsMargins(0, 0, 0, 0)
    name = label(words)
    name.setBuddy(control)
    row.addWidget(name, 1)
    control.setFixedWidth(width)
    row.addWidget(control)
    return made


def fact_row(words: str) -> tuple[QWidget, QLabel]:
    """A fact's name and, on the right, its value; returns the row and the value's label."""
    made = QWidget()
    row = QHBoxLayout(made)
    row.setContentsMargins(0, 0, 0, 0)
    value = label("–", "value")
    value.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
    row.addWidget(label(words), 1)
    row.addWidget(value)
    return made, value


def column(*widgets: QWidget, spacing: int = 8) -> QVBoxLayout:
    """Widgets one below the other."""
    made = QVBoxLayout()
    made.setContentsMargins(0, 0, 0, 0)
    made.setSpacing(spacing)
    for widget in widgets:
        made.addWidget(widget)
    return made
