"""The slip of bridges."""

from __future__ import annotations

from dataclasses import replace

from draxet.job.findings import count_words
from draxet.ui.controls.slip_parts import allow, button, fact_row, label
from draxet.ui.model.session import Session
from draxet.ui.stages.mend.bridge_tool import BridgeTool
from draxet.ui.stages.slip import Slip

__all__ = ["BridgeSlip"]


class BridgeSlip(Slip):
    """What a click makes, how broad a bridge is, and how many hold."""

    def __init__(self, session: Session, tool: BridgeTool) -> None:
        super().__init__(
            session,
            "Bridges",
            "They hold what would fall out. The width is what is left once the cuts have run; they stay where they are when a contour changes.",
        )
        self._tool = tool
        self.asked = self.ask(tool.settings, self._set, ("click", "width", "count"))
        self.all = button("Hold every island", "main", tool.hold_all)
        bridges, self._bridges = fact_row("Bridges")
        idle, self._idle = fact_row("Hold nothing")
        self._rows = (idle,)
        self.one, self.every = (
            button("Remove it", "plain", tool.remove),
            button("Remove all", "plain", tool.remove_all),
        )
        self.add(bridges, idle, self.one, self.every)
        self.foot.add(self.all)
        self.add(
            label(
                "What falls, and what hangs by a thread, is shown by Falls or stays.",
                "quiet",
                wrap=True,
            )
        )
        self.refresh()

    def _set(self, name: str, value: object, gesture: object) -> None:
        if name == "width" and isinstance(value, float):
            self._tool.set_width(value)
        else:
            setattr(self._tool.settings, name, value)
            self.session.tool_changed.emit()

    def refresh(self) -> None:
        tool = self._tool
        self.asked.show_of(replace(tool.settings, width=tool.width))
        effects = tool.held_cuts().effects
        idle = sum(effect.shape is None for effect in effects)
        settings = tool.settings
        self.foot.offer(
            self.all,
            f"With {count_words(settings.count, 'bridge')} of {self.length(tool.width)} each",
            "" if self.session.job.contours else "There are no contours yet",
        )
        self._bridges.setText(str(len(effects)) if effects else "none")
        self._idle.setText(str(idle))
        self._rows[0].setVisible(idle > 0)
        allow(self.one, tool.chosen, "click a bridge first")
        allow(self.every, effects, "there are no bridges")
        self.every.setText(
            "Remove those of the chosen" if self.session.selection.ids else "Remove all"
        )
