"""Quarter turns."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated

from draxet.geometry.affine import Affine
from draxet.job.ranges import Within
from draxet.job.steps.step_kind import StepKind
from draxet.record import record

__all__ = ["Turn"]


@record(frozen=True)
class Turn(StepKind):
    """Quarter turns to the left."""

    moves = True

    quarters: Annotated[int, Within(-1000, 1000)]

    @classmethod
    def offers(cls) -> Sequence[tuple[str, StepKind]]:
        return ("Quarter turn left", cls(1)), ("Quarter turn right", cls(3))

    def words(self, unit: str, pixel: float) -> str:
        return {1: "Quarter turn left", 2: "Half turn", 3: "Quarter turn right"}.get(
            self.quarters % 4, "No turn"
        )

    def lay(self) -> Affine:
        return Affine.turned(90.0 * (self.quarters % 4))
