"""Path data and transforms as SVG writes them (W3C, "Scalable Vector Graphics 1.1", chapters 7 and
8).

Circular arcs come out as arcs, other elliptical ones as cubics. As the standard asks, what stands
before a fault is drawn.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import field

from draxet.formats.table import NO_HANDLES
from draxet.geometry.affine import Affine
from draxet.geometry.spans import ARC, CUBIC, LINE
from draxet.outside import GREATEST, OutsideError, sane
from draxet.record import record

__all__ = ["SubPath", "numbers_of", "parse_path", "parse_transform"]

_NUMBER = re.compile(r"[\s,]*((?>[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?))")
_FLAG = re.compile(r"[\s,]*([01])")
_COMMAND = re.compile(r"[\s,]*([MmZzLlHhVvCcSsQqTtAa])")
_ARGUMENTS = {
    command: re.compile("".join((_FLAG if each == "f" else _NUMBER).pattern for each in wanted))
    for command, wanted in {
        "M": "nn",
        "L": "nn",
        "H": "n",
        "V": "n",
        "C": "nnnnnn",
        "S": "nnnn",
        "Q": "nnnn",
        "T": "nn",
        "A": "nnnffnn",
        "Z": "",
    }.items()
}
_SAME = 1e-9
_STRAIGHT = 1e-9
_TRANSFORM = re.compile(r"(matrix|translate|scale|rotate|skewX|skewY)\s*\(([^)]*)\)")

_DRAW = "LlHhVvCcSsQqTtAa"
_BETWEEN = " \t\r\n,"
_MOST_TRANSFORMS = 1000
_EVERY = 5000

Point = tuple[float, float]
Step = Callable[[int], object]


def _no_step(read: int) -> None:
    """For what nobody watches."""


@record
class SubPath:
    """A chain of spans from one move on: n nodes and n - 1 spans, and n spans once it is closed."""

    nodes: list[Point]
    kinds: list[int] = field(default_factory=list)
    bulges: list[float] = field(default_factory=list)
    handles: list[tuple[float, float, float, float]] = field(default_factory=list)
    closed: bool = False

    def to(
        self,
        end: Point,
        kind: int = LINE,
        bulge: float = 0.0,
        handles: tuple[float, float, float, float] = NO_HANDLES,
    ) -> None:
        """Go on to `end`; a line of no length is none."""
        x, y = self.nodes[-1]
        if kind == LINE and abs(end[0] - x) < _SAME and abs(end[1] - y) < _SAME:
            return
        self.nodes.append(end)
        self.kinds.append(kind)
        self.bulges.append(bulge)
        self.handles.append(handles)

    def close(self) -> None:
        """Come back to the first node, by a line where that is needed."""
        if not self.kinds:
            return
        (x, y), (x0, y0) = self.nodes[-1], self.nodes[0]
        if abs(x - x0) < 1e-6 and abs(y - y0) < 1e-6:
            self.nodes.pop()
        else:
            self.kinds.append(LINE)
            self.bulges.append(0.0)
            self.handles.append(NO_HANDLES)
        self.closed = True

    @property
    def has_size(self) -> bool:
        """Whether it is more than a place."""
        if not self.kinds:
            return False
        xs, ys = [x for x, _ in self.nodes], [y for _, y in self.nodes]
        return (
            len(self.nodes) > 1
            and (max(xs) - min(xs) > _SAME or max(ys) - min(ys) > _SAME)
            or any(k != LINE for k in self.kinds)
        )


def numbers_of(text: str, step: Step = _no_step) -> list[float]:
    """Numbers with spaces or commas between them, up to the first that is none. OutsideError (a
    ValueError) where one is no number that anybody can mean; `step` as in ``parse_path``."""
    at, values = 0, list[float]()
    while found := _NUMBER.match(text, at):
        values.append(sane(found[1], "each of its numbers"))
        at = found.end()
        if len(values) % _EVERY == 0:
            step(len(values) // 2)
    return values


def parse_transform(text: str) -> Affine:
    """A list of transforms as one map; what is no transform counts for nothing. OutsideError as
    ``numbers_of``."""
    whole = Affine()
    for number, found in enumerate(_TRANSFORM.finditer(text)):
        if number >= _MOST_TRANSFORMS:
            raise OutsideError(f"its transform has over {_MOST_TRANSFORMS:,} parts")
        kind, n = found[1], numbers_of(found[2])
        whole = _one_transform(kind, n).then(whole) if n else whole
    return whole


def _one_transform(kind: str, n: list[float]) -> Affine:
    match kind, len(n):
        case "matrix", 6:
            return Affine(n[0], n[2], n[4], n[1], n[3], n[5])
        case "translate", _:
            return Affine.moved(n[0], n[1] if len(n) > 1 else 0.0)
        case "scale", _:
            return Affine.scaled(n[0], n[1] if len(n) > 1 else n[0])
        case "rotate", 3:
            return Affine.turned(n[0]).about(n[1], n[2])
        case "rotate", _:
            return Affine.turned(n[0])
        case "skewX", _:
            return Affine(b=math.tan(math.radians(n[0])))
        case "skewY", _:
            return Affine(d=math.tan(math.radians(n[0])))
    return Affine()


def parse_path(text: str, step: Step = _no_step) -> tuple[list[SubPath], bool]:
    """The sub-paths of path data, and whether all of it could be read.

    Parameters
    ----------
    step : called now and then with how many spans there are; it may raise.
    """
    reader = _Path()
    text = text.rstrip(_BETWEEN)
    step(sum(text.count(command) for command in _DRAW))
    at, command, read = 0, "", 0
    while at < len(text):
        read += 1
        if read % _EVERY == 0:
            step(read)
        found = _COMMAND.match(text, at)
        if found:
            command, at = found[1], found.end()
        elif command in ("", "Z", "z"):
            return reader.done(), False
        values, at = _arguments(text, at, command.upper())
        if values is None or (reader.now is None and command not in "Mm"):
            return reader.done(), False
        try:
            reader.draw(command, values)
        except (OverflowError, ValueError, ZeroDivisionError):
            return reader.done(), False
        if command in "Mm":
            command = "L" if command == "M" else "l"
    return reader.done(), True


def _arguments(text: str, at: int, command: str) -> tuple[list[float] | None, int]:
    """The numbers of one command and where they end; None where they are not all there, or one is
    greater than anybody can mean."""
    if not (found := _ARGUMENTS[command].match(text, at)):
        return None, at
    values = [float(value) for value in found.groups()]
    return (values if all(abs(value) <= GREATEST for value in values) else None), found.end()


class _Path:
    """Draws commands one after the other."""

    def __init__(self) -> None:
        self.paths: list[SubPath] = []
        self.now: SubPath | None = None
        self.x = self.y = 0.0
        self.start = (0.0, 0.0)
        self.control: Point | None = None
        self.kind = ""

    def done(self) -> list[SubPath]:
        self._end()
        return self.paths

    def _end(self) -> None:
        if self.now is not None and not self.now.closed and len(self.now.nodes) > 2:
            (x, y), (x0, y0) = self.now.nodes[-1], self.now.nodes[0]
            if abs(x - x0) < 1e-6 and abs(y - y0) < 1e-6:
                self.now.close()

    def _begin(self, x: float, y: float) -> SubPath:
        self._end()
        self.now = SubPath([(x, y)])
        self.paths.append(self.now)
        self.start = (x, y)
        return self.now

    def draw(self, command: str, n: list[float]) -> None:
        kind, relative = command.upper(), command.islower()
        dx, dy = (self.x, self.y) if relative else (0.0, 0.0)
        if kind == "M":
            self._begin(n[0] + dx, n[1] + dy)
            self.x, self.y = self.start
        elif kind == "Z":
            if self.now is not None and not self.now.closed:
                self.now.close()
            self.x, self.y = self.start
        else:
            now = (
                self.now
                if self.now is not None and not self.now.closed
                else self._begin(self.x, self.y)
            )
            self._span(now, kind, n, dx, dy)
        if kind not in "CSQT":
            self.control = None
        self.kind = kind

    def _span(self, now: SubPath, kind: str, n: list[float], dx: float, dy: float) -> None:
        here = (self.x, self.y)
        if kind in "HV":
            end = (n[0] + dx, self.y) if kind == "H" else (self.x, n[0] + dy)
        else:
            end = (n[-2] + dx, n[-1] + dy)
        if kind in "LHV":
            now.to(end)
        elif kind in "CS":
            first = (n[0] + dx, n[1] + dy) if kind == "C" else self._mirrored("CS")
            second = (n[-4] + dx, n[-3] + dy)
            now.to(end, CUBIC, 0.0, (*first, *second))
            self.control = second
        elif kind in "QT":
            control = (n[0] + dx, n[1] + dy) if kind == "Q" else self._mirrored("QT")
            a, b = (tuple(p[k] + 2 / 3 * (control[k] - p[k]) for k in (0, 1)) for p in (here, end))
            now.to(end, CUBIC, 0.0, (a[0], a[1], b[0], b[1]))
            self.control = control
        else:
            _arc(now, here, n[0], n[1], n[2], n[3] != 0, n[4] != 0, end)
        self.x, self.y = end

    def _mirrored(self, kinds: str) -> Point:
        """The control point before, mirrored at where the path is; that place itself where the span
        before was of another kind."""
        if self.control is None or self.kind not in kinds:
            return self.x, self.y
        return 2 * self.x - self.control[0], 2 * self.y - self.control[1]


def _arc(
    now: SubPath,
    start: Point,
    rx: float,
    ry: float,
    turn: float,
    large: bool,
    sweep: bool,
    end: Point,
) -> None:
    """An elliptical arc by its ends (the standard's appendix F.6)."""
    rx, ry = abs(rx), abs(ry)
    if start == end:
        return
    if rx < _SAME or ry < _SAME:
        now.to(end)
        return
    phi = math.radians(turn)
    c, s = math.cos(phi), math.sin(phi)
    hx, hy = (start[0] - end[0]) / 2, (start[1] - end[1]) / 2
    x, y = (c * hx + s * hy) / rx, (-s * hx + c * hy) / ry
    away = x * x + y * y
    if away > 1:  # too small to reach: as large as needed
        grow = math.sqrt(away)
        rx, ry, x, y, away = rx * grow, ry * grow, x / grow, y / grow, 1.0
    if away < _STRAIGHT**2 and not large:  # so large that it is straight
        now.to(end)
        return
    k = math.sqrt(max(1 / away - 1, 0.0)) * (-1 if large == sweep else 1)
    cx, cy = k * y, -k * x
    first = math.atan2(y - cy, x - cx)
    swept = math.atan2(-y - cy, -x - cx) - first
    if sweep and swept < 0:
        swept += 2 * math.pi
    elif not sweep and swept > 0:
        swept -= 2 * math.pi
    middle = (
        c * cx * rx - s * cy * ry + (start[0] + end[0]) / 2,
        s * cx * rx + c * cy * ry + (start[1] + end[1]) / 2,
    )
    ellipse = Affine(c * rx, -s * ry, middle[0], s * rx, c * ry, middle[1])
    _along_ellipse(now, ellipse, rx, ry, first, swept, start, end)


def _along_ellipse(
    now: SubPath,
    ellipse: Affine,
    rx: float,
    ry: float,
    first: float,
    swept: float,
    start: Point,
    end: Point,
) -> None:
    """On along an ellipse, which is the unit circle mapped, from a place at an angle of that, swept
    by another: in arcs where it is a circle, else in cubic pieces of a quarter at the most."""

    def at(angle: float) -> Point:
        return ellipse.point(math.cos(angle), math.sin(angle))

    def way(angle: float) -> Point:
        c, s = math.cos(angle), math.sin(angle)
        return -ellipse.a * s + ellipse.b * c, -ellipse.d * s + ellipse.e * c

    circular = abs(rx - ry) <= 1e-6 * max(rx, ry)
    pieces = max(1, math.ceil(abs(swept) / (math.pi if circular else math.pi / 2) - 1e-9))
    step = swept / pieces
    reach = 4 / 3 * math.tan(step / 4)
    for piece in range(pieces):
        a, b = first + piece * step, first + (piece + 1) * step
        to = end if piece == pieces - 1 else at(b)
        if circular:
            now.to(to, ARC, math.tan(step / 4))
            continue
        p, tp, tq = at(a) if piece else start, way(a), way(b)
        handles = (
            p[0] + reach * tp[0],
            p[1] + reach * tp[1],
            to[0] - reach * tq[0],
            to[1] - reach * tq[1],
        )
        now.to(to, CUBIC, 0.0, handles)
