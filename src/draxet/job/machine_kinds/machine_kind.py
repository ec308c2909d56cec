"""What a kind of machine is: a record of its own, with its own fields alone, and a few traits, which
are all that the rest of the program asks of it."""

from __future__ import annotations

import math
from typing import Annotated, Any

import numpy as np

from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.dialect import Dialect
from draxet.job.ranges import Each, Id, OneOf, Size, Within, Words
from draxet.record import record
from draxet.units import SPEEDS

__all__ = ["CUTTERS", "Cutter", "KeepClear", "Machine", "MachineKind", "RUN_SETTINGS", "RunMachine"]

CUTTERS = ("end mill", "ball nose", "engraver", "drill")
RUN_SETTINGS = frozenset(
    {"feed", "passes", "air", "tabs", "tab", "lead", "lead_shape", "overrun", "direction"}
)
"""Settings of operations that count wherever a program runs."""


@record(frozen=True)
class MachineKind:
    """The traits of a kind of machine.

    Parameters
    ----------
    key : its name, where it is chosen and told.
    works : the kinds of operation that it can do.
    settings : of the settings of operations that count on some kinds alone, those that count here.
    checks : what the person beside it sees to before it runs; ``{zero}`` is what heights count from.
    at_work : how one says that it is in the material, or on.
    lowers : whether its tool turns, and goes down to a depth.
    has_power : whether its program says how strong it works.
    goes_through : whether whatever it works is parted through the whole sheet.
    parts_metal : whether it does, and metal alone.
    pierces : whether a cut begins with a hole that is broader than it.
    draws : whether it leaves lines, and takes nothing away.
    plots : whether it speaks the language of plotters too.
    product : what its operations come to (``job/product.py``).
    unplayed : why nothing of it can be rehearsed, where that is so.
    made : what is told of what it makes, as one names it.
    line : what it leaves along a line; least_lines : as broad as so many of them must be whatever
        it works, 0 for no less than the job's smallest feature.
    """

    key: str
    works: tuple[str, ...]
    settings: frozenset[str]
    checks: tuple[str, ...]
    at_work: str = "beam on"
    lowers: bool = False
    has_power: bool = False
    goes_through: bool = False
    parts_metal: bool = False
    pierces: bool = False
    draws: bool = False
    plots: bool = False
    product: str = "lines"
    unplayed: str = ""
    made: str = "Sewn"
    line: str = "cut"
    least_lines: float = 0.0


@record(frozen=True)
class KeepClear:
    """An area that the machine must not run into, as a clamp: a closed outline counted from the
    sheet's lower left, and how high it stands above the sheet, in mm."""

    outline: Contour
    height: Annotated[float, Within(0.0, 1000.0)] = 20.0


@record(frozen=True)
class Cutter:
    """A tool that a machine can hold. longest : how deep it can cut, and a_pass : how deep at once,
    in mm; 0 for as much as it is broad."""

    name: Words
    kind: Annotated[str, OneOf(CUTTERS)] = "end mill"
    diameter: Size = 3.175
    flutes: Annotated[int, Within(1, 20)] = 2
    longest: Size = 12.0
    a_pass: Annotated[float, Within(0.0, 1000.0)] = 0.0


LACKING: dict[str, Any] = {
    "pierce": 0.0,
    "safe_height": 5.0,
    "plunge": 600.0,
    "has_air": False,
    "arcs": True,
    "least_step": 0.0,
    "height_control": False,
    "cutter_change": False,
    "speeds": "mm/min",
    "power_scale": 1000.0,
    "spindle": 0.0,
    "outline": None,
    "keep_clear": (),
    "cutters": (),
    "dialect": Dialect(),
    "burn": 22.0,
    "most_feed": math.inf,
    "travel": math.inf,
    "acceleration": math.inf,
}
"""What reads in the place of a field that machines of a kind do not have."""


