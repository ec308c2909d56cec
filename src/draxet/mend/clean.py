"""Overshoots, scraps and lines drawn twice: found, and what each would be mended to; and all of it done at once."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from scipy.spatial import cKDTree

from draxet.geometry.arrangement import arrangement_of
from draxet.geometry.contour import Contour, boxes_of, joined_spans
from draxet.geometry.pieces import piece, place_at, positions_of_crossings
from draxet.geometry.spans import Spans
from draxet.mend.flaws import Flaw, without_conflicts
from draxet.mend.gaps import gaps
from draxet.mend.nodes import deviation_between
from draxet.progress import Progress, Unwatched

__all__ = ["Cleaning", "cleaned", "doubles", "flaws_of", "overshoots", "scraps", "united"]

_ROUNDS = 8
_LEAST = 1e-6
_NO_LENGTH = 1e-5
"""mm: what is shorter goes past nothing."""


@dataclass(frozen=True)
class Cleaning:
    """What is mended, and within which limits in mm (mm² for scraps); None where it is left alone."""

    gaps: float | None = None
    overshoots: float | None = None
    doubles: float | None = None
    scraps: float | None = None
    manner: str = "best"


def flaws_of(contours: Sequence[Contour], limits: Cleaning, without: frozenset[int] = frozenset(), report: Progress = Unwatched()) -> list[Flaw]:
    """Everything that is wrong within the limits, kind by kind. `without` : numbers of open contours that are meant to be open."""
    found: list[Flaw] = []
    if limits.doubles is not None:
        report(0.1, "looking for lines drawn twice")
        found += doubles(contours, limits.doubles)
    if limits.scraps is not None:
        found += scraps(contours, limits.scraps)
    if limits.overshoots is not None:
        report(0.4, "looking for overshoots")
        found += overshoots(contours, limits.overshoots, without)
    if limits.gaps is not None:
        report(0.8, "looking for gaps")
        found += gaps(contours, limits.gaps, limits.manner, without)
    return found


def cleaned(contours: Sequence[Contour], limits: Cleaning, without: frozenset[int] = frozenset(), report: Progress = Unwatched()) -> tuple[list[tuple[int, Contour]], list[Flaw]]:
    """Contours with everything mended, each with the number of the one that it came from, and what was done. What one mend leaves is
    looked at again, until nothing is left."""
    now = list(enumerate(contours))
    done: list[Flaw] = []
    for step in range(_ROUNDS):
        report(step / _ROUNDS, "mending")
        meant = frozenset(k for k, (origin, _) in enumerate(now) if origin in without)
        flaws = without_conflicts(flaws_of([contour for _, contour in now], limits, meant))
        if not flaws:
            break
        becomes = {k: made for flaw in flaws for k, made in flaw.becomes.items()}
        now = [(origin, part) for k, (origin, contour) in enumerate(now) for part in becomes.get(k, (contour,))]
        done += flaws
    return now, done


def overshoots(contours: Sequence[Contour], within: float, without: frozenset[int] = frozenset()) -> list[Flaw]:
    """Ends of open contours that go past a crossing by no more than `within` mm."""
    boxes = boxes_of(contours)
    tree = shapely.STRtree([shapely.box(*box) for box in boxes.tolist()])
    found = []
    for k, contour in enumerate(contours):
        if contour.closed or k in without:
            continue
        flaw = _overshoot(k, contour, contours, tree, within)
        if flaw is not None:
            found.append(flaw)
    return found


def _overshoot(k: int, contour: Contour, contours: Sequence[Contour], tree: shapely.STRtree, within: float) -> Flaw | None:
    count = float(len(contour.kinds))
    near = [int(n) for n in tree.query(shapely.box(*contour.box)) if int(n) != k]
    if not near and len(contour.kinds) < 2:
        return None
    spans: Spans = joined_spans([contours[n] for n in near])[0]
    met = positions_of_crossings(contour, spans)
    met = met[(met > _LEAST) & (met < count - _LEAST)]
    if not len(met):
        return None
    begin, end, gone = 0.0, count, []
    head, tail = piece(contour, 0.0, float(met[0])), piece(contour, float(met[-1]), count)
    if head is not None and _NO_LENGTH < head.length <= within and len(met) > 1:
        begin, gone = float(met[0]), [head]
    if tail is not None and _NO_LENGTH < tail.length <= within and (len(met) > 1 or not gone):
        end, gone = float(met[-1]), [*gone, tail]
    if head is not None and len(met) == 1 and not gone and _NO_LENGTH < head.length <= within:
        begin, gone = float(met[0]), [head]
    left = piece(contour, begin, end) if gone else None
    if left is None:
        return None
    x, y = place_at(contour, begin if begin else end).tolist()
    return Flaw("overshoot", sum(part.length for part in gone), (x, y), {k: (left,)}, "trimmed", tuple(gone))


def scraps(contours: Sequence[Contour], under: float) -> list[Flaw]:
    """Contours whose extent is under an area in mm², closed ones by the area that they bound."""
    found = []
    for k, contour in enumerate(contours):
        x0, y0, x1, y1 = contour.box
        area = abs(contour.area) if contour.closed else max(x1 - x0, y1 - y0) ** 2
        if area < under:
            found.append(Flaw("scrap", math.hypot(x1 - x0, y1 - y0), ((x0 + x1) / 2, (y0 + y1) / 2), {k: ()}, "dropped", (contour,)))
    return found


def doubles(contours: Sequence[Contour], within: float) -> list[Flaw]:
    """Contours that lie on another one, all along, within `within` mm; and stretches of open ones that do. Of two that are the same the one
    with fewer nodes stays. An edge that two closed contours share is meant, and listed only."""
    boxes = boxes_of(contours)
    if not len(boxes):
        return []
    tree = shapely.STRtree([shapely.box(*box) for box in boxes.tolist()])
    found, gone = [], set[int]()
    order = sorted(range(len(contours)), key=lambda k: (-contours[k].length, len(contours[k].kinds)))
    place = {k: n for n, k in enumerate(order)}
    for k in order:
        for other in tree.query(shapely.box(*contours[k].box).buffer(within)).tolist():
            if place[other] >= place[k] or other in gone or k in gone or not _holds(boxes[other], boxes[k], within):
                continue
            if _lies_on(contours[k], contours[other], within):
                gone.add(k)
                x, y = place_at(contours[k], 0.5 * len(contours[k].kinds)).tolist()
                found.append(Flaw("double", contours[k].length, (x, y), {k: ()}, "one goes", (contours[k],)))
                break
    left = [k for k in range(len(contours)) if k not in gone]
    return found + _stretches(contours, left, within)


def _holds(outer: np.ndarray, inner: np.ndarray, within: float) -> bool:
    return bool((outer[:2] <= inner[:2] + within).all() and (outer[2:] >= inner[2:] - within).all())


def _lies_on(one: Contour, other: Contour, within: float) -> bool:
    """Whether all of one contour lies on another; a closed one on a closed one only."""
    if one.closed and not other.closed and other.length < one.length - within:
        return False
    tips = np.vstack([one.nodes, one.spans.at(np.arange(len(one.kinds)), np.full(len(one.kinds), 0.5))])
    line = shapely.LineString(np.vstack([other.flattened(within / 4), other.nodes[:1]]) if other.closed else other.flattened(within / 4))
    if shapely.distance(shapely.points(tips[:: max(1, len(tips) // 40)]), line).max() > 1.5 * within:
        return False
    return deviation_between(one, other) <= within


def _stretches(contours: Sequence[Contour], some: Sequence[int], within: float) -> list[Flaw]:
    """Stretches that contours have in common, from their own crossings: what two closed ones share is meant, of an open one it goes."""
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
                parts = _without_stretches(contours[k], k, group, ground.owners, ground.source, ground.begin, ground.end, contours)
                found.append(Flaw("stretch", length, (x, y), {k: parts}, "the stretch goes", ()))
    return found


def _touching(contours: Sequence[Contour], some: Sequence[int], within: float) -> list[list[int]]:
    """Groups of contours some of whose spans have both ends, or all of a straight course, on others'."""
    spans, owner = joined_spans([contours[k] for k in some])
    if not len(spans):
        return []
    middles = spans.at(np.arange(len(spans)), np.full(len(spans), 0.5))
    lines = np.asarray(shapely.linestrings(np.stack([spans.starts, spans.ends], axis=1)))
    straight = np.flatnonzero((spans.kinds == 0) & (spans.lengths() > 10 * within))
    pairs: Counter[tuple[int, int]] = Counter()
    if len(straight) > 1:
        tree = shapely.STRtree(lines[straight])
        one, other = tree.query(shapely.points(middles[straight]), predicate="dwithin", distance=within)
        for a, b in zip(straight[one].tolist(), straight[other].tolist(), strict=True):
            if owner[a] != owner[b] and _along(spans, a, b):
                pairs[tuple(sorted((int(owner[a]), int(owner[b]))))] += 1  # type: ignore[index]
    curved = np.flatnonzero(spans.kinds != 0)
    if len(curved) > 1:
        for a, b in cKDTree(middles[curved]).query_pairs(max(within, _LEAST), output_type="ndarray").tolist():
            k, n = int(curved[a]), int(curved[b])
            if owner[k] != owner[n]:
                pairs[tuple(sorted((int(owner[k]), int(owner[n]))))] += 1  # type: ignore[index]
    return [[some[a], some[b]] for a, b in pairs]


