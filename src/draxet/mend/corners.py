"""Corners between straight spans: rounded by a tangent arc, or chamfered."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable

import numpy as np

from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, LINE

__all__ = ["chamfer_corners", "round_corners"]

_FLAT = 1e-6
"""Radians: a smaller turn is no corner."""


def round_corners(contour: Contour, nodes: Iterable[int], radius: float) -> tuple[Contour, int]:
    """A contour with corners between two lines rounded by arcs of `radius` mm, tangent to both, and how many could not be: no corner
    between lines, or no room on them.

    Raises
    ------
    ValueError : where the radius is not over 0.
    """
    if not radius > 0:
        raise ValueError(f"the radius must be over 0 mm, got {radius:g}")
    return _cut(contour, nodes, lambda turn: radius * math.tan(abs(turn) / 2), rounded=True)


def chamfer_corners(contour: Contour, nodes: Iterable[int], size: float) -> tuple[Contour, int]:
    """A contour with corners between two lines cut off so far along each of them, and how many could not be.

    Raises
    ------
    ValueError : where the size is not over 0.
    """
    if not size > 0:
        raise ValueError(f"the chamfer must be over 0 mm, got {size:g}")
    return _cut(contour, nodes, lambda turn: size, rounded=False)


def _cut(contour: Contour, nodes: Iterable[int], reach_for: Callable[[float], float], *, rounded: bool) -> tuple[Contour, int]:
    refused = 0
    for node in sorted({k % len(contour.nodes) for k in nodes}, reverse=True):  # from the last on: numbers before it stay what they are
        found = _cut_one(contour, node, reach_for, rounded)
        refused += found is None
        contour = found or contour
    return contour, refused


def _cut_one(contour: Contour, node: int, reach_for: Callable[[float], float], rounded: bool) -> Contour | None:
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
    bulges, handles = np.insert(contour.bulges, node, bulge), np.insert(contour.handles, node, 0.0, axis=0)
    made = Contour.make(nodes, kinds, bulges, handles, closed=contour.closed)
    return _without_nothing(made)


def _without_nothing(contour: Contour) -> Contour:
    """Without lines of no length, which are left where roundings use up a side."""
    ends = contour.spans.ends
    gone = np.flatnonzero((contour.kinds == LINE) & (np.hypot(*(ends - contour.spans.starts).T) < 1e-9))
    if not gone.size or len(contour.kinds) - len(gone) < 2:
        return contour
    nodes = np.delete(contour.nodes, gone, axis=0)
    return Contour.make(nodes, np.delete(contour.kinds, gone), np.delete(contour.bulges, gone), np.delete(contour.handles, gone, axis=0), closed=contour.closed)
