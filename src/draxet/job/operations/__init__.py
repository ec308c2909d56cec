"""Operations: what a machine does to contours. One module for each kind."""

from __future__ import annotations

from typing import TYPE_CHECKING, Union

from draxet.job.operations.cut import CutThrough
from draxet.job.operations.draw import Draw
from draxet.job.operations.drill import Drill
from draxet.job.operations.engrave import Engrave
from draxet.job.operations.operation_kind import Operation, Side, Spot, Toolpath
from draxet.job.operations.pocket import Pocket
from draxet.job.operations.raise_sink import Raise
from draxet.job.operations.score import Score
from draxet.job.operations.stitch import Stitch
from draxet.job.operations.turn_round import Turn

__all__ = [
    "AnyOperation",
    "CutThrough",
    "Draw",
    "Drill",
    "Engrave",
    "OPERATION_KINDS",
    "Operation",
    "Pocket",
    "Raise",
    "Score",
    "Side",
    "Spot",
    "Stitch",
    "Toolpath",
    "Turn",
]

OPERATION_KINDS: tuple[type[Operation], ...] = (
    CutThrough,
    Score,
    Engrave,
    Pocket,
    Drill,
    Draw,
    Stitch,
    Raise,
    Turn,
)
"""Every kind, in the order of the card."""

if TYPE_CHECKING:
    AnyOperation = Operation
else:
    AnyOperation = Union[OPERATION_KINDS]  # what the codec reads an operation by
