"""What every operation is: a frozen record that names contours and knows along which lines a
machine goes to work them.

Another kind is one module here and one line in ``OPERATION_KINDS``; nothing else in the program
knows a kind by name but the look that it has on the canvas.
"""

from __future__ import annotations

from collections.abc import Container, Sequence
from dataclasses import fields, replace
from enum import StrEnum
from typing import Annotated, Any, ClassVar, Self

from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.machine_kinds import MachineKind, counts_on
from draxet.job.ranges import Id, OfContour, OneOf, Refers, Text, Within
from draxet.record import record

__all__ = [
    "Depth",
    "Feed",
    "Operation",
    "Power",
    "Side",
    "Spot",
    "StopWords",
    "Toolpath",
    "paths_of",
]

Feed = Annotated[float, Within(0.1, 1e6)]
"""mm a minute."""
Power = Annotated[float, Within(0.0, 100.0)]
"""Per cent of what the machine has."""
Depth = Annotated[float, Within(0.0, 1000.0)]
"""mm below the top of the sheet; 0 for as deep as it is thick, or for what has no depth."""


@record(frozen=True)
class Spot:
    """A place on a contour, told by how far along it is of its whole length: where a cut begins, or
    where a tab holds; where sewing begins and ends; or one end of a stitch across, of which the other
    has the same number of a `pair`."""

    contour: Annotated[Id, Refers("contours", goes=True)]
    share: Annotated[float, Within(0.0, 1.0)]
    what: Annotated[str, OneOf(("start", "tab", "end", "across"))] = "start"
    pair: Annotated[int, Within(0, 1_000_000)] = 0


class Side(StrEnum):
    """On which side of a contour the cut runs."""

    INSIDE = "inside"
    ON = "on"
    OUTSIDE = "outside"


@record(frozen=True, eq=False)
class Toolpath:
    """A line along which a machine works: where its middle runs, how broad what it takes away is
    (mm), how deep each of its passes goes, and the
    contours that it comes from. feed : its own, 0 for the operation's. step : of one cut, what has
    a lower one is done before. batch : lines of one (over 0) stay in
    their order. begin : a place where a closed
    one begins, if that is said. enter : how the tool gets down at each pass: straight, down a
    ``ramp`` along the line, or by a ``helix`` about `helix` where there is room; slope : how
    steeply, in degrees. lead : how long a way leads in and out, ``straight`` or in an ``arc``, on
    the `waste` side (1 left of the line, -1 right, 0 neither); overrun : how far a closed one runs
    on over its beginning, and how far an open one is run up to and on from without power. pen : its
    number, 0 for none."""

    line: Contour
    width: float
    depths: tuple[float, ...]
    ids: tuple[str, ...]
    lead: float = 0.0
    shape: str = "straight"
    waste: int = 0
    overrun: float = 0.0
    pen: int = 0
    feed: float = 0.0
    step: int = 0
    batch: int = 0
    begin: tuple[float, float] | None = None
    whole: Contour | None = None
    """The closed line of which tabs left this piece."""
    enter: str = ""
    slope: float = 0.0
    helix: tuple[float, float] | None = None


StopWords = Annotated[
    str,
    Text(120),
    Asked(
        "Stop before it, and say",
        tip="The machine waits there until it is told to go on: air on, sheet turned, next pen",
    ),
]


