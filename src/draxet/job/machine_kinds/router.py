"""The router: a tool that turns, and goes down to a depth."""

from __future__ import annotations

from draxet.job.machine_kinds.machine_kind import RUN_FIELDS, RUN_SETTINGS, MachineKind

__all__ = ["ROUTER"]

ROUTER = MachineKind(
    "router",
    works=("CutThrough", "Score", "Engrave", "Pocket", "Drill"),
    settings=RUN_SETTINGS | frozenset({"pass_depth", "tab_height", "depth"}),
    fields=RUN_FIELDS | frozenset({"plunge", "spindle", "cutter_change", "cutters", "has_air"}),
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
