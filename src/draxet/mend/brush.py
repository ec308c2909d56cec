"""A smoothing brush: places along a contour are drawn towards the mean of their neighbours where
the brush goes over them, and what it touched is fitted anew."""

from __future__ import annotations

import numpy as np

from draxet.geometry.arrays import Bools, Points
from draxet.geometry.contour import Contour
from draxet.geometry.fitting.chain import fit_chains, fit_loops
from draxet.geometry.fitting.fit_settings import FitSettings
from draxet.geometry.fitting.loops import resampled, resampled_open
from draxet.geometry.pieces import piece, position_near
from draxet.mend.forms import sampled
from draxet.record import record

__all__ = ["Brushed"]

_SAMPLES_A_REACH = 12
_MOST_SAMPLES = 20_000
_TOLERANCE_PX = 0.6
_BROAD = 4
"""Neighbours to each side whose mean a place is drawn to."""


@record
class Brushed:
    """A contour under the brush: `points` (n, 2) evenly along it, and which of them were
    `touched`."""

    contour: Contour
    points: Points
    touched: Bools

    @classmethod
    def of(cls, contour: Contour, reach: float) -> Brushed:
        """`reach` : the brush's radius in mm."""
        count = int(np.clip(contour.length / reach * _SAMPLES_A_REACH, 24, _MOST_SAMPLES))
        points = sampled(contour, count)
        return cls(contour, points, np.zeros(len(points), dtype=bool))

    def stroke(self, x: float, y: float, reach: float, strength: float) -> bool:
        """The brush goes over a place; whether it touched anything. strength : 0 to 1, of the way
        to the mean at the middle of the brush. The ends of an open contour stay."""
        away = np.hypot(*(self.points - (x, y)).T) / reach
        weight = np.where(away < 1, (1 - np.minimum(away, 1) ** 2) ** 2, 0.0) * strength
        if not self.contour.closed:
            weight[[0, -1]] = 0.0
        hit = np.flatnonzero(weight > 1e-6)
        if not len(hit):
            return False
        total = np.zeros((len(hit), 2))
        for step in range(1, _BROAD + 1):
            total += self._beside(hit, step) + self._beside(hit, -step)
        mean = total / (2 * _BROAD)
        self.points[hit] += weight[hit, None] * (mean - self.points[hit])
        self.touched[hit] = True
        return True

    def _beside(self, hit: np.ndarray, step: int) -> Points:
        n = len(self.points)
        found: Points = (
            self.points[(hit + step) % n]
            if self.contour.closed
            else self.points[np.clip(hit + step, 0, n - 1)]
        )
        return found

    def fitted(self, tolerance: float) -> Contour:
        """The contour with what was touched fitted anew within a tolerance in mm; the rest as it
        was, span by span."""
        if not self.touched.any():
            return self.contour
        runs = self._runs()
        if self.touched.all() or (
            self.contour.closed
            and len(runs) == 1
            and runs[0][1] - runs[0][0] >= len(self.points) - 2
        ):
            return self._fit_whole(tolerance)
        parts: list[Contour] = []
        for number, (first, last) in enumerate(runs):
            parts.append(self._fit_run(first, last, tolerance))
            after = runs[(number + 1) % len(runs)][0]
            rest = (
                self._untouched(last, after)
                if self.contour.closed or number + 1 < len(runs)
                else None
            )
            if rest is not None:
                parts.append(rest)
        if not self.contour.closed:
            parts = [
                *self._end_part(0, runs[0][0]),
                *parts,
                *self._end_part(runs[-1][1], len(self.points) - 1),
            ]
        return self._strung(parts)

    def _runs(self) -> list[tuple[int, int]]:
        """Runs of touched samples as first and last, a sample wider on each side; `last` may go on
        over the end of a closed contour."""
        n, mask = len(self.points), self.touched.copy()
        if self.contour.closed:
            mask |= np.roll(mask, 1) | np.roll(mask, -1)
            start = int(np.flatnonzero(~mask)[0]) if not mask.all() else 0
            mask = np.roll(mask, -start)
        else:
            mask[1:] |= self.touched[:-1]
            mask[:-1] |= self.touched[1:]
            start = 0
        edges = np.flatnonzero(np.diff(np.concatenate([[0], mask.astype(int), [0]])))
        return [
            (int(a) + start, int(b) - 1 + start)
            for a, b in zip(edges[::2], edges[1::2], strict=True)
            if b > a + 1 or n
        ]

    def _at(self, first: int, last: int) -> Points:
        return self.points[np.arange(first, last + 1) % len(self.points)]

    def _fit_run(self, first: int, last: int, tolerance: float) -> Contour:
        return _fit_open(self._at(first, last), tolerance)

    def _fit_whole(self, tolerance: float) -> Contour:
        if not self.contour.closed:
            return _fit_open(self.points, tolerance)
        step = tolerance / _TOLERANCE_PX
        found = fit_loops(
            resampled(self.points / step, np.array([0]), np.array([len(self.points)]), 1.0),
            _settings(),
            trust_samples=True,
        )[0]
        return Contour.make(found.nodes * step, found.kinds, found.bulges, found.handles * step)

    def _untouched(self, last: int, first: int) -> Contour | None:
        n = len(self.points)
        a, b = (position_near(self.contour, *self.points[k % n].tolist()) for k in (last, first))
        return piece(self.contour, a, b)

    def _end_part(self, first: int, last: int) -> list[Contour]:
        """From one sample of an open contour to another, as it was."""
        if last <= first:
            return []
        a, b = (
            0.0
            if k == 0
            else float(len(self.contour.kinds))
            if k == len(self.points) - 1
            else position_near(self.contour, *self.points[k].tolist())
            for k in (first, last)
        )
        found = piece(self.contour, a, b)
        return [found] if found is not None else []

    def _strung(self, parts: list[Contour]) -> Contour:
        """Parts end to end as one contour."""
        handles = np.concatenate([part.handles for part in parts])
        nodes = np.vstack([part.nodes[:-1] for part in parts])
        kinds, bulges = (
            np.concatenate([part.kinds for part in parts]),
            np.concatenate([part.bulges for part in parts]),
        )
        if self.contour.closed:
            return Contour.make(nodes, kinds, bulges, handles)
        return Contour.make(
            np.vstack([nodes, parts[-1].nodes[-1:]]), kinds, bulges, handles, closed=False
        )


def _settings() -> FitSettings:
    return FitSettings(tolerance=_TOLERANCE_PX, blur=0.5, circles=False)


def _fit_open(points: Points, tolerance: float) -> Contour:
    step = tolerance / _TOLERANCE_PX
    scaled = points / step
    found = fit_chains(
        resampled_open(scaled, np.array([0]), np.array([len(points)]), 1.0),
        _settings(),
        scaled[:1],
        scaled[-1:],
    )[0]
    nodes = found.nodes * step
    nodes[0], nodes[-1] = points[0], points[-1]
    return Contour.make(nodes, found.kinds, found.bulges, found.handles * step, closed=False)
