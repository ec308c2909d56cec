"""The kinds of machine. Another one is a module, and a line here."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any, Union

from draxet.job.machine_kinds.hand_saw import FRET_SAW
from draxet.job.machine_kinds.laser import DESK_LASER
from draxet.job.machine_kinds.machine_kind import (
    CUTTERS,
    Cutter,
    KeepClear,
    Machine,
    MachineKind,
    RunMachine,
)
from draxet.job.machine_kinds.pen import PEN_PLOTTER
from draxet.job.machine_kinds.plasma import PLASMA_TABLE
from draxet.job.machine_kinds.printer import LAYER_PRINTER
from draxet.job.machine_kinds.router import GANTRY_ROUTER
from draxet.job.machine_kinds.stitcher import BENCH_STITCHER

__all__ = [
    "CUTTERS",
    "AnyMachine",
    "Cutter",
    "KeepClear",
    "MACHINES",
    "MACHINE_KINDS",
    "Machine",
    "MachineKind",
    "RunMachine",
    "counts_on",
    "of_kind",
]

MACHINES: tuple[Machine, ...] = (
    DESK_LASER,
    GANTRY_ROUTER,
    PLASMA_TABLE,
    PEN_PLOTTER,
    FRET_SAW,
    BENCH_STITCHER,
    LAYER_PRINTER,
)
"""The simulated ones, one of each kind."""
MACHINE_KINDS = tuple(type(machine) for machine in MACHINES)

if TYPE_CHECKING:
    AnyMachine = Machine
else:
    AnyMachine = Union[MACHINE_KINDS]  # what the codec reads a machine by


def counts_on(kind: MachineKind, setting: str) -> bool:
    """Whether a setting of operations counts on a kind: it does where no kind has it for its
    own."""
    return setting in kind.settings or not any(
        setting in each.traits.settings for each in MACHINE_KINDS
    )


def of_kind(machine: Machine, kind: type[Machine]) -> Machine:
    """A machine made one of another kind: what both have stays, and the rest is as in the first one
    of that kind."""
    like = next(each for each in MACHINES if isinstance(each, kind))
    kept: dict[str, Any] = {
        name: getattr(machine, name) for name in kind.__dataclass_fields__ if machine.has(name)
    }
    return replace(like, **kept)
