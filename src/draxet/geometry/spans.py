"""Spans: the lines, circular arcs and cubics that contours are made of, many at a time.

A *span* runs from its start to its end. An *arc* is held by its *bulge*: the tangent of a quarter
of its sweep, over 0 where it turns to the left (anticlockwise with y up). A *cubic* is held by two
*handles* (Bézier control points).
"""

from __future__ import annotations

import functools

import numpy as np

from draxet.geometry.arrays import Floats, Ints, Points, columns, crosses, norms, put, ranges, rows
from draxet.record import record

__all__ = ["ARC", "CUBIC", "LINE", "ArcShapes", "Spans", "cubic_lengths"]

LINE, ARC, CUBIC = 0, 1, 2


@functools.cache
def _gauss() -> tuple[Floats, Floats]:
    """Places (-1..1) and weights of Gauss and Legendre's quadrature, good for any length of a cubic
    that people draw."""
    at, weight = np.polynomial.legendre.leggauss(12)
    return at, weight


@record(frozen=True)
class ArcShapes:
    """Circles beneath arcs: `centres` (n, 2), `radii` (n,), `first` angle and signed `sweep` (n,)
    in radians."""

    centres: Points
    radii: Floats
    first: Floats
    sweep: Floats


@record(frozen=True)
class Spans:
    """n spans as arrays: `starts`, `ends` (n, 2); `kinds` (n,) of LINE, ARC, CUBIC; `bulges` (n,);
    `handles` (n, 2, 2).

    Bulges count for arcs only and handles for cubics only; elsewhere they are 0.
    """

    starts: Points
    ends: Points
    kinds: Ints
    bulges: Floats
    handles: Floats

    def __len__(self) -> int:
        return len(self.kinds)

    def take(self, index: Ints | slice) -> Spans:
        if isinstance(index, slice):
            return Spans(
                self.starts[index],
                self.ends[index],
                self.kinds[index],
                self.bulges[index],
                self.handles[index],
            )
        return Spans(
            *(
                rows(values, index)
                for values in (self.starts, self.ends, self.kinds, self.bulges, self.handles)
            )
        )

    def arc_shapes(self) -> ArcShapes:
        """The circle beneath every span, as if each were an arc (bulge 0 gives an infinite
        radius)."""
        chord = self.ends - self.starts
        with np.errstate(divide="ignore", invalid="ignore"):
            lift = (1.0 / self.bulges - self.bulges) / 4.0
            centres = (self.starts + self.ends) / 2 + lift[:, None] * columns(
                -chord[:, 1], chord[:, 0]
            )
            spoke = self.starts - centres
        return ArcShapes(
            centres,
            norms(spoke),
            np.arctan2(spoke[:, 1], spoke[:, 0]),
            4.0 * np.arctan(self.bulges),
        )

    def at(self, index: Ints, t: Floats) -> Points:
        """Points at parameters `t` (m,) in 0..1 along the spans `index` (m,)."""
        start, kind = rows(self.starts, index), rows(self.kinds, index)
        points: Points = start + t[:, None] * (rows(self.ends, index) - start)
        for wanted, along in ((ARC, _along_arcs), (CUBIC, _along_cubics)):
            if (bent := np.flatnonzero(kind == wanted)).size:
                points[bent] = along(self.take(index[bent]), None, t[bent])
        return points

    def steps(self, tolerance: float | Floats) -> Ints:
        """How many straight steps each span (n,) needs to stay within `tolerance`, one for all or
        one for each (n,)."""
        each = np.broadcast_to(tolerance, len(self))
        steps = np.ones(len(self), dtype=np.int64)
        if (arcs := np.flatnonzero(self.kinds == ARC)).size:
            shape = self.take(arcs).arc_shapes()
            widest = 2 * np.arccos(
                np.clip(1 - each[arcs] / np.maximum(shape.radii, each[arcs]), -1, 1)
            )
            steps[arcs] = np.maximum(
                np.ceil(np.abs(shape.sweep) / np.maximum(widest, 1e-6)),
                np.ceil(np.abs(shape.sweep) / 1.0),
            ).clip(1, 4096)
        if (cubics := np.flatnonzero(self.kinds == CUBIC)).size:
            p = np.stack(
                [
                    self.starts[cubics],
                    self.handles[cubics, 0],
                    self.handles[cubics, 1],
                    self.ends[cubics],
                ],
                axis=1,
            )
            away = np.abs(p[:, :-2] - 2 * p[:, 1:-1] + p[:, 2:]).reshape(-1, 4).T
            bend = np.maximum(np.maximum(away[0], away[1]), np.maximum(away[2], away[3])) * np.sqrt(
                2
            )
            steps[cubics] = np.ceil(np.sqrt(0.75 * bend / each[cubics])).clip(1, 4096)
        return steps

    def flattened(self, tolerance: float | Floats) -> tuple[Points, Ints]:
        """Points along all spans, each from its start up to and without its end.

        Returns
        -------
        points : (m, 2)
        counts : (n,) points of each span
        """
        counts = self.steps(tolerance)
        points = np.repeat(self.starts, counts, axis=0)
        for wanted, along in ((ARC, _along_arcs), (CUBIC, _along_cubics)):
            if (bent := np.flatnonzero(self.kinds == wanted)).size:
                step, _ = ranges(np.zeros(len(bent), dtype=np.int64), counts[bent])
                put(
                    points,
                    np.repeat(self.kinds == wanted, counts),
                    along(
                        self.take(bent), counts[bent], step / np.repeat(counts[bent], counts[bent])
                    ),
                )
        points[np.cumsum(counts) - counts] = (
            self.starts
        )  # to the last digit, so that a contour closes exactly
        return points, counts

    def lengths(self) -> Floats:
        """Length along each span (n,)."""
        chord = self.ends - self.starts
        lengths = norms(chord)
        if (arcs := np.flatnonzero((self.kinds == ARC) & (self.bulges != 0))).size:
            shape = self.take(arcs).arc_shapes()
            lengths[arcs] = shape.radii * np.abs(shape.sweep)
        if (cubics := np.flatnonzero(self.kinds == CUBIC)).size:
            lengths[cubics] = cubic_lengths(
                self.starts[cubics], self.handles[cubics], self.ends[cubics]
            )
        return lengths

    def swept_areas(self) -> Floats:
        """Signed area between each span and the origin (n,): summed over a closed contour, its
        area, over 0 anticlockwise."""
        areas = crosses(self.starts, self.ends) / 2
        if (arcs := np.flatnonzero(self.kinds == ARC)).size:
            shape = self.take(arcs).arc_shapes()
            with np.errstate(invalid="ignore"):
                areas[arcs] += np.nan_to_num(
                    shape.radii**2 * (shape.sweep - np.sin(shape.sweep)) / 2
                )
        if (cubics := np.flatnonzero(self.kinds == CUBIC)).size:
            p0, p3, (p1, p2) = (
                self.starts[cubics],
                self.ends[cubics],
                self.handles[cubics].transpose(1, 0, 2),
            )
            areas[cubics] = (
                6 * crosses(p0, p1)
                + 3 * crosses(p0, p2)
                + crosses(p0, p3)
                + 3 * crosses(p1, p2)
                + 3 * crosses(p1, p3)
                + 6 * crosses(p2, p3)
            ) / 20
        return areas

    def boxes(self) -> Floats:
        """Exact extent of each span, (n, 4) of least x, least y, greatest x, greatest y."""
        low, high = np.minimum(self.starts, self.ends), np.maximum(self.starts, self.ends)
        if (arcs := np.flatnonzero(self.kinds == ARC)).size:
            shape = self.take(arcs).arc_shapes()
            for quarter in range(4):
                turn = np.remainder(
                    (quarter * np.pi / 2 - shape.first) * np.sign(shape.sweep), 2 * np.pi
                )
                hit = np.flatnonzero(turn <= np.abs(shape.sweep))
                tip = shape.centres[hit] + shape.radii[hit, None] * np.array(
                    [(1, 0), (0, 1), (-1, 0), (0, -1)][quarter]
                )
                low[arcs[hit]], high[arcs[hit]] = (
                    np.minimum(low[arcs[hit]], tip),
                    np.maximum(high[arcs[hit]], tip),
                )
        if (cubics := np.flatnonzero(self.kinds == CUBIC)).size:
            for tip in self._cubic_tips(cubics):
                low[cubics], high[cubics] = np.fmin(low[cubics], tip), np.fmax(high[cubics], tip)
        return np.hstack([low, high])

    def _cubic_tips(self, cubics: Ints) -> list[Points]:
        """Where x or y turns on each cubic: two candidates, NaN where there is none."""
        p0, p3, (p1, p2) = (
            self.starts[cubics],
            self.ends[cubics],
            self.handles[cubics].transpose(1, 0, 2),
        )
        a, b, c = -p0 + 3 * p1 - 3 * p2 + p3, 2 * (p0 - 2 * p1 + p2), p1 - p0
        with np.errstate(divide="ignore", invalid="ignore"):
            root = np.sqrt(b * b - 4 * a * c)
            q = -(b + np.where(b < 0, -root, root)) / 2
            tips = []
            for t in (q / a, c / q):
                t = np.where((t > 0) & (t < 1), t, np.nan)
                v = 1 - t
                tips.append(v**3 * p0 + 3 * v * v * t * p1 + 3 * v * t * t * p2 + t**3 * p3)
        return tips

    def tangents(self) -> tuple[Points, Points]:
        """Unit directions (n, 2) in which each span leaves its start and reaches its end."""
        chord = self.ends - self.starts
        leave, reach = chord.copy(), chord.copy()
        if (arcs := np.flatnonzero(self.kinds == ARC)).size:
            half = 2 * np.arctan(self.bulges[arcs])
            leave[arcs], reach[arcs] = _turned(chord[arcs], -half), _turned(chord[arcs], half)
        if (cubics := np.flatnonzero(self.kinds == CUBIC)).size:
            p0, p3, (p1, p2) = (
                self.starts[cubics],
                self.ends[cubics],
                self.handles[cubics].transpose(1, 0, 2),
            )
            leave[cubics], reach[cubics] = (
                _first_real(p1 - p0, p2 - p0, p3 - p0),
                _first_real(p3 - p2, p3 - p1, p3 - p0),
            )
        return _unit(leave), _unit(reach)

    def as_cubics(self) -> tuple[Floats, Ints]:
        """All spans as Bézier cubics, arcs cut so that each piece sweeps at most 90° (off by under
        0.03 % of the radius).

        Returns
        -------
        curves : (m, 4, 2)
        owner : (m,) the span each piece comes from
        """
        pieces = np.ones(len(self), dtype=np.int64)
        arcs = self.kinds == ARC
        pieces[arcs] = np.maximum(
            1, np.ceil(np.abs(4 * np.arctan(self.bulges[arcs])) / (np.pi / 2) - 1e-9)
        )
        step, owner = ranges(np.zeros(len(self), dtype=np.int64), pieces)
        start, end = (
            self.at(owner, step / pieces[owner]),
            self.at(owner, (step + 1) / pieces[owner]),
        )
        last = step + 1 == pieces[owner]
        end[last], start[step == 0] = self.ends[owner[last]], self.starts[owner[step == 0]]
        curves = np.stack([start, start + (end - start) / 3, end - (end - start) / 3, end], axis=1)
        cubic = self.kinds[owner] == CUBIC
        curves[cubic, 1:3] = self.handles[owner[cubic]]
        if (bent := np.flatnonzero(arcs[owner])).size:
            sweep = 4 * np.arctan(self.bulges[owner[bent]]) / pieces[owner[bent]]
            chord = end[bent] - start[bent]
            reach = (4 / 3) * np.tan(sweep / 4) / (2 * np.sin(sweep / 2))
            curves[bent, 1] = start[bent] + reach[:, None] * _turned(chord, -sweep / 2)
            curves[bent, 2] = end[bent] - reach[:, None] * _turned(chord, sweep / 2)
        return curves, owner


