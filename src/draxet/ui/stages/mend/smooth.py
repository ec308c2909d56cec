"""Smooth: a brush of a reach and a strength draws wobbles flat as it goes over them."""

from __future__ import annotations

import math
from typing import Annotated

from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.contour_edits import change_contours
from draxet.job.findings import count_words
from draxet.job.ranges import Size, Within
from draxet.mend.brush import Brushed
from draxet.record import record
from draxet.ui.controls.slip_parts import fact_row
from draxet.ui.model.session import Session
from draxet.ui.model.tool import ContourMark, Mark, Pointer, Prompt, Tool
from draxet.ui.stages.slip import Slip

__all__ = ["SmoothSlip", "SmoothTool"]

_STEP = 0.25
"""Of the reach: so far apart the brush works along its way."""
_FULL = 0.7


@record
class BrushSettings:
    """reach : the brush's radius in mm; strength : percent."""

    reach: Annotated[Size, Asked("Reach", "mm")] = 5.0
    strength: Annotated[float, Within(1.0, 100.0), Asked("Strength", " %", slider=(1, 100))] = 50.0


class SmoothTool(Tool):
    """Press and go over what is to be smoother; one stroke is one step."""

    title = "Smooth"

    def __init__(self, session: Session) -> None:
        self.session = session
        self._at: Pointer | None = None
        self._last: tuple[float, float] | None = None
        self._under: dict[str, Brushed] = {}

    @property
    def settings(self) -> BrushSettings:
        return self.session.desk.settings("smooth", BrushSettings)

    def prompt(self) -> Prompt:
        if self._last is not None:
            return Prompt(
                "Smooth: go over what is to be smoother, then let go.",
                keys=(("Esc", "leave it as it was"),),
            )
        return Prompt(
            "Smooth: press and go over what is to be smoother.", "of what is chosen, or of all"
        )

    def press(self, at: Pointer) -> None:
        self._last, self._under, self._at = (at.x, at.y), {}, at
        self._work(at.x, at.y)

    def move(self, at: Pointer) -> None:
        self._at = at
        if self._last is None:
            return
        far = math.dist(self._last, (at.x, at.y))
        steps = int(far / (_STEP * self.settings.reach))
        x, y = self._last
        for k in range(1, min(steps, 200) + 1):
            share = k / max(steps, 1)
            self._work(x + (at.x - x) * share, y + (at.y - y) * share)
        if steps:
            self._last = (at.x, at.y)

    def _work(self, x: float, y: float) -> None:
        reach, strength = self.settings.reach, _FULL * self.settings.strength / 100
        some = self.session.selection.ids
        for item in self.session.selection.pickable:
            x0, y0, x1, y1 = item.contour.box
            if (some and item.id not in some) or not (
                x0 - reach <= x <= x1 + reach and y0 - reach <= y <= y1 + reach
            ):
                continue
            under = self._under.get(item.id)
            if under is None:
                under = self._under[item.id] = Brushed.of(item.contour, reach)
            under.stroke(x, y, reach, strength)

    def release(self, at: Pointer) -> None:
        if self._last is None:
            return
        self._last, under = None, self._under
        self._under = {}
        tolerance = self.session.job.exactness.tolerance / 4
        changed = {
            k: brushed.fitted(tolerance)
            for k, brushed in under.items()
            if brushed.touched.any() and k in self.session.layout.contour_by_id
        }
        if changed:
            self.session.edit("smooth", change_contours(self.session.job, changed))
        else:
            self.session.messages.refused.emit(
                "Smooth: there is no contour under the brush; go over one."
            )

    def cancel(self) -> bool:
        begun = self._last is not None
        self._last, self._under = None, {}
        return begun

    def forget(self) -> None:
        self._last, self._under = None, {}

    def hidden(self) -> frozenset[str]:
        return frozenset(k for k, brushed in self._under.items() if brushed.touched.any())

    def marks(self) -> list[Mark]:
        marks: list[Mark] = [
            ContourMark((Contour.make(b.points, closed=b.contour.closed),))
            for b in self._under.values()
            if b.touched.any()
        ]
        if self._at is not None:
            marks.append(
                ContourMark((Contour.circle(self._at.x, self._at.y, self.settings.reach),), "offer")
            )
        return marks


class SmoothSlip(Slip):
    """The brush's reach and strength."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(
            session,
            "Smooth",
            "Wobbles under the brush are drawn flat; what it does not touch stays as it is, span by span. Choose contours first to spare the others.",
        )
        self.settings: BrushSettings = session.desk.settings("smooth", BrushSettings)
        self.asked = self.ask(self.settings, self._set)
        row, self._meant = fact_row("Smoothed")
        self.add(row)
        self.refresh()

    def _set(self, name: str, value: object, gesture: object) -> None:
        setattr(self.settings, name, value)
        self.session.marks_changed.emit()

    def refresh(self) -> None:
        self.asked.show_of(self.settings)
        chosen = len(self.session.selection.ids)
        self._meant.setText(count_words(chosen, "contour") if chosen else "all contours")
