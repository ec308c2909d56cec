"""Corners between straight spans: rounded by a tangent arc, or chamfered."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable

import numpy as np

from draxet.geometry.contour import Contour
from draxet.geometry.drawn import arc_bulge
from draxet.geometry.spans import ARC, LINE

__all__ = ["chamfer_corners", "relieve_corners", "round_corners", "tool_corners"]

_FLAT = 1e-6
"""Radians: a smaller turn is no corner."""


def round_corners(contour: Contour, nodes: Iterable[int], radius: float) -> tuple[Contour, int]:
    """A contour with corners between two lines rounded by arcs of `radius` mm, tangent to both, and
    how many could not be: no corner between lines, or no room on them.

    Raises
    ------
    ValueError : where the radius is not over 0.
    """
    if not radius > 0:
        raise ValueError(f"the radius must be over 0 mm, got {radius:g}")
    return _cut(contour, nodes, lambda turn: radius * math.tan(abs(turn) / 2), rounded=True)


def chamfer_corners(contour: Contour, nodes: Iterable[int], size: float) -> tuple[Contour, int]:
    """A contour with corners between two lines cut off so far along each of them, and how many
    could not be.

    Raises
    ------
    ValueError : where the size is not over 0.
    """
    if not size > 0:
        raise ValueError(f"the chamfer must be over 0 mm, got {size:g}")
    return _cut(contour, nodes, lambda turn: size, rounded=False)


def _cut(
    contour: Contour, nodes: Iterable[int], reach_for: Callable[[float], float], *, rounded: bool
) -> tuple[Contour, int]:
    refused = 0
    for node in sorted(
        {k % len(contour.nodes) for k in nodes}, reverse=True
    ):  # from the last on: numbers before it stay what they are
        found = _cut_one(contour, node, reach_for, rounded)
        refused += found is None
        contour = found or contour
    return contour, refused


def _cut_one(
    contour: Contour, node: int, reach_for: Callable[[float], float], rounded: bool
) -> Contour | None:
    count = len(contour.kinds)
    if not contour.closed and (node == 0 or node == len(contour.nodes) - 1):
        return None
    before, after = (node - 1) % count, node
    if before == after or contour.kinds[before] != LINE or contour.kinds[after] != LINE:
        return None
    spans, at = contour.spans, contour.nodes[node]
    into, out = at - spans.starts[before], spans.ends[after] - at
    turn = math.atan2(float(into[0] * out[1] - into[1] * out[0]), float(into @ out))
    if abs(turn) < _FLAT or math.pi - abs(turn) < _FLAT:
        return None
    cut, long_in, long_out = reach_for(turn), float(np.hypot(*into)), float(np.hypot(*out))
    if cut > min(long_in, long_out) + 1e-9:
        return None
    first, second = at - into / long_in * cut, at + out / long_out * cut
    bulge = math.tan(turn / 4) if rounded else 0.0
    nodes = np.concatenate([contour.nodes[:node], [first, second], contour.nodes[node + 1 :]])
    kinds = np.insert(contour.kinds, node, ARC if rounded else LINE)
    bulges, handles = (
        np.insert(contour.bulges, node, bulge),
        np.insert(contour.handles, node, 0.0, axis=0),
    )
    made = Contour.make(nodes, kinds, bulges, handles, closed=contour.closed)
    return _without_nothing(made)


def _without_nothing(contour: Contour) -> Contour:
    """Without lines of no length, which are left where roundings use up a side."""
    ends = contour.spans.ends
    gone = np.flatnonzero(
        (contour.kinds == LINE) & (np.hypot(*(ends - contour.spans.starts).T) < 1e-9)
    )
    if not gone.size or len(contour.kinds) - len(gone) < 2:
        return contour
    nodes = np.delete(contour.nodes, gone, axis=0)
    return Contour.make(
        nodes,
        np.delete(contour.kinds, gone),
        np.delete(contour.bulges, gone),
        np.delete(contour.handles, gone, axis=0),
        closed=contour.closed,
    )


def relieve_corners(contour: Contour, nodes: Iterable[int], diameter: float) -> tuple[Contour, int]:
    """A contour with corners between two lines opened for a round tool of `diameter` mm, so that
    what is square fits into them, and how many could not be: by an arc of the tool's radius through
    the corner, its centre on the line that halves it.

    Raises
    ------
    ValueError : where the diameter is not over 0.
    """
    if not diameter > 0:
        raise ValueError(f"the tool's diameter must be over 0 mm, got {diameter:g}")
    refused = 0
    for node in sorted({k % len(contour.nodes) for k in nodes}, reverse=True):
        found = _relieved(contour, node, diameter / 2)
        refused += found is None
        contour = found or contour
    return contour, refused


def _relieved(contour: Contour, node: int, radius: float) -> Contour | None:
    at = contour.nodes[node]
    open_by = _cut_one(contour, node, lambda turn: 2 * radius * math.sin(abs(turn) / 2), False)
    if open_by is None or len(open_by.nodes) != len(contour.nodes) + 1:
        return None
    bulges, kinds = open_by.bulges.copy(), open_by.kinds.copy()
    bulges[node] = arc_bulge(
        tuple(open_by.nodes[node].tolist()),
        tuple(at.tolist()),
        tuple(open_by.nodes[(node + 1) % len(open_by.nodes)].tolist()),
    )
    kinds[node] = ARC
    return (
        Contour.make(open_by.nodes, kinds, bulges, open_by.handles, closed=contour.closed)
        if bulges[node]
        else None
    )


def tool_corners(contour: Contour, *, opening: bool) -> list[int]:
    """Corners between lines that a round tool cannot reach into: of an opening those that stand
    out, of an outline those that go in."""
    if not contour.closed:
        return []
    spans, line, sign = contour.spans, contour.kinds == LINE, 1.0 if contour.area > 0 else -1.0
    leave, reach = spans.tangents()
    before = np.roll(reach, 1, axis=0)
    turn = sign * (before[:, 0] * leave[:, 1] - before[:, 1] * leave[:, 0])
    meant = (turn > 1e-6 if opening else turn < -1e-6) & line & np.roll(line, 1)
    return [int(k) for k in np.flatnonzero(meant)]
