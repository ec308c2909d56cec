"""Overshoots, scraps and lines drawn twice: found, and what each would be mended to; and all of it
done at once."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from functools import partial
from typing import Any

import numpy as np
import shapely
from scipy.spatial import cKDTree

from draxet.geometry.arrangement import Arrangement, arrangement_of
from draxet.geometry.arrays import Floats, Ints, Points
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.crossings import crossings_of, parts_of
from draxet.geometry.pieces import piece, place_at, position_near
from draxet.geometry.spans import Spans
from draxet.mend.flaws import Flaw, without_conflicts
from draxet.mend.gaps import gaps
from draxet.mend.tangents import tangent_ends
from draxet.progress import Progress, Unwatched
from draxet.record import record

__all__ = ["Cleaning", "cleaned", "doubles", "flaws_of", "overshoots", "scraps", "united"]

_ROUNDS = 8
_STEPS = (frozenset({"twice"}), frozenset({"past"}), frozenset({"past", "gaps"}))
_ALL_STEPS = frozenset().union(*_STEPS)
"""What is drawn twice, with scraps, goes first, then what goes past, then gaps."""
_FINER = 5
"""Lines are flattened so many times as finely as they may lie apart."""
_LEAST = 1e-6
_ON = 0.05
"""mm: an end so near to a line lies on it."""
_NO_LENGTH = 1e-5
"""mm: what is shorter goes past nothing."""


@record(frozen=True)
class Cleaning:
    """What is mended, and within which limits in mm (mm² for scraps); None where it is left
    alone."""

    gaps: float | None = None
    overshoots: float | None = None
    doubles: float | None = None
    scraps: float | None = None
    manner: str = "best"


def flaws_of(
    contours: Sequence[Contour],
    limits: Cleaning,
    without: frozenset[int] = frozenset(),
    report: Progress = Unwatched(),
    steps: frozenset[str] = _ALL_STEPS,
) -> list[Flaw]:
    """Everything that is wrong within the limits, kind by kind. `without` : numbers of open
    contours that are meant to be open. `steps` : which steps of mending are looked for."""
    found: list[Flaw] = []
    if "twice" in steps:
        report(0.1, "looking for lines drawn twice")
        found += doubles(contours, limits.doubles) if limits.doubles is not None else []
        found += scraps(contours, limits.scraps) if limits.scraps is not None else []
    twice = frozenset(k for flaw in found if flaw.kind == "double" for k in flaw.concerns)
    if "past" in steps and limits.overshoots is not None:
        report(0.4, "looking for overshoots")
        tangent = tangent_ends(contours, limits.overshoots, limits.gaps or 0.0, without | twice)
        found += tangent
        found += overshoots(
            contours,
            limits.overshoots,
            without | frozenset(k for flaw in tangent for k in flaw.concerns),
            twice,
        )
    if "gaps" in steps and limits.gaps is not None:
        report(0.8, "looking for gaps")
        found += gaps(
            contours, limits.gaps, limits.manner, without | twice, limits.overshoots or 0.0
        )
    return found


def cleaned(
    contours: Sequence[Contour],
    limits: Cleaning,
    without: frozenset[int] = frozenset(),
    report: Progress = Unwatched(),
) -> tuple[list[tuple[int, Contour]], list[Flaw]]:
    """Contours with everything mended, each with the number of the one that it came from, and what
    was done: first what is drawn twice, then what goes past, then gaps. What one mend leaves is
    looked at again, until nothing is left."""
    now = list(enumerate(contours))
    done: list[Flaw] = []
    for step in range(_ROUNDS):
        report(step / _ROUNDS, "mending")
        before = len(done)
        for part in _STEPS:
            for _ in range(_ROUNDS):
                meant = frozenset(k for k, (origin, _) in enumerate(now) if origin in without)
                flaws = without_conflicts(
                    [
                        flaw
                        for flaw in flaws_of(
                            [contour for _, contour in now], limits, meant, steps=part
                        )
                        if flaw.becomes
                    ]
                )
                if not flaws:
                    break
                becomes = {k: left for flaw in flaws for k, left in flaw.becomes.items()}
                now = [
                    (origin, made)
                    for k, (origin, contour) in enumerate(now)
                    for made in becomes.get(k, (contour,))
                ]
                done += flaws
        if len(done) == before:
            break
    return now, done


def overshoots(
    contours: Sequence[Contour],
    within: float,
    without: frozenset[int] = frozenset(),
    ignored: frozenset[int] = frozenset(),
) -> list[Flaw]:
    """Ends of open contours that go past a crossing by no more than `within` mm. What is `ignored`
    crosses nothing."""
    spans, owner = joined_spans(contours)
    tips = [
        (k, at_end)
        for k, contour in enumerate(contours)
        if not contour.closed and k not in without and k not in ignored
        for at_end in (False, True)
    ]
    if not tips:
        return []
    first = np.searchsorted(owner, np.arange(len(contours)))
    of, number, begin, end = _tips(contours, tips, first, spans, within)
    parts = parts_of(spans, number, begin, end)
    one, other = shapely.STRtree(np.asarray(shapely.box(*spans.boxes().T))).query(
        shapely.box(*parts.boxes().T), predicate="intersects"
    )
    mine = of * (len(spans) + 2) + number + 1
    beside = np.isin(
        of[one] * (len(spans) + 2) + other + 1, np.concatenate([mine - 1, mine, mine + 1])
    )
    own = beside & (owner[other] == owner[number[one]])  # its own spans lie on a tip, or join it
    own |= np.isin(owner[other], list(ignored))
    both = Spans(
        *(
            np.concatenate([getattr(parts, name), getattr(spans, name)])
            for name in ("starts", "ends", "kinds", "bulges", "handles")
        )
    )
    met = crossings_of(both, one[~own], other[~own] + len(parts))
    tip, contour_of = of[met.first], np.array([k for k, _ in tips])
    position = (
        number[met.first]
        - first[contour_of[tip]]
        + begin[met.first]
        + met.t * (end - begin)[met.first]
    )
    led_on, joined = _ends_on_tips(contours, tips, within, ignored)
    nearest: dict[tuple[int, bool], float] = {}
    for n, at in [*zip(tip.tolist(), position.tolist(), strict=True), *led_on]:
        k, at_end = tips[n]
        count = float(len(contours[k].kinds))
        if not _LEAST < at < count - _LEAST:
            if (at > 1) == at_end:
                joined.add((k, at_end))
            continue
        known = nearest.get((k, at_end))
        nearest[k, at_end] = at if known is None else (max if at_end else min)(known, at)
    nearest = {
        end: at for end, at in nearest.items() if end not in joined
    }  # what is joined is meant
    found = []
    for k in dict.fromkeys(k for k, _ in nearest):
        flaw = _overshoot(k, contours[k], nearest.get((k, False)), nearest.get((k, True)), within)
        if flaw is not None:
            found.append(flaw)
    return found


def _ends_on_tips(
    contours: Sequence[Contour],
    tips: Sequence[tuple[int, bool]],
    within: float,
    ignored: frozenset[int],
) -> tuple[list[tuple[int, float]], set[tuple[int, bool]]]:
    """Ends of other contours that lie on a tip, not at its own end: of which tip, and at which
    position of its contour; and the tips that end where others do."""
    ends = [
        (n, contour.nodes[side])
        for n, contour in enumerate(contours)
        if not contour.closed and n not in ignored
        for side in (0, -1)
    ]
    tree = cKDTree(np.array([place for _, place in ends]))
    found, joined = [], set()
    for number, (k, at_end) in enumerate(tips):
        tip = contours[k].nodes[-1 if at_end else 0]
        near = [
            (n, place)
            for n, place in (ends[e] for e in tree.query_ball_point(tip, within + _ON))
            if n != k or (len(contours[k].kinds) > 2 and math.dist(place, tip) > 0)
        ]
        if any(math.dist(place, tip) <= _ON for _, place in near):
            joined.add((k, at_end))
            continue
        for n, (x, y) in near:
            first = (
                0.0 if n != k or not at_end else 1.0
            )  # of its own contour's other end, not that one's own span
            some = (
                contours[k]
                if n != k
                else piece(contours[k], first, len(contours[k].kinds) - (not at_end))
            )
            assert some is not None
            at = position_near(some, x, y)
            if n < k and _lies_on(tip, contours[n]):
                continue  # they lie on each other: one goes
            if math.dist(place_at(some, at), (x, y)) <= _ON:
                found.append((number, at + first))
    return found, joined


def _lies_on(place: Points, contour: Contour) -> bool:
    x, y = place.tolist()
    return math.dist(place_at(contour, position_near(contour, x, y)), (x, y)) <= _ON


def _tips(
    contours: Sequence[Contour],
    tips: Sequence[tuple[int, bool]],
    first: Ints,
    spans: Spans,
    within: float,
) -> tuple[Ints, Ints, Floats, Floats]:
    """The parts of spans no farther than `within` from an end, along the contour: of which tip, of
    which span, and from where to where."""
    lengths = spans.lengths()
    of, number, begin, end = [], [], [], []
    for n, (k, at_end) in enumerate(tips):
        left, count = within, len(contours[k].kinds)
        for step in range(count):
            span = int(first[k]) + (count - 1 - step if at_end else step)
            share = min(1.0, left / max(float(lengths[span]), 1e-300))
            of.append(n)
            number.append(span)
            begin.append(1 - share if at_end else 0.0)
            end.append(1.0 if at_end else share)
            left -= float(lengths[span])
            if left <= 0:
                break
    return np.array(of), np.array(number), np.array(begin), np.array(end)


def _overshoot(
    k: int, contour: Contour, head_at: float | None, tail_at: float | None, within: float
) -> Flaw | None:
    count = float(len(contour.kinds))
    if (
        head_at is not None and tail_at is not None and head_at >= tail_at - _LEAST
    ):  # one crossing only: the shorter side goes
        head, tail = piece(contour, 0.0, head_at), piece(contour, tail_at, count)
        if head is None or (tail is not None and tail.length <= head.length):
            head_at = None
        else:
            tail_at = None
    head = piece(contour, 0.0, head_at) if head_at is not None else None
    tail = piece(contour, tail_at, count) if tail_at is not None else None
    gone = [
        part
        for part in (head, tail)
        if part is not None and _NO_LENGTH < part.length <= within * (1 + 1e-9)
    ]
    begin = head_at if head in gone and head_at is not None else 0.0
    end = tail_at if tail in gone and tail_at is not None else count
    left = piece(contour, begin, end) if gone else None
    if left is None:
        return None
    x, y = place_at(contour, begin if begin else end).tolist()
    return Flaw(
        "overshoot",
        max(part.length for part in gone),
        (x, y),
        frozenset({k}),
        lambda: ({k: (left,)}, "trimmed"),
        lambda: tuple(gone),
    )


def scraps(contours: Sequence[Contour], under: float) -> list[Flaw]:
    """Contours whose extent is under an area in mm², closed ones by the area that they bound; none
    that leads from one to another."""
    found = []
    boxes = shapely.STRtree(
        np.array([shapely.box(*contour.box) for contour in contours], dtype=object)
    )
    for k, contour in enumerate(contours):
        x0, y0, x1, y1 = contour.box
        area = abs(contour.area) if contour.closed else max(x1 - x0, y1 - y0) ** 2
        if area < under and not (not contour.closed and _joins_others(k, contour, contours, boxes)):
            found.append(
                Flaw(
                    "scrap",
                    math.hypot(x1 - x0, y1 - y0),
                    ((x0 + x1) / 2, (y0 + y1) / 2),
                    frozenset({k}),
                    partial(_goes, k, "dropped"),
                    partial(_one, contour),
                )
            )
    return found


def _joins_others(
    k: int, contour: Contour, contours: Sequence[Contour], boxes: shapely.STRtree
) -> bool:
    """Whether an end of a contour lies on another one, and its other end no farther from a third
    than the contour is long."""
    far = max(contour.length, _ON)
    x0, y0, x1, y1 = contour.box
    near = [
        n
        for n in boxes.query(shapely.box(x0 - far, y0 - far, x1 + far, y1 + far)).tolist()
        if n != k
    ]
    apart = [
        {n: math.dist(place_at(contours[n], position_near(contours[n], *node)), node) for n in near}
        for node in (contour.nodes[0].tolist(), contour.nodes[-1].tolist())
    ]
    return any(
        one[a] <= _ON and other[b] <= far and a != b
        for one, other in (apart, apart[::-1])
        for a in near
        for b in near
    )


def _goes(k: int, manner: str) -> tuple[dict[int, tuple[Contour, ...]], str]:
    return {k: ()}, manner


def doubles(contours: Sequence[Contour], within: float) -> list[Flaw]:
    """Contours that lie on another one, all along, within `within` mm; and stretches of open ones
    that do. Of two that are the same the one with fewer nodes stays. An edge that two closed
    contours share is meant, and listed only."""
    if not contours:
        return []
    spans, owner = joined_spans(contours)
    points, counts = spans.flattened(within / _FINER)
    first = np.searchsorted(owner, np.arange(len(contours)))
    sizes = np.add.reduceat(counts, first)
    lines = _lines(points, sizes, contours)
    lengths = shapely.length(lines)
    order = np.lexsort([np.diff(np.append(first, len(spans))), -np.round(lengths / within)])
    place = np.empty(len(contours), dtype=np.int64)
    place[order] = np.arange(len(contours))
    begins = np.cumsum(sizes) - sizes
    some = np.arange(len(contours))
    one, other = shapely.STRtree(lines).query(
        shapely.points(points[begins]), predicate="dwithin", distance=within
    )
    keep = (one != other) & (place[other] < place[one])
    one, other = some[one[keep]], other[keep]
    for share in (0.5, 0.25, 0.8, 0.1):  # cheap looks first
        probes = shapely.points(points[begins[one] + (share * (sizes[one] - 1)).astype(np.int64)])
        near = shapely.distance(probes, lines[other]) <= within
        one, other = one[near], other[near]
    gone: set[int] = set()
    found = []
    for k, n in sorted(
        zip(one.tolist(), other.tolist(), strict=True),
        key=lambda pair: (place[pair[0]], place[pair[1]]),
    ):
        if k in gone or n in gone:
            continue
        corners = shapely.get_coordinates(lines[k])
        mine = np.vstack([corners, (corners[1:] + corners[:-1]) / 2])
        if shapely.distance(shapely.points(mine), lines[n]).max() <= within * (1 + 2 / _FINER):
            gone.add(k)
            x, y = mine[len(mine) // 2].tolist()
            found.append(
                Flaw(
                    "double",
                    float(lengths[k]),
                    (x, y),
                    frozenset({k}),
                    partial(_goes, k, "one goes"),
                    partial(_one, contours[k]),
                )
            )
    return found + _stretches(contours, [k for k in range(len(contours)) if k not in gone], within)


def _lines(points: Points, sizes: Ints, contours: Sequence[Contour]) -> Any:
    """A line of straight steps for each contour."""
    begins = np.cumsum(sizes) - sizes
    last = np.array(
        [contour.nodes[0] if contour.closed else contour.nodes[-1] for contour in contours]
    )
    whole = np.insert(points, begins + sizes, last, axis=0)
    return shapely.linestrings(whole, indices=np.repeat(np.arange(len(sizes)), sizes + 1))


def _stretches(contours: Sequence[Contour], some: Sequence[int], within: float) -> list[Flaw]:
    """Stretches that contours have in common, from their own crossings: what two closed ones share
    is meant, of an open one it goes."""
    near = _touching(contours, some, within)
    found: list[Flaw] = []
    for group in near:
        ground = arrangement_of([contours[k] for k in group])
        twice = [n for n, owners in enumerate(ground.owners) if len(owners) > 1]
        done: set[int] = set()
        for n in twice:
            owners = [group[o] for o in ground.owners[n]]
            length = float(ground.edges.lengths()[n])
            if length <= 10 * within:
                continue
            x, y = ground.edges.at(np.array([n]), np.array([0.5]))[0].tolist()
            opened = [k for k in owners if not contours[k].closed]
            if not opened:
                found.append(Flaw("shared", length, (x, y)))
            elif opened[-1] not in done:
                done.add(opened[-1])
                k = opened[-1]
                parts = _without_stretches(
                    contours[k],
                    k,
                    group,
                    ground.owners,
                    ground.source,
                    ground.begin,
                    ground.end,
                    contours,
                )
                found.append(
                    Flaw(
                        "stretch",
                        length,
                        (x, y),
                        frozenset({k}),
                        partial(_becomes, k, parts),
                        partial(_edge, ground, n),
                    )
                )
    return found


def _becomes(k: int, parts: tuple[Contour, ...]) -> tuple[dict[int, tuple[Contour, ...]], str]:
    return {k: parts}, "the stretch goes"


def _edge(ground: Arrangement, n: int) -> tuple[Contour, ...]:
    one = ground.edges.take(np.array([n]))
    return (
        Contour.make(
            [one.starts[0], one.ends[0]], one.kinds, one.bulges, one.handles, closed=False
        ),
    )


def _one(contour: Contour) -> tuple[Contour, ...]:
    return (contour,)


def _touching(contours: Sequence[Contour], some: Sequence[int], within: float) -> list[list[int]]:
    """Groups of contours some of whose spans have both ends, or all of a straight course, on
    others'."""
    spans, owner = joined_spans([contours[k] for k in some])
    if not len(spans):
        return []
    middles = spans.at(np.arange(len(spans)), np.full(len(spans), 0.5))
    lines = np.asarray(shapely.linestrings(np.stack([spans.starts, spans.ends], axis=1)))
    straight = np.flatnonzero((spans.kinds == 0) & (spans.lengths() > 10 * within))
    pairs: Counter[tuple[int, int]] = Counter()
    if len(straight) > 1:
        tree = shapely.STRtree(lines[straight])
        one, other = tree.query(
            shapely.points(middles[straight]), predicate="dwithin", distance=within
        )
        for a, b in zip(straight[one].tolist(), straight[other].tolist(), strict=True):
            if owner[a] != owner[b] and _along(spans, a, b):
                pairs[tuple(sorted((int(owner[a]), int(owner[b]))))] += 1  # type: ignore[index]
    curved = np.flatnonzero(spans.kinds != 0)
    if len(curved) > 1:
        for a, b in (
            cKDTree(middles[curved])
            .query_pairs(max(within, _LEAST), output_type="ndarray")
            .tolist()
        ):
            k, n = int(curved[a]), int(curved[b])
            if owner[k] != owner[n]:
                pairs[tuple(sorted((int(owner[k]), int(owner[n]))))] += 1  # type: ignore[index]
    return [[some[a], some[b]] for a, b in pairs]


