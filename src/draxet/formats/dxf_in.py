"""DXF files from elsewhere: lines, arcs, circles, polylines, ellipses and splines as contours,
blocks opened up.

One entity that cannot be read is left out and said; it does not refuse the drawing. Layers that are
off or frozen come aside.
"""

from __future__ import annotations

import io
import re
from collections import Counter
from typing import Any

import numpy as np

from draxet.formats.drawing import Drawing, chained
from draxet.formats.dxf_shapes import (
    MEET,
    DxfDamage,
    DxfShape,
    Found,
    each_on,
    flat_map,
    shapes_of,
)
from draxet.formats.layer import FormatError
from draxet.formats.table import ContourTable
from draxet.geometry.contour import Contour
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
        self.first_damage = ""
        self.of_blocks: dict[tuple[str, int], list[Found]] = {}
        self.off = {
            layer.dxf.name.casefold()
            for layer in document.layers
            if layer.is_off() or layer.is_frozen()
        }

    def read(self) -> None:
        space = self.document.modelspace()
        if self._count(space, _DEEPEST, {}) > _MOST_ENTITIES:
            raise self._too_much()
        found = self._found_in(space, _DEEPEST)
        nodes = sum(len(each.nodes) for each in found if isinstance(each, DxfShape))
        if len(found) > _MOST_ENTITIES or nodes > _MOST_NODES:
            raise self._too_much()
        for number, each in enumerate(found):
            if number % _EVERY == 0:
                self.report(0.7 + 0.2 * number / len(found), f"reading {self.name}")
            if isinstance(each, DxfShape):
                each.put_into(self.table)
            elif isinstance(each, DxfDamage):
                self._damage(each.name, each.why)
            else:
                self.left[each] += 1

    def _too_much(self) -> FormatError:
        return FormatError(
            f"{self.name} would be over {_MOST_ENTITIES:,} entities or {_MOST_NODES:,} nodes; save it simpler"
        )

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

    def _found_in(self, entities: Any, deepest: int) -> list[Found]:
        """What entities are, those of blocks in their places."""
        found: list[Found] = []
        for entity in entities:
            self.visited += 1
            if self.visited % _EVERY == 0:
                self.report(
                    0.6 + 0.1 * min(1.0, self.visited / _MOST_ENTITIES), f"reading {self.name}"
                )
            if entity.dxftype() != "INSERT":
                found += shapes_of(entity)
            elif deepest:
                found += self._inserted(entity, deepest)
        return found

    def _inserted(self, insert: Any, deepest: int) -> list[Found]:
        """A block's entities where it is inserted. They are read once; where it lies in another
        plane, for that place by themselves."""
        try:
            name, layer = str(insert.dxf.get("name", "")), insert.dxf.get("layer", "0")
            found: list[Found] = []
            for one in insert.multi_insert() if insert.mcount > 1 else [insert]:
                if (to := flat_map(one.matrix44())) is None:
                    entities = list(one.virtual_entities())
                    found += [
                        each_on(each, layer) for each in self._found_in(entities, deepest - 1)
                    ]
                else:
                    found += [each_on(each, layer, to) for each in self._of_block(name, deepest)]
            return found
        except (Cancelled, FormatError, MemoryError):
            raise
        except Exception:  # a block that cannot be opened
            return [DxfDamage(f"INSERT {insert.dxf.get('name', '')}", "it cannot be read")]

    def _of_block(self, name: str, deepest: int) -> list[Found]:
        key = name.casefold(), deepest
        if key not in self.of_blocks:
            block = self.document.blocks.get(name)
            self.of_blocks[key] = [] if block is None else self._found_in(block, deepest - 1)
        return self.of_blocks[key]

    def _damage(self, name: str, why: str) -> None:
        self.damaged += 1
        self.first_damage = self.first_damage or f"{name}: {why}"

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
                (contour, layer) for contour in chained(contours, MEET)
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
