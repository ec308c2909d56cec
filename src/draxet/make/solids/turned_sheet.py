"""What is turned on a sheet: each profile once, and what was copied from it beside it."""

from __future__ import annotations

from collections.abc import Iterator
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
from draxet.make.solids.shaft_bodies import Shaft, shaft, shaft_amiss
from draxet.make.solids.solid_levels import PLAIN
from draxet.make.solids.turned_bodies import Axis, beyond_axis, profile_of, turned
from draxet.progress import Progress
from draxet.record import record

__all__ = ["Over", "Turning", "turned_on", "turnings_on", "waits"]

_SAME = 1e-5
"""mm: a copy is one where its nodes are no farther off."""

Over = tuple[str, tuple[float, float]]
"""A profile that reaches over its axis: its id, and where."""


@record(frozen=True, eq=False)
class Turning:
    """One profile of an operation, by the id of its outline, counted from the sheet's origin; the path
    that it is led along, if any. there : where it is a copy of one that came before, `copied`, the map
    from that. shaft : which goes up from it; then its axis tells nothing."""

    operation: Turn
    name: str
    contours: list[Contour]
    axis: Axis
    path: Contour | None
    shaft: Shaft | None
    copied: str = ""
    there: Affine | None = None

    def over(self) -> tuple[float, float] | None:
        """Where it reaches over its axis, into itself on its path, or its curve does not rise; None
        where all is well."""
        if self.shaft is not None:
            return shaft_amiss(self.shaft)
        if self.path is None:
            return beyond_axis(self.contours, self.axis)
        return crosses_itself(profile_of(self.contours, self.axis, crosses=True), self.path)

    def called(self, job: Job) -> tuple[str, str]:
        """The name and the colour of its body."""
        item = job.layout.contour_by_id[self.name]
        name = item.layer or colour_word(item.colour) or self.operation.name or "turned"
        return name, item.colour or PLAIN


def turnings_on(job: Job, sheet: Sheet) -> Iterator[Turning]:
    """The profiles of a sheet that have an axis, and a path where they want one."""
    x, y = sheet.origin_place
    from_origin = Affine.moved(-x, -y)
    guides = {guide.id: guide for guide in job.guides}
    for operation in job.operations:
        if not isinstance(operation, Turn) or waits(job, operation):
            continue
        guide = guides.get(operation.axis)
        axis = Axis(guide.x - x, guide.y - y, guide.angle) if guide else Axis(0.0, 0.0, 90.0)
        line, top, curve = (
            job.layout.contour_by_id[name].contour.transformed(from_origin) if name else None
            for name in (operation.path, operation.top, operation.curve)
        )
        named = set[str]()
        for group in _profiles(job, operation, sheet):
            if operation.is_shaft and not group[0][1].closed:
                continue
            contours = [each.transformed(from_origin) for _, each in group]
            first, drawn, there = group[0][0], drawn_name(group[0][0]), None
            if first != drawn and drawn in named:
                original = job.layout.contour_by_id[drawn].contour.transformed(from_origin)
                there = _map_between(original, contours[0])
            named.add(first)
            copied = drawn if there is not None else ""
            goes_up = _shaft_of(operation, contours, top, curve) if operation.is_shaft else None
            yield Turning(operation, first, contours, axis, line, goes_up, copied, there)


def waits(job: Job, operation: Turn) -> bool:
    """Whether it turns about no guide, or goes along or up to what is not there."""
    by_id = job.layout.contour_by_id
    if operation.is_shaft:
        return any(name and name not in by_id for name in (operation.top, operation.curve))
    lost = bool(operation.path) and operation.path not in by_id
    return lost or all(guide.id != operation.axis for guide in job.guides)


def _shaft_of(
    operation: Turn, contours: list[Contour], top: Contour | None, curve: Contour | None
) -> Shaft:
    return Shaft(
        contours[0],
        tuple(contours[1:]),
        operation.height,
        operation.level,
        operation.above,
        top,
        curve,
    )


def turned_on(job: Job, sheet: Sheet, report: Progress) -> tuple[list[Mesh], list[Over]]:
    """What is turned on a sheet, counted from its origin, and what cannot be, as it crosses its axis.
    What follows a profile (linked copies, rings, rows) stands as that does where it lies.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    bodies, over, made = list[Mesh](), list[Over](), dict[tuple[str, str], Mesh]()
    for each in turnings_on(job, sheet):
        operation = each.operation
        report(0.9, f"turning {operation.name}")
        if each.there is not None:
            original = made.get((operation.id, each.copied))
            if original is not None:
                bodies.append(_placed(original, each.there, operation.level))
            continue
        if (place := each.over()) is not None:
            over.append((each.name, place))
            continue
        body = _body(each, *each.called(job))
        if len(body.triangles):
            made[operation.id, each.name] = body
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


def _body(each: Turning, name: str, colour: str) -> Mesh:
    operation = each.operation
    if each.shaft is not None:
        return shaft(each.shaft, name, colour)
    if each.path is not None:
        profile = profile_of(each.contours, each.axis, crosses=True)
        return led(profile, each.path, operation.level, name, colour)
    return turned(
        profile_of(each.contours, each.axis),
        operation.angle,
        operation.sides,
        standing=operation.standing,
        level=operation.level,
        name=name,
        colour=colour,
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
