"""``draxet trace``: a picture becomes an SVG or DXF of true size: edges, middles of strokes or
areas of colour."""

from __future__ import annotations

import argparse
import contextlib
import json
import os
import time
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from draxet.files import reason, same_file, write_whole
from draxet.formats.drawn_marks import Area
from draxet.formats.layer import Layer, Page
from draxet.gather.load import PictureError, read_picture
from draxet.gather.place import MM_PER_INCH
from draxet.geometry.affine import Affine
from draxet.geometry.arrays import NDArray
from draxet.geometry.contour import Contour
from draxet.leaving import drawing_format
from draxet.pixels.grey_levels import grey_of
from draxet.progress import Unwatched
from draxet.record import record
from draxet.trace.closeness import Closeness, area_closeness_of, closeness_of, closeness_of_traced
from draxet.trace.colours import ColourRequest, trace_colours
from draxet.trace.edges import EdgeRequest, trace_edges
from draxet.trace.ground import PRESETS, Ground, Preset, corner_degrees_of, smooth_of, tolerance_of
from draxet.trace.middles import MiddleRequest, trace_middles
from draxet.trace.palette import fewer_than_wanted, suggested_palette
from draxet.units import format_number, parse_area, parse_length

__all__ = ["add_trace", "run_trace"]

_CURVES_WITHIN = 0.01
_INK = "#000000"
_DPI = (1.0, 100_000.0)
_FINEST = 0.01
_SMALLEST_PIXEL, _LARGEST_SIDE = 1e-5, 1e6
"""mm."""


def add_trace(commands: Any) -> None:
    """Add the command and its options to a parser's commands."""
    parser = commands.add_parser(
        "trace", help="trace a picture's edges to an SVG or DXF file", description=__doc__
    )
    parser.add_argument("picture", type=Path, metavar="PICTURE")
    parser.add_argument("-o", "--output", type=Path, required=True, metavar="OUT.svg|OUT.dxf")
    size = parser.add_mutually_exclusive_group(required=True)
    size.add_argument(
        "--width", metavar="LENGTH", help="the picture's real width, in any unit (240, 9 7/16 in)"
    )
    size.add_argument("--height", metavar="LENGTH", help="the picture's real height")
    size.add_argument("--dpi", metavar="N", help="the picture's dots an inch")
    parser.add_argument(
        "--method",
        choices=("edges", "middles", "colours"),
        default="edges",
        help="what is traced: edges of ink, middles of strokes, areas of colour",
    )
    parser.add_argument(
        "--colours",
        type=int,
        metavar="N",
        help="how many colours (colours only; as many as stand apart)",
    )
    parser.add_argument("--preset", choices=tuple(PRESETS), help="settings for a kind of picture")
    _add_settings(parser)
    parser.add_argument("--json", action="store_true", help="print what was found as JSON")


def _add_settings(parser: argparse.ArgumentParser) -> None:
    """What tells how a picture is traced."""
    parser.add_argument("--local", action="store_true", help="the threshold follows uneven light")
    parser.add_argument(
        "--threshold",
        default="auto",
        metavar="auto|0..255",
        help="brightness between ink and paper",
    )
    parser.add_argument(
        "--min-area", default="0.1 mm2", metavar="AREA", help="smallest speck to keep (0.1 mm2)"
    )
    parser.add_argument(
        "--tolerance",
        default=None,
        metavar="LENGTH",
        help="how far a contour may lie from the edge (0.1 pixels)",
    )
    parser.add_argument(
        "--min-length",
        default="1 mm",
        metavar="LENGTH",
        help="shortest open stroke to keep (middles only; 1 mm)",
    )
    parser.add_argument(
        "--join-gap",
        default="0 mm",
        metavar="LENGTH",
        help="gaps that are closed between strokes (middles only; 0)",
    )
    parser.add_argument(
        "--keep-rim",
        action="store_true",
        help="contours along the picture's own border are kept (edges only)",
    )
    parser.add_argument(
        "--stacked",
        action="store_true",
        help="areas reach on beneath those in front of them (colours only)",
    )


