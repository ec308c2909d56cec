"""Drawings: the contours to be cut, and nothing else, in layers."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Annotated

import numpy as np

from draxet.formats.drawn_marks import alike_of, outlines_of
from draxet.formats.dxf import DXF, layer_name
from draxet.formats.layer import Format, Layer, Page
from draxet.formats.svg import SVG
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour, boxes_of
from draxet.geometry.spans import CUBIC
from draxet.job.asked import Asked
from draxet.job.ranges import OneOf, Within
from draxet.leaving.comparing import greatest_difference
from draxet.leaving.leaving_kind import Leaving, LeavingKind, LookSettings, ReadBack
from draxet.progress import Progress, Unwatched
from draxet.record import record

__all__ = ["DRAWING_KINDS", "DrawingSettings", "SheetDrawing", "compare_drawing"]

_EXACT = 0.001
"""mm: what numbers in a file may be off by their last places."""


@record
class DrawingSettings:
    """frame : what a frame of known size goes round; margin : mm between that and what is drawn."""

    frame: Annotated[
        str,
        OneOf(("none", "sheet", "drawn")),
        Asked(
            "A frame in drawings",
            choices=(("none", "none"), ("sheet", "sheet's rim"), ("drawn", "round it")),
            tip="round it: what is drawn, with a margin; the layer's name says how large it is",
        ),
    ] = "none"
    margin: Annotated[float, Within(0.0, 1e4), Asked("Margin in the frame", "mm", zero="none")] = (
        5.0
    )

    def is_asked(self, name: str) -> bool:
        """Whether a setting counts beside the others."""
        return name != "margin" or self.frame == "drawn"


@record(frozen=True)
class SheetDrawing:
    """Layers as a format can hold them, on a page."""

    format: Format
    layers: tuple[Layer, ...]
    page: Page

    @property
    def allowed(self) -> float:
        """How far what is read back may lie off, in mm."""
        bent = not self.format.curves and any(
            (outline.kinds == CUBIC).any() for outline in _outlines(self.layers)
        )
        return self.page.tolerance + _EXACT if bent else _EXACT


def _sheet_drawing(format_: Format, leaving: Leaving) -> SheetDrawing:
    sheet = leaving.run.sheet
    layers = list(leaving.layers)
    asked, page = leaving.set(DrawingSettings), sheet.box
    if asked.frame != "none":
        page = sheet.box if asked.frame == "sheet" else _round(layers, asked.margin)
        layers.append(_frame(page))
    x, y = sheet.origin_place if format_.from_origin else page[:2]
    if (x, y) != (0, 0):
        layers = [layer.transformed(Affine.moved(-x, -y)) for layer in layers]
    held = tuple(layer.holding(*format_.holds) for layer in layers)
    return SheetDrawing(format_, held, Page(page[2] - page[0], page[3] - page[1]))


def _round(layers: Sequence[Layer], margin: float) -> tuple[float, float, float, float]:
    """The box of what is drawn, with a margin."""
    boxes = boxes_of(_outlines(layers))
    (x0, y0), (x1, y1) = boxes[:, :2].min(axis=0).tolist(), boxes[:, 2:].max(axis=0).tolist()
    return x0 - margin, y0 - margin, x1 + margin, y1 + margin


def _frame(box: tuple[float, float, float, float]) -> Layer:
    x0, y0, x1, y1 = box
    rim = Contour.make([(x0, y0), (x1, y0), (x1, y1), (x0, y1)])
    return Layer(f"frame {x1 - x0:.6g} x {y1 - y0:.6g} mm", (rim,))


def compare_drawing(drawing: SheetDrawing, path: Path, report: Progress = Unwatched()) -> ReadBack:
    """What a file holds, held against the drawing that it was written from: in each layer as many
    marks, alike, and nowhere farther off than is allowed."""
    found = drawing.format.read(path)
    report(0.7, "comparing what was written")
    mine = {layer_name(layer.name): layer.marks for layer in drawing.layers}
    theirs = {layer_name(layer.name): layer.marks for layer in found}
    wrong = [
        name
        for name in {**mine, **theirs}
        if [alike_of(mark) for mark in mine.get(name, ())]
        != [alike_of(mark) for mark in theirs.get(name, ())]
    ]
    worst = 0.0
    for name, marks in mine.items():
        pair = _outlines_of_marks(marks), _outlines_of_marks(theirs.get(name, ()))
        worst = max(worst, greatest_difference(*pair, drawing.allowed, report))
    wanted, there = _outlines(drawing.layers), _outlines(found)
    boxes = np.array([outline.box for outline in there]) if there else np.zeros((1, 4))
    wide, high = (boxes[:, 2:].max(axis=0) - boxes[:, :2].min(axis=0)).tolist()
    closed = sum(each.closed for each in there)
    return ReadBack(
        not wrong and len(there) == len(wanted) and worst <= drawing.allowed,
        f"{len(there)} of {len(wanted)} contours, {closed} closed, within {worst:.4f} mm, {wide:.2f} × {high:.2f} mm",
    )


def _outlines(layers: Sequence[Layer]) -> list[Contour]:
    return [outline for layer in layers for outline in _outlines_of_marks(layer.marks)]


def _outlines_of_marks(marks: Sequence[object]) -> list[Contour]:
    return [outline for mark in marks for outline in outlines_of(mark)]


def _kind_of(key: str, format_: Format) -> LeavingKind[SheetDrawing]:
    return LeavingKind(
        key,
        f"{format_.name} drawing",
        f".{format_.ending}",
        lambda leaving, path: _sheet_drawing(format_, leaving),
        lambda drawing, report: format_.write(drawing.layers, drawing.page, report),
        compare_drawing,
        (LookSettings, DrawingSettings),
        signs=True,
        format=format_,
    )


DRAWING_KINDS = (_kind_of("dxf", DXF), _kind_of("svg", SVG))
