"""Ends that stop short of another line, and how they are led on."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely

from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.crossings import crossings
from draxet.geometry.pieces import piece, place_at, position_near
from draxet.mend.flaws import Flaw
from draxet.mend.gap_bridges import crosses_anew, joined_at
from draxet.mend.trim import extended

__all__ = ["short_ends"]

_JOINED = 0.02
"""mm: an end so near to a line lies on it."""

_AT_END = 1e-6


def short_ends(
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
    closed = joined_at(left, left, there, same=True)
    return None if crosses_anew(closed, (run,)) else closed


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
