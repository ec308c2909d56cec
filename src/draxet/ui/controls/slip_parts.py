"""Labels, buttons and rows of a slip."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Protocol, runtime_checkable

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QMenu,
    QPushButton,
    QToolTip,
    QWidget,
)

from draxet.ui.look.icons import icon
from draxet.ui.look.style import px

__all__ = [
    "Button",
    "SaysWhyNot",
    "allow",
    "button",
    "emptied",
    "fact_row",
    "field_row",
    "icon_button",
    "label",
    "menu_button",
    "rule",
    "set_part",
    "side_by_side",
]


def set_part(widget: QWidget, **properties: str) -> None:
    """Set stylesheet properties and have them take effect; of one that was not shown yet they do so
    by themselves."""
    changed = [name for name, value in properties.items() if widget.property(name) != value]
    for name in changed:
        widget.setProperty(name, properties[name])
    if (
        changed
        and widget.testAttribute(Qt.WidgetAttribute.WA_WState_Polished)
        and (style := widget.style())
    ):
        style.unpolish(widget)
        style.polish(widget)


def label(words: str, part: str = "", *, wrap: bool = False) -> QLabel:
    """Words in one of the look's manners."""
    made = QLabel(words)
    made.setProperty("part", part)
    made.setWordWrap(wrap)
    return made


class Button(QPushButton):
    """One that cannot be pressed now is reached all the same, and says why."""

    def __init__(self, words: str) -> None:
        super().__init__(words.replace("&", "&&"))  # no letter of a name is a key
        self.why_not = ""

    def isEnabled(self) -> bool:
        """Whether pressing it does what it says."""
        return super().isEnabled() and not self.why_not

    def say_why_not(self) -> None:
        """Whatever holds it and can say something says why it cannot be pressed."""
        holder = self.parentWidget()
        while holder is not None and not isinstance(holder, SaysWhyNot):
            holder = holder.parentWidget()
        if holder is None:
            QToolTip.showText(self.mapToGlobal(self.rect().center()), self.toolTip(), self)
        else:
            name = self.accessibleName() or self.text().replace("&&", "&")
            holder.say_why_not(f"{name}: {self.why_not}.")


@runtime_checkable
class SaysWhyNot(Protocol):
    """What holds controls and tells why one cannot be used."""

    def say_why_not(self, words: str) -> None: ...


def allow(control: QWidget, may: object, why_not: str) -> None:
    """Let a control be used, or not; its tip and its description then say why (a part of a
    sentence: "choose contours first")."""
    why = "" if may else why_not
    if control.property("why-not") == why:
        return
    if not control.property("why-not"):
        control.setProperty("tip", control.toolTip())
    control.setProperty("why-not", why)
    control.setToolTip(f"{why[:1].upper()}{why[1:]}" if why else control.property("tip"))
    control.setAccessibleDescription(why)
    if isinstance(control, Button):
        control.why_not = why
        set_part(control, off="true" if why else "false")
    else:
        control.setEnabled(not why)


def button(words: str, part: str, run: Callable[[], object]) -> Button:
    made = Button(words)
    made.setProperty("part", part)
    made.clicked.connect(lambda: made.say_why_not() if made.why_not else run())
    return made


def rule() -> QFrame:
    made = QFrame()
    made.setProperty("part", "rule")
    return made


def menu_button(words: str, entries: Sequence[tuple[str, Callable[[], object]]]) -> QPushButton:
    """A button that opens a short menu."""
    made = QPushButton(words)
    made.setProperty("part", "plain")
    made.setProperty("opens", "menu")
    menu = QMenu(made)
    for name, run in entries:
        action = QAction(name, menu)
        action.triggered.connect(lambda _, run=run: run())
        menu.addAction(action)
    made.setMenu(menu)
    return made


def icon_button(name: str, colour: str, words: str, run: Callable[[], object]) -> Button:
    """A small button with an icon; its words are its name and its tip."""
    made = button("", "icon", run)
    made.setIcon(icon(name, colour))
    made.setAccessibleName(words)
    made.setToolTip(words)
    made.setFixedSize(px(26), px(26))
    made.setIconSize(QSize(px(18), px(18)))
    return made


def side_by_side(*widgets: QWidget, spacing: int = 8) -> QWidget:
    """Widgets in a row."""
    made = QWidget()
    row = QHBoxLayout(made)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(spacing)
    for widget in widgets:
        row.addWidget(widget)
    return made


def emptied(layout: QLayout) -> None:
    """Take everything out of a layout."""
    while (item := layout.takeAt(0)) is not None:
        if widget := item.widget():
            widget.hide()
            widget.deleteLater()


def field_row(words: str, control: QWidget, width: int = 132) -> QWidget:
    """A control with its name before it."""
    made = QWidget()
    row = QHBoxLayout(made)
    row.setContentsMargins(0, 0, 0, 0)
    name = label(words)
    name.setBuddy(control)
    row.addWidget(name, 1)
    control.setFixedWidth(px(width))
    row.addWidget(control)
    return made


class _Value(QLabel):
    """A fact's value; it is read out with the fact's name."""

    def __init__(self, name: str) -> None:
        super().__init__("–")
        self._name = name
        self.setProperty("part", "value")

    def setText(self, words: str | None) -> None:
        super().setText(words)
        self.setAccessibleName(f"{self._name}: {words}")


def fact_row(words: str) -> tuple[QWidget, QLabel]:
    """A fact's name and, on the right, its value; returns the row and the value's label."""
    made = QWidget()
    row = QHBoxLayout(made)
    row.setContentsMargins(0, 0, 0, 0)
    value = _Value(words)
    value.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
    row.addWidget(label(words, wrap=True), 1)
    row.addWidget(value)
    return made, value
