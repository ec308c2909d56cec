"""Small constructions: equal division, tangents, the line by which a shape is symmetrical."""

from __future__ import annotations

import math

import numpy as np
import scipy

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Floats, Points
from draxet.geometry.contour import Contour
from draxet.geometry.spans import Spans

__all__ = [
    "circle_at",
    "common_tangents",
    "divided_span",
    "evenly_between",
    "mirror_line",
    "mirrored_by",
]

Place = tuple[float, float]
Circle = tuple[float, float, float]
_SAMPLES = 1200
_COARSE = 1.5
"""Degrees between the angles that are tried first."""
_EVERY_COARSE, _EVERY_FINE = 12, 4
_STEPS = 4000


def evenly_between(a: Place, b: Place, parts: int) -> list[Place]:
    """The places that part the way between two places evenly: one fewer than there are parts."""
    return [
        (a[0] + (b[0] - a[0]) * k / parts, a[1] + (b[1] - a[1]) * k / parts)
        for k in range(1, parts)
    ]


def divided_span(spans: Spans, index: int, parts: int) -> Points:
    """The places (parts - 1, 2) that part a span into pieces of the same length."""
    t = np.linspace(0.0, 1.0, _STEPS + 1)
    points = spans.at(np.full(len(t), index), t)
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    wanted = along[-1] * np.arange(1, parts) / parts
    return spans.at(np.full(parts - 1, index), np.interp(wanted, along, t))


def circle_at(spans: Spans, index: int) -> Circle | None:
    """Centre and radius of the circle on which a span lies; None where it is no arc."""
    if not spans.bulges[index]:
        return None
    shape = spans.take(np.array([index])).arc_shapes()
    return float(shape.centres[0, 0]), float(shape.centres[0, 1]), float(shape.radii[0])


def common_tangents(one: Circle, other: Circle) -> list[tuple[Place, Place]]:
    """The lines that touch two circles, each by the places where it touches them, the outer ones
    first; a circle of radius 0 is a point. None where one circle lies within the other.

    The line with the unit normal n and the offset c (n · p = c) is sought with n · a - c = ± r for
    each circle.
    """
    dx, dy = other[0] - one[0], other[1] - one[1]
    apart = math.hypot(dx, dy)
    found: list[tuple[Place, Place]] = []
    for sign in (1.0, -1.0):
        lean = (one[2] - sign * other[2]) / apart if apart > 0 else math.inf
        if abs(lean) > 1 + 1e-12:
            continue
        for side in (1.0, -1.0):
            angle = math.atan2(dy, dx) + side * math.acos(max(-1.0, min(1.0, lean)))
            nx, ny = math.cos(angle), math.sin(angle)
            line = (
                (one[0] + one[2] * nx, one[1] + one[2] * ny),
                (other[0] + sign * other[2] * nx, other[1] + sign * other[2] * ny),
            )
            if all(
                math.dist(line[0], known[0]) + math.dist(line[1], known[1]) > 1e-9 * max(apart, 1.0)
                for known in found
            ):
                found.append(line)
    return found


def mirror_line(contour: Contour, within: float) -> tuple[float, float, float] | None:
    """A place on the line by which a contour is symmetrical within a tolerance, and the line's
    angle in radians; the line by which it is best so. None where there is none.

    Any such line goes through the centroid; angles are tried one after the other and the best made
    exact by halving steps.
    """
    points = _sampled(contour)
    middle = points.mean(axis=0)
    tree = scipy.spatial.cKDTree(points)
    spacing = contour.length / max(len(points), 1)

    def off(angles: Floats, every: int) -> Floats:
        """How far points mirrored by each angle lie off, but for the worst twentieth."""
        x, y = (points[::every] - middle).T
        cos, sin = np.cos(2 * angles)[:, None], np.sin(2 * angles)[:, None]
        mirrored = np.stack([cos * x + sin * y, sin * x - cos * y], axis=2) + middle
        distance, _ = tree.query(mirrored.reshape(-1, 2))
        return np.asarray(np.quantile(distance.reshape(len(angles), -1), 0.95, axis=1))

    angles = np.radians(np.arange(0.0, 180.0, _COARSE))
    coarse = off(angles, _EVERY_COARSE)
    best = float(angles[int(np.argmin(coarse))])
    reach = float(np.hypot(*(points - middle).T).max())
    if coarse.min() > within + spacing + 2 * reach * math.radians(_COARSE):
        return None
    step, least = math.radians(_COARSE / 2), float(off(np.array([best]), _EVERY_FINE)[0])
    while step > 1e-7:
        sides = off(np.array([best - step, best + step]), _EVERY_FINE)
        k = int(np.argmin(sides))
        if sides[k] < least:
            best, least = best + (step if k else -step), float(sides[k])
        step /= 2
    return (
        (float(middle[0]), float(middle[1]), best)
        if off(np.array([best]), 1)[0] <= within + spacing
        else None
    )


def mirrored_by(x: float, y: float, angle: float) -> Affine:
    """The map that mirrors across a line through a place at an angle in radians."""
    turn = Affine.turned(math.degrees(angle))
    return turn.inverse().then(Affine.scaled(1.0, -1.0)).then(turn).about(x, y)


def _sampled(contour: Contour) -> Points:
    """Places on a contour, evenly along it."""
    fine = contour.flattened(max(contour.length * 1e-5, 1e-6))
    line = np.vstack([fine, fine[:1]]) if contour.closed else fine
    along: Floats = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    at = np.linspace(0.0, along[-1], _SAMPLES, endpoint=not contour.closed)
    return np.column_stack([np.interp(at, along, line[:, 0]), np.interp(at, along, line[:, 1])])
