"""Guides: straight lines without ends to draw by. They are caught, and never cut."""

from __future__ import annotations

import math

from draxet.job.edits import add_guide, remove_guides
from draxet.job.findings import count_words
from draxet.ui.canvas.tool import LineMark, Mark, Tool
from draxet.ui.shell.fields import button, fact_row
from draxet.ui.shell.session import Session
from draxet.ui.stages.gesture import Gesture, GestureTool, Place, Want, polar
from draxet.ui.stages.slip import Slip

__all__ = ["GuideSlip", "GuideTool"]

_FAR = 1e5


class GuideTool(GestureTool):
    """Through two places, or through one at a typed angle; level and upright ones are also pulled from the rulers."""

    title = "Guide"

    def gesture(self) -> Gesture:
        a = (yield Want("click a place that it goes through, or pull one from a ruler")).place
        b = yield Want("click another place on it", ("angle",), polar(a), lambda at: self._looks(a, at), a, back=(a,))
        if math.dist(a, b.place) <= 0 and "angle" not in b.numbers:
            self.session.refused.emit("Guide: both places are the same; click farther apart, or type an angle.")
            return
        angle = b.numbers.get("angle", math.degrees(math.atan2(b.place[1] - a[1], b.place[0] - a[0])))
        self.session.edit("set a guide", add_guide(self.session.job, *a, (angle + 90.0) % 180.0 - 90.0))

    @staticmethod
    def _looks(a: Place, at: Place) -> list[Mark]:
        away = math.dist(a, at)
        if away <= 0:
            return []
        dx, dy = (at[0] - a[0]) / away * _FAR, (at[1] - a[1]) / away * _FAR
        return [LineMark(a[0] - dx, a[1] - dy, a[0] + dx, a[1] + dy, "guide")]


class GuideSlip(Slip):
    """How many guides there are, and all of them gone at once."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(session, "Guide", "Straight lines to draw by: pulled from the rulers, through two places, or at a typed angle. They are caught, and never cut.")
        count, self._count = fact_row("Guides")
        self.clear = button("Remove all guides", "plain", lambda: session.edit("remove all guides", remove_guides(session.job)))
        self.add(count, self.clear)
        self.refresh()

    def refresh(self) -> None:
        guides = len(self.session.job.guides)
        self._count.setText(count_words(guides, "guide") if guides else "none")
        self.clear.setEnabled(guides > 0)
