"""STEP read back: an exchange structure of ISO 10303-21, and the solids in it. It shares nothing with
what writes them, and looks at what a solid is to be: each edge goes once each way, its ends lie on its
curve, and its middle on both of its faces."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Mapping
from typing import Any

import numpy as np
import scipy

from draxet.formats.layer import FormatError
from draxet.geometry.arrays import Floats
from draxet.record import record

__all__ = ["StepSolid", "read_step"]

_NEAR = 1e-4
"""mm: what belongs together is no farther apart."""
_TOKEN = re.compile(
    r"\s+|/\*.*?\*/|(?P<text>'(?:[^']|'')*')|(?P<ref>\#\d+)|(?P<enum>\.[A-Z0-9_]+\.)"
    r"|(?P<number>[+-]?\d+\.?\d*(?:[Ee][+-]?\d+)?)|(?P<word>[A-Z_][A-Z0-9_]*)|(?P<mark>[(),;=*$])",
    re.DOTALL,
)
_KINDS = {
    "PLANE": "plane",
    "CYLINDRICAL_SURFACE": "cylinder",
    "CONICAL_SURFACE": "cone",
    "SPHERICAL_SURFACE": "sphere",
    "TOROIDAL_SURFACE": "torus",
    "B_SPLINE_SURFACE": "B-spline",
}

Entity = Mapping[str, list[Any]]
"""What an instance holds, by the names of its types; a plain one has one."""


class _Ref(int):
    """The number of another instance."""


@record(frozen=True, eq=False)
class StepSolid:
    """A solid: its faces by kind, its vertices (n, 3), how many edges and hollows it has."""

    name: str
    colour: str
    faces: Mapping[str, int]
    vertices: Floats
    edges: int
    hollows: int


def read_step(data: bytes) -> list[StepSolid]:
    """The solids of a file.

    Raises
    ------
    FormatError : where it is no such file, or one of its solids is not closed or does not fit itself.
    """
    text = data.decode("ascii", errors="replace")
    if not text.startswith("ISO-10303-21;") or "AUTOMOTIVE_DESIGN" not in text:
        raise FormatError("it is no STEP file of AP214")
    try:
        return _solids(text.partition("DATA;")[2].partition("ENDSEC;")[0])
    except FormatError:
        raise
    except (ValueError, TypeError, IndexError, StopIteration, RecursionError) as error:
        raise FormatError("the STEP file is damaged") from error


def _solids(body: str) -> list[StepSolid]:
    reading = _Reading(_entities(body))
    colours = reading.colours()
    return [
        reading.solid(number, colours.get(number, ""))
        for number, entity in reading.entities.items()
        if "MANIFOLD_SOLID_BREP" in entity or "BREP_WITH_VOIDS" in entity
    ]


def _entities(body: str) -> dict[int, Entity]:
    tokens = _tokens(body)
    found = dict[int, Entity]()
    for kind, value in tokens:
        if kind != "ref":
            raise FormatError(f"STEP: an instance was wanted, got {value[:20]!r}")
        number = int(value[1:])
        _expect(tokens, "=")
        kind, value = next(tokens)
        found[number] = (
            {value: _list(tokens, opened=False)} if kind == "word" else dict(_parts(tokens))
        )
        _expect(tokens, ";")
    return found


def _tokens(body: str) -> Iterator[tuple[str, str]]:
    at = 0
    while at < len(body):
        match = _TOKEN.match(body, at)
        if match is None:
            raise FormatError(f"STEP: cannot read {body[at : at + 20]!r}")
        at = match.end()
        if match.lastgroup:
            yield match.lastgroup, match.group()


def _expect(tokens: Iterator[tuple[str, str]], mark: str) -> None:
    if (found := next(tokens, ("", ""))[1]) != mark:
        raise FormatError(f"STEP: {mark!r} was wanted, got {found[:20]!r}")


def _parts(tokens: Iterator[tuple[str, str]]) -> Iterator[tuple[str, list[Any]]]:
    """Of an instance of several types."""
    for kind, value in tokens:
        if value == ")":
            return
        if kind != "word":
            raise FormatError(f"STEP: a type was wanted, got {value[:20]!r}")
        yield value, _list(tokens, opened=False)


def _list(tokens: Iterator[tuple[str, str]], *, opened: bool = True) -> list[Any]:
    if not opened:
        _expect(tokens, "(")
    found = list[Any]()
    for kind, value in tokens:
        if value == ")":
            return found
        if value == "(":
            found.append(_list(tokens))
        elif kind == "word":
            found.append((value, _list(tokens, opened=False)))
        elif value != ",":
            found.append(_plain(kind, value))
    raise FormatError("STEP: a list has no end")


def _plain(kind: str, value: str) -> Any:
    if kind == "ref":
        return _Ref(value[1:])
    if kind == "number":
        return float(value) if re.search(r"[.E]", value) else int(value)
    if kind == "text":
        return re.sub(
            r"\\X[24]\\([0-9A-F]+)\\X0\\",
            lambda match: chr(int(match[1], 16)),
            value[1:-1].replace("''", "'"),
        ).replace("\\\\", "\\")
    return value


class _Reading:
    def __init__(self, entities: Mapping[int, Entity]) -> None:
        self.entities = entities

    def of(self, number: int, kind: str) -> list[Any]:
        found = self.entities.get(number, {}).get(kind)
        if found is None:
            raise FormatError(f"STEP: #{number} is no {kind}")
        return found

    def colours(self) -> dict[int, str]:
        """Of what is styled, by its number."""
        found = dict[int, str]()
        for entity in self.entities.values():
            for styles, item in (
                [each[1], each[2]] for each in (entity.get("STYLED_ITEM"),) if each
            ):
                found[int(item)] = self._colour(styles)
        return found

    def _colour(self, held: Any) -> str:
        """The first colour that something leads to."""
        for each in held if isinstance(held, list) else [held]:
            if isinstance(each, list) and (found := self._colour(each)):
                return found
            if isinstance(each, _Ref):
                entity = self.entities.get(each, {})
                if rgb := entity.get("COLOUR_RGB"):
                    return "#" + "".join(f"{round(255 * share):02x}" for share in rgb[1:4])
                for values in entity.values():
                    if found := self._colour(values):
                        return found
        return ""

    def solid(self, number: int, colour: str) -> StepSolid:
        entity = self.entities[number]
        plain = entity.get("MANIFOLD_SOLID_BREP")
        name, shell, *hollows = plain or self.of(number, "BREP_WITH_VOIDS")
        shells = [shell]
        for each in hollows[0] if hollows else ():
            _, _, inner, _ = self.of(each, "ORIENTED_CLOSED_SHELL")
            shells.append(inner)
        kinds, used = Counter[str](), dict[int, list[bool]]()
        for each in shells:
            for face in self.of(each, "CLOSED_SHELL")[1]:
                kinds[self._face(face, used)] += 1
        if any(sorted(ways) != [False, True] for ways in used.values()):
            raise FormatError(f"STEP: {name} is not closed")
        ends = {end for edge in used for end in self.of(edge, "EDGE_CURVE")[1:3]}
        places = np.array([self._vertex(end) for end in sorted(ends)])
        return StepSolid(name, colour, dict(kinds), places, len(used), len(shells) - 1)

    def _face(self, number: int, used: dict[int, list[bool]]) -> str:
        _, bounds, surface, _ = self.of(number, "ADVANCED_FACE")
        kind = next((k for k in _KINDS if k in self.entities.get(surface, {})), "")
        if not kind:
            raise FormatError(f"STEP: #{surface} is no surface that is known")
        for bound in bounds:
            entity = self.entities.get(bound, {})
            _, ring, way = entity.get("FACE_OUTER_BOUND") or self.of(bound, "FACE_BOUND")
            way = 1 if way == ".T." else -1
            at: int | None = None
            first: int | None = None
            for each in self.of(ring, "EDGE_LOOP")[1][::way]:
                _, _, _, edge, sense = self.of(each, "ORIENTED_EDGE")
                along = (sense == ".T.") == (way > 0)
                used.setdefault(edge, []).append(along)
                begin, end = self.of(edge, "EDGE_CURVE")[1:3][:: 1 if along else -1]
                if at not in (None, begin):
                    raise FormatError(f"STEP: a loop of #{number} has a gap")
                first, at = begin if first is None else first, end
                middle = self._middle(edge)
                if self._away(surface, kind, middle) > _NEAR:
                    raise FormatError(f"STEP: an edge of #{number} does not lie on it")
            if at != first:
                raise FormatError(f"STEP: a loop of #{number} is open")
        return _KINDS[kind]

    def _point(self, number: int) -> Floats:
        return np.array(self.of(number, "CARTESIAN_POINT")[1], dtype=np.float64)

    def _way(self, number: int) -> Floats:
        return np.array(self.of(number, "DIRECTION")[1], dtype=np.float64)

    def _vertex(self, number: int) -> Floats:
        return self._point(self.of(number, "VERTEX_POINT")[1])

    def _frame(self, number: int) -> tuple[Floats, Floats]:
        """An origin, and the ways x, y, z (3, 3)."""
        _, origin, axis, ref = self.of(number, "AXIS2_PLACEMENT_3D")
        z, x = self._way(axis), self._way(ref)
        x = x - (x @ z) * z
        x = x / np.sqrt(x @ x)
        return self._point(origin), np.array([x, np.cross(z, x), z])

    def _middle(self, edge: int) -> Floats:
        """Half way along an edge, whose ends are to lie on its curve."""
        _, begin, end, curve, sense = self.of(edge, "EDGE_CURVE")
        if sense != ".T.":
            raise FormatError(f"STEP: #{edge} runs against its curve")
        a, b = self._vertex(begin), self._vertex(end)
        entity = self.entities.get(curve, {})
        if "LINE" in entity:
            _, place, vector = entity["LINE"]
            way = self._way(self.of(vector, "VECTOR")[1])
            for end_place in (a, b):
                off = end_place - self._point(place)
                if np.abs(off - (off @ way) * way).max() > _NEAR:
                    raise FormatError(f"STEP: the line of #{edge} misses its end")
            return (a + b) / 2
        if "CIRCLE" in entity:
            _, frame, radius = entity["CIRCLE"]
            origin, ways = self._frame(frame)
            one, other = (ways @ (a - origin), ways @ (b - origin))
            for off in (one, other):
                if abs(np.hypot(off[0], off[1]) - radius) > _NEAR or abs(off[2]) > _NEAR:
                    raise FormatError(f"STEP: the circle of #{edge} misses its end")
            first, last = np.arctan2(one[1], one[0]), np.arctan2(other[1], other[0])
            half = first + ((last - first) % (2 * np.pi) or 2 * np.pi) / 2
            found: Floats = origin + radius * (np.cos(half) * ways[0] + np.sin(half) * ways[1])
            return found
        degree, poles = self.of(curve, "B_SPLINE_CURVE")[:2]
        often, knots = self.of(curve, "B_SPLINE_CURVE_WITH_KNOTS")[:2]
        weights = np.array(self.of(curve, "RATIONAL_B_SPLINE_CURVE")[0])
        places = np.array([self._point(each) for each in poles])
        if max(np.abs(places[0] - a).max(), np.abs(places[-1] - b).max()) > _NEAR:
            raise FormatError(f"STEP: the curve of #{edge} misses its end")
        return _half_way(places, weights, degree, np.repeat(knots, often))

    def _away(self, surface: int, kind: str, place: Floats) -> float:
        """How far a place is from a surface; of a B-spline, from the middles of its four sides."""
        if kind == "B_SPLINE_SURFACE":
            return self._from_sides(surface, place)
        held = self.entities[surface][kind]
        origin, ways = self._frame(held[1])
        x, y, z = (ways @ (place - origin)).tolist()
        out = float(np.hypot(x, y))
        if kind == "PLANE":
            return float(abs(z))
        if kind == "CYLINDRICAL_SURFACE":
            return float(abs(out - held[2]))
        if kind == "CONICAL_SURFACE":
            return float(abs(out - held[2] - z * np.tan(held[3])) * np.cos(held[3]))
        if kind == "SPHERICAL_SURFACE":
            return float(abs(np.hypot(out, z) - held[2]))
        return float(abs(np.hypot(out - held[2], z) - held[3]))

    def _from_sides(self, surface: int, place: Floats) -> float:
        u, v, rows = self.of(surface, "B_SPLINE_SURFACE")[:3]
        often_u, often_v, knots_u, knots_v = self.of(surface, "B_SPLINE_SURFACE_WITH_KNOTS")[:4]
        weights = np.array(self.of(surface, "RATIONAL_B_SPLINE_SURFACE")[0])
        poles = np.array([[self._point(each) for each in row] for row in rows])
        along_u, along_v = np.repeat(knots_u, often_u), np.repeat(knots_v, often_v)
        middles = [
            *(_half_way(poles[:, k], weights[:, k], u, along_u) for k in (0, -1)),
            *(_half_way(poles[k], weights[k], v, along_v) for k in (0, -1)),
        ]
        return min(float(np.abs(each - place).max()) for each in middles)


def _half_way(poles: Floats, weights: Floats, degree: int, knots: Floats) -> Floats:
    """The place at the middle of a rational B-spline's knots."""
    spread = np.column_stack([poles * weights[:, None], weights])
    made = scipy.interpolate.BSpline(knots.astype(np.float64), spread, degree)
    found = made((knots[0] + knots[-1]) / 2)
    place: Floats = found[:3] / found[3]
    return place
