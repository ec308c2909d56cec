"""Sure places: caught on what is drawn or on a picture, each with how far it may lie from where it
was meant."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.catching import KINDS, Caught
from draxet.geometry.covariance import Covariance
from draxet.geometry.pieces import position_near
from draxet.geometry.spans import ARC
from draxet.job.picture_records import Picture
from draxet.progress import Progress, Unwatched
from draxet.record import record
from draxet.trueup.pick import Pick, centre_of, corner_of, free_pick, lock_pick, straightened
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Pointer
from draxet.ui.stages.caught import catch_settings, caught
from draxet.ui.stages.in_hand import picture_at
from draxet.units import format_length

__all__ = [
    "FindsPlace",
    "SurePlace",
    "corner_between",
    "direction_in_job",
    "middle_of_circle",
    "place_on_picture",
    "straightened_place",
    "sure_place",
    "sure_words",
]

_KINDS = frozenset(KINDS) - {"level", "square", "tangent", "sheet edge"}
"""What can be caught without coming from somewhere; sheets lie beneath pictures and would be caught
by surprise."""
_REACH_PX = 14.0
_CLICK_PX = 1.0
"""One standard deviation of a click, in pixels of the screen."""


@record(frozen=True)
class SurePlace(Caught):
    """A caught place with its `spread` in mm² and all the directions there (radians, job space); on
    a picture also that picture's id and the pick in its pixels."""

    spread: Covariance = Covariance()
    directions: tuple[float, ...] = ()
    picture: str = ""
    pick: Pick | None = None


FindsPlace = Callable[[Progress], SurePlace]


def sure_place(
    session: Session,
    at: Pointer,
    *,
    contours: bool = True,
    only: str = "",
    without: str = "",
    edge: bool = False,
    wait: Callable[[FindsPlace], SurePlace | None] | None = None,
) -> SurePlace:
    """The place beneath the pointer: what is drawn first, then a picture's line or edge.

    Parameters
    ----------
    contours : whether contours count. only, without : ids of the one picture that counts and of one
    that does not. edge : whether only lines and edges are wanted, not their ends.
    wait : gets what a picture shows, or nothing yet: then the place stands for itself.
    """
    if contours and not at.free:
        found = caught(
            session, at, frozenset(("on line",)) if edge else catch_settings(session).kinds & _KINDS
        )
        if found.word != "free":
            on_line = (
                Covariance.along_line(found.direction, 0.0, at.pixel)
                if found.direction is not None
                else Covariance()
            )
            return SurePlace(
                found.x,
                found.y,
                found.word,
                found.direction,
                found.contour,
                on_line,
                () if found.direction is None else (found.direction,),
            )
    find = place_on_picture(session, at, only, without)
    if wait is None:
        return find(Unwatched())
    free = place_on_picture(session, replace(at, free=True), only, without)
    return wait(find) or free(Unwatched())


def place_on_picture(
    session: Session, at: Pointer, only: str = "", without: str = ""
) -> FindsPlace:
    """Gets the place on a picture beneath the pointer, locked to what is drawn there unless Alt is
    held; also by workers, as that may take its time."""
    picture = _picture(session, at, only, without)
    if picture is None:
        nowhere = SurePlace(at.x, at.y, spread=Covariance.round(at.pixel))
        return lambda report: nowhere
    x, y = picture.to_job.inverse().point(at.x, at.y)
    shown = session.pictures.latest(picture)
    click = _CLICK_PX * at.pixel / picture.pixel_size
    if at.free or shown is None or not shown.exact:
        free = _on_picture(picture, free_pick(x, y, click))
        return lambda report: free
    grey, edge = shown.pyramid.grey, at.edge
    reach = min(max(_REACH_PX * at.pixel / picture.pixel_size, 4.0), 40.0)
    return lambda report: _on_picture(
        picture, lock_pick(grey, x, y, reach, edge=edge, click=click, report=report)
    )


