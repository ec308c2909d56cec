"""Islands: closed contours that stand inside an opening and would fall out with it; and good places
for the bridges that hold them."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence

import numpy as np

from draxet.geometry.arrays import Floats, Ints, Points, norms
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.crossings import crossings
from draxet.geometry.nesting import as_polygon, nesting_depths
from draxet.geometry.spans import Spans
from draxet.job.contour_records import Bridge
from draxet.job.operations import Side
from draxet.job.records import Job
from draxet.record import record

__all__ = ["island_bridges", "islands_of"]

_SAMPLES = 144
_LONG = 1e4
_FLAT = 0.05
_LEAST_COS = 0.6
"""A bridge meets the other side no more askew than that."""
_LEVEL, _OPPOSITE, _IN_LINE, _CLEAR = 0.35, 1.5, 1.0, 0.5
"""How much worse a bridge is that lies askew on the sheet, away from its share of the turn, out of
line with the one opposite, near a corner."""


def islands_of(job: Job, chosen: Collection[str] = ()) -> list[str]:
    """Ids of the islands among the chosen contours, or among all. Where no plate lies round what
    was chosen, as with lettering alone, its outermost contours are the openings."""
    job = job.layout
    some = [item for item in job.contours if not chosen or item.id in chosen]
    depths = dict(
        zip(
            (item.id for item in some),
            nesting_depths([item.contour for item in some]).tolist(),
            strict=True,
        )
    )
    if any(depth >= 2 for depth in depths.values()):
        return [name for name, depth in depths.items() if depth >= 2 and depth % 2 == 0]
    openings = {
        contour
        for operation in job.operations
        if operation.through and operation.side is Side.INSIDE
        for contour in operation.contours
    }
    return (
        [name for name, depth in depths.items() if depth == 1 and name not in openings]
        if chosen
        else []
    )


@record(frozen=True, eq=False)
class _Ways:
    """Straight ways from places (n, 2) on an island, at `angle` (n,) in radians, over the opening:
    how `good` each is (less is better)."""

    places: Points
    angle: Floats
    good: Floats


def island_bridges(job: Job, island: str, count: int, width: float) -> list[Bridge]:
    """Bridges across, without ids yet, that hold an island: the shortest ways to what is round it,
    on straight stretches and away from corners, spread evenly about it. Fewer than `count` where
    there is no room for them; none where nothing is round it."""
    job = job.layout
    contour = job.contour_by_id[island].contour
    family = _family(job, island)
    if family is None:
        return []
    parent, inside = family
    ways = _ways(contour, parent, inside, width)
    if not len(ways.places):
        return []
    picked = _spread(ways, count, math.sqrt(abs(contour.area)))
    return [
        Bridge("", float(x), float(y), width, island, True, math.degrees(a))
        for (x, y), a in zip(ways.places[picked], ways.angle[picked], strict=True)
    ]


def _family(job: Job, island: str) -> tuple[Contour, list[Contour]] | None:
    """The contour next round an island, and all others that stand in it."""
    closed = [item for item in job.contours if item.contour.closed]
    own = as_polygon(job.contour_by_id[island].contour, _FLAT)
    place, size = own.representative_point(), own.area
    x, y = place.x, place.y
    around = [
        i
        for i in closed
        if i.id != island
        and i.contour.box[0] <= x <= i.contour.box[2]
        and i.contour.box[1] <= y <= i.contour.box[3]
    ]
    around = [
        i
        for i in around
        if abs(i.contour.area) > size and as_polygon(i.contour, _FLAT).buffer(0).contains(place)
    ]
    if not around:
        return None
    parent = min(around, key=lambda item: abs(item.contour.area))
    x0, y0, x1, y1 = parent.contour.box
    inside = [
        i.contour
        for i in closed
        if i.id not in (island, parent.id)
        and i.contour.box[0] >= x0
        and i.contour.box[1] >= y0
        and i.contour.box[2] <= x1
        and i.contour.box[3] <= y1
    ]
    return parent.contour, inside


def _ways(contour: Contour, parent: Contour, inside: Sequence[Contour], width: float) -> _Ways:
    places, tangents, turn, far = _sampled(contour, width)
    outward = np.column_stack([tangents[:, 1], -tangents[:, 0]]) * (
        1.0 if contour.area > 0 else -1.0
    )
    size = math.hypot(parent.box[2] - parent.box[0], parent.box[3] - parent.box[1])
    ends = places + size * outward
    straight = np.zeros(len(places), dtype=np.int64)
    rays = Spans(places, ends, straight, np.zeros(len(places)), np.zeros((len(places), 2, 2)))
    others, owner = joined_spans([parent, contour, *inside])
    met = crossings(rays, others)
    ahead = np.flatnonzero(met.t * size > 1e-3)
    order = ahead[np.lexsort((met.t[ahead], met.first[ahead]))]
    first, at = np.unique(met.first[order], return_index=True)
    hits = order[at]
    onto = owner[met.second[hits]] == 0
    first, hits = first[onto], hits[onto]
    there = _slopes(others, met.second[hits], met.u[hits])
    squarely = np.abs(there[:, 0] * outward[first, 1] - there[:, 1] * outward[first, 0])
    other_turn, other_far = _about(parent, met.points[hits], width)
    clear = np.minimum(far[first], other_far)
    fine = (clear > width / 2) & (squarely >= _LEAST_COS)
    first, hits, squarely, other_turn, clear = (
        first[fine],
        hits[fine],
        squarely[fine],
        other_turn[fine],
        clear[fine],
    )
    angle = np.arctan2(outward[first, 1], outward[first, 0])
    long = met.t[hits] * size
    good = (
        (long + width)
        * (1 + turn[first] + other_turn)
        * (1 + _LEVEL * np.abs(np.sin(2 * angle)))
        * (1 + _CLEAR * width / clear)
        / squarely
    )
    return _Ways(places[first], angle, good)


def _sampled(contour: Contour, width: float) -> tuple[Points, Points, Floats, Floats]:
    """Places along a contour, the directions there, how much (radians) it turns within a bridge's
    width, and how far away its corners are."""
    positions, lengths = _by_length(contour)
    at = np.arange(_SAMPLES) / _SAMPLES * lengths[-1]
    spot = np.interp(at, lengths, positions)
    which, share = _split(contour, spot)
    places = contour.spans.at(which, share)
    turn, far = _around(contour, at, positions, lengths, width)
    return places, _slopes(contour.spans, which, share), turn, far


def _about(contour: Contour, points: Points, width: float) -> tuple[Floats, Floats]:
    """How much a contour turns within a width about places that lie on it, and how far away its
    corners are."""
    positions, lengths = _by_length(contour)
    which, share = _split(contour, positions)
    fine = contour.spans.at(which, share)
    nearest = np.array([int(norms(fine - point).argmin()) for point in points], dtype=np.int64)
    return _around(contour, lengths[nearest], positions, lengths, width)


def _around(
    contour: Contour, at: Floats, positions: Floats, lengths: Floats, width: float
) -> tuple[Floats, Floats]:
    total, half = float(lengths[-1]), width / 2
    before, after = (
        _slopes(contour.spans, *_split(contour, np.interp((at + way) % total, lengths, positions)))
        for way in (-half, half)
    )
    turn = np.abs(
        np.arctan2(
            before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0], (before * after).sum(axis=1)
        )
    )
    corners = np.interp(np.flatnonzero(contour.corners()).astype(np.float64), positions, lengths)
    if not len(corners):
        return turn, np.full(len(at), math.inf)
    away = np.abs(at[:, None] - corners[None])
    return turn, np.minimum(away, total - away).min(axis=1)


def _by_length(contour: Contour) -> tuple[Floats, Floats]:
    """Positions along a closed contour, and how far along it each is."""
    count, steps = len(contour.kinds), 24
    positions = np.arange(count * steps + 1) / steps
    places = contour.spans.at(*_split(contour, positions))
    return positions, np.concatenate([[0.0], np.cumsum(norms(np.diff(places, axis=0)))])


def _split(contour: Contour, positions: Floats) -> tuple[Ints, Floats]:
    which = np.minimum(positions.astype(np.int64), len(contour.kinds) - 1)
    return which, positions - which


def _slopes(spans: Spans, which: Ints, share: Floats) -> Points:
    """Directions (m, 2), of length 1, a little way about places on spans."""
    ahead = spans.at(which, np.minimum(share + 1e-3, 1.0)) - spans.at(
        which, np.maximum(share - 1e-3, 0.0)
    )
    found: Points = ahead / np.maximum(norms(ahead), 1e-12)[:, None]
    return found


def _spread(ways: _Ways, count: int, size: float) -> list[int]:
    """The numbers of the best ways that lie evenly about the turn, those opposite each other in
    line."""
    if count == 1:
        return [int(ways.good.argmin())]
    best: tuple[float, list[int]] = math.inf, []
    share = math.pi / count
    for first in range(len(ways.places)):
        picked, total = [first], float(ways.good[first])
        for k in range(1, count):
            turn = (
                np.abs(
                    (ways.angle - ways.angle[first] - 2 * share * k + math.pi) % (2 * math.pi)
                    - math.pi
                )
                / share
            )
            along = np.array([math.cos(ways.angle[first]), math.sin(ways.angle[first])])
            beside = (
                np.abs((ways.places - ways.places[first]) @ np.array([-along[1], along[0]]))
                / max(size, 1e-9)
                if count == 2
                else 0.0
            )
            cost = np.where(
                turn < 1.0, ways.good * (1 + _OPPOSITE * turn + _IN_LINE * beside), math.inf
            )
            one = int(cost.argmin())
            if math.isfinite(cost[one]):
                picked.append(one)
                total += float(cost[one])
            else:
                total += 10 * float(ways.good.max())
        if total < best[0]:
            best = total, picked
    return best[1]
