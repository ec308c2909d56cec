"""``draxet trace``: a picture becomes an SVG or DXF of true size."""

from __future__ import annotations

import argparse
import json
import time
from pathlib import Path
from typing import Any

from draxet.formats.dxf import dxf_text
from draxet.formats.layer import Layer
from draxet.formats.svg import svg_text
from draxet.gather.load import PictureError, grey_of, read_picture
from draxet.gather.place import MM_PER_INCH
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.file import write_atomically
from draxet.trace.edges import EdgeRequest, trace_edges
from draxet.units import format_number, parse_area, parse_length

__all__ = ["add_trace", "run_trace"]

_CURVES_WITHIN = 0.01


def add_trace(commands: Any) -> None:
    """Add the command and its options to a parser's commands."""
    parser = commands.add_parser("trace", help="trace a picture's edges to an SVG or DXF file", description=__doc__)
    parser.add_argument("picture", type=Path, metavar="PICTURE")
    parser.add_argument("-o", "--output", type=Path, required=True, metavar="OUT.svg|OUT.dxf")
    size = parser.add_mutually_exclusive_group(required=True)
    size.add_argument("--width", metavar="LENGTH", help="the picture's real width, in any unit (240, 9 7/16 in)")
    size.add_argument("--height", metavar="LENGTH", help="the picture's real height")
    size.add_argument("--dpi", type=float, help="the picture's dots an inch")
    parser.add_argument("--threshold", default="auto", metavar="auto|0..255", help="brightness between ink and paper")
    parser.add_argument("--min-area", default="0.1 mm2", metavar="AREA", help="smallest speck to keep (0.1 mm2)")
    parser.add_argument("--tolerance", default=None, metavar="LENGTH", help="how far a contour may lie from the edge (0.3 pixels)")
    parser.add_argument("--middles", action="store_true", help="closed drawn lines as one contour along their middle")
    parser.add_argument("--json", action="store_true", help="print what was found as JSON")


def run_trace(options: argparse.Namespace) -> int:
    """Trace as the options say; ValueError with one sentence where that cannot be done."""
    began = time.perf_counter()
    kind = options.output.suffix.lower()
    if kind not in (".svg", ".dxf"):
        raise ValueError(f"the output must end in .svg or .dxf, got {options.output.name!r}")
    grey = grey_of(read_picture(_bytes_of(options.picture), options.picture.name).pixels)
    rows, columns = grey.shape
    pixel = _pixel_size(options, columns, rows)
    request = EdgeRequest(
        grey,
        _level(options.threshold),
        parse_area(options.min_area, what="--min-area") / pixel**2,
        parse_length(options.tolerance, positive=True, what="--tolerance") / pixel if options.tolerance else 0.3,
        options.middles,
    )
    answer = trace_edges(request)
    to_page = Affine(pixel, 0.0, 0.0, 0.0, -pixel, rows * pixel)
    contours = tuple(contour.transformed(to_page) for contour in answer.contours)
    layer = [Layer("contours", contours)]
    width, height = columns * pixel, rows * pixel
    text = svg_text(layer, width, height, filled=True) if kind == ".svg" else dxf_text(layer, _CURVES_WITHIN)
    try:
        write_atomically(options.output, text.encode())
    except OSError as error:
        raise ValueError(f"{options.output} could not be written: {error.strerror or error}") from error
    _report(options, contours, (width, height), answer.level, time.perf_counter() - began)
    return 0


def _bytes_of(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as error:
        raise PictureError(f"{path} could not be read: {error.strerror or error}") from error


def _pixel_size(options: argparse.Namespace, columns: int, rows: int) -> float:
    if options.width is not None:
        return parse_length(options.width, positive=True, what="--width") / columns
    if options.height is not None:
        return parse_length(options.height, positive=True, what="--height") / rows
    if not options.dpi > 0:
        raise ValueError(f"--dpi must be over 0, got {options.dpi:g}")
    return MM_PER_INCH / float(options.dpi)


def _level(text: str) -> float | None:
    if text == "auto":
        return None
    try:
        level = float(text)
    except ValueError:
        raise ValueError(f"--threshold must be auto or a number from 0 to 255, got {text!r}") from None
    return level


def _report(options: argparse.Namespace, contours: tuple[Contour, ...], size: tuple[float, float], level: float, seconds: float) -> None:
    closed = sum(contour.closed for contour in contours)
    facts = {
        "contours": len(contours),
        "closed": closed,
        "open": len(contours) - closed,
        "nodes": sum(len(contour.nodes) for contour in contours),
        "size_mm": [round(size[0], 4), round(size[1], 4)],
        "threshold": round(level, 2),
        "seconds": round(seconds, 3),
    }
    if options.json:
        print(json.dumps(facts))
    else:
        shown = " × ".join(format_number(side, 2) for side in size)
        print(f"{options.output}: {facts['contours']} contours, {facts['open']} open, {facts['nodes']} nodes, {shown} mm, {facts['seconds']} s")
