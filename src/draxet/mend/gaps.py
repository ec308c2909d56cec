"""Gaps between open ends that belong together: found, and closed in the manner that fits."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import scipy

from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.crossings import crossings
from draxet.geometry.pieces import piece
from draxet.mend.flaws import Flaw
from draxet.mend.gap_bridges import (
    CUT,
    NEAR,
    TOGETHER,
    bridged,
    crosses_anew,
    crossings_elsewhere,
    joined_at,
)
from draxet.mend.short_ends import short_ends

__all__ = ["MANNERS", "gaps", "joined_at"]

MANNERS = ("best", "together", "crossing", "arc", "straight")


_BACKWARDS = math.radians(100.0)
"""An end whose partner lies farther off its own direction than that has none there."""

_STRAIGHT_AT = math.radians(3.0)
"""Unless one end points straight at the other, as one does that stops short of a sharp corner."""

_TURNS_BACK = math.radians(175.0)


def gaps(
    contours: Sequence[Contour],
    within: float,
    manner: str = "best",
    without: frozenset[int] = frozenset(),
    overshoot: float = 0.0,
) -> list[Flaw]:
    """Pairs of open ends no farther apart than `within` mm that point at each other, the nearest
    first, each end in one pair at the most; and ends that have no partner and, led on, would meet
    another line within that.

    Parameters
    ----------
    manner : see ``MANNERS``; where it cannot be, the best one. without : numbers of contours that
    are meant to be open.
    overshoot : mm of its own beginning that a contour may lose to be closed where its end, led on,
    meets that.
    """
    which = [k for k, contour in enumerate(contours) if not contour.closed and k not in without]
    if not which:
        return []
    ends = [(k, at_end) for k in which for at_end in (False, True)]
    places = np.array([contours[k].nodes[-1 if at_end else 0] for k, at_end in ends])
    spans, owner = joined_spans([contours[k] for k in which])
    leave, reach = spans.tangents()
    first = np.searchsorted(owner, np.arange(len(which)))
    ways = np.stack([-leave[first], reach[np.append(first[1:], len(spans)) - 1]], axis=1).reshape(
        -1, 2
    )
    lengths = np.add.reduceat(spans.lengths(), first)
    found = []
    for i, j in scipy.spatial.cKDTree(places).query_pairs(within, output_type="ndarray").tolist():
        apart = math.dist(places[i], places[j])
        if ends[i][0] == ends[j][0] and (
            len(contours[ends[i][0]].kinds) < 2 or lengths[i // 2] < 3 * apart
        ):
            continue
        bend = _off(ways[i], -ways[j])
        if apart <= TOGETHER:  # so near, where the partner lies tells nothing
            if apart > NEAR and bend > _TURNS_BACK:
                continue
        else:
            ahead, behind = sorted(
                (_off(ways[i], places[j] - places[i]), _off(ways[j], places[i] - places[j]))
            )
            if behind > _BACKWARDS and (ahead > _STRAIGHT_AT or bend > _TURNS_BACK):
                continue
        found.append((apart * (1 + bend), apart, i, j))
    taken: set[int] = set()
    flaws = []
    for _, apart, i, j in sorted(found):
        if i not in taken and j not in taken:
            taken |= {i, j}
            flaws.append(_gap(contours, ends[i], ends[j], apart, manner))
    return flaws + short_ends(
        contours, within, overshoot, [end for n, end in enumerate(ends) if n not in taken]
    )


def _way(contour: Contour, at_end: bool) -> Points:
    """The direction in which an end points, away from its contour."""
    leave, reach = contour.spans.tangents()
    way: Points = reach[-1] if at_end else -leave[0]
    return way


def _off(one: Points, other: Points) -> float:
    size = float(np.hypot(*one) * np.hypot(*other))
    return math.acos(max(-1.0, min(1.0, float(one @ other) / size))) if size > 0 else 0.0


def _gap(
    contours: Sequence[Contour],
    one: tuple[int, bool],
    other: tuple[int, bool],
    apart: float,
    manner: str,
) -> Flaw:
    start, end = (contours[k].nodes[-1 if at_end else 0] for k, at_end in (one, other))
    middle = (float(start[0] + end[0]) / 2, float(start[1] + end[1]) / 2)

    def bridge() -> tuple[Contour, ...]:
        return (
            Contour.make(
                [start, end if apart > NEAR else start + _way(contours[one[0]], one[1]) * 1e-3],
                closed=False,
            ),
        )

    return Flaw(
        "gap",
        apart,
        middle,
        frozenset((one[0], other[0])),
        lambda: _closed_gap(contours, one, other, apart, manner),
        bridge,
    )


def _closed_gap(
    contours: Sequence[Contour],
    one: tuple[int, bool],
    other: tuple[int, bool],
    apart: float,
    manner: str,
) -> tuple[dict[int, tuple[Contour, ...]], str]:
    same = one[0] == other[0]
    if same:
        first = second = contours[one[0]]
    else:
        first = contours[one[0]] if one[1] else contours[one[0]].reversed()
        second = contours[other[0]].reversed() if other[1] else contours[other[0]]
    into, out = _way(first, True), -_way(second, False)
    before = (first,) if same else (first, second)
    elsewhere = 0 if same else crossings_elsewhere(first, second, apart)
    for wanted in dict.fromkeys((manner, "straight", "together")):
        done, way = bridged(
            first, second, first.nodes[-1], second.nodes[0], into, out, apart, wanted, same=same
        )
        if not crosses_anew(done, before, elsewhere):
            return ({one[0]: (done,)} if same else {one[0]: (done,), other[0]: ()}), way
    if (cut := _cut_at_crossing(first, second, apart, same=same)) is not None and not crosses_anew(
        cut, before, elsewhere
    ):
        return ({one[0]: (cut,)} if same else {one[0]: (cut,), other[0]: ()}), "where they cross"
    return {}, "left, or it would cross itself"


def _cut_at_crossing(
    first: Contour, second: Contour, apart: float, *, same: bool
) -> Contour | None:
    """Both ended where they cross each other, close by their ends, as those do that all but touch
    along an arc; None where they do not."""
    tip = first.spans.take(np.array([len(first.kinds) - 1]))
    head = second.spans.take(np.array([0]))
    met = crossings(tip, head)
    lost = np.maximum((1 - met.t) * tip.lengths()[0], met.u * head.lengths()[0])
    near = np.flatnonzero(lost <= CUT + apart)
    if not near.size or (same and len(first.kinds) < 2):
        return None
    n = near[np.argmin(lost[near])]
    if same:
        left = piece(first, float(met.u[n]), len(first.kinds) - 1 + float(met.t[n]))
        return None if left is None else joined_at(left, left, met.points[n], same=True)
    parts = (
        piece(first, 0.0, len(first.kinds) - 1 + float(met.t[n])),
        piece(second, float(met.u[n]), float(len(second.kinds))),
    )
    return (
        None
        if parts[0] is None or parts[1] is None
        else joined_at(parts[0], parts[1], met.points[n], same=False)
    )
