"""Closed outlines of areas of colour, put together from the edges that they share."""

from __future__ import annotations

import numpy as np

from draxet.geometry.arrays import Bools
from draxet.geometry.contour import Contour
from draxet.trace.shared import EdgeChains

__all__ = ["outlines_of_area"]


def outlines_of_area(chains: EdgeChains, curves: list[Contour], members: Bools) -> list[Contour]:
    """Closed contours round the areas in `members`, which lie on their left hand (seen with y
    down)."""
    inside_left, inside_right = members[chains.left], members[chains.right]
    loops: list[Contour] = []
    leaving: dict[int, list[tuple[int, bool]]] = {}
    for k in np.flatnonzero(inside_left != inside_right).tolist():
        forward = bool(inside_left[k])
        if chains.closed[k]:
            loops.append(curves[k] if forward else curves[k].reversed())
        else:
            leaving.setdefault(int(chains.begin[k] if forward else chains.end[k]), []).append(
                (k, forward)
            )
    for start in list(leaving):
        while leaving.get(start):
            loops.append(_loop(start, leaving, chains, curves))
    return loops


def _loop(
    start: int,
    leaving: dict[int, list[tuple[int, bool]]],
    chains: EdgeChains,
    curves: list[Contour],
) -> Contour:
    """From a node along edges, at each further node the one that turns most to the left, until
    back."""
    parts: list[Contour] = []
    at, came = start, (0.0, 0.0)
    while True:
        options = leaving[at]
        best = (
            max(options, key=lambda option: _left_turn(came, _first_step(chains, *option)))
            if len(options) > 1
            else options[0]
        )
        options.remove(best)
        k, forward = best
        parts.append(curves[k] if forward else curves[k].reversed())
        came = _last_step(chains, k, forward)
        at = int(chains.end[k] if forward else chains.begin[k])
        if at == start and not (leaving.get(at) and _goes_on(came, parts[0], leaving[at], chains)):
            break
    return Contour.make(
        np.concatenate([part.nodes[:-1] for part in parts]),
        np.concatenate([part.kinds for part in parts]),
        np.concatenate([part.bulges for part in parts]),
        np.concatenate([part.handles for part in parts]),
    )


def _goes_on(
    came: tuple[float, float], first: Contour, options: list[tuple[int, bool]], chains: EdgeChains
) -> bool:
    """Whether at the starting node another edge turns more to the left than the one begun with."""
    begun = first.nodes[1] - first.nodes[0]
    own = _left_turn(came, (float(begun[0]), float(begun[1])))
    return any(_left_turn(came, _first_step(chains, *option)) > own + 0.3 for option in options)


def _left_turn(came: tuple[float, float], goes: tuple[float, float]) -> float:
    """Turn in radians, over 0 to the left as seen with y down."""
    return -float(
        np.arctan2(came[0] * goes[1] - came[1] * goes[0], came[0] * goes[0] + came[1] * goes[1])
    )


def _first_step(chains: EdgeChains, k: int, forward: bool) -> tuple[float, float]:
    points = chains.chain(k)
    a, b = (points[0], points[1]) if forward else (points[-1], points[-2])
    return float(b[0] - a[0]), float(b[1] - a[1])


def _last_step(chains: EdgeChains, k: int, forward: bool) -> tuple[float, float]:
    x, y = _first_step(chains, k, not forward)
    return -x, -y
