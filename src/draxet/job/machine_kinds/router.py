"""The router: a tool that turns, and goes down to a depth."""

from __future__ import annotations

from typing import Annotated

from draxet.job.asked import Asked
from draxet.job.machine_kinds.machine_kind import RUN_SETTINGS, Cutter, MachineKind, RunMachine
from draxet.job.ranges import Each, Within
from draxet.record import record

__all__ = ["GANTRY_ROUTER", "Router"]


@record(frozen=True)
class Router(RunMachine):
    """A router. spindle : most turns a minute. plunge : in mm a minute. cutters : what it can
    hold. cutter_change : whether it changes them itself."""

    spindle: Annotated[float, Within(0.0, 1e6), Asked("Spindle, at most", " rpm")] = 0.0
    plunge: Annotated[float, Within(1.0, 1e6), Asked("Plunge", "mm/min")] = 600.0
    has_air: Annotated[bool, Asked("Has air")] = False
    cutter_change: Annotated[bool, Asked("Changes tools itself")] = False
    cutters: Annotated[tuple[Cutter, ...], Each("tool")] = ()

    traits = MachineKind(
        "router",
        works=("CutThrough", "Score", "Engrave", "Pocket", "Drill"),
        settings=RUN_SETTINGS | frozenset({"pass_depth", "tab_height", "depth"}),
        checks=(
            "Sheet clamped, and clamps clear of the way",
            "The tool that the program begins with is in, and tight",
            "Zero at the sheet's origin, height at the {zero}",
            "Eyes and ears protected, dust drawn off",
            "Tabs or screws hold what will come loose",
        ),
        at_work="tool down",
        lowers=True,
    )


GANTRY_ROUTER = Router(
    "gantry-router",
    "Gantry router",
    cut_width=3.175,
    reach_x=1_250.0,
    reach_y=1_250.0,
    most_feed=6_000.0,
    travel=8_000.0,
    acceleration=400.0,
    safe_height=8.0,
    spindle=24_000.0,
    cutters=(
        Cutter("End mill 3.175", "end mill", 3.175, 2, 14.0),
        Cutter("End mill 2", "end mill", 2.0, 2, 8.0),
        Cutter("End mill 6", "end mill", 6.0, 2, 25.0),
        Cutter("Drill 3", "drill", 3.0, 2, 30.0),
    ),
)
