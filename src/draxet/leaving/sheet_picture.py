"""What is worked as a picture."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from draxet.formats.art import read_size, sheet_png
from draxet.formats.drawn_marks import outlines_of
from draxet.formats.layer import Layer
from draxet.geometry.contour import boxes_of
from draxet.job.asked import Asked
from draxet.job.ranges import Within
from draxet.leaving.leaving_kind import Leaving, LeavingKind, LookSettings, ReadBack
from draxet.progress import Progress
from draxet.record import record

__all__ = ["PICTURE", "PictureSettings"]

_INCH = 25.4
_AROUND = 1.0
"""mm round what is worked, where the sheet is not seen."""


@record
class PictureSettings:
    """pixels : how wide it is; 0 where its dots an inch say that. art : whether it shows what is
    worked alone, and not the whole sheet."""

    dpi: Annotated[float, Within(20.0, 2400.0), Asked("Picture", " dpi")] = 300.0
    pixels: Annotated[
        int, Within(0, 20_000), Asked("Pixels wide", tip="0 goes by the dots an inch")
    ] = 0
    transparent: Annotated[bool, Asked("Picture without a ground")] = False
    art: Annotated[bool, Asked("Only what is worked, not the sheet")] = False


@record(frozen=True)
class _Seen:
    """Layers seen in a box (mm), and how finely."""

    layers: tuple[Layer, ...]
    box: tuple[float, float, float, float]
    dpi: float
    transparent: bool

    @property
    def size(self) -> tuple[int, int]:
        x0, y0, x1, y1 = self.box
        return (
            max(round((x1 - x0) * self.dpi / _INCH), 1),
            max(round((y1 - y0) * self.dpi / _INCH), 1),
        )


def _seen(leaving: Leaving, path: Path) -> _Seen:
    asked, layers = leaving.set(PictureSettings), tuple(leaving.layers_on_sheet)
    box = (0.0, 0.0, leaving.run.sheet.width, leaving.run.sheet.height)
    if asked.art:
        boxes = boxes_of(
            [outline for layer in layers for mark in layer.marks for outline in outlines_of(mark)]
        )
        (x0, y0), (x1, y1) = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
        box = (x0 - _AROUND, y0 - _AROUND, x1 + _AROUND, y1 + _AROUND)
    dpi = _INCH * asked.pixels / (box[2] - box[0]) if asked.pixels else asked.dpi
    return _Seen(layers, box, dpi, asked.transparent)


def _read_back(seen: _Seen, path: Path, report: Progress) -> ReadBack:
    wide, high, dpi = read_size(path)
    good = (wide, high) == seen.size and abs(dpi - seen.dpi) < 1
    words = f"{wide} × {high} pixels, {dpi:.0f} dots an inch"
    return ReadBack(good, words if good else f"{words}, which is not what was written")


PICTURE = LeavingKind(
    "png",
    "Picture (PNG)",
    " - picture.png",
    _seen,
    lambda seen, report: sheet_png(seen.layers, seen.box, seen.dpi, transparent=seen.transparent),
    _read_back,
    (LookSettings, PictureSettings),
)
