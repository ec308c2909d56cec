"""Even light."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from draxet.geometry.arrays import NDArray
from draxet.job.steps.step_kind import Frame, StepKind
from draxet.pixels.paper_ground import evenly_lit
from draxet.progress import Progress
from draxet.record import record

__all__ = ["EvenLight"]


@record(frozen=True)
class EvenLight(StepKind):
    """Uneven light and paper shade taken out."""

    @classmethod
    def offers(cls) -> Sequence[tuple[str, StepKind]]:
        return (("Even out light and paper", cls()),)

    def words(self, unit: str, pixel: float) -> str:
        return "Even out light and paper"

    def on_pixels(self, pixels: NDArray[Any], frame: Frame, report: Progress) -> NDArray[Any]:
        return evenly_lit(pixels)
