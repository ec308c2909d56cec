"""The controls of slips: length and number fields, sliders with numbers, choices and rows of
facts."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QEvent, QObject, QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QApplication,
    QButtonGroup,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QSlider,
    QWidget,
)

from draxet.files import plain_words
from draxet.ui.controls.slip_parts import set_part
from draxet.ui.look.style import px
from draxet.units import UnitError, format_number

__all__ = ["TAKEN", "Anchors", "Choice", "Field", "SliderField", "WordField", "when_meant"]

_MOST_LETTERS = 400


TAKEN = QEvent.Type(QEvent.registerEventType())
"""What a pane is told once a field in it took what was typed."""


class _Line(QLineEdit):
    """A field of one line: Enter takes what was typed, and goes on to the slip where nothing was."""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        is_typed = self.isModified()
        super().keyPressEvent(event)
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            event.setAccepted(is_typed or self.receivers(self.returnPressed) > 0)
            if is_typed and self.hasFocus() and self.property("fault") != "true":
                self._tell_taken()

    def _tell_taken(self) -> None:
        at, told = self.parentWidget(), QEvent(TAKEN)
        told.ignore()
        while at is not None and not told.isAccepted():
            QApplication.sendEvent(at, told)
            at = at.parentWidget()


class Field(_Line):
    """A field that holds a value and shows it. What is typed is read with `read` once the field is
    left; a text that cannot be read is refused, and the value stays what it was.

    The value changes only where the text was changed: what is shown may be rounded, what is held is
    not.
    """

    entered = pyqtSignal(float)
    refused = pyqtSignal(str)

    def __init__(
        self, read: Callable[[str], float], show: Callable[[float], str], name: str
    ) -> None:
        super().__init__()
        self._read, self._show, self._value = read, show, 0.0
        self.setAccessibleName(name)
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self._is_set = False
        self.setMaxLength(_MOST_LETTERS)
        self.editingFinished.connect(self.finish)

    @property
    def value(self) -> float:
        return self._value

    def set_value(self, value: float) -> None:
        """Hold and show a value without handing it on; what is being typed, or was refused, stays
        to be seen."""
        if self._is_set and value == self._value and self.isModified():
            return
        self._value, self._is_set = value, True
        if not (self.hasFocus() and self.isModified()):
            with QSignalBlocker(self):
                self.setText(self._show(value))
            self._mark("")

    def try_read(self) -> float | None:
        """The value: what is held where the text was not changed, else what the text says; None
        after saying why it cannot be read."""
        if self._is_set and (not self.isModified() or self.text() == self._show(self._value)):
            return self._value
        try:
            value = self._read(self.text())
        except ValueError as error:
            self._mark(str(error))
            self.refused.emit(str(error))
            return None
        self._mark("")
        return value

    def _mark(self, fault: str) -> None:
        """What is wrong with what stands in it, or nothing."""
        if fault or self.property("fault") == "true":
            self.setAccessibleDescription(f"not taken: {fault}" if fault else "")
        set_part(self, fault="true" if fault else "false")

    def finish(self) -> None:
        """Read what was typed, and hand it on where it is another value."""
        if not self.isModified():
            return
        value = self.try_read()
        if value is not None:
            changed = not self._is_set or value != self._value
            self.setModified(False)
            self._value, self._is_set = value, True
            with QSignalBlocker(self):
                self.setText(self._show(value))
            if changed:
                self.entered.emit(value)

    def give_up(self) -> None:
        """Drop what was typed: show what is held."""
        self.setModified(False)
        with QSignalBlocker(self):
            self.setText(self._show(self._value) if self._is_set else "")
        self._mark("")

    def empty(self) -> None:
        """Hold nothing and show nothing."""
        self._is_set = False
        with QSignalBlocker(self):
            self.clear()
        self.setModified(False)
        self._mark("")


class SliderField(QWidget):
    """A slider and a number that move together."""

    moved = pyqtSignal(float)

    def __init__(self, low: int, high: int, name: str, suffix: str = "") -> None:
        super().__init__()
        self._suffix = suffix
        self._gesture = 0
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(low, high)
        self.slider.setAccessibleName(name)
        self.field = Field(self._read, lambda v: f"{format_number(v, 1)}{suffix}", name)
        self.field.setFixedWidth(px(64))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.slider, 1)
        row.addWidget(self.field)
        self.slider.sliderPressed.connect(self._begin)
        self.slider.valueChanged.connect(self._slid)
        self.field.entered.connect(self._typed)

    def _begin(self) -> None:
        self._gesture += 1

    @property
    def gesture(self) -> tuple[int, int]:
        """The same for all moves of one gesture."""
        return id(self), self._gesture

    def _read(self, text: str) -> float:
        low, high = self.slider.minimum(), self.slider.maximum()
        try:
            value = float(text.replace(self._suffix.strip() or "\0", "").strip())
        except ValueError:
            value = float("nan")
        if not low <= value <= high:
            raise UnitError(
                f"{self.slider.accessibleName().lower()} must be a number from {low} to {high}, got {text.strip()!r}"
            )
        return value

    def set_value(self, value: float) -> None:
        with QSignalBlocker(self.slider):
            self.slider.setValue(round(value))
        self._show(value)

    def _show(self, value: float) -> None:
        self.field.set_value(value)
        self.slider.setAccessibleDescription(f"{format_number(value, 1)}{self._suffix}")

    def _slid(self, value: int) -> None:
        self.field.setModified(False)
        self._show(value)
        self.moved.emit(float(value))

    def _typed(self, value: float) -> None:
        self._begin()
        self.set_value(value)
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
            made.setAutoExclusive(True)  # one of several, to whom it is read out
            made.clicked.connect(lambda _, key=key: self.chosen.emit(key))
            self._group.addButton(made)
            self._buttons[key] = made
            row.addWidget(made, 1)

    def set_value(self, key: str) -> None:
        """Show a choice; none where `key` is none of them."""
        self._group.setExclusive(key in self._buttons)
        for name, made in self._buttons.items():
            made.setChecked(name == key)

    def act_only(self) -> None:
        """Make the choices act when pressed, without one staying chosen."""
        for made in self._buttons.values():
            made.setCheckable(False)

    def button(self, key: str) -> QPushButton:
        return self._buttons[key]


class Anchors(QWidget):
    """Nine places of a rectangle to choose from: its corners, the middles of its sides and its
    middle."""

    chosen = pyqtSignal(float, float)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setFixedSize(px(84), px(66))
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(0)
        self._group = QButtonGroup(self)
        self._buttons: dict[tuple[float, float], QPushButton] = {}
        for row, (y, high) in enumerate(((1.0, "upper"), (0.5, "middle"), (0.0, "lower"))):
            for column, (x, wide) in enumerate(((0.0, "left"), (0.5, "middle"), (1.0, "right"))):
                made = QPushButton()
                made.setProperty("part", "anchor")
                made.setCheckable(True)
                made.setAutoExclusive(True)
                made.setFixedSize(px(28), px(24))
                words = (
                    "the middle"
                    if (x, y) == (0.5, 0.5)
                    else f"{high} {wide}"
                    if x != 0.5 and y != 0.5
                    else f"{high if y != 0.5 else wide} edge's middle"
                )
                made.setAccessibleName(words)
                made.setToolTip(words)
                made.clicked.connect(lambda _, at=(x, y): self.chosen.emit(*at))
                self._group.addButton(made)
                self._buttons[x, y] = made
                grid.addWidget(made, row, column)

    def set_value(self, at: tuple[float, float]) -> None:
        self._buttons[at].setChecked(True)

    def button(self, x: float, y: float) -> QPushButton:
        return self._buttons[x, y]


class WordField(_Line):
    """A field for a few words, handed on once they are changed."""

    entered = pyqtSignal(str)

    def __init__(self, name: str, most: int = 300) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setMaxLength(most)
        self._held = ""
        self.editingFinished.connect(self.finish)

    def set_value(self, words: str) -> None:
        self._held = words
        if not self.hasFocus() or not self.isModified():
            self.setText(words)

    def give_up(self) -> None:
        """Drop what was typed: show what is held."""
        self.setModified(False)
        self.setText(self._held)

    def finish(self) -> None:
        """Hand on what was typed."""
        if self.isModified():
            self.setModified(False)
            self.entered.emit(plain_words(self.text().strip()))


class _Meant(QObject):
    """Tells when a widget is under the pointer or has the focus, and when no more."""

    def __init__(
        self, widget: QWidget, begins: Callable[[], object], ends: Callable[[], object]
    ) -> None:
        super().__init__(widget)
        self._does = {
            QEvent.Type.Enter: begins,
            QEvent.Type.FocusIn: begins,
            QEvent.Type.Leave: ends,
            QEvent.Type.FocusOut: ends,
        }
        widget.installEventFilter(self)

    def eventFilter(self, widget: QObject | None, event: QEvent | None) -> bool:
        if event is not None and (run := self._does.get(event.type())):
            run()
        return False


def when_meant(widget: QWidget, begins: Callable[[], object], ends: Callable[[], object]) -> None:
    """Call `begins` once a widget is pointed at or has the focus, and `ends` afterwards."""
    _Meant(widget, begins, ends)
