"""What contours nearly are: level, square, tangent, round, symmetrical, like each other."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence

import numpy as np

from draxet.geometry.arrays import Points
from draxet.geometry.constructions import mirror_line
from draxet.geometry.spans import ARC
from draxet.job.contour_records import ContourItem
from draxet.mend.forms import fitted_form
from draxet.mend.truth_record import Truth
from draxet.mend.truth_shapes import mirror_mean, off_from, place, turned_lines, ways_of

__all__ = ["truths_between", "truths_of_one", "ways_of"]

_WIDEST = math.radians(6.0)

_EXACT = 1e-7
"""mm, or radians: what differs by less is so already."""

_MOST_SPANS = 400

_MOST_PAIRED = 30

_BUCKETS = 7
"""Lines whose lengths differ little are as long: which one the others are told against does not
change with every small move."""


def truths_of_one(item: ContourItem, most: float) -> Iterator[Truth]:
    contour = item.contour
    if len(contour.kinds) <= _MOST_SPANS:
        yield from _lines(item)
        yield from _tangents(item)
    if item.ellipse is None and contour.circle_shape is None and contour.closed:
        yield from _round(item, most)
    if len(contour.nodes) > 2 and len(contour.kinds) <= _MOST_SPANS:
        yield from _symmetrical(item, most)


def _lines(item: ContourItem) -> Iterator[Truth]:
    ways = ways_of(item.contour)
    leaning = {}
    for k, (middle, length, angle) in ways.items():
        level, upright = off_from(angle, 0.0, math.pi), off_from(angle, math.pi / 2, math.pi)
        off, kind = (level, "level") if abs(level) < abs(upright) else (upright, "upright")
        if abs(off) <= _WIDEST and length > 0:
            leaning[k] = abs(off) <= _EXACT
            if abs(off) > _EXACT:
                yield _turning(item, kind, (k,), {k: -off}, middle)
    longest = sorted(
        (k for k in ways if k not in leaning),
        key=lambda k: (-round(_BUCKETS * math.log(max(ways[k][1], 1e-9))), k),
    )[:_MOST_PAIRED]
    leading: list[int] = []
    for b in longest:  # each is told against one longer one, so that what is made true stays so
        offs = [
            (off_from(ways[b][2], ways[a][2] + turn, math.pi), a, kind)
            for a in leading
            for kind, turn in (("parallel", 0.0), ("square", math.pi / 2))
        ]
        off, a, kind = min(offs, key=lambda each: abs(each[0]), default=(math.inf, b, ""))
        if abs(off) > _WIDEST / 2:
            leading.append(b)
        elif abs(off) > _EXACT:
            yield _turning(item, kind, (a, b), {b: -off}, ways[b][0])
    lengths = sorted((length, k) for k, (_, length, _) in ways.items())
    for (shorter, a), (longer, b) in itertools.pairwise(lengths):
        if _EXACT < longer - shorter <= 0.03 * longer:
            yield Truth(
                "equal",
                (item.id,),
                (a, b),
                (longer - shorter) / 4,
                place(ways[b][0]),
                ((longer + shorter) / 2,),
            )


def _turning(
    item: ContourItem, kind: str, spans: tuple[int, ...], turns: dict[int, float], at: Points
) -> Truth:
    made = turned_lines(item.contour, turns)
    return Truth(
        kind,
        (item.id,),
        spans,
        float(np.hypot(*(made.nodes - item.contour.nodes).T).max()),
        place(at),
    )


def _tangents(item: ContourItem) -> Iterator[Truth]:
    """Arcs that nearly go on as the line or curve beside them."""
    contour = item.contour
    leave, reach = contour.spans.tangents()
    count = len(contour.kinds)
    for k in np.flatnonzero((contour.kinds == ARC) & (contour.bulges != 0)).tolist():
        before, after = ((k - 1) % count, (k + 1) % count) if contour.closed else (k - 1, k + 1)
        offs = []
        if 0 <= before < count and before != k:
            offs.append((_turn(reach[before], leave[k]), before))
        if 0 <= after < count and after != k:
            offs.append((_turn(reach[k], leave[after]), after))
        small = [off for off, _ in offs if abs(off) <= _WIDEST]
        if small and max(map(abs, small)) > 1e-5 and len(small) == len(offs) >= 1:
            bulge = math.tan(math.atan(contour.bulges[k]) + sum(small) / len(small) / 2)
            chord = float(np.hypot(*(contour.spans.ends[k] - contour.spans.starts[k])))
            if len(small) == 1 or abs(small[0] - small[1]) < 1e-3:
                yield Truth(
                    "tangent",
                    (item.id,),
                    (k,),
                    abs(bulge - float(contour.bulges[k])) * chord / 2,
                    place(contour.spans.at(np.array([k]), np.array([0.5]))[0]),
                    (bulge,),
                )


def _turn(one: Points, other: Points) -> float:
    return math.atan2(float(one[0] * other[1] - one[1] * other[0]), float(one @ other))


def _round(item: ContourItem, most: float) -> Iterator[Truth]:
    for kind, form in (("round", "circle"), ("oval", "ellipse")):
        found = fitted_form(item.contour, form)
        if found is not None and found.off <= most:
            x0, y0, x1, y1 = item.contour.box
            yield Truth(kind, (item.id,), (), found.off, ((x0 + x1) / 2, (y0 + y1) / 2))
            return


def _symmetrical(item: ContourItem, most: float) -> Iterator[Truth]:
    contour = item.contour
    line = (
        mirror_line(contour, most)
        if contour.circle_shape is None and item.ellipse is None
        else None
    )
    made = mirror_mean(contour, line) if line else None
    if line and made is not None:
        moves = float(np.hypot(*(made.nodes - contour.nodes).T).max())
        if moves > 1e-6:
            yield Truth("symmetrical", (item.id,), (), moves, line[:2], line)


def truths_between(items: Sequence[ContourItem], most: float) -> Iterator[Truth]:
    """Equal radii and common centres of whole circles."""
    circles = [
        (item, circle) for item in items if (circle := item.contour.circle_shape) is not None
    ]
    by_radius = sorted(circles, key=lambda each: each[1][2])
    for run in _runs(by_radius, lambda a, b: b[1][2] - a[1][2] <= min(most, 0.05 * b[1][2])):
        radii = [circle[2] for _, circle in run]
        if np.ptp(radii) > _EXACT:
            mean = float(np.mean(radii))
            yield Truth(
                "equal",
                tuple(item.id for item, _ in run),
                (),
                max(abs(r - mean) for r in radii),
                run[0][1][:2],
                (mean,),
            )
    left = list(circles)
    while left:
        item, circle = max(left, key=lambda each: each[1][2])
        near = [each for each in left if math.dist(each[1][:2], circle[:2]) <= most]
        left = [each for each in left if each not in near]
        off = max(math.dist(each[1][:2], circle[:2]) for each in near)
        if len(near) > 1 and off > _EXACT:
            yield Truth(
                "concentric", tuple(each[0].id for each in near), (), off, circle[:2], circle[:2]
            )


def _runs(
    each: Sequence[tuple[ContourItem, tuple[float, float, float]]], together: object
) -> Iterator[list[tuple[ContourItem, tuple[float, float, float]]]]:
    run: list[tuple[ContourItem, tuple[float, float, float]]] = []
    for one in each:
        if run and not together(run[0], one):  # type: ignore[operator]
            if len(run) > 1:
                yield run
            run = []
        run.append(one)
    if len(run) > 1:
        yield run
