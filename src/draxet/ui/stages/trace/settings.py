"""Settings of the Trace stage, as they are kept with the job."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from draxet.job.ranges import Coordinate, Count, Length, OneOf, Text, Within
from draxet.job.records import Job, Picture
from draxet.trace.ground import PRESETS, Ground, corner_degrees_of, smooth_of, tolerance_of
from draxet.ui.shell.session import Session

__all__ = ["MOST_SWATCHES", "Swatch", "TraceSettings", "trace_settings"]

_Byte = Annotated[int, Within(0, 255)]
MOST_SWATCHES = 64


@dataclass(frozen=True)
class Swatch:
    """A colour (red, green, blue) that areas are traced by, and whether its areas are dropped."""

    colour: tuple[_Byte, _Byte, _Byte]
    name: Annotated[str, Text(200)]
    dropped: bool = False


@dataclass
class TraceSettings:
    """Settings of the Trace stage, kept with the job. Areas in mm², lengths in mm.

    detail, smoothness : 0..100. area : outline of the chosen area in job space, all of the picture where empty.
    swatches : the colours of the picture `swatches_of`.
    """

    preset: Annotated[str, OneOf(tuple(PRESETS))] = "ink"
    level: Annotated[float, Within(0.0, 256.0)] | None = None
    local: bool = False
    detail: Annotated[float, Within(0.0, 100.0)] = float(PRESETS["ink"].detail)
    smoothness: Annotated[float, Within(0.0, 100.0)] = float(PRESETS["ink"].smoothness)
    speck: Annotated[float, Within(0.0, 1e10)] = 2.0
    tolerance: Length | None = None
    middles: bool = False
    true_shapes: bool = True
    keep_rim: bool = False
    min_length: Annotated[float, Within(0.0, 1e8)] = 2.0
    join_gap: Annotated[float, Within(0.0, 1e8)] = 0.0
    area: Annotated[tuple[tuple[Coordinate, Coordinate], ...], Count(0, 1000)] = ()
    stacked: bool = False
    swatches: Annotated[tuple[Swatch, ...], Count(0, MOST_SWATCHES)] = ()
    swatches_of: str = ""

    def ground(self, picture: Picture) -> Ground:
        back = picture.to_job.inverse()
        return Ground(self.local, smooth_of(self.smoothness), tuple(back.point(x, y) for x, y in self.area))

    def tolerance_px(self, picture: Picture, job: Job) -> float:
        """From the typed tolerance, or from the detail; never finer than a quarter of what the work must hold."""
        if self.tolerance is not None:
            return max(self.tolerance / picture.pixel_size, 0.05)
        return max(tolerance_of(self.detail), min(0.25 * job.exactness.tolerance / picture.pixel_size, 3.0))

    @property
    def corner_degrees(self) -> float:
        return corner_degrees_of(self.smoothness)

    def take_preset(self, name: str, picture: Picture | None) -> None:
        """Settings for a kind of picture; all of them can be changed afterwards."""
        preset = PRESETS[name]
        self.preset, self.local, self.detail, self.smoothness = name, preset.local, float(preset.detail), float(preset.smoothness)
        self.tolerance, self.level = None, None
        if picture:
            self.speck = preset.speck * picture.pixel_size**2


def trace_settings(session: Session) -> TraceSettings:
    """The session's settings for tracing."""
    return session.settings("trace", TraceSettings)
