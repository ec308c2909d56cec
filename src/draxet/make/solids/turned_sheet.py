"""What is turned on a sheet: each profile once, and what was copied from it beside it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.mesh import Mesh
from draxet.job.colour_words import colour_word
from draxet.job.coloured_areas import outlines_with_holes
from draxet.job.layout_names import drawn_name
from draxet.job.operations import Turn
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.make.solids.led_bodies import crosses_itself, led
from draxet.make.solids.solid_levels import PLAIN
from draxet.make.solids.turned_bodies import Axis, beyond_axis, profile_of, turned
from draxet.progress import Progress

__all__ = ["Over", "turned_on"]

_SAME = 1e-5
"""mm: a copy is one where its nodes are no farther off."""

Over = tuple[str, tuple[float, float]]
"""A profile that reaches over its axis: its id, and where."""


def turned_on(job: Job, sheet: Sheet, report: Progress) -> tuple[list[Mesh], list[Over]]:
    """What is turned on a sheet, counted from its origin, and what cannot be, as it crosses its axis.
    What follows a profile (linked copies, rings, rows) stands as that does where it lies.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    x, y = sheet.origin_place
    from_origin = Affine.moved(-x, -y)
    guides = {guide.id: guide for guide in job.guides}
    bodies, over = list[Mesh](), list[Over]()
    for operation in job.operations:
        guide = guides.get(operation.axis) if isinstance(operation, Turn) else None
        path = job.layout.contour_by_id.get(operation.path)
        if not isinstance(operation, Turn) or guide is None or (operation.path and path is None):
            continue
        axis, made = Axis(guide.x - x, guide.y - y, guide.angle), dict[str, Mesh]()
        for group in _profiles(job, operation, sheet):
            report(0.9, f"turning {operation.name}")
            contours = [each.transformed(from_origin) for _, each in group]
            first, drawn = group[0][0], drawn_name(group[0][0])
            if first != drawn and drawn in made:
                original = job.layout.contour_by_id[drawn].contour.transformed(from_origin)
                if (there := _map_between(original, contours[0])) is not None:
                    bodies.append(_placed(made[drawn], there, operation.level))
                    continue
            line = path.contour.transformed(from_origin) if path is not None else None
            place = (
                beyond_axis(contours, axis)
                if line is None
                else crosses_itself(profile_of(contours, axis, crosses=True), line)
            )
            if place is not None:
                over.append((first, place))
                continue
            body = _body(job, operation, first, contours, axis, line)
            if len(body.triangles):
                made[first] = body
                bodies.append(body)
    return bodies, over


def _profiles(job: Job, operation: Turn, sheet: Sheet) -> list[list[tuple[str, Contour]]]:
    """Each outline with its openings, and each open line; what is drawn before what is laid of it."""
    some = sorted(job.worked_on(operation, sheet), key=lambda each: each[0] != drawn_name(each[0]))
    closed = [each for each in some if each[1].closed]
    colours = [job.layout.contour_by_id[name].colour for name, _ in closed]
    groups = outlines_with_holes([contour for _, contour in closed], colours)
    opened = [[each] for each in some if not each[1].closed and len(each[1].nodes) > 1]
    return [[closed[k] for k in group] for group in groups] + opened


def _body(
    job: Job,
    operation: Turn,
    name: str,
    contours: list[Contour],
    axis: Axis,
    path: Contour | None,
) -> Mesh:
    item = job.layout.contour_by_id[name]
    called = item.layer or colour_word(item.colour) or operation.name or "turned"
    if path is not None:
        profile = profile_of(contours, axis, crosses=True)
        return led(profile, path, operation.level, called, item.colour or PLAIN)
    return turned(
        profile_of(contours, axis),
        operation.angle,
        operation.sides,
        standing=operation.standing,
        level=operation.level,
        name=called,
        colour=item.colour or PLAIN,
    )


def _map_between(one: Contour, other: Contour) -> Affine | None:
    """The map by which one contour lies where another does, which keeps shapes; None where there is
    none."""
    if len(one.nodes) != len(other.nodes):
        return None
    begin = one.nodes[0]
    far = int(np.argmax(((one.nodes - begin) ** 2).sum(axis=1)))
    a, b = complex(*begin.tolist()), complex(*one.nodes[far].tolist())
    c, d = complex(*other.nodes[0].tolist()), complex(*other.nodes[far].tolist())
    if abs(b - a) < _SAME:
        return None
    straight = (d - c) / (b - a)
    mirrored = (d - c) / (b - a).conjugate()
    for turn, sign in ((straight, 1.0), (mirrored, -1.0)):
        start = c - turn * (a if sign > 0 else a.conjugate())
        found = Affine(
            turn.real, -sign * turn.imag, start.real, turn.imag, sign * turn.real, start.imag
        )
        if float(np.abs(found.apply(one.nodes) - other.nodes).max()) < _SAME * 100:
            return found
    return None


def _placed(mesh: Mesh, there: Affine, level: float) -> Mesh:
    """A body where a copy of its profile lies."""
    plan = there.apply(mesh.places[:, :2])
    heights = level + (mesh.places[:, 2] - level) * there.scale
    triangles = mesh.triangles if there.determinant > 0 else mesh.triangles[:, ::-1]
    found: Mesh = replace(
        mesh, places=np.column_stack([plan, heights]), triangles=np.ascontiguousarray(triangles)
    )
    return found
