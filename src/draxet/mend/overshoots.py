"""Overshoots: ends that go past a crossing, and what each would be mended to."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np
import scipy
import shapely

from draxet.geometry.arrays import Floats, Ints, Points
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.crossings import crossings_of, parts_of
from draxet.geometry.pieces import piece, place_at, position_near
from draxet.geometry.spans import Spans
from draxet.mend.flaws import Flaw
from draxet.mend.scraps import LEAST, ON

__all__ = ["overshoots"]

_NO_LENGTH = 1e-5
"""mm: what is shorter goes past nothing."""


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
    nearest = _nearest_crossings(contours, tips, (spans, owner), within, ignored)
    found = []
    for k in dict.fromkeys(k for k, _ in nearest):
        flaw = _overshoot(k, contours[k], nearest.get((k, False)), nearest.get((k, True)), within)
        if flaw is not None:
            found.append(flaw)
    return found


def _nearest_crossings(
    contours: Sequence[Contour],
    tips: Sequence[tuple[int, bool]],
    joined_with_owner: tuple[Spans, Ints],
    within: float,
    ignored: frozenset[int],
) -> dict[tuple[int, bool], float]:
    """Ends that are not joined to where along their contours the crossing nearest to each is."""
    at_tips, joined = _ends_on_tips(contours, tips, within, ignored)
    nearest: dict[tuple[int, bool], float] = {}
    for n, at in [*_met_by_tips(contours, tips, joined_with_owner, within, ignored), *at_tips]:
        k, at_end = tips[n]
        count = float(len(contours[k].kinds))
        if not LEAST < at < count - LEAST:
            if (at > 1) == at_end:
                joined.add((k, at_end))
            continue
        known = nearest.get((k, at_end))
        nearest[k, at_end] = at if known is None else (max if at_end else min)(known, at)
    return {end: at for end, at in nearest.items() if end not in joined}  # what is joined is meant


def _met_by_tips(
    contours: Sequence[Contour],
    tips: Sequence[tuple[int, bool]],
    joined_with_owner: tuple[Spans, Ints],
    within: float,
    ignored: frozenset[int],
) -> Iterator[tuple[int, float]]:
    """Where the last stretches before ends cross anything: the tip's number, and the place along
    its contour."""
    spans, owner = joined_with_owner
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
    yield from zip(tip.tolist(), position.tolist(), strict=True)


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
    tree = scipy.spatial.cKDTree(np.array([place for _, place in ends]))
    found, joined = [], set()
    for number, (k, at_end) in enumerate(tips):
        tip = contours[k].nodes[-1 if at_end else 0]
        near = [
            (n, place)
            for n, place in (ends[e] for e in tree.query_ball_point(tip, within + ON))
            if n != k or (len(contours[k].kinds) > 2 and math.dist(place, tip) > 0)
        ]
        if any(math.dist(place, tip) <= ON for _, place in near):
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
            if math.dist(place_at(some, at), (x, y)) <= ON:
                found.append((number, at + first))
    return found, joined


def _lies_on(place: Points, contour: Contour) -> bool:
    x, y = place.tolist()
    return math.dist(place_at(contour, position_near(contour, x, y)), (x, y)) <= ON


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
        head_at is not None and tail_at is not None and head_at >= tail_at - LEAST
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
