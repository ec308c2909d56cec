"""The pen plotter: it draws."""

from __future__ import annotations

from draxet.job.machine_kinds.machine_kind import RUN_FIELDS, RUN_SETTINGS, MachineKind

__all__ = ["PEN"]

PEN = MachineKind(
    "pen",
    works=("Draw",),
    settings=RUN_SETTINGS,
    fields=RUN_FIELDS | frozenset({"cutter_change"}),
    checks=(
        "Paper flat and taped at its corners",
        "The pen writes, and stands clear of the paper when it is up",
        "Zero at the sheet's origin",
    ),
    at_work="pen down",
    draws=True,
    plots=True,
)
