"""The kinds of machine. Another one is a module, and a line here."""

from __future__ import annotations

from draxet.job.machine_kinds.hand_saw import HAND_SAW
from draxet.job.machine_kinds.laser import LASER
from draxet.job.machine_kinds.machine_kind import MachineKind
from draxet.job.machine_kinds.pen import PEN
from draxet.job.machine_kinds.plasma import PLASMA
from draxet.job.machine_kinds.router import ROUTER

__all__ = [
    "HAND_SAW",
    "LASER",
    "MACHINE_KINDS",
    "PEN",
    "PLASMA",
    "ROUTER",
    "MachineKind",
    "counts_on",
    "has_field",
]

MACHINE_KINDS = {kind.key: kind for kind in (LASER, ROUTER, PLASMA, PEN, HAND_SAW)}


def counts_on(kind: MachineKind, setting: str) -> bool:
    """Whether a setting of operations counts on a kind: it does where no kind has it for its
    own."""
    return setting in kind.settings or not any(
        setting in each.settings for each in MACHINE_KINDS.values()
    )


def has_field(kind: MachineKind, name: str) -> bool:
    """Whether machines of a kind have a field: all have what no kind has for its own."""
    return name in kind.fields or not any(name in each.fields for each in MACHINE_KINDS.values())
