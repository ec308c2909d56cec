"""Hand off: the contours to be cut, and nothing else, leave in a file, which is read back and compared with the job."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import shapely

from draxet.formats.dxf import dxf_text, layer_name, read_dxf
from draxet.formats.layer import FormatError, Layer
from draxet.formats.svg import read_svg, svg_text
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.files import write_whole
from draxet.job.records import Job

__all__ = ["ENDINGS", "ReadBack", "hand_off", "layers_of"]

ENDINGS = ("dxf", "svg")
_FINE = 0.0005


@dataclass(frozen=True)
class ReadBack:
    """What was found in the file: contours there and wanted, closed ones there and wanted, the greatest difference and the size in mm."""

    file: str
    contours: int
    wanted: int
    closed: int
    closed_wanted: int
    worst: float
    allowed: float
    size: tuple[float, float]
    layers: tuple[str, ...]

    @property
    def matches(self) -> bool:
        return self.contours == self.wanted and self.closed == self.closed_wanted and self.worst <= self.allowed


def layers_of(job: Job) -> list[Layer]:
    """One layer for each operation, named for it, its side and its cut width: of the sheet in hand, where there are several."""
    sheet, only = job.sheet, len(job.sheets) == 1

    def leaves(contour: Contour) -> bool:
        x0, y0, x1, y1 = contour.box
        return only or (sheet.x <= (x0 + x1) / 2 <= sheet.x + sheet.width and sheet.y <= (y0 + y1) / 2 <= sheet.y + sheet.height)

    layers = []
    for o in job.operations:
        contours = tuple(contour for c in o.contours if leaves(contour := job.contour_by_id[c].contour))
        if contours:
            layers.append(Layer(f"{o.name} - {o.side.value} {o.width:g} mm", contours))
    return layers


def _moved(layers: Sequence[Layer], x: float, y: float) -> list[Layer]:
    """Layers counted from (x, y)."""
    away = Affine.moved(-x, -y)
    return list(layers) if (x, y) == (0, 0) else [Layer(each.name, tuple(c.transformed(away) for c in each.contours)) for each in layers]


def hand_off(job: Job, path: Path, tolerance: float = 0.01) -> ReadBack:
    """Write what the job's operations cut as SVG or DXF, by the path's ending, read it back and compare. A DXF counts from the
    sheet's origin; an SVG's page is the sheet.

    Raises
    ------
    FormatError : where nothing is to be cut, the ending is neither, or the disk refuses.
    """
    layers = layers_of(job)
    if not layers:
        raise FormatError("nothing would leave: no contour on this sheet has an operation yet; give one in Make")
    kind = path.suffix.lower().lstrip(".")
    if kind not in ENDINGS:
        raise FormatError(f"the file name must end in .dxf or .svg, got {path.name!r}")
    layers = _moved(layers, *(job.sheet.origin_place if kind == "dxf" else (job.sheet.x, job.sheet.y)))
    text = dxf_text(layers, tolerance) if kind == "dxf" else svg_text(layers, job.sheet.width, job.sheet.height)
    try:
        write_whole(path, text.encode())
    except OSError as error:
        raise FormatError(f"{path.name} could not be written: {error.strerror or error}; nothing was handed off") from error
    found = read_dxf(path) if kind == "dxf" else read_svg(path)
    curves = kind == "dxf" and any((c.kinds == 2).any() for layer in layers for c in layer.contours)
    return _compare(path.name, layers, found, tolerance + 0.001 if curves else 0.001)


def _compare(name: str, wanted: Sequence[Layer], found: Sequence[Layer], allowed: float) -> ReadBack:
    wanted_of = {layer_name(layer.name): layer.contours for layer in wanted}
    found_of = {layer_name(layer.name): layer.contours for layer in found}
    worst = 0.0
    for layer, contours in wanted_of.items():
        pairs = zip(contours, found_of.get(layer, ()), strict=False)
        worst = max([worst, *(_difference(a, b) for a, b in pairs)])
    everything = [c for contours in found_of.values() for c in contours]
    boxes = np.array([c.box for c in everything]) if everything else np.zeros((1, 4))
    size = boxes[:, 2:].max(axis=0) - boxes[:, :2].min(axis=0)
    originals = [c for contours in wanted_of.values() for c in contours]
    return ReadBack(
        name, len(everything), len(originals), sum(c.closed for c in everything), sum(c.closed for c in originals),
        worst, allowed, (float(size[0]), float(size[1])), tuple(found_of),
    )  # fmt: skip


def _difference(a: Contour, b: Contour) -> float:
    """Greatest distance between two contours in mm (Hausdorff), within 0.0005 mm."""
    lines = [shapely.LineString(np.vstack([p, p[:1]]) if c.closed else p) for c in (a, b) for p in [c.flattened(_FINE)]]
    return float(shapely.hausdorff_distance(lines[0], lines[1]))
