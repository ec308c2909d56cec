"""Questions in small windows: one look, the brass button for what is meant."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QMessageBox, QVBoxLayout, QWidget

from draxet.ui.controls.fields import WordField
from draxet.ui.controls.slip_parts import button, label, set_part
from draxet.ui.look.style import px

__all__ = ["ask", "ask_name", "ask_which", "tell"]


def ask(
    parent: QWidget,
    title: str,
    words: str,
    more: str,
    answers: Sequence[tuple[str, str]],
    stay: str,
) -> str:
    """Ask one question.

    Parameters
    ----------
    answers : keys and words, the first one being the brass button. stay : the words for giving it
    up, which Esc does as well.

    Returns the key; empty where it was given up.
    """
    box = QMessageBox(parent)
    box.setWindowTitle(title)
    box.setText(words)
    box.setInformativeText(more)
    keys = {}
    for number, (key, each) in enumerate(answers):
        made = box.addButton(each, QMessageBox.ButtonRole.AcceptRole)
        set_part(made, part="plain" if number else "main")  # type: ignore[arg-type]
        keys[made] = key
        if not number:
            box.setDefaultButton(made)
    away = box.addButton(stay, QMessageBox.ButtonRole.RejectRole)
    set_part(away, part="plain")  # type: ignore[arg-type]
    box.setEscapeButton(away)
    box.exec()
    chosen = box.clickedButton()
    return next((key for made, key in keys.items() if made is chosen), "")


def tell(parent: QWidget, title: str, words: str) -> None:
    """Say something that is closed by one button."""
    box = QMessageBox(parent)
    box.setWindowTitle(title)
    box.setText(words)
    set_part(box.addButton("Close", QMessageBox.ButtonRole.AcceptRole), part="main")  # type: ignore[arg-type]
    box.exec()


class _Question(QDialog):
    """A heading, something to answer with, and two buttons."""

    def __init__(
        self, parent: QWidget, title: str, question: str, control: QWidget, go: str
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setMinimumWidth(px(360))
        self.go = button(go, "main", self.accept)
        self.go.setDefault(True)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        buttons.addWidget(button("Cancel", "plain", self.reject))
        buttons.addWidget(self.go)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(18, 16, 18, 16)
        rows.setSpacing(10)
        rows.addWidget(label(question, "section", wrap=True))
        rows.addWidget(control)
        rows.addLayout(buttons)


def ask_name(parent: QWidget, title: str, question: str, name: str, go: str) -> str:
    """Ask for a name; empty where that is given up."""
    field = WordField(question, 100)
    field.setText(name)
    field.selectAll()
    return field.text().strip() if _Question(parent, title, question, field, go).exec() else ""


def ask_which(
    parent: QWidget, title: str, question: str, names: Sequence[str], go: str
) -> int | None:
    """Ask for one of several names; its number, or None where that is given up."""
    names_list = QListWidget()
    names_list.setAccessibleName(question)
    names_list.addItems(list(names))
    names_list.setCurrentRow(0)
    asked = _Question(parent, title, question, names_list, go)
    names_list.itemDoubleClicked.connect(lambda _: asked.accept())
    return names_list.currentRow() if asked.exec() else None
