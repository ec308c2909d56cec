"""SVG: contours as paths, millimetres as units, lines, arcs and cubics as such.

The page's `width` and `height` are in mm and its `viewBox` counts mm, so that x grows right and y
down from the top left corner. This is the one place where y turns over for SVG. Read back with
svgelements, which shares no code.
"""

from __future__ import annotations

import base64
import io
import math
from collections.abc import Sequence
from html import escape
from pathlib import Path
from typing import Any

import numpy as np

from draxet.formats.drawn_marks import Area, Dot, Line, Picture, Words
from draxet.formats.layer import Format, FormatError, Layer, watched_marks
from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, CUBIC, LINE, Spans
from draxet.progress import Progress, Unwatched

__all__ = ["SVG", "read_svg", "svg_text"]

_LINE_MM, _CAPITAL = 0.1, 0.7
"""How broad bare contours are drawn, and how high capitals are as a share of a font's size."""
_HOLDS = (Area, Line, Words, Dot, Picture)


def svg_text(
    layers: Sequence[Layer], width: float, height: float, report: Progress = Unwatched()
) -> str:
    """An SVG document.

    Parameters
    ----------
    layers : marks in mm, y up, origin at the page's bottom left.
    width, height : of the page in mm.
    """
    rows = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_number(width)}mm" height="{_number(height)}mm" '
        f'viewBox="0 0 {_number(width)} {_number(height)}">',
    ]
    for layer, marks in watched_marks(layers, _HOLDS, report):
        colours = {mark.colour if isinstance(mark, Area) else "" for mark in layer.marks}
        group = _drawn(layer.colour or "#000000", _LINE_MM)
        if len(colours) == 1 and "" not in colours:
            group = _filled(*colours)
        rows.append(f'<g id="{escape(layer.name)}" {group}>')
        rows += [_element(mark, height, group) for mark in marks]
        rows.append("</g>")
    return "\n".join([*rows, "</svg>", ""])


def _drawn(colour: str, width: float) -> str:
    return f'fill="none" stroke="{colour}" stroke-width="{_number(width)}"'


def _filled(colour: str) -> str:
    return f'fill="{colour}" fill-rule="evenodd" stroke="none"'


def _element(mark: Any, height: float, group: str) -> str:
    """A mark in a group that looks so; a whole circle as a circle, all other contours as paths."""
    if isinstance(mark, Contour):
        return _outline(mark, height, "")
    if isinstance(mark, Line):
        return _outline(mark.contour, height, f" {_drawn(mark.colour, mark.width)}")
    if isinstance(mark, Area):
        data = " ".join(path_data(contour, height) for contour in mark.contours)
        paint = _filled(mark.colour)
        return f'<path d="{data}"/>' if paint == group else f'<path d="{data}" {paint}/>'
    if isinstance(mark, Dot):
        return f'<path d="M{_xy(np.array(mark.at), height)}h0" stroke-linecap="round"/>'
    if isinstance(mark, Words):
        to = Affine.turned(-mark.turn).then(Affine.moved(mark.at[0], height - mark.at[1]))
        return (
            f'<text {_transform(to)} font-family="sans-serif" font-size="'
            f'{_number(mark.height / _CAPITAL)}" fill="{mark.colour}" stroke="none">'
            f"{escape(mark.text)}</text>"
        )
    high, wide = mark.pixels.shape[:2]
    m = mark.to_sheet
    to = Affine(m.a, m.b, m.c, -m.d, -m.e, height - m.f)
    return f'<image {_transform(to)} width="{wide}" height="{high}" href="{_png(mark.pixels)}"/>'


def _outline(contour: Contour, height: float, paint: str) -> str:
    if circle := contour.circle_shape:
        x, y, radius = circle
        return (
            f'<circle cx="{_number(x)}" cy="{_number(height - y)}" r="{_number(radius)}"{paint}/>'
        )
    return f'<path d="{path_data(contour, height)}"{paint}/>'


def _transform(to: Affine) -> str:
    numbers = (to.a, to.d, to.b, to.e, to.c, to.f)
    return f'transform="matrix({" ".join(_number(each) for each in numbers)})"'


def _png(pixels: Any) -> str:
    from PIL import Image  # not needed for contours

    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    return f"data:image/png;base64,{base64.b64encode(out.getvalue()).decode('ascii')}"


def path_data(contour: Contour, height: float) -> str:
    """One contour as SVG path data, y down from `height`."""
    spans, words = contour.spans, [f"M{_xy(contour.nodes[0], height)}"]
    radii = np.nan_to_num(spans.arc_shapes().radii, posinf=0.0)
    for k in range(len(spans)):
        end = _xy(spans.ends[k], height)
        if spans.kinds[k] == ARC and spans.bulges[k]:
            sweep, radius = int(spans.bulges[k] < 0), _number(radii[k])
            for point in _arc_stops(spans, k):
                words.append(f"A{radius} {radius} 0 0 {sweep} {_xy(point, height)}")
        elif spans.kinds[k] == CUBIC:
            words.append(
                f"C{_xy(spans.handles[k, 0], height)} {_xy(spans.handles[k, 1], height)} {end}"
            )
        elif not (contour.closed and k == len(spans) - 1):  # Z draws the last line
            words.append(f"L{end}")
    return "".join(words) + ("Z" if contour.closed else "")


