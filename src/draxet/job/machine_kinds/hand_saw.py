"""The hand saw: a blade that is led by hand along a paper pattern."""

from __future__ import annotations

from typing import Annotated

from draxet.job.asked import Asked
from draxet.job.machine_kinds.machine_kind import Machine, MachineKind
from draxet.job.ranges import Size
from draxet.record import record

__all__ = ["FRET_SAW", "HandSaw"]


@record(frozen=True)
class HandSaw(Machine):
    """A hand saw. pilot : the hole for the blade in the waste of every opening, in mm."""

    pilot: Annotated[
        Size,
        Asked("Pilot hole", "mm", tip="Drilled in the waste of every opening, for the blade"),
    ] = 3.0

    most_feed = 300.0
    travel = 3_000.0
    acceleration = 1_000.0
    """How fast a hand goes, in mm a minute and mm/s²."""

    traits = MachineKind(
        "saw",
        works=("CutThrough",),
        settings=frozenset(),
        checks=(
            "Pattern stuck flat, its pages joined at their marks, its square measured",
            "Pilot holes drilled where the crosses are, in the waste",
            "Blade through its hole, teeth down, and tight",
            "Inside first, in the order of the numbers",
            "Sheet held down, fingers beside the line and not before the blade",
        ),
        at_work="blade in it",
        goes_through=True,
        product="pattern",
        unplayed="It is led by hand: there is no program to play",
    )


FRET_SAW = HandSaw("hand-saw", "Hand saw", cut_width=1.0)
