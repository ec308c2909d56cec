"""Machines: what each can reach, how fast it goes, and what it has. Four simulated ones ship; others are made from them."""

from __future__ import annotations

from typing import Annotated

from draxet.job.asked import Asked
from draxet.job.ranges import Id, OneOf, Size, Within, Words
from draxet.record import record

__all__ = ["KINDS", "MACHINES", "Machine"]

KINDS = ("laser", "router", "plasma", "pen")
_WORKS = {
    "laser": ("CutThrough", "Score", "Engrave"), "router": ("CutThrough", "Score", "Engrave", "Pocket", "Drill"),
    "plasma": ("CutThrough", "Score", "Drill"), "pen": ("Draw",),
}  # fmt: skip
"""Which kinds of operation each kind of machine can do."""


@record(frozen=True)
class Machine:
    """A machine. reach : width and height of what it reaches from the sheet's lower left, in mm. most_feed, travel : in mm a minute. acceleration : in mm/s².
    pierce : seconds that a cut waits where it begins. safe_height : mm above the sheet at which it travels. arcs : whether it runs arcs as such."""

    id: Id
    name: Words
    kind: Annotated[str, OneOf(KINDS)]
    reach_x: Annotated[Size, Asked("Reach, right", "mm")]
    reach_y: Annotated[Size, Asked("Reach, up", "mm")]
    most_feed: Annotated[float, Within(1.0, 1e6), Asked("Greatest feed", " mm/min")]
    travel: Annotated[float, Within(1.0, 1e6), Asked("Travel", " mm/min")]
    acceleration: Annotated[float, Within(1.0, 1e6), Asked("Acceleration", " mm/s²")]
    cut_width: Annotated[Size, Asked("Cut width", "mm")]
    pierce: Annotated[float, Within(0.0, 60.0), Asked("Pierce", " s")] = 0.0
    safe_height: Annotated[Size, Asked("Safe height", "mm")] = 5.0
    plunge: Annotated[float, Within(1.0, 1e6), Asked("Plunge", " mm/min")] = 600.0
    has_air: Annotated[bool, Asked("Has air")] = False
    arcs: Annotated[bool, Asked("Runs arcs as arcs")] = True

    def can_do(self, operation: object) -> bool:
        """Whether it can do an operation of that kind."""
        return type(operation).__name__ in _WORKS[self.kind]


MACHINES = (
    Machine("desk-laser", "Desk laser", "laser", 600.0, 400.0, 30_000.0, 30_000.0, 2_000.0, 0.15, safe_height=1.0, has_air=True, arcs=False),
    Machine("gantry-router", "Gantry router", "router", 1_250.0, 1_250.0, 6_000.0, 8_000.0, 400.0, 3.175, safe_height=8.0),
    Machine("plasma-table", "Plasma table", "plasma", 1_500.0, 3_000.0, 8_000.0, 15_000.0, 600.0, 1.5, pierce=0.6, safe_height=15.0, has_air=True),
    Machine("pen-plotter", "Pen plotter", "pen", 841.0, 1_189.0, 24_000.0, 30_000.0, 1_500.0, 0.5, safe_height=3.0, arcs=False),
)
"""The simulated ones."""
