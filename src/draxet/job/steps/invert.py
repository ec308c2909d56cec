"""Dark and light exchanged."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from draxet.geometry.arrays import NDArray
from draxet.job.steps.step_kind import Frame, StepKind
from draxet.progress import Progress
from draxet.record import record

__all__ = ["Invert"]


@record(frozen=True)
class Invert(StepKind):
    """Dark and light exchanged."""

    @classmethod
    def offers(cls) -> Sequence[tuple[str, StepKind]]:
        return (("Exchange dark and light", cls()),)

    def words(self, unit: str, pixel: float) -> str:
        return "Exchange dark and light"

    def on_pixels(self, pixels: NDArray[Any], frame: Frame, report: Progress) -> NDArray[Any]:
        return np.asarray(255 - pixels)
