"""Machine: on which one the sheet in hand is worked, and what that can do."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import Any

from PyQt6.QtWidgets import QVBoxLayout

from draxet.job.edits import choose_machine, set_machine
from draxet.job.machine import Machine
from draxet.ui.canvas.tool import LineMark, Mark, Prompt, TagMark, Waiting
from draxet.ui.shell.fields import WordField, button, emptied, fact_row, field_row, label
from draxet.ui.shell.session import Session
from draxet.ui.stages.slip import Slip

__all__ = ["MachineSlip", "MachineTool"]

_ASKED = ("reach_x", "reach_y", "most_feed", "travel", "acceleration", "cut_width", "pierce", "safe_height", "plunge", "arcs")


class MachineTool(Waiting):
    """Shows how far the machine reaches."""

    title = "Machine"

    def __init__(self, session: Session) -> None:
        super().__init__(Prompt("Machine: choose the one that this sheet is worked on.", "its reach is drawn on the sheet"))
        self._session = session

    def marks(self) -> list[Mark]:
        sheet = self._session.job.sheet
        machine = self._session.job.machine_of(sheet)
        x0, y0, x1, y1 = sheet.x, sheet.y, sheet.x + machine.reach_x, sheet.y + machine.reach_y
        sides = ((x0, y0, x1, y0), (x1, y0, x1, y1), (x1, y1, x0, y1), (x0, y1, x0, y0))
        return [*(LineMark(*side) for side in sides), TagMark(x0, y1, f"reach of the {machine.name.lower()}", "note")]


class MachineSlip(Slip):
    """The machines there are, and the settings of the one that is chosen; a changed one belongs to this job."""

    def __init__(self, session: Session, tool: MachineTool) -> None:
        super().__init__(session, "Machine", "Each sheet has its machine. One that is changed here belongs to this job alone.")
        self._list = QVBoxLayout()
        self._list.setSpacing(0)
        self.body.addLayout(self._list)
        self.copy = button("Make one like it", "plain", self._copy)
        self.name = WordField("Name of the machine", 60)
        self.name.entered.connect(lambda words: self._change("name", words) if words else self.refresh())
        kind, self._kind = fact_row("Kind")
        self.add(self.copy, field_row("Name", self.name, 160), kind)
        self.asked = self.ask(self.machine, self._change, _ASKED)
        self.add(label("What it takes away, how fast it goes and how it speeds up give the time in the strip below.", "quiet", wrap=True))
        self._shown: object = None
        self.refresh()

    @property
    def machine(self) -> Machine:
        return self.session.job.machine_of(self.session.job.sheet)

    def _change(self, name: str, value: object, gesture: object = None) -> None:
        changed: dict[str, Any] = {name: value}
        self.session.edit("set the machine", set_machine(self.session.job, replace(self.machine, **changed)), gesture)
        self.session.tool_changed.emit()

    def _copy(self) -> None:
        job, like = self.session.job, self.machine
        made = replace(like, id=f"machine-{job.next_id}", name=f"{like.name} 2")
        job = set_machine(replace(job, next_id=job.next_id + 1), made)
        self.session.edit("make a machine", choose_machine(job, job.sheet.id, made.id))
        self.session.tool_changed.emit()

    def _choose(self, machine: Machine) -> None:
        self.session.edit("choose the machine", choose_machine(self.session.job, self.session.job.sheet.id, machine.id))
        self.session.tool_changed.emit()

    def refresh(self) -> None:
        job, machine = self.session.job, self.machine
        self.asked.show_of(machine)
        self.name.set_value(machine.name)
        self._kind.setText(machine.kind)
        for name in ("pierce", "plunge"):
            self.asked.rows[name].setVisible((name, machine.kind) in (("pierce", "plasma"), ("plunge", "router")))
        if self._shown != (job.every_machine, machine.id):
            self._shown = (job.every_machine, machine.id)
            emptied(self._list)
            for each in job.every_machine:
                row = button(f"{each.name} · {each.kind}", "row", partial(self._choose, each))
                row.setCheckable(True)
                row.setChecked(each.id == machine.id)
                self._list.addWidget(row)
