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
from functools import lru_cache

import numpy as np

from draxet.geometry.arrays import Floats, Points
from draxet.geometry.contour import Contour, boxes_of, joined_spans
from draxet.geometry.crossings import crossings
from draxet.geometry.measured import Measured
from draxet.geometry.nesting import nesting_depths
from draxet.geometry.pieces import place_at, position_near
from draxet.geometry.spans import Spans
from draxet.geometry.winding import winds
from draxet.job.contour_records import Bridge, ContourItem
from draxet.job.operations import Side
from draxet.job.records import Job
from draxet.record import record

__all__ = ["BRIDGE_REACH", "Cut", "Effect", "Held", "cuts_held", "cuts_of", "first_hits"]

BRIDGE_REACH = 2.0
"""mm: a bridge whose contour is gone holds one that lies so near to its place."""
_FARTHEST = 500.0
"""mm: a strip is no longer."""
_FEW_RAYS = 16
_NEAR_BY = 40.0
"""mm: most strips are shorter."""
_OFF = 1e-3
_EPSILON = 1e-6
_ROUNDS = 60


@record(frozen=True)
class Cut:
    """A contour as it is cut: on which side, how wide (mm), and the ids of the job's contours that
    it comes from."""

    contour: Contour
    side: Side
    width: float
    ids: tuple[str, ...]
    of: int = 0
    """The number of the cut, among those that were given, that says how it is cut."""


@record(frozen=True, eq=False)
class Effect:
    """What a bridge does: the strip (closed) or the stretch of the cut (open) that it keeps, and
    its middle; without a shape it holds nothing, for the reason in `lost`."""

    bridge: Bridge
    place: tuple[float, float]
    shape: Contour | None
    lost: str = ""


@record(frozen=True, eq=False)
class Held:
    """Cuts as they run with bridges, and what each bridge does."""

    cuts: tuple[Cut, ...]
    effects: tuple[Effect, ...]


@record(frozen=True, eq=False)
class _Strip:
    """A strip from one cut to another (their numbers): its outline, and its ends."""

    bridge: Bridge
    first: int
    second: int
    start: Points
    end: Points
    outline: Contour


def cuts_of(job: Job, items: Sequence[ContourItem], width: float) -> list[Cut]:
    """Contours as their operation cuts them; one without is cut on the line, `width` mm wide."""
    found = []
    for k, item in enumerate(items):
        operation = job.cut_of.get(item.id)
        side, wide = (operation.side, operation.width) if operation else (Side.ON, width)
        found.append(Cut(job.fitted.get(item.id, item.contour), side, wide, (item.id,), k))
    return found