def _picture(session: Session, at: Pointer, only: str, without: str) -> Picture | None:
    if only:
        return session.job.picture_by_id.get(only)
    picture = picture_at(session, at.x, at.y)
    if picture and picture.id == without:
        inside = [
            p for p in session.job.pictures if p.visible and p.id != without and _inside(p, at)
        ]
        return inside[-1] if inside else None
    return picture


def _inside(picture: Picture, at: Pointer) -> bool:
    x, y = picture.to_job.inverse().point(at.x, at.y)
    return 0 <= x <= picture.width and 0 <= y <= picture.height


def _on_picture(picture: Picture, pick: Pick) -> SurePlace:
    directions = direction_in_job(picture.to_job, pick.directions)
    x, y = picture.to_job.point(pick.x, pick.y)
    return SurePlace(
        x,
        y,
        pick.kind,
        directions[0] if directions else None,
        "",
        pick.spread.mapped(picture.to_job),
        directions,
        picture.id,
        pick,
    )


def direction_in_job(m: Affine, directions: tuple[float, ...]) -> tuple[float, ...]:
    """Directions (radians) after a map."""
    return tuple(
        math.atan2(m.d * math.cos(a) + m.e * math.sin(a), m.a * math.cos(a) + m.b * math.sin(a))
        for a in directions
    )


def straightened_place(session: Session, place: SurePlace) -> SurePlace:
    """A place on an edge, its direction measured along as much of that edge as runs straight."""
    picture = session.job.picture_by_id.get(place.picture)
    if picture is None or place.pick is None or not session.pictures.ready(picture):
        return place
    return _on_picture(picture, straightened(session.pictures.of(picture).grey, place.pick))


def middle_of_circle(session: Session, place: SurePlace) -> SurePlace | None:
    """The middle of the circle on whose rim a place of a picture, or of a contour, lies; None where
    there is none."""
    item = session.layout.contour_by_id.get(place.contour)
    if item is not None:
        span = min(int(position_near(item.contour, place.x, place.y)), len(item.contour.kinds) - 1)
        if item.contour.kinds[span] != ARC or not item.contour.bulges[span]:
            return None
        x, y = item.contour.spans.take(np.array([span])).arc_shapes().centres[0].tolist()
        return SurePlace(x, y, "centre", None, item.id)
    picture = session.job.picture_by_id.get(place.picture)
    if picture is None or place.pick is None or not session.pictures.ready(picture):
        return None
    centre = centre_of(session.pictures.of(picture).grey, place.pick)
    return _on_picture(picture, centre) if centre else None


def corner_between(session: Session, first: SurePlace, second: SurePlace) -> SurePlace | None:
    """The corner, which need not be drawn, of two edges that were picked; None where they run the
    same way."""
    a, b = (Pick(p.x, p.y, 0.0, p.directions[:1], p.spread) for p in (first, second))
    met = corner_of(a, b)
    if met is None:
        return None
    picture = session.job.picture_by_id.get(first.picture or second.picture)
    if picture is None:
        return SurePlace(met.x, met.y, "corner", met.directions[0], "", met.spread, met.directions)
    back = picture.to_job.inverse()
    x, y = back.point(met.x, met.y)
    return _on_picture(
        picture,
        Pick(
            x,
            y,
            0.0,
            direction_in_job(back, met.directions),
            met.spread.mapped(back),
            kind="corner",
        ),
    )


def sure_words(kind: str, spread: Covariance, unit: str) -> str:
    """What a pick locked to, and how sure it is: across a line and along it, or every way."""
    least, greatest = 2 * spread.least, 2 * spread.greatest
    if greatest < 1e-9:
        return kind
    if greatest <= 1.5 * least:
        return f"{kind} ± {format_length(greatest, unit, places=2)}"
    return f"{kind} ± {format_length(least, unit, places=2, with_unit=False)} across, {format_length(greatest, unit, places=2)} along"
