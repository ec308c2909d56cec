"""DXF (R2010): millimetres stated in ``$INSUNITS``, one layer for each operation, y up.

Whole circles are CIRCLE; a contour of lines and arcs is one LWPOLYLINE with bulges; cubics become
arcs within a tolerance first, so that every closed contour stays one closed entity that any machine
follows.
"""

from __future__ import annotations

import io
import re
from collections.abc import Sequence
from dataclasses import replace
from itertools import islice
from pathlib import Path
from typing import Any

import numpy as np

from draxet.formats.drawn_marks import Dot, Line, Words
from draxet.formats.layer import Format, FormatError, Layer, watched_marks
from draxet.geometry.biarcs import all_as_lines_and_arcs
from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, LINE
from draxet.progress import Progress, Unwatched

__all__ = ["DXF", "dxf_text", "layer_name", "read_dxf"]

_MILLIMETRES = 4
_HOLDS = (Line, Words, Dot)
_AT_ONCE = 40
"""Marks whose curves become arcs at once."""


def layer_name(name: str) -> str:
    """A layer name that DXF allows."""
    return re.sub(r'[<>/\\":;?*|=`,]', "-", name).strip()[:200] or "layer"


def dxf_text(
    layers: Sequence[Layer], tolerance: float = 0.01, report: Progress = Unwatched()
) -> str:
    """A DXF document of contours in mm.

    Parameters
    ----------
    tolerance : how far the arcs that stand for cubics may lie from them, in mm.
    """
    from ezdxf import units  # slow to load
    from ezdxf.filemanagement import new

    document = new("R2010", setup=False, units=units.MM)
    document.header["$MEASUREMENT"] = 1
    space = document.modelspace()
    for number, (layer, marks) in enumerate(watched_marks(layers, _HOLDS, report)):
        name = layer_name(layer.name)
        if name not in document.layers:
            document.layers.add(name, color=number % 6 + 1)
        while some := list(islice(marks, _AT_ONCE)):
            for mark in _without_cubics(some, tolerance):
                _add(space, mark, {"layer": name})
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue()


def _without_cubics(marks: Sequence[Any], tolerance: float) -> list[Any]:
    """Marks whose contours are lines and arcs."""
    lines = [isinstance(mark, Line) for mark in marks]
    contours = [mark.contour if line else mark for mark, line in zip(marks, lines, strict=True)]
    bent = [k for k, contour in enumerate(contours) if isinstance(contour, Contour)]
    found = list(marks)
    made = all_as_lines_and_arcs([contours[k] for k in bent], tolerance)
    for k, contour in zip(bent, made, strict=True):
        found[k] = replace(marks[k], contour=contour) if lines[k] else contour
    return found


def _add(space: Any, mark: Any, look: dict[str, Any]) -> None:
    """One more entity that looks so."""
    if isinstance(mark, Dot):
        space.add_point(mark.at, dxfattribs=look)
        return
    if isinstance(mark, Words):
        look |= {"height": mark.height, "rotation": mark.turn, "true_color": _number_of(mark)}
        space.add_text(mark.text, dxfattribs=look).set_placement(mark.at)
        return
    contour = mark
    if isinstance(mark, Line):  # only a polyline has a width
        contour = mark.contour
        look |= {"const_width": mark.width, "true_color": _number_of(mark)}
    elif circle := contour.circle_shape:
        space.add_circle(circle[:2], circle[2], dxfattribs=look)
        return
    bulges = contour.bulges if contour.closed else np.append(contour.bulges, 0.0)
    rows = np.column_stack([contour.nodes, bulges]).tolist()
    space.add_lwpolyline(rows, format="xyb", close=contour.closed, dxfattribs=look)


def _number_of(mark: Words | Line) -> int:
    return int(mark.colour[1:], 16)


def read_dxf(path: Path) -> list[Layer]:
    """The layers of a DXF file as contours in mm, in the file's order.

    Raises
    ------
    FormatError : where it is no DXF, is not in millimetres or holds what Draxet does not write.
    """
    from ezdxf.filemanagement import readfile
    from ezdxf.lldxf.const import DXFError

    try:
        document = readfile(path)
    except (OSError, DXFError) as error:
        raise FormatError(f"{path.name} could not be read back as DXF") from error
    if document.header.get("$INSUNITS") != _MILLIMETRES:
        raise FormatError(f"{path.name} is not in millimetres")
    layers: dict[str, list[Any]] = {}
    for entity in document.modelspace():
        layers.setdefault(entity.dxf.layer, []).append(_mark(entity))
    return [Layer(name, tuple(marks)) for name, marks in layers.items()]


def _mark(entity: Any) -> Any:
    """What an entity is."""
    from ezdxf.entities.circle import Circle
    from ezdxf.entities.lwpolyline import LWPolyline
    from ezdxf.entities.point import Point
    from ezdxf.entities.text import Text

    look = entity.dxf
    colour = f"#{look.true_color:06x}" if look.hasattr("true_color") else ""
    if isinstance(entity, Circle):
        return Contour.circle(look.center.x, look.center.y, look.radius)
    if isinstance(entity, Point):
        return Dot((look.location.x, look.location.y))
    if isinstance(entity, Text):
        place = look.insert.x, look.insert.y
        return Words(look.text, place, look.height, look.rotation, colour)
    if not isinstance(entity, LWPolyline):
        raise FormatError(f"it holds a {entity.dxftype()}, which Draxet does not write")
    rows = np.array(entity.get_points("xyb"))
    bulges = rows[:, 2] if entity.closed else rows[:-1, 2]
    contour = Contour.make(
        rows[:, :2], np.where(bulges == 0, LINE, ARC), bulges, closed=bool(entity.closed)
    )
    return Line(contour, look.const_width, colour) if colour else contour


DXF = Format(
    "DXF",
    "dxf",
    False,
    True,
    _HOLDS,
    lambda layers, page, report: dxf_text(layers, page.tolerance, report).encode(
        "utf-8", "replace"
    ),
    read_dxf,
)