class Operation:
    """A kind of operation; each is a frozen dataclass with at least ``id``, ``name`` and
    ``contours``.

    rank : what is done earlier in each part has a lower one. title : its name where it is offered.
    acts : what it does, for a button. through : whether
    it parts the material. wants : ``closed`` or ``any`` contours.
    """

    rank: ClassVar[int] = 0
    title: ClassVar[str] = ""
    acts: ClassVar[str] = ""
    through: ClassVar[bool] = False
    wants: ClassVar[str] = "any"
    broad_by: ClassVar[str] = "width"
    """The setting that says how broad its lines are."""
    as_broad_as_machine: ClassVar[bool] = False
    """Whether its lines are as broad as the machine's cut where nobody said otherwise."""
    clears: ClassVar[bool] = False
    """Whether it clears areas to a depth, by a tool that does not get into every corner."""
    adds: ClassVar[bool] = False
    """Whether it makes something of areas, the outermost ones too, in place of working a sheet."""
    begins: ClassVar[bool] = False
    ends: ClassVar[bool] = False
    """Whether it can be told where it begins, and where it ends."""
    runs_up: ClassVar[bool] = False
    """Whether a beam comes to speed before its lines."""

    id: str
    name: str
    contours: tuple[OfContour, ...]
    feed: float
    back: bool
    """Whether it is worked from the back of the sheet, and so mirrored."""
    waits: bool
    """Whether it stays though nothing is left for it to work: for words that may have it again."""
    recipe: str
    """The id of the recipe that its settings came from; empty for none."""
    stop: str = ""
    """What is to be done at a stop before it begins; empty where it begins at once."""

    # what only some kinds have is as good as not there in the others
    side: Side = Side.ON
    width: float = 0.0
    spots: tuple[Spot, ...] = ()
    power: float = 100.0
    pierce: float = 0.0
    air: bool = False
    tabs: int = 0
    tab_height: float = 0.0
    lead: float = 0.0
    at_points: bool = False
    axis: str = ""
    """The id of the guide about which it turns."""
    path: str = ""
    """The id of the contour along which it leads what it works."""
    goes_by: tuple[str, ...] = ()
    """Ids of contours that it does not work, but goes along, up to or by."""
    takes: bool = False
    """Whether it works what closes from now on."""

    @property
    def stands(self) -> bool:
        """Whether it has anything to work."""
        return bool(self.contours) or self.waits or self.takes

    @property
    def pace_words(self) -> str:
        """What is told of it in place of a feed; empty where that counts."""
        return ""

    @property
    def broad(self) -> float:
        """How broad its lines are, in mm."""
        return float(getattr(self, self.broad_by))

    def changed(self, **settings: Any) -> Self:
        """The same with other settings."""
        return replace(self, **settings)  # type: ignore[type-var]

    def asks(self, setting: str, *, lowered: bool) -> bool:
        """Whether a setting counts as the others are, by a tool that goes down (`lowered`) or not."""
        return True

    def has_room(self, contours: Sequence[Contour]) -> bool:
        """Whether its tool can get anywhere within closed contours."""
        return True

    def unreached(self, contours: Sequence[Contour]) -> Any:
        """What of closed contours its tool cannot get to, as an area."""
        raise NotImplementedError

    def depths_of(self, thickness: float) -> tuple[float, ...]:
        """How deep each pass of it goes that takes more than the one before, in mm; none where it
        goes down in no passes."""
        return ()

    def deepest_pass(self, thickness: float) -> float:
        """How much the pass takes that takes the most, in mm."""
        depths = self.depths_of(thickness)
        return max((b - a for a, b in zip((0.0, *depths), depths, strict=False)), default=0.0)

    def along(
        self,
        contour: Contour,
        side: Side,
        ids: tuple[str, ...],
        thickness: float,
        middles: Sequence[Contour] | None = None,
    ) -> list[Toolpath]:
        """Of what parts the material: the lines that cut a contour on a side; `middles` where they
        are known already."""
        raise NotImplementedError

    def tabs_on(self, contour: Contour, line: Contour, ids: Sequence[str]) -> list[float]:
        """Of what parts the material: how far along a line that cuts a contour its tabs are, in
        mm."""
        raise NotImplementedError

    def displaces(self, other: Operation) -> bool:
        """Whether contours that are given to this one leave another."""
        return isinstance(other, type(self))

    def with_contours(self, contours: Sequence[str]) -> Self:
        """The same for other contours."""
        kept = set(contours)
        spots = tuple(spot for spot in self.spots if spot.contour in kept)
        changes: dict[str, Any] = {} if len(spots) == len(self.spots) else {"spots": spots}
        waits = self.waits and not contours
        return replace(self, contours=tuple(contours), waits=waits, **changes)  # type: ignore[type-var]

    def without(self, gone: Container[str]) -> Self | None:
        """It without what is gone; None where nothing is left that it works."""
        if not any(name in gone for name in self.contours):
            return self
        left = self.with_contours([name for name in self.contours if name not in gone])
        return left if left.stands else None

    def on(self, kind: MachineKind) -> Self:
        """The same as a kind of machine works it: what does not count there, as it was set for
        another one, is as usual."""
        usual = {
            field.name: field.default
            for field in fields(self)  # type: ignore[arg-type]
            if not counts_on(kind, field.name)
        }
        return (
            replace(self, **usual)  # type: ignore[type-var]
            if any(getattr(self, name) != value for name, value in usual.items())
            else self
        )

    def paths(self, items: Sequence[tuple[str, Contour]], thickness: float) -> list[Toolpath]:
        """The lines along which it works some of its contours, given with their ids; `thickness` is
        the sheet's, in mm."""
        raise NotImplementedError

    def drawn(self, items: Sequence[tuple[str, Contour]]) -> list[Contour]:
        """What a drawing shows of its work: the contours themselves."""
        return [contour for _, contour in items]

    def wrong_with(self, items: Sequence[tuple[str, Contour]]) -> dict[str, list[str]]:
        """What of its contours it cannot be done to: a sentence's end, and the ids."""
        opened = (
            [name for name, contour in items if not contour.closed]
            if self.wants == "closed"
            else []
        )
        return {"is open where it has to bound an area": opened} if opened else {}


def paths_of(
    operation: Operation, items: Sequence[tuple[str, Contour]], thickness: float
) -> list[Toolpath]:
    """The lines of an operation, as a function of a module."""
    return operation.paths(items, thickness)
