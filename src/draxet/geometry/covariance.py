"""How far a place may lie from where it was meant: a covariance, small across a line that a pick is
locked to, wide along it."""

from __future__ import annotations

import math

from draxet.geometry.affine import Affine
from draxet.record import record

__all__ = ["Covariance"]


@record(frozen=True)
class Covariance:
    """Variances `xx`, `yy` and covariance `xy` of a place, in the square of the unit that the place
    is in."""

    xx: float = 0.0
    xy: float = 0.0
    yy: float = 0.0

    @staticmethod
    def round(deviation: float) -> Covariance:
        """The same standard deviation every way."""
        return Covariance(deviation * deviation, 0.0, deviation * deviation)

    @staticmethod
    def along_line(angle: float, across: float, along: float) -> Covariance:
        """Standard deviations `across` and `along` a line at `angle` (radians)."""
        c, s = math.cos(angle), math.sin(angle)
        p, q = along * along, across * across
        return Covariance(p * c * c + q * s * s, (p - q) * c * s, p * s * s + q * c * c)

    def variance(self, dx: float, dy: float) -> float:
        """Variance of the place's share along (dx, dy), which need not be of length 1: of dx · x +
        dy · y."""
        return max(dx * dx * self.xx + 2 * dx * dy * self.xy + dy * dy * self.yy, 0.0)

    def along(self, dx: float, dy: float) -> float:
        """One standard deviation in the direction of (dx, dy)."""
        size = math.hypot(dx, dy)
        return math.sqrt(self.variance(dx / size, dy / size)) if size else self.greatest

    @property
    def greatest(self) -> float:
        """One standard deviation in the direction in which it is greatest."""
        half, off = (self.xx + self.yy) / 2, math.hypot((self.xx - self.yy) / 2, self.xy)
        return math.sqrt(max(half + off, 0.0))

    @property
    def least(self) -> float:
        """One standard deviation in the direction in which it is least."""
        half, off = (self.xx + self.yy) / 2, math.hypot((self.xx - self.yy) / 2, self.xy)
        return math.sqrt(max(half - off, 0.0))

    def plus(self, other: Covariance) -> Covariance:
        """Of two independent causes together."""
        return Covariance(self.xx + other.xx, self.xy + other.xy, self.yy + other.yy)

    def mapped(self, m: Affine) -> Covariance:
        """After a map."""
        ax, ay = m.a * self.xx + m.b * self.xy, m.a * self.xy + m.b * self.yy
        dx, dy = m.d * self.xx + m.e * self.xy, m.d * self.xy + m.e * self.yy
        return Covariance(ax * m.a + ay * m.b, ax * m.d + ay * m.e, dx * m.d + dy * m.e)
