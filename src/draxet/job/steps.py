"""Prepare steps: what is done to a picture between its file and the picture that is worked with.

*Base* pixels are those of the file (of the plan, where a photo is squared); places in steps are always base pixels, so
that steps can be put in another order or switched off without moving anything. Turns and flips act on the picture where
it lies; every other step acts on its pixels.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from draxet.geometry.affine import Affine
from draxet.job.ranges import Count, OneOf, Percent, Pixels, Within

__all__ = [
    "CHANNELS", "Contrast", "Cover", "Crop", "EdgeMarks", "EvenLight", "Flip", "GreyBy", "Invert", "LineArt", "PrepareStep", "Shrink", "Specks",
    "StepKind", "Turn", "orientation", "worked_frame",
]  # fmt: skip

CHANNELS = ("eye", "red", "green", "blue", "darkest", "lightest")


@dataclass(frozen=True)
class Crop:
    """Only what lies in the box is kept, from (x0, y0) to (x1, y1)."""

    x0: Pixels
    y0: Pixels
    x1: Pixels
    y1: Pixels


@dataclass(frozen=True)
class Turn:
    """Quarter turns to the left."""

    quarters: Annotated[int, Within(-1000, 1000)]


@dataclass(frozen=True)
class Flip:
    """Mirrored left to right (``across``) or top to bottom."""

    across: bool


@dataclass(frozen=True)
class GreyBy:
    """Grey from one of ``CHANNELS``: as the eye weighs colours, one colour's channel, or each place's darkest or lightest."""

    channel: Annotated[str, OneOf(CHANNELS)] = "eye"


@dataclass(frozen=True)
class EvenLight:
    """Uneven light and paper shade taken out."""


@dataclass(frozen=True)
class Specks:
    """Spots up to `size` base pixels wide and high taken out."""

    size: Annotated[int, Within(0, 10_000)] = 6


@dataclass(frozen=True)
class EdgeMarks:
    """Marks taken out that lie wholly within `reach` base pixels of the border: scanner edges, punched holes, corner marks."""

    reach: Annotated[int, Within(0, 10_000)] = 40


@dataclass(frozen=True)
class Contrast:
    """From 0 (as it is) to 100 (black and white only)."""

    amount: Percent = 40


@dataclass(frozen=True)
class Invert:
    """Dark and light exchanged."""


@dataclass(frozen=True)
class Shrink:
    """Fewer pixels: `factor` base pixels become one each way."""

    factor: Annotated[float, Within(1.0, 10_000.0)] = 2.0


@dataclass(frozen=True)
class LineArt:
    """Dark clean lines in place of a photo. `strength` 0..100: how faint an edge still becomes a line; `detail` 0..100: how fine."""

    strength: Percent = 50
    detail: Percent = 50


@dataclass(frozen=True)
class Cover:
    """Part of the picture blanked out with the paper's own colour, inside an outline of three or more places."""

    outline: Annotated[tuple[tuple[Pixels, Pixels], ...], Count(3, 100_000)]


StepKind = Crop | Turn | Flip | GreyBy | EvenLight | Specks | EdgeMarks | Contrast | Invert | Shrink | LineArt | Cover


@dataclass(frozen=True)
class PrepareStep:
    """A step and whether it is switched on."""

    kind: StepKind
    on: bool = True


def worked_frame(size: tuple[int, int], steps: Sequence[PrepareStep]) -> tuple[tuple[int, int], Affine]:
    """What crops and shrinkings leave of a picture of `size` (width, height) base pixels: the size that is worked with, and
    the map from its pixels to base pixels."""
    left, top, right, bottom, factor = 0, 0, size[0], size[1], 1.0
    for step in steps:
        if step.on and isinstance(step.kind, Crop):
            box = step.kind
            left, top = max(left, round(min(box.x0, box.x1))), max(top, round(min(box.y0, box.y1)))
            right, bottom = min(right, round(max(box.x0, box.x1))), min(bottom, round(max(box.y0, box.y1)))
        elif step.on and isinstance(step.kind, Shrink):
            factor = max(factor, step.kind.factor)
    left, top = min(left, size[0] - 2), min(top, size[1] - 2)
    right, bottom = max(right, left + 2), max(bottom, top + 2)
    wide, high = max(2, round((right - left) / factor)), max(2, round((bottom - top) / factor))
    return (wide, high), Affine((right - left) / wide, 0.0, float(left), 0.0, (bottom - top) / high, float(top))


def orientation(steps: Sequence[PrepareStep]) -> Affine:
    """How turns and flips lay a picture about its own middle, y up."""
    whole = Affine()
    for step in steps:
        if step.on and isinstance(step.kind, Turn):
            whole = whole.then(Affine.turned(90.0 * (step.kind.quarters % 4)))
        elif step.on and isinstance(step.kind, Flip):
            whole = whole.then(Affine.scaled(-1, 1) if step.kind.across else Affine.scaled(1, -1))
    return whole
