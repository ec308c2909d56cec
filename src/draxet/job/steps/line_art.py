"""Line art from a photo."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any

from draxet.geometry.arrays import NDArray
from draxet.job.asked import Asked
from draxet.job.ranges import Within
from draxet.job.steps.step_kind import Frame, StepKind
from draxet.pixels.grey_levels import grey_of
from draxet.pixels.lineart import line_art
from draxet.progress import Progress
from draxet.record import record

__all__ = ["LineArt"]


@record(frozen=True)
class LineArt(StepKind):
    """Dark clean lines in place of a photo. `strength` 0..100: how faint an edge still becomes a
    line; `detail` 0..100: how fine."""

    slow = True

    strength: Annotated[
        int, Within(0, 100), Asked("Strength: how faint an edge still counts", slider=(0, 100))
    ] = 50
    detail: Annotated[int, Within(0, 100), Asked("Detail", slider=(0, 100))] = 50

    @classmethod
    def offers(cls) -> Sequence[tuple[str, StepKind]]:
        return (("Line art from a photo", cls()),)

    def words(self, unit: str, pixel: float) -> str:
        return "Line art from a photo"

    def on_pixels(self, pixels: NDArray[Any], frame: Frame, report: Progress) -> NDArray[Any]:
        return line_art(grey_of(pixels), self.strength, self.detail, report)
