"""Drawings: vector files from elsewhere, read as contours. A drawing keeps its file's own unit
until that is known."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import scipy

from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.record import record

__all__ = ["Drawing", "Paint", "chained"]

Paint = tuple[int, str, str, float]
"""The number of the shape that a contour is of, and that one's fill and line (#rrggbb, empty for
none) and how broad the line is, in the file's unit; 0 where that is not said."""


@record(frozen=True)
class Drawing:
    """Contours in the file's unit, y up; how many mm that unit is (None where the file does not
    say); remarks for people; each contour's layer; and what was left out but can be had: contours
    that lie `aside`, outside the page or on layers that are off."""

    contours: tuple[Contour, ...]
    unit_mm: float | None
    remarks: tuple[str, ...] = ()
    layers: tuple[str, ...] = ()
    aside: tuple[Contour, ...] = ()
    aside_layers: tuple[str, ...] = ()
    aside_words: str = ""
    """What lies aside, in words."""
    paints: tuple[Paint, ...] = ()
    """Of each contour how it is painted; none at all where the file says nothing of that."""


def chained(contours: Sequence[Contour], within: float) -> list[Contour]:
    """Open contours whose ends meet, two and two, as one; closed where a chain comes round. Others
    stay as they are.

    Parameters
    ----------
    within : how far ends may lie apart to count as one place.
    """
    done = [contour for contour in contours if contour.closed]
    pieces = [contour for contour in contours if not contour.closed]
    if not pieces:
        return done
    ends = np.array([end for contour in pieces for end in (contour.nodes[0], contour.nodes[-1])])
    partner = _partners(ends, within)
    used = [False] * len(pieces)
    for k in range(len(pieces)):
        if not used[k]:
            chain = _walk(k, partner, used)
            done.append(
                _joined(
                    [pieces[i] if forward else pieces[i].reversed() for i, forward in chain], within
                )
            )
    return done


def _partners(ends: Points, within: float) -> list[int]:
    """For each end the one other end that lies at its place, or -1 where there is none or more than
    one."""
    away, near = scipy.spatial.cKDTree(ends).query(
        ends, k=min(3, len(ends)), distance_upper_bound=within * (1 + 1e-9)
    )  # no more than three: many may meet
    here = np.arange(len(ends))
    two = np.isfinite(away).sum(axis=1) == 2
    other = np.where(near[:, 0] == here, near[:, 1], near[:, 0])
    mutual = two & two[np.where(two, other, 0)]
    return np.where(mutual, other, -1).tolist()  # type: ignore[no-any-return]


def _walk(first: int, partner: list[int], used: list[bool]) -> list[tuple[int, bool]]:
    """Pieces in order, each with whether it runs forwards, from the chain's beginning."""
    start, forward = first, True
    seen = {first}
    while (other := partner[2 * start + (0 if forward else 1)]) >= 0 and other // 2 not in seen:
        start, forward = other // 2, other % 2 == 1
        seen.add(start)
    chain: list[tuple[int, bool]] = []
    at = start
    while not used[at]:
        used[at] = True
        chain.append((at, forward))
        other = partner[2 * at + (1 if forward else 0)]
        if other < 0:
            break
        at, forward = other // 2, other % 2 == 0
    return chain


def _joined(pieces: list[Contour], within: float) -> Contour:
    if len(pieces) == 1 and float(np.hypot(*(pieces[0].nodes[0] - pieces[0].nodes[-1]))) > within:
        return pieces[0]
    nodes = np.vstack([piece.nodes[:-1] for piece in pieces] + [pieces[-1].nodes[-1:]])
    closed = len(nodes) > 2 and float(np.hypot(*(nodes[0] - nodes[-1]))) <= within
    kinds, bulges, handles = (
        np.concatenate([getattr(piece, name) for piece in pieces])
        for name in ("kinds", "bulges", "handles")
    )
    return Contour.make(nodes[:-1] if closed else nodes, kinds, bulges, handles, closed=closed)
