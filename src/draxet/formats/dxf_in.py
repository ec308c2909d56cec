"""DXF files from elsewhere: lines, arcs, circles, polylines, ellipses and splines as contours,
blocks opened up.

One entity that cannot be read is left out and said; it does not refuse the drawing. Layers that are
off or frozen come aside.
"""

from __future__ import annotations

import io
import math
import re
from collections import Counter
from collections.abc import Iterator
from typing import Any

import numpy as np

from draxet.formats.drawing import Drawing, chained
from draxet.formats.layer import FormatError
from draxet.formats.table import ContourTable
from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, CUBIC, LINE
from draxet.progress import Cancelled, Progress, Unwatched

__all__ = ["read_dxf_drawing"]

_UNIT_MM = {
    1: 25.4,
    2: 304.8,
    4: 1.0,
    5: 10.0,
    6: 1000.0,
    8: 25.4e-6,
    9: 0.0254,
    10: 914.4,
    13: 0.001,
    14: 100.0,
}
_LARGEST = 400_000_000
_MOST_ENTITIES, _MOST_NODES = 400_000, 3_000_000
_MEET = 1e-4
_DEEPEST = 16
_EVERY = 500
_BINARY = re.compile(rb"[A-Za-z]+ Binary DXF\r\n\x1a\x00")


def read_dxf_drawing(data: bytes, name: str, progress: Progress | None = None) -> Drawing:
    """Read a DXF file, text or binary.

    Raises
    ------
    FormatError : where it is no sound DXF, is too large or holds nothing that can be a contour.
    Cancelled : where `progress` says so.
    """
    if len(data) > _LARGEST:
        raise FormatError(f"{name} is over {_LARGEST // 1_000_000} MB; save it smaller")
    report = progress or Unwatched()
    document = _document(data, name, report)
    reader = _Reader(document, name, report)
    try:
        reader.read()
    except (Cancelled, FormatError, MemoryError):
        raise
    except Exception as error:  # the library raises whatever its readers raise
        raise FormatError(
            f"{name} is no DXF that can be read; save it again as DXF R2000 or newer"
        ) from error
    return reader.drawing()


class _Watched(io.StringIO):
    """Text that reports how far it has been read."""

    def __init__(self, text: str, report: Progress, name: str) -> None:
        super().__init__(text)
        self._report, self._name, self._whole, self._lines = report, name, max(len(text), 1), 0

    def readline(self, *size: Any) -> str:  # type: ignore[override]
        self._lines += 1
        if self._lines % 4000 == 0:
            self._report(0.05 + 0.55 * self.tell() / self._whole, f"reading {self._name}")
        return super().readline(*size)


def _document(data: bytes, name: str, report: Progress) -> Any:
    """The file as the library reads it: quickly where it is sound, else with repairs."""
    from ezdxf import recover  # slow to load
    from ezdxf.document import Drawing as Document
    from ezdxf.filemanagement import read
    from ezdxf.lldxf.tagger import binary_tags_loader

    try:
        if _BINARY.match(data):
            return Document.load(binary_tags_loader(data))
        try:
            return read(_Watched(data.decode("utf-8"), report, name))
        except Cancelled:
            raise
        except Exception:  # older encodings and damaged files go the slower way
            report(0.3, f"repairing {name}")
            document, _ = recover.read(io.BytesIO(data))
            return document
    except Cancelled:
        raise
    except Exception as error:  # the library raises whatever its readers raise
        raise FormatError(
            f"{name} is no DXF that can be read; save it again as DXF R2000 or newer"
        ) from error


