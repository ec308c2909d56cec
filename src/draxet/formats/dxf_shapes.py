"""What entities of a DXF file are: lines, arcs, circles, polylines, ellipses and splines as shapes
in the plane."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import scipy

from draxet.formats.table import ContourTable
from draxet.geometry.affine import Affine
from draxet.geometry.spans import ARC, CUBIC, LINE
from draxet.record import record

__all__ = ["MEET", "DxfDamage", "DxfShape", "Found", "each_on", "flat_map", "shapes_of"]

MEET = 1e-4
"""Of the file's unit: so near to each other ends are one place."""
_SAME = 1e-12

_Place = tuple[float, float]
_Handles = tuple[float, float, float, float]


@record(frozen=True)
class DxfShape:
    """One contour as ``ContourTable.add`` has it."""

    nodes: Sequence[_Place]
    kinds: Sequence[int]
    bulges: Sequence[float] | None = None
    handles: Sequence[_Handles] | None = None
    closed: bool = False
    layer: str = "0"
    name: str = ""
    to: Affine = Affine()

    def put_into(self, table: ContourTable) -> None:
        table.add(
            self.nodes,
            self.kinds,
            self.bulges,
            self.handles,
            closed=self.closed,
            layer=self.layer,
            to=self.to,
            name=self.name,
        )


@record(frozen=True)
class DxfDamage:
    """An entity that cannot be read."""

    name: str
    why: str


Found = DxfShape | DxfDamage | str
"""A shape, a damage, or the kind of an entity that is none."""


def each_on(found: Found, layer: str, to: Affine | None = None) -> Found:
    """What a block holds where it is inserted: what lies on its layer 0 lies on the block's."""
    if not isinstance(found, DxfShape):
        return found
    return replace(
        found,
        layer=layer if found.layer == "0" else found.layer,
        to=found.to.then(to) if to else found.to,
    )


def flat_map(matrix: Any) -> Affine | None:
    """A matrix as a map of the plane; None where it leads out of it."""
    xx, xy, xz, _, yx, yy, yz, _, zx, zy, _, _, dx, dy, _, _ = matrix
    if max(abs(xz), abs(yz), abs(zx), abs(zy)) > _SAME:
        return None
    return Affine(xx, yx, dx, xy, yy, dy)


def shapes_of(entity: Any) -> list[Found]:
    """What one entity is."""
    kind = entity.dxftype()
    name = f"{kind} {entity.dxf.get('handle') or ''}".strip()
    try:
        if entity.dxf.get("invisible", 0):
            return ["hidden"]
        layer = entity.dxf.get("layer", "0")
        found = [replace(each, layer=layer, name=name) for each in _shapes(entity, kind)]
    except Exception:  # the library raises whatever it meets
        return [DxfDamage(name, "it cannot be read")]
    return [*found] or [kind.lower()]


def _shapes(entity: Any, kind: str) -> list[DxfShape]:
    flat = kind == "LINE" or entity.dxf.get("extrusion", (0, 0, 1))[2] > 0
    if kind == "LINE":
        (ax, ay, _), (bx, by, _) = entity.dxf.start, entity.dxf.end
        return (
            [DxfShape([(ax, ay), (bx, by)], [LINE])] if math.hypot(ax - bx, ay - by) > _SAME else []
        )
    if kind == "CIRCLE" and flat:
        return _circle(entity)
    if kind == "ARC" and flat:
        sweep = math.radians((entity.dxf.end_angle - entity.dxf.start_angle) % 360 or 360)
        if sweep > 6.28:
            return _circle(entity)
        a, b = entity.start_point, entity.end_point
        return [DxfShape([(a.x, a.y), (b.x, b.y)], [ARC], [math.tan(sweep / 4)])]
    if kind == "LWPOLYLINE" and flat:
        return _polyline(
            [(x, y, b) for x, y, b in entity.get_points("xyb")], closed=bool(entity.closed)
        )
    if kind == "POLYLINE" and entity.is_2d_polyline and flat:
        rows = [
            (v.dxf.location.x, v.dxf.location.y, v.dxf.get("bulge", 0.0)) for v in entity.vertices
        ]
        return _polyline(rows, closed=bool(entity.is_closed))
    if kind == "SPLINE" and not entity.control_point_count() and entity.fit_point_count():
        return _spline_through(entity)
    return _by_path(entity)


