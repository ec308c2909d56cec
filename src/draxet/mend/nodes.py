"""Moving a node: the spans that meet in it follow, and stay the kind they are."""

from __future__ import annotations

from draxet.geometry.contour import Contour
from draxet.geometry.spans import CUBIC

__all__ = ["move_node"]


def move_node(contour: Contour, node: int, dx: float, dy: float) -> Contour:
    """A contour with one node moved. Arcs keep their sweep; handles at the node move with it."""
    nodes, handles = contour.nodes.copy(), contour.handles.copy()
    nodes[node] += (dx, dy)
    count = len(contour.kinds)
    after = node if node < count else None
    before = (node - 1) % count if contour.closed or node else None
    if after is not None and contour.kinds[after] == CUBIC:
        handles[after, 0] += (dx, dy)
    if before is not None and contour.kinds[before] == CUBIC:
        handles[before, 1] += (dx, dy)
    return Contour.make(nodes, contour.kinds, contour.bulges, handles, closed=contour.closed)
