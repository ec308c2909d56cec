"""Affine maps of the plane: x' = a x + b y + c, y' = d x + e y + f."""

from __future__ import annotations

import math

import numpy as np

from draxet.geometry.arrays import Points
from draxet.record import record

__all__ = ["Affine"]


@record(frozen=True)
class Affine:
    """The map (x, y) -> (a x + b y + c, d x + e y + f)."""

    a: float = 1.0
    b: float = 0.0
    c: float = 0.0
    d: float = 0.0
    e: float = 1.0
    f: float = 0.0

    @staticmethod
    def moved(dx: float, dy: float) -> Affine:
        return Affine(c=dx, f=dy)

    @staticmethod
    def scaled(sx: float, sy: float | None = None) -> Affine:
        return Affine(a=sx, e=sx if sy is None else sy)

    @staticmethod
    def turned(degrees: float) -> Affine:
        """A turn about the origin, from x towards y."""
        cos, sin = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
        return Affine(cos, -sin, 0.0, sin, cos, 0.0)

    @property
    def determinant(self) -> float:
        return self.a * self.e - self.b * self.d

    @property
    def scale(self) -> float:
        """Square root of how much areas grow."""
        return math.sqrt(abs(self.determinant))

    @property
    def is_similarity(self) -> bool:
        """Whether circles stay circles (turning, moving, even scaling, mirroring)."""
        xx, yy, xy = (
            math.hypot(self.a, self.d),
            math.hypot(self.b, self.e),
            self.a * self.b + self.d * self.e,
        )
        return abs(xx - yy) <= 1e-9 * max(xx, yy) and abs(xy) <= 1e-9 * xx * yy

    def then(self, after: Affine) -> Affine:
        """The map that does this one first and `after` second."""
        p, q = after, self
        return Affine(
            p.a * q.a + p.b * q.d,
            p.a * q.b + p.b * q.e,
            p.a * q.c + p.b * q.f + p.c,
            p.d * q.a + p.e * q.d,
            p.d * q.b + p.e * q.e,
            p.d * q.c + p.e * q.f + p.f,
        )

    def about(self, x: float, y: float) -> Affine:
        """This map with (x, y) in the origin's place."""
        return Affine.moved(-x, -y).then(self).then(Affine.moved(x, y))

    def inverse(self) -> Affine:
        """The way back; ZeroDivisionError where there is none."""
        k = 1.0 / self.determinant
        a, b, d, e = self.e * k, -self.b * k, -self.d * k, self.a * k
        return Affine(a, b, -(a * self.c + b * self.f), d, e, -(d * self.c + e * self.f))

    def apply(self, points: Points) -> Points:
        """Points (..., 2) mapped."""
        x, y = points[..., 0], points[..., 1]
        return np.stack(
            [self.a * x + self.b * y + self.c, self.d * x + self.e * y + self.f], axis=-1
        )

    def point(self, x: float, y: float) -> tuple[float, float]:
        return self.a * x + self.b * y + self.c, self.d * x + self.e * y + self.f

    def angle_of(self, degrees: float) -> float:
        """The direction (degrees) that a direction has after the map."""
        way = math.radians(degrees)
        dx = self.a * math.cos(way) + self.b * math.sin(way)
        dy = self.d * math.cos(way) + self.e * math.sin(way)
        return math.degrees(math.atan2(dy, dx))

    def to_tuple(self) -> tuple[float, float, float, float, float, float]:
        return self.a, self.b, self.c, self.d, self.e, self.f
