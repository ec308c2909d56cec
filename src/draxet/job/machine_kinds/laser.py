"""The laser: a beam of a power."""

from __future__ import annotations

from draxet.job.machine_kinds.machine_kind import RUN_FIELDS, RUN_SETTINGS, MachineKind

__all__ = ["LASER"]

LASER = MachineKind(
    "laser",
    works=("CutThrough", "Score", "Engrave"),
    settings=RUN_SETTINGS | frozenset({"power", "depth"}),
    fields=RUN_FIELDS | frozenset({"power_scale", "burn", "has_air"}),
    checks=(
        "Focus set to the top of the sheet",
        "Lid closed or eyes protected for this beam",
        "Exhaust on",
        "Sheet flat and held down, nothing loose on it",
        "Zero at the sheet's origin",
        "Somebody stays beside it",
    ),
    has_power=True,
)
