"""STEP (ISO 10303-21, AP214 ``AUTOMOTIVE_DESIGN``): exact solids with their names and colours, in mm."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from draxet.geometry.arrays import Floats
from draxet.geometry.exact_solids import (
    Cone,
    Cylinder,
    Edge,
    ExactSolid,
    Face,
    Free,
    FreeSurface,
    Plane,
    Round,
    Sphere,
    Torus,
)

__all__ = ["step_bytes"]

_WITHIN = 1e-5
"""mm: so far what belongs together may be apart."""


def step_bytes(solids: Sequence[ExactSolid], name: str = "bodies") -> bytes:
    """A file of one part with these solids."""
    data = _Data()
    context = _context(data)
    frame = data.placement(np.zeros(3), np.array([0.0, 0.0, 1.0]), np.array([1.0, 0.0, 0.0]))
    written = [(data.solid(each), each) for each in solids]
    shape = data.add(
        f"ADVANCED_BREP_SHAPE_REPRESENTATION({_text(name)},({_refs((frame, *(n for n, _ in written)))}),#{context})"
    )
    _product(data, shape, name)
    _colours(data, [(number, each.colour) for number, each in written], context)
    head = (
        "ISO-10303-21;\nHEADER;\n"
        "FILE_DESCRIPTION(('exact solids'),'2;1');\n"
        f"FILE_NAME({_text(name)},'2000-01-01T00:00:00',(''),(''),'Draxet','Draxet','');\n"
        "FILE_SCHEMA(('AUTOMOTIVE_DESIGN { 1 0 10303 214 1 1 1 1 }'));\nENDSEC;\nDATA;\n"
    )
    lines = "\n".join(f"#{k}={line};" for k, line in enumerate(data.lines, 1))
    return f"{head}{lines}\nENDSEC;\nEND-ISO-10303-21;\n".encode("ascii")


def _real(value: float) -> str:
    """As the syntax wants it: with a point always."""
    text = repr(float(value) + 0.0)
    base, exponent, power = text.partition("e")
    base = base if "." in base else f"{base}."
    return f"{base}E{power}" if exponent else base


def _text(words: str) -> str:
    """A string: what is no plain ASCII by its number (8.4.2 and 6.4.3 of Part 21)."""
    found = ""
    for sign in words:
        if sign in "'\\":
            found += sign * 2
        elif " " <= sign <= "~":
            found += sign
        elif ord(sign) < 0x10000:
            found += f"\\X2\\{ord(sign):04X}\\X0\\"
        else:
            found += f"\\X4\\{ord(sign):08X}\\X0\\"
    return f"'{found}'"


def _refs(numbers: Iterable[int]) -> str:
    return ",".join(f"#{number}" for number in numbers)


def _flag(value: bool) -> str:
    return ".T." if value else ".F."


def _reals(values: Floats) -> str:
    return ",".join(map(_real, values.tolist()))


class _Data:
    """The lines of a data section, numbered from 1; what is the same stands once."""

    def __init__(self) -> None:
        self.lines = list[str]()
        self._known = dict[str, int]()

    def add(self, line: str) -> int:
        self.lines.append(line)
        return len(self.lines)

    def once(self, line: str) -> int:
        if line not in self._known:
            self._known[line] = self.add(line)
        return self._known[line]

    def point(self, place: Floats) -> int:
        return self.once(f"CARTESIAN_POINT('',({_reals(place)}))")

    def direction(self, way: Floats) -> int:
        return self.once(f"DIRECTION('',({_reals(way / np.linalg.norm(way))}))")

    def placement(self, place: Floats, axis: Floats, x: Floats) -> int:
        return self.once(
            f"AXIS2_PLACEMENT_3D('',#{self.point(place)},#{self.direction(axis)},#{self.direction(x)})"
        )

    def solid(self, solid: ExactSolid) -> int:
        vertices, edges = dict[int, int](), dict[int, int]()
        shells = [
            self.add(
                f"CLOSED_SHELL('',({_refs([self._face(solid, face, vertices, edges) for face in shell])}))"
            )
            for shell in solid.shells
        ]
        if len(shells) == 1:
            return self.add(f"MANIFOLD_SOLID_BREP({_text(solid.name)},#{shells[0]})")
        hollows = [self.add(f"ORIENTED_CLOSED_SHELL('',*,#{shell},.T.)") for shell in shells[1:]]
        return self.add(f"BREP_WITH_VOIDS({_text(solid.name)},#{shells[0]},({_refs(hollows)}))")

    def _face(
        self, solid: ExactSolid, face: Face, vertices: dict[int, int], edges: dict[int, int]
    ) -> int:
        bounds = list[int]()
        for number, loop in enumerate(face.loops):
            parts = [
                self.add(
                    f"ORIENTED_EDGE('',*,*,#{self._edge(solid, edge, vertices, edges)},{_flag(along)})"
                )
                for edge, along in loop
            ]
            ring = self.add(f"EDGE_LOOP('',({_refs(parts)}))")
            bound = "FACE_BOUND" if number else "FACE_OUTER_BOUND"
            bounds.append(self.add(f"{bound}('',#{ring},.T.)"))
        return self.add(
            f"ADVANCED_FACE('',({_refs(bounds)}),#{self._surface(face)},{_flag(face.outward)})"
        )

    def _vertex(self, solid: ExactSolid, number: int, vertices: dict[int, int]) -> int:
        if number not in vertices:
            place = self.point(solid.vertices[number])
            vertices[number] = self.add(f"VERTEX_POINT('',#{place})")
        return vertices[number]

    def _edge(
        self, solid: ExactSolid, number: int, vertices: dict[int, int], edges: dict[int, int]
    ) -> int:
        if number not in edges:
            edge = solid.edges[number]
            ends = [self._vertex(solid, end, vertices) for end in (edge.begin, edge.end)]
            curve = self._curve(solid, edge)
            edges[number] = self.add(f"EDGE_CURVE('',{_refs(ends)},#{curve},.T.)")
        return edges[number]

    def _curve(self, solid: ExactSolid, edge: Edge) -> int:
        curve = edge.curve
        if isinstance(curve, Round):
            frame = self.placement(curve.centre, np.cross(curve.x, curve.y), curve.x)
            return self.add(f"CIRCLE('',#{frame},{_real(curve.radius)})")
        if isinstance(curve, Free):
            return self._free(curve)
        begin = solid.vertices[edge.begin]
        way = solid.vertices[edge.end] - begin
        vector = self.add(f"VECTOR('',#{self.direction(way)},{_real(float(np.linalg.norm(way)))})")
        return self.add(f"LINE('',#{self.point(begin)},#{vector})")

    def _free(self, curve: Free) -> int:
        poles = _refs(self.point(place) for place in curve.poles)
        often = ",".join(str(count) for _, count in curve.knots)
        knots = ",".join(_real(value) for value, _ in curve.knots)
        return self.add(
            "(BOUNDED_CURVE()"
            f"B_SPLINE_CURVE({curve.degree},({poles}),.UNSPECIFIED.,.F.,.F.)"
            f"B_SPLINE_CURVE_WITH_KNOTS(({often}),({knots}),.UNSPECIFIED.)"
            "CURVE()GEOMETRIC_REPRESENTATION_ITEM()"
            f"RATIONAL_B_SPLINE_CURVE(({_reals(curve.weights)}))"
            "REPRESENTATION_ITEM(''))"
        )

    def _surface(self, face: Face) -> int:
        surface = face.surface
        if isinstance(surface, Plane):
            normal = surface.normal
            x = np.cross(normal, np.eye(3)[int(np.argmin(np.abs(normal)))])
            return self.add(f"PLANE('',#{self.placement(surface.origin, normal, x)})")
        if isinstance(surface, FreeSurface):
            return self._free_surface(surface)
        frame = self.placement(surface.origin, surface.axis, surface.x)
        if isinstance(surface, Cylinder):
            return self.add(f"CYLINDRICAL_SURFACE('',#{frame},{_real(surface.radius)})")
        if isinstance(surface, Cone):
            sizes = f"{_real(surface.radius)},{_real(surface.angle)}"
            return self.add(f"CONICAL_SURFACE('',#{frame},{sizes})")
        if isinstance(surface, Sphere):
            return self.add(f"SPHERICAL_SURFACE('',#{frame},{_real(surface.radius)})")
        assert isinstance(surface, Torus)
        sizes = f"{_real(surface.major)},{_real(surface.minor)}"
        return self.add(f"TOROIDAL_SURFACE('',#{frame},{sizes})")

    def _free_surface(self, surface: FreeSurface) -> int:
        rows = ",".join(f"({_refs(self.point(place) for place in row)})" for row in surface.poles)
        often = ",".join(
            f"({','.join(str(count) for _, count in knots)})" for knots in surface.knots
        )
        values = ",".join(
            f"({','.join(_real(value) for value, _ in knots)})" for knots in surface.knots
        )
        weights = ",".join(f"({_reals(row)})" for row in surface.weights)
        u, v = surface.degrees
        return self.add(
            "(BOUNDED_SURFACE()"
            f"B_SPLINE_SURFACE({u},{v},({rows}),.UNSPECIFIED.,.F.,.F.,.F.)"
            f"B_SPLINE_SURFACE_WITH_KNOTS({often},{values},.UNSPECIFIED.)"
            "GEOMETRIC_REPRESENTATION_ITEM()"
            f"RATIONAL_B_SPLINE_SURFACE(({weights}))"
            "REPRESENTATION_ITEM('')SURFACE())"
        )


def _context(data: _Data) -> int:
    """Lengths in mm, angles in radians, and how exact it is."""
    length = data.add("(LENGTH_UNIT()NAMED_UNIT(*)SI_UNIT(.MILLI.,.METRE.))")
    angle = data.add("(NAMED_UNIT(*)PLANE_ANGLE_UNIT()SI_UNIT($,.RADIAN.))")
    solid = data.add("(NAMED_UNIT(*)SI_UNIT($,.STERADIAN.)SOLID_ANGLE_UNIT())")
    within = data.add(
        f"UNCERTAINTY_MEASURE_WITH_UNIT(LENGTH_MEASURE({_real(_WITHIN)}),#{length},'distance_accuracy_value','')"
    )
    return data.add(
        "(GEOMETRIC_REPRESENTATION_CONTEXT(3)"
        f"GLOBAL_UNCERTAINTY_ASSIGNED_CONTEXT((#{within}))"
        f"GLOBAL_UNIT_ASSIGNED_CONTEXT(({_refs((length, angle, solid))}))"
        "REPRESENTATION_CONTEXT('',''))"
    )


def _product(data: _Data, shape: int, name: str) -> None:
    context = data.add(
        "APPLICATION_CONTEXT('core data for automotive mechanical design processes')"
    )
    data.add(
        f"APPLICATION_PROTOCOL_DEFINITION('international standard','automotive_design',2000,#{context})"
    )
    of = data.add(f"PRODUCT_CONTEXT('',#{context},'mechanical')")
    product = data.add(f"PRODUCT({_text(name)},{_text(name)},'',(#{of}))")
    data.add(f"PRODUCT_RELATED_PRODUCT_CATEGORY('part',$,(#{product}))")
    formation = data.add(f"PRODUCT_DEFINITION_FORMATION('','',#{product})")
    design = data.add(f"PRODUCT_DEFINITION_CONTEXT('part definition',#{context},'design')")
    definition = data.add(f"PRODUCT_DEFINITION('design','',#{formation},#{design})")
    defined = data.add(f"PRODUCT_DEFINITION_SHAPE('','',#{definition})")
    data.add(f"SHAPE_DEFINITION_REPRESENTATION(#{defined},#{shape})")


def _colours(data: _Data, solids: Sequence[tuple[int, str]], context: int) -> None:
    styled = list[int]()
    for number, colour in solids:
        shares = [int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)]
        rgb = data.once(f"COLOUR_RGB('',{','.join(map(_real, shares))})")
        fill = data.once(f"FILL_AREA_STYLE_COLOUR('',#{rgb})")
        area = data.once(f"FILL_AREA_STYLE('',(#{fill}))")
        look = data.once(f"SURFACE_STYLE_FILL_AREA(#{area})")
        side = data.once(f"SURFACE_SIDE_STYLE('',(#{look}))")
        usage = data.once(f"SURFACE_STYLE_USAGE(.BOTH.,#{side})")
        style = data.once(f"PRESENTATION_STYLE_ASSIGNMENT((#{usage}))")
        styled.append(data.add(f"STYLED_ITEM('',(#{style}),#{number})"))
    data.add(
        f"MECHANICAL_DESIGN_GEOMETRIC_PRESENTATION_REPRESENTATION('',({_refs(styled)}),#{context})"
    )
