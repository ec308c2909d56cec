"""Places in job space: on a contour, on a picture, or free, each with its spread."""

from __future__ import annotations

import math
from dataclasses import dataclass

from draxet.geometry.catching import KINDS
from draxet.geometry.spread import Spread
from draxet.job.records import Picture
from draxet.trueup.pick import Pick, corner_of, straightened
from draxet.ui.canvas.tool import LineMark, Mark, Pointer
from draxet.ui.shell.session import Session
from draxet.ui.stages.catching import catch_settings, caught
from draxet.ui.stages.held import picture_at
from draxet.ui.stages.picks import CornerFinder, PickMaker, in_job, turned_by

__all__ = ["Place", "PlaceMaker"]

_KINDS = frozenset(KINDS) - {"level", "square", "tangent", "sheet edge"}
"""What can be caught without coming from somewhere; sheets lie beneath pictures and would be caught by surprise."""


@dataclass(frozen=True)
class Place:
    """A place in job space; its `spread` in mm²; what it lies on in a word, and the directions there;
    on a picture also that picture's id and the place in its pixels."""

    x: float
    y: float
    spread: Spread
    on: str
    directions: tuple[float, ...] = ()
    picture: str = ""
    pixel: tuple[float, float] = (0.0, 0.0)


class PlaceMaker(CornerFinder[Place]):
    """Finds the place beneath the pointer: what is drawn first, then a picture's line or edge; or a corner
    that is not drawn, from two edges."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._maker = PickMaker(session)

    def look(self, at: Pointer, *, contours: bool = True, only: str = "", without: str = "") -> Place:
        """The place beneath the pointer.

        Parameters
        ----------
        contours : whether contours count. only, without : ids of the one picture that counts and of one that does not.
        """
        edge = self.corner is not None
        if contours and not at.free:
            found = caught(self.session, at, frozenset(("on line",)) if edge else catch_settings(self.session).kinds & _KINDS)
            if found.word != "free":
                on_line = Spread.along_line(found.direction, 0.0, at.pixel) if found.direction is not None else Spread()
                return Place(found.x, found.y, on_line, found.word, () if found.direction is None else (found.direction,))
        picture = self._picture(at, only, without)
        if picture is None:
            return Place(at.x, at.y, Spread.round(at.pixel), "free")
        pick = self._maker.look(picture, at)
        return _on_picture(picture, pick.x, pick.y, pick.spread.mapped(picture.to_job), pick.kind, in_job(picture, pick.directions))

    def take(self, at: Pointer, *, contours: bool = True, only: str = "", without: str = "") -> Place | None:
        """A click's place; None while a corner's second edge is waited for, or where that is refused."""
        place = self.look(at, contours=contours, only=only, without=without)
        if self.corner is None:
            return place
        if not place.directions:
            self.session.refused.emit("There is no edge under the pointer; pick on an edge, or press C to pick places again.")
            return None
        self.corner.append(self._straightened(place))
        if len(self.corner) < 2:
            return None
        first, second = self.corner
        a, b = (Pick(p.x, p.y, 0.0, p.directions[:1], p.spread) for p in (first, second))
        pick = corner_of(a, b)
        self.corner = None if pick else [first]
        if pick is None:
            self.session.refused.emit("Both edges run the same way; pick an edge that runs across the first one.")
            return None
        picture = self.session.job.picture_by_id.get(first.picture or second.picture)
        if picture is None:
            return Place(pick.x, pick.y, pick.spread, "corner", pick.directions)
        px, py = picture.to_job.inverse().point(pick.x, pick.y)
        return _on_picture(picture, px, py, pick.spread, "corner", pick.directions)

    def _straightened(self, place: Place) -> Place:
        picture = self.session.job.picture_by_id.get(place.picture)
        if picture is None:
            return place
        back = picture.to_job.inverse()
        on_edge = place.on == "edge"
        pick = Pick(*place.pixel, 0.0 if on_edge else 3.0, turned_by(back, place.directions[:1]), place.spread.mapped(back), on_edge)
        better = straightened(self.session.pictures.of(picture).grey, pick)
        return _on_picture(picture, better.x, better.y, place.spread, place.on, in_job(picture, better.directions))

    def marks(self, pixel: float) -> list[Mark]:
        """The first edge, drawn on."""
        far = 1500 * pixel
        return [
            LineMark(p.x - far * math.cos(a), p.y - far * math.sin(a), p.x + far * math.cos(a), p.y + far * math.sin(a), "note")
            for p in self.corner or [] for a in p.directions[:1]
        ]  # fmt: skip

    def _picture(self, at: Pointer, only: str, without: str) -> Picture | None:
        if only:
            return self.session.job.picture_by_id.get(only)
        picture = picture_at(self.session, at.x, at.y)
        if picture and picture.id == without:
            inside = [p for p in self.session.job.pictures if p.visible and p.id != without and _inside(p, at)]
            return inside[-1] if inside else None
        return picture


def _on_picture(picture: Picture, px: float, py: float, spread: Spread, on: str, directions: tuple[float, ...]) -> Place:
    return Place(*picture.to_job.point(px, py), spread, on, directions, picture.id, (px, py))


def _inside(picture: Picture, at: Pointer) -> bool:
    x, y = picture.to_job.inverse().point(at.x, at.y)
    return 0 <= x <= picture.width and 0 <= y <= picture.height
