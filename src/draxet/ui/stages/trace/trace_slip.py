"""The slip of the tools that trace a picture."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QProgressBar

from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, CUBIC, LINE
from draxet.job.findings import count_words
from draxet.job.picture_records import Picture
from draxet.trace.ground import PRESETS
from draxet.ui.controls.slip_parts import allow, button, fact_row, label, menu_button, side_by_side
from draxet.ui.model.session import Session
from draxet.ui.stages.findings_list import FindingRows
from draxet.ui.stages.slip import Slip
from draxet.ui.stages.trace.proposal import Proposal
from draxet.ui.stages.trace.tracing import TraceTool

__all__ = ["TraceSlip"]

_WAIT_MS = 120
_SPANS = "Lines · arcs · curves"


class TraceSlip(Slip):
    """Settings, what they give, and the buttons that all ways of tracing have."""

    def __init__(self, session: Session, tool: TraceTool, title: str, about: str) -> None:
        super().__init__(session, title, about)
        self.tool, self.settings = tool, tool.settings
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(_WAIT_MS)
        self._later.timeout.connect(tool.run)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.make = button("Make contours", "main", tool.make)
        self.stop = button("Cancel", "plain", tool.stop)
        self.over = button("Start over", "plain", tool.start_over)
        self.facts: dict[str, Any] = {}

    def preset_button(self) -> Any:
        self.preset = menu_button(
            "Ink",
            [
                (f"{p.name.capitalize()}: {p.words}", lambda name=p.name: self._preset(name))  # type: ignore[misc]
                for p in PRESETS.values()
            ],
        )
        return self.preset

    def _preset(self, name: str) -> None:
        self.settings.take_preset(name, self.session.selection.picture)
        self.again()

    def set(self, name: str, value: object, gesture: object = None) -> None:
        """Another setting; the trace follows soon after."""
        setattr(self.settings, name, value)
        if name == "detail":
            self.settings.tolerance = None
        self.again()

    def again(self) -> None:
        self._later.start()
        self.refresh()

    def add_outcome(self, *names: str) -> None:
        """Facts, then at the foot progress and buttons."""
        for name in (*names, "Contours", "Nodes", _SPANS, "Greatest deviation"):
            row, value = fact_row(name)
            self.facts[name] = (row, value)
            self.add(row)
        self._aside_words = label("", "brass")
        self._aside = side_by_side(
            self._aside_words, button("Bring back", "choice", self.tool.take_all_back)
        )
        self.add(self._aside)
        self._verdict = FindingRows(self.session, "")
        self.adds = self.ask(self.settings, self.set_adds, ("adds",))
        self.add(self._verdict, self.over)
        self.foot.add(self.bar, self.make, self.stop)

    def set_adds(self, name: str, value: object, gesture: object = None) -> None:
        """Nothing is traced anew by it."""
        setattr(self.settings, name, value)
        self.refresh()

    def fact(self, name: str, words: str) -> None:
        self.facts[name][1].setText(words)

    def leave(self) -> None:
        self._later.stop()

    def refresh(self) -> None:
        if self.tool.is_stale and not self._later.isActive():
            self.tool.offer = Proposal(())  # it lies where the picture lay
            self._later.start()
        tool, offer, picture = self.tool, self.tool.offer, self.session.selection.picture
        busy = tool.traced.busy
        for part in (self.bar, self.stop):
            part.setVisible(busy)
        self.bar.setValue(round(100 * tool.traced.share))
        traced = any(item.picture == tool.picture_id for item in self.session.job.contours)
        allow(
            self.over,
            traced or any(place.picture == tool.picture_id for place in self.settings.left_out),
            "nothing of this picture was traced yet",
        )
        if hasattr(self, "preset"):
            self.preset.setText(f"Kind of picture: {self.settings.preset}")
        self._refresh_facts(offer, picture)
        self.adds.show_of(self.settings)
        self.adds.setVisible(traced)
        self._verdict.show_findings(offer.fitness.findings if offer.fitness else ())

    def _offered(self, kept: Proposal) -> tuple[str, str]:
        """What would be made, or why nothing can be."""
        tool = self.tool
        if self.session.selection.picture is None:
            return "", "Choose a picture first, in Gather"
        if tool.traced.busy:
            return "", f"{tool.traced.words[:1].upper()}{tool.traced.words[1:] or 'Tracing'} …"
        if not tool.is_traced:
            return "", "Not traced, as that was stopped: change a setting"
        if not tool.offer.contours:
            return "", "Nothing was found to trace: change a setting"
        if not kept.contours:
            return "", "All contours were left out: bring some back"
        nodes = count_words(sum(len(contour.nodes) for contour in kept.contours), "node")
        return f"Makes {count_words(len(kept.contours), 'contour')} of {nodes}", ""

    def _refresh_facts(self, offer: Proposal, picture: Picture | None) -> None:
        """What is offered, in numbers."""
        kept, left = self.tool.parted_offer()
        self.foot.offer(self.make, *self._offered(kept))
        count, opened, aside = (
            len(offer.contours),
            sum(not c.closed for c in kept.contours),
            len(left.contours),
        )
        self.fact("Contours", f"{count - aside} · {opened} open" if count else "–")
        self._aside.setVisible(aside > 0)
        self._aside_words.setText(f"{count_words(aside, 'contour')} left out")
        self.fact(_SPANS, _kinds_of(kept.contours) if count else "–")
        self.fact(
            "Nodes",
            f"{sum(len(c.nodes) for c in offer.contours):,}".replace(",", " ") if count else "–",
        )
        close = offer.closeness
        if close is not None and count and picture:
            self.fact(
                "Greatest deviation",
                f"{close.greatest:.2f} px · {self.length(close.greatest * picture.pixel_size, 3)}",
            )
        else:
            self.fact("Greatest deviation", "–")
        for name, words in offer.facts:
            if name in self.facts:
                self.fact(name, words)


def _kinds_of(contours: Sequence[Contour]) -> str:
    """How many spans are lines, arcs and curves."""
    kinds = np.concatenate([each.kinds for each in contours]) if contours else np.zeros(0)
    return " · ".join(str(int((kinds == kind).sum())) for kind in (LINE, ARC, CUBIC))
