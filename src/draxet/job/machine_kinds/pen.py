"""The pen plotter: it draws."""

from __future__ import annotations

from typing import Annotated

from draxet.job.asked import Asked
from draxet.job.machine_kinds.machine_kind import RUN_SETTINGS, MachineKind, RunMachine
from draxet.record import record

__all__ = ["PEN_PLOTTER", "Pen"]


@record(frozen=True)
class Pen(RunMachine):
    """A pen plotter. cutter_change : whether it changes pens itself."""

    cutter_change: Annotated[bool, Asked("Changes tools itself")] = False

    traits = MachineKind(
        "pen",
        works=("Draw",),
        settings=RUN_SETTINGS,
        checks=(
            "Paper flat and taped at its corners",
            "The pen writes, and stands clear of the paper when it is up",
            "Zero at the sheet's origin",
        ),
        at_work="pen down",
        draws=True,
        plots=True,
    )


PEN_PLOTTER = Pen(
    "pen-plotter",
    "Pen plotter",
    cut_width=0.5,
    reach_x=841.0,
    reach_y=1_189.0,
    most_feed=24_000.0,
    travel=30_000.0,
    acceleration=1_500.0,
    safe_height=3.0,
    arcs=False,
)
