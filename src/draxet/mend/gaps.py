"""Gaps between open ends that belong together: found, and closed in the manner that fits."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely
from scipy.spatial import cKDTree

from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.crossings import crossings, self_crossings
from draxet.geometry.pieces import piece, place_at, position_near
from draxet.geometry.spans import ARC, CUBIC, LINE
from draxet.mend.ends import closed_up
from draxet.mend.flaws import Flaw
from draxet.mend.trim import extended

__all__ = ["MANNERS", "gaps"]

MANNERS = ("best", "together", "crossing", "arc", "straight")
_NEAR = 1e-9
_BACKWARDS = math.radians(100.0)
"""An end whose partner lies farther off its own direction than that has none there."""
_STRAIGHT_AT = math.radians(3.0)
"""Unless one end points straight at the other, as one does that stops short of a sharp corner."""
_TURNS_BACK = math.radians(175.0)
_TOGETHER = 0.05
"""mm: ends so near are set on one place."""
_EVEN = 0.02
"""Of a length: the tangent arc needs ends that lie as far from their crossing."""
_JOINED = 0.02
"""mm: an end so near to a line lies on it."""
_AT_END = 1e-6
_CUT = 0.5
"""mm that an end may lose to be joined where it crosses its partner."""
_FARTHEST = 3.0
"""A crossing may lie so many gaps ahead of the ends."""


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
    for i, j in cKDTree(places).query_pairs(within, output_type="ndarray").tolist():
        apart = math.dist(places[i], places[j])
        if ends[i][0] == ends[j][0] and (
            len(contours[ends[i][0]].kinds) < 2 or lengths[i // 2] < 3 * apart
        ):
            continue
        bend = _off(ways[i], -ways[j])
        if apart <= _TOGETHER:  # so near, where the partner lies tells nothing
            if apart > _NEAR and bend > _TURNS_BACK:
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
    return flaws + _short_ends(
        contours, within, overshoot, [end for n, end in enumerate(ends) if n not in taken]
    )


def _short_ends(
    contours: Sequence[Contour], within: float, overshoot: float, ends: Sequence[tuple[int, bool]]
) -> list[Flaw]:
    """Ends that stop short of another line by `within` mm at the most, the way they would be led
    on; those that lie on one, or go past one, do not."""
    if not ends:
        return []
    boxes = shapely.STRtree(
        np.array([shapely.box(*contour.box) for contour in contours], dtype=object)
    )
    flaws = []
    for k, at_end in ends:
        run = contours[k] if at_end else contours[k].reversed()
        x, y = run.nodes[-1].tolist()
        near = boxes.query(shapely.box(x - within, y - within, x + within, y + within)).tolist()
        rest = piece(run, 0.0, len(run.kinds) - 1.0) if len(run.kinds) > 2 else None
        others = [contours[n] for n in near if n != k] + [rest] * (rest is not None)
        if (
            not others
            or _least_distance(others, x, y) <= min(_JOINED, within / 5)
            or _goes_past(run, others, within)
        ):
            continue
        made = extended(contours[k], others, at_end=at_end)
        if made is None or (added := made.length - contours[k].length) > within:
            continue
        there = made.nodes[-1 if at_end else 0]
        if _at_an_end(others, there):
            continue  # the two ends are a pair
        if _least_distance([other for other in others if other is not rest], *there) > _AT_END:
            made = _closed_on_itself(made if at_end else made.reversed(), rest, there, overshoot)
        if made is not None:
            flaws.append(_short_end(k, (x, y), there, made, added=added))
    return flaws


def _least_distance(contours: Sequence[Contour], x: float, y: float) -> float:
    """How far a place lies from the nearest of contours; infinite where there is none."""
    return min(
        (math.dist(place_at(each, position_near(each, x, y)), (x, y)) for each in contours),
        default=math.inf,
    )


def _at_an_end(contours: Sequence[Contour], place: Points) -> bool:
    """Whether a place is an end of an open one of contours."""
    return any(
        math.dist(place, node) <= _AT_END
        for each in contours
        if not each.closed
        for node in (each.nodes[0], each.nodes[-1])
    )


def _goes_past(run: Contour, others: Sequence[Contour], within: float) -> bool:
    """Whether a contour crosses others not farther than `within` before its end."""
    along = np.cumsum(run.spans.lengths()[::-1])
    last = int(np.searchsorted(along, within)) + 1
    tip = run.spans.take(np.arange(max(len(run.kinds) - last, 0), len(run.kinds)))
    met = crossings(tip, joined_spans(others)[0])
    if not len(met.first):
        return False
    past = along[len(tip) - 1 - met.first] - met.t * tip.lengths()[met.first]
    return bool((past <= within).any())


def _closed_on_itself(
    run: Contour, rest: Contour | None, there: Points, overshoot: float
) -> Contour | None:
    """A contour whose end was led on to its own beginning, closed there; None where more than an
    overshoot lies before that."""
    if rest is None:
        return None
    at = position_near(rest, *there)
    before = piece(run, 0.0, at)
    left = piece(run, at, float(len(run.kinds)))
    if left is None or (before is not None and before.length > overshoot):
        return None
    closed = _joined_at(left, left, there, same=True)
    return None if _crosses_anew(closed, (run,)) else closed


def _short_end(
    k: int, end: tuple[float, float], there: Points, made: Contour, *, added: float
) -> Flaw:
    middle = (float(end[0] + there[0]) / 2, float(end[1] + there[1]) / 2)
    return Flaw(
        "gap",
        added,
        middle,
        frozenset({k}),
        lambda: ({k: (made,)}, "led on to the line"),
        lambda: (Contour.make([end, there], closed=False),),
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
                [start, end if apart > _NEAR else start + _way(contours[one[0]], one[1]) * 1e-3],
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
    elsewhere = 0 if same else _crossings_elsewhere(first, second, apart)
    for wanted in dict.fromkeys((manner, "straight", "together")):
        done, way = _bridged(
            first, second, first.nodes[-1], second.nodes[0], into, out, apart, wanted, same=same
        )
        if not _crosses_anew(done, before, elsewhere):
            return ({one[0]: (done,)} if same else {one[0]: (done,), other[0]: ()}), way
    if (cut := _cut_at_crossing(first, second, apart, same=same)) is not None and not _crosses_anew(
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
    near = np.flatnonzero(lost <= _CUT + apart)
    if not near.size or (same and len(first.kinds) < 2):
        return None
    n = near[np.argmin(lost[near])]
    if same:
        left = piece(first, float(met.u[n]), len(first.kinds) - 1 + float(met.t[n]))
        return None if left is None else _joined_at(left, left, met.points[n], same=True)
    parts = (
        piece(first, 0.0, len(first.kinds) - 1 + float(met.t[n])),
        piece(second, float(met.u[n]), float(len(second.kinds))),
    )
    return (
        None
        if parts[0] is None or parts[1] is None
        else _joined_at(parts[0], parts[1], met.points[n], same=False)
    )


def _joined_at(first: Contour, second: Contour, place: Points, *, same: bool) -> Contour:
    return _strung(_ended(first, place), _begun(second, place), None, same=same)


def _crosses_anew(made: Contour, before: Sequence[Contour], elsewhere: int = 0) -> bool:
    """Whether a contour crosses itself more often than what it is made of, which may meet
    `elsewhere` so many times."""
    count = len(self_crossings(made.spans))
    return count > elsewhere and count > elsewhere + sum(
        len(self_crossings(contour.spans)) for contour in before
    )


def _crossings_elsewhere(first: Contour, second: Contour, apart: float) -> int:
    """How often two contours cross each other, but for where they are joined: at their other ends,
    mostly, where they are not joined yet."""
    points = crossings(first.spans, second.spans).points
    return (
        int((np.hypot(*(points - (first.nodes[-1] + second.nodes[0]) / 2).T) > _CUT + apart).sum())
        if len(points)
        else 0
    )


def _bridged(
    first: Contour,
    second: Contour,
    start: Points,
    end: Points,
    into: Points,
    out: Points,
    apart: float,
    manner: str,
    *,
    same: bool,
) -> tuple[Contour, str]:
    """Both as one contour, or the one closed, and how."""
    tip = _crossing(start, into, end, out, apart)
    straight_ends = first.kinds[-1] == LINE and second.kinds[0] == LINE
    wanted = manner
    if manner == "best":
        wanted = (
            "together"
            if apart <= _TOGETHER
            else "crossing"
            if tip is not None and straight_ends
            else "arc"
            if tip is not None
            else "straight"
        )
    if wanted == "crossing" and tip is not None and straight_ends:
        return _strung(_ended(first, tip), _begun(second, tip), None, same=same), "led on"
    if (
        wanted == "arc"
        and tip is not None
        and abs(math.dist(start, tip) - math.dist(end, tip)) <= _EVEN * math.dist(start, tip)
    ):
        turn = math.atan2(float(into[0] * out[1] - into[1] * out[0]), float(into @ out))
        return _strung(first, second, math.tan(turn / 4), same=same), "tangent arc"
    if wanted == "together":
        middle = (start + end) / 2
        return _strung(_ended(first, middle), _begun(second, middle), None, same=same), "together"
    return _strung(first, second, 0.0, same=same), "straight"


def _crossing(start: Points, into: Points, end: Points, out: Points, apart: float) -> Points | None:
    """Where two ends would meet if they went straight on; None where that lies behind one of them
    or far off."""
    across = float(into[0] * out[1] - into[1] * out[0])
    if abs(across) < 0.05:
        return None
    d = end - start
    t, u = (
        float(d[0] * out[1] - d[1] * out[0]) / across,
        float(d[0] * into[1] - d[1] * into[0]) / across,
    )
    most = _FARTHEST * max(apart, 1e-6)
    return start + t * into if -_NEAR <= t <= most and -most <= u <= _NEAR else None


def _ended(contour: Contour, place: Points) -> Contour:
    """An open contour whose last node lies elsewhere; a handle there goes along."""
    nodes, handles = contour.nodes.copy(), contour.handles.copy()
    if contour.kinds[-1] == CUBIC:
        handles[-1, 1] += place - nodes[-1]
    nodes[-1] = place
    return Contour.make(nodes, contour.kinds, contour.bulges, handles, closed=False)


def _begun(contour: Contour, place: Points) -> Contour:
    return _ended(contour.reversed(), place).reversed()


def _strung(first: Contour, second: Contour, bulge: float | None, *, same: bool) -> Contour:
    """One contour of two, with a span between them (None where they meet); of one and the same a
    closed one."""
    if same:
        if bulge is None:  # what was done to the end and to the beginning, together
            nodes, handles = first.nodes.copy(), first.handles.copy()
            handles[0, 0] += (second.nodes[0] - nodes[0]) * (second.kinds[0] == CUBIC)
            nodes[0] = second.nodes[0]
            return closed_up(Contour.make(nodes, first.kinds, first.bulges, handles, closed=False))
        kinds, bulges = (
            np.append(first.kinds, ARC if bulge else LINE),
            np.append(first.bulges, bulge),
        )
        return Contour.make(
            first.nodes, kinds, bulges, np.concatenate([first.handles, np.zeros((1, 2, 2))])
        )
    gap = [] if bulge is None else [bulge]
    kinds = np.concatenate(
        [
            first.kinds,
            np.array([ARC if b else LINE for b in gap], dtype=first.kinds.dtype),
            second.kinds,
        ]
    )
    nodes = np.vstack([first.nodes, second.nodes if gap else second.nodes[1:]])
    bulges = np.concatenate([first.bulges, np.array(gap), second.bulges])
    made = Contour.make(
        nodes,
        kinds,
        bulges,
        np.concatenate([first.handles, np.zeros((len(gap), 2, 2)), second.handles]),
        closed=False,
    )
    return closed_up(made) if math.dist(made.nodes[0], made.nodes[-1]) <= 1e-6 else made
