"""What a drawing is made of. A mark is a bare ``Contour``, or one of the records here; each knows
its box, itself moved by a map, its outlines by which it is compared, what else must be the same,
and, for files that cannot hold it, the plainer marks that stand for it."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any, Protocol

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import NDArray
from draxet.geometry.contour import Contour
from draxet.record import record

__all__ = [
    "Area",
    "Dimension",
    "Dot",
    "Line",
    "Mark",
    "Picture",
    "Place",
    "Words",
    "alike_of",
    "outlines_of",
    "plain_marks",
]

Place = tuple[float, float]
_WITNESS, _TICK, _BROAD, _LETTERS = 1.5, 1.2, 0.18, 2.5
"""mm: how far a dimension's side lines begin from their place and run on, half a tick, how broad
its lines are and how high its words."""


class Mark(Protocol):
    """What all marks can do; all lengths are mm, y grows up."""

    @property
    def outlines(self) -> tuple[Contour, ...]:
        """Where it lies."""

    @property
    def alike(self) -> tuple[object, ...]:
        """What must be the same beside its place where two are to be equal."""

    def transformed(self, affine: Affine) -> Any:
        """Itself moved by a map."""

    def plainer(self) -> Sequence[Any]:
        """Marks that stand for it in a file that cannot hold it; none where nothing can."""


@record(frozen=True)
class Area:
    """What contours bound by the even-odd rule, filled with a colour (#rrggbb)."""

    contours: tuple[Contour, ...]
    colour: str = "#000000"

    @property
    def outlines(self) -> tuple[Contour, ...]:
        return self.contours

    @property
    def alike(self) -> tuple[object, ...]:
        return (self.colour,)

    def transformed(self, affine: Affine) -> Area:
        return replace(self, contours=tuple(each.transformed(affine) for each in self.contours))

    def plainer(self) -> Sequence[Any]:
        return self.contours


@record(frozen=True)
class Line:
    """A contour as a line of a width and a colour (#rrggbb)."""

    contour: Contour
    width: float
    colour: str = "#000000"

    @property
    def outlines(self) -> tuple[Contour, ...]:
        return (self.contour,)

    @property
    def alike(self) -> tuple[object, ...]:
        return (self.colour, round(self.width, 3))

    def transformed(self, affine: Affine) -> Line:
        return replace(
            self, contour=self.contour.transformed(affine), width=self.width * affine.scale
        )

    def plainer(self) -> Sequence[Any]:
        return (self.contour,)


@record(frozen=True)
class Words:
    """One row of letters: their baseline begins at `at` and runs at `turn` degrees; `height` is
    that of capitals."""

    text: str
    at: Place
    height: float
    turn: float = 0.0
    colour: str = "#000000"

    @property
    def outlines(self) -> tuple[Contour, ...]:
        way = Affine.scaled(self.height).then(Affine.turned(self.turn)).then(Affine.moved(*self.at))
        return (Contour.make([self.at, way.point(1, 0)], closed=False),)

    @property
    def alike(self) -> tuple[object, ...]:
        return (self.text, self.colour)

    def transformed(self, affine: Affine) -> Words:
        turn = self.turn + math.degrees(math.atan2(affine.d, affine.a))
        return replace(
            self, at=affine.point(*self.at), height=self.height * affine.scale, turn=turn
        )

    def plainer(self) -> Sequence[Any]:
        from draxet.lettering.faces import shipped_faces  # reads its files
        from draxet.lettering.setting import set_rows, set_straight

        to = Affine.turned(self.turn).then(Affine.moved(*self.at))
        letters = set_straight(set_rows(shipped_faces()[0], self.text, self.height), self.height)
        return (Area(tuple(each.transformed(to) for each in letters), self.colour),)


@record(frozen=True)
class Dot:
    """A point."""

    at: Place

    @property
    def outlines(self) -> tuple[Contour, ...]:
        x, y = self.at
        return (Contour.make([(x - 0.5, y), (x + 0.5, y)], closed=False),)

    @property
    def alike(self) -> tuple[object, ...]:
        return ()

    def transformed(self, affine: Affine) -> Dot:
        return Dot(affine.point(*self.at))

    def plainer(self) -> Sequence[Any]:
        return self.outlines


@record(frozen=True)
class Dimension:
    """How far it is between two places, told beside them: its line runs `beside` mm to the left of
    the way from the first to the last."""

    first: Place
    last: Place
    beside: float
    text: str

    @property
    def outlines(self) -> tuple[Contour, ...]:
        return tuple(outline for mark in self.plainer() for outline in mark.outlines)

    @property
    def alike(self) -> tuple[object, ...]:
        return (self.text,)

    def transformed(self, affine: Affine) -> Dimension:
        turned = math.copysign(1.0, affine.determinant)
        return Dimension(
            affine.point(*self.first),
            affine.point(*self.last),
            self.beside * affine.scale * turned,
            self.text,
        )

    def plainer(self) -> Sequence[Any]:
        long = math.dist(self.first, self.last)
        turn = math.degrees(math.atan2(self.last[1] - self.first[1], self.last[0] - self.first[0]))
        to = Affine.turned(turn).then(Affine.moved(*self.first))
        way, at = math.copysign(1.0, self.beside), self.beside
        rows = [[(0.0, at), (long, at)]]
        for x in (0.0, long):
            rows.append([(x, min(_WITNESS, abs(at)) * way), (x, at + _WITNESS * way)])
            rows.append([(x - _TICK, at - _TICK), (x + _TICK, at + _TICK)])
        words = Words(self.text, (long / 2, at + 0.8), _LETTERS)
        return (
            *(Line(Contour.make(row, closed=False).transformed(to), _BROAD) for row in rows),
            words.transformed(to),
        )


@record(frozen=True, eq=False)
class Picture:
    """A picture: (rows, columns) or (rows, columns, 3) of uint8, and where its pixels lie."""

    pixels: NDArray[Any]
    to_sheet: Affine

    @property
    def outlines(self) -> tuple[Contour, ...]:
        high, wide = self.pixels.shape[:2]
        rim = Contour.make([(0, 0), (wide, 0), (wide, high), (0, high)])
        return (rim.transformed(self.to_sheet),)

    @property
    def alike(self) -> tuple[object, ...]:
        return self.pixels.shape

    def transformed(self, affine: Affine) -> Picture:
        return Picture(self.pixels, self.to_sheet.then(affine))

    def plainer(self) -> Sequence[Any]:
        return ()


def outlines_of(mark: Any) -> tuple[Contour, ...]:
    """Where a mark lies."""
    return (mark,) if isinstance(mark, Contour) else mark.outlines


def alike_of(mark: Any) -> tuple[object, ...]:
    """What must be the same beside its place where two marks are to be equal."""
    if isinstance(mark, Contour):
        return (Contour, mark.closed)
    return (type(mark), *mark.alike)


def plain_marks(marks: Sequence[Any], held: Callable[[Any], bool]) -> list[Any]:
    """Marks as a file can hold them: what is not `held` is replaced by plainer ones."""
    found: list[Any] = []
    for mark in marks:
        if isinstance(mark, Contour) or held(mark):
            found.append(mark)
        else:
            found += plain_marks(mark.plainer(), held)
    return found