def _along(spans: Spans, a: int, b: int) -> bool:
    u, v = spans.ends[a] - spans.starts[a], spans.ends[b] - spans.starts[b]
    return abs(float(u[0] * v[1] - u[1] * v[0])) <= 1e-3 * float(np.hypot(*u) * np.hypot(*v))


def _without_stretches(
    contour: Contour, k: int, group: Sequence[int], owners: Sequence[tuple[int, ...]], source: np.ndarray, begin: np.ndarray, end: np.ndarray, contours: Sequence[Contour]
) -> tuple[Contour, ...]:
    """What of an open contour no other one has."""
    first = sum(len(contours[other].kinds) for other in group[: group.index(k)])
    mine = [(int(source[n]) - first + float(begin[n]), int(source[n]) - first + float(end[n])) for n, of in enumerate(owners) if of == (group.index(k),)]
    runs: list[list[float]] = []
    for a, b in sorted(mine):
        if runs and abs(a - runs[-1][1]) < 1e-9:
            runs[-1][1] = b
        else:
            runs.append([a, b])
    return tuple(part for a, b in runs if (part := piece(contour, a, b)) is not None)


def united(contours: Sequence[Contour]) -> list[Contour]:
    """One outline of closed contours that overlap; what none of them covers stays an opening. Open ones stay as they are."""
    closed = [contour for contour in contours if contour.closed]
    ground = arrangement_of(closed)
    return [*ground.outline_of(k for k, region in enumerate(ground.regions) if region.covered), *(c for c in contours if not c.closed)]
