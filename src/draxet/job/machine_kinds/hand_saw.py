"""The hand saw: a blade that is led by hand along a paper pattern."""

from __future__ import annotations

from draxet.job.machine_kinds.machine_kind import MachineKind

__all__ = ["HAND_SAW"]

HAND_SAW = MachineKind(
    "saw",
    works=("CutThrough",),
    settings=frozenset(),
    fields=frozenset({"pilot"}),
    checks=(
        "Pattern stuck flat, its pages joined at their marks, its square measured",
        "Pilot holes drilled where the crosses are, in the waste",
        "Blade through its hole, teeth down, and tight",
        "Inside first, in the order of the numbers",
        "Sheet held down, fingers beside the line and not before the blade",
    ),
    at_work="blade in it",
    goes_through=True,
    led_by_hand=True,
)
