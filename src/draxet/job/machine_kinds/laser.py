"""The laser: a beam of a power."""

from __future__ import annotations

from typing import Annotated

from draxet.job.asked import Asked
from draxet.job.dialect import Dialect
from draxet.job.machine_kinds.machine_kind import RUN_SETTINGS, MachineKind, RunMachine
from draxet.job.ranges import Within
from draxet.record import record

__all__ = ["DESK_LASER", "Laser"]


@record(frozen=True)
class Laser(RunMachine):
    """A laser. power_scale : what its program calls full power. burn : how deep it burns, in mm at
    1 % and 1 mm a minute."""

    power_scale: Annotated[float, Within(1.0, 1e6), Asked("Full power is called")] = 1000.0
    burn: Annotated[
        float,
        Within(0.0, 1e6),
        Asked(
            "Burns so deep",
            " mm at 1 % and 1 mm/min",
            tip="In the material at hand; a laser's rehearsal goes by it",
        ),
    ] = 22.0
    has_air: Annotated[bool, Asked("Has air")] = False

    traits = MachineKind(
        "laser",
        works=("CutThrough", "Score", "Engrave"),
        settings=RUN_SETTINGS | frozenset({"power", "depth"}),
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


DESK_LASER = Laser(
    "desk-laser",
    "Desk laser",
    cut_width=0.15,
    reach_x=600.0,
    reach_y=400.0,
    most_feed=30_000.0,
    travel=30_000.0,
    acceleration=2_000.0,
    safe_height=1.0,
    has_air=True,
    arcs=False,
    dialect=Dialect(on="M4", end="M5\nM2"),
)
