"""DXF files from elsewhere: lines, arcs, circles, polylines, ellipses and splines as contours, blocks opened up."""

from __future__ import annotations

import io
from collections.abc import Iterable
from typing import Any

import numpy as np

from draxet.formats.drawing import Drawing, chained
from draxet.formats.layer import FormatError
from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, CUBIC, LINE

__all__ = ["read_dxf_drawing"]

_UNIT_MM = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0, 8: 25.4e-6, 9: 0.0254, 10: 914.4, 13: 0.001, 14: 100.0}
_LARGEST = 400_000_000
_MEET = 1e-4
_DEEPEST = 8


def read_dxf_drawing(data: bytes, name: str) -> Drawing:
    """Read a DXF file, text or binary.

    Raises
    ------
    FormatError : where it is no sound DXF, is too large or holds nothing that can be a contour.
    """
    if len(data) > _LARGEST:
        raise FormatError(f"{name} is over {_LARGEST // 1_000_000} MB; save it smaller")
    from ezdxf import recover  # slow to load

    try:
        document, _ = recover.read(io.BytesIO(data))
        entities = list(_opened(document.modelspace(), _DEEPEST))
    except Exception as error:  # the library raises whatever its readers raise
        raise FormatError(f"{name} is no DXF that can be read; save it again as DXF R2000 or newer") from error
    contours: list[Contour] = []
    left: dict[str, int] = {}
    for entity in entities:
        found = _contours(entity)
        contours += found
        if not found:
            left[entity.dxftype()] = left.get(entity.dxftype(), 0) + 1
    remarks = [f"left out: {', '.join(f'{count} {kind.lower()}' for kind, count in sorted(left.items()))}"] if left else []
    if not contours:
        raise FormatError(f"{name} holds no line, arc or curve" + (f" ({remarks[0]})" if remarks else ""))
    return Drawing(tuple(chained(contours, _MEET)), _UNIT_MM.get(document.header.get("$INSUNITS", 0)), tuple(remarks))


def _opened(entities: Iterable[Any], deepest: int) -> Iterable[Any]:
    for entity in entities:
        if entity.dxftype() == "INSERT" and deepest:
            yield from _opened(entity.virtual_entities(), deepest - 1)
        else:
            yield entity


def _contours(entity: Any) -> list[Contour]:
    kind = entity.dxftype()
    if kind == "CIRCLE" and entity.dxf.extrusion.z > 0:
        return [Contour.circle(entity.dxf.center.x, entity.dxf.center.y, entity.dxf.radius)]
    if kind == "LINE":
        a, b = entity.dxf.start, entity.dxf.end
        return [Contour.make([(a.x, a.y), (b.x, b.y)], closed=False)] if (a - b).magnitude > 1e-12 else []
    if kind == "ARC" and entity.dxf.extrusion.z > 0:
        a, b = entity.start_point, entity.end_point
        sweep = np.radians((entity.dxf.end_angle - entity.dxf.start_angle) % 360 or 360)
        if sweep > 6.28:
            return [Contour.circle(entity.dxf.center.x, entity.dxf.center.y, entity.dxf.radius)]
        return [Contour.make([(a.x, a.y), (b.x, b.y)], [ARC], [float(np.tan(sweep / 4))], closed=False)]
    if kind == "LWPOLYLINE" and entity.dxf.extrusion.z > 0:
        return _polyline(np.array(list(entity.get_points("xyb")), dtype=np.float64), bool(entity.closed))
    if kind == "POLYLINE" and entity.is_2d_polyline and entity.dxf.extrusion.z > 0:
        rows = [(v.dxf.location.x, v.dxf.location.y, v.dxf.bulge) for v in entity.vertices]
        return _polyline(np.array(rows, dtype=np.float64), bool(entity.is_closed))
    return _by_path(entity)


def _polyline(rows: Any, closed: bool) -> list[Contour]:
    if len(rows) < 2:
        return []
    again = np.hypot(*(np.roll(rows[:, :2], -1, axis=0) - rows[:, :2]).T) < 1e-12
    if not closed:
        again[-1] = False
    elif again[-1]:
        rows = rows[:-1]
        again = again[:-1]
    rows = rows[~again] if len(again) == len(rows) else rows
    if not closed and len(rows) > 2 and np.hypot(*(rows[0, :2] - rows[-1, :2])) < 1e-9:
        rows, closed = rows[:-1], True
    bulges = rows[:, 2] if closed else rows[:-1, 2]
    return [Contour.make(rows[:, :2], np.where(bulges == 0, LINE, ARC), bulges, closed=closed)] if len(rows) > 1 else []


def _by_path(entity: Any) -> list[Contour]:
    """Ellipses, splines and what lies in another plane, by way of lines and cubics."""
    from ezdxf import path

    try:
        whole = path.make_path(entity)
    except TypeError:
        return []
    contours = []
    for part in whole.sub_paths():
        nodes, kinds, handles = [(part.start.x, part.start.y)], [], []
        for command in part.commands():
            start, end = nodes[-1], (command.end.x, command.end.y)
            nodes.append(end)
            control = _controls(command, np.array(start), np.array(end))
            kinds.append(LINE if control is None else CUBIC)
            handles.append(((0.0, 0.0), (0.0, 0.0)) if control is None else control)
        if not kinds:
            continue
        closed = len(nodes) > 2 and np.hypot(*np.subtract(nodes[0], nodes[-1])) < _MEET
        contours.append(Contour.make(np.array(nodes[:-1] if closed else nodes), kinds, None, np.array(handles, dtype=np.float64), closed=closed))
    return contours


def _controls(command: Any, start: Any, end: Any) -> Any:
    """The two handles of a curve command, None for a line."""
    from ezdxf.path import Command

    if command.type == Command.CURVE4_TO:
        return (command.ctrl1.x, command.ctrl1.y), (command.ctrl2.x, command.ctrl2.y)
    if command.type == Command.CURVE3_TO:
        control = np.array((command.ctrl.x, command.ctrl.y))
        return start + 2 / 3 * (control - start), end + 2 / 3 * (control - end)
    return None
