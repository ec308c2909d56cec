"""Contrast."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any

import cv2
import numpy as np

from draxet.geometry.arrays import NDArray
from draxet.job.asked import Asked
from draxet.job.ranges import Within
from draxet.job.steps.step_kind import Frame, StepKind
from draxet.pixels.grey_levels import grey_of
from draxet.pixels.paper_ground import ink_level
from draxet.progress import Progress
from draxet.record import record

__all__ = ["Contrast"]


@record(frozen=True)
class Contrast(StepKind):
    """From 0 (as it is) to 100 (black and white only)."""

    amount: Annotated[int, Within(0, 100), Asked("Contrast", slider=(0, 100))] = 40

    @classmethod
    def offers(cls) -> Sequence[tuple[str, StepKind]]:
        return (("Contrast", cls()),)

    def words(self, unit: str, pixel: float) -> str:
        return f"Contrast {self.amount}"

    def on_pixels(self, pixels: NDArray[Any], frame: Frame, report: Progress) -> NDArray[Any]:
        return (
            np.asarray(cv2.LUT(pixels, _contrast_curve(grey_of(pixels), self.amount)))
            if self.amount
            else pixels
        )


def _contrast_curve(grey: NDArray[Any], contrast: int) -> NDArray[np.uint8]:
    """256 brightnesses, steeper about the ink level the higher the contrast."""
    level = ink_level(grey)
    steep = 1.0 / max(1.0 - contrast / 100.0, 1e-3)
    return np.asarray(np.clip(level + (np.arange(256) - level) * steep, 0, 255), dtype=np.uint8)
