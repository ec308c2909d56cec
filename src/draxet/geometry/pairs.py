"""Point pairs: the map that takes one set of places nearest to another, and what is left over at
each."""

from __future__ import annotations

import math
from enum import StrEnum

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Floats, Points
from draxet.record import record

__all__ = ["Freedom", "PairFit", "fit_pairs"]

_ODD = 3.0


class Freedom(StrEnum):
    """What the map may do beside moving: turn (``rigid``), size too (``size``), or stretch and skew
    too (``stretch``)."""

    RIGID = "rigid"
    SIZE = "size"
    STRETCH = "stretch"


@record(frozen=True, eq=False)
class PairFit:
    """The map, what is left over at each pair (n, 2), and which pair is worst (None where all are
    exact).

    `odd` says whether the worst one does not go with the others.
    """

    affine: Affine
    rest: Points
    worst: int | None
    odd: bool

    @property
    def distances(self) -> Floats:
        return np.asarray(np.hypot(self.rest[:, 0], self.rest[:, 1]))

    @property
    def mean(self) -> float:
        """Root mean square of the differences."""
        return float(np.sqrt((self.distances**2).mean()))


def fit_pairs(sources: Points, targets: Points, freedom: Freedom) -> PairFit:
    """The map that takes `sources` (n, 2) nearest to `targets` (n, 2), by least squares.

    One pair moves; two move, turn and, where `freedom` says so, size; stretch needs three.

    Raises
    ------
    ValueError : where there is no pair, or where places that must differ lie together.
    """
    if not len(sources):
        raise ValueError("at least one pair is needed")
    affine = _map(sources, targets, freedom)
    rest = targets - affine.apply(sources)
    away = np.hypot(rest[:, 0], rest[:, 1])
    worst = int(np.argmax(away)) if away.max() > 1e-6 else None
    return PairFit(
        affine, rest, worst, worst is not None and _is_odd(sources, targets, freedom, worst)
    )


def _is_odd(sources: Points, targets: Points, freedom: Freedom, worst: int) -> bool:
    """Whether the pair stands far off what the other pairs say, for how well those agree."""
    others = np.arange(len(sources)) != worst
    spare = 2 * int(others.sum()) - {"rigid": 3, "size": 4, "stretch": 6}[freedom.value]
    if spare < 1:
        return False
    without = _map(sources[others], targets[others], freedom)
    rest = targets - without.apply(sources)
    noise = math.sqrt(float((rest[others] ** 2).sum()) / spare)
    return float(np.hypot(*rest[worst])) > max(_ODD * 2 * noise, 1e-6)


def _map(sources: Points, targets: Points, freedom: Freedom) -> Affine:
    p0, q0 = sources.mean(axis=0), targets.mean(axis=0)
    p, q = sources - p0, targets - q0
    if len(sources) == 1:
        return Affine.moved(*(q0 - p0).tolist())
    if float((p * p).sum()) < 1e-12 or float((q * q).sum()) < 1e-12:
        raise ValueError("the places of the pairs lie on one another; pick them farther apart")
    if freedom is Freedom.STRETCH and len(sources) >= 3:
        sizes = np.linalg.svd(p, compute_uv=False)
        if sizes[1] > 1e-3 * sizes[0]:
            (a, d), (b, e) = np.linalg.lstsq(p, q, rcond=None)[0]
            return _about(float(a), float(b), float(d), float(e), p0, q0)
        raise ValueError("the pairs lie on one line; for a stretch one must lie off it")
    cos, sin = float((p * q).sum()), float((p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0]).sum())
    size = float((p * p).sum()) if freedom is not Freedom.RIGID else math.hypot(cos, sin)
    if size < 1e-12:
        raise ValueError("the pairs do not say how to turn; pick them again")
    return _about(cos / size, -sin / size, sin / size, cos / size, p0, q0)


def _about(a: float, b: float, d: float, e: float, p0: Points, q0: Points) -> Affine:
    x, y = Affine(a, b, 0.0, d, e, 0.0).point(float(p0[0]), float(p0[1]))
    return Affine(a, b, float(q0[0]) - x, d, e, float(q0[1]) - y)