def run_trace(options: argparse.Namespace) -> int:
    """Trace as the options say; ValueError with one sentence where that cannot be done."""
    began = time.perf_counter()
    kind = drawing_format(options.output)
    if same_file(options.output, options.picture):
        raise ValueError(
            f"the output must be another file than the picture, got {options.output} for both"
        )
    with _libraries_hushed():
        pixels = read_picture(_bytes_of(options.picture), options.picture.name).pixels
    rows, columns = pixels.shape[:2]
    pixel = _pixel_size(options, columns, rows)
    traced = {"edges": _edges, "middles": _middles, "colours": _colours}[options.method](
        options, pixels, pixel
    )
    to_page = Affine(pixel, 0.0, 0.0, 0.0, -pixel, rows * pixel)
    layers = [
        Layer(name, tuple(contour.transformed(to_page) for contour in contours), colour)
        for name, contours, colour in traced.layers
    ]
    marks = layers
    if options.method != "middles":  # these bound areas
        marks = [
            replace(each, marks=(Area(each.contours, each.colour or _INK),)) for each in layers
        ]
    if not any(layer.contours for layer in layers):
        at = f" at the threshold {traced.threshold:.0f}" if traced.threshold is not None else ""
        raise ValueError(
            f"nothing was found in {options.picture}{at}, and nothing was written; try another --threshold, --local or a smaller --min-area"
        )
    width, height = columns * pixel, rows * pixel
    data = kind.write(marks, Page(width, height, _CURVES_WITHIN), Unwatched())
    try:
        write_whole(options.output, data)
    except OSError as error:
        raise ValueError(f"{options.output} could not be written: {reason(error)}") from error
    _report(options, layers, (width, height), traced, pixel, time.perf_counter() - began)
    return 0


@record(frozen=True)
class _Traced:
    """Layers of (name, contours in picture space, colour) and how near they lie to the picture
    (None for colours)."""

    layers: list[tuple[str, tuple[Contour, ...], str]]
    closeness: Closeness | None
    threshold: float | None
    widths: tuple[float, ...] = ()
    trued: str = ""
    remark: str = ""


def _ground(options: argparse.Namespace) -> tuple[Ground, Preset | None]:
    preset = PRESETS.get(options.preset or "")
    return Ground(
        options.local or bool(preset and preset.local),
        smooth_of(preset.smoothness) if preset else 0.0,
    ), preset


def _tolerance(options: argparse.Namespace, preset: Preset | None, pixel: float) -> float:
    if options.tolerance:
        tolerance = parse_length(options.tolerance, positive=True, what="--tolerance") / pixel
        if tolerance < _FINEST:
            raise ValueError(
                f"--tolerance must be at least {_FINEST:g} pixels, which is {_FINEST * pixel:.3g} mm here, got {options.tolerance!r}"
            )
        return tolerance
    return tolerance_of(preset.detail) if preset else 0.1


def _edges(options: argparse.Namespace, pixels: NDArray[Any], pixel: float) -> _Traced:
    ground, preset = _ground(options)
    corners = corner_degrees_of(preset.smoothness) if preset else 30.0
    answer = trace_edges(
        EdgeRequest(
            grey_of(pixels),
            _level(options.threshold),
            parse_area(options.min_area, what="--min-area") / pixel**2,
            _tolerance(options, preset, pixel),
            ground=ground,
            corner_degrees=corners,
            true_shapes=True,
            keep_rim=options.keep_rim,
        )
    )
    close = closeness_of(answer.contours, answer.values, answer.level)
    return _Traced(
        [("contours", answer.contours, "")],
        close,
        answer.level,
        trued=answer.trued,
        remark=_light(answer.light_followed),
    )


def _light(followed: bool) -> str:
    return "the light is uneven; the automatic threshold follows it" * followed


def _middles(options: argparse.Namespace, pixels: NDArray[Any], pixel: float) -> _Traced:
    ground, preset = _ground(options)
    answer = trace_middles(
        MiddleRequest(
            grey_of(pixels),
            _level(options.threshold),
            parse_length(options.min_length, what="--min-length") / pixel,
            parse_length(options.join_gap, what="--join-gap") / pixel,
            _tolerance(options, preset, pixel),
            ground,
            solids=True,
            min_area=parse_area(options.min_area, what="--min-area") / pixel**2,
        )
    )
    strokes = len(answer.widths)
    layers = [("middles", answer.contours[:strokes], "")]
    if solids := answer.contours[strokes:]:
        layers.append(("contours", solids, ""))
    close = closeness_of_traced(
        answer.contours,
        answer.traced,
        answer.values,
        answer.level,
        answer.values,
        answer.solids,
    )
    return _Traced(
        layers,
        close,
        answer.level,
        answer.widths,
        remark=_light(answer.light_followed),
    )


