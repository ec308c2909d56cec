"""SVG files from elsewhere: every shape as contours, lines, circular arcs and curves kept, transforms applied."""

from __future__ import annotations

import io
import re
from typing import Any

import numpy as np

from draxet.formats.drawing import Drawing
from draxet.formats.layer import FormatError
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, CUBIC, LINE

__all__ = ["read_svg_drawing"]

_UNIT_MM = {"mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72, "pc": 25.4 / 6, "q": 0.25}
_LARGEST = 200_000_000
_SAME = 1e-9


def read_svg_drawing(data: bytes, name: str) -> Drawing:
    """Read an SVG file.

    Raises
    ------
    FormatError : where it is no sound SVG, holds entities, is too large or holds no shape.
    """
    if len(data) > _LARGEST:
        raise FormatError(f"{name} is over {_LARGEST // 1_000_000} MB; save it smaller")
    if b"<!ENTITY" in data:
        raise FormatError(f"{name} holds entities, which are not read for safety; save it as plain SVG")
    from svgelements import SVG, Image, Path, Shape, Text, Use  # slow to load

    try:
        document = SVG.parse(io.BytesIO(data), reify=True, ppi=96)
        elements = list(document.elements())
        shapes = [Path(e) for e in elements if isinstance(e, Shape)]
    except Exception as error:  # the library raises whatever its parsers raise
        raise FormatError(f"{name} is no SVG that can be read; save it again as plain SVG") from error
    contours = [c for path in shapes for sub in path.as_subpaths() if (c := _contour(Path(sub)))]
    remarks = []
    left = sum(isinstance(e, Text) for e in elements)
    if left:
        remarks.append(f"{left} text{'s' * (left > 1)} left out; turn text into outlines first")
    if any(isinstance(e, (Image, Use)) for e in elements) or re.search(rb"href\s*=\s*[\"'](?!#|data:)", data):
        remarks.append("pictures and links to other files left out")
    if not contours:
        raise FormatError(f"{name} holds no shape that can be cut" + (f" ({remarks[0]})" if remarks else ""))
    pixel = _pixel_mm(data)
    flip = Affine(1, 0, 0, 0, -1, float(document.height or 0))
    return Drawing(tuple(c.transformed(flip) for c in contours), pixel, tuple(remarks))


def _pixel_mm(data: bytes) -> float | None:
    """mm of the pixels that shapes come in (96 to the inch of a stated length); None where the file states no length."""
    found = re.search(rb"<svg[^>]*?\swidth\s*=\s*[\"']\s*[\d.eE+-]+\s*([a-zA-Z%]*)", data)
    return 25.4 / 96 if found and found[1].decode().lower() in _UNIT_MM else None


def _contour(segments: Any) -> Contour | None:
    from svgelements import Arc, Close, CubicBezier, Move, QuadraticBezier

    nodes: list[Any] = []
    kinds: list[int] = []
    bulges: list[float] = []
    handles: list[Any] = []
    closed = False

    def add(end: Any, kind: int = LINE, bulge: float = 0.0, handle: Any = ((0.0, 0.0), (0.0, 0.0))) -> None:
        if kind == LINE and np.hypot(*np.subtract(end, nodes[-1])) < _SAME:
            return
        nodes.append(end)
        kinds.append(kind)
        bulges.append(bulge)
        handles.append(handle)

    for segment in segments:
        if isinstance(segment, Move):
            nodes.append(_xy(segment.end))
        elif isinstance(segment, Close):
            closed = True
        elif isinstance(segment, Arc) and abs(segment.rx - segment.ry) <= 1e-6 * max(segment.rx, segment.ry):
            halves = 2 if abs(segment.sweep) > 6 else 1  # a whole turn has no chord
            for k in range(halves):
                add(_xy(segment.point((k + 1) / halves)), ARC, float(np.tan(float(segment.sweep) / halves / 4)))
        elif isinstance(segment, Arc):
            for cubic in segment.as_cubic_curves():
                add(_xy(cubic.end), CUBIC, 0.0, (_xy(cubic.control1), _xy(cubic.control2)))
        elif isinstance(segment, CubicBezier):
            add(_xy(segment.end), CUBIC, 0.0, (_xy(segment.control1), _xy(segment.control2)))
        elif isinstance(segment, QuadraticBezier):
            start, control, end = (np.array(_xy(p)) for p in (segment.start, segment.control, segment.end))
            add(tuple(end), CUBIC, 0.0, (start + 2 / 3 * (control - start), end + 2 / 3 * (control - end)))
        else:
            add(_xy(segment.end))
    if not kinds:
        return None
    if np.hypot(*np.subtract(nodes[-1], nodes[0])) < 1e-6:
        nodes.pop()
        closed = True
    elif closed:
        kinds.append(LINE)
        bulges.append(0.0)
        handles.append(((0.0, 0.0), (0.0, 0.0)))
    return Contour.make(np.array(nodes), kinds, bulges, np.array(handles), closed=closed) if len(nodes) > 1 or closed else None


def _xy(point: Any) -> tuple[float, float]:
    return float(point.x), float(point.y)
