"""Prepare steps: what is done to a picture between its file and the picture that is worked with.
One module for each kind."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Union

from draxet.geometry.affine import Affine
from draxet.job.steps.contrast import Contrast
from draxet.job.steps.cover import Cover
from draxet.job.steps.crop import Crop
from draxet.job.steps.edge_marks import EdgeMarks
from draxet.job.steps.flip import Flip
from draxet.job.steps.grey import CHANNELS, GreyBy
from draxet.job.steps.invert import Invert
from draxet.job.steps.light import EvenLight
from draxet.job.steps.line_art import LineArt
from draxet.job.steps.shrink import Shrink
from draxet.job.steps.specks import Specks
from draxet.job.steps.step_kind import Frame, StepKind
from draxet.job.steps.turn import Turn
from draxet.record import record

__all__ = [
    "CHANNELS",
    "Contrast",
    "Cover",
    "Crop",
    "EdgeMarks",
    "EvenLight",
    "Flip",
    "Frame",
    "GreyBy",
    "Invert",
    "LineArt",
    "PrepareStep",
    "STEP_KINDS",
    "Shrink",
    "Specks",
    "StepKind",
    "Turn",
    "orientation",
    "worked_frame",
]

STEP_KINDS: tuple[type[StepKind], ...] = (
    EvenLight,
    Specks,
    EdgeMarks,
    Contrast,
    GreyBy,
    Invert,
    LineArt,
    Turn,
    Flip,
    Crop,
    Shrink,
    Cover,
)
"""Every kind, in the order of the menu."""

if TYPE_CHECKING:
    _AnyKind = StepKind
else:
    _AnyKind = Union[STEP_KINDS]  # what the codec reads a kind by


@record(frozen=True)
class PrepareStep:
    """A step and whether it is switched on."""

    kind: _AnyKind
    on: bool = True


def worked_frame(size: tuple[int, int], steps: Sequence[PrepareStep]) -> Frame:
    """What crops and shrinkings leave of a picture of `size` (width, height) base pixels."""
    box, factor = (0, 0, size[0], size[1]), 1.0
    for step in steps:
        if step.on and isinstance(step.kind, Crop):
            box = step.kind.within(box)
        elif step.on and isinstance(step.kind, Shrink):
            factor = max(factor, step.kind.factor)
    left, top, right, bottom = box
    left, top = min(left, size[0] - 2), min(top, size[1] - 2)
    right, bottom = max(right, left + 2), max(bottom, top + 2)
    wide, high = max(2, round((right - left) / factor)), max(2, round((bottom - top) / factor))
    return Frame(
        (wide, high),
        Affine((right - left) / wide, 0.0, float(left), 0.0, (bottom - top) / high, float(top)),
    )


def orientation(steps: Sequence[PrepareStep]) -> Affine:
    """How turns and flips lay a picture about its own middle, y up."""
    whole = Affine()
    for step in steps:
        if step.on:
            whole = whole.then(step.kind.lay())
    return whole