def _colours(options: argparse.Namespace, pixels: NDArray[Any], pixel: float) -> _Traced:
    ground, preset = _ground(options)
    rgb = np.repeat(pixels[..., None], 3, axis=2) if pixels.ndim == 2 else pixels
    palette = suggested_palette(rgb, options.colours)
    answer = trace_colours(
        ColourRequest(
            rgb,
            palette.colours,
            parse_area(options.min_area, what="--min-area") / pixel**2,
            _tolerance(options, preset, pixel),
            ground.smooth,
            options.stacked,
        )
    )
    layers = [
        (f"colour {a.number + 1}", a.contours, "#{:02x}{:02x}{:02x}".format(*a.colour))
        for a in answer.areas
    ]
    return _Traced(
        layers,
        area_closeness_of(answer.contours, pixels),
        None,
        remark=fewer_than_wanted(palette, options.colours),
    )


def _bytes_of(path: Path) -> bytes:
    try:
        if path.exists() and not path.is_file():
            raise PictureError(f"{path} is no file; name a picture")
        return path.read_bytes()
    except (OSError, ValueError) as error:
        raise PictureError(
            str(error)
            if isinstance(error, PictureError)
            else f"{path} could not be read: {reason(error)}"
        ) from error


@contextlib.contextmanager
def _libraries_hushed() -> Iterator[None]:
    """What decoders print of damaged files by themselves goes nowhere: people get one sentence."""
    try:
        kept, nowhere = os.dup(2), os.open(os.devnull, os.O_WRONLY)
    except OSError:
        yield
        return
    try:
        os.dup2(nowhere, 2)
        yield
    finally:
        os.dup2(kept, 2)
        os.close(kept)
        os.close(nowhere)


def _pixel_size(options: argparse.Namespace, columns: int, rows: int) -> float:
    if options.width is not None:
        pixel = parse_length(options.width, positive=True, what="--width") / columns
    elif options.height is not None:
        pixel = parse_length(options.height, positive=True, what="--height") / rows
    else:
        pixel = MM_PER_INCH / _number(options.dpi, "--dpi", *_DPI)
    if not _SMALLEST_PIXEL <= pixel or max(columns, rows) * pixel > _LARGEST_SIDE:
        raise ValueError(
            f"the picture must become from {_SMALLEST_PIXEL:g} mm a pixel to {_LARGEST_SIDE / 1000:g} m wide and high, got {pixel:.3g} mm a pixel"
        )
    return pixel


def _number(text: str, name: str, low: float, high: float) -> float:
    try:
        value = float(text)
    except ValueError:
        value = float("nan")
    if not low <= value <= high:
        raise ValueError(f"{name} must be a number from {low:g} to {high:g}, got {text[:40]!r}")
    return value


def _level(text: str) -> float | None:
    if text == "auto":
        return None
    return _number(text, "--threshold", 0, 255)


def _report(
    options: argparse.Namespace,
    layers: list[Layer],
    size: tuple[float, float],
    traced: _Traced,
    pixel: float,
    seconds: float,
) -> None:
    contours = [contour for layer in layers for contour in layer.contours]
    closed = sum(contour.closed for contour in contours)
    facts: dict[str, Any] = {
        "method": options.method,
        "contours": len(contours),
        "closed": closed,
        "open": len(contours) - closed,
        "nodes": sum(len(contour.nodes) for contour in contours),
        "size_mm": [round(size[0], 4), round(size[1], 4)],
        "threshold": None if traced.threshold is None else round(traced.threshold, 2),
        "seconds": round(seconds, 3),
    }
    if traced.closeness is not None:
        mean, greatest = traced.closeness.mean, traced.closeness.greatest
        facts["closeness"] = {
            "mean_px": round(mean, 3),
            "greatest_px": round(greatest, 3),
            "mean_mm": round(mean * pixel, 4),
            "greatest_mm": round(greatest * pixel, 4),
        }
    if traced.trued:
        facts["true_shapes"] = traced.trued
    if traced.widths:
        facts["stroke_widths_mm"] = [round(width * pixel, 3) for width in traced.widths]
    if options.method == "colours":
        facts["colours"] = [layer.colour for layer in layers]
    if traced.remark:
        facts["remark"] = traced.remark
    if options.json:
        print(json.dumps(facts, allow_nan=False))
    else:
        shown = " × ".join(format_number(side, 2) for side in size)
        print(
            f"{options.output}: {facts['contours']} contours, {facts['open']} open, {facts['nodes']} nodes, {shown} mm, {facts['seconds']} s{'. ' * bool(traced.remark)}{traced.remark}"
        )
