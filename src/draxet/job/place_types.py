"""Types of numbers and places in records, with their ranges."""

from __future__ import annotations

from typing import Annotated

from draxet.job.ranges import Coordinate, OneOf, Pixels, Within

__all__ = ["Anchor", "Pixel", "PixelCount", "Place"]

Anchor = Annotated[float, OneOf((0.0, 0.5, 1.0))]

Place = tuple[Coordinate, Coordinate]

Pixel = tuple[Pixels, Pixels]

PixelCount = Annotated[int, Within(1, 1_000_000)]
