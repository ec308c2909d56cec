"""The plasma table: an arc that pierces, and parts the whole sheet."""

from __future__ import annotations

from draxet.job.machine_kinds.machine_kind import RUN_FIELDS, RUN_SETTINGS, MachineKind

__all__ = ["PLASMA"]

PLASMA = MachineKind(
    "plasma",
    works=("CutThrough", "Score", "Drill"),
    settings=RUN_SETTINGS | frozenset({"pierce", "small", "small_holes", "small_feed"}),
    fields=RUN_FIELDS | frozenset({"pierce", "height_control", "has_air"}),
    checks=(
        "Ground on the sheet, clean metal to clean metal",
        "Air on and dry, the nozzle for this cut width in",
        "Shade on, gloves on, nothing that burns near",
        "Zero at the sheet's origin",
        "Slats whole; small parts can fall through",
    ),
    goes_through=True,
)
