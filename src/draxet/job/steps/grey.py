"""Grey by one of several channels."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any

import numpy as np

from draxet.geometry.arrays import NDArray
from draxet.job.asked import Asked
from draxet.job.ranges import OneOf
from draxet.job.steps.step_kind import Frame, StepKind
from draxet.pixels.grey_levels import grey_of
from draxet.progress import Progress
from draxet.record import record

__all__ = ["CHANNELS", "GreyBy"]

CHANNELS = ("eye", "red", "green", "blue", "darkest", "lightest")


@record(frozen=True)
class GreyBy(StepKind):
    """Grey from one of ``CHANNELS``: as the eye weighs colours, one colour's channel, or each
    place's darkest or lightest."""

    channel: Annotated[
        str, OneOf(CHANNELS), Asked("", choices=tuple((each, each) for each in CHANNELS))
    ] = "eye"

    @classmethod
    def offers(cls) -> Sequence[tuple[str, StepKind]]:
        return (("Grey by channel", cls("red")),)

    def words(self, unit: str, pixel: float) -> str:
        return (
            f"Grey by {self.channel}"
            if self.channel in CHANNELS[1:4]
            else {"eye": "Grey as the eye sees"}.get(self.channel, f"Grey by the {self.channel}")
        )

    def on_pixels(self, pixels: NDArray[Any], frame: Frame, report: Progress) -> NDArray[Any]:
        if pixels.ndim == 2 or self.channel == "eye":
            return grey_of(pixels)
        if self.channel in ("darkest", "lightest"):
            return np.ascontiguousarray(
                pixels.min(axis=2) if self.channel == "darkest" else pixels.max(axis=2)
            )
        return np.ascontiguousarray(pixels[..., CHANNELS[1:4].index(self.channel)])
