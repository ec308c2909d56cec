"""The job's sheets of stock."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from PyQt6.QtWidgets import QVBoxLayout

from draxet.job.sheet_edits import add_sheet, choose_sheet, remove_sheet, set_sheet
from draxet.ui.controls.fields import Anchors, Choice, WordField
from draxet.ui.controls.slip_parts import (
    allow,
    button,
    emptied,
    fact_row,
    field_row,
    label,
    menu_button,
    side_by_side,
)
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Pointer, Prompt, Tool
from draxet.ui.stages.slip import Slip

__all__ = ["SheetSlip", "SheetTool"]

_COLOURS = (
    ("plain", ""),
    ("birch plywood", "#E8D6B0"),
    ("oak", "#C9A571"),
    ("walnut", "#8A6444"),
    ("steel", "#C3C7CB"),
    ("brass", "#D9C078"),
    ("slate", "#7C8288"),
    ("white board", "#FBFBF8"),
    ("felt", "#B9C4B2"),
)


class SheetTool(Tool):
    """Click a sheet to take it in hand."""

    def __init__(self, session: Session) -> None:
        self._session = session

    def prompt(self) -> Prompt:
        if len(self._session.job.sheets) == 1:
            return Prompt(
                "Sheets: set the stock on the right.",
                "size, material, origin and zero · add a sheet for another material",
            )
        return Prompt(
            "Sheets: click the sheet to work on.",
            "its settings are on the right; files count from its origin",
        )

    def press(self, at: Pointer) -> None:
        for sheet in self._session.job.sheets:
            x0, y0, x1, y1 = sheet.box
            if x0 <= at.x <= x1 and y0 <= at.y <= y1:
                self._session.edit(
                    "take a sheet in hand", choose_sheet(self._session.job, sheet.id)
                )
                return
        self._session.messages.refused.emit("There is no sheet under the pointer.")


class SheetSlip(Slip):
    """The sheets, and the settings of the one in hand."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(
            session,
            "Sheets",
            "The stock on the bench. Several sheets can be of different materials.",
        )
        self._list = QVBoxLayout()
        self._list.setSpacing(0)
        self.body.addLayout(self._list)
        self.new, self.remove = (
            button("Add a sheet", "plain", self._add),
            button("Remove it", "plain", self._remove),
        )
        self.name, self.material = WordField("Sheet name", 60), WordField("Material", 60)
        self.wide, self.high, self.thick = (
            self.length_field(name) for name in ("Sheet width", "Sheet height", "Thickness")
        )
        self.origin = Anchors("Origin")
        self.zero = Choice((("top", "top of the sheet"), ("bed", "the bed")), "Zero height")
        self.colour = menu_button(
            "Colour",
            [(name, lambda value=value: self._change(colour=value)) for name, value in _COLOURS],  # type: ignore[misc]
        )
        self.add(
            side_by_side(self.new, self.remove),
            field_row("Name", self.name),
            field_row("Width", self.wide),
            field_row("Height", self.high),
        )
        machine, self._machine = fact_row("Machine")
        self.add(
            field_row("Thickness", self.thick),
            field_row("Material", self.material),
            machine,
            self.colour,
        )
        self.add(
            side_by_side(label("Origin: where the\nmachine counts from"), self.origin),
            label("Zero height is"),
            self.zero,
        )
        self._listen()
        self._shown: object = None
        self.refresh()

    def _listen(self) -> None:
        """Take what is entered."""
        self.name.entered.connect(
            lambda words: self._change(name=words) if words else self.refresh()
        )
        self.material.entered.connect(lambda words: self._change(material=words))
        self.wide.entered.connect(lambda mm: self._change(width=mm))
        self.high.entered.connect(lambda mm: self._change(height=mm))
        self.thick.entered.connect(lambda mm: self._change(thickness=mm))
        self.origin.chosen.connect(lambda x, y: self._change(origin=(x, y)))
        self.zero.chosen.connect(lambda key: self._change(zero=key))

    def _change(self, **changes: Any) -> None:
        sheet = replace(self.session.job.sheet, **changes)
        job = self.session.job
        if sheet == job.sheet:
            return
        before = job.machine_of(job.sheet)
        self.session.edit("set the sheet", set_sheet(job, sheet))
        now = self.session.job.machine_of(self.session.job.sheet)
        if now != before:
            self.session.messages.announced.emit(
                f"{sheet.material.capitalize()}, {self.length(sheet.thickness)}: worked on the {now.name.lower()}, until you choose another in Make"
            )

    def _add(self) -> None:
        self.session.edit("add a sheet", add_sheet(self.session.job)[0])
        self.session.messages.fit_asked.emit()

    def _remove(self) -> None:
        self.session.edit(
            "remove a sheet", remove_sheet(self.session.job, self.session.job.sheet.id)
        )

    def _take(self, sheet_id: str) -> None:
        self.session.edit("take a sheet in hand", choose_sheet(self.session.job, sheet_id))

    def refresh(self) -> None:
        job, sheet = self.session.job, self.session.job.sheet
        state = job.sheets, sheet.id, job.unit, job.machines
        if state == self._shown:
            return
        self._shown = state
        emptied(self._list)
        for each in job.sheets:
            words = f"{each.name}: {each.material}, {self.length(each.width, 0)} × {self.length(each.height, 0)}"
            row = button(words, "row", lambda each=each: self._take(each.id))  # type: ignore[misc]
            row.setCheckable(True)
            row.setChecked(each.id == sheet.id)
            self._list.addWidget(row)
        allow(self.remove, len(job.sheets) > 1, "a job has at least one sheet")
        self.name.set_value(sheet.name)
        self.material.set_value(sheet.material)
        self.wide.set_value(sheet.width)
        self.high.set_value(sheet.height)
        self.thick.set_value(sheet.thickness)
        self.origin.set_value(sheet.origin)
        self.zero.set_value(sheet.zero)
        by_itself = "" if sheet.machine else ", by the material"
        self._machine.setText(f"{job.machine_of(sheet).name}{by_itself}")
        self.colour.setText(
            f"Colour: {next((name for name, value in _COLOURS if value == sheet.colour), sheet.colour)}"
        )
