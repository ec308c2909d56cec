"""Small spots taken out."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, Self

import cv2
import numpy as np

from draxet.geometry.arrays import NDArray
from draxet.job.asked import Asked
from draxet.job.ranges import Within
from draxet.job.steps.step_kind import Frame, StepKind
from draxet.pixels.grey_levels import grey_of
from draxet.pixels.paper_ground import fill_with_paper, ink_level
from draxet.progress import Progress
from draxet.record import record

__all__ = ["Specks"]


@record(frozen=True)
class Specks(StepKind):
    """Spots up to `size` base pixels wide and high taken out."""

    size: Annotated[int, Within(0, 10_000), Asked("Specks up to", " px", slider=(1, 60))] = 6

    @classmethod
    def offers(cls) -> Sequence[tuple[str, StepKind]]:
        return (("Drop specks", cls()),)

    def words(self, unit: str, pixel: float) -> str:
        return f"Drop specks up to {self.size} px"

    def smaller(self, factor: float) -> Self:
        return type(self)(round(self.size / factor))

    def on_pixels(self, pixels: NDArray[Any], frame: Frame, report: Progress) -> NDArray[Any]:
        return _without_specks(pixels, self.size) if self.size > 0 else pixels


def _without_specks(pixels: NDArray[Any], size: int) -> NDArray[Any]:
    """Dark and light spots up to `size` pixels wide and high filled with what lies round them;
    longer things are untouched."""
    grey = grey_of(pixels)
    ink = (grey < ink_level(grey)).astype(np.uint8)
    out = pixels.copy()
    for mask, of_paper in ((ink, True), (1 - ink, False)):
        _, labels, stats, _ = cv2.connectedComponentsWithStats(mask, connectivity=8)
        small = (stats[:, cv2.CC_STAT_WIDTH] <= size) & (stats[:, cv2.CC_STAT_HEIGHT] <= size)
        small[0] = False
        if small.any():
            spots = cv2.dilate(small[labels].astype(np.uint8), np.ones((3, 3), np.uint8)).astype(
                bool
            )
            if of_paper:
                fill_with_paper(out, pixels, spots)
            elif (mask == 0).any():
                out[spots] = np.percentile(pixels[mask == 0], 25, axis=0).astype(np.uint8)
    return out
