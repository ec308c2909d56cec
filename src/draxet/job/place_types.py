"""Types of numbers and places in records, with their ranges."""

from __future__ import annotations

from typing import Annotated

from draxet.job.ranges import Coordinate, OneOf, Pixels, Within

__all__ = ["Anchor", "Box", "Pixel", "PixelCount", "Place"]

Anchor = Annotated[float, OneOf((0.0, 0.5, 1.0))]

Box = tuple[float, float, float, float]
"""x0, y0, x1, y1 in mm."""

Place = tuple[Coordinate, Coordinate]

Pixel = tuple[Pixels, Pixels]

PixelCount = Annotated[int, Within(1, 1_000_000)]
