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


@record
class PictureSettings:
    """pixels, high : how wide and high it is; 0 where its dots an inch, or its other side, say that;
    where both are given, what is shown is fitted and in the middle. art : whether it shows what is
    drawn alone, and not the whole sheet; margin : mm about that."""

    dpi: Annotated[float, Within(20.0, 2400.0), Asked("Picture", " dpi")] = 300.0
    pixels: Annotated[
        int,
        Within(0, 20_000),
        Asked("Pixels wide", tip="0 goes by the dots an inch", zero="by dots"),
    ] = 0
    high: Annotated[
        int,
        Within(0, 20_000),
        Asked(
            "Pixels high",
            tip="0 goes by the width; with both, what is shown is fitted in",
            zero="by width",
        ),
    ] = 0
    transparent: Annotated[bool, Asked("Picture without a ground")] = False
    art: Annotated[bool, Asked("Only what is drawn, not the sheet")] = False
    margin: Annotated[float, Within(0.0, 500.0), Asked("Margin about it", "mm")] = 1.0


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
        around = asked.margin
        box = (x0 - around, y0 - around, x1 + around, y1 + around)
    box, dpi = _fitted(box, asked)
    return _Seen(layers, box, dpi, asked.transparent)


def _fitted(
    box: tuple[float, float, float, float], asked: PictureSettings
) -> tuple[tuple[float, float, float, float], float]:
    """What is seen, in the middle of a picture of the sides that are asked for, and how finely."""
    x0, y0, x1, y1 = box
    wide, high = x1 - x0, y1 - y0
    scales = [
        asked_for / there
        for asked_for, there in ((asked.pixels, wide), (asked.high, high))
        if asked_for and there > 0
    ]
    if not scales:
        return box, asked.dpi
    scale = min(scales)
    if len(scales) == 2:
        x, y = (x0 + x1) / 2, (y0 + y1) / 2
        dx, dy = asked.pixels / scale / 2, asked.high / scale / 2
        box = (x - dx, y - dy, x + dx, y + dy)
    return box, _INCH * scale


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
