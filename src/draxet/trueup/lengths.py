"""Several known lengths: the scale of a picture, its stretch and its skew, and how far every length
can be trusted.

What turns picture lengths into real ones is a scale and a small *strain*: (u, v, w) so that a line
at angle t in the picture is longer by the share u cos²t + v sin²t + w sin t cos t than the scale
alone says. Each known length gives one equation, weighted by the spread of its two picks; least
squares does the rest. Scanners and cameras hardly stretch, so u - v and w have a prior about 0:
with one length it says how far other directions can be trusted, and once lengths in several
directions are known it counts for nothing.

The odd one out is found by its normalised residual (Baarda, "A testing procedure for use in
geodetic networks", 1968).
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Bools, Floats
from draxet.job.picture_records import KnownLength
from draxet.record import record

__all__ = ["LengthFit", "fit_lengths"]

STRETCH_PRIOR = 0.007
SKEW_PRIOR = 0.002
_FREE = 1.0
"""A prior of stretch that counts for nothing."""
_APART = 0.5
"""Sine of the angle between two lengths that tell the stretch."""
_ODD = 3.0
_SIGNIFICANT = 3.0
_ROUNDS = 4


@record(frozen=True)
class LengthFit:
    """What known lengths say of a picture.

    scale : mm a pixel before strain; strain : (u, v, w) applied; free : (u, v, w) found when
    stretch is allowed, with its `covariance` (3, 3). differences, spreads : for each length, fitted
    less written and one standard deviation, in mm.
    weights : shares of the whole. odd : which lengths do not go with the others.
    """

    scale: float
    strain: Floats
    free: Floats
    covariance: Floats
    differences: Floats
    spreads: Floats
    weights: Floats
    odd: Bools

    @property
    def stretch(self) -> float:
        """How much longer the longest direction comes out than the shortest, as a share, if it is
        not taken out."""
        return float(math.hypot(self.free[0] - self.free[1], self.free[2]))

    @property
    def stretch_spread(self) -> float:
        """One standard deviation of the stretch."""
        along = np.array([self.free[0] - self.free[1], self.free[2]]) / max(self.stretch, 1e-12)
        pick = np.array([along[0], -along[0], along[1]])
        return float(math.sqrt(max(pick @ self.covariance @ pick, 0.0)))

    @property
    def is_stretched(self) -> bool:
        """Whether the lengths say so beyond doubt."""
        return self.stretch > _SIGNIFICANT * self.stretch_spread and self.stretch > 2e-4

    def share_spread(self, dx: float, dy: float) -> float:
        """One standard deviation of a length along (dx, dy) in the picture, as a share of it."""
        row = _row(np.array([[dx, dy]]))[0]
        left_in = float(row @ (self.free - self.strain))  # stretch found but not taken out
        return math.hypot(left_in, math.sqrt(max(float(row @ self.covariance @ row), 0.0)))

    def linear_part(self, now: Affine) -> Affine:
        """`now` with its linear part replaced by the fitted one that is nearest to it in turn; the
        origin's image stays."""
        u, v, w = self.strain
        metric = self.scale**2 * (np.eye(2) + np.array([[2 * u + u * u, w], [w, 2 * v + v * v]]))
        values, vectors = np.linalg.eigh(metric)
        root = vectors @ np.diag(np.sqrt(values)) @ vectors.T
        left, _, right = np.linalg.svd(
            np.array([[now.a, now.b], [now.d, now.e]]) @ np.linalg.inv(root)
        )
        (a, b), (d, e) = left @ right @ root
        return Affine(float(a), float(b), now.c, float(d), float(e), now.f)