class _Reader:
    def __init__(self, document: Any, name: str, report: Progress) -> None:
        self.document, self.name, self.report = document, name, report
        self.table = ContourTable()
        self.left: Counter[str] = Counter()
        self.damaged = self.visited = 0
        self.first_damage = self.name_now = ""
        self.off = {
            layer.dxf.name.casefold()
            for layer in document.layers
            if layer.is_off() or layer.is_frozen()
        }

    def read(self) -> None:
        space = self.document.modelspace()
        whole = max(self._count(space, _DEEPEST, {}), 1)
        if whole > _MOST_ENTITIES:
            raise FormatError(
                f"{self.name} would be over {_MOST_ENTITIES:,} entities; save it simpler"
            )
        for entity, layer in self._opened(space, "", _DEEPEST):
            self.visited += 1
            if self.visited % _EVERY == 0:
                self.report(0.6 + 0.3 * min(1.0, self.visited / whole), f"reading {self.name}")
            if self.visited > _MOST_ENTITIES or self.table.nodes > _MOST_NODES:
                raise FormatError(
                    f"{self.name} would be over {_MOST_ENTITIES:,} entities or {_MOST_NODES:,} nodes; save it simpler"
                )
            self._entity(entity, layer)

    def _count(self, entities: Any, deepest: int, known: dict[tuple[str, int], int]) -> int:
        """How many entities there are once all blocks are in their places, without putting them
        there."""
        total = 0
        for entity in entities:
            if entity.dxftype() != "INSERT":
                total += 1
            elif deepest:
                name = str(entity.dxf.get("name", ""))
                block = self.document.blocks.get(name)
                if block is not None and (name, deepest) not in known:
                    known[name, deepest] = self._count(block, deepest - 1, known)
                total += max(int(entity.mcount), 1) * known.get((name, deepest), 0)
        return total

    def _opened(self, entities: Any, layer: str, deepest: int) -> Iterator[tuple[Any, str]]:
        """Entities with their layers, those of blocks in their places; what lies on layer 0 of a
        block lies on the block's."""
        for entity in entities:
            own = entity.dxf.get("layer", "0")
            own = layer if own == "0" and layer else own
            if entity.dxftype() != "INSERT":
                yield entity, own
            elif deepest:
                yield from self._inserted(entity, own, deepest)

    def _inserted(self, insert: Any, layer: str, deepest: int) -> Iterator[tuple[Any, str]]:
        if insert.mcount > _MOST_ENTITIES:
            raise FormatError(
                f"{self.name} would be over {_MOST_ENTITIES:,} entities; save it simpler"
            )
        try:
            for one in insert.multi_insert() if insert.mcount > 1 else [insert]:
                yield from self._opened(one.virtual_entities(), layer, deepest - 1)
        except (Cancelled, FormatError, MemoryError):
            raise
        except Exception:  # a block that cannot be opened
            self._damage(f"INSERT {insert.dxf.get('name', '')}", "it cannot be read")

    def _entity(self, entity: Any, layer: str) -> None:
        before = len(self.table)
        self.name_now = f"{entity.dxftype()} {entity.dxf.get('handle') or ''}".strip()
        try:
            if entity.dxf.get("invisible", 0):
                self.left["hidden"] += 1
                return
            self._shape(entity, layer)
        except Exception:  # the library raises whatever it meets
            self._damage(self.name_now, "it cannot be read")
            return
        if len(self.table) == before:
            self.left[entity.dxftype().lower()] += 1

    def _damage(self, name: str, why: str) -> None:
        self.damaged += 1
        self.first_damage = self.first_damage or f"{name}: {why}"

    def _span(
        self,
        start: tuple[float, float],
        end: tuple[float, float],
        kind: int,
        bulges: list[float] | None,
        layer: str,
    ) -> None:
        """A line or an arc by itself."""
        self.table.add(
            [start, end], [kind], bulges, None, closed=False, layer=layer, name=self.name_now
        )

    def _shape(self, entity: Any, layer: str) -> None:
        kind = entity.dxftype()
        flat = kind == "LINE" or entity.dxf.get("extrusion", (0, 0, 1))[2] > 0
        if kind == "LINE":
            (ax, ay, _), (bx, by, _) = entity.dxf.start, entity.dxf.end
            if math.hypot(ax - bx, ay - by) > 1e-12:
                self._span((ax, ay), (bx, by), LINE, None, layer)
        elif kind == "CIRCLE" and flat:
            self._circle(entity, layer)
        elif kind == "ARC" and flat:
            sweep = math.radians((entity.dxf.end_angle - entity.dxf.start_angle) % 360 or 360)
            if sweep > 6.28:
                self._circle(entity, layer)
            else:
                a, b = entity.start_point, entity.end_point
                self._span((a.x, a.y), (b.x, b.y), ARC, [math.tan(sweep / 4)], layer)
        elif kind == "LWPOLYLINE" and flat:
            self._polyline(
                [(x, y, b) for x, y, b in entity.get_points("xyb")], bool(entity.closed), layer
            )
        elif kind == "POLYLINE" and entity.is_2d_polyline and flat:
            self._polyline(
                [
                    (v.dxf.location.x, v.dxf.location.y, v.dxf.get("bulge", 0.0))
                    for v in entity.vertices
                ],
                bool(entity.is_closed),
                layer,
            )
        else:
            self._by_path(entity, layer)

    def _circle(self, entity: Any, layer: str) -> None:
        (x, y, _), radius = entity.dxf.center, abs(entity.dxf.radius)
        if radius > 0:
            self.table.add(
                [(x - radius, y), (x + radius, y)],
                [ARC, ARC],
                [1.0, 1.0],
                None,
                closed=True,
                layer=layer,
                name=self.name_now,
            )

    def _polyline(self, rows: list[tuple[float, float, float]], closed: bool, layer: str) -> None:
        kept = [
            row
            for k, row in enumerate(rows)
            if k == len(rows) - 1
            or math.hypot(rows[k + 1][0] - row[0], rows[k + 1][1] - row[1]) >= 1e-12
        ]
        if len(kept) > 2 and math.hypot(kept[0][0] - kept[-1][0], kept[0][1] - kept[-1][1]) < (
            1e-12 if closed else 1e-9
        ):
            kept, closed = kept[:-1], True
        if len(kept) < 2:
            return
        bulges = [bulge for _, _, bulge in (kept if closed else kept[:-1])]
        self.table.add(
            [(x, y) for x, y, _ in kept],
            [ARC if bulge else LINE for bulge in bulges],
            bulges,
            None,
            closed=closed,
            layer=layer,
            name=self.name_now,
        )

    def _by_path(self, entity: Any, layer: str) -> None:
        """Ellipses, splines and what lies in another plane, by way of lines and cubics."""
        from ezdxf import path

        try:
            whole = path.make_path(entity)
        except TypeError:  # not a thing with a course
            return
        for part in whole.sub_paths():
            nodes, kinds, handles = [(part.start.x, part.start.y)], [], []
            for command in part.commands():
                start, end = nodes[-1], (command.end.x, command.end.y)
                control = _controls(command, start, end)
                if control is None and math.hypot(end[0] - start[0], end[1] - start[1]) < 1e-12:
                    continue
                nodes.append(end)
                kinds.append(LINE if control is None else CUBIC)
                handles.append(control or (0.0, 0.0, 0.0, 0.0))
            if not kinds:
                continue
            closed = (
                len(nodes) > 2
                and math.hypot(nodes[0][0] - nodes[-1][0], nodes[0][1] - nodes[-1][1]) < _MEET
            )
            self.table.add(
                nodes[:-1] if closed else nodes,
                kinds,
                None,
                handles,
                closed=closed,
                layer=layer,
                name=self.name_now,
            )

    def drawing(self) -> Drawing:
        made, sound = self.table.contours()
        for k in np.flatnonzero(~sound).tolist():
            self._damage(self.table.names[k], "its numbers are greater than anybody can mean")
        by_layer: dict[str, list[Contour]] = {}
        for contour, layer, good in zip(made, self.table.layers, sound.tolist(), strict=True):
            if good:
                by_layer.setdefault(layer, []).append(contour)
        shown: list[tuple[Contour, str]] = []
        aside: list[tuple[Contour, str]] = []
        for layer, contours in by_layer.items():
            self.report(0.95, f"joining {self.name}")
            (aside if layer.casefold() in self.off else shown).extend(
                (contour, layer) for contour in chained(contours, _MEET)
            )
        remarks = self._remarks()
        if not shown and not aside:
            raise FormatError(
                f"{self.name} holds no line, arc or curve" + (f" ({remarks[0]})" if remarks else "")
            )
        words = (
            f"{len(aside)} contour{'s' * (len(aside) > 1)} on layers that are off left out"
            if aside
            else ""
        )
        return Drawing(
            tuple(c for c, _ in shown),
            _UNIT_MM.get(self.document.header.get("$INSUNITS", 0)),
            tuple(remarks),
            tuple(layer for _, layer in shown),
            tuple(c for c, _ in aside),
            tuple(layer for _, layer in aside),
            words,
        )

    def _remarks(self) -> list[str]:
        remarks = (
            [
                f"left out: {', '.join(f'{count} {kind}' for kind, count in sorted(self.left.items()))}"
            ]
            if self.left
            else []
        )
        if self.damaged:
            remarks.append(
                f"{self.damaged} damaged entit{'ies' if self.damaged > 1 else 'y'} left out ({self.first_damage})"
            )
        return remarks


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
