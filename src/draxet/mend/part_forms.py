"""A line or an arc in place of a part of a contour, from end to end of it; a whole circle or ellipse
of which a part is seen."""

from __future__ import annotations

import math
from collections.abc import Collection

import numpy as np
import scipy

from draxet.geometry.arrays import Floats, Points
from draxet.geometry.contour import Contour
from draxet.geometry.pieces import piece
from draxet.geometry.spans import ARC, LINE
from draxet.mend.forms import Form, fitted_form, sampled

__all__ = ["fitted_part", "part_between"]

_MOST_BULGE = 20.0
_LEAST_BULGE = 1e-5


def part_between(contour: Contour, nodes: Collection[int]) -> tuple[int, int] | None:
    """The nodes at which the part begins and ends that is meant by some nodes: of a closed contour
    the longest way between two of them is left out. None where these are fewer than two."""
    some = sorted(nodes)
    if len(some) < 2:
        return None
    if not contour.closed:
        return some[0], some[-1]
    lengths = contour.spans.lengths()
    ways = [
        float(np.take(lengths, range(a, b if b > a else b + len(lengths)), mode="wrap").sum())
        for a, b in zip(some, [*some[1:], some[0]], strict=True)
    ]
    last = int(np.argmax(ways))
    return some[(last + 1) % len(some)], some[last]


def fitted_part(contour: Contour, nodes: Collection[int], form: str) -> tuple[Form, bool] | None:
    """The part of a contour between nodes as a ``line`` or an ``arc`` in its place, whose ends stay:
    the whole contour then; or a whole ``circle`` or ``ellipse`` fitted to it, which is another
    contour. And whether it is another one; None where there is none."""
    ends = part_between(contour, nodes)
    part = piece(contour, float(ends[0]), float(ends[1])) if ends else None
    if ends is None or part is None:
        return None
    if form in ("circle", "ellipse"):
        found = fitted_form(part, form)
        return (found, True) if found else None
    points = sampled(part)
    bulge = _bulge_of(points) if form == "arc" else 0.0
    if form == "arc" and abs(bulge) < _LEAST_BULGE:
        return None
    off = float(np.abs(_off(bulge, points)).max())
    return Form(_with_span(contour, *ends, bulge), off), False


def _bulge_of(points: Points) -> float:
    """The arc from the first point to the last that comes nearest to all of them."""
    found = scipy.optimize.minimize_scalar(
        lambda turn: float((_off(math.tan(turn), points) ** 2).sum()),
        bounds=(-math.atan(_MOST_BULGE), math.atan(_MOST_BULGE)),
        method="bounded",
        options={"xatol": 1e-10},
    )
    best = min(
        (found.x, *np.linspace(-1.4, 1.4, 57)),
        key=lambda turn: float((_off(math.tan(turn), points) ** 2).sum()),
    )
    near = scipy.optimize.minimize_scalar(
        lambda turn: float((_off(math.tan(turn), points) ** 2).sum()),
        bounds=(best - 0.06, best + 0.06),
        method="bounded",
        options={"xatol": 1e-12},
    )
    return math.tan(float(near.x))


def _off(bulge: float, points: Points) -> Floats:
    """How far points lie off the arc of a bulge from the first of them to the last."""
    a, b = points[0], points[-1]
    way = b - a
    long = max(float(np.hypot(*way)), 1e-12)
    across = np.array([-way[1], way[0]]) / long
    if abs(bulge) < _LEAST_BULGE:
        return np.asarray((points - a) @ across)
    radius = long * (1 + bulge * bulge) / (4 * bulge)
    middle = (a + b) / 2 + across * (radius - bulge * long / 2)
    return np.asarray(np.hypot(*(points - middle).T) - abs(radius))


def _with_span(contour: Contour, first: int, last: int, bulge: float) -> Contour:
    """A contour with one span between two of its nodes, in place of those that were between."""
    count = len(contour.nodes)
    if contour.closed:
        order = [(last + k) % count for k in range((first - last) % count + 1)]
        spans, at = [*order[:-1], -1], len(order) - 1
    else:
        order = [*range(first + 1), *range(last, count)]
        spans, at = [*range(first), -1, *range(last, count - 1)], first
    kinds, bulges, handles = (
        np.array([of[k] for k in spans]) for of in (contour.kinds, contour.bulges, contour.handles)
    )
    kinds[at], bulges[at], handles[at] = (ARC if bulge else LINE), bulge, 0.0
    return Contour.make(contour.nodes[order], kinds, bulges, handles, closed=contour.closed)
