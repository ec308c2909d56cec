"""Find a command: type a few letters, Enter runs it."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QApplication,
    QDialog,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from draxet.ui.look.style import px
from draxet.ui.shell.plain_words import PLAIN_WORDS
from draxet.ui.shell.window_commands import Command

__all__ = ["Finder"]


class Finder(QDialog):
    """A list of all commands, narrowed by what is typed; what cannot run says why."""

    def __init__(self, commands: Sequence[Command], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Find a command")
        self.resize(px(480), px(400))
        self._commands = commands
        self.field = QLineEdit()
        self.field.setPlaceholderText("what do you want to do?")
        self.field.setAccessibleName("Find a command")
        self.list = QListWidget()
        self.list.setAccessibleName("Commands that were found")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        rows = QVBoxLayout(self)
        rows.addWidget(self.field)
        rows.addWidget(self.list)
        self.field.textChanged.connect(self._narrow)
        self.field.installEventFilter(self)
        self.list.installEventFilter(self)
        self.field.returnPressed.connect(self._run)
        self.list.itemActivated.connect(lambda _: self._run())
        self._narrow("")

    def _narrow(self, text: str) -> None:
        self.list.clear()
        found = [
            (command, why)
            for command, why in ((command, command.why_not()) for command in self._commands)
            if _says(command, text)
        ]
        begins = text.strip().lower()
        for command, why in sorted(
            found, key=lambda each: (bool(each[1]), f" {begins}" not in f" {each[0].words.lower()}")
        ):
            item = QListWidgetItem(
                f"{command.words}   ·   {why or _place(command)}{f'   {command.key}' if command.key and not why else ''}"
            )
            item.setData(Qt.ItemDataRole.UserRole, command)
            if why:
                item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(item)
        if not found:
            none = QListWidgetItem(
                "No command is called so; try another word for what you want to do."
            )
            none.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(none)
        self.list.setCurrentRow(0)

    def _run(self) -> None:
        item = self.list.currentItem()
        if item is not None and item.flags() & Qt.ItemFlag.ItemIsEnabled:
            self.accept()
            item.data(Qt.ItemDataRole.UserRole).run()

    def _walk(self, event: QKeyEvent) -> bool:
        """Down goes into the list and along it, so that each row is read out; up from its first row,
        and with a letter, back to what is typed."""
        row, key = self.list.currentRow(), event.key()
        if key == Qt.Key.Key_Down or (key == Qt.Key.Key_Up and row > 0):
            self.list.setFocus(Qt.FocusReason.TabFocusReason)
            step = 1 if key == Qt.Key.Key_Down else -1
            self.list.setCurrentRow(max(0, min(self.list.count() - 1, row + step)))
            return True
        if key == Qt.Key.Key_Up:
            self.field.setFocus(Qt.FocusReason.BacktabFocusReason)
            return True
        if self.list.hasFocus() and (
            event.text().isprintable() and event.text() or key == Qt.Key.Key_Backspace
        ):
            self.field.setFocus(Qt.FocusReason.BacktabFocusReason)
            self.field.deselect()
            QApplication.sendEvent(self.field, event)
            return True
        return False

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.KeyPress
            and (watched is self.list or event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up))
        ):
            return self._walk(event)
        return super().eventFilter(watched, event)


def _place(command: Command) -> str:
    return command.stage.words if command.stage else command.menu


def _says(command: Command, text: str) -> bool:
    """Whether every word that was typed is one of the command's, of its place, or begins one of the
    plain words for what it does."""
    own = f"{command.words} {_place(command)}".lower()
    plain = f" {PLAIN_WORDS.get(command.id, '')}"
    return all(part in own or f" {part}" in plain for part in text.lower().split())
