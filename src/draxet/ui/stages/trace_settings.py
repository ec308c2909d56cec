"""Settings of the Trace stage, as they are kept with the job."""

from __future__ import annotations

from typing import Annotated

from draxet.job.asked import Asked
from draxet.job.picture_records import Picture
from draxet.job.ranges import Coordinate, Count, Length, OneOf, Text, Within
from draxet.job.records import Job
from draxet.record import record
from draxet.trace.ground import PRESETS, Ground, corner_degrees_of, smooth_of, tolerance_of
from draxet.trace.left_out import LeftOut
from draxet.ui.model.session import Session

__all__ = ["MOST_SWATCHES", "Swatch", "TraceSettings", "trace_settings"]

_Byte = Annotated[int, Within(0, 255)]
MOST_SWATCHES = 64
_TRUE = "what is square or equal within the tolerance becomes exactly so"
_SOLIDS = "dots and filled shapes as they are, beside the middles of strokes"
_ADDS = "what is made is added to what was traced from the picture by other ways or settings; what lies on that already is left out"
_RIM = "what is bounded by the picture's own border is what the work lies on, no part of it"


@record(frozen=True)
class Swatch:
    """A colour (red, green, blue) that areas are traced by, and whether its areas are dropped."""

    colour: tuple[_Byte, _Byte, _Byte]
    name: Annotated[str, Text(200)]
    dropped: bool = False


@record
class TraceSettings:
    """Settings of the Trace stage, kept with the job. Areas in mm², lengths in mm.

    detail, smoothness : 0..100. area : outline of the chosen area in job space, all of the picture
    where empty.
    swatches : the colours of the picture `swatches_of`. left_out : places of pictures.
    """

    way: Annotated[str, OneOf(("edges", "middles", "colours"))] = "edges"
    """By which it was traced last."""
    preset: Annotated[str, OneOf(tuple(PRESETS))] = "ink"
    level: Annotated[float, Within(0.0, 256.0)] | None = None
    local: bool = False
    detail: Annotated[float, Within(0.0, 100.0), Asked("Detail", slider=(0, 100))] = float(
        PRESETS["ink"].detail
    )
    smoothness: Annotated[float, Within(0.0, 100.0), Asked("Smoothness", slider=(0, 100))] = float(
        PRESETS["ink"].smoothness
    )
    speck: Annotated[float, Within(0.0, 1e10), Asked("Smallest speck", "mm²")] = 2.0
    tolerance: Length | None = None
    middles: Annotated[
        bool, Asked("A drawn line gives", choices=((False, "both edges"), (True, "the middle")))
    ] = False
    true_shapes: Annotated[bool, Asked("True shapes: square lines, equal radii", tip=_TRUE)] = True
    keep_rim: Annotated[bool, Asked("Keep the ground at the rim", tip=_RIM)] = False
    min_length: Annotated[float, Within(0.0, 1e8), Asked("Shortest stroke", "mm")] = 2.0
    join_gap: Annotated[float, Within(0.0, 1e8), Asked("Join gaps up to", "mm")] = 0.0
    solids: Annotated[bool, Asked("Outlines of what is no stroke", tip=_SOLIDS)] = True
    adds: Annotated[bool, Asked("Keep what was traced before", tip=_ADDS)] = False
    area: Annotated[tuple[tuple[Coordinate, Coordinate], ...], Count(0, 1000)] = ()
    stacked: Annotated[bool, Asked("Stacked: areas reach on beneath")] = False
    swatches: Annotated[tuple[Swatch, ...], Count(0, MOST_SWATCHES)] = ()
    swatches_of: str = ""
    left_out: Annotated[tuple[LeftOut, ...], Count(0, 5000)] = ()

    def ground(self, picture: Picture) -> Ground:
        back = picture.to_job.inverse()
        return Ground(
            self.local, smooth_of(self.smoothness), tuple(back.point(x, y) for x, y in self.area)
        )

    def tolerance_px(self, picture: Picture, job: Job) -> float:
        """From the typed tolerance, or from the detail; never finer than a quarter of what the work
        must hold."""
        if self.tolerance is not None:
            return max(self.tolerance / picture.pixel_size, 0.05)
        return max(
            tolerance_of(self.detail), min(0.25 * job.exactness.tolerance / picture.pixel_size, 3.0)
        )

    @property
    def corner_degrees(self) -> float:
        return corner_degrees_of(self.smoothness)

    def take_preset(self, name: str, picture: Picture | None) -> None:
        """Settings for a kind of picture; all of them can be changed afterwards."""
        preset = PRESETS[name]
        self.preset, self.local, self.detail, self.smoothness = (
            name,
            preset.local,
            float(preset.detail),
            float(preset.smoothness),
        )
        self.tolerance, self.level = None, None
        if picture:
            self.speck = preset.speck * picture.pixel_size**2


def trace_settings(session: Session) -> TraceSettings:
    """The session's settings for tracing."""
    return session.desk.settings("trace", TraceSettings)
