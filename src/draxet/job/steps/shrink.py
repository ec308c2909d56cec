"""Fewer pixels."""

from __future__ import annotations

from typing import Annotated, Any, Self

import cv2

from draxet.geometry.arrays import NDArray
from draxet.job.asked import Asked
from draxet.job.ranges import Within
from draxet.job.steps.step_kind import Frame, StepKind
from draxet.progress import Progress
from draxet.record import record
from draxet.units import format_number

__all__ = ["Shrink"]


@record(frozen=True)
class Shrink(StepKind):
    """Fewer pixels: `factor` base pixels become one each way."""

    factor: Annotated[
        float, Within(1.0, 10_000.0), Asked("How many pixels become one", slider=(1, 20))
    ] = 2.0

    def words(self, unit: str, pixel: float) -> str:
        return f"Shrink to 1 : {format_number(self.factor, 1)}"

    def smaller(self, factor: float) -> Self:
        return type(self)(max(1.0, self.factor / factor))

    def on_pixels(self, pixels: NDArray[Any], frame: Frame, report: Progress) -> NDArray[Any]:
        return (
            pixels
            if (pixels.shape[1], pixels.shape[0]) == frame.size
            else cv2.resize(pixels, frame.size, interpolation=cv2.INTER_AREA)
        )
