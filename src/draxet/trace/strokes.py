"""Drawn lines: a closed line has two edges, and what its maker meant is the line between them.

A *drawn line* here is ink with one hole whose width hardly changes all the way round. Its *middle*
runs half-way between the outer edge and the nearest point of the inner one. An *open stroke* is
thin ink without a hole.
"""

from __future__ import annotations

import numpy as np
import scipy
import shapely

from draxet.geometry.arrays import Bools, Floats, Ints, Points
from draxet.record import record
from draxet.trace.extract import EdgeLines

__all__ = ["Middles", "middles_of_drawn_lines"]

_EVEN = 1.6
_LONG = 6.0
"""Half-way round a stroke is so many times its mean width or more; a square has 4, an even triangle
5.2."""
_WIDE = 40.0


@record(frozen=True)
class Middles:
    """Chains with drawn lines as their middles: `lines`, whether each is a middle, its line width
    in pixels (0 elsewhere), and how many open strokes were left out."""

    lines: EdgeLines
    is_middle: Bools
    widths: Floats
    left_out: int


def middles_of_drawn_lines(lines: EdgeLines) -> Middles:
    """Each drawn line as one chain along its middle, open strokes left out, everything else as it
    is."""
    parents = _parents(lines)
    holes_of = np.bincount(parents[parents >= 0], minlength=len(lines))
    chains: list[Points] = []
    widths: list[float] = []
    left_out = 0
    gone = np.zeros(len(lines), dtype=bool)
    for outer in np.flatnonzero(lines.areas > 0).tolist():
        chain = _chain(lines, outer)
        if holes_of[outer] == 0 and _is_thin(chain, float(lines.areas[outer])):
            gone[outer] = True
            left_out += 1
        elif holes_of[outer] == 1:
            hole = int(np.flatnonzero(parents == outer)[0])
            middle = _middle(chain, _chain(lines, hole))
            if middle is not None:
                gone[[outer, hole]] = True
                chains.append(middle[0])
                widths.append(middle[1])
    kept = np.flatnonzero(~gone)
    all_chains = [_chain(lines, k) for k in kept.tolist()] + chains
    counts = np.array([len(chain) for chain in all_chains], dtype=np.int64)
    areas = np.concatenate([lines.areas[kept], [_area(chain) for chain in chains]])
    points = np.concatenate(all_chains) if all_chains else np.zeros((0, 2))
    is_middle = np.concatenate([np.zeros(len(kept), dtype=bool), np.ones(len(chains), dtype=bool)])
    return Middles(
        EdgeLines(points, np.cumsum(counts) - counts, counts, areas),
        is_middle,
        np.concatenate([np.zeros(len(kept)), widths]),
        left_out,
    )


def _chain(lines: EdgeLines, k: int) -> Points:
    return lines.points[lines.firsts[k] : lines.firsts[k] + lines.counts[k]]


def _parents(lines: EdgeLines) -> Ints:
    """(n,) for each hole the ink chain directly round it, -1 elsewhere."""
    parents = np.full(len(lines), -1, dtype=np.int64)
    inks, holes = np.flatnonzero(lines.areas > 0), np.flatnonzero(lines.areas < 0)
    if not (inks.size and holes.size):
        return parents
    solids = [
        shapely.Polygon(_chain(lines, k)) if lines.counts[k] > 3 else shapely.Polygon()
        for k in inks.tolist()
    ]
    tree = shapely.STRtree(solids)
    hole, ink = tree.query(
        shapely.points(lines.points[lines.firsts[holes]]), predicate="intersects"
    )
    order = np.argsort(-lines.areas[inks[ink]], kind="stable")
    parents[holes[hole[order]]] = inks[ink[order]]  # the smallest is written last
    return parents


def _is_thin(chain: Points, area: float) -> bool:
    """Whether ink without holes is a stroke: long against its mean width."""
    length = float(np.hypot(*np.diff(chain, axis=0, append=chain[:1]).T).sum()) / 2
    width = area / max(length, 1e-9)
    return length > _LONG * width and width < _WIDE


def _middle(outer: Points, inner: Points) -> tuple[Points, float] | None:
    """The chain half-way between two edges and the width between them, or None where that is
    uneven."""
    distance, nearest = scipy.spatial.cKDTree(inner).query(outer)
    width = float(np.median(distance))
    even = distance <= _EVEN * width + 0.5
    if even.mean() < 0.6 or len(inner) < 8 or width > 0.1 * np.ptp(inner, axis=0).max():
        return None
    return (outer[even] + inner[nearest[even]]) / 2, width


def _area(chain: Points) -> float:
    ahead = np.roll(chain, -1, axis=0)
    return float((chain[:, 1] * ahead[:, 0] - chain[:, 0] * ahead[:, 1]).sum()) / 2
