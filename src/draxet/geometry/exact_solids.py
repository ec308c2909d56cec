"""Exact solids: faces on planes, cylinders, cones, spheres, tori and rational B-splines, bounded by
edges that two faces share.

Places are in mm, (3,) each, z up. An *edge* runs from a vertex to another one along its curve: a
circle from its x towards its y. A *face* has loops of edges that run anticlockwise round it as it is
seen from outside, the outer one first; the normal of a cylinder, cone, sphere or torus leads away from
its axis or its tube's middle, that of a B-spline is u × v.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import TypeVar

import numpy as np

from draxet.geometry.arrays import Floats
from draxet.record import record

__all__ = [
    "Cone",
    "Curve",
    "Cylinder",
    "Edge",
    "ExactSolid",
    "Face",
    "Free",
    "FreeSurface",
    "Loop",
    "Plane",
    "Pose",
    "Round",
    "Sphere",
    "Straight",
    "Surface",
    "Torus",
    "unpaired_edges",
]

Knots = tuple[tuple[float, int], ...]
"""Values and how often each stands."""
_On = TypeVar("_On", bound="_Placed")


@record(frozen=True, eq=False)
class Pose:
    """A map that keeps shapes: `matrix` (3, 3), then `shift` (3,)."""

    matrix: Floats
    shift: Floats

    def place(self, places: Floats) -> Floats:
        found: Floats = places @ self.matrix.T + self.shift
        return found

    def way(self, ways: Floats) -> Floats:
        """Directions, of the length that they had."""
        found: Floats = ways @ self.matrix.T / self.scale
        return found

    @property
    def scale(self) -> float:
        return float(np.cbrt(abs(np.linalg.det(self.matrix))))

    @property
    def mirrors(self) -> bool:
        return bool(np.linalg.det(self.matrix) < 0)


@record(frozen=True, eq=False)
class Straight:
    """From vertex to vertex."""

    def posed(self, pose: Pose) -> Straight:
        return self


@record(frozen=True, eq=False)
class Round:
    """A circle's arc, from its `x` towards its `y`."""

    centre: Floats
    x: Floats
    y: Floats
    radius: float

    def posed(self, pose: Pose) -> Round:
        return Round(
            pose.place(self.centre), pose.way(self.x), pose.way(self.y), self.radius * pose.scale
        )


@record(frozen=True, eq=False)
class Free:
    """A rational B-spline: `poles` (n, 3), `weights` (n,)."""

    poles: Floats
    weights: Floats
    degree: int
    knots: Knots

    def posed(self, pose: Pose) -> Free:
        found: Free = replace(self, poles=pose.place(self.poles))
        return found


Curve = Straight | Round | Free


@record(frozen=True, eq=False)
class Plane:
    """Through a place; its normal leads outwards."""

    origin: Floats
    normal: Floats

    def posed(self, pose: Pose) -> Plane:
        return Plane(pose.place(self.origin), pose.way(self.normal))


@record(frozen=True, eq=False)
class _Placed:
    """Round an `axis` through `origin`; `x` is square to it."""

    origin: Floats
    axis: Floats
    x: Floats

    def _there(self: _On, pose: Pose, **lengths: float) -> _On:
        found: _On = replace(
            self,
            origin=pose.place(self.origin),
            axis=pose.way(self.axis),
            x=pose.way(self.x),
            **{name: length * pose.scale for name, length in lengths.items()},
        )
        return found


@record(frozen=True, eq=False)
class Cylinder(_Placed):
    radius: float

    def posed(self, pose: Pose) -> Cylinder:
        return self._there(pose, radius=self.radius)


@record(frozen=True, eq=False)
class Cone(_Placed):
    """So wide at its origin, and wider along its axis by half an `angle` in radians."""

    radius: float
    angle: float

    def posed(self, pose: Pose) -> Cone:
        return self._there(pose, radius=self.radius)


@record(frozen=True, eq=False)
class Sphere(_Placed):
    radius: float

    def posed(self, pose: Pose) -> Sphere:
        return self._there(pose, radius=self.radius)


@record(frozen=True, eq=False)
class Torus(_Placed):
    major: float
    minor: float

    def posed(self, pose: Pose) -> Torus:
        return self._there(pose, major=self.major, minor=self.minor)


@record(frozen=True, eq=False)
class FreeSurface:
    """A rational B-spline: `poles` (m, n, 3), `weights` (m, n), the first way u, the other v."""

    poles: Floats
    weights: Floats
    degrees: tuple[int, int]
    knots: tuple[Knots, Knots]

    def posed(self, pose: Pose) -> FreeSurface:
        found: FreeSurface = replace(self, poles=pose.place(self.poles))
        return found


Surface = Plane | Cylinder | Cone | Sphere | Torus | FreeSurface
Loop = tuple[tuple[int, bool], ...]
"""Edges by their numbers, and whether each is gone along."""


@record(frozen=True, eq=False)
class Edge:
    curve: Curve
    begin: int
    end: int


@record(frozen=True, eq=False)
class Face:
    """outward : whether its surface's normal leads out of the solid."""

    surface: Surface
    loops: tuple[Loop, ...]
    outward: bool = True


@record(frozen=True, eq=False)
class ExactSolid:
    """`vertices` (n, 3); `shells`: the outer one first, then those of hollows."""

    name: str
    colour: str
    vertices: Floats
    edges: tuple[Edge, ...]
    shells: tuple[tuple[Face, ...], ...]

    @property
    def faces(self) -> list[Face]:
        return [face for shell in self.shells for face in shell]

    def posed(self, pose: Pose) -> ExactSolid:
        """The solid somewhere else, larger or mirrored."""
        edges = tuple(replace(edge, curve=edge.curve.posed(pose)) for edge in self.edges)
        shells = tuple(tuple(_posed(face, pose) for face in shell) for shell in self.shells)
        found: ExactSolid = replace(
            self, vertices=pose.place(self.vertices), edges=edges, shells=shells
        )
        return found


def _posed(face: Face, pose: Pose) -> Face:
    surface = face.surface.posed(pose)
    if not pose.mirrors:
        return Face(surface, face.loops, face.outward)
    loops = tuple(tuple((edge, not along) for edge, along in reversed(loop)) for loop in face.loops)
    return Face(surface, loops, face.outward != isinstance(surface, FreeSurface))


def unpaired_edges(shells: Sequence[Sequence[Face]]) -> list[int]:
    """The edges that are not gone along once each way: a solid has none."""
    used = dict[int, list[bool]]()
    for shell in shells:
        for face in shell:
            for loop in face.loops:
                for edge, along in loop:
                    used.setdefault(edge, []).append(along)
    return [edge for edge, ways in used.items() if sorted(ways) != [False, True]]
