"""How small what is chosen can be, and what decides that."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtWidgets import QHBoxLayout, QWidget

from draxet.geometry.contour import boxes_of
from draxet.job.contour_records import ContourItem
from draxet.job.operations import CutThrough
from draxet.mend.how_small import HowSmall, smallest_of
from draxet.progress import Progress
from draxet.ui.controls.slip_parts import button, fact_row, set_part
from draxet.ui.model.derived import Derived
from draxet.ui.model.next_operation import next_operation
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Tool
from draxet.units import format_length

__all__ = ["HowSmallRow"]

_WAIT_MS, _MOST = 300, 500


class HowSmallRow(QWidget):
    """Worked out a little after something was chosen, where that is not very much."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__()
        self._session = session
        self._found = Derived[HowSmall | None](
            session,
            "how small",
            None,
            "How small it can be could not be worked out",
            tool=tool,
            keeps=False,
        )
        row, self.value = fact_row("As small as")
        self.show_place = button("Show", "choice", self._show)
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.addWidget(row, 1)
        line.addWidget(self.show_place)

    @property
    def found(self) -> HowSmall | None:
        return self._found.value

    def _show(self) -> None:
        if self.found is not None:
            self._session.messages.place_asked.emit(self.found.x, self.found.y)

    def _cut(self, chosen: Sequence[ContourItem]) -> float:
        """As broad is what goes along these."""
        job = self._session.layout
        widths = [job.cut_of[item.id].width for item in chosen if item.id in job.cut_of]
        if widths:
            return max(widths)
        machine = job.machine_of(job.sheet)
        return (
            next_operation(self._session, CutThrough).width
            if machine.can_do(CutThrough())
            else machine.cut_width
        )

    def show_items(self, chosen: Sequence[ContourItem]) -> None:
        """Show it for these; for nothing as long as it is not known."""
        self.setVisible(0 < len(chosen) <= _MOST)
        if not 0 < len(chosen) <= _MOST:
            self._found.forget()
            return
        job = self._session.job
        traits = job.machine_of(job.sheet).traits
        cut = self._cut(chosen)
        feature = traits.least_lines * cut or job.smallest_feature
        contours = tuple(item.contour for item in chosen)
        widths = tuple(item.line for item in chosen)
        workers = self._session.workers

        def work(report: Progress) -> HowSmall | None:
            found: HowSmall | None = workers.apart(
                report, smallest_of, contours, widths, cut, feature
            )
            return found

        self._found.ask((contours, widths, cut, feature), work, _WAIT_MS)
        found = self.found
        self.show_place.setVisible(found is not None and found.scale > 0)
        if found is None or found.scale <= 0:
            self.value.setText("…" if self._found.busy else "–")
            return
        boxes = boxes_of(contours)
        wide, high = found.scale * (boxes[:, 2:].max(axis=0) - boxes[:, :2].min(axis=0))
        unit = self._session.job.unit
        self.value.setText(f"{_shown(float(wide), unit)} × {_shown(float(high), unit)}")
        set_part(self.value, part="brass" if found.scale > 1 else "value")
        said = (
            f"where the {found.what} that decides is; a {traits.line} of {format_length(cut, unit)} and a smallest feature of {format_length(feature, unit)} count"
            if found.what != "gap"
            else f"where the gap that decides is: it must take the {traits.line} of {format_length(cut, unit)}"
        )
        self.show_place.setToolTip(said)
        self.setToolTip(
            f"at that size a {found.what} is as broad as it must be"
            + ("; it is too small already" if found.scale > 1 else "")
        )


def _shown(mm: float, unit: str) -> str:
    return format_length(mm, unit, places=1)