def fit_lengths(known: Sequence[KnownLength], *, unstretched: bool) -> LengthFit:
    """Fit known lengths.

    Parameters
    ----------
    known : at least one.
    unstretched : whether stretch and skew are taken out, or only one scale is looked for.
    """
    lines = np.array([np.subtract(k.second, k.first) for k in known])
    pixels, real = np.hypot(lines[:, 0], lines[:, 1]), np.array([k.length for k in known])
    spread = np.array([k.deviation for k in known]) / pixels
    scale = float(np.exp(np.average(np.log(real / pixels), weights=1 / spread**2)))
    rows = _row(lines)
    free, covariance = _solve(rows, real / (scale * pixels), spread, STRETCH_PRIOR, SKEW_PRIOR)
    if unstretched and _tell_stretch(
        lines
    ):  # what was measured counts then, and no prior is left in it
        free, covariance = _solve(rows, real / (scale * pixels), spread, _FREE, SKEW_PRIOR)
    strain, _ = (
        (free, covariance)
        if unstretched
        else _solve(rows, real / (scale * pixels), spread, 1e-9, 1e-9)
    )
    fitted = _stretched(lines, strain) * scale
    residual = fitted - real
    covariance, odd = _judged(
        rows, _stretched(lines, free) / pixels - real / (scale * pixels), covariance, spread
    )
    weights = 1 / spread**2
    return LengthFit(
        scale, strain, free, covariance, residual, spread * real, weights / weights.sum(), odd
    )


def _tell_stretch(lines: Floats) -> bool:
    """Whether two of the lengths run so differently that they tell how much a picture is
    stretched."""
    away = lines / np.maximum(np.hypot(lines[:, 0], lines[:, 1]), 1e-12)[:, None]
    return bool(
        (
            np.abs(away[:, None, 0] * away[None, :, 1] - away[:, None, 1] * away[None, :, 0])
            > _APART
        ).any()
    )


def _row(lines: Floats) -> Floats:
    """(n, 3) how the strain acts along each line."""
    size = np.maximum(np.hypot(lines[:, 0], lines[:, 1]), 1e-12)
    c, s = lines[:, 0] / size, lines[:, 1] / size
    return np.column_stack([c * c, s * s, s * c])


def _stretched(lines: Floats, strain: Floats) -> Floats:
    """Lengths (n,) of lines once strained."""
    u, v, w = strain
    x, y = lines.T
    return np.asarray(np.sqrt(x * x * (1 + u) ** 2 + y * y * (1 + v) ** 2 + 2 * w * x * y))


def _solve(
    rows: Floats, wanted: Floats, spread: Floats, stretch: float, skew: float
) -> tuple[Floats, Floats]:
    """Strain and its covariance from wanted over scaled lengths, with priors on u - v and w."""
    prior = np.array([[1.0, -1.0, 0.0], [0.0, 0.0, 1.0]]) / np.array([[stretch], [skew]])
    design = np.vstack([rows / spread[:, None], prior])
    strain = np.zeros(3)
    cos, sin = np.sqrt(rows[:, 0]), np.sign(rows[:, 2] + 1e-300) * np.sqrt(rows[:, 1])
    for _ in range(_ROUNDS):
        now = _stretched(np.column_stack([cos, sin]), strain)
        target = np.concatenate([(wanted - now) / spread, -prior @ strain])
        strain = strain + np.linalg.lstsq(design, target, rcond=None)[0]
    return strain, np.linalg.inv(design.T @ design)


def _judged(
    rows: Floats, shares_off: Floats, covariance: Floats, spread: Floats
) -> tuple[Floats, Bools]:
    """The covariance, widened where the lengths disagree more than their picks explain, and the odd
    ones out."""
    rest = shares_off / spread
    leverage = np.einsum("ij,jk,ik->i", rows, covariance, rows) / spread**2
    redundancy = np.clip(1 - leverage, 1e-6, 1)
    normal = np.where(redundancy > 0.05, np.abs(rest) / np.sqrt(redundancy), 0.0)
    spare = float(redundancy.sum())
    odd = np.zeros(len(rows), dtype=bool)
    if len(rows) >= 3 and spare > 0.8 and normal.max() > _ODD:
        odd[int(np.argmax(normal))] = True
    misfit = float((rest**2).sum()) / spare if spare > 0.8 else 1.0
    return covariance * max(1.0, misfit), odd