def _circle(entity: Any) -> list[DxfShape]:
    (x, y, _), radius = entity.dxf.center, abs(entity.dxf.radius)
    if not radius > 0:
        return []
    return [DxfShape([(x - radius, y), (x + radius, y)], [ARC, ARC], [1.0, 1.0], closed=True)]


def _polyline(rows: list[tuple[float, float, float]], *, closed: bool) -> list[DxfShape]:
    kept = [
        row
        for k, row in enumerate(rows)
        if k == len(rows) - 1
        or math.hypot(rows[k + 1][0] - row[0], rows[k + 1][1] - row[1]) >= _SAME
    ]
    if len(kept) > 2 and math.hypot(kept[0][0] - kept[-1][0], kept[0][1] - kept[-1][1]) < (
        _SAME if closed else 1e-9
    ):
        kept, closed = kept[:-1], True
    if len(kept) < 2:
        return []
    bulges = [bulge for _, _, bulge in (kept if closed else kept[:-1])]
    kinds = [ARC if bulge else LINE for bulge in bulges]
    return [DxfShape([(x, y) for x, y, _ in kept], kinds, bulges, closed=closed)]


def _spline_through(entity: Any) -> list[DxfShape]:
    """The cubic spline through places, which runs at even speed over their chords and bends at its
    ends as its tangents say, or not at all."""
    places = np.array([[p[0], p[1]] for p in entity.fit_points], dtype=np.float64)
    chords = np.hypot(*np.diff(places, axis=0).T)
    places = places[np.concatenate([[True], chords > _SAME])]
    if len(places) < 2:
        return []
    along = np.concatenate([[0.0], np.cumsum(chords[chords > _SAME])])
    ends: Any = "natural"
    if entity.dxf.hasattr("start_tangent") and entity.dxf.hasattr("end_tangent"):
        ends = tuple(
            (1, np.array([way.x, way.y]) / max(way.magnitude, _SAME))
            for way in (entity.dxf.start_tangent, entity.dxf.end_tangent)
        )
    thirds = scipy.interpolate.CubicSpline(along, places, bc_type=ends)(along, 1) / 3
    steps = np.diff(along)[:, None]
    first, second = places[:-1] + thirds[:-1] * steps, places[1:] - thirds[1:] * steps
    return [_curve(places.tolist(), np.hstack([first, second]).tolist())]


def _curve(nodes: list[Any], handles: list[Any], kinds: list[int] | None = None) -> DxfShape:
    """Lines and cubics one after the other; closed where they come back."""
    closed = len(nodes) > 2 and math.dist(nodes[0], nodes[-1]) < MEET
    return DxfShape(
        [(x, y) for x, y in (nodes[:-1] if closed else nodes)],
        kinds or [CUBIC] * len(handles),
        None,
        [(a, b, c, d) for a, b, c, d in handles],
        closed=closed,
    )


def _by_path(entity: Any) -> list[DxfShape]:
    """Ellipses, splines and what lies in another plane, by way of lines and cubics."""
    from ezdxf import path

    try:
        whole = path.make_path(entity)
    except TypeError:  # not a thing with a course
        return []
    found = []
    for part in whole.sub_paths():
        nodes, kinds, handles = [(part.start.x, part.start.y)], list[int](), list[_Handles]()
        for command in part.commands():
            start, end = nodes[-1], (command.end.x, command.end.y)
            control = _controls(command, start, end)
            if control is None and math.dist(start, end) < _SAME:
                continue
            nodes.append(end)
            kinds.append(LINE if control is None else CUBIC)
            handles.append(control or (0.0, 0.0, 0.0, 0.0))
        if kinds:
            found.append(_curve(nodes, handles, kinds))
    return found


def _controls(
    command: Any, start: tuple[float, float], end: tuple[float, float]
) -> tuple[float, float, float, float] | None:
    """The two handles of a curve command, None for a line."""
    from ezdxf.path import Command

    if command.type == Command.CURVE4_TO:
        return command.ctrl1.x, command.ctrl1.y, command.ctrl2.x, command.ctrl2.y
    if command.type == Command.CURVE3_TO:
        x, y = command.ctrl.x, command.ctrl.y
        (ax, ay), (bx, by) = (
            (p[0] + 2 / 3 * (x - p[0]), p[1] + 2 / 3 * (y - p[1])) for p in (start, end)
        )
        return ax, ay, bx, by
    return None
