"""What every prepare step is: a frozen record that says itself in words and knows what it does to
pixels.

*Base* pixels are those of the file (of the plan, where a photo is squared); places in steps are
always base pixels, so that steps can be put in another order or switched off without moving
anything. Turns and flips act on the picture where it lies; every other step acts on its pixels.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar, Self

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import NDArray
from draxet.progress import Progress
from draxet.record import record

__all__ = ["Frame", "StepKind"]


@record(frozen=True)
class Frame:
    """What crops and shrinkings leave: `size` (width, height) in pixels, and the map from these to
    base pixels."""

    size: tuple[int, int]
    to_base: Affine


class StepKind:
    """A kind of step; each is a frozen dataclass. What it does not care about it leaves as it is.

    slow : whether its work is worth a worker. moves : whether it acts on where the picture lies and
    not on its pixels.
    """

    slow: ClassVar[bool] = False
    moves: ClassVar[bool] = False

    @classmethod
    def offers(cls) -> Sequence[tuple[str, StepKind]]:
        """What stands in the menu of steps: words, and the step that is added."""
        return ()

    def words(self, unit: str, pixel: float) -> str:
        """The step in a few words; `pixel` is mm a base pixel, `unit` that of lengths."""
        raise NotImplementedError

    def smaller(self, factor: float) -> Self:
        """The same for a picture that was shrunk `factor` times."""
        return self

    def lay(self) -> Affine:
        """How it lays the picture about its own middle, y up."""
        return Affine()

    def on_pixels(self, pixels: NDArray[Any], frame: Frame, report: Progress) -> NDArray[Any]:
        """Pixels (rows, columns[, 3]) of uint8 after the step; those that come in are not
        changed."""
        return pixels
