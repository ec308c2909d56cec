"""Contours that cross themselves or each other are fitted again, closer to the picture, until none
does.

The picture's own edge lines never cross, so a contour that follows them closely enough does not
either.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TypeAlias

import numpy as np
import shapely

from draxet.geometry.arrays import Ints, NDArray, Points, put
from draxet.geometry.contour import Contour, joined_spans

__all__ = ["crossing_contours", "without_crossings"]

_FINE = 0.02
_CLOSER = (0.5, 0.5, 0.25, 0.25)
_ROUNDS = 4

Lines: TypeAlias = NDArray[np.object_]


def crossing_contours(contours: Sequence[Contour]) -> Ints:
    """Which contours, closed or open, cross themselves or another one; those that only meet at
    their ends do not."""
    return (
        _crossing(_lines(contours), np.arange(len(contours)))
        if contours
        else np.zeros(0, dtype=np.int64)
    )


def _crossing(lines: Lines, fresh: Ints) -> Ints:
    """Of the `fresh` lines those that cross themselves; where none does, all lines that cross
    another one."""
    if shapely.is_simple(shapely.multilinestrings(lines)):
        return fresh[:0]
    bad: Ints = fresh[~shapely.is_simple(lines[fresh])]
    if bad.size:
        return bad
    first, second = shapely.STRtree(lines).query(lines, predicate="crosses")
    return np.asarray(np.unique(np.concatenate([first, second])), dtype=np.int64)


def _lines(contours: Sequence[Contour]) -> Lines:
    """Contours as line strings; a closed one ends where it begins, an open one in its last node."""
    spans, owner = joined_spans(contours)
    points, counts = spans.flattened(_FINE)
    sizes = np.bincount(owner, counts, minlength=len(contours)).astype(np.int64)
    ends = np.cumsum(sizes + 1) - 1
    whole = np.empty((len(points) + len(contours), 2))
    inner = np.ones(len(whole), dtype=bool)
    inner[ends] = False
    put(whole, inner, points)
    whole[ends] = np.stack([contour.nodes[0 if contour.closed else -1] for contour in contours])
    return np.asarray(
        shapely.linestrings(whole, indices=np.repeat(np.arange(len(contours)), sizes + 1))
    )


def without_crossings(
    contours: Sequence[Contour],
    refit: Callable[[Ints, float], Sequence[Contour]],
    chains: Callable[[int], Points],
) -> list[Contour]:
    """The contours, those that cross fitted anew.

    Parameters
    ----------
    refit : fits the contours of these numbers again with the tolerance times this share.
    chains : the edge line that a contour was fitted to, the last resort.
    """
    out = list(contours)
    if not out:
        return out
    lines, bad = _lines(out), np.arange(len(out))

    def take(numbers: Ints, better: Sequence[Contour]) -> None:
        for k, contour in zip(numbers.tolist(), better, strict=True):
            out[k] = contour
        lines[numbers] = _lines(better)

    for share in _CLOSER:
        bad = _crossing(lines, bad)
        if not bad.size:
            return out
        take(bad, refit(bad, share))
    for straight in (_thinned, _as_it_is):
        for _ in range(_ROUNDS):
            bad = _crossing(lines, bad)
            if not bad.size:
                return out
            take(bad, [straight(chains(k), closed=out[k].closed) for k in bad.tolist()])
    return out


def _as_it_is(chain: Points, *, closed: bool) -> Contour:
    return Contour.make(chain, closed=closed)


def _thinned(chain: Points, *, closed: bool) -> Contour:
    """Straight lines through fewer points, within a fifth of a pixel, that do not cross
    themselves."""
    if not closed:
        return Contour.make(
            np.asarray(
                shapely.simplify(shapely.LineString(chain), 0.2, preserve_topology=True).coords
            ),
            closed=False,
        )
    points = np.asarray(
        shapely.simplify(shapely.Polygon(chain), 0.2, preserve_topology=True).exterior.coords
    )[:-1]
    return Contour.make(points if len(points) >= 3 else chain)
