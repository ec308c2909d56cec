"""The slip that shows how near contours lie to the picture."""

from __future__ import annotations

import numpy as np
from PyQt6.QtWidgets import QVBoxLayout

from draxet.ui.controls.slip_parts import (
    allow,
    button,
    emptied,
    fact_row,
    field_row,
    label,
    set_part,
)
from draxet.ui.model.session import Session
from draxet.ui.stages.colour_menu import take_colour
from draxet.ui.stages.findings_list import FindingRows
from draxet.ui.stages.slip import Slip
from draxet.ui.stages.trace.nearness import Answer, NearnessTool
from draxet.units import format_area

__all__ = ["NearnessSlip"]


class NearnessSlip(Slip):
    """Summary, the worst places, and the verdict on cutting."""

    def __init__(self, session: Session, tool: NearnessTool) -> None:
        super().__init__(
            session,
            "Compare",
            "The contours against the picture's own edge, all along, and the picture's lines against the contours.",
        )
        self._tool = tool
        self.apart = self.length_field("Farther than")
        self.apart.entered.connect(tool.set_apart)
        lines, self._lines = fact_row("Lines without a contour")
        self.next_line = button("Show the next one", "plain", self._go_to_next)
        self._next = 0
        self.add(
            label("Not traced yet", "section"),
            field_row("Farther than", self.apart, 110),
            lines,
            self.next_line,
            label("How near", "section"),
        )
        mean, self._mean = fact_row("On average")
        greatest, self._greatest = fact_row("Greatest")
        none, self._none = fact_row("No edge there")
        self.add(mean, greatest, none, label("The worst places", "section"))
        self._list = QVBoxLayout()
        self._list.setSpacing(0)
        self.body.addLayout(self._list)
        self.add(label("Fit for cutting?", "section"))
        self._facts = {
            name: fact_row(name)
            for name in ("Contours · nodes", "Shortest span", "Narrowest place", "Smallest contour")
        }
        self.add(*(row for row, _ in self._facts.values()))
        self._verdict = FindingRows(session, "Fit for cutting.")
        self.colour = button("Take the picture's colour", "plain", lambda: take_colour(session))
        self.add(self._verdict, self.colour)
        self._shown: object = None
        self.refresh()

    def go_to(self, x: float, y: float) -> None:
        """Bring a place into the middle and mark it."""
        self._tool.looked = (x, y)
        self.session.messages.place_asked.emit(x, y)
        self.session.marks_changed.emit()

    def _go_to_next(self) -> None:
        """From one line that is not traced to the next, the longest first."""
        answer, picture = self._tool.answer, self.session.selection.picture
        if answer is not None and answer.untraced and picture is not None:
            self.go_to(
                *picture.to_job.point(*answer.untraced[self._next % len(answer.untraced)].place)
            )
            self._next += 1

    def _show_untraced(self, answer: Answer | None) -> None:
        self.apart.set_value(self._tool.apart_mm())
        lines = answer.untraced if answer else ()
        pixel = answer.pixel if answer else 1.0
        long, area = (
            sum(line.long for line in lines) * pixel,
            sum(line.area for line in lines) * pixel**2,
        )
        self._lines.setText(
            f"{len(lines)} · {self.length(long, 1)} · {format_area(area, self.session.job.unit)}"
            if lines
            else "none"
            if answer
            else "–"
        )
        set_part(self._lines, part="brass" if lines else "value")
        allow(self.next_line, lines, "no line was found that is not traced")

    def refresh(self) -> None:
        self._tool.run()
        answer = self._tool.answer
        self._show_untraced(answer)
        allow(self.colour, self.session.selection.ids, "choose contours first")
        if answer is self._shown and answer is not None:
            return
        self._shown = answer
        emptied(self._list)
        if answer is None:
            for value in (
                self._mean,
                self._greatest,
                self._none,
                *(value for _, value in self._facts.values()),
            ):
                value.setText("–")
            self._verdict.hide()
            return
        close, pixel, fit = answer.closeness, answer.pixel, answer.fitness
        self._mean.setText(f"{close.mean:.2f} px · {self.length(close.mean * pixel, 3)}")
        self._greatest.setText(
            f"{close.greatest:.2f} px · {self.length(close.greatest * pixel, 3)}"
        )
        self._none.setText(f"{100 * (1 - close.found.mean()):.1f} %" if len(close.found) else "–")
        self._list_worst(answer)
        values = (
            f"{fit.contours:,} · {fit.nodes:,}".replace(",", " "),
            self._size(fit.shortest),
            self._size(fit.narrowest),
            self._size(fit.smallest_hole),
        )
        for (_, value), words in zip(self._facts.values(), values, strict=True):
            value.setText(words)
        self._verdict.show()
        self._verdict.show_findings(fit.findings)

    def _list_worst(self, answer: Answer) -> None:
        """Places that lie farthest off, to go to."""
        for k, (x, y, off, contour) in enumerate(answer.worst, start=1):
            words = (
                f"{k}   {off:.2f} px · {self.length(off * answer.pixel, 3)}"
                if np.isfinite(off)
                else f"{k}   no edge of the picture here"
            )
            self._list.addWidget(
                button(words, "row", lambda x=x, y=y, contour=contour: self._choose(x, y, contour))  # type: ignore[misc]
            )

    def _size(self, mm: float) -> str:
        return self.length(mm, 2) if np.isfinite(mm) else "wide enough"

    def _choose(self, x: float, y: float, contour: str) -> None:
        self.session.selection.choose({contour})
        self.go_to(x, y)
