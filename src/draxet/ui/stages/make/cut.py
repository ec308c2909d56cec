"""Make: contours are given their cut."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from draxet.job.asked import Asked
from draxet.job.edits import set_operation
from draxet.job.findings import count_words
from draxet.job.ranges import Size, Within
from draxet.job.records import CutThrough, Side
from draxet.make.cut import CutError, give_cut
from draxet.ui.canvas.tool import Tool
from draxet.ui.shell.fields import Choice, button, label
from draxet.ui.shell.session import Session
from draxet.ui.stages.picking import PickTool
from draxet.ui.stages.slip import Slip

__all__ = ["CutSlip", "CutTool"]


class CutTool(PickTool):
    """What is to be cut is chosen."""

    title = "Cut through"


@dataclass
class LastCut:
    """What was last typed for a cut: its width in mm and its feed in mm a minute."""

    width: Annotated[Size, Asked("Cut width", "mm")] = 1.5
    feed: Annotated[float, Within(1.0, 100_000.0), Asked("Feed", " mm/min")] = 2400.0


class CutSlip(Slip):
    """Cut width and feed for what is chosen, and the operations there are."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(session, "Cut through", "Openings are cut inside, outlines outside, so that the part keeps its size.")
        self.settings = session.settings("cut", LastCut)
        self.asked = self.ask(self.settings, lambda name, value, _: setattr(self.settings, name, value))
        self.give = button("Cut the chosen", "main", self.apply)
        self.add(self.give, label("Operations, in order", "section"))
        self._list = QVBoxLayout()
        self._list.setSpacing(10)
        self.body.addLayout(self._list)
        self._shared = label("", "quiet", wrap=True)
        self.add(self._shared)
        self._shown: tuple[CutThrough, ...] | None = None
        self.refresh()

    def apply(self) -> None:
        """Give the chosen contours, or all where none is chosen, their cut."""
        if not self.asked.read():
            return
        job = self.session.job
        ids = [item.id for item in job.contours if not self.session.selection or item.id in self.session.selection]
        try:
            self.session.edit("give a cut", give_cut(job, ids, self.settings.width, self.settings.feed))
        except CutError as error:
            self.session.refused.emit(str(error))

    def refresh(self) -> None:
        self.asked.show_of(self.settings)
        chosen = len(self.session.selection)
        self.give.setText(f"Cut the {chosen} chosen" if chosen > 1 else "Cut the chosen one" if chosen else "Cut everything")
        self.give.setEnabled(bool(self.session.job.contours))
        shared = sum(work.shared for work in self.session.looked.work)
        self._shared.setText(f"{count_words(shared, 'shared edge')} of areas {'is' if shared == 1 else 'are'} cut once, on the line.")
        self._shared.setVisible(shared > 0)
        if self._shown is not self.session.job.operations:
            self._shown = self.session.job.operations
            while (item := self._list.takeAt(0)) is not None:
                if widget := item.widget():
                    widget.deleteLater()
            for operation in self._shown:
                self._list.addWidget(self._row(operation))
            if not self._shown:
                self._list.addWidget(label("None yet. Click contours, or cut everything.", "quiet", wrap=True))

    def _row(self, operation: CutThrough) -> QWidget:
        made = QWidget()
        rows = QVBoxLayout(made)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(4)
        count = len(operation.contours)
        rows.addWidget(label(f"{operation.name} · {self.length(operation.width)}", "value"))
        rows.addWidget(label(f"{count} contour{'s' * (count != 1)} · {operation.feed:g} mm/min", "quiet"))
        side = Choice([(s.value, s.value) for s in (Side.INSIDE, Side.ON, Side.OUTSIDE)], f"Side of {operation.name}")
        side.set_value(operation.side.value)
        side.chosen.connect(lambda key: self._set_side(operation, Side(key)))
        rows.addWidget(side)
        return made

    def _set_side(self, operation: CutThrough, side: Side) -> None:
        if side is not operation.side:
            self.session.edit("change the side of a cut", set_operation(self.session.job, replace(operation, side=side)))