def _along(spans: Spans, a: int, b: int) -> bool:
    u, v = spans.ends[a] - spans.starts[a], spans.ends[b] - spans.starts[b]
    return abs(float(u[0] * v[1] - u[1] * v[0])) <= 1e-3 * float(np.hypot(*u) * np.hypot(*v))


def _without_stretches(
    contour: Contour,
    k: int,
    group: Sequence[int],
    owners: Sequence[tuple[int, ...]],
    source: np.ndarray,
    begin: np.ndarray,
    end: np.ndarray,
    contours: Sequence[Contour],
) -> tuple[Contour, ...]:
    """What of an open contour no other one has."""
    first = sum(len(contours[other].kinds) for other in group[: group.index(k)])
    mine = [
        (int(source[n]) - first + float(begin[n]), int(source[n]) - first + float(end[n]))
        for n, of in enumerate(owners)
        if of == (group.index(k),)
    ]
    runs: list[list[float]] = []
    for a, b in sorted(mine):
        if runs and abs(a - runs[-1][1]) < 1e-9:
            runs[-1][1] = b
        else:
            runs.append([a, b])
    return tuple(part for a, b in runs if (part := piece(contour, a, b)) is not None)


def united(contours: Sequence[Contour]) -> list[Contour]:
    """One outline of closed contours that overlap; what none of them covers stays an opening. Open
    ones stay as they are."""
    closed = [contour for contour in contours if contour.closed]
    ground = arrangement_of(closed)
    return [
        *ground.outline_of(k for k, region in enumerate(ground.regions) if region.covered),
        *(c for c in contours if not c.closed),
    ]
