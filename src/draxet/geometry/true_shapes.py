"""True shapes: lines that are square to each other but for noise become exactly so, and radii that
are equal but for noise equal.

Nothing moves farther than it is allowed to, and what moved is told.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from draxet.geometry.arrays import Floats, Points
from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, LINE
from draxet.record import record

__all__ = ["Trued", "true_shapes"]

_LEAST_LINES = 3
_LEAST_LENGTH = 10.0
_WIDEST = math.radians(0.8)
_MOST_SPANS = 400


@record(frozen=True)
class Trued:
    """`contours` in their order; how many lines were made square and radii made equal; how far
    anything `moved` at the most."""

    contours: tuple[Contour, ...]
    squared: int
    equal: int
    moved: float

    @property
    def words(self) -> str:
        """What was done, for people; empty where nothing was."""
        parts = [f"{self.squared} lines made square"] * bool(self.squared) + [
            f"{self.equal} radii made equal"
        ] * bool(self.equal)
        return " · ".join(parts)


def true_shapes(contours: Sequence[Contour], most: float) -> Trued:
    """Contours with square lines and equal radii where they are so within `most`, the farthest that
    anything may move.

    Only lines that are long against `most`, and only where at least three of a contour agree on a
    direction; radii of whole circles and of roundings between two lines.
    """
    radii = _equal_radii(contours, most)
    out: list[Contour] = []
    squared = equal = 0
    moved = 0.0
    for k, contour in enumerate(contours):
        new, lines, arcs, away = _trued(contour, radii.get(k, {}), most)
        out.append(new)
        squared, equal, moved = squared + lines, equal + arcs, max(moved, away)
    return Trued(tuple(out), squared, equal, moved)


def _roundings(contour: Contour) -> list[int]:
    """Arcs between two lines that they run into smoothly."""
    kinds, count = contour.kinds, len(contour.kinds)
    if not contour.closed or count < 4:
        return []
    corner = contour.corners()
    return [
        k
        for k in range(count)
        if kinds[k] == ARC
        and kinds[k - 1] == LINE
        and kinds[(k + 1) % count] == LINE
        and not corner[k]
        and not corner[(k + 1) % count]
    ]


def _equal_radii(contours: Sequence[Contour], most: float) -> dict[int, dict[int, float]]:
    """For each contour the radius that some of its spans share with others (span -1 stands for a
    whole circle)."""
    found: list[tuple[float, int, int, float]] = []
    for k, contour in enumerate(contours):
        circle = contour.circle_shape
        if circle:
            found.append((circle[2], k, -1, 1.0))
        elif len(contour.kinds) <= _MOST_SPANS:
            shapes = contour.spans.arc_shapes()
            found += [
                (float(shapes.radii[n]), k, n, abs(float(shapes.sweep[n])))
                for n in _roundings(contour)
            ]
    found.sort()
    shared: dict[int, dict[int, float]] = {}
    begin = 0
    for n in range(1, len(found) + 1):
        if n < len(found) and found[n][0] - found[begin][0] <= min(most, 0.04 * found[begin][0]):
            continue
        group = found[begin:n]
        if len(group) > 1:
            mean = sum(r * w for r, _, _, w in group) / sum(w for _, _, _, w in group)
            for _, k, span, _ in group:
                shared.setdefault(k, {})[span] = mean
        begin = n
    return shared


def _trued(
    contour: Contour, radii: dict[int, float], most: float
) -> tuple[Contour, int, int, float]:
    circle = contour.circle_shape
    if circle:
        radius = radii.get(-1)
        if radius is None or abs(radius - circle[2]) > most:
            return contour, 0, 0, 0.0
        exact = Contour.circle(circle[0], circle[1], radius)
        return (exact if contour.area > 0 else exact.reversed()), 0, 1, abs(radius - circle[2])
    directions = _square_directions(contour, most)
    if not (directions or radii) or len(contour.kinds) > _MOST_SPANS or not contour.closed:
        return contour, 0, 0, 0.0
    new = _rebuilt(contour, directions, radii)
    away = float(np.hypot(*(new.nodes - contour.nodes).T).max()) if new is not None else math.inf
    if new is None or away > 2 * most:
        return contour, 0, 0, 0.0
    return new, len(directions), len(radii), away


def _square_directions(contour: Contour, most: float) -> dict[int, Points]:
    """New unit directions of the lines that are to be square to each other."""
    lines = np.flatnonzero(contour.kinds == LINE)
    if len(lines) < _LEAST_LINES or not contour.closed:
        return {}
    steps = contour.spans.ends[lines] - contour.spans.starts[lines]
    lengths = np.hypot(steps[:, 0], steps[:, 1])
    angles = np.arctan2(steps[:, 1], steps[:, 0])
    best = _common_direction(angles, lengths)
    if best is None:
        return {}
    off = (angles - best + math.pi / 4) % (math.pi / 2) - math.pi / 4
    near = (np.abs(off) <= np.minimum(_WIDEST, 2 * most / np.maximum(lengths, 1e-9))) & (
        lengths >= max(_LEAST_LENGTH * most, 1e-9)
    )
    if near.sum() < _LEAST_LINES:
        return {}
    exact = angles - off
    return {
        int(k): np.array([math.cos(a), math.sin(a)])
        for k, a, good in zip(lines.tolist(), exact.tolist(), near.tolist(), strict=True)
        if good
    }


def _common_direction(angles: Floats, lengths: Floats) -> float | None:
    """The direction (mod a right angle) that most of the lines' length agrees on."""
    best, held = None, 0.0
    for angle in angles[np.argsort(-lengths)[:6]].tolist():
        off = (angles - angle + math.pi / 4) % (math.pi / 2) - math.pi / 4
        near = np.abs(off) <= _WIDEST
        weight = float(lengths[near].sum())
        if weight > held:
            held, best = (
                weight,
                angle + float((off[near] * lengths[near] ** 3).sum() / (lengths[near] ** 3).sum()),
            )
    return best


