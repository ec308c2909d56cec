"""What every tool's slip shares: a heading, a column of rows, and a way to be brought up to
date."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

from PyQt6.QtWidgets import QSizePolicy, QVBoxLayout, QWidget

from draxet.ui.controls.fields import Field
from draxet.ui.controls.slip_foot import SlipFoot
from draxet.ui.controls.slip_parts import label
from draxet.ui.model.session import Session
from draxet.ui.stages.setting_rows import Change, SettingRows
from draxet.units import format_length, parse_length

__all__ = ["Looking", "Slip"]


class Looking(Protocol):
    """A tool that shows what it finds, or what would come of it, as its settings say."""

    @property
    def settings(self) -> object: ...

    def look(self) -> None: ...


class Slip(QWidget):
    """The settings of what is in hand; in its `foot` stands what it is for. `refresh` is called
    whenever the session changes."""

    def __init__(self, session: Session, title: str, about: str) -> None:
        super().__init__()
        self.session = session
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        self.body = QVBoxLayout(self)
        self.body.setContentsMargins(0, 0, 0, 0)
        self.body.setSpacing(8)
        self.heading = label(title, "heading")
        self.about = label(about, "quiet", wrap=True)
        self.add(self.heading, self.about)
        self.foot = SlipFoot()

    def say_why_not(self, words: str) -> None:
        """Why one of its controls cannot be used."""
        self.session.messages.refused.emit(words)

    def add(self, *widgets: QWidget) -> None:
        for widget in widgets:
            self.body.addWidget(widget)

    def ask(
        self,
        record: object,
        change: Change,
        names: Sequence[str] | None = None,
        others: Sequence[object] = (),
    ) -> SettingRows:
        """Rows for the settings of a record, added to the slip."""
        rows = SettingRows(self.session, record, change, names, others)
        self.add(rows)
        return rows

    def ask_of(self, tool: Looking, names: Sequence[str] | None = None) -> SettingRows:
        """Rows for the settings of a tool, which looks anew when one of them is changed."""

        def change(name: str, value: object, gesture: object) -> None:
            setattr(tool.settings, name, value)
            tool.look()
            self.session.tool_changed.emit()

        return self.ask(tool.settings, change, names)

    def length_field(self, name: str, *, positive: bool = True) -> Field:
        """A field for a length in any unit; a bare number is in the job's."""
        field = Field(
            lambda text: parse_length(text, self.session.job.unit, positive=positive, what=name),
            lambda mm: format_length(mm, self.session.job.unit),
            name,
        )
        field.refused.connect(self.session.messages.refused)
        return field

    def length(self, mm: float, places: int | None = None) -> str:
        return format_length(mm, self.session.job.unit, places=places)

    def refresh(self) -> None:
        """Show what is so now."""

    def leave(self) -> None:
        """Another slip takes the place of this one: nothing that it began may act any more."""
