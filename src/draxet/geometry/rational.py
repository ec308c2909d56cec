"""Spans as rational B-splines, led straight on or round: L. Piegl, W. Tiller, *The NURBS Book*, 2nd
ed. 1997, ch. 7 and 8."""

from __future__ import annotations

import math

import numpy as np

from draxet.geometry.arrays import Floats, Points
from draxet.geometry.exact_solids import FreeSurface, Knots
from draxet.geometry.spans import ARC, CUBIC, Spans
from draxet.record import record

__all__ = ["FreeSpan", "free_span", "led_round", "led_straight"]

_QUARTER = math.pi / 2 + 1e-9


@record(frozen=True, eq=False)
class FreeSpan:
    """`poles` (n, 2) and `weights` (n,) in the plane of a drawing."""

    poles: Points
    weights: Floats
    degree: int
    knots: Knots


def _pieces(sweep: float) -> int:
    return max(math.ceil(abs(sweep) / _QUARTER), 1)


def _halves(count: int) -> Knots:
    """Knots of so many quadratic pieces."""
    inner = tuple((float(k), 2) for k in range(1, count))
    return ((0.0, 3), *inner, (float(count), 3))


def free_span(spans: Spans, k: int) -> FreeSpan:
    """The span `k` of some, exactly."""
    start, end = spans.starts[k], spans.ends[k]
    kind = int(spans.kinds[k])
    if kind == CUBIC:
        poles = np.vstack([start, spans.handles[k], end])
        return FreeSpan(poles, np.ones(4), 3, ((0.0, 4), (1.0, 4)))
    if kind != ARC:
        return FreeSpan(np.vstack([start, end]), np.ones(2), 1, ((0.0, 2), (1.0, 2)))
    shape = spans.take(slice(k, k + 1)).arc_shapes()
    sweep, centre, radius = float(shape.sweep[0]), shape.centres[0], float(shape.radii[0])
    count = _pieces(sweep)
    half = sweep / count / 2
    angles = float(shape.first[0]) + half * np.arange(2 * count + 1)
    far = np.where(np.arange(2 * count + 1) % 2, radius / math.cos(half), radius)
    poles = centre + far[:, None] * np.column_stack([np.cos(angles), np.sin(angles)])
    poles[0], poles[-1] = start, end
    weights = np.where(np.arange(2 * count + 1) % 2, math.cos(half), 1.0)
    return FreeSpan(poles, weights, 2, _halves(count))


def led_straight(span: FreeSpan, here: Floats, there: Floats) -> FreeSurface:
    """From the poles `here` (n, 3) to those `there`."""
    return FreeSurface(
        np.stack([here, there], axis=1),
        np.column_stack([span.weights, span.weights]),
        (span.degree, 1),
        (span.knots, ((0.0, 2), (1.0, 2))),
    )


def led_round(span: FreeSpan, here: Floats, centre: Points, sweep: float) -> FreeSurface:
    """Round an upright axis through `centre` (2,) by so many radians from the poles `here` (n, 3)
    on."""
    count = _pieces(sweep)
    half = sweep / count / 2
    angles = half * np.arange(2 * count + 1)
    between = np.arange(2 * count + 1) % 2 == 1
    longer = np.where(between, 1.0 / math.cos(half), 1.0)
    off = here[:, :2] - centre
    cos, sin = longer * np.cos(angles), longer * np.sin(angles)
    x = off[:, :1] * cos - off[:, 1:] * sin + centre[0]
    y = off[:, :1] * sin + off[:, 1:] * cos + centre[1]
    z = np.broadcast_to(here[:, 2:], x.shape)
    weights = span.weights[:, None] * np.where(between, math.cos(half), 1.0)
    return FreeSurface(
        np.stack([x, y, z], axis=2), weights, (span.degree, 2), (span.knots, _halves(count))
    )
