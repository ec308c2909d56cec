"""From loops of samples to contours: corners, straight runs, fillets, circles, and arcs or cubics
between them.

All loops are worked at once.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from draxet.geometry.arrays import Bools, Ints, Points, crosses, dots, kept, norms, rows
from draxet.geometry.contour import Contour
from draxet.geometry.fitting.arcs import fit_circles
from draxet.geometry.fitting.filling import filled
from draxet.geometry.fitting.fit_settings import FitSettings
from draxet.geometry.fitting.intervals import Intervals
from draxet.geometry.fitting.loop_corners import confirmed_corners, sharp_turns, turns
from draxet.geometry.fitting.loops import Loops, Unrolled, near_true
from draxet.geometry.fitting.sample_pieces import Pieces, first_pieces, place_breaks, with_fillets
from draxet.geometry.fitting.straight_runs import Moments, StraightRuns, straight_runs
from draxet.geometry.spans import LINE

__all__ = ["fit_chains", "fit_loops"]

_ENOUGH_FOR_NOISE = 40_000
_QUARTER = 0.3186
"""A quarter of normally distributed values lie within so many standard deviations."""
_ROUND = 0.7
"""Least share of a circle's area, for its length, that a loop may have to be tried as one."""


def fit_loops(loops: Loops, settings: FitSettings, *, trust_samples: bool = False) -> list[Contour]:
    """One closed contour for each loop, in the samples' coordinates and direction.

    Parameters
    ----------
    trust_samples : whether the tolerance holds even where noise hides less.

    Raises
    ------
    Nothing for any finite samples: what fits nothing better ends as short lines.
    """
    if not len(loops.counts):
        return []
    if not trust_samples:
        settings = settings.for_noise(sample_noise(loops))
    contours: list[Contour | None] = [None] * len(loops.counts)
    rest = (
        _whole_circles(loops, settings, contours)
        if settings.circles
        else np.arange(len(loops.counts))
    )
    if rest.size:
        for k, contour in zip(rest.tolist(), _fit_rest(_only(loops, rest), settings), strict=True):
            contours[k] = contour
    return [contour for contour in contours if contour is not None]


def fit_chains(
    chains: Loops, settings: FitSettings, starts: Points | None = None, ends: Points | None = None
) -> list[Contour]:
    """One open contour for each open chain of samples.

    Parameters
    ----------
    chains : from ``resampled_open``; at least three samples to a chain.
    starts, ends : (k, 2) where each contour is to begin and end exactly; by default where its own
    first and last span do.
    """
    if not len(chains.counts):
        return []
    settings = settings.for_noise(sample_noise(chains))
    loops = chains.as_open()
    sharp = confirmed_corners(
        chains, sharp_turns(chains, settings.corner_reach, settings.corner_degrees), settings.blur
    )
    place = np.arange(len(loops.points)) - loops.firsts[loops.owner]
    near_end = (
        np.minimum(place, loops.counts[loops.owner] - 1 - place) < settings.corner_reach
    )  # there the turn was seen round the end
    sharp &= ~near_end
    sharp[loops.firsts] = sharp[loops.lasts] = True
    pieces = first_pieces(loops, sharp, _runs(loops, Moments(loops), sharp, settings), settings)
    begins = np.searchsorted(pieces.loop, np.arange(len(chains.counts)))
    finals = np.append(begins[1:], len(pieces)) - 1
    starts = pieces.starts[begins] if starts is None else starts
    ends = pieces.ends[finals] if ends is None else ends
    pieces = _with_ends(place_breaks(pieces, loops, settings), begins, finals, starts, ends)
    pieces = _with_ends(with_fillets(pieces, loops, settings), begins, finals, starts, ends)
    return _contours(filled(pieces, loops, settings), len(chains.counts), closed=False)


def _with_ends(pieces: Pieces, begins: Ints, finals: Ints, starts: Points, ends: Points) -> Pieces:
    """Pieces of open chains whose first and last ends are given."""
    first, last = pieces.starts.copy(), pieces.ends.copy()
    first[begins], last[finals] = starts, ends
    return replace(pieces, starts=first, ends=last)