@record(frozen=True)
class Machine:
    """A machine. cut_width : what it takes away, in mm. Its kind is its class, and what one lacks
    reads as none."""

    id: Id
    name: Words
    cut_width: Annotated[Size, Asked("Cut width", "mm")]

    traits = MachineKind("", (), frozenset(), ())

    def __getattr__(self, name: str) -> Any:
        if name in LACKING:
            return LACKING[name]
        raise AttributeError(f"{type(self).__name__} has no {name}")

    @property
    def kind(self) -> str:
        """What its kind is called."""
        return self.traits.key

    def has(self, name: str) -> bool:
        """Whether machines of its kind have a field."""
        return name in type(self).__dataclass_fields__

    def can_do(self, operation: object) -> bool:
        """Whether it can do an operation of that kind."""
        return type(operation).__name__ in self.traits.works

    @property
    def runs_program(self) -> bool:
        """Whether it does, and is not led by hand."""
        return isinstance(self, RunMachine)

    @property
    def reach(self) -> Contour | None:
        """What it reaches, counted from the sheet's lower left; None where that has no end."""
        return None

    @property
    def reach_is_box(self) -> bool:
        """Whether that is a rectangle along x and y."""
        if self.reach is None:
            return False
        x0, y0, x1, y1 = self.reach.box
        return bool(abs(self.reach.area) >= (x1 - x0) * (y1 - y0) * (1 - 1e-12))

    def takes_at_once(self, broad: float) -> float:
        """How deep its tool of a diameter goes in one pass, in mm: as that says itself, else as much
        as it is broad."""
        own = [each for each in self.cutters if abs(each.diameter - broad) <= 0.01]
        return next((each.a_pass for each in own if each.a_pass), broad)

    straight = True
    """Whether a straight way of its motors is a straight way in the sheet."""

    def to_motors(self, places: Points) -> Points:
        """Where its motors stand for places (n, 2) in mm that count as its program does."""
        return places

    def from_motors(self, motors: Points) -> Points:
        """The other way round: the places (n, 2) for what its motors are told (n, 2)."""
        return motors


@record(frozen=True)
class RunMachine(Machine):
    """One that runs a program.

    Parameters
    ----------
    reach_x, reach_y : width and height of what it reaches from the sheet's lower left, in mm;
        `outline` where that is no rectangle.
    most_feed, travel : in mm a minute. acceleration : in mm/s².
    safe_height : mm above the sheet at which it travels.
    arcs : whether it runs arcs as such.
    least_step : in mm; places of a line that are nearer to each other are left out.
    speeds : the unit in which speeds are shown.
    keep_clear : what it must not run into.
    most_moves : what it takes a second.
    """

    reach_x: Annotated[Size, Asked("Reach, right", "mm")]
    reach_y: Annotated[Size, Asked("Reach, up", "mm")]
    most_feed: Annotated[float, Within(1.0, 1e6), Asked("Greatest feed", "mm/min")]
    travel: Annotated[float, Within(1.0, 1e6), Asked("Travel", "mm/min")]
    acceleration: Annotated[float, Within(1.0, 1e6), Asked("Acceleration", " mm/s²")]
    safe_height: Annotated[Size, Asked("Safe height", "mm")] = 5.0
    arcs: Annotated[bool, Asked("Runs arcs as arcs")] = True
    least_step: Annotated[
        float,
        Within(0.0, 100.0),
        Asked(
            "Least step",
            "mm",
            tip="Places of a line that are nearer to each other are left out; 0 keeps all",
            zero="none",
        ),
    ] = 0.0
    speeds: Annotated[
        str,
        OneOf(tuple(SPEEDS)),
        Asked("Speeds in", choices=tuple((each, each) for each in SPEEDS)),
    ] = "mm/min"
    outline: Contour | None = None
    keep_clear: Annotated[tuple[KeepClear, ...], Each("area to keep clear of")] = ()
    dialect: Dialect = Dialect()
    most_moves: Annotated[
        float,
        Within(1.0, 1e6),
        Asked(
            "Moves a second, at most",
            tip="A program of more would stutter; a least step takes them away",
        ),
    ] = 1000.0

    @property
    def reach(self) -> Contour | None:
        wide, high = self.reach_x, self.reach_y
        return self.outline or Contour.make(np.array([(0, 0), (wide, 0), (wide, high), (0, high)]))
