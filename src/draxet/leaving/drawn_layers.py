"""What is worked on a sheet, as the layers of a drawing."""

from __future__ import annotations

from draxet.formats.dxf import layer_name
from draxet.formats.layer import Layer
from draxet.geometry.contour import Contour
from draxet.job.records import Job
from draxet.job.work import cut_work

__all__ = ["layers_of"]


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