def _only(loops: Loops, index: Ints) -> Loops:
    keep = np.zeros(len(loops.counts), dtype=bool)
    keep[index] = True
    counts = loops.counts[index]
    return Loops(
        kept(loops.points, np.repeat(keep, loops.counts)), np.cumsum(counts) - counts, counts
    )


def _whole_circles(loops: Loops, settings: FitSettings, contours: list[Contour | None]) -> Ints:
    """Puts a circle in the place of every loop that one fits; returns the loops that are left."""
    ahead = np.roll(loops.points, -1, axis=0)
    ahead[loops.firsts + loops.counts - 1] = loops.points[loops.firsts]
    turning = np.add.reduceat(crosses(loops.points, ahead), loops.firsts)
    extent = np.maximum.reduceat(loops.points, loops.firsts) - np.minimum.reduceat(
        loops.points, loops.firsts
    )
    as_wide_as_high = (
        np.abs(extent[:, 0] - extent[:, 1])
        <= 0.1 * extent.max(axis=1) + 2 * settings.tolerance + 6 * settings.noise
    )
    length = np.add.reduceat(norms(ahead - loops.points), loops.firsts)
    round_enough = np.flatnonzero(
        (np.abs(turning) * 2 * np.pi > _ROUND * length**2) & (loops.counts >= 10) & as_wide_as_high
    )
    taken = np.zeros(len(loops.counts), dtype=bool)
    if round_enough.size:
        some = _only(loops, round_enough)
        centre, radius, worst = fit_circles(
            Intervals(some.points, some.owner, some.firsts, some.counts)
        )
        limit = np.minimum(settings.tolerance + 2 * settings.noise, 0.06 * radius + 0.1)
        for n in np.flatnonzero(np.isfinite(radius) & (worst <= limit)).tolist():
            k = int(round_enough[n])
            circle = Contour.circle(float(centre[n, 0]), float(centre[n, 1]), float(radius[n]))
            contours[k] = circle if turning[k] > 0 else circle.reversed()
            taken[k] = True
    return np.flatnonzero(~taken)


def _fit_rest(loops: Loops, settings: FitSettings) -> list[Contour]:
    sharp = confirmed_corners(
        loops, sharp_turns(loops, settings.corner_reach, settings.corner_degrees), settings.blur
    )
    unrolled = loops.unrolled(_good_begins(loops, sharp, settings))
    corner = sharp[unrolled.source]
    moments = Moments(unrolled)
    runs = _with_seams(_runs(unrolled, moments, corner, settings), unrolled, moments, corner)
    pieces = place_breaks(first_pieces(unrolled, corner, runs, settings), unrolled, settings)
    pieces = filled(with_fillets(pieces, unrolled, settings), unrolled, settings)
    return _contours(_without_seams(pieces), len(loops.counts))


def _with_seams(
    runs: StraightRuns, loops: Unrolled, moments: Moments, corner: Bools
) -> StraightRuns:
    """Where a loop begins in the middle of a straight run, both parts of that run get the line of
    the whole."""
    if not len(runs.first):
        return runs
    owner = loops.owner[runs.first]
    begins = np.flatnonzero((runs.first <= loops.firsts[owner] + 2) & ~corner[loops.firsts[owner]])
    ends = np.flatnonzero(runs.last >= loops.lasts[owner] - 2)
    both = np.intersect1d(owner[begins], owner[ends])
    head, tail = begins[np.isin(owner[begins], both)], ends[np.isin(owner[ends], both)]
    head, tail = head[head != tail], tail[head != tail]
    first, last, middle, direction = (
        runs.first.copy(),
        runs.last.copy(),
        runs.middle.copy(),
        runs.direction.copy(),
    )
    first[head], last[tail] = loops.firsts[owner[head]], loops.lasts[owner[tail]]
    line, along, _ = moments.line_of_two(first[head], last[head], first[tail], last[tail])
    along = np.where((dots(along, direction[head]) < 0)[:, None], -along, along)
    middle[head] = middle[tail] = line
    direction[head] = direction[tail] = along
    return StraightRuns(first, last, middle, direction)


