"""The menus: what stands where, and the letter of each entry that is pressed for it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMenu, QMenuBar

from draxet.ui.shell.window_commands import Command

__all__ = ["fill_menus", "menu_path", "with_letter"]

_MENUS = ("Job", "Edit", "View", "Picture", "Contour", "Make", "Help")
_OF_TWO_STAGES = ("Picture", "Contour")
_TOGETHER = {
    "stage-": "Stages",
    "unit-": "Lengths in",
    "next-pane": "Keys to",
    "pane-before": "Keys to",
}
"""Commands that stand in a menu of their own, by how their ids begin."""


def menu_path(command: Command, rows: Mapping[str, str]) -> tuple[str, ...]:
    """The menu in which a command stands, and those within it; none where it stands in none. `rows`
    are the words of the tools that stand for others, by their ids."""
    if not command.menu:
        return ()
    within = next((name for key, name in _TOGETHER.items() if command.id.startswith(key)), "")
    if command.stage is None or command.menu not in _OF_TWO_STAGES:
        return (command.menu, within) if within else (command.menu,)
    row = rows.get(command.of or command.id, "")
    return (command.menu, command.stage.words, *([row] if row else []))


def with_letter(words: str, taken: set[str]) -> str:
    """The words with the letter marked by which they are pressed: one that no other entry has, the
    first of a word if there is such, and it is taken then."""
    plain = words.replace("&", "&&")
    begins = [k for k in range(len(plain)) if k == 0 or plain[k - 1] in " ,-"]
    for k in (*begins, *range(len(plain))):
        letter = plain[k].lower()
        if letter.isalpha() and letter not in taken:
            taken.add(letter)
            return f"{plain[:k]}&{plain[k:]}"
    return plain


def fill_menus(
    bar: QMenuBar, commands: Iterable[Command], actions: Mapping[str, QAction]
) -> list[QMenu]:
    """All menus with their entries; what Qt makes itself, Python never hears that it is gone, so that
    they are made here."""
    every = list(commands)
    words = {command.id: command.words for command in every}
    rows = {command.of: words[command.of] for command in every if command.of in words}
    menus: dict[tuple[str, ...], QMenu] = {}
    letters: dict[tuple[str, ...], set[str]] = {(): set()}

    def menu_at(path: tuple[str, ...]) -> QMenu:
        if path not in menus:
            above = menu_at(path[:-1]) if path[1:] else None
            menus[path] = QMenu(with_letter(path[-1], letters[path[:-1]]), above or bar)
            letters[path] = set()
            (above or bar).addMenu(menus[path])
            menus[path].setToolTipsVisible(True)
        return menus[path]

    for name in _MENUS:
        menu_at((name,))
    for command in every:
        path = menu_path(command, rows)
        if path:
            menu = menu_at(path)
            if command.separated and menu.actions():
                menu.addSeparator()
            actions[command.id].setText(with_letter(command.words, letters[path]))
            menu.addAction(actions[command.id])
    return list(menus.values())
