"""Colours to give: the picture's own, those that the job has, plain ones, and any other."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMenu, QPushButton

from draxet.job.colour_words import PLAIN, colour_word, named_colour
from draxet.job.contour_edits import colour_contours
from draxet.job.findings import count_words
from draxet.trace.inside import colour_at, colour_inside
from draxet.ui.controls.questions import ask_name
from draxet.ui.look.icons import swatch
from draxet.ui.model.preparing import prepared_pixels
from draxet.ui.model.session import Session
from draxet.ui.stages.in_hand import picture_at

__all__ = ["ColourMenu", "colour_under", "give_colour", "take_colour"]

_MOST = 12
"""So many of the job's colours are listed."""


class ColourMenu(QPushButton):
    """A button that shows a colour and opens a menu of others. `take` is told the one that is
    chosen, empty for none; `of_picture` takes the picture's own, and `dropped` one that is clicked in
    it, where they are given."""

    def __init__(
        self,
        session: Session,
        words: str,
        take: Callable[[str], object],
        of_picture: Callable[[], object] | None = None,
        dropped: Callable[[], object] | None = None,
        *,
        none: bool = True,
    ) -> None:
        super().__init__(words)
        self._session, self._words, self._take, self._none = session, words, take, none
        self._of_picture = [
            (name, act)
            for name, act in (
                ("The picture's own", of_picture),
                ("From a point of the picture", dropped),
            )
            if act
        ]
        self.setProperty("part", "plain")
        self.setProperty("opens", "menu")
        menu = QMenu(self)
        menu.aboutToShow.connect(self.fill)
        self.setMenu(menu)

    def show_colours(self, colours: set[str]) -> None:
        """Show what is coloured so now."""
        one = next(iter(colours)) if len(colours) == 1 else ""
        said = colour_word(one) if one else "none" if colours <= {""} else "several"
        self.setText(f"{self._words}: {said}")
        self.setIcon(swatch(one))
        self.setToolTip(one or "")

    def fill(self) -> None:
        """What may be given now."""
        menu = self.menu()
        assert menu is not None
        menu.clear()
        used = list(
            dict.fromkeys(item.colour.lower() for item in self._session.job.contours if item.colour)
        )[:_MOST]
        if self._session.job.pictures:
            for words, act in self._of_picture:
                self._add(menu, words, act)
            menu.addSeparator()
        for colour in used:
            self._add(menu, colour_word(colour).capitalize(), partial(self._take, colour), colour)
        menu.addSeparator()
        for word, colour in PLAIN.items():
            if colour not in used:
                self._add(menu, word.capitalize(), partial(self._take, colour), colour)
        menu.addSeparator()
        self._add(menu, "Another …", self.ask)
        if self._none:
            self._add(menu, "None", partial(self._take, ""))

    def ask(self) -> None:
        """Ask for any colour, and take it."""
        text = ask_name(
            self, "Another colour", f"As #rrggbb, or {', '.join(PLAIN)}", "#", "Take it"
        )
        if not text.strip("# "):
            return
        try:
            self._take(named_colour(text))
        except ValueError as error:
            self._session.messages.refused.emit(f"{str(error)[:1].upper()}{str(error)[1:]}.")

    @staticmethod
    def _add(menu: QMenu, words: str, act: Callable[[], object], colour: str = "") -> None:
        action = QAction(words, menu)
        if colour:
            action.setIcon(swatch(colour))
            action.setToolTip(colour)
        action.triggered.connect(lambda: act())
        menu.addAction(action)


def give_colour(session: Session, colour: str) -> None:
    """What is chosen has a colour (#rrggbb) from now on, or none."""
    if session.selection.ids:
        words = "give a colour" if colour else "take the colour away"
        session.edit_chosen(words, lambda job, ids: colour_contours(job, ids, colour))


def take_colour(session: Session) -> None:
    """The chosen contours take the picture's colour inside them."""
    picture = session.selection.picture if session.selection.ids else None
    pixels = prepared_pixels(session, picture) if picture else None
    if picture is None or pixels is None:
        return
    back, job, beside = picture.to_job.inverse(), session.job, 0
    for item in session.selection.items:
        if colour := colour_inside(item.contour.transformed(back), pixels):
            job = colour_contours(job, [item.id], colour)
        else:
            beside += 1
    session.edit("take the picture's colour", job)
    if beside:
        session.messages.refused.emit(
            f"{count_words(beside, 'contour')} beside the picture: no colour there"
        )


def colour_under(session: Session, x: float, y: float) -> str:
    """The colour of the foremost picture at a place; empty, and people are told, where there is
    none."""
    picture = picture_at(session, x, y)
    if picture is None:
        session.messages.refused.emit(
            "There is no picture under the pointer; click the colour in one."
        )
        return ""
    pixels = prepared_pixels(session, picture)
    return "" if pixels is None else colour_at(*picture.to_job.inverse().point(x, y), pixels)