def _arc_stops(spans: Spans, k: int) -> Points:
    """Ends of the quarter turns that an arc is written in: half a turn leaves its middle to the
    last decimal's mercy."""
    pieces = max(1, int(np.ceil(abs(4 * np.arctan(spans.bulges[k])) / (np.pi / 2) - 1e-6)))
    stops = spans.at(np.full(pieces, k), np.arange(1, pieces + 1) / pieces)
    stops[-1] = spans.ends[k]
    return stops


def _xy(point: Points, height: float) -> str:
    return f"{_number(point[0])} {_number(height - point[1])}"


def _number(value: float) -> str:
    text = f"{value:.6f}".rstrip("0").rstrip(".")
    return "0" if text == "-0" else text


_UNREADABLE = (
    OSError,
    ValueError,
    TypeError,
    AttributeError,
    SyntaxError,
    ZeroDivisionError,
)


def read_svg(path: Path) -> list[Layer]:
    """The layers of an SVG file as contours in mm, y up from the page's bottom.

    Raises
    ------
    FormatError : where it is no SVG or has no page size.
    """
    from defusedxml.ElementTree import parse  # slow to load, needed for reading back only
    from svgelements import SVG, Group

    try:
        height = float(parse(path).getroot().get("height", "").removesuffix("mm"))
        document = SVG.parse(str(path), reify=True, ppi=25.4)
        exact = height / float(document.height)  # the library's mm are off by some ten millionths
    except _UNREADABLE as error:
        raise FormatError(f"{path.name} could not be read back as SVG") from error
    to_mm = Affine(exact, 0.0, 0.0, 0.0, -exact, height)
    layers = []
    for group in document.select(
        lambda element: isinstance(element, Group) and not isinstance(element, SVG)
    ):
        drawn = group.values.get("stroke-width"), group.values.get("stroke")
        layers.append(
            Layer(str(group.id), tuple(_mark(each, to_mm, exact, drawn) for each in group))
        )
    return layers


def _mark(element: Any, to_mm: Affine, exact: float, drawn: tuple[Any, Any]) -> Any:
    """What was read, in a group whose bare contours are `drawn` with a width and a colour."""
    from svgelements import Circle, Image, Text
    from svgelements import Path as SvgPath

    values, fill = element.values, element.fill.hex or ""
    if isinstance(element, Text):
        m = element.transform
        height = float(values["font-size"]) * _CAPITAL * exact
        turn = -math.degrees(math.atan2(m.b, m.a))
        return Words(element.text, to_mm.point(m.e, m.f), height, turn, fill)
    if isinstance(element, Image):
        m = element.transform
        element.load()
        to = Affine(m.a, m.c, m.e, m.b, m.d, m.f)
        return Picture(np.asarray(element.image), to.then(to_mm))
    if isinstance(element, Circle):
        centre = to_mm.point(float(element.cx), float(element.cy))
        contours = [Contour.circle(*centre, float(element.rx) * exact)]
    elif isinstance(element, SvgPath) and values.get("stroke-linecap") == "round":
        return Dot(_point(element[0].end, to_mm))
    elif isinstance(element, SvgPath):
        contours = [_contour(sub, to_mm) for sub in element.as_subpaths()]
    else:
        raise FormatError(f"it holds a {type(element).__name__}, which Draxet does not write")
    if fill:
        return Area(tuple(contours), fill)
    if len(contours) != 1:
        raise FormatError("a path is drawn more than once, which Draxet does not write")
    look = values.get("stroke-width"), values.get("stroke")
    if look == drawn:
        return contours[0]
    return Line(contours[0], float(look[0]), element.stroke.hex)


def _contour(segments: Any, to_mm: Affine) -> Contour:
    from svgelements import Arc, Close, CubicBezier, Line, Move

    nodes, kinds, bulges, handles, closed = [], [], [], [], False
    for segment in segments:
        if isinstance(segment, Move):
            nodes.append(_point(segment.end, to_mm))
            continue
        if isinstance(segment, Close):
            closed = True
            if np.hypot(*np.subtract(nodes[-1], nodes[0])) < 1e-9:
                nodes.pop()
                continue
        kind, bulge, handle = LINE, 0.0, [(0.0, 0.0), (0.0, 0.0)]
        if isinstance(segment, Arc):
            kind, bulge = ARC, _bulge(segment)
        elif isinstance(segment, CubicBezier):
            kind, handle = CUBIC, [_point(segment.control1, to_mm), _point(segment.control2, to_mm)]
        elif not isinstance(segment, (Line, Close)):
            raise FormatError(
                f"a path holds a {type(segment).__name__}, which Draxet does not write"
            )
        kinds.append(kind)
        bulges.append(bulge)
        handles.append(handle)
        if not isinstance(segment, Close):
            nodes.append(_point(segment.end, to_mm))
    return Contour.make(nodes, kinds, bulges, handles, closed=closed)


def _bulge(arc: Any) -> float:
    """From the arc's radius and its ends: what the library makes of them as an angle has fewer
    places."""
    chord = math.dist((arc.start.x, arc.start.y), (arc.end.x, arc.end.y))
    half = math.asin(min(chord / (2 * float(arc.rx)), 1.0))
    half = math.pi - half if abs(float(arc.sweep)) > math.pi else half
    return -math.copysign(math.tan(half / 2), float(arc.sweep))


def _point(point: Any, to_mm: Affine) -> tuple[float, float]:
    return to_mm.point(float(point.x), float(point.y))


SVG = Format(
    "SVG",
    "svg",
    True,
    False,
    _HOLDS,
    lambda layers, page, report: svg_text(layers, page.width, page.height, report).encode(
        "utf-8", "replace"
    ),
    read_svg,
)
