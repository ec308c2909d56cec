"""What is raised, sunk, turned and led on a sheet as exact solids."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
import shapely

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.exact_solids import ExactSolid, Pose
from draxet.geometry.spans import ARC, LINE
from draxet.job.records import Job
from draxet.job.sheet_records import Base, Sheet
from draxet.job.solid_base import base_of
from draxet.make.solids.exact_cells import NotExact, Standing
from draxet.make.solids.exact_turns import exact_profile, led_exactly, shaft_exactly, turned_exactly
from draxet.make.solids.exact_walls import walls_of
from draxet.make.solids.solid_levels import Raised
from draxet.make.solids.solid_sheet import BASE, SolidSheet, raised_on
from draxet.make.solids.turned_sheet import Turning, turnings_on
from draxet.progress import Progress

__all__ = ["exact_on", "rounded_box"]

Box = tuple[float, float, float, float]
_NONE, _FINE = 1e-9, 0.002

_QUARTER = float(np.tan(np.pi / 8))
"""The bulge of a quarter of a circle."""


def exact_on(job: Job, sheet: Sheet, solid: SolidSheet, report: Progress) -> list[ExactSolid]:
    """The solids of a sheet, counted from where its files count.

    Raises
    ------
    NotExact : where one of them cannot be told exactly. Cancelled : where `report` says so.
    """
    report(0.1, "making exact solids")
    standing = _standing(job, sheet)
    x, y = _corner(base_of(job, sheet), standing, solid)
    found = [*walls_of(standing), *_turned(job, sheet, report)]
    away = Pose(np.eye(3), np.array([-x, -y, 0.0]))
    return [each.posed(away) for each in found]


def _corner(base: Base, standing: Sequence[Standing], solid: SolidSheet) -> tuple[float, float]:
    bases = [
        contour.box for each in standing if each.raised.name == BASE for contour in each.contours
    ]
    if not bases:
        return solid.corner
    x0, y0, x1, y1 = _around(bases)
    return ((x0 + x1) / 2, (y0 + y1) / 2) if base.origin == "middle" else (x0, y0)


def _around(boxes: Sequence[Box]) -> Box:
    left, low, right, high = zip(*boxes, strict=True)
    return min(left), min(low), max(right), max(high)


def _standing(job: Job, sheet: Sheet) -> list[Standing]:
    """What is raised and sunk, the base first."""
    x, y = sheet.origin_place
    from_origin = Affine.moved(-x, -y)
    by_id = job.layout.contour_by_id
    found, under = list[Standing](), None
    for raised, ids in raised_on(job, sheet):
        if raised.name == BASE and not ids:
            under = raised
        else:
            some = tuple(by_id[name].contour.transformed(from_origin) for name in ids)
            found.append(Standing(raised, some))
    return found if under is None else [*_under(base_of(job, sheet), under, found), *found]


def _under(base: Base, raised: Raised, above: Sequence[Standing]) -> list[Standing]:
    """A base that is no contour of the job."""
    outlines = [each.contours[0] for each in above]
    if base.shape == "outline":
        if base.margin:
            raise NotExact(
                "a base round the work's outline with a margin is no exact curve; take a margin of 0, a box or a chosen contour"
            )
        return [Standing(raised, (each,)) for each in _outermost(outlines)]
    if base.shape == "box":
        x0, y0, x1, y1 = _around([each.box for each in outlines])
        away, most = base.margin, min(x1 - x0, y1 - y0) / 2 + base.margin
        box = (x0 - away, y0 - away, x1 + away, y1 + away)
        return [Standing(raised, (rounded_box(box, min(base.corner, most)),))]
    x0, y0, x1, y1 = shapely.bounds(raised.area).tolist()
    return [Standing(raised, (rounded_box((x0, y0, x1, y1), 0.0),))]


def _outermost(outlines: Sequence[Contour]) -> list[Contour]:
    """Those within no other one, each once."""
    shapes = [shapely.Polygon(each.flattened(_FINE)) for each in outlines]
    found = list[int]()
    for k, shape in enumerate(shapes):
        around = [j for j, other in enumerate(shapes) if j != k and shapely.covers(other, shape)]
        if all(j > k and shapely.equals(shapes[j], shape) for j in around):
            found.append(k)
    return [outlines[k] for k in found]


def rounded_box(box: Box, corner: float) -> Contour:
    """A box with corners of a radius, anticlockwise."""
    x0, y0, x1, y1 = box
    if not corner:
        return Contour.make([(x0, y0), (x1, y0), (x1, y1), (x0, y1)])
    c = corner
    nodes = [
        (x0 + c, y0),
        (x1 - c, y0),
        (x1, y0 + c),
        (x1, y1 - c),
        (x1 - c, y1),
        (x0 + c, y1),
        (x0, y1 - c),
        (x0, y0 + c),
    ]
    kept = [k for k in range(8) if np.hypot(*np.subtract(nodes[k], nodes[(k + 1) % 8])) > _NONE]
    kinds, bulges = [LINE, ARC] * 4, [0.0, _QUARTER] * 4
    return Contour.make(
        [nodes[k] for k in kept], [kinds[k] for k in kept], [bulges[k] for k in kept]
    )


def _turned(job: Job, sheet: Sheet, report: Progress) -> Iterator[ExactSolid]:
    """What is turned and led; what follows a profile stands as that does where it lies."""
    made = dict[tuple[str, str], ExactSolid]()
    for each in turnings_on(job, sheet):
        report(0.5, f"turning {each.operation.name}")
        key = each.operation.id, each.copied or each.name
        if each.there is None and each.over() is None:
            made[key] = _body(each, *each.called(job))
        if key in made:
            pose = _pose_of(each.there, each.operation.level) if each.there else None
            yield made[key].posed(pose) if pose else made[key]


def _body(each: Turning, name: str, colour: str) -> ExactSolid:
    operation = each.operation
    if each.shaft is not None:
        return shaft_exactly(each.shaft, name, colour)
    if each.path is not None:
        profile = exact_profile(each.contours, each.axis, name, crosses=True)
        return led_exactly(profile, each.path, operation.level, name, colour)
    profile = exact_profile(each.contours, each.axis, name)
    return turned_exactly(
        profile,
        operation.angle,
        operation.sides,
        standing=operation.standing,
        level=operation.level,
        name=name,
        colour=colour,
    )


def _pose_of(there: Affine, level: float) -> Pose:
    scale = there.scale
    matrix = np.array([[there.a, there.b, 0.0], [there.d, there.e, 0.0], [0.0, 0.0, scale]])
    return Pose(matrix, np.array([there.c, there.f, level - level * scale]))
