"""Which threads there are to sew with: the list that ships, or one from a file."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path

from PyQt6.QtWidgets import QWidget

from draxet.job.findings import count_words
from draxet.make.thread_lists import read_threads
from draxet.ui.controls.chooser import chosen_file, text_of_file
from draxet.ui.controls.slip_parts import menu_button
from draxet.ui.model.session import Session
from draxet.ui.stages.slip import Slip

__all__ = ["take_threads", "threads_menu"]


def threads_menu(slip: Slip) -> Callable[[bool], None]:
    """A button that says which threads there are; returns what brings it up to date, and shows it or
    not."""
    made = menu_button(
        "Threads",
        [
            ("The list that ships", partial(_ours, slip.session)),
            ("A list from a CSV file …", partial(_ask, slip.session, slip)),
        ],
    )
    made.setToolTip("What is sewn in a colour takes the nearest of these threads")
    slip.add(made)

    def show(seen: bool) -> None:
        own = slip.session.job.threads
        made.setText(f"Threads: {f'{len(own)} of a list' if own else 'the list that ships'}")
        made.setVisible(seen)

    return show


def _ours(session: Session) -> None:
    session.edit("take the threads that ship", replace(session.job, threads=()))


def _ask(session: Session, parent: QWidget) -> None:
    if path := chosen_file(parent, "Threads", "*.csv"):
        take_threads(session, path)


def take_threads(session: Session, path: Path) -> None:
    """The threads of a file instead of those there were; refused in words where it cannot be read."""
    try:
        text = text_of_file(path)
        found = read_threads(text, path.name)
    except ValueError as error:
        session.messages.refused.emit(f"{error}.")
        return
    words = count_words(len(found), "thread")
    session.edit(f"take {words} over", replace(session.job, threads=tuple(found)))
    session.messages.announced.emit(
        f"{words} taken over from {path.name}; the nearest is sewn with"
    )