def cubic_lengths(starts: Points, handles: Floats, ends: Points) -> Floats:
    """Lengths (n,) along cubics, by Gauss's rule on twelve places of each; `handles` (n, 2, 2)."""
    legs = np.stack([handles[:, 0] - starts, handles[:, 1] - handles[:, 0], ends - handles[:, 1]])
    at, weight = _gauss()
    u = (at + 1) / 2
    slopes = 3 * np.stack([(1 - u) ** 2, 2 * (1 - u) * u, u * u], axis=1) @ legs.reshape(3, -1)
    lengths: Floats = weight / 2 @ norms(slopes.reshape(len(u), -1, 2))
    return lengths


def _along_arcs(arcs: Spans, counts: Ints | None, t: Floats) -> Points:
    """Points at parameters `t`, of which the first ``counts[0]`` lie on the first arc, the next on
    the second, and so on; one on each where no counts are given."""
    shape = arcs.arc_shapes()
    first, sweep, radii, x, y = (
        _spread(values, counts)
        for values in (shape.first, shape.sweep, shape.radii, *shape.centres.T)
    )
    angle = first + t * sweep
    return columns(x + radii * np.cos(angle), y + radii * np.sin(angle))


def _along_cubics(cubics: Spans, counts: Ints | None, t: Floats) -> Points:
    """As ``_along_arcs``, on cubics."""
    third = 3 * (cubics.handles[:, 0] - cubics.starts)
    second = 3 * (cubics.handles[:, 1] - cubics.handles[:, 0]) - third
    first = cubics.ends - cubics.starts - third - second
    points = np.empty((len(t), 2))
    for k in (0, 1):
        a, b, c, start = (
            _spread(values[:, k], counts) for values in (first, second, third, cubics.starts)
        )
        points[:, k] = ((a * t + b) * t + c) * t + start
    return points


def _spread(values: Floats, counts: Ints | None) -> Floats:
    return values if counts is None else np.asarray(np.repeat(values, counts))


def _turned(vectors: Points, angle: Floats) -> Points:
    cos, sin = np.cos(angle), np.sin(angle)
    return columns(
        cos * vectors[:, 0] - sin * vectors[:, 1], sin * vectors[:, 0] + cos * vectors[:, 1]
    )


def _first_real(*choices: Points) -> Points:
    """The first of several vectors, row by row, that is not of length 0."""
    picked = choices[0].copy()
    for other in choices[1:]:
        missing = norms(picked) < 1e-12
        picked[missing] = other[missing]
    return picked


def _unit(vectors: Points) -> Points:
    size = norms(vectors)
    return vectors / np.where(size == 0, 1, size)[:, None]
