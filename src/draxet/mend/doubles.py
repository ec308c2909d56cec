"""Lines drawn twice, whole or for a stretch, and contours that unite those that lie on each other."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from functools import partial
from typing import Any

import numpy as np
import scipy
import shapely

from draxet.geometry.arrangement import Arrangement, arrangement_of
from draxet.geometry.arrays import Ints, NDArray, Points
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.pieces import piece
from draxet.geometry.spans import Spans
from draxet.mend.flaws import Flaw
from draxet.mend.scraps import LEAST, goes_away, itself

__all__ = ["doubles", "united"]

_FINER = 5
"""Lines are flattened so many times as finely as they may lie apart."""


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
    one, other = _near_pairs(points, sizes, lines, place, within)
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
                    partial(goes_away, k, "one goes"),
                    partial(itself, contours[k]),
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


def _near_pairs(
    points: Points, sizes: Ints, lines: NDArray[Any], place: Ints, within: float
) -> tuple[Ints, Ints]:
    """Numbers of the contours a few places of which lie on another one that is earlier in its
    `place`, and of that."""
    begins = np.cumsum(sizes) - sizes
    one, other = shapely.STRtree(lines).query(
        shapely.points(points[begins]), predicate="dwithin", distance=within
    )
    keep = (one != other) & (place[other] < place[one])
    one, other = one[keep], other[keep]
    for share in (0.5, 0.25, 0.8, 0.1):  # cheap looks first
        probes = shapely.points(points[begins[one] + (share * (sizes[one] - 1)).astype(np.int64)])
        near = shapely.distance(probes, lines[other]) <= within
        one, other = one[near], other[near]
    return one, other


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
            scipy.spatial.cKDTree(middles[curved])
            .query_pairs(max(within, LEAST), output_type="ndarray")
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