def _without_seams(pieces: Pieces) -> Pieces:
    """The two parts of a straight run in which a loop begins become one line."""
    begins = np.flatnonzero(np.append(True, pieces.loop[1:] != pieces.loop[:-1]))
    ends = np.append(begins[1:], len(pieces)) - 1
    same = (pieces.leave[begins] == pieces.leave[ends]).all(axis=1)
    seam = (pieces.kind[begins] == LINE) & (pieces.kind[ends] == LINE) & same & (ends - begins >= 2)
    finals = pieces.ends.copy()
    finals[ends[seam]] = pieces.ends[begins[seam]]
    keep = np.ones(len(pieces), dtype=bool)
    keep[begins[seam]] = False
    return replace(pieces, ends=finals).take(keep)


def _runs(
    unrolled: Unrolled, moments: Moments, corner: Bools, settings: FitSettings
) -> StraightRuns:
    return straight_runs(
        unrolled,
        moments,
        _next_stop(unrolled, corner),
        settings.straight_rms,
        settings.straight_least,
        settings.straight_bow,
    )


def _good_begins(loops: Loops, sharp: Bools, settings: FitSettings) -> Ints:
    """For each loop a sample to begin at: a corner, else the middle of its longest straight run,
    else its flattest place."""
    begins = near_true(sharp, loops.firsts, loops.counts)
    smooth = np.flatnonzero(~sharp[begins])
    if not smooth.size:
        return begins
    some = _only(loops, smooth)
    part = Intervals(some.points, some.owner, some.firsts, some.counts)
    bend = np.abs(turns(some, 2 * settings.corner_reach))
    begins[smooth] = loops.firsts[smooth] + part.greatest(-bend)[1]
    unrolled = some.unrolled(some.firsts + part.greatest(bend)[1])
    runs = _runs(unrolled, Moments(unrolled), np.zeros(len(unrolled.points), dtype=bool), settings)
    order = np.argsort(runs.last - runs.first, kind="stable")
    loop = unrolled.owner[runs.last[order]]
    middle = (runs.first[order] + runs.last[order]) // 2
    begins[smooth[loop]] = loops.firsts[smooth[loop]] + unrolled.source[middle] - some.firsts[loop]
    return begins


def sample_noise(loops: Loops) -> float:
    """How far samples stray from the smooth line (standard deviation), from third differences of
    the calmest quarter of them: elsewhere the line may bend or turn."""
    if len(loops.points) > _ENOUGH_FOR_NOISE:  # whole loops, taken evenly
        share = -(-len(loops.points) // _ENOUGH_FOR_NOISE)
        loops = _only(loops, np.arange(0, len(loops.counts), share))
    p = loops.points
    second, first, last, second_last = (rows(p, loops.beside(offset)) for offset in (2, 1, -1, -2))
    along = second - second_last
    across = crosses(along - 2 * (first - last), along) / np.maximum(norms(along), 1e-9)
    return float(np.quantile(np.abs(across), 0.25) / _QUARTER / np.sqrt(10.0))


def _next_stop(loops: Unrolled, corner: Bools) -> Ints:
    """(n,) for each sample the next corner or end of its loop."""
    stop = corner.copy()
    stop[loops.lasts] = True
    at = np.flatnonzero(stop)
    following = np.repeat(np.append(at, len(stop)), np.diff(at, prepend=0, append=len(stop)))
    following[loops.lasts] = loops.lasts
    return following


def _contours(pieces: Pieces, count: int, *, closed: bool = True) -> list[Contour]:
    begins = np.searchsorted(pieces.loop, np.arange(count + 1))
    if closed:
        return Contour.many(pieces.starts, pieces.kind, pieces.bulge, pieces.handles, begins)
    return [
        Contour.make(
            np.vstack([pieces.starts[a:b], pieces.ends[b - 1 : b]]),
            pieces.kind[a:b],
            pieces.bulge[a:b],
            pieces.handles[a:b],
            closed=False,
        )
        for a, b in zip(begins[:-1].tolist(), begins[1:].tolist(), strict=True)
    ]