def cuts_held(cuts: Sequence[Cut], bridges: Sequence[Bridge]) -> Held:
    """Cuts as they run once bridges hold them. Cuts that no bridge touches are the same ones."""
    if not bridges or not cuts:
        return Held(
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
    strips: list[_Strip] = []
    for (bridge, _), strip in zip(over, _strips(over, cuts), strict=True):
        if isinstance(strip, _Strip):
            strips.append(strip)
        else:
            effects[bridge.id] = Effect(bridge, (bridge.x, bridge.y), None, strip)
    lines = _crossed(list(cuts), strips, effects)
    for bridge, number in in_line:
        lines = _interrupted(lines, bridge, number, cuts, effects)
    return Held(tuple(lines), tuple(effects[bridge.id] for bridge in bridges))


_GONE = "no contour lies there any more"
_NO_OTHER = "it leads to no other contour"
_STAYS = "what lies there stays anyway"
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


@lru_cache(maxsize=8192)
def _foot(contour: Contour, x: float, y: float) -> tuple[float, float]:
    """The place on a contour that is nearest to another."""
    a, b = place_at(contour, position_near(contour, x, y)).tolist()
    return a, b


def _distance(contour: Contour, x: float, y: float) -> float:
    return math.dist(_foot(contour, x, y), (x, y))


# --- across


def first_hits(
    contours: Sequence[Contour], starts: Points, angles: Floats
) -> list[tuple[int, Points] | None]:
    """Of each ray, from its start (n, 2) at its angle (n,) in radians, the contour that it meets
    first, and where; None where it meets none."""
    found: list[tuple[int, Points] | None] = [None] * len(starts)
    for far in (_NEAR_BY, _FARTHEST):
        left = np.array([k for k, each in enumerate(found) if each is None], dtype=np.int64)
        if not len(left):
            break
        ends = starts[left] + far * np.column_stack([np.cos(angles[left]), np.sin(angles[left])])
        some = _in_the_way(contours, starts[left], ends)
        spans, owner = joined_spans([contours[k] for k in some])
        rays = Spans(
            starts[left],
            ends,
            np.zeros(len(left), dtype=np.int64),
            np.zeros(len(left)),
            np.zeros((len(left), 2, 2)),
        )
        met = crossings(rays, spans)
        ahead = np.flatnonzero(met.t * far > _OFF)
        order = ahead[np.lexsort((met.t[ahead], met.first[ahead]))]
        rows, at = np.unique(met.first[order], return_index=True)
        for row, hit in zip(rows.tolist(), order[at].tolist(), strict=True):
            found[int(left[row])] = some[int(owner[met.second[hit]])], met.points[hit]
    return found


def _in_the_way(contours: Sequence[Contour], starts: Points, ends: Points) -> list[int]:
    """The numbers of contours that a few rays may meet; of many rays, all."""
    if len(starts) > _FEW_RAYS:
        return list(range(len(contours)))
    boxes, near = boxes_of(contours), np.zeros(len(contours), dtype=bool)
    for low, high in zip(np.minimum(starts, ends), np.maximum(starts, ends), strict=True):
        near |= (boxes[:, :2] <= high).all(axis=1) & (boxes[:, 2:] >= low).all(axis=1)
    return np.flatnonzero(near).tolist()


def _strips(bridges: Sequence[tuple[Bridge, int]], cuts: Sequence[Cut]) -> list[_Strip | str]:
    """The strip of each bridge, which begins on the cut of its number; or why it has none."""
    if not bridges:
        return []
    contours = [cut.contour for cut in cuts]
    starts = np.array([_foot(contours[k], bridge.x, bridge.y) for bridge, k in bridges])
    hits = first_hits(contours, starts, np.radians([bridge.angle for bridge, _ in bridges]))
    found: list[_Strip | str] = []
    for (bridge, number), start, hit in zip(bridges, starts, hits, strict=True):
        if hit is None or not contours[number].closed or not contours[hit[0]].closed:
            found.append(_NO_OTHER)
            continue
        second, end = hit
        taken = max(
            (cuts[k].width for k in (number, second) if cuts[k].side is Side.ON), default=0.0
        )
        found.append(
            _Strip(
                bridge,
                number,
                second,
                start,
                end,
                _rectangle(start, end, (bridge.width + taken) / 2),
            )
        )
    return found


def _rectangle(start: Points, end: Points, half: float) -> Contour:
    """About a straight way, `half` to either side and twice that beyond its ends, so that it parts
    what curves away from it."""
    along = (end - start) / max(float(np.hypot(*(end - start))), _EPSILON)
    aside = half * np.array([-along[1], along[0]])
    a, b = start - 2 * half * along, end + 2 * half * along
    return Contour.make([a + aside, a - aside, b - aside, b + aside])


def _tied(count: int, strips: Sequence[_Strip]) -> list[tuple[list[int], list[_Strip]]]:
    """So many cuts' numbers by what strips tie together, with those strips."""
    root = list(range(count))

    def root_of(k: int) -> int:
        while root[k] != k:
            k = root[k]
        return k

    for strip in strips:
        root[root_of(strip.second)] = root_of(strip.first)
    tying: dict[int, list[_Strip]] = {}
    for strip in strips:
        tying.setdefault(root_of(strip.first), []).append(strip)
    members: dict[int, list[int]] = {name: [] for name in tying}
    for k in range(count):
        if root_of(k) in members:
            members[root_of(k)].append(k)
    return [(members[name], some) for name, some in tying.items()]


def _crossed(cuts: list[Cut], strips: Sequence[_Strip], effects: dict[str, Effect]) -> list[Cut]:
    """Cuts parted by the strips that lead over them; those that strips tie together are parted
    together."""
    clusters = _tied(len(cuts), strips)
    apart = set(range(len(cuts))) - {k for numbers, _ in clusters for k in numbers}
    left = [cuts[k] for k in sorted(apart)]
    for numbers, some in clusters:
        parted = _parted(
            tuple(cuts[k].contour for k in numbers),
            tuple(strip.outline for strip in some),
            tuple(_middle(strip) for strip in some),
        )
        ids = tuple(dict.fromkeys(each for k in numbers for each in cuts[k].ids))
        outer = cuts[numbers[parted.outer]]
        sound = outer.side is not Side.OUTSIDE
        for strip, lies_over in zip(some, parted.over, strict=True):
            holds = sound and lies_over
            x, y = _middle(strip)
            effects[strip.bridge.id] = Effect(
                strip.bridge, (x, y), strip.outline if holds else None, "" if holds else _STAYS
            )
        if not sound or not all(parted.over):
            left += _crossed(
                [cuts[k] for k in numbers],
                _renumbered(some, numbers, parted.over) if sound else [],
                {},
            )
            continue
        turned = {Side.INSIDE: Side.OUTSIDE, Side.ON: Side.ON}[outer.side]
        left += [
            Cut(contour, turned if hole else outer.side, outer.width, ids, outer.of)
            for contour, hole in parted.contours
        ]
    return sorted(left, key=lambda cut: cut.of)


def _middle(strip: _Strip) -> tuple[float, float]:
    x, y = ((strip.start + strip.end) / 2).tolist()
    return x, y


def _renumbered(
    strips: Sequence[_Strip], numbers: Sequence[int], over: Sequence[bool]
) -> list[_Strip]:
    """Those of the strips that part something, their cuts counted among `numbers`."""
    of = {number: k for k, number in enumerate(numbers)}
    return [
        _Strip(s.bridge, of[s.first], of[s.second], s.start, s.end, s.outline)
        for s, fine in zip(strips, over, strict=True)
        if fine
    ]


@record(frozen=True, eq=False)
class _Parted:
    """Contours and whether each is a hole; the number of the outermost contour that they come from;
    whether each strip leads over what is taken away."""

    contours: tuple[tuple[Contour, bool], ...]
    outer: int
    over: tuple[bool, ...]


@lru_cache(maxsize=4096)
def _parted(
    contours: tuple[Contour, ...],
    strips: tuple[Contour, ...],
    middles: tuple[tuple[float, float], ...],
) -> _Parted:
    """The area that contours bound, every second one a hole, less some strips."""
    from draxet.geometry.arrangement import arrangement_of

    outer = int(np.argmin(nesting_depths(contours)))
    over = tuple(
        sum(winds(contour, *middle) for contour in contours) % 2 == 1 for middle in middles
    )
    if not all(over):
        return _Parted((), outer, over)
    found = arrangement_of([*contours, *strips])
    count = len(contours)
    kept = [
        k
        for k, region in enumerate(found.regions)
        if sum(n < count for n in region.covered) % 2 == 1
        and all(n < count for n in region.covered)
    ]
    return _Parted(
        tuple((contour, contour.area < 0) for contour in found.outline_of(kept)), outer, over
    )


# --- in the line


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
        effects[bridge.id] = Effect(bridge, (bridge.x, bridge.y), None, _STAYS)
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


@lru_cache(maxsize=4096)
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
    middles = _middles(contour, side, width)
    if not middles:
        return (), None
    which = min(range(len(middles)), key=lambda k: _distance(middles[k], x, y))
    line = Measured(middles[which])
    at = line.length_at(position_near(line.contour, x, y))
    met = _met_near(line, at, left, width, others) if line.contour is contour else None
    bounds = _stop_short(line, at, *met) if met else _about(line, at, left + width)
    if bounds is None:
        return (), None
    kept, rest = line.without(*bounds)
    return (*middles[:which], *rest, *middles[which + 1 :]), kept


def _middles(contour: Contour, side: Side, width: float) -> list[Contour]:
    from draxet.geometry.offset import offset_area  # not needed to show a window

    if side is Side.ON or not contour.closed:
        return [contour]
    return offset_area([contour], width / 2 if side is Side.OUTSIDE else -width / 2)


def _about(line: Measured, at: float, wanted: float) -> tuple[float, float] | None:
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
    line: Measured,
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
    line: Measured, along: float, at: float, other: Contour, side: Side, wide: float
) -> float:
    """How far the band of another cut reaches from its contour, on the side on which a line comes
    to it."""
    if side is Side.ON or not other.closed:
        return wide / 2
    inside = winds(other, *line.place(at if abs(at - along) > _EPSILON else along + 0.01).tolist())
    return wide if inside == (side is Side.INSIDE) else 0.0


def _stop_short(
    line: Measured, at: float, met: float, other: Contour, short: float
) -> tuple[float, float] | None:
    """From where the line meets another one to where it is far enough from that, on the side where
    the place lies."""
    way = 1.0 if at >= met and (line.contour.closed or met < line.length - _EPSILON) else -1.0

    def away(far: float) -> float:
        return _distance(other, *line.place(met + way * far).tolist())

    low = high = short
    while away(high) < short * (1 - 1e-9):
        low, high = high, high * 1.25
        if high >= line.length:
            return None
    far = _solved(lambda value: away(value) - short, low, high)
    return (met, met + far) if way > 0 else (met - far, met)
