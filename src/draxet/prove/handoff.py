"""Hand off: the contours to be cut, and nothing else, leave in a file, which is read back and
compared with the job before it counts."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np
import shapely

from draxet.files import reason, write_whole
from draxet.formats.dxf import layer_name
from draxet.formats.layer import FormatError, Layer, Page
from draxet.formats.leaving_kinds import format_of
from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, CUBIC
from draxet.job.records import Job
from draxet.job.sides import Run, side_of
from draxet.job.work import cut_work
from draxet.record import record

__all__ = ["ReadBack", "hand_off", "layers_of"]

_FINE = 0.0005
_STEPS, _MOST_STEPS = 4000, 400_000
"""Straight steps for an arc: so many a contour has at once, and so many at the most."""


@record(frozen=True)
class ReadBack:
    """What was found in the file: contours there and wanted, closed ones there and wanted, the
    greatest difference and the size in mm; its layers, and those in which something is missing or
    too much; `work` tells which state of the sheet's work it holds."""

    file: str
    contours: int
    wanted: int
    closed: int
    closed_wanted: int
    worst: float
    allowed: float
    size: tuple[float, float]
    layers: tuple[str, ...]
    wrong_layers: tuple[str, ...] = ()
    work: str = ""

    @property
    def matches(self) -> bool:
        return (
            not self.wrong_layers
            and self.contours == self.wanted
            and self.closed == self.closed_wanted
            and self.worst <= self.allowed
        )


class _Differs(Exception):
    """What was read back is not what was written."""

    def __init__(self, found: ReadBack) -> None:
        super().__init__()
        self.found = found


def layers_of(job: Job) -> list[Layer]:
    """One layer for each operation and side on the sheet in hand, named for it, its side and its
    cut width; no two of one name."""
    job = job.layout
    layers: dict[tuple[str, str, bool], list[Contour]] = {}
    names: dict[tuple[str, str, bool], str] = {}
    for each in cut_work(job):
        if any(job.contour_by_id[contour].sheet == job.sheet.id for contour in each.ids):
            key = (each.operation.id, each.side.value, each.shared)
            layers.setdefault(key, []).append(each.contour)
            names[key] = (
                f"{each.operation.name}{' shared edges' if each.shared else ''} - {each.side.value} {each.operation.width:g} mm"
            )
    for operation in job.operations:
        worked = (
            operation.drawn(job.worked_on(operation, job.sheet)) if not operation.through else []
        )
        if worked:
            layers[operation.id, "", False] = worked
            names[operation.id, "", False] = operation.name
    taken: set[str] = set()
    return [Layer(_unlike(names[key], taken), tuple(contours)) for key, contours in layers.items()]


def _unlike(name: str, taken: set[str]) -> str:
    """A name that no other layer has, in any format and whether letters are small or capital."""
    number, other = 1, name
    while layer_name(other).casefold() in taken:
        number += 1
        other = f"{name[:180]} ({number})"
    taken.add(layer_name(other).casefold())
    return other


def _moved(layers: Sequence[Layer], x: float, y: float) -> list[Layer]:
    """Layers counted from (x, y)."""
    away = Affine.moved(-x, -y)
    return (
        list(layers)
        if (x, y) == (0, 0)
        else [
            Layer(each.name, tuple(c.transformed(away) for c in each.contours)) for each in layers
        ]
    )


