"""Two ends made one: together, led on to where they cross, by an arc or straight."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.geometry.crossings import crossings, self_crossings
from draxet.geometry.pieces import closed_up
from draxet.geometry.spans import ARC, CUBIC, LINE

__all__ = [
    "CUT",
    "NEAR",
    "TOGETHER",
    "begun",
    "bridged",
    "crosses_anew",
    "crossings_elsewhere",
    "ended",
    "joined_at",
    "strung",
]

_EVEN = 0.02
"""Of a length: the tangent arc needs ends that lie as far from their crossing."""

_FARTHEST = 3.0
"""A crossing may lie so many gaps ahead of the ends."""

NEAR, TOGETHER = 1e-9, 0.05
"""mm: ends so near are one place, or are set on one."""

CUT = 0.5
"""mm that an end may lose to be joined where it crosses its partner."""


def joined_at(first: Contour, second: Contour, place: Points, *, same: bool) -> Contour:
    return strung(ended(first, place), begun(second, place), None, same=same)


def crosses_anew(made: Contour, before: Sequence[Contour], elsewhere: int = 0) -> bool:
    """Whether a contour crosses itself more often than what it is made of, which may meet
    `elsewhere` so many times."""
    count = len(self_crossings(made.spans))
    return count > elsewhere and count > elsewhere + sum(
        len(self_crossings(contour.spans)) for contour in before
    )


def crossings_elsewhere(first: Contour, second: Contour, apart: float) -> int:
    """How often two contours cross each other, but for where they are joined: at their other ends,
    mostly, where they are not joined yet."""
    points = crossings(first.spans, second.spans).points
    return (
        int((np.hypot(*(points - (first.nodes[-1] + second.nodes[0]) / 2).T) > CUT + apart).sum())
        if len(points)
        else 0
    )


def bridged(
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
            if apart <= TOGETHER
            else "crossing"
            if tip is not None and straight_ends
            else "arc"
            if tip is not None
            else "straight"
        )
    if wanted == "crossing" and tip is not None and straight_ends:
        return strung(ended(first, tip), begun(second, tip), None, same=same), "led on"
    if (
        wanted == "arc"
        and tip is not None
        and abs(math.dist(start, tip) - math.dist(end, tip)) <= _EVEN * math.dist(start, tip)
    ):
        turn = math.atan2(float(into[0] * out[1] - into[1] * out[0]), float(into @ out))
        return strung(first, second, math.tan(turn / 4), same=same), "tangent arc"
    if wanted == "together":
        middle = (start + end) / 2
        return strung(ended(first, middle), begun(second, middle), None, same=same), "together"
    return strung(first, second, 0.0, same=same), "straight"


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
    return start + t * into if -NEAR <= t <= most and -most <= u <= NEAR else None


def ended(contour: Contour, place: Points) -> Contour:
    """An open contour whose last node lies elsewhere; a handle there goes along."""
    nodes, handles = contour.nodes.copy(), contour.handles.copy()
    if contour.kinds[-1] == CUBIC:
        handles[-1, 1] += place - nodes[-1]
    nodes[-1] = place
    return Contour.make(nodes, contour.kinds, contour.bulges, handles, closed=False)


def begun(contour: Contour, place: Points) -> Contour:
    return ended(contour.reversed(), place).reversed()


def strung(first: Contour, second: Contour, bulge: float | None, *, same: bool) -> Contour:
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