def _rebuilt(
    contour: Contour, directions: dict[int, Points], radii: dict[int, float]
) -> Contour | None:
    """The contour with those directions and radii; None where its parts do not meet any more."""
    spans, count = contour.spans, len(contour.kinds)
    nodes, bulges = contour.nodes.copy(), contour.bulges.copy()
    middles = (spans.starts + spans.ends) / 2
    steps = spans.ends - spans.starts
    ways = steps / np.maximum(np.hypot(steps[:, 0], steps[:, 1]), 1e-12)[:, None]
    for k, way in directions.items():
        ways[k] = way
    line = contour.kinds == LINE
    rounded = set(_roundings(contour))
    shapes = spans.arc_shapes()
    for k in range(count):
        before = (k - 1) % count
        if line[k] and line[before]:
            corner = _meeting(middles[before], ways[before], middles[k], ways[k])
            if corner is None:
                return None
            nodes[k] = corner
        elif line[k] and before not in rounded:
            nodes[k] = middles[k] + ((nodes[k] - middles[k]) @ ways[k]) * ways[k]
        elif line[before] and k not in rounded:
            nodes[k] = (
                middles[before] + ((nodes[k] - middles[before]) @ ways[before]) * ways[before]
            )
    for k in rounded:
        before, after = (k - 1) % count, (k + 1) % count
        corner = _meeting(middles[before], ways[before], middles[after], ways[after])
        if corner is None:
            continue
        u, v = ways[before], ways[after]
        turn = math.atan2(float(u[0] * v[1] - u[1] * v[0]), float(u @ v))
        cut = radii.get(k, float(shapes.radii[k])) * abs(math.tan(turn / 2))
        nodes[k], nodes[after] = corner - cut * u, corner + cut * v
        bulges[k] = math.tan(turn / 4)
    return Contour.make(nodes, contour.kinds, bulges, contour.handles)


def _meeting(p: Points, u: Points, q: Points, v: Points) -> Points | None:
    cross = float(u[0] * v[1] - u[1] * v[0])
    if abs(cross) < 0.02:
        return None
    t = float((q - p)[0] * v[1] - (q - p)[1] * v[0]) / cross
    return np.asarray(p + t * u)
