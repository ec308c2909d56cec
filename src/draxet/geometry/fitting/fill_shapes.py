"""Arcs and cubic pieces between places, and which of them fold or curl."""

from __future__ import annotations

import numpy as np

from draxet.geometry.arrays import Bools, Floats, Ints, Points, columns, crosses, dots, norms, rows
from draxet.geometry.fitting.arcs import fit_bulges
from draxet.geometry.fitting.cubics import fit_cubics, fit_free_cubics
from draxet.geometry.fitting.fit_settings import FitSettings
from draxet.geometry.fitting.intervals import Chords
from draxet.geometry.fitting.loops import Unrolled
from draxet.geometry.fitting.sample_pieces import Pieces, unit
from draxet.geometry.spans import cubic_lengths
from draxet.record import record

__all__ = ["SMALLEST", "arcs_of", "cubics_of", "curled", "folded"]

_ARC_TANGENT = np.cos(np.radians(7.0))

_FOLD = 1.0
"""A cubic longer than the way through its samples by more than so many tolerances is folded."""

_MOST_TURN = np.radians(260.0)
"""Handles that turn this far, to and fro, step back along the cubic."""

_NEARLY = 1.2
"""An arc within so many tolerances is better than a cubic that folds."""

_CURL = np.cos(np.radians(40.0))
"""A cubic that leaves a corner farther than this from where its samples go has curled up where the
tip's blur hides them."""


SMALLEST = 4


@record(frozen=True)
class _Cubics:
    """Cubics for pieces: their `handles` and directions, how far `off` a sample is at the most, and
    which one."""

    handles: Floats
    leave: Points
    reach: Points
    off: Floats
    at: Ints


def cubics_of(work: Pieces, chords: Chords, wanted: Bools) -> _Cubics:
    """Cubics for the `wanted` pieces, with the directions of lines beside them and otherwise free
    to choose."""
    handles, off, at = np.zeros((len(work), 2, 2)), np.zeros(len(work)), work.size // 2
    leave, reach = work.leave.copy(), work.reach.copy()
    whole = work.held & work.held_end
    if (free := np.flatnonzero(wanted & ~whole)).size:
        handles[free], off[free], at[free] = fit_free_cubics(chords.take(wanted & ~whole))
        leave[free], reach[free] = (
            unit(handles[free, 0] - work.starts[free]),
            unit(work.ends[free] - handles[free, 1]),
        )
    some = wanted & (work.held | work.held_end)
    if (bound := np.flatnonzero(some)).size:
        leave[bound] = np.where(work.held[bound, None], work.leave[bound], leave[bound])
        reach[bound] = np.where(work.held_end[bound, None], work.reach[bound], reach[bound])
        handles[bound], off[bound], at[bound] = fit_cubics(
            chords.take(some), leave[bound], reach[bound]
        )
    return _Cubics(handles, leave, reach, off, at)


def curled(work: Pieces, cubics: _Cubics) -> Bools:
    """Which cubics leave a corner another way than their samples do."""
    return np.asarray(
        work.sharp & (dots(cubics.leave, work.leave) < _CURL)
        | work.sharp_end & (dots(cubics.reach, work.reach) < _CURL)
    )


def folded(
    pieces: Pieces, index: Ints, handles: Floats, loops: Unrolled, settings: FitSettings
) -> Bools:
    """Which of the cubics with `handles`, for the pieces `index`, run on between their samples or
    past them and back again.

    Their samples then all lie near them, and yet they are longer than the way through those.
    """
    first, last, starts, ends = (
        pieces.first[index],
        pieces.last[index],
        pieces.starts[index],
        pieces.ends[index],
    )
    way = (
        loops.along[last]
        - loops.along[first]
        + norms(starts - rows(loops.points, first))
        + norms(ends - rows(loops.points, last))
    )
    legs = handles[:, 0] - starts, handles[:, 1] - handles[:, 0], ends - handles[:, 1]
    turning = sum(
        np.abs(np.arctan2(crosses(a, b), dots(a, b)))
        for a, b in zip(legs[:-1], legs[1:], strict=True)
    )
    return np.asarray(
        (cubic_lengths(starts, handles, ends) > way + _FOLD * settings.curves)
        | (turning > _MOST_TURN)
    )


@record(frozen=True)
class _Arcs:
    bulge: Floats
    leave: Points
    reach: Points
    holds: Bools
    nearly: Bools
    flat: Bools


def arcs_of(
    work: Pieces, chords: Chords, chord: Floats, known: Bools, settings: FitSettings
) -> _Arcs:
    """Arcs from end to end, and whether they keep the tolerance, or nearly, and the directions of
    lines beside them."""
    bulge, off = fit_bulges(chords)
    half = 2 * np.arctan(bulge)
    leave, reach = _arc_directions(work.ends - work.starts, half)
    smooth = (dots(leave, work.leave) >= _ARC_TANGENT) | ~work.held
    smooth &= (dots(reach, work.reach) >= _ARC_TANGENT) | ~work.held_end
    within = np.where(known, settings.tolerance, settings.curves)
    nearly = (
        (off <= _NEARLY * within)
        & smooth
        & (np.abs(half) < 2.6)
        & (chord > 1e-9)
        & (work.size >= SMALLEST)
    )
    flat = np.abs(bulge) * chord / 2 <= 0.4 * settings.tolerance
    return _Arcs(
        bulge, leave, reach, nearly & (off <= 0.8 * within), np.asarray(nearly), np.asarray(flat)
    )


def _arc_directions(chord: Points, half: Floats) -> tuple[Points, Points]:
    along = unit(chord)
    square = columns(-along[:, 1], along[:, 0])
    cos, sin = np.cos(half)[:, None], np.sin(half)[:, None]
    return cos * along - sin * square, cos * along + sin * square
