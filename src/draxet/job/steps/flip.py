"""Mirroring."""

from __future__ import annotations

from collections.abc import Sequence

from draxet.geometry.affine import Affine
from draxet.job.steps.step_kind import StepKind
from draxet.record import record

__all__ = ["Flip"]


@record(frozen=True)
class Flip(StepKind):
    """Mirrored left to right (``across``) or top to bottom."""

    moves = True

    across: bool

    @classmethod
    def offers(cls) -> Sequence[tuple[str, StepKind]]:
        return ("Flip left to right", cls(True)), ("Flip top to bottom", cls(False))

    def words(self, unit: str, pixel: float) -> str:
        return "Flip left to right" if self.across else "Flip top to bottom"

    def lay(self) -> Affine:
        return Affine.scaled(-1, 1) if self.across else Affine.scaled(1, -1)
