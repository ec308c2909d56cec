"""Machines: what each can reach, how fast it goes, and what it has. Some simulated ones ship;
others are made from them."""

from __future__ import annotations

from typing import Annotated

from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.dialect import Dialect
from draxet.job.machine_kinds import (
    HAND_SAW,
    LASER,
    MACHINE_KINDS,
    PEN,
    PLASMA,
    ROUTER,
    MachineKind,
)
from draxet.job.ranges import Each, Id, OneOf, Size, Within, Words
from draxet.record import record
from draxet.units import SPEEDS

__all__ = ["CUTTERS", "FIELDS_BEFORE", "FIELDS_SINCE", "Cutter", "KeepClear", "MACHINES", "Machine"]

CUTTERS = ("end mill", "ball nose", "engraver", "drill")


@record(frozen=True)
class KeepClear:
    """An area that the machine must not run into, as a clamp: a closed outline counted from the
    sheet's lower left, and how high it stands above the sheet, in mm."""

    outline: Contour
    height: Annotated[float, Within(0.0, 1000.0)] = 20.0


@record(frozen=True)
class Cutter:
    """A tool that a machine can hold. longest : how deep it can cut, in mm."""

    name: Words
    kind: Annotated[str, OneOf(CUTTERS)] = "end mill"
    diameter: Size = 3.175
    flutes: Annotated[int, Within(1, 20)] = 2
    longest: Size = 12.0


@record(frozen=True)
class Machine:
    """A machine. reach : width and height of what it reaches from the sheet's lower left, in mm;
    `outline` where it is no rectangle, and what it has to keep clear
    of. speeds : the unit in which speeds are shown. power_scale : what its program calls full
    power. spindle : most turns a minute. cutters : what it can hold. most_feed, travel : in mm a
    minute. acceleration : in mm/s².
    pierce : seconds that a cut waits where it begins. safe_height : mm above the sheet at which it
    travels. arcs : whether it runs arcs as such."""

    id: Id
    name: Words
    kind: Annotated[
        str,
        OneOf(tuple(MACHINE_KINDS)),
        Asked("Kind", choices=tuple((each, each) for each in MACHINE_KINDS)),
    ]
    reach_x: Annotated[Size, Asked("Reach, right", "mm")]
    reach_y: Annotated[Size, Asked("Reach, up", "mm")]
    most_feed: Annotated[float, Within(1.0, 1e6), Asked("Greatest feed", "mm/min")]
    travel: Annotated[float, Within(1.0, 1e6), Asked("Travel", "mm/min")]
    acceleration: Annotated[float, Within(1.0, 1e6), Asked("Acceleration", " mm/s²")]
    cut_width: Annotated[Size, Asked("Cut width", "mm")]
    pierce: Annotated[float, Within(0.0, 60.0), Asked("Pierce", " s")] = 0.0
    safe_height: Annotated[Size, Asked("Safe height", "mm")] = 5.0
    plunge: Annotated[float, Within(1.0, 1e6), Asked("Plunge", "mm/min")] = 600.0
    has_air: Annotated[bool, Asked("Has air")] = False
    arcs: Annotated[bool, Asked("Runs arcs as arcs")] = True
    least_step: Annotated[
        float,
        Within(0.0, 100.0),
        Asked(
            "Least step",
            "mm",
            tip="Places of a line that are nearer to each other are left out; 0 keeps all",
        ),
    ] = 0.0
    height_control: Annotated[bool, Asked("Follows the height of the sheet")] = False
    cutter_change: Annotated[bool, Asked("Changes tools itself")] = False
    speeds: Annotated[
        str,
        OneOf(tuple(SPEEDS)),
        Asked("Speeds in", choices=tuple((each, each) for each in SPEEDS)),
    ] = "mm/min"
    power_scale: Annotated[float, Within(1.0, 1e6), Asked("Full power is called")] = 1000.0
    spindle: Annotated[float, Within(0.0, 1e6), Asked("Spindle, at most", " rpm")] = 0.0
    outline: Contour | None = None
    keep_clear: Annotated[tuple[KeepClear, ...], Each("area to keep clear of")] = ()
    cutters: Annotated[tuple[Cutter, ...], Each("tool")] = ()
    dialect: Dialect = Dialect()
    burn: Annotated[
        float,
        Within(0.0, 1e6),
        Asked(
            "Burns so deep",
            " mm at 1 % and 1 mm/min",
            tip="In the material at hand; a laser's rehearsal goes by it",
        ),
    ] = 22.0
    most_moves: Annotated[
        float,
        Within(1.0, 1e6),
        Asked(
            "Moves a second, at most",
            tip="A program of more would stutter; a least step takes them away",
        ),
    ] = 1000.0
    pilot: Annotated[
        Size,
        Asked("Pilot hole", "mm", tip="Drilled in the waste of every opening, for the blade"),
    ] = 3.0

    @property
    def traits(self) -> MachineKind:
        """What its kind is."""
        return MACHINE_KINDS[self.kind]

    def can_do(self, operation: object) -> bool:
        """Whether it can do an operation of that kind."""
        return type(operation).__name__ in self.traits.works


FIELDS_BEFORE = {"cutters": "tools", "cutter_change": "tool_change"}
"""What fields of machines were called before version 6 of job files."""
FIELDS_SINCE = (", stop='M0'", ", stop=''", ", most_moves=1000.0", ", pilot=3.0")
"""How fields that came later stand in what tells whether work has changed, where they ask for
nothing: what was handed off before stays so."""
_CUTTERS = (
    Cutter("End mill 3.175", "end mill", 3.175, 2, 14.0),
    Cutter("End mill 2", "end mill", 2.0, 2, 8.0),
    Cutter("End mill 6", "end mill", 6.0, 2, 25.0),
    Cutter("Drill 3", "drill", 3.0, 2, 30.0),
)
MACHINES = (
    Machine(
        "desk-laser",
        "Desk laser",
        LASER.key,
        600.0,
        400.0,
        30_000.0,
        30_000.0,
        2_000.0,
        0.15,
        safe_height=1.0,
        has_air=True,
        arcs=False,
        dialect=Dialect(on="M4", end="M5\nM2"),
    ),
    Machine(
        "gantry-router",
        "Gantry router",
        ROUTER.key,
        1_250.0,
        1_250.0,
        6_000.0,
        8_000.0,
        400.0,
        3.175,
        safe_height=8.0,
        spindle=24_000.0,
        cutters=_CUTTERS,
    ),
    Machine(
        "plasma-table",
        "Plasma table",
        PLASMA.key,
        1_500.0,
        3_000.0,
        8_000.0,
        15_000.0,
        600.0,
        1.5,
        pierce=0.6,
        safe_height=15.0,
        has_air=True,
        height_control=True,
        dialect=Dialect(end="M5\nM30"),
    ),
    Machine(
        "pen-plotter",
        "Pen plotter",
        PEN.key,
        841.0,
        1_189.0,
        24_000.0,
        30_000.0,
        1_500.0,
        0.5,
        safe_height=3.0,
        arcs=False,
    ),
    Machine(
        "hand-saw",
        "Hand saw",
        HAND_SAW.key,
        2_000.0,
        2_000.0,
        300.0,
        3_000.0,
        1_000.0,
        1.0,
    ),
)
"""The simulated ones."""
