"""What is left out of a trace: places of the picture. What is traced there stays out whatever the
settings, until it is brought back."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated

import numpy as np
import shapely

from draxet.geometry.arrays import Bools, Floats
from draxet.geometry.contour import Contour, boxes_of
from draxet.job.picture_records import Picture
from draxet.job.ranges import Count, OfPicture, Pixels
from draxet.record import record

__all__ = ["LeftOut", "are_left_out", "exchanged"]

_SAME = 0.04
"""Of a contour's size: so much other settings may change of where it ends."""
_LEAST = 1.5
"""Pixels of the same, at the least."""
_Corner = tuple[Pixels, Pixels]


@record(frozen=True)
class LeftOut:
    """A place of a picture (its id), as four `corners` in its base pixels (`size`: how many those
    were). `whole` : what lies in it is meant, else what
    just fills it. `back` : it was brought back."""

    picture: OfPicture
    corners: Annotated[tuple[_Corner, ...], Count(4, 4)]
    size: tuple[int, int]
    whole: bool = False
    back: bool = False


def are_left_out(contours: Sequence[Contour], picture: Picture, places: Sequence[LeftOut]) -> Bools:
    """Which contours (n,) in job space are left out; of several places at which one lies the last
    one counts."""
    found = np.zeros(len(contours), dtype=bool)
    mine = [
        place
        for place in places
        if place.picture == picture.id and tuple(place.size) == tuple(picture.base_size)
    ]
    if not mine or not contours:
        return found
    corners = _corners(contours, picture)
    reach = np.maximum(_SAME * np.hypot(*(corners.max(axis=1) - corners.min(axis=1)).T), _LEAST)
    for place in mine:
        found[_at(place, corners, reach)] = not place.back
    return found


def exchanged(
    places: Sequence[LeftOut],
    contours: Sequence[Contour],
    picture: Picture,
    numbers: Sequence[int],
    box: tuple[float, float, float, float] | None,
) -> tuple[tuple[LeftOut, ...], bool]:
    """Contours left out, or brought back where all of them were; and whether they were.

    Parameters
    ----------
    numbers : of the contours that are meant. box : the box in job space that was drawn round them,
    where one was: its place is left out as a whole.
    """
    back = bool(are_left_out(contours, picture, places)[list(numbers)].all())
    corners = _corners(contours, picture)
    meant = [_place(picture, corners[k], back=back) for k in numbers]
    if box is not None:
        meant = [_place(picture, _mapped(np.array([box]), picture)[0], whole=True, back=back)]
    replaced = [_place(picture, corners[k]) for k in numbers] if box is None else []
    covered = {place.corners for place in (*meant, *replaced)}
    kept = [
        place for place in places if place.picture != picture.id or place.corners not in covered
    ]
    if box is not None:  # what was said of places within it is not needed any more
        area = shapely.Polygon(meant[0].corners).buffer(_LEAST)
        kept = [
            place
            for place in kept
            if place.picture != picture.id or not area.covers(shapely.Polygon(place.corners))
        ]
    made = (*kept, *meant)
    still = are_left_out(contours, picture, made)
    return (
        made
        if still.any() or not back
        else tuple(place for place in made if place.picture != picture.id)
    ), back


def _at(place: LeftOut, corners: Floats, reach: Floats) -> Bools:
    """Which contours lie at a place."""
    wanted = np.array(place.corners)
    if not place.whole:
        same: Bools = np.hypot(*(corners - wanted).transpose(2, 0, 1)).max(axis=1) <= reach
        return same
    area = shapely.Polygon(wanted)
    away = shapely.distance(shapely.points(corners), area)  # 0 inside
    inside: Bools = away.max(axis=1) <= reach
    return inside


def _place(
    picture: Picture, corners: Floats, *, whole: bool = False, back: bool = False
) -> LeftOut:
    return LeftOut(
        picture.id,
        tuple((float(x), float(y)) for x, y in corners.tolist()),
        picture.base_size,
        whole,
        back,
    )


def _corners(contours: Sequence[Contour], picture: Picture) -> Floats:
    return _mapped(boxes_of(contours), picture)


def _mapped(boxes: Floats, picture: Picture) -> Floats:
    """Corners (n, 4, 2) of boxes (n, 4) in job space, in base pixels."""
    x0, y0, x1, y1 = boxes.T
    places = np.stack(
        [np.column_stack(pair) for pair in ((x0, y0), (x1, y0), (x1, y1), (x0, y1))], axis=1
    )
    to_base = picture.to_job.inverse().then(picture.to_base)
    return np.asarray(to_base.apply(places.reshape(-1, 2))).reshape(-1, 4, 2)
