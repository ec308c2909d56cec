"""Crop: only a box of the picture is kept."""

from __future__ import annotations

from typing import Self

from draxet.job.ranges import Pixels
from draxet.job.steps.step_kind import StepKind
from draxet.record import record
from draxet.units import format_length

__all__ = ["Crop"]


@record(frozen=True)
class Crop(StepKind):
    """Only what lies in the box is kept, from (x0, y0) to (x1, y1)."""

    x0: Pixels
    y0: Pixels
    x1: Pixels
    y1: Pixels

    def words(self, unit: str, pixel: float) -> str:
        wide, high = abs(self.x1 - self.x0) * pixel, abs(self.y1 - self.y0) * pixel
        return f"Crop to {format_length(wide, unit, places=0, with_unit=False)} × {format_length(high, unit, places=0)}"

    def smaller(self, factor: float) -> Self:
        return type(self)(self.x0 / factor, self.y0 / factor, self.x1 / factor, self.y1 / factor)

    def within(self, box: tuple[int, int, int, int]) -> tuple[int, int, int, int]:
        """What it leaves of a box (left, top, right, bottom) of base pixels."""
        left, top, right, bottom = box
        return (
            max(left, round(min(self.x0, self.x1))),
            max(top, round(min(self.y0, self.y1))),
            min(right, round(max(self.x0, self.x1))),
            min(bottom, round(max(self.y0, self.y1))),
        )
