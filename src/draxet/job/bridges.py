"""Bridges: where a shape is held, so that what it would drop stays in its place.

A bridge *across* is a strip of material led from a contour over what is taken away to the next one:
the area that the cuts bound is parted there. A bridge in the *line* interrupts one cut; next to
another cut that it meets it stops short of that. The width of a bridge is what is left of it once
the cuts have run. Bridges are kept apart from the contours and laid anew each time, so they stay
where they are when a contour changes.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from draxet.cached import kept_on_the_first
from draxet.geometry.arc_length import ArcLength
from draxet.geometry.arrays import Floats
from draxet.geometry.contour import Contour, boxes_of
from draxet.geometry.crossings import crossings
from draxet.geometry.pieces import place_at, position_near
from draxet.geometry.winding import winds
from draxet.job.bridge_cuts import EPSILON, STAYS, Cut, Effect, HeldCuts
from draxet.job.bridge_rays import foot
from draxet.job.bridge_strips import Strip, cuts_crossed, strips_of
from draxet.job.contour_records import Bridge, ContourItem
from draxet.job.cut_middles import middles_of
from draxet.job.operations import Side
from draxet.job.records import Job

__all__ = ["BRIDGE_REACH", "cuts_held", "cuts_of"]

BRIDGE_REACH = 2.0
"""mm: a bridge whose contour is gone holds one that lies so near to its place."""

_ROUNDS = 60


def cuts_of(job: Job, items: Sequence[ContourItem], width: float) -> list[Cut]:
    """Contours as their operation cuts them; one without is cut on the line, `width` mm wide."""
    found = []
    for k, item in enumerate(items):
        operation = job.cut_of.get(item.id)
        side, wide = (operation.side, operation.width) if operation else (Side.ON, width)
        found.append(Cut(job.fitted.get(item.id, item.contour), side, wide, (item.id,), k))
    return found


def cuts_held(cuts: Sequence[Cut], bridges: Sequence[Bridge]) -> HeldCuts:
    """Cuts as they run once bridges hold them. Cuts that no bridge touches are the same ones."""
    if not bridges or not cuts:
        return HeldCuts(
            tuple(cuts),
            tuple(Effect(bridge, (bridge.x, bridge.y), None, _GONE) for bridge in bridges),
        )
    contours = [cut.contour for cut in cuts]
    boxes = boxes_of(contours)
    by_id = {name: k for k, cut in enumerate(cuts) for name in cut.ids}
    effects: dict[str, Effect] = {}
    over: list[tuple[Bridge, int]] = []
    in_line: list[tuple[Bridge, int]] = []
    for bridge in bridges:
        number = (
            by_id[bridge.contour] if bridge.contour in by_id else _nearest(contours, boxes, bridge)
        )
        if number is None:
            effects[bridge.id] = Effect(bridge, (bridge.x, bridge.y), None, _GONE)
        else:
            (over if bridge.across else in_line).append((bridge, number))
    strips: list[Strip] = []
    for (bridge, _), strip in zip(over, strips_of(over, cuts), strict=True):
        if isinstance(strip, Strip):
            strips.append(strip)
        else:
            effects[bridge.id] = Effect(bridge, (bridge.x, bridge.y), None, strip)
    lines = cuts_crossed(list(cuts), strips, effects)
    for bridge, number in in_line:
        lines = _interrupted(lines, bridge, number, cuts, effects)
    return HeldCuts(tuple(lines), tuple(effects[bridge.id] for bridge in bridges))


_GONE = "no contour lies there any more"

_TOO_SMALL = "the contour is too small for it"


def _nearest(contours: Sequence[Contour], boxes: Floats, bridge: Bridge) -> int | None:
    """The contour near which a bridge lies, its own being gone."""
    near = (
        (boxes[:, 0] - BRIDGE_REACH <= bridge.x)
        & (bridge.x <= boxes[:, 2] + BRIDGE_REACH)
        & (boxes[:, 1] - BRIDGE_REACH <= bridge.y)
        & (bridge.y <= boxes[:, 3] + BRIDGE_REACH)
    )
    away = [(_distance(contours[k], bridge.x, bridge.y), k) for k in np.flatnonzero(near).tolist()]
    best, number = min(away, default=(math.inf, 0))
    return number if best <= BRIDGE_REACH else None


def _distance(contour: Contour, x: float, y: float) -> float:
    return math.dist(foot(contour, x, y), (x, y))


def _interrupted(
    lines: list[Cut], bridge: Bridge, of: int, cuts: Sequence[Cut], effects: dict[str, Effect]
) -> list[Cut]:
    """Lines with that one of a cut interrupted on which a bridge lies."""
    ids = set(cuts[of].ids)
    away = [
        (_distance(line.contour, bridge.x, bridge.y), k)
        for k, line in enumerate(lines)
        if ids & set(line.ids)
    ]
    if not away:
        effects[bridge.id] = Effect(bridge, (bridge.x, bridge.y), None, STAYS)
        return lines
    _, number = min(away)
    cut = lines[number]
    others = tuple(
        other for k, other in enumerate(cuts) if k != of and _boxes_near(cut, other, bridge)
    )
    left, kept = _gap(
        cut.contour,
        cut.side,
        cut.width,
        bridge.x,
        bridge.y,
        bridge.width,
        tuple((o.contour, o.side, o.width) for o in others),
    )
    if kept is None:
        effects[bridge.id] = Effect(bridge, (bridge.x, bridge.y), None, _TOO_SMALL)
        return lines
    x, y = place_at(kept, position_near(kept, *(kept.nodes[0] + kept.nodes[-1]) / 2)).tolist()
    effects[bridge.id] = Effect(bridge, (x, y), kept)
    return [
        *lines[:number],
        *(Cut(part, Side.ON, cut.width, cut.ids, cut.of) for part in left),
        *lines[number + 1 :],
    ]


def _boxes_near(cut: Cut, other: Cut, bridge: Bridge) -> bool:
    """Whether another cut may be one that a bridge stops short of."""
    reach = bridge.width + cut.width + other.width
    x0, y0, x1, y1 = other.contour.box
    return x0 - reach <= bridge.x <= x1 + reach and y0 - reach <= bridge.y <= y1 + reach


@kept_on_the_first
def _gap(
    contour: Contour,
    side: Side,
    width: float,
    x: float,
    y: float,
    left: float,
    others: tuple[tuple[Contour, Side, float], ...],
) -> tuple[tuple[Contour, ...], Contour | None]:
    """The middle line of a cut without what a bridge at (x, y) keeps, `left` mm of it between the
    round ends of the cut; and what it keeps."""
    middles = middles_of(contour, side, width)
    if not middles:
        return (), None
    which = min(range(len(middles)), key=lambda k: _distance(middles[k], x, y))
    line = ArcLength(middles[which])
    at = line.length_at(position_near(line.contour, x, y))
    met = _met_near(line, at, left, width, others) if line.contour is contour else None
    bounds = _stop_short(line, at, *met) if met else _about(line, at, left + width)
    if bounds is None:
        return (), None
    kept, rest = line.without(*bounds)
    return (*middles[:which], *rest, *middles[which + 1 :]), kept


def _about(line: ArcLength, at: float, wanted: float) -> tuple[float, float] | None:
    """From where to where a line is left out about a place, its ends then `wanted` mm from each
    other; None where it is too short."""

    def apart(half: float) -> float:
        return math.dist(line.place(at - half), line.place(at + half))

    most = line.length / 2 if line.contour.closed else line.length
    low = high = wanted / 2
    while apart(high) < wanted * (1 - 1e-9):
        low, high = high, high * 1.25
        if high >= most:
            return None
    half = _solved(lambda value: apart(value) - wanted, low, high)
    return at - half, at + half


def _solved(excess: object, low: float, high: float) -> float:
    """Where something that grows from `low` to `high` is 0."""
    assert callable(excess)
    for _ in range(_ROUNDS):
        middle = (low + high) / 2
        low, high = (middle, high) if excess(middle) < 0 else (low, middle)
    return high


def _met_near(
    line: ArcLength,
    at: float,
    left: float,
    width: float,
    others: Sequence[tuple[Contour, Side, float]],
) -> tuple[float, Contour, float] | None:
    """Where the line meets another one near a place: how far along it, that other, and how far from
    it the cut has to end."""
    best: tuple[float, float, Contour, float] | None = None
    for other, side, wide in others:
        met = crossings(line.contour.spans, other.spans)
        for position in (met.first + met.t).tolist():
            along = line.length_at(position)
            short = left + width / 2 + _edge(line, along, at, other, side, wide)
            if abs(along - at) <= short + width and (best is None or abs(along - at) < best[0]):
                best = abs(along - at), along, other, short
    return None if best is None else best[1:]


def _edge(
    line: ArcLength, along: float, at: float, other: Contour, side: Side, wide: float
) -> float:
    """How far the band of another cut reaches from its contour, on the side on which a line comes
    to it."""
    if side is Side.ON or not other.closed:
        return wide / 2
    inside = winds(other, *line.place(at if abs(at - along) > EPSILON else along + 0.01).tolist())
    return wide if inside == (side is Side.INSIDE) else 0.0


def _stop_short(
    line: ArcLength, at: float, met: float, other: Contour, short: float
) -> tuple[float, float] | None:
    """From where the line meets another one to where it is far enough from that, on the side where
    the place lies."""
    way = 1.0 if at >= met and (line.contour.closed or met < line.length - EPSILON) else -1.0

    def away(far: float) -> float:
        return _distance(other, *line.place(met + way * far).tolist())

    low = high = short
    while away(high) < short * (1 - 1e-9):
        low, high = high, high * 1.25
        if high >= line.length:
            return None
    far = _solved(lambda value: away(value) - short, low, high)
    return (met, met + far) if way > 0 else (met - far, met)
