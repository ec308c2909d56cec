"""The colour and the line width of what is chosen."""

from __future__ import annotations

from PyQt6.QtWidgets import QCheckBox, QVBoxLayout, QWidget

from draxet.job.contour_edits import exchange_colour, set_lines
from draxet.ui.controls.fields import Field
from draxet.ui.controls.slip_parts import field_row
from draxet.ui.model.chosen import Chosen, ChosenFacts
from draxet.ui.model.session import Session
from draxet.ui.stages.colour_menu import ColourMenu, give_colour, take_colour
from draxet.ui.stages.mend.shaping import ShapingTool
from draxet.units import format_length, parse_length

__all__ = ["ColourAndLine"]

_BROADEST = 1000.0


class ColourAndLine(QWidget):
    """Both are given to all that is chosen at once; a colour also wherever the job has the one that
    it is exchanged for."""

    def __init__(self, session: Session, tool: ShapingTool) -> None:
        super().__init__()
        self._session = session
        self.colour = ColourMenu(
            session,
            "Colour",
            self.take,
            lambda: take_colour(session),
            lambda: tool.drop_colour(self.take),
        )
        self.everywhere = QCheckBox("Wherever the job has this colour")
        self.line = Field(
            lambda text: parse_length(text, session.job.unit, positive=False, what="Line width"),
            lambda mm: format_length(mm, session.job.unit),
            "Line width",
        )
        self.line.refused.connect(session.messages.refused)
        self.line.entered.connect(self._set_line)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(8)
        for widget in (self.colour, self.everywhere, field_row("Line width", self.line, 110)):
            rows.addWidget(widget)

    def take(self, colour: str) -> None:
        """Give a colour to what is chosen, or exchange its colour in the whole job."""
        session = self._session
        before = {item.colour for item in session.selection.items}
        if not before:
            session.messages.refused.emit("Choose what is to have the colour first.")
        elif self.everywhere.isChecked() and self.everywhere.isVisibleTo(self):
            job = exchange_colour(session.job, next(iter(before)), colour)
            session.edit("exchange a colour", job)
        else:
            give_colour(session, colour)

    def _set_line(self, mm: float) -> None:
        chosen = self._session.selection.ids
        if not 0 <= mm <= _BROADEST:
            self._session.messages.refused.emit(
                f"Line width must be from 0 (none of its own) to {_BROADEST:g} mm, got {mm:g} mm"
            )
            self.show_facts(self._session.single(Chosen).facts, len(chosen))
        elif chosen:
            self._session.edit_chosen(
                "set the line width", lambda job, ids: set_lines(job, ids, mm)
            )

    def show_facts(self, facts: ChosenFacts | None, count: int) -> None:
        """Show what so many chosen ones have, where that is known."""
        self.colour.show_colours(set(facts.colours) if facts else set())
        self.everywhere.setVisible(facts is not None and facts.alike > count)
        if facts is not None and len(facts.lines) == 1:
            self.line.set_value(next(iter(facts.lines)))
        else:
            self.line.empty()
            self.line.setPlaceholderText("several" if facts else "…")
