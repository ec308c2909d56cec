"""Align and space: what is chosen is brought to one side, spaced evenly, or centred; a part counts
as one."""

from __future__ import annotations

from typing import Annotated

from draxet.job.asked import Asked
from draxet.job.ranges import Coordinate, OneOf
from draxet.job.records import Job
from draxet.mend.align import ALIGNMENTS, aligned, centred, spaced, units_of
from draxet.record import record
from draxet.ui.controls.fields import Choice
from draxet.ui.controls.slip_parts import allow, button, fact_row, label, side_by_side
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Tool
from draxet.ui.stages.picking import PickTool
from draxet.ui.stages.slip import Slip

__all__ = ["AlignSlip", "AlignTool"]


@record
class AlignSettings:
    """by : what is aligned to, all that is chosen or the sheet. gap : the gap in mm between one and
    the next."""

    by: Annotated[
        str,
        OneOf(("chosen", "sheet")),
        Asked("Aligned within", choices=(("chosen", "what is chosen"), ("sheet", "the sheet"))),
    ] = "chosen"
    gap: Annotated[Coordinate, Asked("Gap", "mm")] = 5.0


class AlignTool(PickTool):
    """What is to be aligned is chosen."""

    title = "Align"


class AlignSlip(Slip):
    """Sides and middles, even gaps, centres."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(
            session, "Align and space", "The chosen contours and parts; a part counts as one."
        )
        self.settings: AlignSettings = session.desk.settings("align", AlignSettings)
        row, self._meant = fact_row("Chosen")
        self.add(row)
        self.asked = self.ask(self.settings, self._set, ("by",))
        self.across, self.up = (
            Choice(tuple((how, how) for how in ALIGNMENTS[:3]), "Across"),
            Choice(tuple((how, how) for how in ALIGNMENTS[3:]), "Up"),
        )
        for choice in (self.across, self.up):
            choice.act_only()
            choice.chosen.connect(self.align)
        self.add(self.across, self.up, label("Spaced evenly", "section"))
        self.even = side_by_side(
            button("Across", "plain", lambda: self.space(across=True)),
            button("Upwards", "plain", lambda: self.space(across=False)),
        )
        self.gap = self.ask(self.settings, self._set, ("gap",))
        self.with_gap = side_by_side(
            button("Gap across", "plain", lambda: self.space(across=True, gap=True)),
            button("Gap upwards", "plain", lambda: self.space(across=False, gap=True)),
        )
        self.body.insertWidget(self.body.indexOf(self.gap), self.even)
        self.add(self.with_gap, label("Centred on the sheet", "section"))
        self.centres = side_by_side(
            button("By its box", "plain", lambda: self.centre(by_area=False)),
            button("By its area", "plain", lambda: self.centre(by_area=True)),
        )
        self.add(self.centres)
        self.refresh()

    def _set(self, name: str, value: object, gesture: object) -> None:
        setattr(self.settings, name, value)

    def _frame(self) -> tuple[float, float, float, float] | None:
        return self.session.job.sheet.box if self.settings.by == "sheet" else None

    def align(self, how: str) -> None:
        self._do(
            f"align: {how}",
            aligned(self.session.job, sorted(self.session.selection.ids), how, self._frame()),
        )

    def space(self, *, across: bool, gap: bool = False) -> None:
        if gap and not self.gap.read():
            return
        try:
            job = spaced(
                self.session.job,
                sorted(self.session.selection.ids),
                across=across,
                gap=self.settings.gap if gap else None,
            )
        except ValueError as error:
            self.session.messages.refused.emit(f"Align and space: {error}.")
            return
        self._do("space evenly", job)

    def centre(self, *, by_area: bool) -> None:
        x0, y0, x1, y1 = self.session.job.sheet.box
        self._do(
            "centre on the sheet",
            centred(
                self.session.job,
                sorted(self.session.selection.ids),
                ((x0 + x1) / 2, (y0 + y1) / 2),
                by_area=by_area,
            ),
        )

    def _do(self, words: str, job: Job) -> None:
        if not self.session.selection.ids:
            self.session.messages.refused.emit("Align and space: choose contours or parts first.")
        elif job == self.session.job:
            self.session.messages.announced.emit("It is so already")
        else:
            self.session.edit(words, job)

    def refresh(self) -> None:
        self.asked.show_of(self.settings)
        self.gap.show_of(self.settings)
        units = units_of(self.session.job, sorted(self.session.selection.ids))
        self._meant.setText(f"{len(units)}" if units else "none")
        for part in (self.across, self.up, self.even, self.with_gap, self.centres):
            allow(part, units, "choose contours or parts first")