def hand_off(
    job: Job, path: Path, tolerance: float = 0.01, *, back: bool = False, frame: bool = False
) -> ReadBack:
    """Write what the job's operations cut on a side of the sheet in hand (from the `back` mirrored,
    with a `frame` of the sheet's size where that is wanted), as the kind of file that the path's
    ending names, read it back and compare.

    A file that does not match takes nobody's place: what was at `path` before stays.

    Raises
    ------
    FormatError : where nothing is to be cut, the ending names no kind of file, or the disk refuses.
    """
    layers = layers_of(side_of(job, Run(job.sheet, back)))
    if not layers:
        raise FormatError(
            "nothing would leave: no contour on this sheet has an operation yet; give one in Make"
        )
    kind = format_of(path)
    if frame:
        x, y, wide, high = job.sheet.x, job.sheet.y, job.sheet.width, job.sheet.height
        layers.append(
            Layer(
                f"frame {wide:g} x {high:g} mm",
                (Contour.make([(x, y), (x + wide, y), (x + wide, y + high), (x, y + high)]),),
            )
        )
    layers = _moved(
        layers, *(job.sheet.origin_place if kind.from_origin else (job.sheet.x, job.sheet.y))
    )
    data = kind.write(layers, Page(job.sheet.width, job.sheet.height, tolerance))
    bent = not kind.curves and any(
        (c.kinds == CUBIC).any() for layer in layers for c in layer.contours
    )
    allowed = tolerance + 0.001 if bent else 0.001
    found: list[ReadBack] = []

    def look(written: Path) -> None:
        found.append(
            _compare(path.name, layers, kind.read(written), allowed, job.work_digest(job.sheet))
        )
        if not found[0].matches:
            raise _Differs(found[0])

    try:
        write_whole(path, data, look)
    except _Differs as differs:
        return differs.found
    except OSError as error:
        raise FormatError(
            f"{path.name} could not be written: {reason(error)}; nothing was handed off"
        ) from error
    return found[0]


def _compare(
    name: str, wanted: Sequence[Layer], found: Sequence[Layer], allowed: float, work: str
) -> ReadBack:
    wanted_of = {layer_name(layer.name): layer.contours for layer in wanted}
    found_of = {layer_name(layer.name): layer.contours for layer in found}
    wrong = [
        layer
        for layer in {**wanted_of, **found_of}
        if len(wanted_of.get(layer, ())) != len(found_of.get(layer, ()))
    ]
    worst = 0.0
    for layer, contours in wanted_of.items():
        pairs = zip(
            contours, found_of.get(layer, ()), strict=False
        )  # where they are not as many, the layer is named as wrong
        worst = max([worst, *(_difference(a, b) for a, b in pairs)])
    everything = [c for contours in found_of.values() for c in contours]
    boxes = np.array([c.box for c in everything]) if everything else np.zeros((1, 4))
    size = boxes[:, 2:].max(axis=0) - boxes[:, :2].min(axis=0)
    originals = [c for contours in wanted_of.values() for c in contours]
    return ReadBack(
        name,
        len(everything),
        len(originals),
        sum(c.closed for c in everything),
        sum(c.closed for c in originals),
        worst,
        allowed,
        (float(size[0]), float(size[1])),
        tuple(found_of),
        tuple(wrong),
        work,
    )


def _difference(a: Contour, b: Contour) -> float:
    """Greatest distance between two contours in mm (Hausdorff), within 0.0005 mm."""
    lines = [
        shapely.LineString(np.vstack([p, p[:1]]) if c.closed else p)
        for c in (a, b)
        for p in [_finely(c)]
    ]
    return float(shapely.hausdorff_distance(lines[0], lines[1]))


def _finely(contour: Contour) -> Points:
    """Places along a contour (n, 2) no farther apart than its bend allows, however large an arc
    is."""
    spans = contour.spans
    arcs = np.flatnonzero((spans.kinds == ARC) & (spans.bulges != 0))
    shape = spans.take(arcs).arc_shapes()
    wide = arcs[np.abs(shape.sweep) * np.sqrt(shape.radii / (8 * _FINE)) > _STEPS]
    if not len(wide):
        return contour.flattened(_FINE)
    steps = spans.steps(_FINE)
    large = spans.take(wide).arc_shapes()
    steps[wide] = np.minimum(
        np.ceil(np.abs(large.sweep) * np.sqrt(large.radii / (8 * _FINE))), _MOST_STEPS
    )
    which = np.repeat(np.arange(len(spans)), steps)
    share = np.arange(len(which)) - np.repeat(np.cumsum(steps) - steps, steps)
    places = spans.at(which, share / steps[which])
    return places if contour.closed else np.vstack([places, contour.nodes[-1:]])
