"""What live symmetry is: a line or a ring, where it draws again, and what it shows; kept with the
job."""

from __future__ import annotations

import math
from typing import Annotated

from draxet.geometry.affine import Affine
from draxet.geometry.constructions import mirrored_by
from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.ranges import Coordinate, OneOf, Within
from draxet.mend.arrange import (
    half_with_mirror,
    laid_on_line,
    laid_on_turn,
    ring_of_sectors,
)
from draxet.mend.nodes import deviation_between
from draxet.record import record
from draxet.ui.model.session import Session
from draxet.ui.model.tool import ContourMark, LineMark, Mark

__all__ = ["Symmetry", "symmetry"]

_FAR = 1e4
_SAME = 1e-6
_SHARE = 0.1
"""Of a shape's lesser size: nobody means two that lie apart by less."""
_MOST_SHOWN = 60


@record
class Symmetry:
    """What is drawn again, kept with the job. x, y : a place of the line, or the middle of the
    ring; angle : the line's, in degrees.
    sectors : how many a ring has."""

    by: Annotated[
        str,
        OneOf(("off", "line", "ring")),
        Asked("", choices=(("off", "off"), ("line", "line"), ("ring", "ring"))),
    ] = "off"
    sectors: Annotated[int, Within(2, 200), Asked("Sectors", slider=(2, 24))] = 6
    x: Coordinate = 0.0
    y: Coordinate = 0.0
    angle: Annotated[float, Within(-360.0, 360.0)] = 90.0
    placed: bool = False

    @property
    def on(self) -> bool:
        return self.by != "off" and self.placed

    def places(self) -> list[Affine]:
        """The maps under which all that is drawn is drawn again."""
        if not self.on:
            return []
        if self.by == "line":
            return [mirrored_by(self.x, self.y, math.radians(self.angle))]
        return [
            Affine.turned(360.0 * k / self.sectors).about(self.x, self.y)
            for k in range(1, self.sectors)
        ]

    def copies(self, contour: Contour, within: float = _SAME) -> list[Affine]:
        """The places at which a contour is drawn again: none where it would lie on itself `within` so
        many mm."""
        within = max(within, _SAME)
        return [
            place
            for place in self.places()
            if (off := _apart(contour, contour.transformed(place), within)) is None or off > within
        ]

    def off_itself(self, contour: Contour, within: float) -> float:
        """By how many mm a contour misses lying on its copies where that is so little, seen from its
        own size too; else 0."""
        x0, y0, x1, y1 = contour.box
        within = min(within, _SHARE * min(x1 - x0, y1 - y0))
        found = (_apart(contour, contour.transformed(place), within) for place in self.places())
        return max((off for off in found if off is not None and _SAME < off <= within), default=0.0)

    def _line(self) -> tuple[tuple[float, float], tuple[float, float]]:
        turn = math.radians(self.angle)
        return (self.x, self.y), (self.x + math.cos(turn), self.y + math.sin(turn))

    def laid(self, contour: Contour, reach: float) -> Contour:
        """An open contour of which what ends within `reach` mm of an edge ends there."""
        if not self.on or contour.closed:
            return contour
        if self.by == "line":
            return laid_on_line(contour, *self._line(), reach)
        return laid_on_turn(contour, (self.x, self.y), self.sectors, reach)

    def joined(self, contour: Contour) -> Contour | None:
        """One closed contour of an open one that runs from edge to edge of its half or sector, and
        of its copies; None where it does not."""
        if not self.on or contour.closed:
            return None
        if self.by == "line":
            return half_with_mirror(contour, *self._line())
        return ring_of_sectors(contour, (self.x, self.y), self.sectors)

    def lines_by(self, x: float, y: float) -> list[tuple[float, float, float]]:
        """Those of the lines that are drawn on a place's side of the middle."""
        return [
            (px, py, way)
            for px, py, way in self.lines()
            if self.by == "line" or (x - px) * math.cos(way) + (y - py) * math.sin(way) >= 0
        ]

    def lines(self) -> list[tuple[float, float, float]]:
        """The line, or those between the sectors: a place and a direction (radians) of each."""
        if not self.on:
            return []
        count = self.sectors if self.by == "ring" else 1
        return [
            (self.x, self.y, math.radians(self.angle) + 2 * math.pi * k / count)
            for k in range(count)
        ]

    def marks(self) -> list[Mark]:
        """The line, or the rays between the sectors."""
        back = _FAR if self.by == "line" else 0.0
        return [
            LineMark(
                x - back * math.cos(way),
                y - back * math.sin(way),
                x + _FAR * math.cos(way),
                y + _FAR * math.sin(way),
                "guide",
            )
            for x, y, way in self.lines()
        ]

    def echoed(self, marks: list[Mark]) -> list[Mark]:
        """Marks of what is being drawn, in the other half or sectors too."""
        if not self.on:
            return marks
        drawn = [
            contour
            for mark in marks
            if isinstance(mark, ContourMark) and mark.manner == "hand"
            for contour in mark.contours
        ]
        again = tuple(
            contour.transformed(place) for place in self.places()[:_MOST_SHOWN] for contour in drawn
        )
        return [*self.marks(), *([ContourMark(again, "offer")] if again else []), *marks]


def _apart(one: Contour, other: Contour, within: float) -> float | None:
    """How far one lies from the other; None where it is plainly more than `within`."""
    if max(abs(a - b) for a, b in zip(one.box, other.box, strict=True)) > within or abs(
        one.length - other.length
    ) > max(_SAME, 2 * math.pi * within):
        return None
    return deviation_between(one, other)


def symmetry(session: Session) -> Symmetry:
    """The session's symmetry."""
    return session.desk.settings("symmetry", Symmetry)
