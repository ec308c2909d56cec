"""Contours mirrored, turned, scaled, and repeated in rows and rings; a drawn half and its mirror
made one."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour

__all__ = [
    "half_with_mirror",
    "laid_on_line",
    "laid_on_turn",
    "mirror_across",
    "ring_of_sectors",
    "ring_places",
    "row_places",
    "with_ends",
]

Place = tuple[float, float]
_ON_LINE = 1e-3
"""mm: an end so near to the mirror line lies on it."""


def mirror_across(a: Place, b: Place) -> Affine:
    """The map that mirrors across the line through two places.

    Raises
    ------
    ValueError : where both are the same place.
    """
    dx, dy = b[0] - a[0], b[1] - a[1]
    square = dx * dx + dy * dy
    if square <= 0:
        raise ValueError("a mirror line needs two places that are not the same")
    cos, sin = (dx * dx - dy * dy) / square, 2 * dx * dy / square
    return Affine(
        cos, sin, a[0] - cos * a[0] - sin * a[1], sin, -cos, a[1] - sin * a[0] + cos * a[1]
    )


def ring_places(
    centre: Place, count: int, sweep: float = 360.0, without: Iterable[int] = ()
) -> list[Affine]:
    """The maps to the places of a ring, the first being where the original is (so it is not among
    them).

    Parameters
    ----------
    count : places in all. sweep : degrees from the first to the last place, or all round for 360.
    without : places (from 1) left empty.
    """
    if not 2 <= count <= 1000:
        raise ValueError(f"a ring has 2 to 1000 places, got {count}")
    whole = math.isclose(abs(sweep), 360.0)
    step = sweep / count if whole else sweep / (count - 1)
    gone = set(without)
    return [Affine.turned(step * k).about(*centre) for k in range(1, count) if k + 1 not in gone]


def row_places(columns: int, rows: int, dx: float, dy: float) -> list[Affine]:
    """The maps to the places of a grid, without that of the original; `dx` to the right and `dy` up
    from one to the next."""
    if not (1 <= columns <= 1000 and 1 <= rows <= 1000 and columns * rows >= 2):
        raise ValueError(
            f"rows and columns must be 1 to 1000 and give at least 2 places, got {columns} × {rows}"
        )
    return [Affine.moved(dx * i, dy * j) for j in range(rows) for i in range(columns) if i or j]


def with_ends(contour: Contour, start: Points, end: Points) -> Contour:
    """An open contour that begins and ends at other places, each with its handle moved along."""
    nodes, handles = contour.nodes.copy(), contour.handles.copy()
    for k, span, row, place in ((0, 0, 0, start), (-1, -1, 1, end)):
        handles[span, row] += np.where(handles[span].any(), place - nodes[k], 0.0)
        nodes[k] = place
    return Contour.make(nodes, contour.kinds, contour.bulges, handles, closed=False)


def laid_on_line(contour: Contour, a: Place, b: Place, reach: float) -> Contour:
    """An open contour of which each end that lies within `reach` mm of a line lies on it."""
    line = np.array([b[0] - a[0], b[1] - a[1]])
    line = line / np.hypot(*line)
    ends = contour.nodes[[0, -1]]
    feet = a + ((ends - a) @ line)[:, None] * line
    near = np.hypot(*(feet - ends).T) <= reach
    if not near.any() or (ends == feet)[near].all():
        return contour
    return with_ends(contour, *np.where(near[:, None], feet, ends))


def laid_on_turn(contour: Contour, centre: Place, sectors: int, reach: float) -> Contour:
    """An open contour whose end, where it lies within `reach` mm of its start turned on by one
    sector, lies there."""
    start, end = contour.nodes[0], contour.nodes[-1]
    for sign in (1, -1):
        turned = Affine.turned(sign * 360.0 / sectors).about(*centre).apply(start)
        if 0 < np.hypot(*(turned - end)) <= reach:
            return with_ends(contour, start, turned)
    return contour


def half_with_mirror(contour: Contour, a: Place, b: Place) -> Contour | None:
    """One closed contour of an open half whose ends lie on the mirror line, and of its mirror; None
    where it is no such half.

    The ends are laid on the line, and the curve runs on across it as it came.
    """
    if contour.closed:
        return None
    line = np.array([b[0] - a[0], b[1] - a[1]])
    line = line / np.hypot(*line)
    ends = contour.nodes[[0, -1]] - a
    off = line[0] * ends[:, 1] - line[1] * ends[:, 0]
    if np.abs(off).max() > _ON_LINE:
        return None
    other = contour.transformed(mirror_across(a, b)).reversed()
    nodes = np.vstack([contour.nodes, other.nodes[1:-1]])
    return Contour.make(
        nodes,
        np.append(contour.kinds, other.kinds),
        np.append(contour.bulges, other.bulges),
        np.concatenate([contour.handles, other.handles]),
    )


def ring_of_sectors(contour: Contour, centre: Place, sectors: int) -> Contour | None:
    """One closed contour of an open one whose end is its start turned on by one sector of a ring,
    repeated all round; None where it is no such piece."""
    if contour.closed:
        return None
    start, end = contour.nodes[0], contour.nodes[-1]
    for sign in (1, -1):
        turn = Affine.turned(sign * 360.0 / sectors).about(*centre)
        if np.hypot(*(turn.apply(start) - end)) <= _ON_LINE:
            pieces = [
                contour.transformed(Affine.turned(sign * 360.0 * k / sectors).about(*centre))
                for k in range(sectors)
            ]
            return Contour.make(
                np.vstack([piece.nodes[:-1] for piece in pieces]),
                np.concatenate([piece.kinds for piece in pieces]),
                np.concatenate([piece.bulges for piece in pieces]),
                np.concatenate([piece.handles for piece in pieces]),
            )
    return None
