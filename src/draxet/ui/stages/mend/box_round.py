"""The box round what is chosen: its rim moves all of it, its corners and bars size it, its arm turns
it."""

from __future__ import annotations

import math

from draxet.geometry.affine import Affine
from draxet.job.place_types import Box
from draxet.record import record
from draxet.ui.model.tool import FRAME_ARM, FRAME_ASIDE, Pointer

__all__ = ["BoxHold", "drawn_out", "hold_at", "middle_of", "shown_holds", "sized", "turned"]

_REACH, _RIM_REACH = 8.0, 4.0
"""Screen pixels within which a handle, and the rim, are taken."""
_ROOM = 30.0
"""A side of fewer screen pixels has no bar in its middle."""
_LEAST, _MOST = 1e-4, 1e4
_STEP, _NEAR = 15.0, 2.0
"""Turned to nearly a whole number of such steps, in degrees, it is turned to it."""


@record(frozen=True)
class BoxHold:
    """What of the box is held: ``move`` (its rim), ``size`` (a corner or a bar: -1, 0 or 1 across
    and up) or ``turn`` (its arm); and where that is, in job space."""

    what: str
    across: int
    up: int
    x: float
    y: float

    @property
    def number(self) -> str:
        """The name of the number that can be typed for it."""
        if self.what == "turn":
            return "angle"
        return {"size": "width" if self.across else "height"}.get(self.what, "")

    def stays(self, box: Box, *, about_middle: bool) -> tuple[float, float]:
        """The place of the box that stays where it is."""
        if about_middle or self.what == "turn":
            return middle_of(box)
        return BoxHold(self.what, -self.across, -self.up, 0.0, 0.0).corner(box)

    def corner(self, box: Box) -> tuple[float, float]:
        """The corner of the box, or the middle of a side, that goes along."""
        x, y = middle_of(box)
        return (box[0], x, box[2])[self.across + 1], (box[1], y, box[3])[self.up + 1]


def middle_of(box: Box) -> tuple[float, float]:
    """The middle of a box."""
    return (box[0] + box[2]) / 2, (box[1] + box[3]) / 2


def shown_holds(box: Box, pixel: float) -> list[BoxHold]:
    """Corners, bars and the arm of a box, as far as there is room for them."""
    wide, high, aside = box[2] - box[0], box[3] - box[1], FRAME_ASIDE * pixel
    middle = middle_of(box)
    found = []
    for across in (-1, 0, 1):
        for up in (-1, 0, 1):
            if across == up == 0 or (across and wide <= 0) or (up and high <= 0):
                continue
            if (not across and wide < _ROOM * pixel) or (not up and high < _ROOM * pixel):
                continue
            x = (box[0] - aside, middle[0], box[2] + aside)[across + 1]
            y = (box[1] - aside, middle[1], box[3] + aside)[up + 1]
            found.append(BoxHold("size", across, up, x, y))
    arm = box[2] + aside + FRAME_ARM * pixel
    return [BoxHold("turn", 0, 0, arm, middle[1]), *found]


def hold_at(box: Box, at: Pointer, *, rim: bool) -> BoxHold | None:
    """What of the box is beneath the pointer; of its rim the corner or middle that is nearest."""
    if not rim:
        reach = _REACH * at.pixel
        near = [
            (away, k, hold)
            for k, hold in enumerate(shown_holds(box, at.pixel))
            if (away := math.dist((hold.x, hold.y), (at.x, at.y))) <= reach
        ]
        return min(near)[2] if near else None
    aside, reach = FRAME_ASIDE * at.pixel, _RIM_REACH * at.pixel
    x0, y0, x1, y1 = box[0] - aside, box[1] - aside, box[2] + aside, box[3] + aside
    beside = max(x0 - at.x, at.x - x1, y0 - at.y, at.y - y1)
    if abs(beside) > reach:
        return None
    x, y = middle_of(box)
    places = [(a, b) for a in (box[0], x, box[2]) for b in (box[1], y, box[3])]
    return BoxHold("move", 0, 0, *min(places, key=lambda place: math.dist(place, (at.x, at.y))))


def drawn_out(
    hold: BoxHold, box: Box, to: tuple[float, float], *, about_middle: bool
) -> float | None:
    """How much larger it gets as a corner goes along its diagonal, or a bar across, as far as `to`;
    None where nothing would be left, or far too much."""
    x, y = hold.stays(box, about_middle=about_middle)
    corner = hold.corner(box)
    dx, dy = corner[0] - x, corner[1] - y
    if hold.across and hold.up:
        by = ((to[0] - x) * dx + (to[1] - y) * dy) / (dx * dx + dy * dy)
    else:
        by = (to[0] - x) / dx if hold.across else (to[1] - y) / dy
    return by if _LEAST < by < _MOST else None


def sized(hold: BoxHold, box: Box, by: float, *, about_middle: bool) -> Affine:
    """The map that makes it so much larger: evenly by a corner, one way by a bar."""
    wide, high = by if hold.across else 1.0, by if hold.up else 1.0
    return Affine.scaled(wide, high).about(*hold.stays(box, about_middle=about_middle))


def turned(box: Box, begun: tuple[float, float], to: tuple[float, float], *, free: bool) -> float:
    """The degrees by which what is at `begun` turns towards `to` about the box's middle; nearly
    whole steps are whole unless it is free."""
    x, y = middle_of(box)
    one, other = (math.degrees(math.atan2(p[1] - y, p[0] - x)) for p in (begun, to))
    by = (other - one + 180) % 360 - 180
    whole = round(by / _STEP) * _STEP
    return whole if abs(by - whole) <= _NEAR and not free else by
