"""Where a machine can go, what it keeps clear of, and the tools that it holds: lists in the
machine's slip."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.machine_kinds import CUTTERS, Cutter, KeepClear, Machine
from draxet.ui.controls.fields import Choice, Field
from draxet.ui.controls.slip_parts import (
    allow,
    button,
    emptied,
    field_row,
    icon_button,
    label,
    side_by_side,
)
from draxet.ui.look.tokens import LIGHT
from draxet.ui.stages.slip import Slip
from draxet.units import UnitError

__all__ = ["MachineParts"]

_HEIGHT = 20.0


def _deep(cutter: Cutter) -> str:
    once = f", {cutter.a_pass:g} at once" if cutter.a_pass else ""
    return f"{cutter.longest:g} mm deep{once}"


def _flutes(text: str) -> float:
    if not text.strip().isdecimal() or not 1 <= int(text) <= 20:
        raise UnitError(f"Flutes must be a whole number from 1 to 20, got {text.strip()[:40]!r}")
    return float(int(text))


class MachineParts(QWidget):
    """Adds its rows to a slip, and tells of each change: the name of a machine's setting, and its
    value."""

    def __init__(self, slip: Slip, change: Callable[[str, object], None]) -> None:
        super().__init__()
        self._slip, self._session, self._change = slip, slip.session, change
        self._rows = QVBoxLayout(self)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setSpacing(8)
        self.outline = button("Chosen contour", "plain", self._take_outline)
        self.rectangle = button("Rectangle", "plain", lambda: self._change("outline", None))
        self.keep = button("Keep clear of the chosen", "plain", self._keep_clear)
        self.above = slip.length_field("Height above the sheet")
        self.above.set_value(_HEIGHT)
        self._areas = self._list()
        self._cutter_rows = QWidget()
        self._lay_out_tools(slip)
        for widget in (
            label("It reaches", "section"),
            side_by_side(self.outline, self.rectangle),
            label("It keeps clear of", "section"),
            self._areas[0],
            field_row("Height above the sheet", self.above, 90),
            self.keep,
            self._cutter_rows,
        ):
            self._rows.addWidget(widget)
        self._shown: object = None
        self._set_kind(self._kind)

    def _lay_out_tools(self, slip: Slip) -> None:
        """The cutters that it holds, and what another one is."""
        self.diameter = slip.length_field("Diameter")
        self.longest = slip.length_field("Cuts so deep")
        self.a_pass = slip.length_field("At once")
        self.a_pass.setToolTip("How deep in one pass; empty for as much as it is broad")
        self.kind = Choice([(kind, kind) for kind in CUTTERS[:2]], "Kind of tool")
        self.kind_more = Choice([(kind, kind) for kind in CUTTERS[2:]], "Kind of tool")
        self._kind = CUTTERS[0]
        for each in (self.kind, self.kind_more):
            each.chosen.connect(self._set_kind)
        self.flutes = Field(_flutes, lambda count: f"{count:.0f}", "Flutes")
        self.flutes.refused.connect(self._session.messages.refused)
        self.flutes.set_value(2)
        self.add_tool = button("Add the tool", "plain", self._add_cutter)
        self._cutters = self._list()
        tools = QVBoxLayout(self._cutter_rows)
        tools.setContentsMargins(0, 0, 0, 0)
        for widget in (
            label("Tools that it holds", "section"),
            self._cutters[0],
            self.kind,
            self.kind_more,
            field_row("Diameter", self.diameter, 110),
            field_row("Cuts so deep", self.longest, 110),
            field_row("At once", self.a_pass, 110),
            field_row("Flutes", self.flutes, 110),
            self.add_tool,
        ):
            tools.addWidget(widget)

    def _list(self) -> tuple[QWidget, QVBoxLayout]:
        made = QWidget()
        rows = QVBoxLayout(made)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(0)
        return made, rows

    @property
    def _machine(self) -> Machine:
        return self._session.job.machine_of(self._session.job.sheet)

    def _chosen(self) -> list[Contour]:
        """The chosen contours that are closed, counted from the sheet's lower left; refused in
        words where there is none."""
        sheet = self._session.job.sheet
        closed = [
            item.contour.transformed(Affine.moved(-sheet.x, -sheet.y))
            for item in self._session.selection.items
            if item.contour.closed
        ]
        if not closed:
            self._session.messages.refused.emit(
                "Choose a closed contour first, drawn where it lies on the machine; it may be removed afterwards."
            )
        return closed

    def _take_outline(self) -> None:
        closed = self._chosen()
        if closed:
            self._change("outline", max(closed, key=lambda contour: abs(contour.area)))

    def _keep_clear(self) -> None:
        height = self.above.try_read()
        closed = self._chosen() if height is not None else []
        if closed and height is not None:
            self._change(
                "keep_clear",
                (*self._machine.keep_clear, *(KeepClear(contour, height) for contour in closed)),
            )

    def _set_kind(self, key: str) -> None:
        self._kind = key
        self.kind.set_value(key)
        self.kind_more.set_value(key)

    def _add_cutter(self) -> None:
        size, longest, flutes = (
            self.diameter.try_read(),
            self.longest.try_read(),
            self.flutes.try_read(),
        )
        if size is None or longest is None or flutes is None:
            self._session.messages.refused.emit(
                "A tool has a diameter and a depth that it cuts; type both first."
            )
            return
        once = self.a_pass.try_read() if self.a_pass.text().strip() else 0.0
        if once is None:
            return
        self._change(
            "cutters",
            (
                *self._machine.cutters,
                Cutter(
                    f"{self._kind.capitalize()} {size:g}",
                    self._kind,
                    size,
                    int(flutes),
                    longest,
                    once,
                ),
            ),
        )

    def _without(self, name: str, entries: Sequence[object], number: int) -> None:
        self._change(name, (*entries[:number], *entries[number + 1 :]))

    def refresh(self) -> None:
        """Show what the machine has."""
        machine = self._machine
        allow(self.rectangle, machine.outline, "it is a rectangle already")
        self._cutter_rows.setVisible(machine.has("cutters"))
        if self._shown == machine:
            return
        self._shown = machine
        emptied(self._areas[1])
        for number, area in enumerate(machine.keep_clear):
            away = icon_button(
                "remove",
                LIGHT.quiet,
                f"No longer keep clear of area {number + 1}",
                partial(self._without, "keep_clear", machine.keep_clear, number),
            )
            self._areas[1].addWidget(
                side_by_side(label(f"Area {number + 1} · {area.height:g} mm high"), away)
            )
        if not machine.keep_clear:
            self._areas[1].addWidget(
                label("Nothing. Draw a clamp, choose it, and add it.", "quiet", wrap=True)
            )
        emptied(self._cutters[1])
        for number, cutter in enumerate(machine.cutters):
            away = icon_button(
                "remove",
                LIGHT.quiet,
                f"Take {cutter.name} away",
                partial(self._without, "cutters", machine.cutters, number),
            )
            self._cutters[1].addWidget(
                side_by_side(label(f"{cutter.name} · {_deep(cutter)}"), away)
            )
