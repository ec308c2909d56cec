"""DXF (R2010): millimetres stated in ``$INSUNITS``, one layer for each operation, y up.

Whole circles are CIRCLE; a contour of lines and arcs is one LWPOLYLINE with bulges; cubics become
arcs within a tolerance first, so that every closed contour stays one closed entity that any machine
follows.
"""

from __future__ import annotations

import io
import re
from collections.abc import Sequence
from pathlib import Path

import numpy as np

from draxet.formats.layer import Format, FormatError, Layer
from draxet.geometry.biarcs import as_lines_and_arcs
from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, LINE

__all__ = ["DXF", "dxf_text", "layer_name", "read_dxf"]

_MILLIMETRES = 4


def layer_name(name: str) -> str:
    """A layer name that DXF allows."""
    return re.sub(r'[<>/\\":;?*|=`,]', "-", name).strip()[:200] or "layer"


def dxf_text(layers: Sequence[Layer], tolerance: float = 0.01) -> str:
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
    for number, layer in enumerate(layers):
        name = layer_name(layer.name)
        if name not in document.layers:
            document.layers.add(name, color=number % 6 + 1)
        for contour in layer.contours:
            circle = contour.circle_shape
            if circle:
                space.add_circle(circle[:2], circle[2], dxfattribs={"layer": name})
                continue
            plain = as_lines_and_arcs(contour, tolerance)
            bulges = plain.bulges if plain.closed else np.append(plain.bulges, 0.0)
            rows = np.column_stack([plain.nodes, bulges]).tolist()
            space.add_lwpolyline(rows, format="xyb", close=plain.closed, dxfattribs={"layer": name})
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue()


def read_dxf(path: Path) -> list[Layer]:
    """The layers of a DXF file as contours in mm, in the file's order.

    Raises
    ------
    FormatError : where it is no DXF, is not in millimetres or holds what Draxet does not write.
    """
    from ezdxf.entities.circle import Circle
    from ezdxf.entities.lwpolyline import LWPolyline
    from ezdxf.filemanagement import readfile
    from ezdxf.lldxf.const import DXFError

    try:
        document = readfile(path)
    except (OSError, DXFError) as error:
        raise FormatError(f"{path.name} could not be read back as DXF") from error
    if document.header.get("$INSUNITS") != _MILLIMETRES:
        raise FormatError(f"{path.name} is not in millimetres")
    layers: dict[str, list[Contour]] = {}
    for entity in document.modelspace():
        if isinstance(entity, Circle):
            contour = Contour.circle(entity.dxf.center.x, entity.dxf.center.y, entity.dxf.radius)
        elif isinstance(entity, LWPolyline):
            rows = np.array(entity.get_points("xyb"))
            bulges = rows[:, 2] if entity.closed else rows[:-1, 2]
            contour = Contour.make(
                rows[:, :2], np.where(bulges == 0, LINE, ARC), bulges, closed=bool(entity.closed)
            )
        else:
            raise FormatError(
                f"{path.name} holds a {entity.dxftype()}, which Draxet does not write"
            )
        layers.setdefault(entity.dxf.layer, []).append(contour)
    return [Layer(name, tuple(contours)) for name, contours in layers.items()]


DXF = Format(
    "DXF",
    "dxf",
    False,
    True,
    lambda layers, page: dxf_text(layers, page.tolerance).encode("utf-8", "replace"),
    read_dxf,
)
