"""Marks at the border taken out."""

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

__all__ = ["EdgeMarks"]


@record(frozen=True)
class EdgeMarks(StepKind):
    """Marks taken out that lie wholly within `reach` base pixels of the border: scanner edges,
    punched holes, corner marks."""

    reach: Annotated[int, Within(0, 10_000), Asked("Marks within", " px", slider=(4, 400))] = 40

    @classmethod
    def offers(cls) -> Sequence[tuple[str, StepKind]]:
        return (("Drop marks at the edge", cls()),)

    def words(self, unit: str, pixel: float) -> str:
        return f"Drop marks within {self.reach} px of the edge"

    def smaller(self, factor: float) -> Self:
        return type(self)(round(self.reach / factor))

    def on_pixels(self, pixels: NDArray[Any], frame: Frame, report: Progress) -> NDArray[Any]:
        return _without_edge_marks(pixels, self.reach) if self.reach > 0 else pixels


def _without_edge_marks(pixels: NDArray[Any], reach: int) -> NDArray[Any]:
    """Ink that lies wholly within `reach` pixels of one border filled with paper."""
    grey = grey_of(pixels)
    ink = (grey < ink_level(grey)).astype(np.uint8)
    _, labels, stats, _ = cv2.connectedComponentsWithStats(ink, connectivity=8)
    left, top, wide, high = (
        stats[:, k]
        for k in (cv2.CC_STAT_LEFT, cv2.CC_STAT_TOP, cv2.CC_STAT_WIDTH, cv2.CC_STAT_HEIGHT)
    )
    height, width = grey.shape
    marks = (
        (left + wide <= reach)
        | (top + high <= reach)
        | (left >= width - reach)
        | (top >= height - reach)
    )
    marks[0] = False
    out = pixels.copy()
    if marks.any():
        fill_with_paper(
            out,
            pixels,
            cv2.dilate(marks[labels].astype(np.uint8), np.ones((5, 5), np.uint8)).astype(bool),
        )
    return out
