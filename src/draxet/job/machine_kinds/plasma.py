"""The plasma table: an arc that pierces, and parts the whole sheet."""

from __future__ import annotations

from typing import Annotated

from draxet.job.asked import Asked
from draxet.job.dialect import Dialect
from draxet.job.machine_kinds.machine_kind import RUN_SETTINGS, MachineKind, RunMachine
from draxet.job.ranges import Within
from draxet.record import record

__all__ = ["PLASMA_TABLE", "Plasma"]


@record(frozen=True)
class Plasma(RunMachine):
    """A plasma table. pierce : seconds that a cut waits where it begins. height_control : whether
    its torch follows the sheet."""

    pierce: Annotated[float, Within(0.0, 60.0), Asked("Pierce", " s")] = 0.0
    has_air: Annotated[bool, Asked("Has air")] = False
    height_control: Annotated[bool, Asked("Follows the height of the sheet")] = False

    traits = MachineKind(
        "plasma",
        works=("CutThrough", "Score", "Drill"),
        settings=RUN_SETTINGS | frozenset({"pierce", "small", "small_holes", "small_feed"}),
        checks=(
            "Ground on the sheet, clean metal to clean metal",
            "Air on and dry, the nozzle for this cut width in",
            "Shade on, gloves on, nothing that burns near",
            "Zero at the sheet's origin",
            "Slats whole; small parts can fall through",
        ),
        goes_through=True,
        parts_metal=True,
        pierces=True,
    )


PLASMA_TABLE = Plasma(
    "plasma-table",
    "Plasma table",
    cut_width=1.5,
    reach_x=1_500.0,
    reach_y=3_000.0,
    most_feed=8_000.0,
    travel=15_000.0,
    acceleration=600.0,
    pierce=0.6,
    safe_height=15.0,
    has_air=True,
    height_control=True,
    dialect=Dialect(end="M5\nM30"),
)
